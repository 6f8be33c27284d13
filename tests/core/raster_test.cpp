// Rasterised triangles against rays through the same pixels, and what follows from the view.
#include "core/picture/light_pixels.h"
#include "core/picture/raster.h"
#include "tests/test_graphs.h"

#include <glm/geometric.hpp>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

constexpr int kWidth = 64, kHeight = 48;

struct Hit {
    float depth; ///< 0..1, of the picture
    glm::vec3 position;
    glm::vec2 uv;
    glm::vec3 normal;
    int slot;
    bool front;
    bool edge; ///< close to an edge of its triangle, where either of two pixels may have it
};

/// All that a ray through a pixel's centre meets, by the intersection of Möller and Trumbore.
std::vector<Hit> hitsOf(const Matrix4& clip, int x, int y, std::span<const RasterPart> parts) {
    const glm::dmat4 back = glm::inverse(glm::dmat4(clip));
    const auto through = [&](double z) {
        const glm::dvec4 p = back * glm::dvec4((x + 0.5) / kWidth * 2 - 1, (y + 0.5) / kHeight * 2 - 1, z, 1);
        return glm::dvec3(p) / p.w;
    };
    const glm::dvec3 from = through(-1), way = through(1) - from;
    std::vector<Hit> out;
    for (const RasterPart& part : parts)
        for (uint32_t i = part.firstIndex; i < part.firstIndex + part.indexCount; i += 3) {
            const Vertex* v[3];
            glm::dvec3 p[3];
            for (uint32_t j = 0; j < 3; ++j) {
                v[j] = &part.mesh->vertices[part.mesh->indices[i + j]];
                p[j] = glm::dvec3(part.world * glm::vec4(vectorOf(v[j]->position), 1));
            }
            const glm::dvec3 a = p[1] - p[0], b = p[2] - p[0], h = glm::cross(way, b);
            const double det = glm::dot(a, h);
            if (std::fabs(det) < 1e-14) continue;
            const glm::dvec3 s = from - p[0], q = glm::cross(s, a);
            const double u = glm::dot(s, h) / det, w = glm::dot(way, q) / det, t = glm::dot(b, q) / det;
            constexpr double slack = 1e-3;
            if (u < -slack || w < -slack || u + w > 1 + slack || t < 0 || t > 1) continue;
            const bool front = det > 0;
            if (!front && !part.twoSided) continue;
            Hit hit;
            hit.position = glm::vec3(from + way * t);
            const glm::dvec4 c = glm::dmat4(clip) * glm::dvec4(glm::dvec3(hit.position), 1);
            hit.depth = float(c.z / c.w * 0.5 + 0.5);
            const auto mixed = [&](auto of) { return of(*v[0]) * float(1 - u - w) + of(*v[1]) * float(u) + of(*v[2]) * float(w); };
            hit.uv = mixed([](const Vertex& k) { return glm::vec2(k.uv0[0], k.uv0[1]); });
            hit.normal = glm::normalize(mixed([](const Vertex& k) { return vectorOf(k.normal); })) * (front ? 1.f : -1.f);
            hit.slot = part.slot;
            hit.front = front;
            hit.edge = u < slack || w < slack || u + w > 1 - slack;
            out.push_back(hit);
        }
    return out;
}

