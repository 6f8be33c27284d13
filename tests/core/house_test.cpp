// Promises of the ground floors: files written whole, changes told by kind, one rule for takes, costs and passes.
#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/compile/compile.h"
#include "core/compress/block_file.h"
#include "core/cost/cost.h"
#include "core/document/changes.h"
#include "core/document/parameter_kinds.h"
#include "core/evaluate/evaluator.h"
#include "core/image_files/animation_file.h"
#include "core/image_files/image_file.h"
#include "core/image_files/picture_file.h"
#include "core/maps/conversions.h"
#include "core/mesh/mesh.h"
#include "core/pack/recipe.h"
#include "core/pack/recipe_sources.h"
#include "core/program/passes/passes.h"
#include "core/project/store.h"
#include "tests/full_disk.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>
#include <sys/stat.h>
#include <thread>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

std::string contentOf(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

// Floors -------------------------------------------------------------------------------------------------------------------

class Floors : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        for (const char* part : {"core/base", "core/images", "preview", "cli", "demo", "app"}) fs::create_directories(folder / part);
        std::ofstream(folder / "floors.txt")
            << "# words\ncore/base 0 ground\ncore/images 1 pixels\ncore/program 1\ncore/program/passes 2\n";
        for (const char* part : {"preview", "cli", "demo", "app"}) std::ofstream(folder / "floors.txt", std::ios::app) << part << " 9\n";
    }
    void file(const char* name, const std::string& text) {
        fs::create_directories((folder / name).parent_path());
        std::ofstream(folder / name) << text;
    }
    Ran check() {
        FILE* pipe = popen((std::string(HUE_SOURCE_DIR) + "/cmake/check-floors.sh " + folder.string() + " 2>&1").c_str(), "r");
        std::string out;
        char buffer[4096];
        while (const size_t n = fread(buffer, 1, sizeof buffer, pipe)) out.append(buffer, n);
        return {WEXITSTATUS(pclose(pipe)), out};
    }
};

TEST_F(Floors, AnIncludeThatGoesDownIsFine) {
    file("core/images/a.cpp", "#include \"core/images/a.h\"\n#include \"core/base/b.h\"\n#include <png.h>\n");
    file("core/program/passes/p.cpp", "#include \"core/program/p.h\"\n");
    const Ran ran = check();
    EXPECT_EQ(ran.code, 0) << ran.output;
}

