// Decals: their boxes on meshes, what they show, and what is said of them.
#include "core/base/vectors.h"
#include "core/decals/decal_box.h"
#include "core/decals/decal_problems.h"
#include "core/decals/decalled.h"
#include "core/edits/starting_points.h"
#include "core/paint/wire_values.h"
#include "core/picture/looks.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

namespace hue {
namespace {

using namespace test;

constexpr const char* kBall = "shape:sphere/1";
constexpr const char* kPlane = "shape:plane/1";

void expectNear(const Rgb& a, const Rgb& b, float most, const std::string& what) {
    for (size_t k = 0; k < 3; ++k) EXPECT_NEAR(a[k], b[k], most) << what << ", component " << k;
}

/// A project with a decal master "d" of one color, half covering, and a plain master "m" that a specimen wears.
Project withDecalMaster(const char* mesh = kPlane) {
    Project p = bareProject();
    Master d;
    d.id = "d", d.name = "Stencil";
    d.surface.decal = true, d.surface.alphaMode = AlphaMode::Blend;
    d.graph.channelConstants = {
        {"base_color", Value::vec3(0.9f, 0.1f, 0.05f)}, {"roughness", Value::number(0.2f)}, {"alpha", Value::number(0.5f)}};
    p.masters.push_back(std::make_shared<Master>(d));
    p.lineup.specimens = {Specimen{.mesh = mesh, .wears = {"m"}}};
    return p;
}
/// Lying in the middle of the plane.
Decal lying(const Id& id = "one") {
    Decal d;
    d.id = id, d.name = "Number", d.wears = "d";
    d.facing = {0, 1, 0};
    return d;
}
Decal wearing(const Id& worn) {
    Decal d;
    d.wears = worn;
    return d;
}
Decal randomDecal(std::mt19937& random, float size = 1) {
    std::uniform_real_distribution<float> any(-1, 1), some(0.2f, 1);
    Decal d = lying();
    for (float& x : d.facing) x = any(random);
    d.position = scaled(*directionOf(d.facing), size);
    d.turn = 180 * any(random);
    d.width = size * some(random), d.height = size * some(random), d.depth = size * some(random);
    return d;
}

TEST(Decals, LieUprightOnWallsAndReadFromTheFrontOnFloors) {
    struct Row {
        Rgb facing;
        float turn;
        Rgb across, up;
    };
    const Row rows[] = {{{0, 0, 1}, 0, {1, 0, 0}, {0, 1, 0}},    {{0, 0, -3}, 0, {-1, 0, 0}, {0, 1, 0}},
                        {{1, 0, 0}, 0, {0, 0, -1}, {0, 1, 0}},   {{0, 2, 0}, 0, {1, 0, 0}, {0, 0, -1}},
                        {{0, 0, 1}, 90, {0, 1, 0}, {-1, 0, 0}},  {{0, 1, 0}, 90, {0, 0, -1}, {-1, 0, 0}},
                        {{0, 0, 1}, 180, {-1, 0, 0}, {0, -1, 0}}};
    for (const Row& row : rows) {
        Decal d;
        d.facing = row.facing, d.turn = row.turn;
        const DecalAxes axes = decalAxes(d);
        const std::string what = fmt::format("facing {} {} {} turned by {}", row.facing[0], row.facing[1], row.facing[2], row.turn);
        expectNear(axes.across, row.across, 1e-6f, what);
        expectNear(axes.up, row.up, 1e-6f, what);
        expectNear(axes.out, unit(row.facing), 1e-6f, what);
    }
    std::mt19937 random(3);
    for (int k = 0; k < 50; ++k) {
        const DecalAxes axes = decalAxes(randomDecal(random));
        expectNear(cross(axes.across, axes.up), axes.out, 1e-5f, "right-handed");
    }
}

// The card on the board projects as the box that is cut: against a projection in double precision, at the vertices of a ball.
TEST(Decals, ProjectAsTheBoxHasIt) {
    std::mt19937 random(11);
    const MeshPtr ball = shapeById(kBall);
    Assets assets;
    int seen = 0;
    for (int round = 0; round < 20; ++round) {
        Project p = withDecalMaster(kBall);
        Decal d = randomDecal(random);
        d.mirrored = round % 3 == 0;
        d.fadeFrom = float(round * 4), d.fadeTo = d.fadeFrom + 10, d.depthFade = float(round % 5) / 4;
        p.lineup.specimens[0].decals = {d};
        const std::optional<Project> with = decalled(p, p.lineup.specimens[0], "m", "");
        ASSERT_TRUE(with);
        const Node* box = nullptr;
        for (const auto& [id, node] : masterOf(*with).graph.nodes)
            if (node->kind == "box_projection") box = node.get();
        ASSERT_NE(box, nullptr);
        const auto u = wireAtVertices(*with, assets, "m", {box->id, "uv", "x"}, *ball, 0),
                   v = wireAtVertices(*with, assets, "m", {box->id, "uv", "y"}, *ball, 0),
                   cover = wireAtVertices(*with, assets, "m", {box->id, "cover", ""}, *ball, 0);
        ASSERT_TRUE(u && v && cover);
        // By the corners alone: lower left, lower right, upper right, upper left.
        const auto corners = decalCorners(d);
        const glm::dvec3 origin(vectorOf(corners[3])), right = glm::dvec3(vectorOf(corners[2])) - origin,
                                                       down = glm::dvec3(vectorOf(corners[0])) - origin;
        const glm::dvec3 out = glm::normalize(glm::dvec3(vectorOf(d.facing)));
        const auto degree = std::numbers::pi / 180;
        for (size_t k = 0; k < ball->vertices.size(); ++k) {
            const glm::dvec3 at(vectorOf(ball->vertices[k].position)), from = at - origin;
            double x = glm::dot(from, right) / glm::dot(right, right);
            const double y = glm::dot(from, down) / glm::dot(down, down);
            const double deep = std::fabs(glm::dot(at - glm::dvec3(vectorOf(d.position)), out)) / (d.depth / 2.0);
            const double facing = glm::dot(glm::dvec3(vectorOf(ball->vertices[k].normal)), out);
            double expected = std::clamp((1 - deep) / std::max(double(d.depthFade), 1e-4), 0.0, 1.0);
            const double gone = std::max(std::cos(d.fadeTo * degree), 1e-3), begins = std::cos(d.fadeFrom * degree);
            expected *= std::clamp((facing - gone) / std::max(begins - gone, 1e-4), 0.0, 1.0);
            // On the very edge either is right.
            if (std::min({std::fabs(x), std::fabs(x - 1), std::fabs(y), std::fabs(y - 1)}) < 1e-4) continue;
            if (x < 0 || x > 1 || y < 0 || y > 1) expected = 0;
            if (d.mirrored) x = 1 - x;
            ASSERT_NEAR((*u)[k], x, 2e-4) << "round " << round;
            ASSERT_NEAR((*v)[k], y, 2e-4) << "round " << round;
            ASSERT_NEAR((*cover)[k], expected, 4e-3) << "round " << round << ", vertex " << k;
            seen += expected > 0.1;
        }
    }
    EXPECT_GT(seen, 40);
}

TEST(Decals, CutOutOfAMeshAreWhatLiesInTheBox) {
    // On a plane as large as the decal, with the UVs of its corners.
    Decal d = lying();
    d.width = 0.7f, d.height = 0.4f, d.turn = 30, d.position = {0.1f, 0.02f, -0.2f};
    const CutDecal flat = cutOut(*shapeById(kPlane), d, 0.01f);
    EXPECT_NEAR(flat.area, 0.28f, 1e-4f);
    EXPECT_EQ(flat.behind, 0);
    EXPECT_EQ(flat.stretched, 0);
    const auto corners = decalCorners(d);
    for (const Vertex& v : flat.mesh.vertices) {
        EXPECT_NEAR(v.position[1], 0.01f, 1e-6f) << "lifted";
        const Rgb across = difference(corners[1], corners[0]), up = difference(corners[3], corners[0]);
        const Rgb expected = sum(corners[3], difference(scaled(across, v.uv0[0]), scaled(up, v.uv0[1])));
        EXPECT_NEAR(v.position[0], expected[0], 1e-5f);
        EXPECT_NEAR(v.position[2], expected[2], 1e-5f);
    }
    Decal other = d;
    other.mirrored = true;
    const CutDecal mirrored = cutOut(*shapeById(kPlane), other, 0.01f);
    ASSERT_EQ(mirrored.mesh.vertices.size(), flat.mesh.vertices.size());
    for (size_t k = 0; k < mirrored.mesh.vertices.size(); ++k)
        EXPECT_NEAR(mirrored.mesh.vertices[k].uv0[0], 1 - flat.mesh.vertices[k].uv0[0], 1e-6f) << "left and right change places";
    // On a ball: against the share of small triangles whose middles lie in the box.
    std::mt19937 random(5);
    const Mesh fine = *subdivided(*shapeById("shape:sphere/3"), 2);
    for (int round = 0; round < 8; ++round) {
        Decal any = randomDecal(random);
        any.fadeTo = 90;
        const CutDecal cut = cutOut(*shapeById("shape:sphere/3"), any);
        const DecalAxes axes = decalAxes(any);
        double counted = 0;
        for (size_t i = 0; i + 2 < fine.indices.size(); i += 3) {
            const Rgb &a = fine.vertices[fine.indices[i]].position, &b = fine.vertices[fine.indices[i + 1]].position,
                      &c = fine.vertices[fine.indices[i + 2]].position;
            const Rgb middle = difference(scaled(sum(a, sum(b, c)), 1 / 3.f), any.position),
                      face = cross(difference(b, a), difference(c, a));
            const bool in = std::fabs(dot(middle, axes.across)) < any.width / 2 && std::fabs(dot(middle, axes.up)) < any.height / 2 &&
                            std::fabs(dot(middle, axes.out)) < any.depth / 2;
            if (in && dot(face, axes.out) > 0) counted += lengthOf(face) / 2;
        }
        EXPECT_NEAR(cut.area, counted, 0.03 * counted + 0.002) << "round " << round;
        for (const Vertex& v : cut.mesh.vertices)
            for (const float x : v.uv0) {
                EXPECT_GE(x, -1e-5f);
                EXPECT_LE(x, 1 + 1e-5f);
            }
    }
    // Nothing of a slot that it is kept off, and nothing of what is no number.
    Decal off = d;
    off.keptOff = {shapeById(kPlane)->slots[0].name};
    EXPECT_TRUE(cutOut(*shapeById(kPlane), off).mesh.indices.empty());
    Mesh broken = *shapeById(kPlane);
    for (Vertex& v : broken.vertices) v.position[0] = std::nanf("");
    EXPECT_TRUE(cutOut(broken, d).mesh.indices.empty());
}

TEST(Decals, MirroredTwiceAreWhereTheyWere) {
    std::mt19937 random(9);
    for (int round = 0; round < 30; ++round) {
        const Decal d = randomDecal(random);
        for (int axis = 0; axis < 3; ++axis) {
            const Decal once = mirroredDecal(d, axis, true);
            Decal twice = mirroredDecal(once, axis, true);
            EXPECT_EQ(twice.mirrored, d.mirrored);
            const auto before = decalCorners(d), mirrored = decalCorners(once), after = decalCorners(twice);
            for (size_t k = 0; k < 4; ++k) {
                expectNear(after[k], before[k], 2e-5f, "there and back");
                // Seen in a mirror left and right change places.
                Rgb expected = before[k ^ 1];
                expected[size_t(axis)] = -expected[size_t(axis)];
                expectNear(mirrored[k], expected, 2e-5f, "mirrored");
            }
        }
    }
}

TEST(Decals, InARowFollowTheSurface) {
    const MeshPtr ball = shapeById("shape:sphere/3");
    const SurfaceRays rays(ball);
    Decal d = lying();
    d.facing = {0, 0, 1}, d.position = {0, 0, 1}, d.width = d.height = d.depth = 0.3f;
    const std::vector<Decal> row = arrayOf(d, rays, 4, 0.2f);
    ASSERT_EQ(row.size(), 4u);
    for (size_t k = 0; k < row.size(); ++k) {
        EXPECT_NEAR(row[k].position[0], 0.2f * float(k), 1e-5f);
        EXPECT_NEAR(lengthOf(row[k].position), 1, 0.01f) << "on the ball";
        EXPECT_GT(dot(unit(row[k].facing), unit(row[k].position)), 0.999f) << "facing out of it";
    }
    EXPECT_EQ(arrayOf(d, rays, 1000000, 0.001f).size(), 256u);
    // Beside the ball they go on in line.
    EXPECT_EQ(arrayOf(d, rays, 8, 0.5f).back().position, (Rgb{3.5f, 0, 1}));
}

// Dragging a corner leads the corner to the line of sight, and the turn leads up to it.
TEST(Decals, FollowTheLineOfSight) {
    std::mt19937 random(4);
    std::uniform_real_distribution<float> any(-1, 1);
    for (int round = 0; round < 40; ++round) {
        const Decal d = randomDecal(random);
        const DecalAxes axes = decalAxes(d);
        const float x = any(random), y = any(random);
        const Rgb at = sum(d.position, sum(scaled(axes.across, x), scaled(axes.up, y)));
        const Rgb eye = sum(d.position, sum(scaled(axes.out, 3), scaled(axes.across, any(random))));
        const Ray sight{eye, difference(at, eye)};
        const Decal sized = sizedTo(d, sight);
        EXPECT_NEAR(sized.width, std::max(2 * std::fabs(x), 1e-3f), 1e-4f);
        EXPECT_NEAR(sized.height, std::max(2 * std::fabs(y), 1e-3f), 1e-4f);
        expectNear(decalAxes(turnedTo(d, sight)).up, *directionOf(difference(at, d.position)), 1e-3f, "up");
        // What looks away from it changes nothing.
        EXPECT_EQ(sizedTo(d, {eye, difference(eye, at)}).width, d.width);
    }
    // Its frame lies on the ball where the box reaches that.
    const MeshPtr ball = shapeById("shape:sphere/3");
    Decal d = lying();
    d.position = {0, 1, 0}, d.width = d.height = 0.6f, d.depth = 0.4f;
    for (const Rgb& p : frameOn(SurfaceRays(ball), d)) EXPECT_NEAR(lengthOf(p), 1, 0.01f);
}

TEST(Decals, AMasterForThemShowsItsPictureWhereThatCovers) {
    Project p = bareProject();
    p = *edit::addMaster(p, makeDecalMaster("Poster"));
    const Master& made = *p.masters.back();
    EXPECT_EQ(kindOf(made.surface)->key, "decal");
    const Compilation c = compileSurface(p, made);
    EXPECT_TRUE(c.ok && c.diagnostics.empty()) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    EXPECT_EQ(costOf(*c.program, nullptr, {}).fetches, 1) << "one picture for color and alpha";
    // The kind is taken on and given up by one edit.
    const auto kind = [](std::string_view key) {
        return *std::find_if(surfaceKinds().begin(), surfaceKinds().end(), [&](const SurfaceKind& k) { return k.key == key; });
    };
    const Project decal = *edit::applyKind(p, "m", kind("decal"));
    EXPECT_TRUE(masterOf(decal).surface.decal);
    EXPECT_EQ(masterOf(decal).surface.alphaMode, AlphaMode::Blend);
    const Project plain = *edit::applyKind(decal, "m", kind("plain"));
    EXPECT_FALSE(masterOf(plain).surface.decal);
    EXPECT_EQ(masterOf(plain).surface.alphaMode, AlphaMode::Opaque);
}

/// A channel as it is at the middle of the plane.
std::vector<float> shown(const Project& p, const std::string& key) {
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    return overSquare(Evaluator(c.program), {}, key, findChannel(key)->width, 1);
}

/// Two finishes, one over the other.
struct Laid {
    Project p = bareProject();
    Id beneath, over, lay;
    Laid() {
        beneath = add(p, "finish",
                      {{"base_color", Value::vec3(0.2f, 0.4f, 0.6f)},
                       {"roughness", Value::number(0.9f)},
                       {"metallic", Value::number(1)},
                       {"alpha", Value::number(0.75f)},
                       {"clearcoat", Value::number(0.6f)}},
                      {{"kind", "coated"}});
        over = add(p, "finish",
                   {{"base_color", Value::vec3(1, 0, 0)},
                    {"roughness", Value::number(0.1f)},
                    {"occlusion", Value::number(0.5f)},
                    {"alpha", Value::number(0.5f)},
                    {"emissive", Value::vec3(0, 2, 0)}});
        lay = add(p, "lay_over");
        wire(p, {beneath, "out", ""}, lay, "bg");
        wire(p, {over, "out", ""}, lay, "fg");
        channel(p, {lay, "out", ""}, "finish");
        SurfaceSettings coated = masterOf(p).surface;
        coated.layers = uint32_t(Layer::Reflection) | uint32_t(Layer::Coat);
        p = *edit::setSurface(p, "m", coated);
    }
};

TEST(Decals, CoverAsTheirAlphaSaysAndOnlyTheChannelsChosen) {
    Laid all;
    // Half of it: alpha 0.5, mask 1.
    EXPECT_NEAR(shown(all.p, "base_color")[0], 0.6f, 1e-6f);
    EXPECT_NEAR(shown(all.p, "roughness")[0], 0.5f, 1e-6f);
    EXPECT_NEAR(shown(all.p, "metallic")[0], 0.5f, 1e-6f);
    EXPECT_NEAR(shown(all.p, "occlusion")[0], 0.75f, 1e-6f);
    EXPECT_NEAR(shown(all.p, "emissive")[1], 1, 1e-6f);
    EXPECT_NEAR(shown(all.p, "alpha")[0], 0.75f, 1e-6f) << "whether the surface is there is its own";
    EXPECT_NEAR(shown(all.p, "clearcoat")[0], 0.6f, 1e-6f) << "a layer that the decal does not have goes on";
    const std::pair<const char*, float> beneath[] = {
        {"base_color", 0.2f}, {"roughness", 0.9f}, {"metallic", 1.f}, {"occlusion", 1.f}, {"emissive", 0.f}};
    for (const auto& [off, was] : beneath) {
        Laid one;
        one.p = *edit::setConstant(one.p, "m", one.lay, off, Value::number(0));
        for (const auto& [key, value] : beneath)
            EXPECT_NEAR(shown(one.p, key)[0], key == off ? value : shown(all.p, key)[0], 1e-6f) << key << " with " << off << " off";
    }
    Laid masked;
    masked.p = *edit::setConstant(masked.p, "m", masked.lay, "mix", Value::number(0));
    for (const auto& [key, value] : beneath) EXPECT_NEAR(shown(masked.p, key)[0], value, 1e-6f) << key << " where the mask is 0";
}

// Along the mesh's own tangents the joined normal is what the card for normals makes of the two.
TEST(Decals, TheirNormalsJoinThoseBeneathByReorientation) {
    std::mt19937 random(21);
    std::uniform_real_distribution<float> lean(0.2f, 0.8f);
    for (int round = 0; round < 12; ++round) {
        const Value first = Value::vec3(lean(random), lean(random), 0.9f), second = Value::vec3(lean(random), lean(random), 0.9f);
        Project p = bareProject();
        const Id tangent = add(p, "tangent"), bitangent = add(p, "bitangent"), lay = add(p, "lay_over");
        Id maps[2];
        for (int k = 0; k < 2; ++k) {
            const Id finish = add(p, "finish");
            maps[k] = add(p, "normal_map", {{"in", k ? second : first}});
            wire(p, {maps[k], "out", ""}, finish, "normal");
            wire(p, {finish, "out", ""}, lay, k ? "fg" : "bg");
        }
        wire(p, {tangent, "out", ""}, lay, "across");
        wire(p, {bitangent, "out", ""}, lay, "up");
        channel(p, {lay, "out", ""}, "finish");
        const std::vector<float> joined = shown(p, "normal");
        const Id join = add(p, "join_normals", {{"in1", first}, {"in2", second}}), world = add(p, "normal_map");
        wire(p, {join, "out", ""}, world, "in");
        channel(p, {world, "out", ""}, "normal");
        const std::vector<float> expected = shown(p, "normal");
        for (size_t k = 0; k < 3; ++k) EXPECT_NEAR(joined[k], expected[k], 2e-5f) << "round " << round;
    }
}

TEST(Decals, AreMovedWithoutACompile) {
    Project p = withDecalMaster();
    p.lineup.specimens[0].decals = {lying("one"), lying("two")};
    Assets assets;
    LookCache looks;
    const auto dressed = [&] { return dress(p, assets, looks, p.lineup.specimens[0], 0); };
    ASSERT_TRUE(dressed().error().empty()) << dressed().error();
    const int before = looks.compiles();
    std::vector<Decal>& all = p.lineup.specimens[0].decals;
    all[0].position = {0.4f, 0, 0.1f}, all[0].turn = 70, all[0].weights[2] = 0.5f, all[1].width = 2;
    dressed();
    p = *edit::setChannelConstant(p, "d", "base_color", Value::vec3(0, 0, 1));
    dressed();
    EXPECT_EQ(looks.compiles(), before) << "values are live";
    all[1].hidden = true;
    dressed();
    EXPECT_EQ(looks.compiles(), before + 1) << "a decal less is another surface";
    // Nothing is left of them where none is seen.
    all[0].keptOff = {shapeById(kPlane)->slots[0].name};
    EXPECT_FALSE(decalled(p, p.lineup.specimens[0], "m", shapeById(kPlane)->slots[0].name));
    EXPECT_TRUE(decalled(p, p.lineup.specimens[0], "m", "another slot"));
}

TEST(Decals, CostWhatIsCountedWithAndWithoutThem) {
    Project p = withDecalMaster();
    p.lineup.specimens[0].decals = {lying("one")};
    const DecalCost one = decalCost(p, p.lineup.specimens[0], "m", "");
    EXPECT_GT(one.operations, 10);
    EXPECT_EQ(one.fetches, 0);
    EXPECT_GT(one.operationsBeside, 10) << "where it lies must be known everywhere";
    EXPECT_LT(one.operationsBeside, one.operations * 2 / 3) << "what it shows is skipped there";
    p.lineup.specimens[0].decals.push_back(lying("two"));
    EXPECT_GT(decalCost(p, p.lineup.specimens[0], "m", "").operations, one.operations);
    p.lineup.specimens[0].decals[0].hidden = p.lineup.specimens[0].decals[1].hidden = true;
    EXPECT_EQ(decalCost(p, p.lineup.specimens[0], "m", "").operations, 0);
}

TEST(Decals, AreEditedWithinTheirRanges) {
    Project p = withDecalMaster();
    p = *edit::addDecal(p, 0, wearing("d"));
    p = *edit::addDecal(p, 0, wearing("d"));
    const auto& all = p.lineup.specimens[0].decals;
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0].name, "Stencil");
    EXPECT_NE(all[0].name, all[1].name);
    EXPECT_NE(all[0].id, all[1].id);
    Decal d = all[0];
    d.turn = 725, d.fadeFrom = 50, d.fadeTo = 20, d.depthFade = 7, d.weights[3] = -2;
    p = *edit::changeDecal(p, 0, d);
    EXPECT_FLOAT_EQ(p.lineup.specimens[0].decals[0].turn, 5);
    EXPECT_EQ(p.lineup.specimens[0].decals[0].fadeTo, 50);
    EXPECT_EQ(p.lineup.specimens[0].decals[0].depthFade, 1);
    EXPECT_EQ(p.lineup.specimens[0].decals[0].weights[3], 0);
    for (float Decal::*size : {&Decal::width, &Decal::height, &Decal::depth})
        for (const float bad : {0.f, -1.f}) {
            Decal flat = d;
            flat.*size = bad;
            EXPECT_EQ(edit::changeDecal(p, 0, flat).error().code, "decal.size");
        }
    Decal endless = d;
    endless.width = std::numeric_limits<float>::infinity();
    EXPECT_FALSE(edit::changeDecal(p, 0, endless));
    Decal lost = d;
    lost.id = "nobody";
    EXPECT_EQ(edit::changeDecal(p, 0, lost).error().code, "edit.no-decal");
    EXPECT_EQ(edit::removeDecal(p, 0, "nobody").error().code, "edit.no-decal");
    EXPECT_EQ(edit::addDecal(p, 7, d).error().code, "lineup.no-specimen");
    const Id first = all[0].id;
    const Project ordered = *edit::orderDecal(p, 0, first, 1);
    EXPECT_EQ(ordered.lineup.specimens[0].decals[1].id, first);
    EXPECT_EQ(edit::removeDecal(ordered, 0, first)->lineup.specimens[0].decals.size(), 1u);
    // Who wears an instance that goes wears what it was made from.
    Instance child;
    child.id = "c", child.name = "Red", child.parent = "d";
    p.instances.push_back(std::make_shared<Instance>(child));
    d.wears = "c";
    p = *edit::removeInstance(*edit::changeDecal(p, 0, d), "c");
    EXPECT_EQ(p.lineup.specimens[0].decals[0].wears, "d");
}