/// How many pixels were compared, after all of them agreed.
int expectAsRays(const Matrix4& clip, const std::vector<RasterPart>& parts, Sheet sheet, const std::vector<float>* limit) {
    const AttributePicture a = rasterise(clip, kWidth, kHeight, {0, 0, kWidth, kHeight}, parts, sheet, limit);
    int compared = 0;
    for (int y = 0; y < kHeight; ++y)
        for (int x = 0; x < kWidth; ++x) {
            const size_t p = size_t(y * kWidth + x);
            std::vector<Hit> hits = hitsOf(clip, x, y, parts);
            const bool nearest = sheet == Sheet::Nearest;
            if (limit)
                std::erase_if(hits,
                              [&](const Hit& h) { return nearest ? h.depth <= (*limit)[p] + 2e-6f : h.depth >= (*limit)[p] - 2e-6f; });
            bool unsure = false;
            for (const Hit& h : hits) unsure = unsure || h.edge;
            // A border or two sheets in one place: either answer is right.
            if (unsure) continue;
            if (hits.empty()) {
                EXPECT_EQ(a.slot(p), -1) << x << " " << y;
                continue;
            }
            std::sort(hits.begin(), hits.end(),
                      [&](const Hit& l, const Hit& r) { return nearest ? l.depth < r.depth : l.depth > r.depth; });
            if (hits.size() > 1 && std::fabs(hits[0].depth - hits[1].depth) < 1e-5f) continue;
            const Hit& h = hits[0];
            EXPECT_EQ(a.slot(p), h.slot) << x << " " << y;
            if (a.slot(p) != h.slot) return compared;
            EXPECT_EQ(a.planes[0][p][3] > 0, h.front);
            EXPECT_NEAR(a.planes[3][p][3], h.depth, 2e-6f);
            for (int c = 0; c < 3; ++c) {
                EXPECT_NEAR(a.planes[0][p][size_t(c)], h.position[c], 2e-4f);
                EXPECT_NEAR(a.planes[1][p][size_t(c)], h.normal[c], 2e-3f);
            }
            EXPECT_NEAR(a.planes[1][p][3], h.uv.x, 2e-4f);
            EXPECT_NEAR(a.planes[2][p][3], h.uv.y, 2e-4f);
            ++compared;
        }
    return compared;
}

RasterPart partOf(const Mesh& mesh, int slot, bool twoSided = false, const Matrix4& world = Matrix4(1)) {
    return {&mesh, 0, uint32_t(mesh.indices.size()), slot, twoSided, world};
}

Matrix4 seenFrom(const Rgb& eye, const Rgb& at = {0, 0, 0}) {
    return perspective(0.5f, float(kWidth) / kHeight, 0.3f, 12) * lookAt(eye, at);
}

TEST(Raster, SeesWhatARayThroughEachPixelMeets) {
    const Mesh torus = makeTorus(24), cube = makeCube(2);
    const std::vector<RasterPart> parts{partOf(torus, 0), partOf(cube, 3, false, placed({0.6f, 0.3f, 0.4f}, 0.4f))};
    EXPECT_GT(expectAsRays(seenFrom({1.5f, 1.6f, 2.2f}), parts, Sheet::Nearest, nullptr), 500);
    EXPECT_GT(expectAsRays(seenFrom({-2, 0.2f, 1}), parts, Sheet::Nearest, nullptr), 500);
}

TEST(Raster, SeesWhatLiesAroundTheEyeAndBehindItNot) {
    // From inside of a cube whose faces reach behind the eye and across the near plane.
    const Mesh cube = makeCube(1);
    const std::vector<RasterPart> parts{partOf(cube, 1, true)};
    EXPECT_GT(expectAsRays(seenFrom({0.1f, 0.2f, 0.3f}, {1, 0.1f, -0.4f}), parts, Sheet::Nearest, nullptr), 2000);
    const Mesh ball = makeSphere(16);
    const std::vector<RasterPart> behind{partOf(ball, 0, true, placed({0, 0, 4}, 1))};
    const AttributePicture a = rasterise(seenFrom({0, 0, 0}, {0, 0, -1}), kWidth, kHeight, {0, 0, kWidth, kHeight}, behind);
    for (size_t p = 0; p < a.planes[0].size(); ++p) ASSERT_EQ(a.slot(p), -1);
}

TEST(Raster, GoesFromSheetToSheetInBothDirections) {
    const Mesh torus = makeTorus(20);
    const std::vector<RasterPart> parts{partOf(torus, 0, true)};
    const Matrix4 clip = seenFrom({0.4f, 0.5f, 2.4f});
    for (const Sheet sheet : {Sheet::Nearest, Sheet::Furthest}) {
        std::vector<float> limit(size_t{kWidth} * kHeight, sheet == Sheet::Nearest ? 0.f : 1.f);
        int last = 1 << 30;
        for (int k = 0; k < 5; ++k) {
            const AttributePicture a = rasterise(clip, kWidth, kHeight, {0, 0, kWidth, kHeight}, parts, sheet, &limit);
            EXPECT_GE(expectAsRays(clip, parts, sheet, &limit), k < 2 ? 100 : 0);
            int seen = 0;
            for (size_t p = 0; p < limit.size(); ++p)
                if (a.slot(p) >= 0) {
                    limit[p] = a.planes[3][p][3];
                    ++seen;
                }
            EXPECT_LE(seen, last) << "fewer and fewer";
            last = seen;
        }
        EXPECT_EQ(last, 0) << "a ring has four sheets at most";
    }
}