TEST_F(Floors, OneThatClimbsIsRefusedWithItsLine) {
    file("core/base/b.cpp", "// words\n#include \"core/base/b.h\"\n#include \"core/images/a.h\"\n");
    const Ran ran = check();
    EXPECT_NE(ran.code, 0);
    EXPECT_NE(ran.output.find("core/base/b.cpp:3"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("core/images/a.h"), std::string::npos) << ran.output;
}

TEST_F(Floors, OneThatStaysOnItsFloorIsRefused) {
    file("core/images/a.h", "#pragma once\n#include \"core/program/p.h\"\n");
    EXPECT_NE(check().code, 0);
}

TEST_F(Floors, AHeaderThatNeedsALibraryOfOurOwnIsRefused) {
    file("core/images/a.h", "#pragma once\n#include <nlohmann/json.hpp>\n");
    EXPECT_NE(check().output.find("core/images/a.h:2"), std::string::npos);
    file("core/images/a.h", "#pragma once\n#include <tiny_gltf.h>\n");
    EXPECT_NE(check().code, 0);
    file("core/images/a.h", "#pragma once\n#include <fmt/format.h>\n#include <vector>\n");
    EXPECT_EQ(check().code, 0) << check().output;
}

TEST_F(Floors, AFolderThatTheListDoesNotKnowIsNamed) {
    file("core/attic/a.cpp", "int a;\n");
    EXPECT_NE(check().output.find("core/attic/a.cpp"), std::string::npos);
}

// Files --------------------------------------------------------------------------------------------------------------------

class NewFiles : public InFolder {
  protected:
    size_t count() const { return size_t(std::distance(fs::directory_iterator(folder), fs::directory_iterator{})); }
};

TEST_F(NewFiles, AreThereOnceTheyAreKeptAndLeaveNothingElse) {
    {
        auto file = NewFile::create(folder / "a.txt");
        ASSERT_TRUE(file);
        EXPECT_EQ(file->temporary().extension(), ".txt") << "libraries go by the suffix";
        std::ofstream(file->temporary()) << "whole";
        EXPECT_FALSE(fs::exists(folder / "a.txt"));
        ASSERT_TRUE(file->keep());
    }
    EXPECT_EQ(contentOf(folder / "a.txt"), "whole");
    { auto dropped = NewFile::create(folder / "b.txt"); }
    EXPECT_EQ(count(), 1u);
}

TEST_F(NewFiles, OfTwoWritersNeverMeet) {
    auto a = NewFile::create(folder / "a.txt"), b = NewFile::create(folder / "a.txt");
    ASSERT_TRUE(a && b);
    EXPECT_NE(a->temporary(), b->temporary());
    std::vector<std::thread> threads;
    for (int t = 0; t < 8; ++t)
        threads.emplace_back([this, t] { EXPECT_TRUE(writeFile(folder / "shared.txt", std::string(200000, char('a' + t)))); });
    for (std::thread& t : threads) t.join();
    const std::string content = contentOf(folder / "shared.txt");
    EXPECT_EQ(content.size(), 200000u);
    EXPECT_EQ(content.find_first_not_of(content[0]), std::string::npos) << "one of them, whole";
}

TEST_F(NewFiles, ReplaceWhatALinkPointsAtAndKeepPermissions) {
    fs::create_directory(folder / "real");
    std::ofstream(folder / "real/a.txt") << "old";
    ASSERT_EQ(::chmod((folder / "real/a.txt").c_str(), 0640), 0);
    fs::create_symlink("real/a.txt", folder / "link.txt");
    ASSERT_TRUE(writeFile(folder / "link.txt", "new"));
    EXPECT_TRUE(fs::is_symlink(folder / "link.txt"));
    EXPECT_EQ(contentOf(folder / "real/a.txt"), "new");
    EXPECT_EQ(int(fs::status(folder / "real/a.txt").permissions()), 0640);
}

TEST_F(NewFiles, APlantedLinkIsNotWrittenThrough) {
    std::ofstream(folder / "victim.txt") << "untouched";
    // What the temporary file was called in earlier versions.
    fs::create_symlink(folder / "victim.txt", folder / "a.txt.part");
    fs::create_symlink(folder / "victim.txt", folder / ".a.part.txt");
    ASSERT_TRUE(writeFile(folder / "a.txt", "new"));
    EXPECT_EQ(contentOf(folder / "victim.txt"), "untouched");
}

TEST_F(NewFiles, MakeNoFoldersUnlessToldSo) {
    EXPECT_EQ(writeFile(folder / "no/such/a.txt", "x").error().code, "file.cannot-write");
    EXPECT_FALSE(fs::exists(folder / "no"));
    EXPECT_TRUE(writeFile(folder / "made/a.txt", "x", Folders::Make));
}

TEST_F(NewFiles, OnAFullDiskEveryWriterSaysSoAndLeavesTheOldFileWhole) {
    const Image image = sampleColors(256, 256, 3);
    const Picture picture{64, 64, 3, std::vector<float>(64 * 64 * 3, 0.5f)};
    Recipe recipe = builtInRecipes()[0];
    recipe.name = std::string(9000, 'r');
    Project project = bareProject();
    project.name = std::string(9000, 'p');
    const std::vector<std::pair<std::string, std::function<Outcome(const fs::path&)>>> writers{
        {"a.png", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.tga", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.tif", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.exr",
         [&](const fs::path& f) -> Outcome {
             Picture noise{64, 64, 3, std::vector<float>(64 * 64 * 3)};
             for (size_t i = 0; i < noise.values.size(); ++i) noise.values[i] = std::sin(float(i) * 12.9898f) * 43.7f;
             const auto written = writePicture(f, noise, PictureEncoding::Linear);
             if (!written) return written.error();
             return Done{};
         }},
        {"a.ktx2", [&](const fs::path& f) { return writeBlockFile(f, *compressed({image}, BlockFormat::Plain8, {}), {.zstd = false}); }},
        {"a.glb", [&](const fs::path& f) { return writeMesh(f, makeSphere(32)); }},
        {"a.webp",
         [&](const fs::path& f) {
             AnimationWriter writer(256, 256, 0.1, true);
             std::vector<uint8_t> noise(256 * 256 * 4);
             std::mt19937 random(1);
             for (uint8_t& v : noise) v = uint8_t(random());
             (void)writer.add(noise);
             return writer.finish(f);
         }},
        {"a.huerecipe", [&](const fs::path& f) { return writeRecipe(recipe, f); }},
        {"a.huestack", [&](const fs::path& f) { return saveProject(project, f); }},
    };
    for (const auto& [name, write] : writers) {
        const fs::path file = folder / name;
        ASSERT_TRUE(write(file)) << name;
        const std::string before = contentOf(file);
        ASSERT_GT(before.size(), 8192u) << name << ": the test needs more than the disk takes";
        {
            const FullDisk full(8192);
            const Outcome written = write(file);
            ASSERT_FALSE(written) << name;
            EXPECT_EQ(written.error().code, "file.cannot-write") << name;
            EXPECT_NE(written.error().sentence.find(name), std::string::npos) << written.error().sentence;
        }
        EXPECT_EQ(contentOf(file), before) << name;
    }
    EXPECT_EQ(count(), writers.size()) << "nothing is left beside them";
}

TEST(Hashes, AreThoseOfTheStandard) {
    // XXH3 64 bit with seed 0, as the xxhsum program gives them.
    EXPECT_EQ(Hash().text(), "2d06800538d394c2") << "of nothing";
    Hash pieces, whole;
    const std::string text(100000, 'x');
    for (size_t i = 0; i < text.size(); i += 777) pieces.add(text.data() + i, std::min<size_t>(777, text.size() - i));
    whole.add(text.data(), text.size());
    EXPECT_EQ(pieces.value(), whole.value());
    Hash a, b;
    a.add(std::string("ab")), a.add(std::string("c"));
    b.add(std::string("a")), b.add(std::string("bc"));
    EXPECT_NE(a.value(), b.value());
}

// Changes by kind ----------------------------------------------------------------------------------------------------------

Changes after(const Project& before, const Result<Project>& next) {
    EXPECT_TRUE(next);
    return changesBetween(before, *next);
}

TEST(ChangesByKind, TellWhatAnEditConcerns) {
    Project p = bareProject();
    const Id noise = add(p, "worley_noise"), image = add(p, "image");
    channel(p, {noise, "out", ""}, "roughness");
    Parameter parameter;
    parameter.id = "p1";
    parameter.name = "Amount";
    p = *edit::addParameter(p, "m", parameter);
    p = *edit::deriveInstance(p, "m", "i1");
    p = *edit::addMap(p, {"t1", "t1", "a.png", MapKind::Color, Wrap::Repeat, {}, {}});
    EXPECT_TRUE(changesBetween(p, p).none());
    EXPECT_EQ(after(p, edit::moveNodes(p, "m", {{noise, {300, 20}}})), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::renameNode(p, "m", noise, "Stones")), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::addBay(p, "m", "bay", {noise})), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::setConstant(p, "m", noise, "jitter", Value::number(0.3f))), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::setSetting(p, "m", image, "map", "t1")), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::disconnectChannel(p, "m", "roughness")), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::setOwn(p, "i1", "p1", {Value::number(0.7f), {}})), Changes(Change::Values));
    EXPECT_EQ(after(p, edit::setOwn(p, "m", "p1", {Value::number(0.7f), {}})), Changes(Change::Values)) << "a default is a value too";
    SurfaceSettings s = masterOf(p).surface;
    s.doubleSided = true;
    EXPECT_EQ(after(p, edit::setSurface(p, "m", s)), Changes(Change::Surface));
    EXPECT_EQ(after(p, edit::setOwnSurface(p, "i1", {AlphaMode::Blend, {}, {}})), Changes(Change::Surface));
    EXPECT_EQ(after(p, edit::renameMaster(p, "m", "Other")), Changes(Change::Names));
    MapFile map = *p.map("t1");
    map.kind = MapKind::Data;
    EXPECT_EQ(after(p, edit::changeMap(p, map)), Changes(Change::Maps));
    EXPECT_EQ(after(p, edit::addMesh(p, {"g1", "g1", "a.glb", {}})), Changes(Change::Meshes));
    Lineup turned = p.lineup;
    turned.orbit.yaw += 40;
    turned.view = "roughness";
    turned.yardstick.split = 0.2f;
    EXPECT_EQ(after(p, edit::setLineup(p, turned)), Changes(Change::Camera));
    turned.exposure = 1;
    EXPECT_EQ(after(p, edit::setLineup(p, turned)), Change::Camera | Change::Lineup);
    Master another;
    another.name = "Another";
    EXPECT_TRUE(after(p, edit::addMaster(p, another)).any(Change::Names));
}

