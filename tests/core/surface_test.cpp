// Facts of channels, surface kinds, advice, vertex offset, lights from files and taps.
#include "core/base/diagnostic.h"
#include "core/check/advice.h"
#include "core/check/check.h"
#include "core/check/idle_channels.h"
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/image_files/animation_file.h"
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/mesh/things.h"
#include "core/project/store.h"
#include "core/surface/channel_targets.h"
#include "core/surface/channels.h"
#include "core/surface/light_files.h"
#include "core/surface/tone.h"
#include "core/surface/vertex_offset.h"
#include "core/tap/tap.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <unistd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

const SurfaceKind& kind(std::string_view key) {
    for (const SurfaceKind& k : surfaceKinds())
        if (k.key == key) return k;
    ADD_FAILURE() << key;
    return surfaceKinds()[0];
}
Project with(std::string_view kindKey) { return *edit::applyKind(bareProject(), "m", kind(kindKey)); }
std::string why(const Project& p, std::string_view channel) {
    const auto idle = inactive(masterOf(p), channel);
    return idle ? idle->why : "";
}

TEST(SurfaceKinds, AddTheirChannelsAndSayWhatTheyMean) {
    const Project before = bareProject(), after = with("coated");
    EXPECT_NE(why(before, "clearcoat"), "");
    EXPECT_EQ(why(after, "clearcoat"), "");
    EXPECT_EQ(masterOf(after).graph.channelConstants.at("clearcoat")[0], 1) << "the coat shows at once";
    const auto lines = announcement(kind("coated"), masterOf(before).surface);
    ASSERT_EQ(lines.size(), 6u);
    EXPECT_NE(lines[3].find("Clearcoat, 0 to 1"), std::string::npos) << lines[3];
    EXPECT_TRUE(announcement(kind("coated"), masterOf(after).surface).empty()) << "what is there already is not announced again";
}

TEST(SurfaceKinds, LeaveValuesThatTheArtistHasSet) {
    Project p = *edit::setChannelConstant(bareProject(), "m", "roughness", Value::number(0.3f));
    p = *edit::applyKind(p, "m", kind("cloth"));
    EXPECT_EQ(masterOf(p).graph.channelConstants.at("roughness")[0], 0.3f);
    EXPECT_EQ(kindOf(masterOf(p).surface)->key, "cloth");
}

TEST(Channels, SayWhyTheyDoNotCountAndTheSwitchWakesThem) {
    // Every idle channel of every kind: its switch, if need be more than one in a row, makes it count.
    for (const SurfaceKind& k : surfaceKinds())
        for (AlphaMode mode : {AlphaMode::Opaque, AlphaMode::Blend}) {
            Project start = *edit::applyKind(bareProject(), "m", k);
            SurfaceSettings s = masterOf(start).surface;
            s.alphaMode = mode;
            start = *edit::setSurface(start, "m", s);
            for (const ChannelDef& c : channels()) {
                Project p = start;
                int steps = 0;
                for (; steps < 6; ++steps) {
                    const auto idle = inactive(masterOf(p), c.key);
                    if (!idle) break;
                    EXPECT_FALSE(idle->why.empty());
                    EXPECT_FALSE(idle->wake.label.empty()) << c.key;
                    p = *idle->wake.edit(p);
                }
                EXPECT_LT(steps, 6) << k.key << " " << c.key;
            }
        }
}

TEST(Channels, OnlyThoseOfTheSurfaceAreCompiled) {
    const Project plain = bareProject(), glass = with("solid_glass");
    EXPECT_LT(compileSurface(plain, masterOf(plain)).program->output("transmission"), 0);
    EXPECT_GE(compileSurface(glass, masterOf(glass)).program->output("transmission"), 0);
    EXPECT_LT(compileSurface(glass, masterOf(glass)).program->output("clearcoat"), 0);
}