TEST(Raster, LeavesNoHoleAndDrawsTheSameInEveryRegion) {
    // A closed shape that fills the picture: every pixel is hit, whatever triangle it belongs to.
    const Mesh ball = makeSphere(40);
    const std::vector<RasterPart> parts{partOf(ball, 0)};
    const Matrix4 clip = perspective(0.2f, float(kWidth) / kHeight, 0.1f, 10) * lookAt({0.7f, 0.9f, 1.4f}, {0, 0, 0});
    const AttributePicture whole = rasterise(clip, kWidth, kHeight, {0, 0, kWidth, kHeight}, parts);
    for (size_t p = 0; p < whole.planes[0].size(); ++p) ASSERT_EQ(whole.slot(p), 0) << p;
    const RasterRegion region{10, 6, 31, 17};
    const AttributePicture part = rasterise(clip, kWidth, kHeight, region, parts);
    ASSERT_EQ(part.width, region.width);
    for (int y = 0; y < region.height; ++y)
        for (int x = 0; x < region.width; ++x)
            for (size_t k = 0; k < AttributePicture::kPlanes; ++k)
                ASSERT_EQ(part.planes[k][size_t(y * region.width + x)], whole.planes[k][size_t((y + region.y) * kWidth + x + region.x)]);
    EXPECT_TRUE(rasterise(clip, kWidth, kHeight, {5, 5, 0, 0}, parts).planes[0].empty());
}

TEST(Raster, SlopesAreTheDifferencesOfTheNeighbours) {
    const Mesh plane = makePlane(1);
    const std::vector<RasterPart> parts{partOf(plane, 0)};
    const AttributePicture a = rasterise(seenFrom({0.3f, 1.1f, 1.2f}), kWidth, kHeight, {0, 0, kWidth, kHeight}, parts);
    int compared = 0;
    for (int y = 0; y + 1 < kHeight; ++y)
        for (int x = 0; x + 1 < kWidth; ++x) {
            const auto p = size_t(y * kWidth + x), right = p + 1, up = p + kWidth;
            if (a.slot(p) < 0 || a.slot(right) < 0 || a.slot(up) < 0) continue;
            EXPECT_NEAR(a.planes[4][p][2], a.planes[1][right][3] - a.planes[1][p][3], 2e-6f);
            EXPECT_NEAR(a.planes[4][p][3], a.planes[2][right][3] - a.planes[2][p][3], 2e-6f);
            EXPECT_NEAR(a.planes[6][p][0], a.planes[1][up][3] - a.planes[1][p][3], 2e-6f);
            EXPECT_NEAR(a.planes[6][p][2], a.planes[0][right][0] - a.planes[0][p][0], 2e-6f);
            EXPECT_NEAR(a.planes[7][p][1], a.planes[0][up][0] - a.planes[0][p][0], 2e-6f);
            EXPECT_NEAR(a.planes[7][p][3], a.planes[0][up][2] - a.planes[0][p][2], 2e-6f);
            ++compared;
        }
    EXPECT_GT(compared, 400);
}

TEST(Raster, DepthAloneIsTheNearestOfAllSides) {
    const Mesh torus = makeTorus(24);
    const std::vector<RasterPart> parts{partOf(torus, 0, false)};
    const Matrix4 clip = orthographic(1.6f, 0.1f, 8) * lookAt({1, 2, 1.5f}, {0, 0, 0});
    const std::vector<float> depth = rasteriseDepth(clip, kWidth, parts, 0, 0), moved = rasteriseDepth(clip, kWidth, parts, 2, 4);
    const std::vector<RasterPart> both{partOf(torus, 0, true)};
    const AttributePicture a = rasterise(clip, kWidth, kWidth, {0, 0, kWidth, kWidth}, both);
    int covered = 0, further = 0;
    for (size_t p = 0; p < depth.size(); ++p) {
        EXPECT_FLOAT_EQ(depth[p], a.slot(p) < 0 ? 1.f : a.planes[3][p][3]);
        EXPECT_GE(moved[p], depth[p]);
        covered += a.slot(p) >= 0;
        further += moved[p] > depth[p];
    }
    EXPECT_GT(covered, 500);
    EXPECT_EQ(further, covered) << "moved away, so that nothing shades itself";
}

