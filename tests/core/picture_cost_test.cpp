// Pixels of a picture are counted as they are shaded: once where something solid is, as often as it lies behind itself where it is not.
#include "core/picture/picture_cost.h"

#include "core/budget/verdict.h"
#include "core/mesh/things.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace hue {
namespace {

using namespace test;

struct Shown {
    Project p = bareProject();
    Assets assets;
    LookCache looks;
    Shown() {
        const Id noise = add(p, "noise_2d");
        channel(p, {noise, "out", ""}, "roughness");
        p.lineup.specimens = {Specimen{}};
        p.lineup.specimens[0].wears = {"m"};
    }
    void surface(AlphaMode mode, bool doubleSided) {
        SurfaceSettings s = masterOf(p).surface;
        s.alphaMode = mode, s.doubleSided = doubleSided;
        p = *edit::setSurface(p, "m", s);
    }
    ShadedSlot counted(int width = 320, int height = 200) {
        const auto all = pictureCost(p, assets, looks, width, height);
        EXPECT_TRUE(all);
        EXPECT_EQ(all->size(), 1u);
        return all->at(0);
    }
};

TEST(PictureCost, ASphereIsShadedOnceAndASeeThroughOneTwice) {
    Shown s;
    const ShadedSlot solid = s.counted();
    EXPECT_GT(solid.covered, 5000u);
    EXPECT_EQ(solid.shaded, solid.covered);
    EXPECT_EQ(solid.operations, verdictOf(s.p, "m", shippedTargets()[0], {}).cost.operationsPerPixel());
    EXPECT_DOUBLE_EQ(solid.allOperations(), double(solid.covered) * solid.operations);
    // Half as wide and high a picture has a quarter of the pixels.
    EXPECT_NEAR(double(s.counted(160, 100).covered) * 4 / double(solid.covered), 1, 0.03);
    s.surface(AlphaMode::Blend, false);
    EXPECT_NEAR(s.counted().overdraw(), 1, 1e-9) << "backs are not drawn";
    s.surface(AlphaMode::Blend, true);
    const ShadedSlot both = s.counted();
    EXPECT_NEAR(both.overdraw(), 2, 0.02) << "front and back of a convex thing";
    EXPECT_NEAR(double(both.covered), double(solid.covered), double(solid.covered) * 0.01);
    s.surface(AlphaMode::Mask, true);
    EXPECT_NEAR(s.counted().overdraw(), 2, 0.02) << "what is cut out is computed before it is thrown away";
}

TEST(PictureCost, CopiesBehindEachOtherAddUp) {
    Shown s;
    s.surface(AlphaMode::Blend, false);
    s.p.lineup.specimens[0].mesh = "shape:plane";
    EXPECT_NEAR(s.counted().overdraw(), 1, 1e-9);
    // Planes one above the other, seen from above.
    Placements stack;
    stack.count = 4;
    stack.spacing = 0.1f;
    stack.lift = 0.6f;
    s.p.lineup.specimens[0].placements = stack;
    const ShadedSlot four = s.counted();
    EXPECT_GT(four.overdraw(), 1.2);
    EXPECT_LE(four.overdraw(), 4);
    // Solid ones hide each other.
    s.surface(AlphaMode::Opaque, false);
    EXPECT_DOUBLE_EQ(s.counted().overdraw(), 1);
}

TEST(PictureCost, WhatSomethingSolidHidesIsNotShaded) {
    Shown s;
    s.surface(AlphaMode::Blend, true);
    const ShadedSlot free = s.counted();
    // A solid thing inside of the sphere hides a part of its far side, and none of its near one.
    Thing inside;
    inside.kind = "bolt";
    inside.size = 1;
    s.p.lineup.specimens[0].things = {inside};
    const ShadedSlot filled = s.counted();
    EXPECT_NEAR(double(filled.covered) / double(free.covered), 1, 0.2);
    EXPECT_LT(filled.overdraw(), free.overdraw() - 0.05);
    EXPECT_GT(filled.overdraw(), 1);
}

TEST(PictureCost, HoldsOverdrawAgainstTheTarget) {
    Shown s;
    s.surface(AlphaMode::Blend, true);
    const std::vector<ShadedSlot> slots{s.counted()};
    Target target;
    target.limits.overdraw = 1.5f;
    Overdrawn most = mostOverdrawn(slots, target);
    ASSERT_EQ(most.slot, slots.data());
    EXPECT_TRUE(most.against.over());
    target.limits.overdraw = 2.5f;
    EXPECT_FALSE(mostOverdrawn(slots, target).against.over());
    s.surface(AlphaMode::Opaque, true);
    EXPECT_EQ(mostOverdrawn({s.counted()}, target).slot, nullptr) << "solid surfaces are no overdraw";
    for (const Target& t : shippedTargets()) EXPECT_GT(t.limits.overdraw, 1) << t.key;
}

TEST(PictureCost, SaysWhatIsNoSize) {
    EXPECT_EQ(*pictureSize("1920x1080"), std::pair(1920, 1080));
    for (const char* bad : {"", "1920", "x", "0x10", "10x", "-5x5", "10x10x10", "wide"}) {
        const auto size = pictureSize(bad);
        ASSERT_FALSE(size) << bad;
        EXPECT_EQ(size.error().code, "picture.size");
    }
    Shown s;
    EXPECT_EQ(pictureCost(s.p, s.assets, s.looks, 100000, 10).error().code, "render.size");
    std::atomic<bool> stop = true;
    Work work;
    work.cancelled = &stop;
    EXPECT_EQ(pictureCost(s.p, s.assets, s.looks, 100, 100, 0, {}, work).error().code, "stopped");
}

TEST(BudgetCommand, TellsWhatAPictureCosts) {
    const Ran ran = runHsk("budget " + depotFile() + " --of 'Rainy window' --picture 320x180 --json");
    const auto j = nlohmann::json::parse(ran.output, nullptr, false);
    ASSERT_FALSE(j.is_discarded()) << ran.output.substr(0, 300);
    ASSERT_TRUE(j.contains("picture"));
    EXPECT_EQ(j["picture"]["width"], 320);
    ASSERT_FALSE(j["picture"]["slots"].empty());
    for (const auto& slot : j["picture"]["slots"]) {
        EXPECT_LE(slot["covered"].get<size_t>(), size_t(320 * 180));
        EXPECT_GE(slot["shaded"].get<size_t>(), slot["covered"].get<size_t>());
    }
    const Ran bad = runHsk("budget " + depotFile() + " --picture large");
    EXPECT_NE(bad.code, 0);
    EXPECT_NE(bad.output.find("1920x1080"), std::string::npos) << bad.output;
}

} // namespace
} // namespace hue