TEST(Advice, SpeaksOfMetalGlassAndIsSilencedPerMaster) {
    Project p = with("solid_glass");
    p = *edit::setChannelConstant(p, "m", "metallic", Value::number(1));
    auto codes = [&] { return codesOf(adviceFor(p, masterOf(p))); };
    EXPECT_TRUE(holds(codes(), "advice.metal-glass"));
    for (const Diagnostic& d : adviceFor(p, masterOf(p)))
        if (d.code == "advice.metal-glass") {
            EXPECT_EQ(d.severity, Severity::Advice);
            Project mended = *d.fixes[0].edit(p);
            EXPECT_FALSE(holds(codesOf(adviceFor(mended, masterOf(mended))), "advice.metal-glass"));
            p = *d.fixes.back().edit(p);
            break;
        }
    EXPECT_FALSE(holds(codes(), "advice.metal-glass")) << "silenced";
    // And stays so in the file.
    const auto again = parseProject(projectText(p), "p");
    EXPECT_FALSE(holds(codesOf(adviceFor(again->project, masterOf(again->project))), "advice.metal-glass"));
}

TEST(Advice, KnowsWhatIsMeasured) {
    auto codesFor = [](Value color, float metallic) {
        Project p = *edit::setChannelConstant(bareProject(), "m", "base_color", color);
        p = *edit::setChannelConstant(p, "m", "metallic", Value::number(metallic));
        return codesOf(adviceFor(p, masterOf(p)));
    };
    EXPECT_TRUE(holds(codesFor(Value::vec3(0, 0, 0), 0), "advice.dark-base"));
    EXPECT_TRUE(holds(codesFor(Value::vec3(1, 1, 1), 0), "advice.bright-base"));
    EXPECT_TRUE(codesFor(Value::vec3(0.2f, 0.2f, 0.2f), 0).empty());
    EXPECT_TRUE(holds(codesFor(Value::vec3(0.1f, 0.1f, 0.1f), 1), "advice.dark-metal"));
    for (const KnownMetal& metal : knownMetals()) EXPECT_TRUE(codesFor(metal.baseColor, 1).empty()) << metal.name;
}

TEST(Advice, IsGivenWhenItIsTrueAndNotElse) {
    const Project black = *edit::setChannelConstant(bareProject(), "m", "base_color", Value::vec3(0, 0, 0));
    const auto codesIn = [](const Project& p) { return codesOf(adviceFor(p, masterOf(p))); };
    EXPECT_TRUE(holds(codesIn(black), "advice.dark-base"));
    EXPECT_FALSE(holds(codesIn(*edit::setChannelConstant(black, "m", "emissive", Value::vec3(1, 0.5f, 0))), "advice.dark-base"))
        << "a lamp is seen by its glow";
    Project absent = *edit::setChannelConstant(black, "m", "alpha", Value::number(0));
    EXPECT_TRUE(holds(codesIn(absent), "advice.dark-base")) << "alpha means nothing to an opaque surface";
    SurfaceSettings s = masterOf(absent).surface;
    for (const AlphaMode mode : {AlphaMode::Blend, AlphaMode::Mask}) {
        s.alphaMode = mode;
        EXPECT_FALSE(holds(codesIn(*edit::setSurface(absent, "m", s)), "advice.dark-base")) << "what is not there is not dark";
    }
    // Half a metal, typed on the rail and wired from a card: the same.
    Project half = *edit::setChannelConstant(bareProject(), "m", "metallic", Value::number(0.5f));
    EXPECT_TRUE(holds(codesIn(half), "advice.half-metal"));
    Project wired = bareProject();
    channel(wired, {add(wired, "constant", {{"value", Value::number(0.5f)}}), "out", ""}, "metallic");
    EXPECT_TRUE(holds(codesIn(wired), "advice.half-metal"));
    Project map = bareProject();
    channel(map, {add(map, "noise_2d"), "out", ""}, "metallic");
    EXPECT_FALSE(holds(codesIn(map), "advice.half-metal")) << "a mask may have soft borders";
    // Ground and water lie; cloth and panes are seen from both sides.
    Project ground = bareProject();
    ground.lineup.specimens[0].mesh = "shape:plane";
    EXPECT_FALSE(holds(codesIn(ground), "advice.one-sided-plane"));
    ground.lineup.specimens[0].mesh = "shape:sheet";
    EXPECT_TRUE(holds(codesIn(ground), "advice.one-sided-plane"));
}

