// Rules that stay live below what the hand has painted.
#include "core/edits/edits.h"
#include "core/mesh/paint_data.h"
#include "core/paint/carry_over.h"
#include "core/paint/finer_mesh.h"
#include "core/paint/live_rules.h"
#include "core/project/merge.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

constexpr const char* kBall = "shape:sphere/2";

/// A ball that wears the master "m", which reads the first channel, with a constant card titled "Level" beside it.
struct Ball {
    Project p = bareProject();
    Assets assets;
    Id level, read;
    Ball() {
        read = add(p, "painted");
        channel(p, {read, "out", ""}, "roughness");
        level = add(p, "constant", {{"value", Value::number(0.25f)}});
        p = *edit::renameNode(p, "m", level, "Level");
        p.lineup.specimens = {Specimen{.mesh = kBall, .wears = {"m"}}};
        Paintwork w;
        w.id = "w", w.name = "Ball", w.mesh = kBall, w.paint = std::make_shared<PaintData>(shapeById(kBall), 16);
        p = *edit::addPaintwork(p, w);
        p = *edit::wearPaintwork(p, 0, "w");
    }
    const PaintData& paint() const { return *p.paintwork("w")->paint; }
    void rules(int channel, std::vector<std::string> words) { p = *edit::setLiveRules(p, "w", {channel, std::move(words), {}}); }
    /// How many channels were reckoned.
    size_t follow() {
        const LivePaint live = reckonLive(p, assets, {});
        for (const UnreckonedRules& f : live.failures) ADD_FAILURE() << f.error.sentence;
        p = withLive(p, live);
        return live.channels.size();
    }
    void hand(int channel, uint32_t vertex, float value) {
        const float values[] = {value};
        p = *edit::setPaint(p, "w", std::make_shared<PaintData>(paint().with(channel, std::span(&vertex, 1), values)));
    }
    void setLevel(float x) { p = *edit::setConstant(p, "m", level, "value", Value::number(x)); }
};

TEST(LiveRules, LetTheHandKeepWhatItHasMade) {
    // Untouched follows; 0 and 1 stay; in between the share stays that it went.
    for (const float was : {0.f, 0.2f, 0.7f, 1.f})
        for (const float is : {0.f, 0.4f, 1.f}) {
            EXPECT_FLOAT_EQ(handOver(was, was, is), is);
            // Where the rules gave an end already, the hand cannot be told from them.
            EXPECT_FLOAT_EQ(handOver(1, was, is), was < 1 ? 1 : is) << was << " " << is;
            EXPECT_FLOAT_EQ(handOver(0, was, is), was > 0 ? 0 : is) << was << " " << is;
        }
    EXPECT_FLOAT_EQ(handOver(0.6f, 0.2f, 0.8f), 0.9f) << "half the way to 1";
    EXPECT_FLOAT_EQ(handOver(0.1f, 0.2f, 0.8f), 0.4f) << "half of it";
    // There and back, where nothing is lost at an end; never out of range; more paint is never less.
    for (float was = 0.1f; was < 1; was += 0.2f)
        for (float is = 0.1f; is < 1; is += 0.2f) {
            float last = -1;
            for (float painted = 0; painted <= 1; painted += 0.05f) {
                const float now = handOver(painted, was, is);
                EXPECT_GE(now, 0);
                EXPECT_LE(now, 1);
                EXPECT_GE(now, last);
                EXPECT_NEAR(handOver(now, is, was), painted, 1e-5f);
                last = now;
            }
        }
}

