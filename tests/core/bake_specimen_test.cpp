// What a specimen shows, baked over its own UVs.
#include "core/dispatch/dispatch.h"
#include "core/image_files/image_file.h"
#include "core/make/bake_specimen.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

/// One component of an attribute at all texels.
std::vector<float> texelsOf(const UnwrappedMesh& mesh, int size, Attribute attribute, int component) {
    std::vector<float> out(size_t(size) * size_t(size)), lanes(kBlockLanes);
    for (int y = 0; y < size; y += kBlockRows)
        for (int x = 0; x < size; x += kBlockColumns) {
            mesh.fill(x, y, attribute, component, lanes.data());
            for (int r = 0; r < kBlockRows && y + r < size; ++r)
                for (int i = 0; i < kBlockColumns && x + i < size; ++i)
                    out[size_t(y + r) * size_t(size) + size_t(x + i)] = lanes[size_t(r * kBlockColumns + i)];
        }
    return out;
}

/// A mesh whose triangles are thrown on the square at random, each with room for itself: UVs of the two halves of the cells of a grid.
Mesh scattered(uint32_t seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> any(-1, 1);
    Mesh mesh;
    for (int cell = 0; cell < 9; ++cell) {
        const float u = float(cell % 3) / 3, v = float(cell / 3) / 3;
        const std::array<float, 2> corners[] = {{u + 0.03f, v + 0.02f}, {u + 0.3f, v + 0.05f}, {u + 0.06f, v + 0.31f}};
        for (const auto& uv : corners) {
            Vertex vertex;
            vertex.position = {any(random), any(random), any(random)};
            vertex.uv0 = uv;
            vertex.uv1 = {any(random), any(random)};
            mesh.indices.push_back(uint32_t(mesh.vertices.size()));
            mesh.vertices.push_back(vertex);
        }
    }
    mesh.slots = {{"all", 0, uint32_t(mesh.indices.size())}};
    makeNormals(mesh);
    makeTangents(mesh);
    return mesh;
}

// By the equation of each triangle, in double precision, texel by texel.
TEST(UnwrappedMeshes, KnowWhereEachTexelLies) {
    constexpr int size = 47;
    for (uint32_t seed = 1; seed <= 4; ++seed) {
        const auto mesh = std::make_shared<Mesh>(scattered(seed));
        const Result<UnwrappedMesh> points = UnwrappedMesh::of(mesh, mesh->slots[0], size);
        ASSERT_TRUE(points) << points.error().sentence;
        EXPECT_EQ(points->shared(), 0);
        std::vector<float> position[3], uv[2] = {texelsOf(*points, size, Attribute::Uv0, 0), texelsOf(*points, size, Attribute::Uv0, 1)};
        for (int c = 0; c < 3; ++c) position[c] = texelsOf(*points, size, Attribute::PositionObject, c);
        int held = 0;
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const size_t at = size_t(y * size + x);
                const double u = (x + 0.5) / size, v = (y + 0.5) / size;
                // UVs go on evenly beyond the triangles, over the edge of the square as well.
                ASSERT_NEAR(std::remainder(uv[0][at] - u, 1), 0, 1e-5);
                ASSERT_NEAR(std::remainder(uv[1][at] - v, 1), 0, 1e-5);
                for (size_t t = 0; t < mesh->indices.size(); t += 3) {
                    const Vertex &a = mesh->vertices[mesh->indices[t]], &b = mesh->vertices[mesh->indices[t + 1]],
                                 &c = mesh->vertices[mesh->indices[t + 2]];
                    const double whole = (double(b.uv0[0]) - a.uv0[0]) * (double(c.uv0[1]) - a.uv0[1]) -
                                         (double(c.uv0[0]) - a.uv0[0]) * (double(b.uv0[1]) - a.uv0[1]);
                    const double wb =
                        ((u - a.uv0[0]) * (double(c.uv0[1]) - a.uv0[1]) - (double(c.uv0[0]) - a.uv0[0]) * (v - a.uv0[1])) / whole;
                    const double wc =
                        ((double(b.uv0[0]) - a.uv0[0]) * (v - a.uv0[1]) - (u - a.uv0[0]) * (double(b.uv0[1]) - a.uv0[1])) / whole;
                    if (wb < 0 || wc < 0 || wb + wc > 1) continue;
                    ++held;
                    for (size_t k = 0; k < 3; ++k)
                        ASSERT_NEAR(position[k][at], a.position[k] * (1 - wb - wc) + b.position[k] * wb + c.position[k] * wc, 1e-5)
                            << x << " " << y;
                }
            }
        EXPECT_GT(held, 300);
    }
}

