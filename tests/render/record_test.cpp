// Recording: what is written, in which order, and what a cancelled one leaves.
#include "core/project/store.h"
#include "preview/recorder.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Recording : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        // Brightness runs with time.
        const Id wave = add(project, "wave", {{"frequency", Value::number(1)}}, {{"shape", "saw"}});
        channel(project, {wave, "out", ""}, "base_color");
        SurfaceSettings s = masterOf(project).surface;
        s.unlit = true;
        project = *edit::setSurface(project, "m", s);
        request.specimens = {0};
        request.width = request.height = 48;
        request.from = 0;
        request.to = 1;
        request.framesPerSecond = 8;
    }
    Result<std::vector<std::string>> run(const Work& work = {}) {
        return record(Gl::renderer(), project, assets, looks, lights, request, work);
    }
    size_t count() const { return size_t(std::distance(fs::directory_iterator(folder), fs::directory_iterator{})); }

    Project project = bareProject();
    Assets assets;
    LookCache looks;
    LightLibrary lights;
    RecordRequest request;
};

TEST_F(Recording, FramesAreInTheirOrderAndTheLastLiesBeforeTheEnd) {
    request.path = folder / "frames";
    const auto files = run();
    ASSERT_TRUE(files) << files.error().sentence;
    ASSERT_EQ(files->size(), 8u);
    int last = -1;
    for (const std::string& file : *files) {
        const auto picture = readScreenPicture(file);
        ASSERT_TRUE(picture);
        const int now = picture->rgba[size_t((24 * 48 + 24) * 4)];
        EXPECT_GT(now, last) << file;
        last = now;
    }
    EXPECT_LT(last, 250) << "the end is the beginning of the next round";
}

TEST_F(Recording, ACancelledOneSaysSoAndLeavesNoHalfFile) {
    for (const auto kind : {RecordRequest::Kind::Animated, RecordRequest::Kind::Sheet}) {
        request.kind = kind;
        request.path = folder / (kind == RecordRequest::Kind::Sheet ? "out.png" : "out.webp");
        std::atomic<bool> stop = false;
        int told = 0;
        const auto stopped = run({0, &stop, [&](float) { stop = ++told >= 3; }});
        ASSERT_FALSE(stopped);
        EXPECT_EQ(stopped.error().code, "record.cancelled");
        EXPECT_EQ(told, 3) << "in its middle";
        EXPECT_EQ(count(), 0u);
        ASSERT_TRUE(run()) << "and it can be recorded again";
        EXPECT_EQ(count(), 1u);
        fs::remove(request.path);
    }
}

TEST_F(Recording, RefusesRangesAndSpecimensThatAreNone) {
    request.path = folder / "frames";
    request.to = 0;
    EXPECT_EQ(run().error().code, "record.range");
    request.to = 1;
    request.specimens = {4};
    EXPECT_EQ(run().error().code, "record.range");
    request.specimens = {0};
    request.framesPerSecond = 0;
    EXPECT_EQ(run().error().code, "record.range");
}

} // namespace
} // namespace hue