TEST(InvalidPixels, AGlowAboveOneIsNone) {
    const ChannelDef* emissive = findChannel("emissive");
    EXPECT_GE(emissive->high, 100);
    EXPECT_FLOAT_EQ(emissive->comfortable, 1) << "dragging stays where a screen can show it";
    SurfaceSettings s;
    std::vector<std::array<float, 4>> values;
    for (const ChannelDef& c : channels()) values.push_back(c.standard.v);
    values[size_t(emissive - channels().data())] = {3, 2, 0, 0};
    const PixelGeometry g{{0, 0, 0}, {0, 0, 1}, {1, 0, 0}, {0, 1, 0}, true};
    EXPECT_FALSE(SurfacePacker(s, 0).surface(g, values).flags & kOutside);
    values[size_t(findChannel("roughness") - channels().data())] = {1.5f, 0, 0, 0};
    EXPECT_TRUE(SurfacePacker(s, 0).surface(g, values).flags & kOutside);
}

TEST(Advice, NamesTheRateThatReturnsAfterTheLoopAndSetsIt) {
    const auto said = [](const Project& p) -> std::optional<Diagnostic> {
        for (const Diagnostic& d : adviceFor(p, masterOf(p)))
            if (d.code == "advice.no-return") return d;
        return {};
    };
    Project p = bareProject(); // a loop of 8 s
    const Id wave = add(p, "wave", {{"frequency", Value::number(0.3f)}}), scroll = add(p, "scroll");
    const auto advice = said(p);
    ASSERT_TRUE(advice);
    EXPECT_EQ(advice->sentence, "Frequency of Wave does not return after the loop of 8 s; 0.25 does.");
    EXPECT_EQ(advice->place.node, wave);
    const Project mended = *advice->fixes[0].edit(p);
    EXPECT_EQ(masterOf(mended).graph.find(wave)->constants.at("frequency")[0], 0.25f);
    EXPECT_FALSE(said(mended)) << "and a speed that nobody chose is left alone";
    // What was named does return: the wave is the same a loop later, and was not before.
    const auto at = [&](const Project& q, double time) { return overSquare(q, {wave, "out", ""}, 1, nullptr, time).at(0); };
    EXPECT_NEAR(at(mended, 1.3), at(mended, 9.3), 1e-4);
    EXPECT_GT(std::fabs(at(p, 1.3) - at(p, 9.3)), 0.05f);

    // Each component, and a parameter by its name.
    Parameter pace;
    pace.id = "pace";
    pace.name = "Pace";
    pace.type = ParameterType::Vector2;
    pace.standard.value = Value::vec2(0.01f, 0.5f);
    pace.hardMin = -2;
    pace.hardMax = 2;
    Project q = *edit::addParameter(mended, "m", pace);
    wire(q, {add(q, "parameter", {}, {{"parameter", "pace"}}), "out", ""}, scroll, "speed");
    const auto ofPace = said(q);
    ASSERT_TRUE(ofPace);
    EXPECT_EQ(ofPace->sentence, "Pace does not return after the loop of 8 s; 0.125 0.5 does.");
    EXPECT_EQ(masterOf(*ofPace->fixes[0].edit(q)).parameter("pace")->standard.value, Value::vec2(0.125f, 0.5f));
    EXPECT_FALSE(said(*ofPace->fixes[0].edit(q)));
    EXPECT_FALSE(said(*edit::silenceAdvice(q, "m", "advice.no-return", true)));
    q.loopSeconds = 100;
    EXPECT_FALSE(said(q)) << "in a loop of 100 s it does";
}