std::vector<std::string> codes(const Project& p) {
    Assets assets;
    return codesOf(decalProblems(p, assets));
}

TEST(Decals, ThatAreNotSeenAsMeantAreToldAndMended) {
    const Project good = [] {
        Project p = withDecalMaster(kBall);
        Decal d = lying();
        d.position = {0, 1, 0}, d.width = d.height = 0.4f;
        p.lineup.specimens[0].decals = {d};
        return p;
    }();
    EXPECT_TRUE(codes(good).empty()) << codes(good)[0];
    const auto changed = [&](auto change) {
        Project p = good;
        change(p.lineup.specimens[0].decals[0], p);
        return p;
    };
    const auto one = [](Decal& d, const Rgb& at, const Rgb& facing) { d.position = at, d.facing = facing; };
    const std::tuple<std::string, Project, bool> all[] = {
        {"decal.reaches-nothing", changed([&](Decal& d, Project&) {
             one(d, {0, 5, 0}, {0, 1, 0});
         }),
         true},
        {"decal.inside", changed([&](Decal& d, Project&) {
             one(d, {0, 1, 0}, {0, -1, 0});
         }),
         true},
        {"decal.stretched", changed([&](Decal& d, Project&) {
             one(d, {0, 1, 0}, {1, 0.05f, 0}), d.fadeFrom = d.fadeTo = 90;
         }),
         true},
        {"decal.wears-nothing", changed([](Decal& d, Project&) { d.wears = "gone"; }), true},
        {"decal.other-kind", changed([](Decal&, Project& p) {
             Master plain = *p.master("d");
             plain.surface.decal = false;
             p.masters[1] = std::make_shared<Master>(plain);
         }),
         true},
        {"decal.of-itself", changed([](Decal& d, Project&) { d.wears = "m"; }), false},
        {"decal.no-slot", changed([](Decal& d, Project&) { d.keptOff = {"roof"}; }), true},
    };
    for (const auto& [code, p, heals] : all) {
        Assets assets;
        const std::vector<Diagnostic> problems = decalProblems(p, assets);
        const auto at = std::find_if(problems.begin(), problems.end(), [&](const Diagnostic& d) { return d.code == code; });
        ASSERT_NE(at, problems.end()) << code;
        EXPECT_EQ(at->place.port, "one") << code << " leads to the decal";
        if (!heals) continue;
        ASSERT_FALSE(at->fixes.empty()) << code;
        const Result<Project> mended = at->fixes[0].edit(p);
        ASSERT_TRUE(mended) << code;
        EXPECT_FALSE(holds(codes(*mended), code)) << code;
    }
    // Also by a finish within: what lies on M takes a finish of M.
    Project around = good;
    Master stencil = *around.master("d");
    Node taking = makeNode("finish_of");
    taking.settings["of"] = "m";
    stencil.graph.nodes[taking.id] = std::make_shared<Node>(taking);
    around.masters[1] = std::make_shared<Master>(stencil);
    EXPECT_TRUE(holds(codes(around), "decal.of-itself"));
    EXPECT_TRUE(decalsOn(around, around.lineup.specimens[0], "m", "").empty());
    // A thousand are told of, and end.
    const Project many = changed([](Decal& d, Project& p) { p.lineup.specimens[0].decals.assign(1000, d); });
    EXPECT_TRUE(holds(codes(many), "decal.too-many"));
    EXPECT_EQ(decalsOn(many, many.lineup.specimens[0], "m", "").size(), kMostDecals);
    const Project hidden = changed([](Decal& d, Project&) { d.hidden = true, d.position = {0, 9, 0}; });
    EXPECT_TRUE(codes(hidden).empty()) << "what is hidden is not looked for";
}

