// What a project's files promise: unknown fields, older files, the schema, paths, what is made again.
#include "core/document/changes.h"
#include "core/image_files/image_file.h"
#include "core/make/made_maps.h"
#include "core/project/map_library.h"
#include "core/project/store.h"
#include "core/surface/light_files.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <atomic>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

const fs::path kSource = sourceFolder();

/// A project that has something of everything: the demo, with what it lacks.
Project everything() {
    Project p = loadProject(kSource / "demo/depot/depot.huestack")->project;
    Thing thing;
    thing.kind = "bolt";
    p.lineup.specimens[0].things = {thing};
    p.lineup.specimens[0].orbit = Orbit{};
    p.lineup.yardstick.what = Yardstick::What::Worn;
    p.lineup.yardstick.worn = p.instances[0]->id;
    p.lineup.wire = {p.masters[0]->graph.nodes.begin()->first, "out", ""};
    p.lineup.wireMaster = p.masters[0]->id;
    MapFile made = *p.maps[0];
    made.origin.from = MapOrigin::From::Wire;
    made.origin.worn = p.masters[0]->id;
    made.origin.wire = p.lineup.wire;
    p = *edit::changeMap(p, made);
    if (p.masters[0]->graph.bays.empty()) p = *edit::addBay(p, p.masters[0]->id, "bay", {p.lineup.wire.node});
    Packing packing;
    packing.id = "k_test";
    packing.recipe.name = "test";
    packing.recipe.lanes[0].from = Lane::From::Map;
    packing.recipe.lanes[0].source = "roughness";
    packing.recipe.lanes[0].ops = {{LaneOp::Kind::Invert}};
    packing.sources["roughness"] = p.maps[0]->id;
    return *edit::addPacking(p, packing);
}

/// Objects whose keys the file's owner chooses: what stands in them is no field.
bool keysAreNames(const std::string& key) {
    for (const char* k : {"values", "settings", "sources", "channels", "channelValues", "wires", "lanes"})
        if (key == k) return true;
    return false;
}

int addUnknown(Json& json, const std::string& key) {
    int count = 0;
    for (auto& [name, value] : json.items())
        if (value.is_structured()) count += addUnknown(value, json.is_object() ? name : key);
    if (!json.is_object() || keysAreNames(key)) return count;
    json["xLater"] = {{"of", key}, {"list", {1, 2.5, "three"}}};
    return count + 1;
}

TEST(ProjectFields, ThatAreNotKnownSurviveAtEveryObject) {
    Json json = Json::parse(projectText(everything()));
    // Every object of the schema is in it.
    const Json schema = Json::parse(projectSchema());
    const int added = addUnknown(json, "project");
    EXPECT_GT(added, int(schema["$defs"].size()));
    const auto loaded = parseProject(json.dump(), "later.huestack");
    ASSERT_TRUE(loaded) << loaded.error().sentence;
    EXPECT_EQ(loaded->report.size(), size_t(added)) << "each is told";
    for (const Diagnostic& d : loaded->report) EXPECT_EQ(d.code, "unknown.field") << d.sentence;
    const Json again = Json::parse(projectText(loaded->project));
    std::function<void(const Json&, const Json&, const std::string&)> same = [&](const Json& a, const Json& b, const std::string& where) {
        for (const auto& [key, value] : a.items()) {
            if (a.is_object() && !b.contains(key)) {
                ADD_FAILURE() << where << "/" << key << " was lost";
                continue;
            }
            const Json& other = a.is_object() ? b[key] : b[size_t(std::stoul(key))];
            if (value.is_structured()) {
                same(value, other, where + "/" + key);
            } else {
                EXPECT_EQ(value.dump(), other.dump()) << where << "/" << key;
            }
        }
    };
    same(json, again, "");
}

TEST(ProjectFields, EveryKindOfObjectIsInTheSchemaAndMeetsUnknownFields) {
    const Json schema = Json::parse(projectSchema());
    for (const char* object : {"map", "origin", "wire", "packing", "recipe", "lane", "operation", "mesh", "master", "parameter", "card",
                               "bay", "instance", "lineup", "specimen", "thing", "orbit", "yardstick"})
        EXPECT_TRUE(schema["$defs"].contains(object)) << object;
}

