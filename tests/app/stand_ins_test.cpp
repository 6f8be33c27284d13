// Pictures that stand in for a driver that takes its time.
#include "app/lineup/stand_ins.h"

#include "app/lineup/specimen_view.h"
#include "preview/lineup_pictures.h"
#include "tests/app/app_fixture.h"
#include "tests/test_graphs.h"

namespace hue {
namespace {

using namespace test;

class StandInsTest : public testing::Test {
  protected:
    struct Got {
        int place;
        quint64 serial;
        int width;
    };
    std::mutex mutex;
    std::vector<Got> got;
    std::string problem;
    StandIns standIns{[this](int place, const PictureRequest& request, const Result<RenderedPicture>& picture, bool) {
        const std::lock_guard lock(mutex);
        got.push_back({place, request.serial, picture ? picture->width : 0});
        if (!picture) problem = picture.error().sentence;
    }};
    ProjectFilesPtr files = std::make_shared<ProjectFiles>();
    Snapshot snapshot = std::make_shared<Project>(bareProject());

    PictureRequest request(quint64 serial, int width = 80) const {
        PictureRequest r;
        r.files = files;
        r.snapshot = snapshot;
        r.specimen = snapshot->lineup.specimens[0];
        r.settings.width = width;
        r.settings.height = 30;
        r.serial = serial;
        return r;
    }
    std::vector<Got> delivered() {
        const std::lock_guard lock(mutex);
        return got;
    }
    bool delivers(size_t count) {
        return waitFor([&] { return delivered().size() >= count; }, 120000);
    }
};

TEST_F(StandInsTest, ComeAtOnceUntilTheDriverHasDrawnItsFirst) {
    standIns.want(2, request(1, 84));
    ASSERT_TRUE(delivers(1));
    EXPECT_EQ(delivered()[0].place, 2);
    EXPECT_EQ(delivered()[0].serial, 1u);
    EXPECT_EQ(delivered()[0].width, 84);
    standIns.drawn(2, 1);
    standIns.want(2, request(2));
    QTest::qWait(400);
    EXPECT_EQ(delivered().size(), 1u) << "a driver that draws is left to it";
    EXPECT_TRUE(standIns.idle());
}

TEST_F(StandInsTest, ComeAgainWhenTheDriverKeepsItsCallerWaiting) {
    standIns.drawn(0, 1);
    standIns.want(0, request(2));
    standIns.began();
    ASSERT_TRUE(delivers(1)) << "it has not come back for a while";
    EXPECT_EQ(delivered()[0].serial, 2u);
    standIns.ended();
    standIns.drawn(0, 2);
    standIns.want(0, request(3));
    standIns.began();
    standIns.ended();
    standIns.drawn(0, 3);
    QTest::qWait(500);
    EXPECT_EQ(delivered().size(), 1u) << "it was quick again";
}

TEST_F(StandInsTest, StandInForWhatIsLinkedInTheBackground) {
    standIns.drawn(1, 1);
    standIns.want(0, request(2));
    standIns.want(1, request(3));
    standIns.stuck(1);
    ASSERT_TRUE(delivers(1));
    QTest::qWait(100);
    ASSERT_EQ(delivered().size(), 1u);
    EXPECT_EQ(delivered()[0].place, 1) << "the other one will be drawn in a moment";
}

TEST_F(StandInsTest, NeverComeAfterThePictureItself) {
    // However the two race: what is delivered is newer than what the driver has drawn by then.
    for (quint64 serial = 1; serial < 60; ++serial) {
        standIns.want(0, request(serial, 64));
        if (serial % 3 == 0) QTest::qWait(3);
        size_t before = 0;
        standIns.drawn(0, serial);
        before = delivered().size();
        standIns.stuck(0);
        QTest::qWait(2);
        const auto now = delivered();
        for (size_t i = before; i < now.size(); ++i) EXPECT_GT(now[i].serial, serial);
    }
}

TEST_F(StandInsTest, LeaveComparisonsAndChannelsToTheDriver) {
    PictureRequest compared = request(1), channel = request(2);
    compared.yardstick = true;
    channel.settings.view = findView("roughness");
    EXPECT_FALSE(StandIns::drawsIt(compared));
    EXPECT_FALSE(StandIns::drawsIt(channel));
    EXPECT_TRUE(StandIns::drawsIt(request(3)));
    EXPECT_FALSE(StandIns::drawsIt(request(4, 30))) << "a list's pictures wait for the driver";
    standIns.want(0, compared);
    standIns.want(1, channel);
    QTest::qWait(150);
    EXPECT_TRUE(delivered().empty());
}

TEST_F(StandInsTest, SayWhyWhatIsBrokenIsNotDrawn) {
    Project broken = bareProject();
    channel(broken, {add(broken, "texcoord"), "out", ""}, "base_color");
    snapshot = std::make_shared<Project>(broken);
    standIns.want(0, request(1));
    ASSERT_TRUE(delivers(1));
    EXPECT_EQ(delivered()[0].width, 0);
    const std::lock_guard lock(mutex);
    EXPECT_FALSE(problem.empty());
}

TEST_F(StandInsTest, AreForgottenWithTheProject) {
    standIns.drawn(0, 1);
    standIns.want(0, request(2));
    standIns.forget();
    standIns.stuck(0);
    QTest::qWait(150);
    EXPECT_TRUE(delivered().empty());
}

} // namespace
} // namespace hue