class DecalFiles : public InFolder {};

TEST_F(DecalFiles, ComeBackAsTheyWereKept) {
    Project p = withDecalMaster();
    std::mt19937 random(2);
    for (int k = 0; k < 5; ++k) {
        Decal d = randomDecal(random);
        d.id = fmt::format("d{}", k), d.name = fmt::format("Number {}", k);
        d.mirrored = k & 1, d.hidden = k & 2, d.locked = k == 4, d.keptOff = {"roof"};
        d.weights = {1, 0.5f, 0, 1, 1, 0.25f};
        d.fadeFrom = 10, d.fadeTo = 35, d.depthFade = 0.5f;
        p = *edit::addDecal(p, 0, d);
    }
    const std::filesystem::path file = folder / "depot.huestack";
    ASSERT_TRUE(saveProject(p, file));
    const auto read = loadProject(file);
    ASSERT_TRUE(read);
    EXPECT_EQ(read->project.lineup.specimens[0].decals, p.lineup.specimens[0].decals);
    EXPECT_TRUE(read->project.master("d")->surface.decal);
    // A direction and sizes that are none, in a file, become such as can be seen and changed.
    const auto flat = parseProject(
        R"({"kind": "huestack project", "format": 2,
            "lineup": {"specimens": [{"decals": [{"id": "x", "facing": [0, 0, 0], "size": [0, -1, 1]}]}]}})",
        "flat");
    ASSERT_TRUE(flat);
    const Decal& lost = flat->project.lineup.specimens.at(0).decals.at(0);
    EXPECT_EQ(lost.facing, (Rgb{0, 0, 1}));
    EXPECT_GT(lost.width, 0);
    EXPECT_GT(lost.height, 0);
    // Two with one id would be one to whoever edits them.
    p.lineup.specimens[0].decals[1].id = p.lineup.specimens[0].decals[0].id;
    ASSERT_TRUE(saveProject(p, file));
    const auto twice = loadProject(file);
    ASSERT_TRUE(twice);
    EXPECT_TRUE(holds(codesOf(twice->report), "project.same-id"));
    EXPECT_NE(twice->project.lineup.specimens[0].decals[1].id, p.lineup.specimens[0].decals[0].id);
}