TEST(ProjectFields, SchemaAndDocsAreThoseOfTheDescriptions) {
    const fs::path schema = kSource / "docs/huestack.schema.json", docs = kSource / "docs/file-format.md";
    const std::string begin = "<!-- fields: made from the descriptions -->\n", end = "<!-- end of fields -->\n";
    std::string text = contentOf(docs);
    const size_t from = text.find(begin), to = text.find(end);
    ASSERT_NE(from, std::string::npos);
    ASSERT_NE(to, std::string::npos);
    const std::string wanted = text.substr(0, from) + begin + "\n" + projectFieldsTable() + text.substr(to);
    if (std::getenv("HUE_WRITE_DOCS")) {
        std::ofstream(schema) << projectSchema();
        std::ofstream(docs) << wanted;
    }
    EXPECT_EQ(contentOf(schema), projectSchema()) << "HUE_WRITE_DOCS=1 writes it anew";
    EXPECT_EQ(contentOf(docs), wanted) << "HUE_WRITE_DOCS=1 writes it anew";
}

TEST(ProjectFields, ADemoThatIsReadAndWrittenKeepsItsBytes) {
    const fs::path file = kSource / "demo/depot/depot.huestack";
    const auto loaded = loadProject(file);
    ASSERT_TRUE(loaded);
    EXPECT_TRUE(loaded->report.empty());
    EXPECT_EQ(projectText(loaded->project), contentOf(file));
}

TEST(ProjectFields, NamesOfAnyLettersAreWrittenAsJsonAndComeBack) {
    std::vector<std::string> names{"R\xC3\xB6st \\ \"fein\"", "\xE6\xB5\xB7"};
    for (int c = 1; c < 0x80; ++c) names.push_back(std::string("a") + char(c) + "b");
    for (const std::string& name : names) {
        Project p = bareProject();
        p.name = name;
        const std::string text = projectText(p);
        // By another reader than the program's own.
        const auto json = nlohmann::json::parse(text, nullptr, false);
        ASSERT_FALSE(json.is_discarded()) << text;
        EXPECT_EQ(json["name"], name);
        EXPECT_EQ(parseProject(text, "names")->project.name, name);
    }
}

TEST(ProjectFields, AnOlderFileThatKnowsLessOpensWithDefaults) {
    const auto loaded = parseProject(R"({"kind": "huestack project", "format": 1, "name": "old",
        "maps": [{"id": "t1", "path": "maps/a.png"}],
        "masters": [{"id": "m1", "name": "Old", "cards": [{"id": "n1", "kind": "constant", "values": {"value": 0.25}}],
                     "channels": {"roughness": {"from": "n1"}}}],
        "instances": [{"id": "i1", "name": "Child", "parent": "m1"}],
        "lineup": {"specimens": [{"wears": ["i1"]}], "yaw": 12}})",
                                     "old.huestack");
    ASSERT_TRUE(loaded) << loaded.error().sentence;
    EXPECT_TRUE(loaded->report.empty());
    const Project& p = loaded->project;
    EXPECT_EQ(p.maps[0]->name, "t1") << "called by its id until it has a name";
    EXPECT_EQ(p.master("m1")->graph.channelWires.at("roughness").port, "out");
    EXPECT_EQ(p.lineup.specimens[0].mesh, "shape:sphere");
    EXPECT_EQ(p.lineup.orbit.yaw, 12);
    EXPECT_EQ(p.lineup.orbit.standOff, 1);
    EXPECT_EQ(p.lineup.light, "sodium-shed");
    EXPECT_EQ(p.loopSeconds, 8);
}