TEST(Advice, NamesAOneSidedSheetAndAGlowOfStrengthZero) {
    Project p = with("thin_glass");
    p.lineup.specimens[0].mesh = "shape:plane";
    EXPECT_TRUE(holds(codesOf(adviceFor(p, masterOf(p))), "advice.one-sided-glass"));
    p = *edit::setChannelConstant(p, "m", "emissive", Value::vec3(1, 1, 1));
    p = *edit::setChannelConstant(p, "m", "emissive_strength", Value::number(0));
    EXPECT_TRUE(holds(codesOf(adviceFor(p, masterOf(p))), "advice.no-glow"));
}

TEST(SceneNodes, SayWhereTheyAreValid) {
    Project p = bareProject();
    channel(p, {add(p, "depth_gap"), "out", ""}, "roughness");
    const auto found = checkMaster(p, masterOf(p));
    ASSERT_TRUE(holds(codesOf(found), "scene.not-see-through"));
    for (const Diagnostic& d : found)
        if (d.code == "scene.not-see-through")
            for (const Fix& fix : d.fixes) {
                const Project mended = *fix.edit(p);
                EXPECT_FALSE(holds(codesOf(checkMaster(mended, masterOf(mended))), "scene.not-see-through")) << fix.label;
            }
}

TEST(ProjectFile, KeepsSceneSurroundingsOrbitsAndYardstick) {
    Project p = with("film");
    Lineup& l = p.lineup;
    l.light = "inspection-pit";
    l.rotation = 40;
    l.tone = "filmic";
    l.glare = 0.5f;
    l.backdrop = "depot";
    l.view = "wire";
    l.wire = {"n1", "out", "r"};
    l.wireMaster = "m";
    l.viewLow = 0.25f;
    l.orbit.panX = 0.5f;
    l.specimens[0].things = {{"signs", {1, 2, 3}, 2, false}};
    l.specimens[0].orbit = Orbit{10, 20, 2, 0, 0.25f};
    l.specimens[0].light = "grey-box";
    l.specimens[0].subdivisions = 2;
    l.yardstick.what = Yardstick::What::Maps;
    l.yardstick.maps = {"a", "b", "", "d"};
    l.yardstick.show = Yardstick::Show::Difference;
    const auto again = parseProject(projectText(p), "p");
    ASSERT_TRUE(again);
    EXPECT_EQ(again->project.lineup, l);
    EXPECT_EQ(masterOf(again->project).surface, masterOf(p).surface);
    EXPECT_TRUE(again->report.empty());
}

TEST(VertexOffset, MovesVerticesAndTurnsTheirNormals) {
    Project p = bareProject();
    // A slope: y grows with x.
    const Id position = add(p, "position"), up = add(p, "combine", {}, {{"components", "3"}});
    wire(p, {position, "out", "x"}, up, "g");
    channel(p, {up, "out", ""}, "vertex_offset");
    const Compilation c = compileChannel(p, masterOf(p), "vertex_offset");
    ASSERT_TRUE(c.ok);
    const Evaluator evaluator(c.program);
    const auto plane = std::make_shared<Mesh>(makePlane());
    std::vector<std::array<float, 3>> offsets(plane->vertices.size());
    evaluateOffset(evaluator, evaluator.frame({}), *plane, plane->slots[0], offsets);
    const Displacer displacer(plane);
    const MeshPtr moved = displacer.displaced(offsets);
    for (size_t v = 0; v < plane->vertices.size(); ++v) {
        EXPECT_FLOAT_EQ(moved->vertices[v].position[1], plane->vertices[v].position[0]);
        // The plane y = x looks towards (-1, 1, 0).
        EXPECT_NEAR(moved->vertices[v].normal[0], -std::sqrt(0.5f), 1e-4f);
        EXPECT_NEAR(moved->vertices[v].normal[1], std::sqrt(0.5f), 1e-4f);
        float across = 0;
        for (size_t k = 0; k < 3; ++k) across += moved->vertices[v].normal[k] * moved->vertices[v].tangent[k];
        EXPECT_NEAR(across, 0, 1e-4f) << "the tangent stays in the surface";
    }
    std::vector<std::array<float, 3>> none(plane->vertices.size());
    EXPECT_EQ(displacer.displaced(none)->vertices[7].normal, plane->vertices[7].normal);
}