TEST_F(DecalFiles, OnTheCommandLineAreToldAndCut) {
    Project p = withDecalMaster();
    Decal d = lying();
    d.width = 0.8f, d.height = 0.2f;
    p = *edit::addDecal(p, 0, d);
    d.name = "Stripe", d.id = "two", d.position = {0.2f, 0, 0.5f};
    p = *edit::addDecal(p, 0, d);
    const std::string file = (folder / "depot.huestack").string(), glb = (folder / "cut.glb").string();
    ASSERT_TRUE(saveProject(p, file));
    const auto run = runHsk("decals " + file + " --specimen 1 --json --lift 0.01 --cut " + glb);
    ASSERT_EQ(run.code, 0) << run.output;
    const auto told = nlohmann::json::parse(run.output);
    ASSERT_EQ(told["decals"].size(), 2u);
    EXPECT_NEAR(told["decals"][0]["area"].get<double>(), 0.16, 1e-3);
    EXPECT_GT(told["decals"][0]["projected"]["operations"].get<int>(), 0);
    const Result<Mesh> cut = readMesh(glb);
    ASSERT_TRUE(cut);
    ASSERT_EQ(cut->slots.size(), 2u);
    EXPECT_EQ(cut->slots[1].name, "Stripe");
    for (uint32_t s = 0; s < 2; ++s)
        for (uint32_t i = 0; i < cut->slots[s].indexCount; ++i)
            EXPECT_NEAR(cut->vertices[cut->indices[cut->slots[s].firstIndex + i]].position[1], 0.01f * float(s + 1), 1e-6f)
                << "each above the one before";
    EXPECT_EQ(runHsk("decals " + file + " --specimen 4").code, 2);
    p.lineup.specimens[0].decals.clear();
    ASSERT_TRUE(saveProject(p, file));
    EXPECT_EQ(runHsk("decals " + file + " --specimen 1 --cut " + glb).code, 2) << "nothing to cut";
}