TEST(ProjectFields, NumbersComeIntoTheirRangeAndOddOnesAreReported) {
    const auto loaded = parseProject(R"({"kind": "huestack project", "format": 1, "loop": -4,
        "masters": [{"id": "m", "name": "M", "alphaCutoff": 7, "unlit": "yes"}], "lineup": {"pitch": 400, "exposure": "bright"}})",
                                     "odd.huestack");
    ASSERT_TRUE(loaded);
    EXPECT_FLOAT_EQ(loaded->project.loopSeconds, 0.1f);
    EXPECT_EQ(loaded->project.masters[0]->surface.alphaCutoff, 1);
    EXPECT_EQ(loaded->project.lineup.orbit.pitch, 89);
    EXPECT_EQ(loaded->project.lineup.exposure, 0);
    ASSERT_EQ(loaded->report.size(), 2u);
    EXPECT_NE(loaded->report[0].sentence.find("unlit") != std::string::npos, loaded->report[1].sentence.find("unlit") != std::string::npos);
}

TEST(ProjectFields, ANeutralMapOfAnInstanceStaysAMap) {
    Project p = bareProject();
    Parameter map;
    map.id = "p";
    map.name = "Map";
    map.type = ParameterType::Map;
    p = *edit::addParameter(p, "m", map);
    Instance i;
    i.id = "i";
    i.name = "I";
    i.parent = "m";
    p = *edit::addInstance(p, i);
    p = *edit::setOwn(p, "i", "p", {{}, ""});
    const Json json = Json::parse(projectText(p));
    EXPECT_EQ(json["instances"][0]["values"]["p"], "") << "an empty map, not the number 0";
}

class ProjectFolder : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        assets.setFolder(folder);
        fs::create_directories(folder / "maps");
    }
    MapFile file(const std::string& id, MapKind kind = MapKind::Data) {
        return {id, id, "maps/" + id + ".png", kind, Wrap::Repeat, {}, {}};
    }
    void write(const std::string& name, const Image& image) {
        ASSERT_TRUE(writeImage(folder / "maps" / (name + ".png"), image, PixelEncoding::Data));
    }
    Assets assets;
};

TEST_F(ProjectFolder, SavedElsewhereItTakesLightsAndTheYardsticksPictureAlong) {
    Project p = bareProject();
    p.lineup.light = "lights/yard.hdr";
    p.lineup.specimens[0].light = "../shared/hall.exr";
    p.lineup.yardstick.what = Yardstick::What::Picture;
    p.lineup.yardstick.picture = "reference.png";
    const Project moved = withPathsFor(p, folder / "a/project", folder / "b");
    EXPECT_EQ(fs::path(folder / "b" / moved.lineup.light).lexically_normal(), folder / "a/project/lights/yard.hdr");
    EXPECT_EQ(fs::path(folder / "b" / moved.lineup.specimens[0].light).lexically_normal(), folder / "a/shared/hall.exr");
    EXPECT_EQ(fs::path(folder / "b" / moved.lineup.yardstick.picture).lexically_normal(), folder / "a/project/reference.png");
    p.lineup.light = "grey-box";
    EXPECT_EQ(withPathsFor(p, folder / "a", folder / "b").lineup.light, "grey-box") << "a light made by code has no file";
}

TEST_F(ProjectFolder, AFileIsNamedRelativeToItsProject) {
    EXPECT_EQ(assets.stored(folder / "maps/a.png"), "maps/a.png");
    EXPECT_EQ(assets.stored(folder.parent_path() / "shared/a.png"), "../shared/a.png");
    EXPECT_EQ(assets.stored("maps/a.png"), "maps/a.png") << "what is relative is so to the project";
    // The program's own folder, before the first save: only what lies in it moves with the project.
    assets.setFolder(folder, true);
    EXPECT_EQ(assets.stored(folder / "maps/a.png"), "maps/a.png");
    EXPECT_EQ(assets.stored("/somewhere/else.png"), "/somewhere/else.png");
}