TEST(ChangesByKind, AnOrbitOfASpecimensOwnIsCameraToo) {
    Project p = bareProject();
    Lineup l = p.lineup;
    l.specimens.resize(2);
    p = *edit::setLineup(p, l);
    l.specimens[1].orbit = Orbit{.yaw = 90};
    EXPECT_EQ(after(p, edit::setLineup(p, l)), Changes(Change::Camera));
    l.specimens[1].mesh = "shape:cube";
    EXPECT_EQ(after(p, edit::setLineup(p, l)), Change::Camera | Change::Lineup);
}

/// Random edits of everything but graphs, which have a test of their own.
Result<Project> randomEdit(const Project& p, uint32_t seed) {
    std::mt19937 random(seed);
    const auto pick = [&](size_t n) { return n ? random() % n : 0; };
    const auto someMap = [&]() -> Id { return p.maps.empty() ? Id{} : p.maps[pick(p.maps.size())]->id; };
    const auto someInstance = [&]() -> Id { return p.instances.empty() ? Id{} : p.instances[pick(p.instances.size())]->id; };
    switch (random() % 14) {
    case 0: return edit::addMap(p, {newId('t'), "map", "maps/a.png", MapKind(random() % 4), Wrap(random() % 3), {}, {}});
    case 1:
        if (const MapFile* m = p.map(someMap())) {
            MapFile changed = *m;
            changed.kind = MapKind(random() % 4);
            changed.role = roles()[pick(roles().size())];
            return edit::changeMap(p, changed);
        }
        return p;
    case 2: return p.maps.empty() ? Result<Project>(p) : edit::removeMap(p, someMap());
    case 3: return edit::makeSet(p, random() % 3 ? "set" : "", {{someMap(), roles()[pick(roles().size())]}});
    case 4: {
        Packing k;
        k.recipe = builtInRecipes()[pick(builtInRecipes().size())];
        for (const std::string& role : k.recipe.sources()) k.sources[role] = someMap();
        return edit::addPacking(p, k);
    }
    case 5: return p.packings.empty() ? Result<Project>(p) : edit::removePacking(p, p.packings[pick(p.packings.size())]->id);
    case 6: return edit::deriveInstance(p, random() % 2 ? "m" : someInstance(), newId('i'));
    case 7: return edit::removeInstance(p, someInstance());
    case 8: return edit::renameInstance(p, someInstance(), "name " + std::to_string(random() % 5));
    case 9: return edit::setOwnSurface(p, someInstance(), {AlphaMode(random() % 3), float(random() % 20) / 10 - 0.5f, random() % 2 == 0});
    case 10: return edit::placeSet(p, "m", "set");
    case 11: return edit::wearSet(p, random() % 2 ? "m" : someInstance(), "set");
    case 12: return edit::wear(p, random() % 3, random() % 4, random() % 2 ? "m" : someInstance());
    default: {
        Lineup l = p.lineup;
        if (random() % 2 && l.specimens.size() < 6) l.specimens.push_back({});
        else if (!l.specimens.empty()) l.specimens.erase(l.specimens.begin() + long(pick(l.specimens.size())));
        l.exposure = float(random() % 5);
        return edit::setLineup(p, l);
    }
    }
}