/// A decal that shows words by an instance of its own, and the map of them, so many pixels large.
MapFile lettered(const Id& id, const std::string& words, int width, int height) {
    MapFile map{id, words, "maps/" + id + ".png", MapKind::Color, Wrap::Clamp, {}, {}};
    map.origin.from = MapOrigin::From::Words;
    map.origin.words = words;
    map.origin.width = width, map.origin.height = height;
    return map;
}
Project withWords() {
    Project p = bareProject();
    p.lineup.specimens = {Specimen{.mesh = kPlane, .wears = {"m"}}};
    Master d = makeDecalMaster("Decal");
    d.id = "d";
    p = *edit::addMaster(p, d);
    p = *edit::addMap(p, lettered("t427", "427", 400, 200));
    Instance i;
    i.id = "i", i.name = "427", i.parent = "d";
    i.own[d.parameters[0].id].map = "t427";
    p = *edit::addInstance(p, i);
    Decal decal = lying();
    decal.name = "427", decal.wears = "i", decal.width = 0.8f, decal.height = 0.4f;
    return *edit::addDecal(p, 0, decal);
}
std::string shownBy(const Project& p, size_t decal) {
    const MapFile* map = edit::wordsOn(p, p.lineup.specimens[0].decals[decal]);
    return map ? map->origin.words : "nothing";
}

