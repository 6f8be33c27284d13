// Copies of a mesh, and values said in other spaces: against GLM's matrices and against what the picture itself gives.
#include "core/base/matrix.h"
#include "core/mesh/placements.h"
#include "core/nodes/spaces.h"
#include "core/picture/raster.h"
#include "core/picture/software_picture.h"
#include "core/project/store.h"
#include "core/surface/vertex_offset.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>
#include <set>

namespace hue {
namespace {

using namespace test;

const Bounds kBox{{-1, -0.5f, -0.25f}, {1, 0.5f, 0.25f}};

Placements of(std::string_view text) {
    const Result<Placements> p = placementsFromText(text);
    EXPECT_TRUE(p) << (p ? "" : p.error().sentence);
    return p ? *p : Placements{};
}
float apart(const Placement& a, const Placement& b) { return lengthOf(difference(a.position, b.position)); }

/// The same placement by GLM, which multiplies matrices.
Matrix4 matrixOf(const Placement& p) {
    return glm::translate(Matrix4(1), vectorOf(p.position)) * glm::rotate(Matrix4(1), glm::radians(p.turn), glm::vec3(0, 1, 0)) *
           glm::scale(Matrix4(1), glm::vec3(p.size));
}
Rgb by(const Matrix4& m, const Rgb& v, float w) { return arrayOf(glm::vec3(m * glm::vec4(vectorOf(v), w))); }
TEST(PlacementsTest, CopiesKeepTheirDistanceAndOneStandsAsItIs) {
    ASSERT_EQ(placementsOf({}, kBox).size(), 1u);
    EXPECT_EQ(placementsOf({}, kBox)[0], Placement{});
    // The mesh is 2 m wide.
    const auto row = placementsOf(of("row:6,spacing=1.5"), kBox);
    ASSERT_EQ(row.size(), 6u);
    for (size_t k = 1; k < row.size(); ++k) EXPECT_NEAR(apart(row[k - 1], row[k]), 3, 1e-5f);
    EXPECT_NEAR(row.front().position[0], -row.back().position[0], 1e-5f) << "around the origin";
    for (const char* text : {"row:64", "grid:5x3", "grid:8x32", "ring:8", "ring:2", "ring:64"}) {
        const auto all = placementsOf(of(text), kBox);
        EXPECT_LE(all.size(), 64u);
        for (size_t a = 0; a < all.size(); ++a)
            for (size_t b = 0; b < a; ++b) EXPECT_GE(apart(all[a], all[b]), 2 * 1.25f - 1e-3f) << text << " " << a << " " << b;
    }
    const auto ring = placementsOf(of("ring:7"), kBox);
    for (const Placement& p : ring) {
        EXPECT_NEAR(lengthOf(p.position), lengthOf(ring[0].position), 1e-4f);
        EXPECT_NEAR(dot(unit(p.position), by(matrixOf(p), {0, 0, 1}, 0)), 1, 1e-5f) << "looks outward";
    }
}

TEST(PlacementsTest, TheLastIsTurnedLiftedAndScaledAsAskedAndAllElseStandsLevel) {
    const auto row = placementsOf(of("row:5,turn=90,lift=2,size=3"), kBox);
    EXPECT_EQ(row[0].size, 1);
    EXPECT_EQ(row[0].turn, 0);
    EXPECT_FLOAT_EQ(row[4].size, 3);
    EXPECT_FLOAT_EQ(row[4].turn, 90);
    EXPECT_FLOAT_EQ(row[2].turn, 45);
    const auto lowest = [](const Placement& p) { return by(matrixOf(p), kBox.low, 1)[1]; };
    for (size_t k = 0; k < 5; ++k) EXPECT_NEAR(lowest(row[k]) - lowest(row[0]), 0.5f * float(k), 1e-5f);
    std::set<float> numbers;
    for (const Placement& p : placementsOf(of("row:64"), kBox)) {
        EXPECT_TRUE(p.random >= 0 && p.random <= 1);
        numbers.insert(p.random);
    }
    EXPECT_EQ(numbers.size(), 64u) << "each has a number of its own";
}

TEST(PlacementsTest, TextThatSaysNoPlacementsIsRefusedWithWhatIsWrong) {
    for (const auto& [text, word] : std::initializer_list<std::pair<const char*, const char*>>{{"heap:5", "heap"},
                                                                                               {"row:1", "2 to 64"},
                                                                                               {"row:65", "2 to 64"},
                                                                                               {"row:many", "many"},
                                                                                               {"grid:5x0", "2 to 64"},
                                                                                               {"ring:8,tilt=3", "tilt"},
                                                                                               {"ring:8,size=nan", "size"},
                                                                                               {"ring:8,size=0", "0.1 to 10"},
                                                                                               {"ring:8,turn", "turn"},
                                                                                               {"", "arrangement"}}) {
        const Result<Placements> p = placementsFromText(text);
        ASSERT_FALSE(p) << text;
        EXPECT_NE(p.error().sentence.find(word), std::string::npos) << p.error().sentence;
    }
}

TEST(PlacementsTest, AMeshRepeatedLiesWhereMatricesPutIt) {
    const auto one = std::make_shared<const Mesh>(makeTorus(6));
    const auto placements = placementsOf(of("ring:5,turn=70,lift=1,size=0.4"), boundsOf(*one));
    const Result<Mesh> all = repeated(std::vector<MeshPtr>(5, one), placements);
    ASSERT_TRUE(all);
    ASSERT_EQ(all->vertices.size(), one->vertices.size() * 5);
    ASSERT_EQ(all->slots.size(), one->slots.size() * 5);
    for (size_t k = 0; k < 5; ++k)
        for (size_t v = 0; v < one->vertices.size(); ++v) {
            const Vertex &from = one->vertices[v], &to = all->vertices[k * one->vertices.size() + v];
            const Matrix4 m = matrixOf(placements[k]);
            EXPECT_LT(lengthOf(difference(to.position, by(m, from.position, 1))), 1e-5f);
            EXPECT_LT(lengthOf(difference(to.normal, unit(by(m, from.normal, 0)))), 1e-5f);
            EXPECT_NEAR(lengthOf({to.tangent[0], to.tangent[1], to.tangent[2]}), 1, 1e-5f);
            EXPECT_EQ(all->rest[k * one->vertices.size() + v].position, from.position) << "in its object it stays";
        }
    for (size_t i = 0; i < all->indices.size(); ++i)
        EXPECT_EQ(all->indices[i] / one->vertices.size(), i / one->indices.size()) << "triangles keep to their copy";
    const auto large = std::make_shared<const Mesh>(makeSphere(512));
    EXPECT_FALSE(repeated(std::vector<MeshPtr>(64, large), placementsOf(of("row:64"), boundsOf(*large)))) << "too many triangles";
}

/// What a card gives over the unit square, for a placement and a camera.
std::vector<float> seen(const Project& p, const Id& card, const Columns& placement, const Camera& camera) {
    const Compilation c = compileTap(p, masterOf(p), {card, "out", ""});
    EXPECT_TRUE(c.ok);
    FrameInputs inputs;
    inputs.placement = placement;
    inputs.camera = camera;
    return overSquare(Evaluator(c.program), inputs, "tap", 3, 8);
}

struct Scene {
    Placement placement{{0.3f, -1, 2}, 130, 1.7f, 0.2f};
    Columns columns = columnsOf(placement);
    Matrix4 object = matrixOf(placement), view, clip;
    Camera camera;
    Scene() {
        const Rgb eye{2, 1.5f, 4};
        view = lookAt(eye, {0.2f, 0.1f, 0});
        clip = perspective(0.4f, 1.6f, 0.1f, 50) * view;
        for (int c = 0; c < 3; ++c) camera.toWorld[size_t(c)] = {view[0][c], view[1][c], view[2][c]};
        camera.toWorld[3] = eye;
        camera.scale = {1 / (0.4f * 1.6f), 1 / 0.4f};
    }
    /// A point of the world in a space, by matrices; the flat square's tangent space lies along the axes, at the point itself.
    Rgb in(std::string_view space, const Rgb& world, const Rgb& at, float w) const {
        if (space == "object") return by(glm::inverse(object), world, w);
        if (space == "view") return by(view, world, w);
        if (space == "tangent") return w > 0 ? difference(world, at) : world;
        if (space == "world") return world;
        const glm::vec4 c = clip * glm::vec4(vectorOf(world), 1);
        return {0.5f + 0.5f * c.x / c.w, 0.5f - 0.5f * c.y / c.w, -by(view, world, 1)[2]};
    }
};

TEST(Spaces, PointsAndVectorsAreSaidInOtherSpacesAsMatricesSayThem) {
    const Scene scene;
    for (const char* kind : {"transform_point", "transform_vector", "transform_normal"}) {
        const bool point = std::string_view(kind) == "transform_point";
        for (const auto from : findNodeDef(kind)->setting("from")->choices)
            for (const auto to : findNodeDef(kind)->setting("to")->choices) {
                Project p = bareProject();
                const Id uv = add(p, "texcoord"), in = add(p, "combine", {{"b", Value::number(0.7f)}}, {{"components", "3"}});
                const Id card = add(p, kind, {}, {{"from", std::string(from)}, {"to", std::string(to)}});
                wire(p, {uv, "out", "x"}, in, "r");
                wire(p, {uv, "out", "y"}, in, "g");
                wire(p, {in, "out", ""}, card, "in");
                const std::vector<float> got = seen(p, card, scene.columns, scene.camera);
                for (size_t i = 0; i < 64; ++i) {
                    const float u = (float(i % 8) + 0.5f) / 8, v = (float(i / 8) + 0.5f) / 8;
                    const Rgb at{u, 1 - v, 0}, given{u, v, 0.7f}, answer{got[i * 3], got[i * 3 + 1], got[i * 3 + 2]};
                    // Said in the space it was given in again, by matrices alone: no step in the card is repeated here.
                    const float w = point ? 1 : 0;
                    Rgb world = given;
                    if (from == "object") world = by(scene.object, given, w);
                    else if (from == "view") world = by(glm::inverse(scene.view), given, w);
                    else if (from == "tangent") world = point ? sum(given, at) : given;
                    else if (from == "screen") {
                        // Back through the picture: a point of the far plane, then as far along the line as was asked for.
                        const glm::vec4 far = glm::inverse(scene.clip) * glm::vec4(2 * u - 1, 1 - 2 * v, 1, 1);
                        const Rgb way = difference(arrayOf(glm::vec3(far) / far.w), scene.camera.toWorld[3]);
                        world = sum(scene.camera.toWorld[3], scaled(way, given[2] / -by(scene.view, way, 0)[2]));
                    }
                    Rgb wanted = scene.in(to, world, at, w);
                    if (std::string_view(kind) == "transform_normal") wanted = unit(wanted);
                    if (to == "screen" && wanted[2] <= 0.01f) { // behind the eye there is no picture
                        EXPECT_NEAR(answer[2], wanted[2], 1e-4f);
                        continue;
                    }
                    EXPECT_LT(lengthOf(difference(answer, wanted)), 2e-4f * (1 + lengthOf(wanted))) << kind << " " << from << " to " << to;
                }
            }
    }
}

TEST(Spaces, APointOnTheScreenLiesWhereThePictureShowsIt) {
    Project p = bareProject();
    const Id place = add(p, "position", {}, {{"space", "world"}}),
             card = add(p, "transform_point", {}, {{"from", "world"}, {"to", "screen"}}), screen = add(p, "screen_position");
    wire(p, {place, "out", ""}, card, "in");
    p.lineup.specimens = {{"shape:torus", {"m"}}};
    p.lineup.specimens[0].placements = of("ring:3,size=0.5");
    Assets assets;
    LookCache looks;
    RenderSettings settings;
    settings.width = 120, settings.height = 70;
    settings.camera = {40, 25, 0.9f, 0.05f, -0.1f, {}};
    const auto values = [&](const Id& shown) {
        const Source source{shown, "out", ""};
        const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0, {.wire = &source, .wireMaster = "m"});
        const View view = viewOf(dressed, settings, settings.width, settings.height);
        std::vector<RasterPart> parts;
        for (size_t s = 0; s < dressed.slots.size(); ++s)
            parts.push_back(
                {dressed.mesh.get(), dressed.mesh->slots[s].firstIndex, dressed.mesh->slots[s].indexCount, int(s), true, Matrix4(1)});
        const AttributePicture a = rasterise(view.clip, view.width, view.height, {0, 0, view.width, view.height}, parts);
        std::map<uint32_t, std::array<float, 4>> out;
        for (size_t s = 0; s < dressed.slots.size(); ++s) {
            std::vector<uint32_t> pixels;
            for (uint32_t i = 0; i < uint32_t(a.width * a.height); ++i)
                if (a.slot(i) == int(s)) pixels.push_back(i);
            const auto got =
                PixelEvaluation(a, pixels, view.eye).output(*dressed.slots[s].look->evaluator, seenFrame(dressed.slots[s], view), "tap");
            for (size_t i = 0; i < pixels.size(); ++i) out[pixels[i]] = got[i];
        }
        return out;
    };
    const auto reckoned = values(card), shown = values(screen);
    ASSERT_GT(shown.size(), 500u);
    for (const auto& [pixel, at] : shown) {
        EXPECT_NEAR(reckoned.at(pixel)[0], at[0], 2e-3f);
        EXPECT_NEAR(reckoned.at(pixel)[1], at[1], 2e-3f);
        EXPECT_GT(reckoned.at(pixel)[2], 0) << "ahead of the eye";
    }
}

TEST(Spaces, PositionTellsBeforeAndAfterTheOffsetInEitherSpace) {
    // What was moved and placed: before the offset, and after it, in both spaces.
    const auto one = std::make_shared<const Mesh>(makeCube(2));
    const std::vector<std::array<float, 3>> offsets(one->vertices.size(), {0, 0.5f, 0});
    const Placement at{{3, 1, -2}, 90, 2, 0.5f};
    const MeshPtr moved = Displacer(one).displaced(offsets);
    const Result<Mesh> placedMesh = repeated(std::vector<MeshPtr>{moved}, std::vector<Placement>{at});
    ASSERT_TRUE(placedMesh);
    const Matrix4 m = matrixOf(at);
    const auto value = [&](const char* space, size_t vertex) {
        Project p = bareProject();
        const Id card = add(p, "position", {}, {{"space", space}});
        const Evaluator e(compileTap(p, masterOf(p), {card, "out", ""}).program);
        FrameInputs inputs;
        inputs.placement = columnsOf(at);
        AttributePicture a;
        a.width = a.height = a.wholeWidth = a.wholeHeight = 1;
        const Vertex& v = placedMesh->vertices[vertex];
        const RestVertex& rest = placedMesh->rest[vertex];
        for (auto& plane : a.planes) plane = {{0, 0, 0, 0}};
        for (auto& plane : a.rest) plane = {{0, 0, 0, 0}};
        a.planes[0][0] = {v.position[0], v.position[1], v.position[2], 1};
        a.rest[0][0] = {rest.position[0], rest.position[1], rest.position[2], 0};
        const auto got = PixelEvaluation(a, {0}, {0, 0, 9}).output(e, e.frame(inputs), "tap");
        return Rgb{got[0][0], got[0][1], got[0][2]};
    };
    for (size_t v = 0; v < one->vertices.size(); v += 7) {
        const Rgb before = one->vertices[v].position, after = sum(before, {0, 0.5f, 0});
        EXPECT_LT(lengthOf(difference(value("object", v), before)), 1e-5f);
        EXPECT_LT(lengthOf(difference(value("object, moved", v), after)), 1e-5f);
        EXPECT_LT(lengthOf(difference(value("world", v), by(m, after, 1))), 1e-5f);
        EXPECT_LT(lengthOf(difference(value("world, before", v), by(m, before, 1))), 1e-5f);
    }
}

TEST(Spaces, TheOffsetOfAPlacedMeshKnowsTheWorldAndMovesTheObject) {
    // Moves by the height in the world: copies that stand higher are moved more, along their own axis.
    Project p = bareProject();
    const Id place = add(p, "position", {}, {{"space", "world"}}), up = add(p, "combine", {}, {{"components", "3"}});
    wire(p, {place, "out", "y"}, up, "g");
    channel(p, {up, "out", ""}, "vertex_offset");
    p.lineup.specimens = {{"shape:cube", {"m"}}};
    p.lineup.specimens[0].placements = of("row:3,lift=4,turn=30");
    Assets assets;
    LookCache looks;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    const MeshPtr one = assets.mesh(p, "shape:cube");
    const auto placements = placementsOf(p.lineup.specimens[0].placements, boundsOf(*one));
    ASSERT_EQ(dressed.slots.size(), 3 * one->slots.size());
    for (size_t k = 0; k < 3; ++k)
        for (size_t v = 0; v < one->vertices.size(); ++v) {
            const Rgb world = by(matrixOf(placements[k]), one->vertices[v].position, 1);
            const Rgb wanted = sum(world, {0, world[1] * placements[k].size, 0});
            EXPECT_LT(lengthOf(difference(dressed.mesh->vertices[k * one->vertices.size() + v].position, wanted)), 1e-4f);
        }
}

TEST(Spaces, TheMappedNormalIsThatOfTheChannelAndNeverThatOfItself) {
    Project p = bareProject();
    const Id bent = add(p, "normal_map", {{"in", Value::vec3(0.8f, 0.3f, 0.9f)}}),
             facing = add(p, "facing_axis", {{"axis", Value::vec3(1, 0, 0)}}),
             direct = add(p, "facing_axis", {{"axis", Value::vec3(1, 0, 0)}}), mapped = add(p, "normal", {}, {{"of", "mapped"}});
    channel(p, {bent, "out", ""}, "normal");
    wire(p, {mapped, "out", ""}, facing, "normal");
    wire(p, {bent, "out", ""}, direct, "normal");
    channel(p, {facing, "out", ""}, "roughness");
    std::vector<std::string> codes;
    const auto around = overSquare(p, {facing, "out", ""}, 4, nullptr, 0, &codes), straight = overSquare(p, {direct, "out", ""}, 4);
    EXPECT_TRUE(codes.empty());
    for (size_t i = 0; i < around.size(); ++i) EXPECT_NEAR(around[i], straight[i], 1e-5f);
    EXPECT_GT(std::abs(straight[0] - overSquare(*edit::setSetting(p, "m", mapped, "of", "mesh"), {facing, "out", ""}, 4)[0]), 0.05f)
        << "else nothing was tried";
    // Nothing in the channel: the mesh's.
    EXPECT_EQ(overSquare(*edit::disconnectChannel(p, "m", "normal"), {mapped, "out", ""}, 4)[2], 1);
    // It feeds the channel itself, by a way: an error with the fix.
    Project q = p;
    const Id lit = add(q, "combine", {}, {{"components", "3"}});
    wire(q, {facing, "out", ""}, lit, "r");
    wire(q, {lit, "out", ""}, bent, "in");
    for (const auto& c : {compileSurface(q, masterOf(q)), compileTap(q, masterOf(q), {mapped, "out", ""})}) {
        const std::vector<std::string> told = codesOf(c.diagnostics);
        EXPECT_EQ(std::count(told.begin(), told.end(), "normal.of-itself"), 1);
        for (const Diagnostic& d : c.diagnostics) {
            if (d.code != "normal.of-itself") continue;
            ASSERT_EQ(d.fixes.size(), 1u);
            const Result<Project> mended = d.fixes[0].edit(q);
            ASSERT_TRUE(mended);
            EXPECT_FALSE(holds(codesOf(compileSurface(*mended, masterOf(*mended)).diagnostics), "normal.of-itself"));
        }
    }
}

} // namespace
} // namespace hue