namespace {

/// Moves vertices by the red of a noise-like map along Y, and reads the depth gap for roughness.
Project moving() {
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.png", MapKind::Data, Wrap::Repeat, {}, {}}));
    const Id image = add(p, "image", {}, {{"map", "map"}}), up = add(p, "combine", {}, {{"components", "3"}});
    wire(p, {image, "color", "r"}, up, "g");
    channel(p, {up, "out", ""}, "vertex_offset");
    return p;
}

} // namespace

TEST(VertexOffset, IsCountedPerVertex) {
    Project p = moving();
    const auto costs = [&] {
        const Compilation c = compileSurface(p, masterOf(p));
        return costOf(*c.program, c.offset.get(), [](const MapSlot& s) { return CardMap(&s, 1000); });
    };
    const Cost one = costs();
    EXPECT_EQ(one.vertexFetches, 1);
    EXPECT_EQ(one.fetches, 0);
    EXPECT_EQ(one.samplers, 1);
    EXPECT_EQ(one.mapBytes, 1000u);
    EXPECT_EQ(one.operationsPerPixel(), 0);
    const Id twice = add(p, "multiply", {{"in2", Value::number(2)}});
    wire(p, {masterOf(p).graph.channelWires.at("vertex_offset").node, "out", ""}, twice, "in1");
    channel(p, {twice, "out", ""}, "vertex_offset");
    EXPECT_EQ(costs().operations[int(Rate::Vertex)] - one.operations[int(Rate::Vertex)], 3) << "three products a vertex";
    // The same map read by the surface is one sampler and once in memory.
    channel(p, {masterOf(p).graph.nodes.begin()->first, "color", ""}, "base_color");
    EXPECT_EQ(costs().fetches, 1);
    EXPECT_EQ(costs().samplers, 1);
    EXPECT_EQ(costs().mapBytes, 1000u);
    p = *edit::muteChannel(p, "m", "vertex_offset", true);
    EXPECT_EQ(costs().vertexFetches, 0) << "what is muted costs nothing";
}

TEST(VertexOffset, SaysWhatVerticesDoNotKnow) {
    for (const auto& [kind, word] : {std::pair{"depth_gap", "1000 m"},
                                     {"screen_position", "middle"},
                                     {"view_direction", "vertex's normal"},
                                     {"surroundings", "grey"},
                                     {"behind_color", "grey"}}) {
        ASSERT_NE(findNodeDef(kind), nullptr) << kind;
        Project p = bareProject();
        const Id node = add(p, kind), length = add(p, "magnitude"), up = add(p, "combine", {}, {{"components", "3"}});
        wire(p, {node, std::string(findNodeDef(kind)->outputs[0].key), ""}, length, "in");
        wire(p, {length, "out", ""}, up, "g");
        channel(p, {up, "out", ""}, "vertex_offset");
        std::string said;
        for (const Diagnostic& d : compileSurface(p, masterOf(p)).diagnostics)
            if (d.code == "offset.limit") {
                said = d.sentence;
                EXPECT_EQ(d.place.node, node);
            }
        EXPECT_NE(said.find(word), std::string::npos) << kind << ": " << said;
    }
    const Project p = moving();
    EXPECT_FALSE(holds(codesOf(compileSurface(p, masterOf(p)).diagnostics), "offset.limit")) << "a map is known to vertices";
}