/// roughness <- wire A; packed <- A, B; C <- packed through a wire: made in that order, or wrong.
TEST_F(ProjectFolder, StaleMapsAreMadeInTheOrderInWhichTheyDependOnEachOther) {
    Project p = bareProject();
    const Id value = add(p, "constant", {{"value", Value::number(0.25f)}});
    MapFile a = file("a"), c = file("c");
    a.origin.from = c.origin.from = MapOrigin::From::Wire;
    a.origin.worn = c.origin.worn = "m";
    a.origin.wire = {value, "out", ""};
    a.origin.width = a.origin.height = c.origin.width = c.origin.height = 8;
    write("b", sampleColors(8, 8, 1));
    p = *edit::addMap(p, c);
    p = *edit::addMap(p, a);
    p = *edit::addMap(p, file("b"));
    Packing k;
    k.id = "k";
    k.recipe.name = "pair";
    for (const char* role : {"first", "second"}) {
        Lane& lane = k.recipe.lanes[role[0] == 'f' ? 0 : 1];
        lane.from = Lane::From::Map;
        lane.source = role;
    }
    k.sources = {{"first", "a"}, {"second", "b"}};
    MapFile packed = file("packed");
    packed.origin.from = MapOrigin::From::Packing;
    p = *edit::addMap(p, packed);
    k.map = "packed";
    p = *edit::addPacking(p, k);
    // C is what the packed map's first channel gives, through a card.
    const Id image = add(p, "image", {}, {{"map", "packed"}});
    MapFile wired = *p.map("c");
    wired.origin.wire = {image, "color", "r"};
    p = *edit::changeMap(p, wired);
    write("a", Image(8, 8, 1, SampleType::U8));
    write("packed", Image(8, 8, 2, SampleType::U8));
    write("c", Image(8, 8, 1, SampleType::U8));

    const Remade remade = remakeStale(p, assets, {});
    ASSERT_TRUE(remade.failures.empty()) << remade.failures[0].sentence;
    std::vector<std::string> order;
    for (const MadeMap& m : remade.maps) order.push_back(m.file.id);
    EXPECT_EQ(order, (std::vector<std::string>{"a", "packed", "c"}));
    const Project now = *withRemade(p, remade);
    EXPECT_TRUE(staleMaps(now, assets).maps.empty());
    EXPECT_TRUE(staleMaps(now, assets).packings.empty());
    EXPECT_NEAR(readImage(assets.resolve(now.map("c")->path))->at(3, 3, 0), 0.25f, 1.f / 255) << "what A became has reached C";
}

TEST_F(ProjectFolder, AStaleMapThatCannotBeMadeHoldsUpNoOther) {
    Project p = bareProject();
    const Id value = add(p, "constant", {{"value", Value::number(0.5f)}});
    for (const char* id : {"good", "broken", "fine"}) {
        MapFile m = file(id);
        m.origin.from = MapOrigin::From::Wire;
        m.origin.worn = "m";
        m.origin.wire = {value, "out", ""};
        m.origin.width = m.origin.height = 4;
        // Larger than anything that can be made.
        if (m.id == "broken") m.origin.width = kLargestSide + 1;
        p = *edit::addMap(p, m);
    }
    const Remade remade = remakeStale(p, assets, {});
    ASSERT_EQ(remade.failures.size(), 1u) << "told of once";
    EXPECT_EQ(remade.failed[0], "broken");
    EXPECT_EQ(remade.failures[0].code, "make.size");
    ASSERT_EQ(remade.maps.size(), 2u);
    for (const char* id : {"good", "fine"}) EXPECT_TRUE(fs::exists(folder / "maps" / (std::string(id) + ".png"))) << id;
}

TEST_F(ProjectFolder, MakingAgainCanBeCancelledAndLeavesTheMapsThatWereThere) {
    Project p = bareProject();
    const Id noise = add(p, "fractal");
    MapFile m = file("a");
    m.origin.from = MapOrigin::From::Wire;
    m.origin.worn = "m";
    m.origin.wire = {noise, "out", ""};
    m.origin.width = m.origin.height = 64;
    p = *edit::addMap(p, m);
    write("a", sampleColors(4, 4, 1));
    const std::string before = contentOf(folder / "maps/a.png");
    std::atomic<bool> cancelled = true;
    Work work;
    work.cancelled = &cancelled;
    const Remade remade = remakeStale(p, assets, work);
    EXPECT_TRUE(remade.stopped);
    EXPECT_TRUE(remade.maps.empty());
    EXPECT_TRUE(remade.failures.empty()) << "cancelling is no failure";
    EXPECT_EQ(contentOf(folder / "maps/a.png"), before);
}