TEST(DecalWords, AreChangedWithLettersAsLargeAsTheyWere) {
    const Project p = withWords();
    EXPECT_EQ(shownBy(p, 0), "427");
    // As many lines, twice as long; then a second line.
    const Result<Project> longer = edit::rewordDecal(p, 0, "one", lettered("t2", "Ring 427", 800, 200));
    ASSERT_TRUE(longer) << longer.error().sentence;
    const Decal& d = longer->lineup.specimens[0].decals[0];
    EXPECT_EQ(shownBy(*longer, 0), "Ring 427");
    EXPECT_FLOAT_EQ(d.width, 1.6f);
    EXPECT_FLOAT_EQ(d.height, 0.4f);
    EXPECT_EQ(d.name, "Ring 427");
    EXPECT_EQ(d.wears, "i") << "its own instance follows";
    EXPECT_EQ(longer->instance("i")->name, "Ring 427");
    EXPECT_FALSE(longer->map("t427")) << "nobody reads the old picture";
    const Result<Project> second = edit::rewordDecal(*longer, 0, "one", lettered("t3", "Ring\n427", 400, 400));
    ASSERT_TRUE(second);
    EXPECT_FLOAT_EQ(second->lineup.specimens[0].decals[0].width, 0.8f);
    EXPECT_FLOAT_EQ(second->lineup.specimens[0].decals[0].height, 0.8f);
}

