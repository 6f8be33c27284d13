// Paint as a value, in files, on a mesh that changes, and as a map.
#include "core/mesh/paint_data.h"
#include "core/paint/carry_over.h"
#include "core/paint/paint_map.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"

#include <cmath>
#include <cstring>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

MeshPtr sphere(int detail = 40) { return std::make_shared<Mesh>(makeSphere(detail)); }

std::vector<float> noiseOf(uint32_t seed, size_t count) {
    std::mt19937 random(seed);
    std::vector<float> out(count);
    for (float& x : out) x = float(random() % 1001) / 1000;
    return out;
}

TEST(PaintData, IsWhatAListOfNumbersWouldBeAfterAnyChanges) {
    for (const int bits : {8, 16}) {
        const MeshPtr mesh = sphere(70); // more than two blocks
        ASSERT_GT(mesh->vertices.size(), 8192u);
        const float step = bits == 8 ? 255.f : 65535.f;
        std::vector<std::vector<float>> twin(8, std::vector<float>(mesh->vertices.size()));
        PaintData paint(mesh, bits);
        std::mt19937 random(9);
        for (int k = 0; k < 40; ++k) {
            const int c = int(random() % 8);
            std::vector<uint32_t> vertices;
            std::vector<float> values;
            for (int i = 0; i < 200; ++i) {
                vertices.push_back(uint32_t(random() % mesh->vertices.size()));
                values.push_back(float(random() % 1201) / 1000 - 0.1f);
                twin[size_t(c)][vertices.back()] = std::round(std::clamp(values.back(), 0.f, 1.f) * step) / step;
            }
            const PaintData before = paint;
            const std::string was = before.fingerprint();
            paint = paint.with(c, vertices, values);
            // On the mesh, what has changed is all that has to be put on anew.
            if (k % 8 == 0) {
                const Mesh whole = painted(*mesh, paint);
                Mesh again = painted(*mesh, before);
                repaint(again, before, paint);
                EXPECT_EQ(std::memcmp(whole.vertices.data(), again.vertices.data(), whole.vertices.size() * sizeof(Vertex)), 0);
                EXPECT_EQ(whole.hasColors1, again.hasColors1);
                for (size_t v = 0; v < whole.vertices.size(); ++v)
                    for (int channel = 0; channel < 8; ++channel) {
                        const Vertex& at = whole.vertices[v];
                        ASSERT_EQ((channel < 4 ? at.color : at.color1)[size_t(channel % 4)], paint.value(channel, v));
                    }
            }
            for (const auto& [first, end] : paint.changedFrom(before)) {
                const auto within = [&, first = first, end = end](uint32_t v) { return v >= first && v < end; };
                EXPECT_TRUE(std::any_of(vertices.begin(), vertices.end(), within)) << "nothing was painted there";
            }
            EXPECT_EQ(before.fingerprint(), was) << "what it came from stays as it was";
            EXPECT_NE(paint.fingerprint(), was);
        }
        for (int c = 0; c < 8; ++c) {
            const std::vector<float> values = paint.channel(c);
            for (size_t v = 0; v < values.size(); ++v) {
                ASSERT_NEAR(values[v], twin[size_t(c)][v], 1e-6f);
                ASSERT_EQ(values[v], paint.value(c, v));
            }
        }
        // The same paint by another way is the same.
        PaintData again(mesh, bits);
        for (int c = 0; c < 8; ++c) again = again.with(c, twin[size_t(c)]);
        EXPECT_EQ(again.fingerprint(), paint.fingerprint());
        const std::vector<float> odd{NAN, INFINITY, -INFINITY};
        const std::vector<uint32_t> three{0, 1, 2};
        const PaintData strange = paint.with(0, three, odd);
        EXPECT_EQ(strange.value(0, 0), 0);
        EXPECT_EQ(strange.value(0, 1), 1);
        EXPECT_EQ(strange.value(0, 2), 0);
    }
}

class PaintFiles : public InFolder {};