TEST(View, HoldsTheWholeSpecimenHoweverItIsTurned) {
    const Project p = bareProject();
    Assets assets;
    LookCache looks;
    for (const auto& [shape, name] : shapes()) {
        Specimen specimen = p.lineup.specimens[0];
        specimen.mesh = shape;
        const DressedSpecimen dressed = dress(p, assets, looks, specimen, 0);
        std::optional<float> distance;
        for (float yaw : {0.f, 40.f, 170.f, 290.f}) {
            RenderSettings s;
            s.camera.yaw = yaw;
            s.camera.pitch = 25;
            const View v = viewOf(dressed, s, 300, 200);
            for (const Vertex& vertex : dressed.mesh->vertices) {
                const glm::vec4 c = v.clip * glm::vec4(vectorOf(vertex.position), 1);
                ASSERT_LE(std::max({std::fabs(c.x), std::fabs(c.y), std::fabs(c.z)}), c.w) << name << " leaves the picture at " << yaw;
                const float x = (c.x / c.w * 0.5f + 0.5f) * 300, y = (c.y / c.w * 0.5f + 0.5f) * 200;
                ASSERT_TRUE(x >= float(v.left) && x <= float(v.left + v.across) && y >= float(v.bottom) && y <= float(v.bottom + v.tall))
                    << "the part that is drawn holds it";
            }
            const float now = lengthOf(difference(v.eye, v.centre));
            EXPECT_NEAR(now, distance.value_or(now), 1e-3f) << "turning comes no nearer";
            distance = now;
        }
    }
}

TEST(View, TheSunGoesWithTheLight) {
    const Project p = bareProject();
    Assets assets;
    LookCache looks;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    RenderSettings s;
    const View still = viewOf(dressed, s, 100, 80);
    s.rotation = 90;
    s.sun = 2;
    const View turned = viewOf(dressed, s, 100, 80);
    // A quarter of a turn about Y takes +X to -Z or +Z, and the height stays.
    EXPECT_NEAR(turned.sun.direction[1], still.sun.direction[1], 1e-6f);
    EXPECT_NEAR(turned.sun.direction[0], -still.sun.direction[2], 1e-6f);
    EXPECT_NEAR(turned.sun.direction[2], still.sun.direction[0], 1e-6f);
    EXPECT_NEAR(turned.sun.radiance[0], 2 * still.sun.radiance[0], 1e-5f);
    // The light and its sun turn the same way: the direction of the sun, turned back, is where the light has it.
    EXPECT_NEAR(lengthOf(turned.sun.direction), 1, 1e-5f);
}

TEST(RadianceLevels, KeepTheMeanAndReadBetweenPixels) {
    std::mt19937 random(2);
    std::uniform_real_distribution<float> unit(0, 4);
    std::vector<Rgb> pixels(64 * 32);
    Rgb mean{};
    for (Rgb& p : pixels) {
        p = {unit(random), unit(random), unit(random)};
        mean = sum(mean, scaled(p, 1.f / (64 * 32)));
    }
    const RadianceLevels levels(pixels, 64, 32);
    EXPECT_EQ(levels.levels(), 7) << "64, 32, 16, 8, 4, 2, 1";
    const Rgb last = levels.at(0.3f, 0.8f, 6);
    for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(last[c], mean[c], 1e-4f);
    EXPECT_EQ(levels.at(10.5f / 64, 7.5f / 32, 0), pixels[7 * 64 + 10]) << "the middle of a pixel";
    const Rgb between = levels.at(11.f / 64, 7.5f / 32, 0);
    for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(between[c], (pixels[7 * 64 + 10][c] + pixels[7 * 64 + 11][c]) / 2, 1e-5f);
    EXPECT_EQ(levels.at(-0.5f, 0.5f / 32, 0), pixels[0]) << "held at the edge";
}

} // namespace
} // namespace hue