RC_GTEST_PROP(AnyRowOfEditsOfMapsAndInstances, CanBeUndoneToTheFirstByteAndReadsBack, ()) {
    std::vector<Project> states{bareProject()};
    std::vector<std::string> texts{projectText(states[0])};
    const int length = *rc::gen::inRange(1, 30);
    for (int i = 0; i < length; ++i) {
        const Project before = states.back();
        const Result<Project> next = randomEdit(before, *rc::gen::arbitrary<uint32_t>());
        if (!next) {
            // A refusal says why, and nothing has happened.
            RC_ASSERT(!next.error().sentence.empty());
            RC_ASSERT(projectText(before) == texts.back());
            continue;
        }
        states.push_back(*next);
        texts.push_back(projectText(*next));
        // What differs in the file is told by some kind.
        if (texts.back() != texts[texts.size() - 2]) RC_ASSERT(!changesBetween(before, *next).none());
    }
    // Undo is a list of snapshots: each must still be what it was.
    for (size_t i = states.size(); i-- > 0;) RC_ASSERT(projectText(states[i]) == texts[i]);
    const auto loaded = parseProject(texts.back(), "edited.huestack");
    RC_ASSERT(bool(loaded));
    RC_ASSERT(projectText(loaded->project) == texts.back());
}

// One rule each ------------------------------------------------------------------------------------------------------------

TEST(Takes, ThatFitAreTheSameEverywhere) {
    for (int from = 1; from <= 4; ++from)
        for (int to = 0; to <= 4; ++to) {
            const auto take = fittingTake(from, to);
            if (to == 1 && from > 1) {
                EXPECT_FALSE(take) << "a color into one number has no silent rule";
                for (const std::string& t : singleTakes(from)) EXPECT_EQ(widthOfTake(t, from), 1) << t;
                continue;
            }
            ASSERT_TRUE(take);
            EXPECT_EQ(widthOfTake(*take, from), to == 0 || from < to ? from : to) << from << " into " << to;
        }
    EXPECT_FALSE(holds(singleTakes(2), "luma")) << "brightness needs three components";
    EXPECT_TRUE(holds(singleTakes(3), "luma"));
}

