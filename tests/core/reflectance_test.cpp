// Facts of the reflectance reference.
#include "core/surface/reflectance.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

/// Light of 1 from everywhere: what a surface sends to the eye, per component. 1 is all that arrives.
Rgb furnace(const SurfacePoint& p, float nDotV, int samples) {
    const Rgb view{std::sqrt(1 - nDotV * nDotV), 0, nDotV};
    std::mt19937 random(7);
    Rgb sum{};
    // Half of the samples around the mirror direction by the normals of GGX, half evenly over the sphere; weighted by the
    // balance heuristic (Veach 1995).
    const float alpha = std::max(p.roughness, 0.04f) * std::max(p.roughness, 0.04f);
    const float alphaCoat = p.clearcoat > 0 ? std::max(p.clearcoatRoughness, 0.04f) * std::max(p.clearcoatRoughness, 0.04f) : alpha;
    constexpr float pi = 3.14159265f;
    auto ggxDensity = [&](const Rgb& l, float a) {
        Rgb h{view[0] + l[0], view[1] + l[1], view[2] + l[2]};
        const float len = std::sqrt(h[0] * h[0] + h[1] * h[1] + h[2] * h[2]);
        if (len < 1e-6f || l[2] <= 0) return 0.f;
        for (float& x : h) x /= len;
        const float vDotH = view[0] * h[0] + view[1] * h[1] + view[2] * h[2];
        return distributionGgx(h[2], a) * h[2] / std::max(4 * vDotH, 1e-6f);
    };
    auto uniform = [&] { return (float(random() % 1000000) + 0.5f) / 1000000.f; };
    for (int i = 0; i < samples; ++i) {
        Rgb l;
        const float phi = 2 * pi * uniform(), e = uniform();
        const int kind = i % 4; // 0: GGX, 1: the coat's, 2: mirrored behind, 3: even
        if (kind == 3) {
            const float z = 2 * e - 1, s = std::sqrt(1 - z * z);
            l = {s * std::cos(phi), s * std::sin(phi), z};
        } else {
            const float a = kind == 1 ? alphaCoat : alpha;
            const float c = std::sqrt((1 - e) / (1 + (a * a - 1) * e)), s = std::sqrt(std::max(0.f, 1 - c * c));
            const Rgb h{s * std::cos(phi), s * std::sin(phi), c};
            const float vDotH = view[0] * h[0] + view[1] * h[1] + view[2] * h[2];
            l = {2 * vDotH * h[0] - view[0], 2 * vDotH * h[1] - view[1], 2 * vDotH * h[2] - view[2]};
            if (l[2] <= 0) continue;
            if (kind == 2) l[2] = -l[2];
        }
        const Rgb up{l[0], l[1], std::fabs(l[2])};
        const float density =
            0.25f * ((l[2] > 0 ? ggxDensity(up, alpha) + ggxDensity(up, alphaCoat) : ggxDensity(up, alpha)) + 1 / (4 * pi));
        const Rgb sent = reflect(p, view, l);
        for (size_t c = 0; c < 3; ++c) sum[c] += sent[c] / density;
    }
    for (float& x : sum) x /= float(samples);
    return sum;
}

TEST(WhiteFurnace, NoSurfaceSendsOutMoreThanItGets) {
    std::mt19937 random(3);
    auto r = [&] { return float(random() % 1000) / 1000.f; };
    auto some = [&] { return r() < 0.5f ? r() : 0.f; };
    float most = 0, least = 9;
    for (int i = 0; i < 160; ++i) {
        SurfacePoint p;
        p.baseColor = {1, 1, 1};
        p.metallic = i % 3 == 0 ? 1.f : i % 3 == 1 ? 0.f : r();
        p.roughness = 0.1f + 0.9f * r();
        p.ior = 1 + 1.4f * r();
        p.clearcoat = some();
        p.clearcoatRoughness = 0.1f + 0.9f * r();
        const float sheen = some();
        p.sheenColor = {sheen, sheen, sheen};
        p.sheenRoughness = 0.1f + 0.9f * r();
        p.iridescence = some();
        p.anisotropy = i % 4 == 0 ? r() : 0;
        p.transmission = some();
        const Rgb sent = furnace(p, 0.15f + 0.85f * r(), 40000);
        for (float x : sent) {
            EXPECT_LT(x, 1.01f + 0.012f) << "surface " << i << ": the second term is the noise of the estimate";
            most = std::max(most, x);
            least = std::min(least, x);
        }
    }
    RecordProperty("most", std::to_string(most));
    RecordProperty("least", std::to_string(least));
    EXPECT_GT(least, 0.4f) << "films and layers over layers may swallow some";
}

TEST(WhiteFurnace, MetalsAndDielectricsGiveBackAllAtEveryRoughness) {
    SurfacePoint p;
    p.baseColor = {1, 1, 1};
    for (float metallic : {1.f, 0.f})
        for (float roughness : {0.15f, 0.3f, 0.5f, 0.7f, 0.85f, 1.f})
            for (float nDotV : {0.25f, 0.5f, 0.8f, 1.f}) {
                p.metallic = metallic;
                p.roughness = roughness;
                const float sent = furnace(p, nDotV, 120000)[1];
                EXPECT_GT(sent, 0.97f) << "metallic " << metallic << ", roughness " << roughness << ", seen at " << nDotV;
                EXPECT_LT(sent, 1.01f) << "metallic " << metallic << ", roughness " << roughness << ", seen at " << nDotV;
            }
}

