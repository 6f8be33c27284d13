// Meshes with paint on them, that are painted over in place when nobody looks at them any more.
#include "core/paint/painted_meshes.h"

#include <atomic>
#include <cstring>
#include <deque>
#include <gtest/gtest.h>
#include <random>
#include <set>
#include <thread>

namespace hue {
namespace {

/// A stroke's next touch: 50 vertices close together, of any channel.
PaintDataPtr touched(const PaintDataPtr& paint, std::mt19937& random) {
    const uint32_t first = uint32_t(random() % (paint->vertices() - 50));
    std::vector<uint32_t> vertices;
    std::vector<float> values;
    for (uint32_t i = 0; i < 50; ++i) vertices.push_back(first + i), values.push_back(float(random() % 256) / 255);
    return std::make_shared<PaintData>(paint->with(int(random() % 8), vertices, values));
}

bool same(const Mesh& a, const Mesh& b) {
    return a.hasColors == b.hasColors && a.hasColors1 == b.hasColors1 && a.indices == b.indices && a.vertices.size() == b.vertices.size() &&
           std::memcmp(a.vertices.data(), b.vertices.data(), a.vertices.size() * sizeof(Vertex)) == 0;
}

TEST(PaintedMeshes, AreWhatTheirPaintSaysForAsLongAsTheyAreHeld) {
    // Two meshes in turns, undo now and then, and up to six pictures that are still looked at.
    const std::shared_ptr<const Mesh> meshes[] = {std::make_shared<Mesh>(makeSphere(70)), std::make_shared<Mesh>(makeTorus(80))};
    std::mt19937 random(3);
    PaintedMeshes painted;
    std::vector<PaintDataPtr> paints[2];
    for (int m = 0; m < 2; ++m) paints[m].push_back(std::make_shared<PaintData>(meshes[m]));
    struct Held {
        int mesh = 0;
        PaintDataPtr paint;
        MeshPtr made;
    };
    std::deque<Held> held;
    for (int k = 0; k < 300; ++k) {
        const int m = random() % 4 == 0;
        const bool undone = random() % 5 == 0;
        if (!undone) paints[m].push_back(touched(paints[m].back(), random));
        const PaintDataPtr& paint = undone ? paints[m][random() % paints[m].size()] : paints[m].back();
        held.push_back({m, paint, painted.get(meshes[m], paint)});
        while (held.size() > random() % 7) held.erase(held.begin() + long(random() % held.size()));
        for (const Held& h : held) ASSERT_TRUE(same(*h.made, hue::painted(*meshes[h.mesh], *h.paint))) << "after " << k;
    }
}

TEST(PaintedMeshes, OfAStrokeAreNotCopied) {
    const auto mesh = std::make_shared<const Mesh>(makeSphere(70));
    std::mt19937 random(4);
    PaintedMeshes painted;
    PaintDataPtr paint = std::make_shared<PaintData>(mesh);
    MeshPtr drawn = painted.get(mesh, paint);
    std::set<const Vertex*> places;
    for (int k = 0; k < 100; ++k) {
        paint = touched(paint, random);
        const MeshPtr next = painted.get(mesh, paint); // while the picture before is still there
        EXPECT_NE(next.get(), drawn.get()) << "a renderer would take it for the one that it has";
        EXPECT_EQ(painted.get(mesh, paint), next);
        drawn = next;
        places.insert(drawn->vertices.data());
    }
    EXPECT_LE(places.size(), 4u);
}

// Two specimens of one mesh, each with a paintwork of its own: what is painted on the one leaves the other's mesh as it is.
TEST(PaintedMeshes, OfOnePaintworkStayWhileAnotherIsPainted) {
    const auto mesh = std::make_shared<const Mesh>(makeSphere(70));
    std::mt19937 random(8);
    PaintedMeshes painted;
    PaintDataPtr paint = std::make_shared<PaintData>(mesh);
    std::vector<PaintDataPtr> others;
    std::vector<MeshPtr> theirs;
    for (int k = 0; k < 5; ++k) {
        others.push_back(touched(paint, random));
        theirs.push_back(painted.get(mesh, others.back()));
    }
    MeshPtr drawn;
    std::set<const Vertex*> places;
    for (int k = 0; k < 40; ++k) {
        paint = touched(paint, random);
        drawn = painted.get(mesh, paint);
        places.insert(drawn->vertices.data());
        for (size_t o = 0; o < others.size(); ++o) ASSERT_EQ(painted.get(mesh, others[o]), theirs[o]) << "after " << k;
    }
    EXPECT_LE(places.size(), 4u) << "and nothing is copied all the same";
    // Without anybody who holds them, two in turns stay as well.
    theirs.clear();
    const Mesh* one = painted.get(mesh, others[0]).get();
    const Mesh* two = painted.get(mesh, others[1]).get();
    for (int k = 0; k < 4; ++k) {
        EXPECT_EQ(painted.get(mesh, others[0]).get(), one);
        EXPECT_EQ(painted.get(mesh, others[1]).get(), two);
    }
}

TEST(PaintedMeshes, OutliveWhatMadeThem) {
    const auto mesh = std::make_shared<const Mesh>(makePlane(4));
    auto painted = std::make_unique<PaintedMeshes>();
    const auto paint = std::make_shared<PaintData>(mesh);
    const MeshPtr made = painted->get(mesh, paint);
    painted = nullptr;
    EXPECT_TRUE(same(*made, hue::painted(*mesh, *paint)));
}

TEST(PaintedMeshes, MayBeAskedForAndLetGoOnAnyThread) {
    const auto mesh = std::make_shared<const Mesh>(makeSphere(20));
    PaintedMeshes painted;
    std::atomic<int> wrong = 0;
    std::vector<std::thread> threads;
    for (uint32_t t = 0; t < 3; ++t)
        threads.emplace_back([&, t] {
            std::mt19937 random(t);
            PaintDataPtr paint = std::make_shared<PaintData>(mesh);
            for (int k = 0; k < 60; ++k) {
                paint = touched(paint, random);
                const MeshPtr made = painted.get(mesh, paint);
                if (!same(*made, hue::painted(*mesh, *paint))) ++wrong;
            }
        });
    for (std::thread& t : threads) t.join();
    EXPECT_EQ(wrong, 0);
}

} // namespace
} // namespace hue