TEST(Pasting, IntoAnotherMasterKeepsWiresValuesAndMaps) {
    Project p = bareProject();
    p = *edit::addMap(p, {"t1", "t1", "a.png", MapKind::Color, Wrap::Repeat, {}, {}});
    Master other;
    other.id = "o";
    other.name = "Other";
    p = *edit::addMaster(p, other);
    Parameter amount, map;
    amount.id = "amount", amount.name = "Amount", amount.standard.value = Value::number(0.7f);
    map.id = "map", map.name = "Map", map.type = ParameterType::Map, map.standard.map = "t1";
    p = *edit::addParameter(*edit::addParameter(p, "m", amount), "m", map);
    const Id number = add(p, "parameter", {}, {{"parameter", "amount"}}), picture = add(p, "parameter", {}, {{"parameter", "map"}});
    const Id image = add(p, "image"), product = add(p, "multiply"), outside = add(p, "texcoord");
    wire(p, {picture, "out", ""}, image, "map");
    wire(p, {image, "color", "r"}, product, "in1");
    wire(p, {number, "out", ""}, product, "in2");
    wire(p, {outside, "out", ""}, image, "uv");
    std::map<Id, Id> made;
    const auto pasted = edit::pasteNodes(p, "m", {number, picture, image, product}, "o", {36, 36}, &made);
    ASSERT_TRUE(pasted) << pasted.error().sentence;
    const Graph& g = pasted->master("o")->graph;
    ASSERT_EQ(g.nodes.size(), 3u) << "the card of the map's parameter has no place there";
    const Node& now = *g.find(made.at(product));
    EXPECT_EQ(now.wires.at("in1"), (Source{made.at(image), "color", "r"}));
    EXPECT_EQ(now.wires.at("in2").node, made.at(number));
    EXPECT_EQ(g.find(made.at(number))->kind, "constant");
    EXPECT_EQ(g.find(made.at(number))->constants.at("value"), Value::number(0.7f));
    EXPECT_EQ(g.find(made.at(image))->settings.at("map"), "t1");
    EXPECT_TRUE(g.find(made.at(image))->wires.empty()) << "what stayed behind is not wired to";
    EXPECT_TRUE(compileTaps(*pasted, *pasted->master("o")).ok);
    EXPECT_EQ(pasted->master("m")->graph.nodes.size(), masterOf(p).graph.nodes.size());
    EXPECT_FALSE(edit::pasteNodes(p, "gone", {number}, "o", {}));
}

TEST(Conversions, StandInTheOrderOfTheirNumbersAndRefuseWhatTheyCannotUse) {
    for (size_t i = 0; i < conversions().size(); ++i) {
        const ConversionDef& c = conversions()[i];
        EXPECT_EQ(size_t(c.what), i) << c.key;
        EXPECT_EQ(findConversion(c.key), &c);
        const Image grey = sampleColors(16, 16, 1), normals = normalsFromHeight(sampleHeight(16, 16), {1, 0.05f});
        const auto fromGrey = convert(c.what, grey, {});
        if (c.fromNormals) { EXPECT_EQ(fromGrey.error().code, "convert.channels") << c.key; }
        ConversionSettings settings;
        settings.other = &normals;
        const auto made = convert(c.what, c.fromNormals ? normals : grey, settings);
        ASSERT_TRUE(made) << c.key;
        EXPECT_EQ(made->width, 16) << c.key;
    }
    EXPECT_EQ(convert(Conversion::Join, normalsFromHeight(sampleHeight(8, 8), {}), {}).error().code, "convert.other");
}

TEST(Conversions, OcclusionLooksAsFarWhoeverAsks) {
    // A wall of which the shade reaches a tenth of the map's width, whatever that is in metres.
    Plane height(100, 20, 0.f);
    for (int y = 0; y < 20; ++y)
        for (int x = 48; x < 52; ++x) height.at(x, y) = 1;
    for (float width : {1.f, 8.f}) {
        const Plane sky = occlusionFromHeight(height, {width, width * 0.1f});
        EXPECT_LT(sky.at(45, 10), 0.9f) << width;
        EXPECT_NEAR(sky.at(30, 10), 1, 0.02f) << width << ": out of reach";
    }
}