TEST(LiveRules, FollowAWireBelowTheHandsPaint) {
    Ball b;
    b.rules(0, {"wire Level", "height -1..1 multiply"});
    EXPECT_EQ(b.follow(), 1u);
    const std::vector<Vertex>& at = shapeById(kBall)->vertices;
    const auto rule = [&](uint32_t v, float level) { return level * (at[v].position[1] + 1) / 2; };
    for (uint32_t v = 0; v < at.size(); ++v) ASSERT_NEAR(b.paint().value(0, v), rule(v, 0.25f), 1e-4f) << v;
    EXPECT_EQ(b.follow(), 0u) << "nothing has changed";
    b.hand(0, 5, 1);
    b.hand(0, 9, 0);
    const float before = rule(20, 0.25f), half = before + (1 - before) / 2;
    b.hand(0, 20, half);
    EXPECT_EQ(b.follow(), 0u) << "a stroke is no reason";
    b.setLevel(0.75f);
    EXPECT_EQ(b.follow(), 1u);
    for (uint32_t v = 0; v < at.size(); ++v) {
        const float is = rule(v, 0.75f), expected = v == 5 ? 1 : v == 9 ? 0 : v == 20 ? is + (1 - is) / 2 : is;
        ASSERT_NEAR(b.paint().value(0, v), expected, 2e-4f) << v;
    }
    // Other rules, and none: what is seen then stays, as if it had been painted.
    b.rules(0, {"constant 0.5"});
    EXPECT_EQ(b.follow(), 1u);
    EXPECT_NEAR(b.paint().value(0, 3), 0.5f, 1e-4f);
    EXPECT_EQ(b.paint().value(0, 5), 1);
    b.rules(0, {});
    EXPECT_TRUE(b.p.paintwork("w")->live.empty());
    EXPECT_FALSE(b.paint().isPainted(PaintData::under(0)));
    EXPECT_NEAR(b.paint().value(0, 3), 0.5f, 1e-4f);
    EXPECT_EQ(b.follow(), 0u);
}

TEST(LiveRules, AreReckonedAgainOverPaintThatIsOlderThanTheyAre) {
    Ball b;
    b.rules(0, {"constant 0.25"});
    b.follow();
    const PaintDataPtr old = b.p.paintwork("w")->paint;
    b.rules(0, {"constant 0.5"});
    b.follow();
    // As a stroke does that was begun before.
    b.p = *edit::setPaint(b.p, "w", old);
    EXPECT_EQ(b.follow(), 1u);
    EXPECT_NEAR(b.paint().value(0, 7), 0.5f, 1e-4f);
}

TEST(LiveRules, SeePaintBelowThemAndGoInNoCircles) {
    Ball b;
    const Id first = add(b.p, "painted"), second = add(b.p, "painted", {}, {{"channel", "2"}});
    b.p = *edit::renameNode(b.p, "m", first, "First");
    b.p = *edit::renameNode(b.p, "m", second, "Second");
    b.rules(0, {"wire Second", "constant 0.5 add"});
    b.rules(1, {"wire First", "invert"});
    EXPECT_EQ(b.follow(), 2u);
    EXPECT_NEAR(b.paint().value(0, 3), 0.5f, 1e-4f) << "of a live channel above it, nothing";
    EXPECT_NEAR(b.paint().value(1, 3), 0.5f, 1e-4f) << "what was reckoned just now";
    EXPECT_EQ(b.follow(), 0u);
    // By hand at one place of the lower channel: the upper follows there.
    b.hand(0, 3, 1);
    EXPECT_EQ(b.follow(), 1u);
    EXPECT_NEAR(b.paint().value(1, 3), 0, 1e-4f);
    EXPECT_NEAR(b.paint().value(1, 4), 0.5f, 1e-4f);
    EXPECT_EQ(b.follow(), 0u);
    // Its own channel it never sees.
    b.rules(1, {"wire Second", "constant 0.1 add"});
    for (int k = 0; k < 3; ++k) EXPECT_EQ(b.follow(), k == 0 ? 1u : 0u);
    EXPECT_NEAR(b.paint().value(1, 4), 0.1f, 1e-4f);
}

TEST(LiveRules, FollowAMeshThatIsMadeFiner) {
    Ball b;
    b.rules(0, {"height 0..1"});
    b.follow();
    b.hand(0, 9, 0.5f);
    const Result<FinerMesh> finer = finerMesh(b.p, b.assets, 0);
    ASSERT_TRUE(finer) << finer.error().sentence;
    b.p = finer->project;
    EXPECT_TRUE(b.paint().isPainted(PaintData::under(0))) << "what lies under the hand is carried over too";
    EXPECT_EQ(b.follow(), 1u);
    const std::vector<Vertex>& at = b.paint().surface()->vertices;
    size_t exact = 0;
    for (uint32_t v = 0; v < at.size(); ++v) exact += std::fabs(b.paint().value(0, v) - std::clamp(at[v].position[1], 0.f, 1.f)) < 1e-3f;
    EXPECT_GT(exact, at.size() * 95 / 100) << "on the finer shape, but for where the hand was";
    EXPECT_LT(exact, at.size());
}

