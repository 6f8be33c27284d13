// Between pixels and places, and paint shown by itself.
#include "core/base/value.h"
#include "core/base/vectors.h"
#include "core/paint/seeing_paint.h"
#include "core/picture/sight.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

TEST(Sight, LeadsThroughTheVeryPixelThatAPlaceIsDrawnIn) {
    const Mesh torus = makeTorus(16);
    std::mt19937 random(3);
    for (int k = 0; k < 40; ++k) {
        RenderSettings s;
        s.width = 200 + int(random() % 500), s.height = 150 + int(random() % 400);
        s.camera = {float(random() % 360), float(random() % 120) - 60, 0.5f + float(random() % 100) / 50, 0.1f, -0.2f};
        const View view = viewOfMesh(boundsOf(torus), s);
        for (const Vertex& v : torus.vertices) {
            const auto pixel = pixelOf(view, v.position);
            ASSERT_TRUE(pixel);
            const Ray ray = sightThrough(view, (*pixel)[0], (*pixel)[1]);
            const Rgb away = difference(v.position, ray.from);
            ASSERT_NEAR(dot(unit(away), ray.towards), 1, 1e-5f);
            // A step of a pixel's size beside it lies a pixel beside it.
            const Rgb& right = view.camera.toWorld[0];
            const auto beside = pixelOf(view, sum(v.position, scaled(right, metresOfPixel(view, v.position))));
            ASSERT_NEAR(std::hypot((*beside)[0] - (*pixel)[0], (*beside)[1] - (*pixel)[1]), 1, 0.01f);
        }
        const Rgb behind = sum(view.eye, difference(view.eye, view.centre));
        EXPECT_FALSE(pixelOf(view, behind));
    }
}

TEST(Ring, LiesOnASphereAsFarFromItsMiddleAsItIsLarge) {
    const SurfaceRays rays(std::make_shared<Mesh>(makeSphere(64)));
    const auto hit = rays.hit({{0, 0, 5}, {0.01f, 0.02f, -1}});
    ASSERT_TRUE(hit);
    for (const float radius : {0.05f, 0.2f, 0.5f}) {
        const auto ring = ringOn(rays, *hit, radius, 32);
        ASSERT_EQ(ring.size(), 32u);
        for (const Rgb& p : ring) {
            EXPECT_NEAR(lengthOf(p), 1, 0.01f) << "on the surface";
            // Over the tangent plane of a ball of 1 m it stands at the angle whose tangent is the radius.
            EXPECT_NEAR(lengthOf(difference(p, hit->position)), 2 * std::sin(std::atan(radius) / 2), 0.02f);
        }
    }
}

TEST(PlacesInSight, AreThoseOfTheNearHalfOfASphereAndNoneBehindAWall) {
    Mesh mesh = makeSphere(24);
    const PaintSurface alone(std::make_shared<Mesh>(mesh));
    const Rgb eye{0, 0, 4};
    const auto seen = placesInSight(alone, eye);
    // From 4 m the horizon of a ball of 1 m lies where the height is a quarter.
    for (uint32_t p = 0; p < seen.size(); ++p) {
        const float z = alone.neighbours().position(p)[2];
        if (std::fabs(z - 0.25f) > 0.06f) { ASSERT_EQ(seen[p], z > 0.25f) << z; }
    }
    const auto first = uint32_t(mesh.vertices.size());
    for (const auto& [x, y] : {std::pair{-3.f, -3.f}, {3.f, -3.f}, {3.f, 3.f}, {-3.f, 3.f}}) {
        Vertex v;
        v.position = {x, y, 2}, v.normal = {0, 0, 1};
        mesh.vertices.push_back(v);
    }
    for (const uint32_t i : {0u, 1u, 2u, 0u, 2u, 3u}) mesh.indices.push_back(first + i);
    mesh.slots[0].indexCount += 6;
    const PaintSurface walled(std::make_shared<Mesh>(mesh));
    const auto behind = placesInSight(walled, eye);
    EXPECT_EQ(std::count(behind.begin(), behind.end(), true), 4) << "the corners of the wall";
}

TEST(PaintShown, IsOneChannelInGreyOrTheSumWithWhatIsTooMuchInRed) {
    const auto mesh = std::make_shared<Mesh>(makePlane(2));
    PaintData paint(mesh, 16);
    paint = paint.with(0, std::vector<float>(9, 0.5f)).with(2, std::vector<float>{0, 0.25f, 0.5f, 0.5f, 0.6f, 1, 0, 0, 0.5f});
    const std::array<int, 2> both{0, 2};
    const PaintData alone = shownAs(paint, PaintShown::Alone, 2, both), sum = shownAs(paint, PaintShown::Sum, 0, both);
    for (size_t v = 0; v < 9; ++v) {
        const float whole = 0.5f + paint.value(2, v);
        for (int c = 0; c < 3; ++c) {
            EXPECT_NEAR(linearToSrgb(alone.value(c, v)), paint.value(2, v), 1e-3f);
            EXPECT_NEAR(linearToSrgb(sum.value(c, v)), whole > 1.01f ? (c ? 0.f : 1.f) : whole, 1e-3f);
        }
    }
    EXPECT_EQ(shownAs(paint, PaintShown::Weights, 0, both).fingerprint(), paint.fingerprint());
    const SumFaults faults = sumFaults(paint, both);
    EXPECT_EQ(faults.over, 2u);
    EXPECT_EQ(faults.under, 4u);
}

} // namespace
} // namespace hue
