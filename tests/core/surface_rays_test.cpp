// Rays and nearest points on meshes, against every triangle tried one by one.
#include "core/base/vectors.h"
#include "core/mesh/surface_rays.h"
#include "core/paint/occlusion.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <random>

namespace hue {
namespace {

Rgb anywhere(std::mt19937& random, float reach) {
    std::uniform_real_distribution<float> at(-reach, reach);
    return {at(random), at(random), at(random)};
}

/// Möller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997, in double precision; infinite where nothing is met.
double bruteForce(const Mesh& mesh, const Ray& ray) {
    const glm::dvec3 from(vectorOf(ray.from)), d(glm::normalize(glm::dvec3(vectorOf(ray.towards))));
    double nearest = INFINITY;
    for (size_t t = 0; t < mesh.indices.size(); t += 3) {
        glm::dvec3 c[3];
        for (size_t k = 0; k < 3; ++k) c[k] = glm::dvec3(vectorOf(mesh.vertices[mesh.indices[t + k]].position));
        const glm::dvec3 e1 = c[1] - c[0], e2 = c[2] - c[0], p = glm::cross(d, e2);
        const double det = glm::dot(e1, p);
        if (std::fabs(det) < 1e-14) continue;
        const glm::dvec3 s = from - c[0], q = glm::cross(s, e1);
        const double u = glm::dot(s, p) / det, v = glm::dot(d, q) / det, along = glm::dot(e2, q) / det;
        if (u >= 0 && v >= 0 && u + v <= 1 && along > 0) nearest = std::min(nearest, along);
    }
    return nearest;
}

TEST(SurfaceRays, MeetWhatEveryTriangleTriedMeets) {
    const auto torus = std::make_shared<Mesh>(makeTorus(20));
    const SurfaceRays rays(torus);
    std::mt19937 random(5);
    int hits = 0, covered = 0;
    for (int k = 0; k < 2000; ++k) {
        Ray ray{anywhere(random, 2), anywhere(random, 1)};
        const double expected = bruteForce(*torus, ray);
        const auto hit = rays.hit(ray);
        ASSERT_EQ(hit.has_value(), std::isfinite(expected)) << k;
        const Rgb direction = unit(ray.towards);
        EXPECT_EQ(rays.covered(ray.from, direction, 1), expected < 1) << k;
        covered += expected < 1;
        if (!hit) continue;
        ++hits;
        EXPECT_NEAR(double(hit->distance), expected, 1e-4);
        // The point is where weights and corners say, and on the ray.
        EXPECT_NEAR(lengthOf(difference(hit->position, sum(ray.from, scaled(direction, hit->distance)))), 0, 1e-4f);
        EXPECT_NEAR(hit->weights[0] + hit->weights[1] + hit->weights[2], 1, 1e-5f);
        EXPECT_NEAR(lengthOf(hit->normal), 1, 1e-5f);
    }
    EXPECT_GT(hits, 200);
    EXPECT_GT(covered, 50);
}

TEST(SurfaceRays, TheNearestPointIsNearerThanAnyOtherAndLooksTheSameWayWhereAsked) {
    const auto cube = std::make_shared<Mesh>(makeCube(3));
    const SurfaceRays rays(cube);
    std::mt19937 random(7);
    for (int k = 0; k < 300; ++k) {
        const Rgb at = anywhere(random, 2);
        const auto nearest = rays.nearest(at);
        ASSERT_TRUE(nearest);
        // Of a cube it is known: the point brought inside, or out to the nearest face.
        const float half = boundsOf(*cube).high[0];
        Rgb inside;
        float expected = 0;
        for (size_t c = 0; c < 3; ++c) inside[c] = std::clamp(at[c], -half, half);
        expected = lengthOf(difference(at, inside));
        if (expected == 0) expected = half - std::max({std::fabs(at[0]), std::fabs(at[1]), std::fabs(at[2])});
        EXPECT_NEAR(nearest->distance, expected, 1e-4f);
        EXPECT_NEAR(lengthOf(difference(nearest->position, at)), nearest->distance, 1e-4f);
        const Rgb up{0, 1, 0};
        const auto top = rays.nearest(at, &up);
        ASSERT_TRUE(top);
        EXPECT_GT(top->normal[1], 0.9f);
        EXPECT_NEAR(top->position[1], half, 1e-5f);
    }
}

TEST(SurfaceRays, LeaveOutWhatHasNoAreaOrIsNoNumber) {
    auto mesh = std::make_shared<Mesh>(makePlane(1));
    Vertex nowhere;
    nowhere.position = {NAN, 0, 0};
    mesh->vertices.push_back(nowhere);
    const auto last = uint32_t(mesh->vertices.size() - 1);
    for (const uint32_t i : {0u, 1u, last, 0u, 0u, 1u}) mesh->indices.push_back(i);
    const SurfaceRays rays(mesh);
    const auto hit = rays.hit({{0.1f, 2, 0.2f}, {0, -1, 0}});
    ASSERT_TRUE(hit);
    EXPECT_NEAR(hit->distance, 2, 1e-5f);
    EXPECT_FALSE(rays.hit({{0.1f, 2, 0.2f}, {0, 1, 0}}));
    EXPECT_NEAR(rays.nearest({0.1f, 0.5f, 0.2f})->distance, 0.5f, 1e-5f);
}

/// Two triangles that make a rectangle from four corners.
void addRectangle(Mesh& mesh, const std::array<Rgb, 4>& corners, const Rgb& normal) {
    const auto first = uint32_t(mesh.vertices.size());
    for (const Rgb& c : corners) {
        Vertex v;
        v.position = c, v.normal = normal;
        mesh.vertices.push_back(v);
    }
    for (const uint32_t i : {0u, 1u, 2u, 0u, 2u, 3u}) mesh.indices.push_back(first + i);
    mesh.slots = {{"all", 0, uint32_t(mesh.indices.size())}};
}

TEST(Occlusion, IsTheFormFactorOfWhatLiesAbove) {
    // A point of the floor below a square of half side a at height h. The form factor of a square that is parallel and centred, by the
    // table of differential elements (Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", B-3), four times a corner's.
    for (const float h : {0.25f, 0.5f, 1.f}) {
        const float a = 0.5f;
        Mesh mesh;
        addRectangle(mesh, {Rgb{0, 0, 0}, Rgb{0.01f, 0, 0}, Rgb{0.01f, 0, 0.01f}, Rgb{0, 0, 0.01f}}, {0, 1, 0});
        addRectangle(mesh, {Rgb{-a, h, -a}, Rgb{a, h, -a}, Rgb{a, h, a}, Rgb{-a, h, a}}, {0, -1, 0});
        const MeshNeighbours neighbours(mesh);
        const float x = a / h, root = std::sqrt(1 + x * x);
        const float expected = 4 / (2 * std::numbers::pi_v<float>)*2 * (x / root * std::atan(x / root));
        EXPECT_NEAR(occlusionAt(mesh, neighbours, 10)[neighbours.placeOf(0)], expected, 0.02f) << h;
        EXPECT_EQ(occlusionAt(mesh, neighbours, h / 2)[neighbours.placeOf(0)], 0) << "it lies beyond the reach";
    }
    // Beside a high and wide wall half of the sky is gone; on a sphere nothing is.
    Mesh corner;
    addRectangle(corner, {Rgb{0, 0, 0}, Rgb{0.01f, 0, 0}, Rgb{0.01f, 0, 0.01f}, Rgb{0, 0, 0.01f}}, {0, 1, 0});
    addRectangle(corner, {Rgb{-1e-3f, -1, -500}, Rgb{-1e-3f, 500, -500}, Rgb{-1e-3f, 500, 500}, Rgb{-1e-3f, -1, 500}}, {1, 0, 0});
    const MeshNeighbours neighbours(corner);
    EXPECT_NEAR(occlusionAt(corner, neighbours, 2000)[neighbours.placeOf(0)], 0.5f, 0.06f);
    const Mesh sphere = makeSphere(24);
    for (const float x : occlusionAt(sphere, MeshNeighbours(sphere), 10)) EXPECT_EQ(x, 0);
}

} // namespace
} // namespace hue