// Somebody changes the rules while somebody else paints: both is there when it has been reckoned.
TEST(LiveRules, AreBroughtTogetherWithAnothersStrokes) {
    Ball base;
    base.rules(0, {"constant 0.25"});
    base.follow();
    Ball ours, theirs, at;
    ours.p = theirs.p = base.p;
    ours.hand(0, 5, 1);
    theirs.rules(0, {"constant 0.5"});
    theirs.follow();
    for (const bool mineFirst : {true, false}) {
        const auto both = merged(base.p, mineFirst ? ours.p : theirs.p, mineFirst ? theirs.p : ours.p);
        ASSERT_TRUE(both) << both.error().sentence;
        at.p = both->project;
        at.follow();
        EXPECT_EQ(at.p.paintwork("w")->liveOf(0)->rules, std::vector<std::string>{"constant 0.5"});
        EXPECT_NEAR(at.paint().value(0, 3), 0.5f, 1e-4f);
        if (mineFirst) {
            EXPECT_EQ(at.paint().value(0, 5), 1) << "the paint of the first is kept";
        }
        EXPECT_FALSE(both->conflicts.empty()) << "two wrote the paint, which is said";
    }
}

TEST(LiveRules, ThatCannotBeReckonedLeaveThePaintAsItIs) {
    Ball b;
    b.rules(0, {"constant 0.5"});
    b.follow();
    b.rules(0, {"hieght 0..1"});
    b.rules(1, {"wire Nobody"});
    b.rules(2, {"constant 0.75"});
    LivePaint live = reckonLive(b.p, b.assets, {});
    ASSERT_EQ(live.failures.size(), 2u);
    EXPECT_EQ(codesOf(livePaintProblems(b.p, b.assets)), (std::vector<std::string>{"paint.rule", "paint.wire", "paint.stale"}));
    EXPECT_EQ(live.failures[0].error.code, "paint.rule");
    EXPECT_EQ(live.failures[1].error.code, "paint.wire");
    EXPECT_EQ(live.failureOf("w", 1)->code, "paint.wire");
    EXPECT_FALSE(live.failureOf("w", 2));
    EXPECT_EQ(live.channels.size(), 1u) << "one that fails holds up no other";
    b.p = withLive(b.p, live);
    EXPECT_EQ(codesOf(livePaintProblems(b.p, b.assets)), (std::vector<std::string>{"paint.rule", "paint.wire"})) << "told until it was reckoned";
    EXPECT_NEAR(b.paint().value(0, 3), 0.5f, 1e-4f);
    EXPECT_NEAR(b.paint().value(2, 3), 0.75f, 1e-4f);
    b.rules(0, {}), b.rules(1, {"wire Level"});
    b.p = *edit::wearPaintwork(b.p, 0, {});
    live = reckonLive(b.p, b.assets, {});
    ASSERT_EQ(live.failures.size(), 1u);
    EXPECT_NE(live.failures[0].error.sentence.find("No specimen wears the paintwork Ball"), std::string::npos) << live.failures[0].error.sentence;
    std::atomic<bool> cancelled = true;
    Work work;
    work.cancelled = &cancelled;
    EXPECT_TRUE(reckonLive(b.p, b.assets, work).stopped);
    EXPECT_EQ(edit::setLiveRules(b.p, "w", {8, {"invert"}, {}}).error().code, "edit.no-channel");
    EXPECT_EQ(edit::setLiveRules(b.p, "gone", {0, {"invert"}, {}}).error().code, "edit.no-paintwork");
}

class LiveRuleFiles : public InFolder {};