TEST(UnwrappedMeshes, TurnDirectionsIntoTheFrameThatLeadsBack) {
    constexpr int size = 32;
    for (const char* shape : {"shape:sphere/2", "shape:torus/2", "shape:sheet/1"}) {
        const MeshPtr mesh = shapeById(shape);
        ASSERT_TRUE(mesh) << shape;
        const Result<UnwrappedMesh> points = UnwrappedMesh::of(mesh, mesh->slots[0], size);
        ASSERT_TRUE(points);
        std::vector<float> axes[3][3];
        const Attribute of[] = {Attribute::TangentWorld, Attribute::BitangentWorld, Attribute::NormalWorld};
        for (size_t a = 0; a < 3; ++a)
            for (int c = 0; c < 3; ++c) axes[a][c] = texelsOf(*points, size, of[a], c);
        std::mt19937 random(5);
        std::normal_distribution<float> any;
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const size_t at = size_t(y * size + x);
                const Rgb d = *directionOf({any(random), any(random), any(random)});
                const Rgb framed = points->inFrame(x, y, d);
                Rgb back{};
                for (size_t c = 0; c < 3; ++c)
                    for (size_t a = 0; a < 3; ++a) back[c] += framed[a] * axes[a][c][at];
                back = directionOf(back).value_or(Rgb{});
                for (size_t c = 0; c < 3; ++c) ASSERT_NEAR(back[c], d[c], 2e-4f) << shape << " " << x << " " << y;
            }
    }
}

class BakedSpecimens : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        assets.setFolder(folder);
    }
    Assets assets;

    /// A base color that follows the height of the place on the mesh.
    static Project byHeight() {
        Project p = bareProject();
        const Id place = add(p, "position");
        channel(p, {place, "out", ""}, "base_color");
        return p;
    }
    static Specimen on(const char* mesh) { return Specimen{.mesh = mesh, .wears = {"m"}}; }
};

TEST_F(BakedSpecimens, HoldWhatTheSurfaceHasOfItsMesh) {
    const Project p = byHeight();
    constexpr int size = 32;
    const auto baked = bakeSpecimen(p, assets, on("shape:plane"), {size, 0, 0, {}});
    ASSERT_TRUE(baked) << baked.error().sentence;
    ASSERT_EQ(baked->slots.size(), 1u);
    EXPECT_TRUE(baked->cautions().empty()) << baked->cautions()[0];
    // UVs lie evenly along X and Z of the plane.
    const float reach = boundsOf(*shapeById("shape:plane")).high[0];
    const Picture& color = baked->slots[0].set.maps[0].picture;
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
            const float* at = color.values.data() + (y * size + x) * 3;
            ASSERT_NEAR(at[0], ((float(x) + 0.5f) / size * 2 - 1) * reach, 1e-4f);
            ASSERT_NEAR(at[1], 0, 1e-5f);
            ASSERT_NEAR(std::fabs(at[2]), std::fabs((float(y) + 0.5f) / size * 2 - 1) * reach, 1e-4f);
        }
    // A normal that is the mesh's own is straight up in its frame, however the mesh bends.
    const auto ball = bakeSpecimen(p, assets, on("shape:sphere/3"), {size, 0, 0, {}});
    ASSERT_TRUE(ball);
    EXPECT_TRUE(ball->slots[0].set.normalIsFlat);
    // The flat bake of the same says that it does not hold it.
    const auto flat = bake(p, assets, {"m", size, 0, {}});
    ASSERT_TRUE(flat);
    EXPECT_FALSE(flat->cautions.empty());
}

// What stands at the origin is held as it stands; of several placements one can be.
TEST_F(BakedSpecimens, SayWhatDependsOnWhereTheyStand) {
    Project p = bareProject();
    const Id world = add(p, "position", {}, {{"space", "world"}}),
             turned = add(p, "transform_vector", {}, {{"from", "object"}, {"to", "world"}});
    wire(p, {world, "out", ""}, turned, "in");
    channel(p, {turned, "out", ""}, "base_color");
    Specimen s = on("shape:plane");
    const auto alone = bakeSpecimen(p, assets, s, {8, 0, 0, {}});
    ASSERT_TRUE(alone) << alone.error().sentence;
    EXPECT_TRUE(alone->cautions().empty()) << alone->cautions()[0];
    s.placements = Placements{};
    const auto many = bakeSpecimen(p, assets, s, {8, 0, 0, {}});
    ASSERT_TRUE(many);
    ASSERT_EQ(many->cautions().size(), 1u);
    EXPECT_NE(many->cautions()[0].find("as at the origin"), std::string::npos);
}