TEST(VertexOffset, TheObjectKeepsItsPlacesWhenVerticesMove) {
    const auto cube = std::make_shared<Mesh>(makeCube(2));
    std::vector<std::array<float, 3>> offsets(cube->vertices.size(), {0.25f, 0.5f, 0});
    const MeshPtr moved = Displacer(cube).displaced(offsets);
    ASSERT_EQ(moved->rest.size(), cube->vertices.size());
    for (size_t v = 0; v < cube->vertices.size(); ++v) {
        EXPECT_EQ(moved->rest[v].position, cube->vertices[v].position);
        EXPECT_EQ(moved->rest[v].normal, cube->vertices[v].normal);
        EXPECT_FLOAT_EQ(moved->vertices[v].position[1], cube->vertices[v].position[1] + 0.5f);
    }
}

TEST(VertexOffset, KeepsCreases) {
    const auto cube = std::make_shared<Mesh>(makeCube(2));
    std::vector<std::array<float, 3>> offsets;
    for (const Vertex& v : cube->vertices) offsets.push_back({v.position[0] * 0.5f, v.position[1] * 0.5f, v.position[2] * 0.5f});
    const MeshPtr grown = Displacer(cube).displaced(offsets);
    for (size_t v = 0; v < cube->vertices.size(); ++v)
        for (size_t k = 0; k < 3; ++k) EXPECT_NEAR(grown->vertices[v].normal[k], cube->vertices[v].normal[k], 1e-5f);
}

TEST(Subdivision, MakesFourOfOneAndKeepsTheShapeAndRefusesTooMany) {
    const Mesh cube = makeCube(1);
    const auto fine = subdivided(cube, 2);
    ASSERT_TRUE(fine);
    EXPECT_EQ(fine->indices.size(), cube.indices.size() * 16);
    EXPECT_EQ(boundsOf(*fine).high, boundsOf(cube).high);
    EXPECT_EQ(fine->slots[0].indexCount, fine->indices.size());
    EXPECT_EQ(subdivided(makeSphere(256), 5).error().code, "mesh.too-many");
}

TEST(UvDensity, IsTheSizeOfTheUnitSquareOnTheMesh) {
    const UvDensity d = uvDensity(makePlane(), 0);
    EXPECT_NEAR(d.median, 1 / 2.4f, 1e-3f) << "one UV unit lies over 2.4 m";
    EXPECT_NEAR(d.lowest, d.highest, 1e-3f);
    EXPECT_GT(uvDensity(makeSphere(), 0).highest, uvDensity(makeSphere(), 0).lowest * 1.3f) << "denser towards the poles";
}

TEST(Shapes, HaveFiveDensities) {
    for (const auto& [id, name] : shapes()) {
        size_t before = 0;
        for (char d = '1'; d <= '5'; ++d) {
            const MeshPtr mesh = shapeById(id + "/" + d);
            ASSERT_TRUE(mesh) << id;
            EXPECT_GT(mesh->indices.size(), before) << id;
            before = mesh->indices.size();
        }
        EXPECT_FALSE(shapeById(id + "/9"));
    }
    for (const ThingKind& thing : thingKinds()) EXPECT_TRUE(thingMesh(std::string(thing.key))) << thing.key;
    EXPECT_FALSE(thingMesh("tram"));
}

class LightFiles : public InFolder {
  protected:
    /// A picture of the surroundings: `radiance` at the middle column (where +Z lies), 0.1 elsewhere.
    fs::path panorama(int width, int height, float radiance) const {
        Picture p{width, height, 3, std::vector<float>(size_t(width) * size_t(height) * 3, 0.1f)};
        for (int y = height / 3; y < height * 2 / 3; ++y)
            for (int x = width * 3 / 8; x < width * 5 / 8; ++x)
                for (size_t c = 0; c < 3; ++c) p.values[(size_t(y) * size_t(width) + size_t(x)) * 3 + c] = radiance;
        const fs::path file = folder / "light.exr";
        EXPECT_TRUE(writePicture(file, p, PictureEncoding::Linear));
        return file;
    }
};