TEST(WhiteFurnace, AColoredMetalGrowsMoreColoredWithEveryBounce) {
    // Light that is scattered twice has met the color twice: rough gold is deeper than smooth gold, and never brighter.
    SurfacePoint p;
    p.metallic = 1;
    p.baseColor = {1, 0.6f, 0.2f};
    p.roughness = 0.2f;
    const Rgb smooth = furnace(p, 0.8f, 60000);
    p.roughness = 1;
    const Rgb rough = furnace(p, 0.8f, 60000);
    EXPECT_NEAR(rough[0], smooth[0], 0.03f);
    EXPECT_LT(rough[2] / rough[0], smooth[2] / smooth[0] - 0.02f);
}

TEST(WhiteFurnace, APlainWhiteSurfaceLosesNothing) {
    SurfacePoint p;
    p.baseColor = {1, 1, 1};
    for (float roughness : {0.2f, 0.6f, 1.f}) {
        p.roughness = roughness;
        EXPECT_NEAR(furnace(p, 0.7f, 60000)[1], 1, 0.02f) << roughness;
    }
}

TEST(Roughness, WidensByTheSpreadOfNormalsAndNeverNarrows) {
    const Rgb none{0, 0, 0};
    for (float r : {0.f, 0.2f, 0.7f, 1.f}) EXPECT_FLOAT_EQ(widenedRoughness(r, none, none), r) << "a flat pixel stays as it is";
    float last = 0.2f;
    for (float bend : {0.05f, 0.1f, 0.3f, 0.6f}) {
        const float now = widenedRoughness(0.2f, {bend, 0, 0}, {0, bend, 0});
        EXPECT_GT(now, last) << bend;
        last = now;
    }
    EXPECT_FLOAT_EQ(widenedRoughness(0.2f, {2, 0, 0}, none), widenedRoughness(0.2f, {0.9f, 0, 0}, none)) << "a border is no bump";
    EXPECT_LE(widenedRoughness(0.95f, {1, 1, 1}, {1, 1, 1}), 1);
    EXPECT_FLOAT_EQ(widenedRoughness(0.3f, {NAN, 0, 0}, none), 0.3f);
    // What is rough already hardly changes, what is smooth changes most.
    const Rgb bump{0.1f, 0, 0};
    EXPECT_GT(widenedRoughness(0.1f, bump, none) - 0.1f, 5 * (widenedRoughness(0.8f, bump, none) - 0.8f));
}

TEST(ThinFilm, RunsThroughTheOrdersOfColorAsItThickens) {
    // Newton's colors in reflection on a film between air and air, seen face-on: black when very thin, then white, then a
    // yellow that loses blue first, then a blue that follows magenta.
    auto film = [](float nm) { return filmFresnel(1, 1.33f, 1, nm, {0, 0, 0}); };
    const Rgb thin = film(5), white = film(95), yellow = film(160), blue = film(240);
    EXPECT_LT(thin[1], 0.01f);
    EXPECT_GT(white[1], 0.05f);
    EXPECT_LT(yellow[2], yellow[0] * 0.7f);
    EXPECT_GT(blue[2], blue[0]);
    EXPECT_GT(blue[2], blue[1]);
}

TEST(ThinFilm, VanishesWithoutAStepWhenItHasNoThickness) {
    const Rgb base{0.04f, 0.3f, 0.9f}, none = filmFresnel(1, 1.5f, 0.8f, 0, base);
    for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(none[c], base[c] + (1 - base[c]) * std::pow(0.2f, 5.f), 0.02f);
}

TEST(Reflection, FaceOnIsWhatTheIndexSays) {
    SurfacePoint p;
    p.baseColor = {0, 0, 0};
    p.roughness = 0.1f;
    for (float ior : {1.33f, 1.5f, 2.4f}) {
        p.ior = ior;
        const float f0 = (ior - 1) * (ior - 1) / ((ior + 1) * (ior + 1));
        EXPECT_NEAR(furnace(p, 1, 20000)[0], f0, f0 * 0.06f + 0.001f) << ior;
    }
}

TEST(Reflection, OfAMetalIsTheSameBothWays) {
    SurfacePoint p;
    p.metallic = 1;
    p.baseColor = {0.9f, 0.6f, 0.2f};
    for (float roughness : {0.2f, 0.5f, 1.f}) {
        p.roughness = roughness;
        const Rgb v{0.5f, 0.1f, std::sqrt(1 - 0.26f)}, l{-0.7f, 0.3f, std::sqrt(1 - 0.58f)};
        for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(reflect(p, v, l)[c] / l[2], reflect(p, l, v)[c] / v[2], 1e-4f) << roughness;
    }
}

TEST(Anisotropy, StretchesTheHighlightAlongItsDirection) {
    SurfacePoint p;
    p.metallic = 1;
    p.roughness = 0.3f;
    p.anisotropy = 0.9f;
    p.anisotropyDirection = {1, 0, 0};
    const float s = std::sin(0.5f), c = std::cos(0.5f);
    EXPECT_GT(reflect(p, {0, 0, 1}, {s, 0, c})[0], 3 * reflect(p, {0, 0, 1}, {0, s, c})[0]);
}

TEST(Transmission, LetsALightFromBehindThroughAndNothingElseDoes) {
    SurfacePoint p;
    p.roughness = 0.3f;
    EXPECT_EQ(reflect(p, {0, 0, 1}, {0, 0, -1})[0], 0);
    p.transmission = 1;
    EXPECT_GT(reflect(p, {0, 0, 1}, {0, 0, -1})[0], 0.1f);
    p.metallic = 1;
    EXPECT_EQ(reflect(p, {0, 0, 1}, {0, 0, -1})[0], 0) << "metals let no light through";
}

} // namespace
} // namespace hue