TEST(DecalWords, OfOneLeaveThoseOfOthersAlone) {
    Project p = withWords();
    Decal other = p.lineup.specimens[0].decals[0];
    other.id = "two", other.name = "Second";
    p = *edit::addDecal(p, 0, other);
    const Project next = *edit::rewordDecal(p, 0, "two", lettered("t428", "428", 400, 200));
    EXPECT_EQ(shownBy(next, 0), "427");
    EXPECT_EQ(shownBy(next, 1), "428");
    EXPECT_EQ(next.lineup.specimens[0].decals[1].name, "Second") << "a name that a person gave stays";
    EXPECT_TRUE(next.map("t427"));
    EXPECT_EQ(next.instances.size(), 2u);
    EXPECT_EQ(next.masterOf(next.lineup.specimens[0].decals[1].wears)->id, "d");
    // Now each has its own.
    const Project last = *edit::rewordDecal(next, 0, "one", lettered("t429", "429", 400, 200));
    EXPECT_EQ(last.instances.size(), 2u);
    EXPECT_EQ(shownBy(last, 0) + shownBy(last, 1), "429428");
    // One that wears the master as it is gets an instance of it.
    Project bare = p;
    Parameter picture = bare.master("d")->parameters[0];
    picture.standard.map = "t427";
    bare = *edit::changeParameter(bare, "d", picture);
    Decal plain = bare.lineup.specimens[0].decals[1];
    plain.wears = "d";
    bare = *edit::changeDecal(bare, 0, plain);
    const Project instanced = *edit::rewordDecal(bare, 0, "two", lettered("t430", "430", 400, 200));
    EXPECT_EQ(shownBy(instanced, 1), "430");
    EXPECT_EQ(instanced.instance(instanced.lineup.specimens[0].decals[1].wears)->parent, "d");
    EXPECT_EQ(instanced.master("d")->parameters[0].standard.map, "t427");
}

TEST(DecalWords, AreNotWrittenOnWhatShowsNone) {
    Project p = withDecalMaster();
    p = *edit::addDecal(p, 0, lying());
    EXPECT_EQ(shownBy(p, 0), "nothing");
    EXPECT_EQ(edit::rewordDecal(p, 0, "one", lettered("t", "427", 4, 4)).error().code, "decal.no-words");
    EXPECT_EQ(edit::rewordDecal(p, 0, "gone", lettered("t", "427", 4, 4)).error().code, "edit.no-decal");
    EXPECT_EQ(edit::rewordDecal(p, 7, "one", lettered("t", "427", 4, 4)).error().code, "edit.no-decal");
}

TEST(DecalWords, StandInTheProjectsFile) {
    const Project p = withWords();
    const Result<Loaded> back = parseProject(projectText(p), "words");
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->report.empty());
    EXPECT_EQ(shownBy(back->project, 0), "427");
    EXPECT_EQ(back->project.map("t427")->origin, p.map("t427")->origin);
}

} // namespace
} // namespace hue