TEST_F(ProjectFolder, WhatWasTakenOutOfTheProjectMeanwhileDoesNotComeBack) {
    Project p = bareProject();
    const Id value = add(p, "constant", {{"value", Value::number(0.5f)}});
    MapFile m = file("a");
    m.origin.from = MapOrigin::From::Wire;
    m.origin.worn = "m";
    m.origin.wire = {value, "out", ""};
    m.origin.width = m.origin.height = 4;
    p = *edit::addMap(p, m);
    const Remade remade = remakeStale(p, assets, {});
    ASSERT_EQ(remade.maps.size(), 1u);
    const Project without = *edit::removeMap(p, "a");
    EXPECT_TRUE(withRemade(without, remade)->maps.empty());
}

TEST_F(ProjectFolder, AMapThatManyAskForAtOnceIsReadOnce) {
    write("a", sampleColors(512, 512, 3));
    MapLibrary library;
    std::vector<MapPtr> got(8);
    std::vector<std::thread> threads;
    for (MapPtr& m : got) threads.emplace_back([&m, &library, this] { m = library.get({folder / "maps/a.png", MapKind::Data}); });
    for (std::thread& t : threads) t.join();
    for (const MapPtr& m : got) EXPECT_EQ(m, got[0]) << "all hold the same pixels";
    ASSERT_TRUE(got[0]);
    EXPECT_EQ(library.bytes(), got[0]->bytes());
    library.keepOnly({});
    EXPECT_EQ(library.bytes(), 0u) << "and it can be let go";
    EXPECT_EQ(got[0]->width(), 512) << "while who holds it keeps it";
}

TEST_F(ProjectFolder, FilesThatTheProjectDoesNotNameAreLetGo) {
    write("a", sampleColors(16, 16, 3));
    write("b", sampleColors(16, 16, 3));
    Project p = *edit::addMap(*edit::addMap(bareProject(), file("a")), file("b"));
    ASSERT_TRUE(assets.map(p, "a"));
    const size_t one = assets.library().bytes();
    ASSERT_TRUE(assets.map(p, "b"));
    assets.keepOnly(*edit::removeMap(p, "b"));
    EXPECT_EQ(assets.library().bytes(), one);
}

TEST_F(ProjectFolder, ACompressedMapIsAskedForAndThenThere) {
    write("a", sampleColors(32, 32, 3));
    MapLibrary library;
    std::vector<MapRequest> wanted;
    library.setWanted([&](const MapRequest& r) { wanted.push_back(r); });
    const MapRequest request{folder / "maps/a.png", MapKind::Data, Wrap::Repeat, "bc1"};
    const MapPtr original = library.get(request, MapLibrary::View::CompressedWhenReady);
    ASSERT_TRUE(original) << "the map as it is meanwhile";
    ASSERT_EQ(wanted.size(), 1u);
    std::atomic<bool> stop = true;
    Work cancelled;
    cancelled.cancelled = &stop;
    EXPECT_FALSE(library.compress(wanted[0], cancelled));
    EXPECT_TRUE(library.compress(wanted[0], {})) << "what was cancelled can be asked for again";
    const MapPtr compressed = library.get(request, MapLibrary::View::CompressedWhenReady);
    ASSERT_TRUE(compressed);
    EXPECT_NE(compressed, original);
    EXPECT_EQ(wanted.size(), 1u);
    float a[4], b[4];
    bool differs = false;
    for (int x = 0; x < 32; ++x) {
        original->texel(0, x, 7, a);
        compressed->texel(0, x, 7, b);
        differs = differs || a[0] != b[0];
    }
    EXPECT_TRUE(differs) << "it shows what the format does";
}