TEST_F(PaintFiles, HoldThePaintAsVertexColorsThatAnyReaderFinds) {
    for (const int bits : {8, 16})
        for (const bool second : {false, true}) {
            const MeshPtr mesh = sphere(12);
            PaintData paint(mesh, bits);
            for (const int c : {0, 2, 3}) paint = paint.with(c, noiseOf(uint32_t(c), mesh->vertices.size()));
            if (second) paint = paint.with(5, noiseOf(5, mesh->vertices.size()));
            const auto file = folder / "side.glb";
            ASSERT_TRUE(writePaint(file, paint, std::vector<std::string>{"rust", "", "dirt"}));
            // By the standard's own words.
            const Glb glb(file);
            const auto colors = glb.colors("COLOR_0");
            ASSERT_EQ(colors.size(), mesh->vertices.size());
            for (size_t v = 0; v < colors.size(); ++v)
                for (int c = 0; c < 4; ++c) ASSERT_NEAR(colors[v][size_t(c)], paint.value(c, v), 1e-6f);
            EXPECT_EQ(glb.has("COLOR_1"), second);
            EXPECT_EQ(glb.componentType("COLOR_0"), bits == 8 ? 5121 : 5123) << "unsigned bytes or shorts";
            // And back, the same to the last step.
            const Result<PaintData> back = readPaint(file);
            ASSERT_TRUE(back) << back.error().sentence;
            EXPECT_EQ(back->fingerprint(), paint.fingerprint());
            EXPECT_EQ(fingerprintOfPaintFile(file), paint.fingerprint());
            EXPECT_EQ(back->bits(), bits);
        }
}

TEST_F(PaintFiles, KeepTheVerticesOfAMeshOfSeveralSlots) {
    auto mesh = std::make_shared<Mesh>(makePlane(4));
    const auto half = uint32_t(mesh->indices.size() / 6 * 3);
    mesh->slots = {{"left", 0, half}, {"right", half, uint32_t(mesh->indices.size()) - half}};
    const PaintData paint = PaintData(mesh).with(1, noiseOf(3, mesh->vertices.size()));
    ASSERT_TRUE(writePaint(folder / "p.glb", paint));
    const Result<PaintData> back = readPaint(folder / "p.glb");
    ASSERT_TRUE(back) << back.error().sentence;
    EXPECT_EQ(back->vertices(), mesh->vertices.size()) << "what the slots share is one vertex";
    EXPECT_EQ(back->fingerprint(), paint.fingerprint());
    EXPECT_EQ(readMesh(folder / "p.glb")->vertices.size(), mesh->vertices.size());
}