TEST_F(LightFiles, ShineFromWhereThePictureSays) {
    const auto light = readLight(panorama(256, 128, 8));
    ASSERT_TRUE(light) << light.error().sentence;
    EXPECT_NEAR((*light)->at({0, 0, 1}, 0)[1], 8, 0.2f) << "the middle of the picture is +Z";
    EXPECT_NEAR((*light)->at({0, 0, -1}, 0)[1], 0.1f, 0.01f);
    EXPECT_GT(diffuseLight(**light, {0, 0, 1})[1], 5 * std::max(0.01f, diffuseLight(**light, {0, 0, -1})[1]));
    const TurnedLight turned(*light, 90);
    float rgb[3];
    const float x[3] = {1, 0, 0};
    turned.around(x, 0, rgb);
    const float minus[3] = {-1, 0, 0};
    float other[3];
    turned.around(minus, 0, other);
    EXPECT_GT(std::max(rgb[1], other[1]), 7) << "turned by a quarter it comes from the side";
    EXPECT_LT(std::min(rgb[1], other[1]), 0.2f);
}

TEST_F(LightFiles, AreKeptByTheirContent) {
    const fs::path file = panorama(128, 64, 4), cache = folder / "cache";
    const auto first = readLight(file, cache);
    ASSERT_TRUE(first);
    ASSERT_EQ(std::distance(fs::directory_iterator(cache), fs::directory_iterator{}), 1);
    const auto again = readLight(file, cache);
    EXPECT_EQ((*first)->faces[1], (*again)->faces[1]);
    // A cache that was cut short is made anew.
    const fs::path kept = fs::directory_iterator(cache)->path();
    fs::resize_file(kept, 1000);
    const auto mended = readLight(file, cache);
    ASSERT_TRUE(mended);
    EXPECT_EQ((*first)->faces[1], (*mended)->faces[1]);
}

TEST_F(LightFiles, ThatCannotBeUsedSayWhy) {
    EXPECT_EQ(readLight(folder / "none.hdr").error().code, "light.missing");
    EXPECT_EQ(readLight(panorama(128, 128, 1)).error().code, "light.not-a-panorama");
    std::ofstream(folder / "junk.hdr") << "#?RADIANCE\nnothing";
    EXPECT_EQ(readLight(folder / "junk.hdr").error().code, "light.unreadable");
    LightLibrary library;
    const ReadyLight standIn = library.get("none.hdr", folder, true);
    EXPECT_TRUE(standIn.filtered) << "something lights the picture all the same";
    EXPECT_NE(standIn.problem.find("none.hdr"), std::string::npos);
}

TEST(ToneCurves, TurnTheSurroundBackIntoItself) {
    for (const ToneCurveDef& t : toneCurves()) {
        const float grey = invertTone(t.curve, 0.2f);
        EXPECT_NEAR(applyTone(t.curve, {grey, grey, grey})[1], 0.2f, 1e-4f) << t.key;
        EXPECT_GE(applyTone(t.curve, {1, 1, 1})[0], 0.6f);
        EXPECT_LE(applyTone(t.curve, {100, 100, 100})[0], 1);
    }
    const Rgb base = applyTone(ToneCurve::Neutral, {0.5f, 0.3f, 0.2f});
    EXPECT_NEAR(base[0], 0.46f, 1e-4f)
        << "the neutral curve shifts base colors by the Fresnel reflection that it expects, and nothing else";
}

struct Tapped {
    Project project = bareProject();
    Assets assets;
    TapFacts facts(const Source& wire, TapAxis axis = {}) { return tapFacts(project, assets, "m", wire, axis, 0); }
};