TEST_F(ProjectFolder, ALightThatWasNotReadIsNamedAndReadOnce) {
    std::vector<Plane> planes(3, Plane(64, 32, 0.5f));
    ASSERT_TRUE(writeImage(folder / "sky.exr", imageOf(planes, SampleType::F32), PixelEncoding::Data));
    LightLibrary lights;
    const ReadyLight before = lights.get("sky.exr", folder, false);
    EXPECT_EQ(before.unread, folder / "sky.exr");
    EXPECT_TRUE(before.filtered) << "a neutral light stands in";
    std::vector<std::thread> threads;
    for (int i = 0; i < 4; ++i) threads.emplace_back([&] { lights.read(folder / "sky.exr"); });
    for (std::thread& t : threads) t.join();
    const ReadyLight after = lights.get("sky.exr", folder, false);
    EXPECT_TRUE(after.unread.empty());
    EXPECT_TRUE(after.problem.empty()) << after.problem;
    EXPECT_EQ(after.key, lights.get("sky.exr", folder, false).key);
    EXPECT_NE(after.filtered, before.filtered);
}

// hsk and the window share what they do; here it is run as people run it.
TEST_F(ProjectFolder, HskKeepsWhatWasPackedWhenALaterOneFails) {
    write("a", sampleColors(8, 8, 1));
    Project p = *edit::addMap(bareProject(), file("a"));
    p = *edit::addMap(p, file("gone"));
    for (const char* id : {"a", "gone"}) {
        Packing k;
        k.id = std::string("k_") + id;
        k.recipe.name = id;
        k.recipe.lanes[0].from = Lane::From::Map;
        k.recipe.lanes[0].source = "mask";
        k.sources["mask"] = id;
        p = *edit::addPacking(p, k);
    }
    const fs::path project = folder / "p.huestack";
    ASSERT_TRUE(saveProject(p, project));
    const Ran packed = runHsk("pack --project " + project.string());
    EXPECT_EQ(packed.code, 1) << packed.output;
    EXPECT_NE(packed.output.find("gone"), std::string::npos) << packed.output;
    const Project now = loadProject(project)->project;
    ASSERT_FALSE(now.packing("k_a")->map.empty()) << packed.output;
    EXPECT_TRUE(fs::exists(folder / now.map(now.packing("k_a")->map)->path));
    EXPECT_TRUE(now.packing("k_gone")->map.empty());
}

TEST_F(ProjectFolder, HskBakeAndDispatchAgreeAboutInvalidValues) {
    Project p = bareProject();
    const Id zero = add(p, "divide", {{"in1", Value::number(1)}, {"in2", Value::number(0)}});
    channel(p, {zero, "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, folder / "bad.huestack"));
    channel(p, {add(p, "constant", {{"value", Value::number(0.5f)}}), "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, folder / "good.huestack"));
    for (const auto& [name, code] : {std::pair{"bad", 1}, {"good", 0}}) {
        const std::string project = (folder / name).string() + ".huestack --of M --size 16 --out ";
        const Ran bake = runHsk("bake " + project + (folder / "out").string());
        const Ran dispatch = runHsk("dispatch " + project + (folder / "out.glb").string() + " --mesh shape:plane");
        EXPECT_EQ(bake.code, code) << bake.output;
        EXPECT_EQ(dispatch.code, code) << dispatch.output;
    }
}

TEST_F(ProjectFolder, HskRemakesWhatTheWindowWouldWithTheSameBytes) {
    Project p = bareProject();
    const Id noise = add(p, "worley_noise");
    MapFile m = file("a");
    m.origin.from = MapOrigin::From::Wire;
    m.origin.worn = "m";
    m.origin.wire = {noise, "out", ""};
    m.origin.width = m.origin.height = 32;
    p = *edit::addMap(p, m);
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const Remade here = remakeStale(p, assets, {});
    ASSERT_EQ(here.maps.size(), 1u);
    const std::string bytes = contentOf(folder / "maps/a.png");
    fs::remove(folder / "maps/a.png");
    const Ran ran = runHsk("remake " + (folder / "p.huestack").string());
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(contentOf(folder / "maps/a.png"), bytes);
    EXPECT_EQ(loadProject(folder / "p.huestack")->project.map("a")->origin.fingerprint, here.maps[0].file.origin.fingerprint);
}

} // namespace
} // namespace hue
