// Decals as they are seen on a specimen.
#include "core/base/vectors.h"
#include "core/decals/decal_box.h"
#include "core/picture/sight.h"
#include "tests/render/three_pictures.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// A grey plane, tilted towards the viewer, with a red decal in its middle.
Project plane() {
    Project p = bareProject();
    Master d;
    d.id = "d", d.name = "Stencil";
    d.surface.decal = true, d.surface.alphaMode = AlphaMode::Blend;
    d.graph.channelConstants = {{"base_color", Value::vec3(0.9f, 0.05f, 0.05f)}, {"roughness", Value::number(0.9f)}};
    p.masters.push_back(std::make_shared<Master>(d));
    Decal decal;
    decal.id = "one", decal.name = "Number", decal.wears = "d";
    decal.facing = {0, 1, 0}, decal.width = 0.8f, decal.height = 0.5f, decal.turn = 20, decal.position = {0.2f, 0, -0.1f};
    p.lineup.specimens = {Specimen{.mesh = "shape:plane/2", .wears = {"m"}, .decals = {decal}}};
    p.lineup.orbit.pitch = 50;
    return p;
}

TEST(DecalPictures, ByDriverEvaluatorAndProcessorAreTheSame) {
    // One that bumps and one that glows, over each other and over a noise, on a ball.
    Project p = plane();
    const Id uv = add(p, "texcoord"), noise = add(p, "noise_2d"), slopes = add(p, "height_to_normal", {{"scale", Value::number(1)}}),
             bend = add(p, "normal_map");
    wire(p, {uv, "out", ""}, noise, "uv");
    wire(p, {noise, "out", ""}, slopes, "in");
    wire(p, {slopes, "out", ""}, bend, "in");
    channel(p, {bend, "out", ""}, "normal");
    Specimen& s = p.lineup.specimens[0];
    s.mesh = "shape:sphere/2";
    Decal glow = s.decals[0];
    glow.id = "two", glow.facing = {0.4f, 0.3f, 1}, glow.position = unit(glow.facing), glow.width = 0.7f, glow.depth = 0.8f;
    s.decals[0].facing = {0, 0.5f, 1}, s.decals[0].position = unit(s.decals[0].facing);
    s.decals.push_back(glow);
    p = *edit::setChannelConstant(p, "d", "emissive", Value::vec3(0, 0.4f, 0.1f));
    p.lineup.orbit = {};
    LightLibrary lights;
    RenderSettings settings = settingsFor(p, s, lights, {}, true);
    settings.width = small().width, settings.height = small().height;
    const Three with = drawn(p, s, settings);
    EXPECT_LT(meanDifference(with.linked, with.evaluated), 0.5);
    EXPECT_LT(meanDifference(with.linked, with.software), 1.5);
    Project bare = p;
    bare.lineup.specimens[0].decals.clear();
    EXPECT_GT(meanDifference(with.linked, drawn(bare, bare.lineup.specimens[0], settings).linked), 1);
}

TEST(DecalPictures, AreSeenWithinTheirCornersAndNowhereElse) {
    Project p = plane(), bare = p;
    bare.lineup.specimens[0].decals.clear();
    LightLibrary lights;
    RenderSettings settings = settingsFor(p, p.lineup.specimens[0], lights, {}, true);
    settings.width = 200, settings.height = 160;
    settings.view = findView("base_color");
    const RenderedPicture with = drawn(p, p.lineup.specimens[0], settings).linked,
                          without = drawn(bare, bare.lineup.specimens[0], settings).linked;
    const Decal& d = p.lineup.specimens[0].decals[0];
    const View view = viewOfMesh(boundsOf(*shapeById("shape:plane/2")), settings);
    const auto corners = decalCorners(d);
    int inside = 0, outside = 0;
    for (int y = 0; y < settings.height; ++y)
        for (int x = 0; x < settings.width; ++x) {
            // Where the line of sight meets the plane, in the box's own terms.
            const Ray ray = sightThrough(view, float(x) + 0.5f, float(y) + 0.5f);
            const float far = -ray.from[1] / ray.towards[1];
            const Rgb at = sum(ray.from, scaled(ray.towards, far)), from = difference(at, corners[0]);
            const Rgb across = difference(corners[1], corners[0]), up = difference(corners[3], corners[0]);
            const float u = dot(from, across) / dot(across, across), v = dot(from, up) / dot(up, up);
            if (far <= 0 || std::fabs(at[0]) > 0.95f || std::fabs(at[2]) > 0.95f) continue;
            const float edge = std::min({std::fabs(u), std::fabs(1 - u), std::fabs(v), std::fabs(1 - v)});
            if (edge < 0.05f) continue;
            const bool in = u > 0 && u < 1 && v > 0 && v < 1;
            const size_t k = (size_t(y) * size_t(settings.width) + size_t(x)) * 4;
            const bool changed =
                std::abs(int(with.rgba[k]) - int(without.rgba[k])) + std::abs(int(with.rgba[k + 1]) - int(without.rgba[k + 1])) > 12;
            ASSERT_EQ(changed, in) << "pixel " << x << " " << y << " at " << u << " " << v;
            ++(in ? inside : outside);
        }
    EXPECT_GT(inside, 300);
    EXPECT_GT(outside, 1000);
}

} // namespace
} // namespace hue