TEST_F(BakedSpecimens, SayWhenPartsOfTheMeshShareAPlaceAndDiffer) {
    Mesh twice = makePlane(2);
    const auto first = uint32_t(twice.vertices.size());
    const Mesh one = twice;
    for (Vertex v : one.vertices) {
        v.position[1] += 1;
        twice.vertices.push_back(v);
    }
    for (const uint32_t i : one.indices) twice.indices.push_back(first + i);
    twice.slots = {{"top", 0, uint32_t(twice.indices.size())}};
    ASSERT_TRUE(writeMesh(folder / "twice.glb", twice));
    Project p = *edit::addMesh(byHeight(), {"twice", "twice", "twice.glb", {}});
    const auto shared = bakeSpecimen(p, assets, on("twice"), {16, 0, 0, {}});
    ASSERT_TRUE(shared) << shared.error().sentence;
    ASSERT_EQ(shared->cautions().size(), 1u);
    EXPECT_NE(shared->cautions()[0].find("share"), std::string::npos) << shared->cautions()[0];
    // All but what lies on an edge, where neighbours meet.
    EXPECT_GT(UnwrappedMesh::of(shared->mesh, shared->mesh->slots[0], 16)->shared(), 0.8f);
    // Where only UVs count both are the same, and nothing is to be said.
    Project even = bareProject();
    even = *edit::addMesh(even, {"twice", "twice", "twice.glb", {}});
    const auto same = bakeSpecimen(even, assets, on("twice"), {16, 0, 0, {}});
    ASSERT_TRUE(same);
    EXPECT_TRUE(same->cautions().empty());
}

// A mesh whose first UVs repeat is laid out by its second.
TEST_F(BakedSpecimens, LieByTheSecondUvsWhereThatIsWanted) {
    Mesh mesh = makePlane(4);
    for (Vertex& v : mesh.vertices) v.uv0 = {v.uv1[0] * 3, v.uv1[1] * 3};
    mesh.hasUv1 = true;
    ASSERT_TRUE(writeMesh(folder / "tiled.glb", mesh));
    const Project p = *edit::addMesh(byHeight(), {"tiled", "tiled", "tiled.glb", {}});
    const auto first = bakeSpecimen(p, assets, on("tiled"), {16, 0, 0, {}}), second = bakeSpecimen(p, assets, on("tiled"), {16, 0, 1, {}}),
               plain = bakeSpecimen(p, assets, on("shape:plane"), {16, 0, 0, {}});
    ASSERT_TRUE(first && second && plain);
    EXPECT_FALSE(first->cautions().empty()) << "nine places share each texel";
    EXPECT_TRUE(second->cautions().empty());
    const auto color = [](const BakedSpecimen& b) { return b.slots[0].set.maps[0].picture.values; };
    ASSERT_EQ(color(*second).size(), color(*plain).size());
    for (size_t k = 0; k < color(*second).size(); ++k) ASSERT_NEAR(color(*second)[k], color(*plain)[k], 1e-4f) << k;
    ASSERT_TRUE(dispatchSpecimen(p, assets, on("tiled"), {16, 0, 1, {}}, folder / "out.glb"));
    EXPECT_EQ(Glb(folder / "out.glb").json["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"]["texCoord"], 1);
    EXPECT_TRUE(readMesh(folder / "out.glb")->hasUv1);
    // A mesh without any says so.
    Mesh single = makePlane(2);
    single.hasUv1 = false;
    ASSERT_TRUE(writeMesh(folder / "single.glb", single));
    const Project q = *edit::addMesh(byHeight(), {"single", "single", "single.glb", {}});
    EXPECT_EQ(bakeSpecimen(q, assets, on("single"), {16, 0, 1, {}}).error().code, "bake.no-uvs");
}