TEST_F(PaintFiles, AreRefusedInWordsWhenTheyAreDamagedAndReadAsTheyAreWhenTheyAreForeign) {
    const MeshPtr mesh = sphere(6);
    const PaintData paint = PaintData(mesh).with(0, noiseOf(1, mesh->vertices.size()));
    const auto file = folder / "p.glb";
    ASSERT_TRUE(writePaint(file, paint));
    std::ifstream in(file, std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    for (size_t size = 0; size < whole.size(); size += 1 + whole.size() / 97) {
        std::ofstream(folder / "cut.glb", std::ios::binary) << whole.substr(0, size);
        const Result<PaintData> cut = readPaint(folder / "cut.glb");
        ASSERT_FALSE(cut) << size;
        EXPECT_EQ(cut.error().code, "paint.unreadable");
        fingerprintOfPaintFile(folder / "cut.glb"); // says nothing, or something, and ends
    }
    EXPECT_EQ(readPaint(folder / "gone.glb").error().code, "paint.unreadable");
    EXPECT_EQ(fingerprintOfPaintFile(folder / "gone.glb"), "");
    // A mesh that another program has colored.
    Mesh colored = *mesh;
    colored.hasColors = true;
    for (size_t v = 0; v < colored.vertices.size(); ++v) colored.vertices[v].color = {0.25f, 0, float(v % 2), 1};
    ASSERT_TRUE(writeMesh(folder / "foreign.glb", colored));
    const Result<PaintData> foreign = readPaint(folder / "foreign.glb");
    ASSERT_TRUE(foreign) << foreign.error().sentence;
    EXPECT_EQ(fingerprintOfPaintFile(folder / "foreign.glb"), "");
    for (size_t v = 0; v < colored.vertices.size(); ++v)
        for (int c = 0; c < 4; ++c) ASSERT_NEAR(foreign->value(c, v), colored.vertices[v].color[size_t(c)], 1e-4f);
}

TEST(CarriedPaint, IsTheSameOnTheSameMeshAndFollowsTheSurfaceOnAFinerOne) {
    const MeshPtr coarse = sphere(20), fine = sphere(47);
    std::vector<float> heights;
    for (const Vertex& v : coarse->vertices) heights.push_back(v.position[1] * 0.5f + 0.5f);
    const PaintData paint = PaintData(coarse, 16).with(2, heights);
    const CarriedPaint same = carriedOver(paint, coarse);
    EXPECT_EQ(same.paint.fingerprint(), paint.fingerprint());
    EXPECT_NEAR(same.furthest, 0, 1e-6f);
    const CarriedPaint carried = carriedOver(paint, fine);
    ASSERT_EQ(carried.paint.vertices(), fine->vertices.size());
    // Height is linear, so what triangles carry is exact but for the way to the surface.
    for (size_t v = 0; v < fine->vertices.size(); ++v)
        ASSERT_NEAR(carried.paint.value(2, v), fine->vertices[v].position[1] * 0.5f + 0.5f, 0.01f);
    EXPECT_GT(carried.furthest, 0);
    EXPECT_LT(carried.furthest, 0.02f) << "the arrow of a chord of 9 degrees is 0.3 % of the radius, across the diagonal twice that";
    EXPECT_FALSE(carried.paint.isPainted(0));
}

TEST(CarriedPaint, KeepsTheTwoSidesOfAWallApart) {
    // A wall of 1 mm; the front is painted.
    const auto wall = [](int detail) {
        Mesh mesh = makePlane(detail);
        const auto count = uint32_t(mesh.vertices.size());
        for (uint32_t v = 0; v < count; ++v) {
            Vertex back = mesh.vertices[v];
            back.position[1] -= 0.001f, back.normal = {0, -1, 0};
            mesh.vertices.push_back(back);
        }
        const size_t corners = mesh.indices.size();
        for (size_t t = 0; t < corners; t += 3)
            for (const size_t k : {0u, 2u, 1u}) mesh.indices.push_back(mesh.indices[t + k] + count);
        mesh.slots[0].indexCount *= 2;
        return std::make_shared<Mesh>(std::move(mesh));
    };
    const auto old = wall(6), now = wall(11);
    std::vector<float> front;
    for (const Vertex& v : old->vertices) front.push_back(v.normal[1] > 0 ? 1.f : 0.f);
    const CarriedPaint carried = carriedOver(PaintData(old).with(0, front), now);
    for (size_t v = 0; v < now->vertices.size(); ++v) ASSERT_EQ(carried.paint.value(0, v), now->vertices[v].normal[1] > 0 ? 1.f : 0.f) << v;
}

TEST(PaintMap, IsThePaintWhereTheUvsSayAndItsNearestElsewhere) {
    // A square that fills the left half of the UVs, painted by its U.
    Mesh mesh = makePlane(8);
    PaintChannel channel;
    for (Vertex& v : mesh.vertices) {
        channel.push_back(v.uv0[0]);
        v.uv0[0] *= 0.5f;
    }
    const Result<PaintMap> map = mapOfPaint(mesh, channel, 64);
    ASSERT_TRUE(map) << map.error().sentence;
    EXPECT_NEAR(map->covered, 0.5f, 0.01f);
    EXPECT_EQ(map->ambiguous, 0);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) {
            // Beyond the middle the right edge is nearest, and then the left one, around the back.
            const float expected = x < 32 ? (float(x) + 0.5f) / 32 : x < 48 ? 31.5f / 32 : 0.5f / 32;
            ASSERT_NEAR(map->values.at(x, y), expected, 1e-4f) << x << " " << y;
        }
    // UVs beyond 0..1 come in again; two halves upon each other are told.
    Mesh twice = makePlane(8);
    PaintChannel two;
    for (Vertex& v : twice.vertices) {
        two.push_back(v.uv0[0] < 0.5f ? 0.f : 1.f);
        v.uv0[0] *= 2;
    }
    EXPECT_GT(mapOfPaint(twice, two, 32)->ambiguous, 0.4f);
    for (Vertex& v : twice.vertices) v.uv0 = {0.5f, 0.5f};
    EXPECT_EQ(mapOfPaint(twice, two, 32).error().code, "paint.no-uvs");
}

} // namespace
} // namespace hue