TEST(Taps, GiveTheNumbersOfAWire) {
    Tapped t;
    const Id uv = add(t.project, "texcoord"), twice = add(t.project, "multiply", {{"in2", Value::number(2)}});
    wire(t.project, {uv, "out", "x"}, twice, "in1");
    TapAxis overU;
    overU.over = TapAxis::Over::U;
    const TapFacts f = t.facts({twice, "out", ""}, overU);
    ASSERT_EQ(f.width, 1);
    EXPECT_NEAR(f.least[0], 0, 0.02f);
    EXPECT_NEAR(f.most[0], 2, 0.02f);
    EXPECT_NEAR(f.mean[0], 1, 1e-3f);
    EXPECT_NEAR(f.outside[0], 0.5f, 1e-3f) << "the right half lies above 1";
    EXPECT_NEAR(f.course.front()[0], 0, 0.02f);
    EXPECT_NEAR(f.course.back()[0], 2, 0.02f);
    EXPECT_EQ(f.axisName, "U");
    EXPECT_FALSE(f.movesWithTime);
    EXPECT_EQ(t.facts({uv, "out", "yx"}).width, 2) << "a take is taken";
    EXPECT_EQ(t.facts({"nobody", "out", ""}).width, 0);
}

TEST(Taps, PlotOverTimeAndOverAnotherWire) {
    Tapped t;
    t.project.loopSeconds = 4;
    const Id wave = add(t.project, "wave", {{"frequency", Value::number(0.25f)}}, {{"shape", "saw"}});
    const TapFacts f = t.facts({wave, "out", ""});
    EXPECT_TRUE(f.movesWithTime);
    EXPECT_EQ(f.axisHigh, 4);
    EXPECT_NEAR(f.course[f.course.size() / 2][0], 0.5f, 0.02f) << "a saw of 4 s is half way up after 2";
    const Id uv = add(t.project, "texcoord"), square = add(t.project, "multiply");
    wire(t.project, {uv, "out", "x"}, square, "in1");
    wire(t.project, {uv, "out", "x"}, square, "in2");
    TapAxis axis;
    axis.over = TapAxis::Over::Wire;
    axis.other = {uv, "out", "x"};
    const TapFacts s = t.facts({square, "out", ""}, axis);
    EXPECT_NEAR(s.course[s.course.size() / 2][0], 0.25f, 0.02f) << "the square of one half";
}

TEST(Curves, OfCardsThatDependOnOneThing) {
    Tapped t;
    const Id wave = add(t.project, "wave"),
             step = add(t.project, "smoothstep", {{"low", Value::number(0.25f)}, {"high", Value::number(0.75f)}}),
             mix = add(t.project, "mix");
    const Master& m = masterOf(t.project);
    EXPECT_EQ(cardCurve(m, *m.graph.find(wave), 4).over, "time");
    const CardCurve c = cardCurve(m, *m.graph.find(step), 4);
    EXPECT_EQ(c.over, "in");
    EXPECT_NEAR(c.values[c.values.size() / 2], 0.5f, 0.05f);
    EXPECT_EQ(c.values.front(), 0);
    EXPECT_TRUE(cardCurve(m, *m.graph.find(mix), 4).values.empty());
}

TEST(AnimatedPictures, AreWrittenAndReadable) {
    const fs::path file = fs::temp_directory_path() / ("huestack-" + std::to_string(::getpid()) + ".webp");
    AnimationWriter writer(8, 4, 0.1, true);
    for (int f = 0; f < 3; ++f) ASSERT_TRUE(writer.add(std::vector<uint8_t>(8 * 4 * 4, uint8_t(60 * f + 60))));
    ASSERT_TRUE(writer.finish(file));
    std::ifstream in(file, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(in)), {});
    EXPECT_EQ(bytes.substr(0, 4), "RIFF");
    EXPECT_NE(bytes.find("ANIM"), std::string::npos);
    size_t frames = 0;
    for (size_t at = bytes.find("ANMF"); at != std::string::npos; at = bytes.find("ANMF", at + 4)) ++frames;
    EXPECT_EQ(frames, 3u);
    fs::remove(file);
    EXPECT_EQ(writer.finish("/nowhere/at/all.webp").error().code, "file.cannot-write");
}

} // namespace
} // namespace hue