TEST_F(BakedSpecimens, AreWrittenSlotBySlotAndRefuseWhatCannotBe) {
    Mesh two = makePlane(2);
    two.slots = {{"Left side", 0, 12}, {"Right side", 12, uint32_t(two.indices.size()) - 12}};
    ASSERT_TRUE(writeMesh(folder / "two.glb", two));
    Project p = *edit::addMesh(bareProject(), {"two", "two", "two.glb", {}});
    p = *edit::addMaster(p, [] {
        Master red;
        red.id = red.name = "red";
        red.graph.channelConstants["base_color"] = Value::vec3(1, 0, 0);
        return red;
    }());
    Specimen s = on("two");
    s.wears = {"m", "red"};
    const auto baked = bakeSpecimen(p, assets, s, {8, 0, 0, {}});
    ASSERT_TRUE(baked) << baked.error().sentence;
    const auto files = writeBake(*baked, folder / "out");
    ASSERT_TRUE(files);
    EXPECT_EQ(files->size(), 8u);
    const Result<Image> left = readImage(folder / "out" / "left_side" / "base_color.png"),
                        right = readImage(folder / "out" / "right_side" / "base_color.png");
    ASSERT_TRUE(left && right);
    EXPECT_NEAR(right->at(0, 0, 0), 1, 1e-3f);
    EXPECT_NEAR(right->at(0, 0, 1), 0, 1e-3f);
    EXPECT_EQ(left->at(0, 0, 0), left->at(0, 0, 1));
    // A GLB has a material for each.
    const auto report = dispatchSpecimen(p, assets, s, {8, 0, 0, {}}, folder / "two_out.glb");
    ASSERT_TRUE(report) << report.error().sentence;
    const nlohmann::json json = Glb(folder / "two_out.glb").json;
    ASSERT_EQ(json["materials"].size(), 2u);
    std::set<int> textures;
    for (const auto& m : json["materials"]) textures.insert(m["pbrMetallicRoughness"]["baseColorTexture"]["index"].get<int>());
    EXPECT_EQ(textures.size(), 2u) << "each with maps of its own";
    EXPECT_EQ(bakeSpecimen(p, assets, s, {3, 0, 0, {}}).error().code, "bake.size");
    EXPECT_EQ(bakeSpecimen(p, assets, on("shape:nothing"), {8, 0, 0, {}}).error().code, "mesh.cannot-use");
    Specimen bare = s;
    bare.wears = {"m", ""};
    EXPECT_EQ(bakeSpecimen(p, assets, bare, {8, 0, 0, {}}).error().code, "bake.nothing");
    EXPECT_NE(bakeSpecimen(p, assets, bare, {8, 0, 0, {}}).error().sentence.find("Right side"), std::string::npos) << "it says which slot";
    EXPECT_EQ(dispatchSpecimen(p, assets, s, {8, 0, 0, {}}, folder / "two.obj").error().code, "dispatch.suffix");
    Work stopped;
    const std::atomic<bool> stop = true;
    stopped.cancelled = &stop;
    EXPECT_EQ(bakeSpecimen(p, assets, s, {64, 0, 0, stopped}).error().code, "bake.cancelled");
}

TEST_F(BakedSpecimens, ComeFromTheCommandLineAsWell) {
    Project p = byHeight();
    p.lineup.specimens = {on("shape:plane")};
    const std::string file = (folder / "p.huestack").string();
    ASSERT_TRUE(saveProject(p, file));
    const auto maps = runHsk("bake " + file + " --specimen 1 --size 16 --out " + (folder / "maps").string());
    EXPECT_EQ(maps.code, 0) << maps.output;
    const auto baked = bakeSpecimen(p, assets, p.lineup.specimens[0], {16, 0, 0, {}});
    ASSERT_TRUE(writeBake(*baked, folder / "ours"));
    EXPECT_EQ(contentOf(folder / "maps" / "base_color.png"), contentOf(folder / "ours" / "base_color.png"));
    EXPECT_EQ(runHsk("dispatch " + file + " --specimen 1 --size 16 --out " + (folder / "p.glb").string()).code, 0);
    EXPECT_TRUE(readMesh(folder / "p.glb"));
    // One or the other, and one that is there.
    for (const char* wrong : {"", "--specimen 2", "--specimen 1 --of M"}) {
        const auto said = runHsk("bake " + file + " " + wrong + " --size 16 --out " + (folder / "none").string());
        EXPECT_EQ(said.code, 2) << wrong;
        EXPECT_TRUE(said.output.starts_with("hsk: ")) << said.output;
        EXPECT_FALSE(std::filesystem::exists(folder / "none"));
    }
    EXPECT_EQ(runHsk("dispatch " + file + " --of M --size 16 --out " + (folder / "none.glb").string()).code, 2) << "on no mesh";
}

} // namespace
} // namespace hue