TEST(RecipeSources, AreOfTheChosenMapsSetElseAloneInTheirRole) {
    Project p = bareProject();
    const auto put = [&](const char* id, const char* set, const char* role) {
        MapFile m{id, id, "x.png", MapKind::Data, Wrap::Repeat, {}, {}};
        m.set = set;
        m.role = role;
        p = *edit::addMap(p, m);
    };
    put("a_rough", "a", "roughness"), put("a_metal", "a", "metallic"), put("a_occ", "a", "occlusion");
    put("b_rough", "b", "roughness"), put("lone", "", "height");
    const Recipe orm = *findRecipe("orm");
    EXPECT_EQ(recipeSources(p, orm, "a_metal", {}),
              (std::map<std::string, Id>{{"roughness", "a_rough"}, {"metallic", "a_metal"}, {"occlusion", "a_occ"}}));
    EXPECT_EQ(recipeSources(p, orm, "b_rough", {}), (std::map<std::string, Id>{{"roughness", "b_rough"}})) << "no set borrows from another";
    const auto alone = recipeSources(p, orm, "lone", {});
    EXPECT_EQ(alone.count("roughness"), 0u) << "two hold it";
    EXPECT_EQ(alone.at("metallic"), "a_metal");
    const auto sets = packingsForSets(p, orm);
    ASSERT_EQ(sets.size(), 1u) << "only a holds all of it";
    EXPECT_EQ(sets[0].sources.at("occlusion"), "a_occ");
    EXPECT_TRUE(packingsForSets(*edit::addPacking(p, sets[0]), orm).empty()) << "and once is enough";
}

TEST(ParameterKinds, SayTheSameEverywhere) {
    for (size_t i = 0; i < parameterKinds().size(); ++i) {
        const ParameterKind& k = parameterKinds()[i];
        EXPECT_EQ(size_t(k.type), i) << k.key;
        Parameter p;
        p.type = k.type;
        EXPECT_EQ(p.width(), k.width);
        // A constant of that width becomes that kind again.
        if (k.width) { EXPECT_EQ(parameterTypeFor(k.width, k.meaning == Meaning::Color), k.type) << k.key; }
        // What the shader would declare has as many components.
        const std::string glsl(k.glsl);
        EXPECT_EQ(k.width == 0 ? "sampler2D" : k.width == 1 ? "float" : "vec" + std::to_string(k.width), glsl);
    }
}

RC_GTEST_PROP(Costs, OfCardsAddUpToThoseOfTheSurface, ()) {
    const Project p = randomGraph(*rc::gen::arbitrary<uint32_t>(), *rc::gen::inRange(1, 40));
    const Compilation c = compileSurface(p, masterOf(p));
    const Cost whole = costOf(*c.program, {});
    int operations = 0, fetches = 0;
    for (const auto& [id, cost] : c.cards) operations += cost.operations, fetches += cost.fetches;
    for (const Instruction& i : c.program->code)
        if (i.origin < 0) operations += costOf(i).operations, fetches += costOf(i).fetches;
    RC_ASSERT(operations == whole.operations[0] + whole.operations[1] + whole.operations[2] + whole.operations[3]);
    RC_ASSERT(fetches == whole.fetches);
}

TEST(Costs, WhatReadsTheSceneIsAFetchOfItsCardAsOfTheSurface) {
    Project p = bareProject();
    const Id around = add(p, "surroundings");
    channel(p, {around, "out", ""}, "emissive");
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_EQ(c.cards.at(around).fetches, 1);
    EXPECT_EQ(costOf(*c.program, {}).fetches, 1);
}

std::vector<float> valuesOf(std::shared_ptr<const Program> program, const std::string& output) {
    const Evaluator evaluator(program);
    const Frame frame = evaluator.frame({});
    std::vector<float> out;
    Work one;
    one.threads = 1;
    evaluator.grid(
        frame, {output}, 16, 16, FlatSquare(16, 16),
        [&](int, int, int columns, int rows, const float* const* planes) {
            for (int r = 0; r < rows; ++r)
                for (int i = 0; i < columns; ++i) out.push_back(planes[0][r * kBlockColumns + i]);
        },
        one);
    return out;
}

RC_GTEST_PROP(Passes, LeaveTheValuesAsTheyAreWhicheverIsLeftOut, ()) {
    const Project p = randomGraph(*rc::gen::arbitrary<uint32_t>(), *rc::gen::inRange(1, 25));
    const std::vector<float> wanted = valuesOf(compileSurface(p, masterOf(p)).program, "roughness");
    for (const PassDef& pass : passes()) {
        PassOptions options;
        options.without = {std::string(pass.name)};
        const auto without = compileSurface(p, masterOf(p), Constants::Folded, options).program;
        RC_ASSERT(validate(*without).empty());
        const std::vector<float> got = valuesOf(without, "roughness");
        RC_ASSERT(got.size() == wanted.size());
        for (size_t i = 0; i < got.size(); ++i) RC_ASSERT(std::fabs(got[i] - wanted[i]) <= 1e-5f * (1 + std::fabs(wanted[i])));
    }
}

