// What the brush leaves, against each vertex reckoned by itself.
#include "core/base/vectors.h"
#include "core/paint/brush.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <set>

namespace hue {
namespace {

MeshPtr made(Mesh mesh) { return std::make_shared<Mesh>(std::move(mesh)); }

/// Straight down onto what lies in XZ.
Ray down(float x, float z) { return {{x, 5, z}, {0, -1, 0}}; }

/// A stroke through points from above.
PaintData stroked(const PaintSurface& surface, const PaintData& paint, const Brush& brush,
                  std::initializer_list<std::array<float, 2>> points, int channel = 0) {
    PaintStroke stroke(surface, paint, channel, brush);
    for (const auto& [x, z] : points) stroke.moveTo(down(x, z));
    return stroke.done();
}

Brush simple(float radius) {
    Brush b;
    b.radius = radius;
    return b;
}

TEST(Brush, ProfileIsFlatInTheMiddleAndFallsSmoothlyToNothing) {
    for (const float soft : {0.f, 0.25f, 1.f}) {
        EXPECT_EQ(brushProfile(0, soft), 1);
        EXPECT_EQ(brushProfile(1, soft), 0);
        EXPECT_EQ(brushProfile(1.5f, soft), 0);
        if (soft < 1) { EXPECT_EQ(brushProfile(1 - soft - 0.01f, soft), 1); }
        for (float d = 0; d < 1; d += 0.01f) EXPECT_GE(brushProfile(d, soft), brushProfile(d + 0.01f, soft));
    }
    EXPECT_NEAR(brushProfile(0.75f, 0.5f), 0.5f, 1e-6f) << "half way down the edge";
    EXPECT_NEAR(brushProfile(0.625f, 0.5f), 0.84375f, 1e-6f) << "3 t^2 - 2 t^3 at three quarters";
}

TEST(Brush, ATouchLeavesTheProfileOverTheDistance) {
    const PaintSurface plane(made(makePlane(40)));
    const PaintData bare(plane.mesh(), 16);
    Brush brush = simple(0.4f);
    brush.weight = 0.8f, brush.softEdge = 0.6f;
    const PaintData painted = stroked(plane, bare, brush, {{0.1f, -0.2f}}, 3);
    size_t reached = 0;
    for (size_t v = 0; v < painted.vertices(); ++v) {
        const Rgb& at = plane.mesh()->vertices[v].position;
        const float expected = 0.8f * brushProfile(std::hypot(at[0] - 0.1f, at[2] + 0.2f) / 0.4f, 0.6f);
        ASSERT_NEAR(painted.value(3, v), expected, 1e-4f);
        reached += expected > 0;
        EXPECT_EQ(painted.value(0, v), 0) << "other channels are left alone";
    }
    const auto hit = plane.rays().hit(down(0.1f, -0.2f));
    EXPECT_EQ(plane.reached(*hit, {0, 1, 0}, brush, bare), reached);
    // Taken away from half, and set to a target.
    const PaintData half = bare.with(3, std::vector<float>(bare.vertices(), 0.5f));
    brush.does = Brush::Does::TakeAway;
    const PaintData less = stroked(plane, half, brush, {{0.1f, -0.2f}}, 3);
    brush.does = Brush::Does::Set, brush.target = 0.25f;
    const PaintData set = stroked(plane, half, brush, {{0.1f, -0.2f}}, 3);
    for (size_t v = 0; v < painted.vertices(); ++v) {
        ASSERT_NEAR(less.value(3, v), std::max(0.f, 0.5f - painted.value(3, v)), 1e-4f);
        ASSERT_NEAR(set.value(3, v), 0.5f - 0.25f * painted.value(3, v), 1e-4f);
    }
}

TEST(Brush, ItDoesNotMatterHowFastTheHandWas) {
    const PaintSurface plane(made(makePlane(40)));
    const PaintData bare(plane.mesh(), 16);
    for (const float buildUp : {0.f, 1.f}) {
        Brush brush = simple(0.2f);
        brush.weight = 0.3f, brush.buildUp = buildUp;
        const PaintData fast = stroked(plane, bare, brush, {{-0.8f, 0.1f}, {0.7f, 0.4f}});
        PaintStroke slow(plane, bare, 0, brush);
        std::mt19937 random(1);
        float t = 0;
        slow.moveTo(down(-0.8f, 0.1f));
        while (t < 1) {
            t = std::min(1.f, t + float(random() % 100) / 4000);
            slow.moveTo(down(-0.8f + 1.5f * t, 0.1f + 0.3f * t));
        }
        const PaintData steady = slow.done();
        for (size_t v = 0; v < bare.vertices(); ++v) ASSERT_NEAR(fast.value(0, v), steady.value(0, v), 2e-3f) << v;
        EXPECT_TRUE(fast.isPainted(0));
    }
    // Past the edges of the mesh and back nothing is left in the air, and nothing hangs.
    const PaintData beyond = stroked(plane, bare, simple(0.2f), {{-3, 0}, {3, 0}, {1e6f, 1e6f}, {0, 3}});
    EXPECT_TRUE(beyond.isPainted(0));
}

TEST(Brush, BuildUpAddsWithEveryPassAndWithoutItOneStrokeIsEven) {
    const PaintSurface plane(made(makePlane(30)));
    const PaintData bare(plane.mesh(), 16);
    Brush brush = simple(0.3f);
    brush.weight = 0.4f;
    const PaintData once = stroked(plane, bare, brush, {{-0.5f, 0}, {0.5f, 0}}),
                    thrice = stroked(plane, bare, brush, {{-0.5f, 0}, {0.5f, 0}, {-0.5f, 0}, {0.5f, 0}});
    for (size_t v = 0; v < bare.vertices(); ++v) {
        // Where it turns around touches lie elsewhere.
        if (std::fabs(plane.mesh()->vertices[v].position[0]) < 0.3f) { ASSERT_NEAR(once.value(0, v), thrice.value(0, v), 0.03f); }
        ASSERT_LE(thrice.value(0, v), 0.4f + 1e-4f);
    }
    brush.buildUp = 1;
    const PaintData built = stroked(plane, bare, brush, {{-0.5f, 0}, {0.5f, 0}, {-0.5f, 0}, {0.5f, 0}});
    const auto channel = built.channel(0);
    EXPECT_GT(*std::max_element(channel.begin(), channel.end()), 0.95f);
    // Two strokes add up in any case: the second begins on what the first has left.
    const PaintData twice = stroked(plane, once, Brush{Brush::Does::Add, 0.3f, 0.4f}, {{-0.5f, 0}, {0.5f, 0}});
    for (size_t v = 0; v < bare.vertices(); ++v) ASSERT_NEAR(twice.value(0, v), std::min(1.f, 2 * once.value(0, v)), 1e-3f);
}

TEST(Brush, ReachesOnlyWhatHangsTogetherAndLooksAtTheViewerUnlessToldOtherwise) {
    // Two sheets, 1 cm apart, that look up; and the sheet's own back.
    Mesh two = makePlane(20);
    const auto count = uint32_t(two.vertices.size());
    const size_t corners = two.indices.size();
    for (uint32_t v = 0; v < count; ++v) {
        Vertex below = two.vertices[v];
        below.position[1] -= 0.01f;
        two.vertices.push_back(below);
    }
    for (uint32_t v = 0; v < count; ++v) {
        Vertex back = two.vertices[v];
        back.position[1] -= 0.02f, back.normal = {0, -1, 0};
        two.vertices.push_back(back);
    }
    for (const uint32_t layer : {1u, 2u})
        for (size_t i = 0; i < corners; ++i) two.indices.push_back(two.indices[i] + layer * count);
    two.slots[0].indexCount = uint32_t(two.indices.size());
    const PaintSurface surface(made(std::move(two)));
    const PaintData bare(surface.mesh());
    const auto layers = [&](bool connected, bool facing) {
        Brush brush = simple(0.3f);
        brush.connected = connected, brush.facing = facing;
        const PaintData painted = stroked(surface, bare, brush, {{0, 0}});
        std::string out;
        for (uint32_t layer = 0; layer < 3; ++layer) {
            bool any = false;
            for (uint32_t v = 0; v < count; ++v) any = any || painted.value(0, layer * count + v) > 0;
            out += any ? 'x' : '-';
        }
        return out;
    };
    EXPECT_EQ(layers(true, true), "x--");
    EXPECT_EQ(layers(false, true), "xx-");
    EXPECT_EQ(layers(false, false), "xxx");
    EXPECT_EQ(layers(true, false), "x--");
}

TEST(Brush, VerticesThatASeamSplitsArePaintedAlike) {
    const PaintSurface cube(made(makeCube(8)));
    const PaintData bare(cube.mesh(), 16);
    Brush brush = simple(0.6f);
    brush.facing = false;
    PaintStroke stroke(cube, bare, 1, brush);
    stroke.moveTo({{3, 3, 3}, {-1, -1, -1}});
    const PaintData painted = stroke.done();
    size_t split = 0;
    for (uint32_t place = 0; place < cube.neighbours().places(); ++place) {
        const auto vertices = cube.verticesOf(place);
        for (const uint32_t v : vertices) ASSERT_EQ(painted.value(1, v), painted.value(1, vertices[0]));
        split += vertices.size() > 1 && painted.value(1, vertices[0]) > 0;
    }
    EXPECT_GT(split, 3u) << "the brush went over an edge";
}

TEST(Brush, MirrorsAboutAnAxis) {
    const PaintSurface sphere(made(makeSphere(32)));
    const PaintData bare(sphere.mesh(), 16);
    for (int axis = 0; axis < 3; ++axis) {
        Brush brush = simple(0.3f);
        brush.mirror = axis;
        PaintStroke stroke(sphere, bare, 0, brush);
        stroke.moveTo({{3, 1.5f, 2}, {-3, -1.5f, -2}});
        stroke.moveTo({{3, 1.9f, 2}, {-3, -1.9f, -2}});
        const PaintData painted = stroke.done();
        // Each painted place has its twin; the sphere is the same on both sides.
        size_t twins = 0;
        for (size_t v = 0; v < bare.vertices(); ++v) {
            if (painted.value(0, v) == 0) continue;
            Rgb other = sphere.mesh()->vertices[v].position;
            other[size_t(axis)] = -other[size_t(axis)];
            std::vector<PlaceGrid::Near> near;
            sphere.grid().within(other, 1e-3f, near);
            ASSERT_EQ(near.size(), 1u);
            ASSERT_NEAR(painted.value(0, sphere.verticesOf(near[0].place)[0]), painted.value(0, v), 5e-3f) << axis;
            ++twins;
        }
        EXPECT_GT(twins, 20u);
    }
}

TEST(Brush, KeepsToASlotAndToWhatAnotherChannelMasks) {
    Mesh mesh = makePlane(20);
    // Halves with vertices of their own.
    const auto half = uint32_t(mesh.indices.size() / 6 * 3);
    const auto count = uint32_t(mesh.vertices.size());
    mesh.vertices.insert(mesh.vertices.end(), mesh.vertices.begin(), mesh.vertices.begin() + count);
    for (size_t i = half; i < mesh.indices.size(); ++i) mesh.indices[i] += count;
    mesh.slots = {{"one", 0, half}, {"two", half, uint32_t(mesh.indices.size()) - half}};
    const PaintSurface surface(made(std::move(mesh)));
    const PaintData bare(surface.mesh());
    Brush brush = simple(2);
    brush.slot = 1;
    const PaintData painted = stroked(surface, bare, brush, {{0, 0}});
    size_t inside = 0;
    for (uint32_t v = 0; v < bare.vertices(); ++v) {
        ASSERT_EQ(painted.value(0, v) > 0, surface.isOfSlot(v, 1)) << v;
        inside += painted.value(0, v) > 0;
    }
    EXPECT_GT(inside, 100u);
    // Only where the second channel lies between two values.
    std::vector<float> mask;
    for (size_t v = 0; v < bare.vertices(); ++v) mask.push_back(float(v % 5) / 4);
    brush.slot = -1, brush.maskChannel = 1, brush.maskLow = 0.25f, brush.maskHigh = 0.5f;
    const PaintData masked = stroked(surface, bare.with(1, mask), brush, {{0, 0}});
    for (uint32_t v = 0; v < bare.vertices(); ++v)
        // Vertices that no triangle uses hang together with nothing.
        if (surface.isOfSlot(v, 0) || surface.isOfSlot(v, 1)) { ASSERT_EQ(masked.value(0, v) > 0, v % 5 == 1 || v % 5 == 2) << v; }
}

TEST(Brush, SmoothsWithoutAddingAndSmearsTheWayTheHandGoes) {
    const PaintSurface plane(made(makePlane(40)));
    std::mt19937 random(2);
    std::vector<float> spots(plane.mesh()->vertices.size());
    for (float& x : spots) x = float(random() % 2);
    const PaintData rough = PaintData(plane.mesh(), 16).with(0, spots);
    Brush brush = simple(0.7f);
    brush.does = Brush::Does::Smooth, brush.softEdge = 0.2f;
    const PaintData smooth = stroked(plane, rough, brush, {{-0.2f, 0}, {0.2f, 0}});
    const auto spread = [&](const PaintData& p) {
        double sum = 0, squares = 0;
        int n = 0;
        for (size_t v = 0; v < p.vertices(); ++v) {
            const Rgb& at = plane.mesh()->vertices[v].position;
            if (std::hypot(at[0], at[2]) > 0.3f) continue;
            const double x = p.value(0, v);
            EXPECT_TRUE(x >= 0 && x <= 1);
            sum += x, squares += x * x, ++n;
        }
        return std::array<double, 2>{sum / n, squares / n - sum / n * sum / n};
    };
    EXPECT_NEAR(spread(smooth)[0], spread(rough)[0], 0.06);
    EXPECT_LT(spread(smooth)[1], spread(rough)[1] / 20);

    // A band across: its middle moves along with the brush, and stays where the brush was not.
    std::vector<float> band;
    for (const Vertex& v : plane.mesh()->vertices) band.push_back(std::fabs(v.position[0]) < 0.15f ? 1.f : 0.f);
    const PaintData before = PaintData(plane.mesh(), 16).with(0, band);
    brush = simple(0.3f);
    brush.does = Brush::Does::Smear;
    const auto middle = [&](const PaintData& p, float low, float high) {
        double all = 0, at = 0;
        for (size_t v = 0; v < p.vertices(); ++v) {
            const Rgb& where = plane.mesh()->vertices[v].position;
            if (where[2] < low || where[2] > high) continue;
            all += p.value(0, v), at += p.value(0, v) * where[0];
        }
        return at / all;
    };
    const PaintData right = stroked(plane, before, brush, {{-0.3f, 0}, {0.5f, 0}}),
                    left = stroked(plane, before, brush, {{0.3f, 0}, {-0.5f, 0}});
    EXPECT_GT(middle(right, -0.05f, 0.05f), 0.1);
    EXPECT_LT(middle(left, -0.05f, 0.05f), -0.1);
    EXPECT_NEAR(middle(right, 0.5f, 1), 0, 1e-6);
    EXPECT_EQ(stroked(plane, before, brush, {{0.15f, 0}}).fingerprint(), before.fingerprint()) << "a hand that rests smears nothing";
}

TEST(Brush, ABrushThatIsSmallerThanTheTrianglesReachesNothingAndSaysSo) {
    const PaintSurface coarse(made(makePlane(1)));
    const PaintData bare(coarse.mesh());
    const auto hit = coarse.rays().hit(down(0.05f, 0.1f));
    ASSERT_TRUE(hit);
    EXPECT_EQ(coarse.reached(*hit, {0, 1, 0}, simple(0.05f), bare), 0u);
    EXPECT_FALSE(stroked(coarse, bare, simple(0.05f), {{0.05f, 0.1f}}).isPainted(0));
}

TEST(Brush, DoesNotPaintTheAirBetweenWhatLiesInFrontAndWhatLiesBehind) {
    // Two squares, one far below the other, side by side as seen from above.
    Mesh mesh = makePlane(20);
    const float edge = boundsOf(mesh).high[0];
    const auto count = uint32_t(mesh.vertices.size());
    for (uint32_t v = 0; v < count; ++v) {
        Vertex other = mesh.vertices[v];
        other.position[0] += 2 * edge, other.position[1] -= 4;
        mesh.vertices.push_back(other);
    }
    const size_t corners = mesh.indices.size();
    for (size_t i = 0; i < corners; ++i) mesh.indices.push_back(mesh.indices[i] + count);
    mesh.slots[0].indexCount *= 2;
    const PaintSurface surface(made(std::move(mesh)));
    const PaintData bare(surface.mesh(), 16);
    const PaintData painted = stroked(surface, bare, simple(0.15f), {{0.5f, 0}, {1.5f, 0}});
    // Each is painted up to where the hand left it, and no further than the brush reaches.
    for (uint32_t v = 0; v < bare.vertices(); ++v) {
        const Rgb& at = surface.mesh()->vertices[v].position;
        const bool above = at[1] > -1;
        const float from = above ? 0.5f : edge, to = above ? edge : 1.5f;
        if (std::fabs(at[2]) > 0.15f || at[0] < from - 0.15f || at[0] > to + 0.15f) {
            ASSERT_EQ(painted.value(0, v), 0) << at[0];
        } else if (std::fabs(at[2]) < 0.01f && at[0] > from && at[0] < to) {
            ASSERT_GT(painted.value(0, v), 0.8f) << at[0];
        }
    }
}

TEST(Brush, TellsEachChangedVertexOnceEachTimeItIsAsked) {
    const PaintSurface plane(made(makePlane(20)));
    const PaintData bare(plane.mesh(), 16);
    PaintStroke stroke(plane, bare, 0, simple(0.3f));
    EXPECT_FALSE(stroke.changedAnything());
    std::vector<float> seen(bare.vertices());
    for (const float x : {-0.5f, -0.2f, 0.3f}) {
        stroke.moveTo(down(x, 0));
        std::vector<uint32_t> changed = stroke.takeChanged();
        std::sort(changed.begin(), changed.end());
        EXPECT_EQ(std::adjacent_find(changed.begin(), changed.end()), changed.end());
        EXPECT_FALSE(changed.empty());
        for (const uint32_t v : changed) seen[v] = stroke.value(v);
        EXPECT_TRUE(stroke.takeChanged().empty());
    }
    for (uint32_t v = 0; v < bare.vertices(); ++v) ASSERT_EQ(seen[v], stroke.value(v)) << "what was told is all that changed";
}

// A large brush goes through whole cells at once; what it reaches is what a walk from place to place reaches, on thin walls, in folds and
// where nothing hangs together as well.
TEST(Brush, ALargeOneReachesWhatAWalkAlongEdgesReaches) {
    std::mt19937 random(12);
    std::uniform_real_distribution<float> unit(0, 1);
    Mesh wall = makeCube(40), folds = makePlane(60), loose = makePlane(40);
    for (Vertex& v : wall.vertices) v.position[2] *= 0.01f;
    for (Vertex& v : folds.vertices) v.position[1] = 0.3f * std::sin(20 * v.position[0]);
    // Triangles that share no places: each moved a little by itself.
    const Mesh sheet = loose;
    loose.vertices.clear();
    for (size_t i = 0; i < sheet.indices.size(); ++i) {
        loose.vertices.push_back(sheet.vertices[sheet.indices[i]]);
        if (i / 3 % 7 == 0) loose.vertices.back().position[1] += 1e-3f;
        loose.indices[i] = uint32_t(i);
    }
    for (const Mesh& mesh : {makeTorus(90), makeSphere(80), makePlane(70), wall, folds, loose}) {
        const PaintSurface surface(made(mesh));
        const MeshNeighbours& neighbours = surface.neighbours();
        const PaintData bare(surface.mesh());
        size_t most = 0;
        for (int round = 0; round < 25; ++round) {
            const auto triangle = uint32_t(unit(random) * float(surface.mesh()->indices.size() / 3 - 1));
            Rgb middle{};
            for (size_t k = 0; k < 3; ++k)
                middle = sum(middle, scaled(surface.mesh()->vertices[surface.mesh()->indices[3 * triangle + k]].position, 1.f / 3));
            Brush brush = simple(0.05f + 0.9f * unit(random));
            brush.softEdge = 0, brush.facing = false;
            std::set<uint32_t> expected, waiting;
            const auto reach = [&](uint32_t place) {
                const Rgb away = difference(neighbours.position(place), middle);
                if (dot(away, away) < brush.radius * brush.radius && expected.insert(place).second) waiting.insert(place);
            };
            for (size_t k = 0; k < 3; ++k) reach(neighbours.placeOf(surface.mesh()->indices[3 * triangle + k]));
            while (!waiting.empty()) {
                const uint32_t place = waiting.extract(waiting.begin()).value();
                for (const uint32_t next : neighbours.around(place)) reach(next);
            }
            MeshPoint at{triangle, {1.f / 3, 1.f / 3, 1.f / 3}, middle, {}, 0};
            size_t vertices = 0;
            for (const uint32_t place : expected) vertices += surface.verticesOf(place).size();
            ASSERT_EQ(surface.reached(at, {0, 1, 0}, brush, bare), vertices) << "radius " << brush.radius;
            most = std::max(most, expected.size());
        }
        EXPECT_GT(most, 2u);
    }
}

TEST(PlaceGrid, FindsWhatLiesInABallAsALookAtEveryPlaceDoes) {
    const PaintSurface torus(made(makeTorus(24)));
    std::mt19937 random(4);
    std::uniform_real_distribution<float> at(-1.5f, 1.5f);
    for (int k = 0; k < 200; ++k) {
        const Rgb middle{at(random), at(random), at(random)};
        const float radius = 0.01f + std::fabs(at(random));
        std::vector<PlaceGrid::Near> near;
        torus.grid().within(middle, radius, near);
        size_t expected = 0;
        for (uint32_t p = 0; p < torus.neighbours().places(); ++p)
            expected += lengthOf(difference(torus.neighbours().position(p), middle)) <= radius;
        ASSERT_EQ(near.size(), expected);
    }
}

} // namespace
} // namespace hue