TEST_F(LiveRuleFiles, ComeBackWithWhatLiesUnderTheHand) {
    Ball b;
    b.rules(0, {"height 0..1", "noise 0.2 multiply"});
    b.rules(5, {"constant 0.5"});
    b.follow();
    b.hand(0, 9, 1);
    const std::string file = (folder / "depot.huestack").string();
    ASSERT_TRUE(saveProject(b.p, file));
    auto back = loadProject(file);
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->report.empty());
    const Paintwork& w = *back->project.paintwork("w");
    ASSERT_EQ(w.live.size(), 2u);
    EXPECT_EQ(w.liveOf(5)->rules, std::vector<std::string>{"constant 0.5"});
    EXPECT_EQ(w.paint->fingerprint(), b.paint().fingerprint());
    for (size_t v = 0; v < w.paint->vertices(); ++v)
        ASSERT_EQ(w.paint->value(PaintData::under(0), v), b.paint().value(PaintData::under(0), v));
    b.p = back->project;
    EXPECT_EQ(b.follow(), 0u) << "it was reckoned before";
    // Any reader sees the colors; what is ours has a name of its own.
    const Glb glb(folder / w.path);
    EXPECT_TRUE(glb.has("COLOR_0") && glb.has("COLOR_1") && glb.has("_UNDER_0") && glb.has("_UNDER_1"));
    EXPECT_NEAR(glb.colors("COLOR_0")[9][0], 1, 1e-6f);
    EXPECT_NEAR(glb.colors("_UNDER_1")[9][1], 0.5f, 1e-4f);
    // Without rules a file has nothing of the kind, and its paint is told by what it always was.
    Ball plain;
    plain.hand(0, 9, 1);
    ASSERT_TRUE(saveProject(plain.p, folder / "plain.huestack"));
    EXPECT_FALSE(Glb(folder / plain.p.paintwork("w")->path).has("_UNDER_0"));
    Ball cleared;
    cleared.rules(0, {"constant 0.5"});
    cleared.follow();
    cleared.rules(0, {});
    cleared.p = *edit::setPaint(cleared.p, "w", std::make_shared<PaintData>(cleared.paint().without(0)));
    cleared.hand(0, 9, 1);
    EXPECT_EQ(cleared.paint().fingerprint(), plain.paint().fingerprint());
}

TEST_F(LiveRuleFiles, AreKeptAndFollowOnTheCommandLine) {
    Ball b;
    const std::string file = (folder / "depot.huestack").string();
    ASSERT_TRUE(saveProject(b.p, file));
    const auto value = [&](uint32_t v) { return loadProject(file)->project.paintwork("w")->paint->value(0, v); };
    const auto run = runHsk("paint " + file + " --paintwork Ball --live --rule \"wire Level\"");
    ASSERT_EQ(run.code, 0) << run.output;
    EXPECT_NE(run.output.find("live below: wire Level"), std::string::npos) << run.output;
    EXPECT_NEAR(value(4), 0.25f, 1e-4f);
    b.p = loadProject(file)->project;
    b.setLevel(0.5f);
    ASSERT_TRUE(saveProject(b.p, file));
    const auto remade = runHsk("remake " + file);
    EXPECT_EQ(remade.code, 0) << remade.output;
    EXPECT_NE(remade.output.find("Ball, channel 1"), std::string::npos) << remade.output;
    EXPECT_NEAR(value(4), 0.5f, 1e-4f);
    EXPECT_EQ(runHsk("remake " + file).output, "") << "nothing to do";
    const std::string held = contentOf(file);
    EXPECT_EQ(runHsk("paint " + file + " --paintwork Ball --live --rule \"wire Nobody\"").code, 2);
    EXPECT_EQ(runHsk("paint " + file + " --mesh sphere --live --rule invert").code, 2) << "where would it be kept?";
    EXPECT_EQ(runHsk("paint " + file + " --paintwork Ball --live --of M --rule \"wire Level\"").code, 2) << "whose wires is settled";
    EXPECT_EQ(contentOf(file), held);
    ASSERT_EQ(runHsk("paint " + file + " --paintwork Ball --live").code, 0);
    EXPECT_TRUE(loadProject(file)->project.paintwork("w")->live.empty());
    EXPECT_NEAR(value(4), 0.5f, 1e-4f) << "what is seen stays";
}

} // namespace
} // namespace hue