TEST(Passes, AreListedAsTheyRunWithWhatTheyLeave) {
    Project p = bareProject();
    const Id two = add(p, "add", {{"in1", Value::number(1)}, {"in2", Value::number(2)}}),
             same = add(p, "add", {{"in1", Value::number(1)}, {"in2", Value::number(2)}});
    const Id product = add(p, "multiply");
    wire(p, {two, "out", ""}, product, "in1");
    wire(p, {same, "out", ""}, product, "in2");
    channel(p, {product, "out", ""}, "roughness");
    std::vector<std::string> ran;
    size_t most = 0, least = 1000;
    PassOptions options;
    options.log = [&](std::string_view pass, const Program& program, bool) {
        ran.emplace_back(pass);
        most = std::max(most, program.code.size());
        least = std::min(least, program.code.size());
    };
    const auto compiled = compileSurface(p, masterOf(p), Constants::Folded, options);
    for (const PassDef& pass : passes()) EXPECT_TRUE(holds(ran, std::string(pass.name))) << pass.name;
    EXPECT_LT(least, most);
    const int32_t rough = compiled.program->output("roughness");
    EXPECT_EQ(compiled.program->code[size_t(rough)].op, Op::Constant) << "9, found before anything runs";
}

// The command line's tools for single maps ---------------------------------------------------------------------------------

class HskMaps : public InFolder {
  protected:
    std::string put(const char* name, const Image& image) {
        EXPECT_TRUE(writeImage(folder / name, image, PixelEncoding::Data));
        return (folder / name).string();
    }
    std::string out(const char* name) { return (folder / name).string(); }
};

TEST_F(HskMaps, MapTellsWhatAFileHolds) {
    const std::string file = put("stones_normal.png", normalsFromHeight(sampleHeight(64, 64), {1, 0.05f}));
    const Ran ran = runHsk("map " + file);
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("64 x 64"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("normal"), std::string::npos) << ran.output;
    EXPECT_EQ(runHsk("map " + out("gone.png")).code, 1) << "a problem was found";
}

TEST_F(HskMaps, NormalsDoesWhatTheLibraryDoes) {
    const Image height = imageOf({sampleHeight(32, 32)}, SampleType::U16), normals = normalsFromHeight(sampleHeight(32, 32), {1, 0.05f});
    const std::string h = put("h.png", height), n = put("n.png", normals);
    for (const ConversionDef& c : conversions()) {
        const std::string to = out("made.png");
        const Ran ran = runHsk("normals " + (c.fromNormals ? n : h) + " --do " + std::string(c.key) +
                               " --strength 2 --width 1 --depth 0.02 --detail " + n + " --out " + to);
        ASSERT_EQ(ran.code, 0) << c.key << ": " << ran.output;
        ConversionSettings settings{2, {1, 0.02f}, &normals};
        const auto wanted = convert(c.what, c.fromNormals ? normals : height, settings);
        ASSERT_TRUE(wanted);
        EXPECT_EQ(readImage(to)->samples, wanted->samples) << c.key;
    }
    EXPECT_EQ(runHsk("normals " + h + " --do flip-green --out " + out("x.png")).code, 2) << "a height holds no normals";
}

TEST_F(HskMaps, SeamlessLowersTheSeam) {
    Image ramp(64, 64, 1, SampleType::U8);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) ramp.row(y)[x] = std::byte(40 + 2 * x + (x * 7 + y * 13) % 17);
    const std::string file = put("ramp.png", ramp);
    fs::create_directory(folder / "made");
    const Ran ran = runHsk("seamless " + file + " --method blend --out " + out("made"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    const Image made = *readImage(folder / "made/ramp.png");
    auto step = [](const Image& m) {
        double sum = 0;
        for (int y = 0; y < m.height; ++y) sum += std::fabs(m.at(0, y, 0) - m.at(m.width - 1, y, 0));
        return sum / m.height;
    };
    EXPECT_LT(step(made), step(ramp) / 2);
}

TEST_F(HskMaps, MaskDrawsItsShapes) {
    const Ran ran = runHsk("mask --size 64 --shape 'rectangle 0.25 0.25 0.5 0.5' --out " + out("m.png"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    const Image mask = *readImage(folder / "m.png");
    EXPECT_GT(mask.at(32, 32, 0), 0.99f);
    EXPECT_LT(mask.at(4, 4, 0), 0.01f);
    double sum = 0;
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) sum += mask.at(x, y, 0);
    EXPECT_NEAR(sum / 4096, 0.25, 0.01) << "a quarter of it";
    EXPECT_EQ(runHsk("mask --shape 'star 0 0 1 1' --out " + out("x.png")).code, 2);
}

TEST_F(HskMaps, FromGlossMakesThreeMaps) {
    const std::string diffuse = put("d_diffuse.png", sampleColors(16, 16, 3)), specular = put("d_specular.png", sampleColors(16, 16, 3)),
                      gloss = put("d_gloss.png", sampleColors(16, 16, 1));
    fs::create_directory(folder / "made");
    const Ran ran = runHsk("from-gloss " + diffuse + " " + specular + " " + gloss + " --out " + out("made"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    int maps = 0;
    for (const auto& e : fs::directory_iterator(folder / "made")) maps += readImage(e.path()) ? 1 : 0;
    EXPECT_EQ(maps, 3);
}

TEST_F(HskMaps, RecipesListsThemAndWritesOneToStartFrom) {
    const Ran list = runHsk("recipes");
    EXPECT_EQ(list.code, 0);
    for (const Recipe& r : builtInRecipes()) EXPECT_NE(list.output.find(r.name), std::string::npos) << r.name;
    const Ran one = runHsk("recipes --recipe orm --out " + out("orm.huerecipe"));
    ASSERT_EQ(one.code, 0) << one.output;
    EXPECT_EQ(*readRecipe(folder / "orm.huerecipe"), *findRecipe("orm"));
}

TEST(Recipes, KeepFieldsThatTheyDoNotKnowAtEveryObject) {
    const auto read = parseRecipe(R"({"kind": "huestack recipe", "format": 1, "name": "later", "xLater": 1,
        "lanes": {"red": {"map": "roughness", "xLater": 2, "ops": [{"op": "invert", "xLater": 3}]}}})",
                                  "later.huerecipe");
    ASSERT_TRUE(read) << read.error().sentence;
    const std::string text = recipeText(*read);
    for (const char* kept : {"\"xLater\": 1", "\"xLater\": 2", "\"xLater\": 3"}) EXPECT_NE(text.find(kept), std::string::npos) << kept;
}

TEST(MadeFiles, UndoSaysOfAFileWhatItHoldsNow) {
    // Before: made from one thing. Now: made again from another, and the step in between is taken back.
    Project before = bareProject();
    MapFile made{"made", "made", "maps/made.png", MapKind::Data, Wrap::Repeat, "aaaa", {}};
    made.origin.from = MapOrigin::From::Wire;
    made.origin.fingerprint = "old";
    MapFile brought = made;
    brought.id = "brought", brought.origin = {};
    before.maps = {std::make_shared<const MapFile>(made), std::make_shared<const MapFile>(brought)};
    Packing packing;
    packing.id = "k", packing.map = "made", packing.fingerprint = "old";
    before.packings = {std::make_shared<const Packing>(packing)};
    Project now = before;
    made.hash = "bbbb", made.origin.fingerprint = "new", brought.hash = "bbbb", packing.fingerprint = "new";
    now.maps = {std::make_shared<const MapFile>(made), std::make_shared<const MapFile>(brought)};
    now.packings = {std::make_shared<const Packing>(packing)};

    Project back = before;
    back.masters.clear();
    EXPECT_TRUE(keepMadeFiles(back, now));
    EXPECT_EQ(back.map("made")->origin.fingerprint, "new") << "so that it is found stale and made again";
    EXPECT_EQ(back.map("made")->hash, "bbbb");
    EXPECT_EQ(back.map("brought")->hash, "aaaa") << "a file from elsewhere is its own affair";
    EXPECT_EQ(back.packings[0]->fingerprint, "new");
    EXPECT_TRUE(back.masters.empty()) << "all else is as it was";
    EXPECT_EQ(before.map("made")->origin.fingerprint, "old") << "states share what did not change, and are left alone";
    EXPECT_FALSE(keepMadeFiles(back, now)) << "nothing more to do";
    // Stored elsewhere since then, it is another file.
    MapFile moved = made;
    moved.path = "maps/other.png";
    now.maps = {std::make_shared<const MapFile>(moved)};
    Project again = before;
    again.packings.clear();
    EXPECT_FALSE(keepMadeFiles(again, now));
}

} // namespace
} // namespace hue
