// Targets, and what is worn against them.
#include "core/base/files.h"
#include "core/budget/history.h"
#include "core/budget/kept_versions.h"
#include "core/budget/target.h"
#include "core/budget/verdict.h"
#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"
#include "core/measure/driver.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <set>

namespace hue {
namespace {

using namespace test;

Target tight(float Limits::*limit, float x) {
    Target t;
    t.key = "tight", t.name = "Tight";
    t.limits.*limit = x;
    return t;
}

/// Base color from a map that a parameter brings, times a noise: Line with the map "small", Worn with "large".
Project walls() {
    Project p = bareProject();
    for (const Id id : {"small", "large"})
        p.maps.push_back(std::make_shared<MapFile>(MapFile{id, id, id + ".png", MapKind::Color, Wrap::Repeat, {}, {}}));
    Parameter face, moss;
    face.id = face.codeName = "face", face.name = "Face", face.type = ParameterType::Map, face.standard.map = "small";
    moss.id = moss.codeName = "moss", moss.name = "Moss", moss.type = ParameterType::OnOff, moss.build = true;
    p = *edit::addParameter(p, "m", face);
    p = *edit::addParameter(p, "m", moss);
    const Id map = add(p, "parameter", {}, {{"parameter", "face"}}), image = add(p, "image"), noise = add(p, "noise_2d"),
             times = add(p, "multiply"), choose = add(p, "choose");
    wire(p, {map, "out", ""}, image, "map");
    wire(p, {image, "color", ""}, times, "in1");
    wire(p, {noise, "out", ""}, times, "in2");
    wire(p, {add(p, "parameter", {}, {{"parameter", "moss"}}), "out", ""}, choose, "which");
    wire(p, {image, "color", ""}, choose, "in1");
    wire(p, {times, "out", ""}, choose, "in2");
    channel(p, {choose, "out", ""}, "base_color");
    const auto instance = [&](const Id& id, std::map<Id, ParameterValue> own) {
        Instance i;
        i.id = i.name = id, i.parent = "m", i.own = std::move(own);
        p = *edit::addInstance(p, i);
    };
    instance("line", {});
    instance("worn", {{"face", {{}, "large"}}, {"moss", {Value::number(1), {}}}});
    p.lineup.specimens = {{"shape:sphere", {"line"}}};
    return p;
}
size_t bytesOf(const Id& map) { return map == "small" ? 1000000 : map == "large" ? 4000000 : 0; }

TEST(Targets, GoThroughTheirFileAndRefuseNonsense) {
    std::set<std::string> keys;
    for (const Target& t : shippedTargets()) {
        const Result<Target> back = parseTarget(targetText(t), "t");
        ASSERT_TRUE(back) << back.error().sentence;
        EXPECT_EQ(*back, t);
        EXPECT_TRUE(keys.insert(t.key).second) << t.key;
        EXPECT_FALSE(t.about.empty());
        // All of them say something about every limit.
        for (const LimitDef& d : limitDefs()) EXPECT_GT(t.limits.*d.limit, 0) << t.key << " " << d.key;
    }
    EXPECT_EQ(keys, (std::set<std::string>{"handheld", "headset", "console", "desktop"}));
    // What a later version writes is kept.
    auto json = nlohmann::json::parse(targetText(shippedTargets()[0]));
    json["fans"] = 2;
    EXPECT_NE(targetText(*parseTarget(json.dump(), "t")).find("\"fans\": 2"), std::string::npos);
    const auto wrong = [&](const std::function<void(nlohmann::json&)>& change) {
        auto j = nlohmann::json::parse(targetText(shippedTargets()[0]));
        change(j);
        const Result<Target> t = parseTarget(j.dump(), "mine.json");
        if (t) return std::string("read");
        EXPECT_EQ(t.error().code, "target.unreadable");
        return t.error().sentence;
    };
    EXPECT_NE(wrong([](auto& j) { j["kind"] = "recipe"; }).find("kind"), std::string::npos);
    EXPECT_NE(wrong([](auto& j) { j["format"] = 9; }).find("newer"), std::string::npos);
    EXPECT_NE(wrong([](auto& j) { j["fetches"] = "many"; }).find("fetches"), std::string::npos);
    EXPECT_NE(wrong([](auto& j) { j["operations"] = -4; }).find("operations"), std::string::npos);
    EXPECT_NE(wrong([](auto& j) { j["formats"] = {"bc9"}; }).find("bc9"), std::string::npos);
    EXPECT_NE(wrong([](auto& j) { j["key"] = "My machine"; }).find("key"), std::string::npos);
    EXPECT_FALSE(parseTarget("{\"kind\": \"huestack tar", "t"));
    const Result<Target> unknown = findTarget("toaster");
    ASSERT_FALSE(unknown);
    EXPECT_NE(unknown.error().sentence.find("handheld, headset, console, desktop"), std::string::npos);
}

TEST(Verdicts, HoldEachFigureAgainstItsLimit) {
    const Project p = walls();
    const Verdict v = verdictOf(p, "worn", tight(&Limits::operations, 1), bytesOf);
    EXPECT_FALSE(v.fits());
    ASSERT_TRUE(v.worst());
    EXPECT_EQ(v.worst()->def->key, "operations");
    // As the cost of the instance's build, which knows nothing of targets.
    const Compilation compiled = compileSurface(p, *resolve(p, "worn").master);
    const Cost cost = costOf(*compiled.program, nullptr, {});
    EXPECT_EQ(v.worst()->figure, cost.operationsPerPixel());
    EXPECT_EQ(v.worst()->words(), std::to_string(cost.operationsPerPixel()) + " of 1 operations per pixel");
    EXPECT_TRUE(verdictOf(p, "worn", tight(&Limits::operations, float(cost.operationsPerPixel())), bytesOf).fits())
        << "up to it is within it";
    EXPECT_TRUE(verdictOf(p, "line", tight(&Limits::operations, 1), bytesOf).fits()) << "another build, that shows the map alone";
    // Maps: that of the instance, not of its master.
    EXPECT_TRUE(verdictOf(p, "line", tight(&Limits::mapMegabytes, 1), bytesOf).fits());
    const Verdict large = verdictOf(p, "worn", tight(&Limits::mapMegabytes, 1), bytesOf);
    EXPECT_FALSE(large.fits());
    EXPECT_EQ(large.worst()->words(), "4 of 1 MB map memory");
    // Without limits everything fits.
    EXPECT_TRUE(verdictOf(p, "worn", Target{}, bytesOf).fits());
    EXPECT_FALSE(verdictOf(p, "worn", Target{}, bytesOf).worst());
}

TEST(Verdicts, CountAProjectOnce) {
    Project p = walls();
    ProjectVerdict all = verdictOf(p, tight(&Limits::projectMegabytes, 4), bytesOf);
    EXPECT_EQ(all.worn.size(), 2u);
    EXPECT_EQ(all.memory.figure, 5) << "each map once";
    EXPECT_FALSE(all.fits());
    EXPECT_TRUE(verdictOf(p, tight(&Limits::projectMegabytes, 4), bytesOf, {"worn"}).fits()) << "of it alone";
    all = verdictOf(p, tight(&Limits::builds, 1), bytesOf);
    ASSERT_EQ(all.builds.size(), 1u);
    EXPECT_EQ(all.builds[0].figure, 2);
    EXPECT_EQ(all.masters[0], "m");
    EXPECT_FALSE(all.fits());
    EXPECT_TRUE(verdictOf(p, tight(&Limits::builds, 2), bytesOf).fits());
    // A master that nobody wears is held against the target all the same.
    Master other;
    other.id = "o", other.name = "Other";
    p.masters.push_back(std::make_shared<Master>(other));
    EXPECT_EQ(verdictOf(p, Target{}, bytesOf).worn.size(), 3u);
}

TEST(Verdicts, NameMapsInFormatsThatAreNotRead) {
    Project p = walls();
    auto map = std::make_shared<MapFile>(*p.maps[1]);
    map->format = "bc7";
    p.maps[1] = map;
    Target t;
    t.formats = {"astc-6x6"};
    const Verdict v = verdictOf(p, "worn", t, bytesOf);
    EXPECT_EQ(v.badFormats, std::vector<std::string>{"large"});
    EXPECT_FALSE(v.fits());
    EXPECT_TRUE(verdictOf(p, "line", t, bytesOf).fits()) << "plain maps are compressed when they go out";
    t.formats = {"astc-6x6", "bc7"};
    EXPECT_TRUE(verdictOf(p, "worn", t, bytesOf).fits());
}

class HskBudget : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
        std::filesystem::create_directories(folder / "cache");
    }
    void TearDown() override {
        ::unsetenv("XDG_CACHE_HOME");
        InFolder::TearDown();
    }
};

TEST_F(HskBudget, ExitsWith1OverALimitAndWritesWhatServersRead) {
    Project p = walls();
    p.maps.clear();
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const std::string file = (folder / "p.huestack").string();
    Ran ran = runHsk("budget " + file + " --target desktop");
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("M/worn fits"), std::string::npos) << ran.output;
    Target mine = tight(&Limits::operations, 2);
    ASSERT_TRUE(writeTarget(mine, folder / "mine.json"));
    ran = runHsk("budget " + file + " --target " + (folder / "mine.json").string() + " --junit " + (folder / "out.xml").string());
    EXPECT_EQ(ran.code, 1) << ran.output;
    EXPECT_NE(ran.output.find("M/worn is over: "), std::string::npos) << ran.output;
    std::ifstream in(folder / "out.xml");
    const std::string xml((std::istreambuf_iterator<char>(in)), {});
    EXPECT_NE(xml.find("tests=\"4\" failures=\"1\""), std::string::npos) << xml;
    EXPECT_NE(xml.find("<testcase classname=\"budget\" name=\"M/line\"/>"), std::string::npos) << xml;
    const auto json = nlohmann::json::parse(runHsk("budget " + file + " --of M/worn --json").output);
    EXPECT_EQ(json["worn"].size(), 1u);
    EXPECT_EQ(json["target"], "console");
    EXPECT_TRUE(json["fits"].get<bool>());
    EXPECT_EQ(runHsk("budget " + file + " --target toaster").code, 2);
    std::ofstream(folder / "bad.json") << "{\"kind\": \"huestack target\", \"key\": \"x\", \"fetches\": []}";
    ran = runHsk("budget " + file + " --target " + (folder / "bad.json").string());
    EXPECT_EQ(ran.code, 2);
    EXPECT_NE(ran.output.find("fetches is no number"), std::string::npos) << ran.output;
    EXPECT_NE(runHsk("budget --targets").output.find("handheld: Handheld."), std::string::npos);
}

TEST_F(HskBudget, MeasuresUnderTheDriversNamesAndTellsWhereCostsGo) {
    Project p = bareProject();
    const Id fractal = add(p, "fractal", {}, {{"octaves", "5"}});
    channel(p, {fractal, "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const std::string file = (folder / "p.huestack").string();
    const Ran ran = runHsk("budget " + file + " --of M --measure --cards --family navi21 --family vega10 --json");
    ASSERT_EQ(ran.code, 0) << ran.output;
    const auto json = nlohmann::json::parse(ran.output);
    const auto& its = json["worn"][0];
    EXPECT_EQ(its["measured"].size(), 2u) << "of the families that were asked for";
    const double whole = its["measured"]["vega10"]["pixel"]["Instructions"], bare = its["measured"]["vega10"]["barePixel"]["Instructions"];
    EXPECT_GT(its["measured"]["vega10"]["pixel"]["VGPRs"].get<double>(), 0);
    EXPECT_GT(whole, bare);
    // The noise is next to all of it, counted and measured.
    const auto& pixel = its["ledger"]["stages"][0];
    EXPECT_EQ(pixel["title"], "Per pixel");
    EXPECT_EQ(pixel["operations"], json["worn"][0]["limits"]["operations"]["figure"]);
    EXPECT_GT(its["ledger"]["without"][fractal]["Instructions"].get<double>(), 0.7 * (whole - bare));
    EXPECT_EQ(runHsk("budget " + file + " --measure --family toaster").code, 2);
    const std::string words = runHsk("budget " + file + " --of M --measure --cards --family navi21").output;
    EXPECT_NE(words.find("vector registers"), std::string::npos) << words;
    EXPECT_NE(words.find("without it"), std::string::npos) << words;
}

TEST_F(HskBudget, SuggestsWhatSavesAndFits) {
    Project p = bareProject();
    const Id fractal = add(p, "fractal", {}, {{"octaves", "5"}});
    channel(p, {fractal, "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const std::string file = (folder / "p.huestack").string();
    const auto list = nlohmann::json::parse(runHsk("suggest " + file + " --of M --target desktop --json").output);
    ASSERT_GE(list.size(), 2u);
    bool octaves = false;
    for (const auto& s : list)
        if (s["code"] == "octaves:" + fractal) {
            octaves = true;
            EXPECT_EQ(s["operations"], 52);
            EXPECT_GT(s["ciede2000"].get<double>(), 0) << "the finest octave is seen a little";
            EXPECT_LT(s["ciede2000"].get<double>(), 5);
        }
    EXPECT_TRUE(octaves);
    ASSERT_TRUE(writeTarget(tight(&Limits::operations, 240), folder / "mine.json"));
    const std::string made = (folder / "fits.huestack").string(), mine = (folder / "mine.json").string();
    const Ran ran = runHsk("fit " + file + " --of M --target " + mine + " --out " + made);
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("It fits"), std::string::npos) << ran.output;
    EXPECT_EQ(runHsk("budget " + file + " --target " + mine).code, 1);
    EXPECT_EQ(runHsk("budget " + made + " --target " + mine).code, 0) << "what was written meets it";
    // With its one dear card locked nothing is left.
    EXPECT_EQ(runHsk("fit " + file + " --of M --target " + mine + " --keep " + fractal).code, 1);
}

TEST_F(HskBudget, SavingsOfMapsAreMadeMeasuredAndKept) {
    Project p = bareProject();
    const Image masks = sampleMasks(256, 256);
    for (int c = 0; c < 2; ++c) {
        MapFile m;
        m.id = m.name = c ? "worn" : "wet", m.path = m.id + ".png", m.kind = MapKind::Data;
        ASSERT_TRUE(writeImage(folder / m.path, imageOf({planeOf(masks, c)}, SampleType::U8), PixelEncoding::Data));
        m.hash = contentHash(folder / m.path);
        p = *edit::addMap(p, m);
        channel(p, {add(p, "image", {}, {{"map", m.id}}), "color", "r"}, c ? "metallic" : "roughness");
    }
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const std::string file = (folder / "p.huestack").string();
    const bool measured = whyNotMeasured().empty();
    const Ran ran = runHsk("suggest " + file + " --of M --most 0 --json" + (measured ? " --family navi21" : ""));
    const auto list = nlohmann::json::parse(ran.output, nullptr, false);
    ASSERT_FALSE(list.is_discarded()) << ran.output.substr(0, 300);
    std::set<std::string> rules;
    for (const auto& s : list) {
        const std::string code = s["code"];
        rules.insert(code.substr(0, code.find(':')));
        EXPECT_EQ(s["seenOn"], "M");
        EXPECT_TRUE(!measured || s["instructions"]["navi21"].is_number()) << code;
        EXPECT_TRUE(!code.starts_with("pack-maps") || s["samplers"] == 1);
    }
    for (const char* rule : {"pack-maps", "smaller-map", "block-format", "constant"}) EXPECT_TRUE(rules.contains(rule)) << rule;
    // A target that asks for a quarter of the memory is met by maps that come to lie beside the others.
    ASSERT_TRUE(writeTarget(tight(&Limits::mapMegabytes, 0.03f), folder / "mine.json"));
    const std::string made = (folder / "fits.huestack").string(), mine = (folder / "mine.json").string();
    const Ran fit = runHsk("fit " + file + " --of M --target " + mine + " --out " + made);
    ASSERT_EQ(fit.code, 0) << fit.output;
    EXPECT_EQ(runHsk("budget " + made + " --target " + mine).code, 0);
    const Project now = loadProject(made)->project;
    for (const auto& m : now.maps) {
        EXPECT_FALSE(std::filesystem::path(m->path).is_absolute()) << m->path;
        EXPECT_TRUE(std::filesystem::exists(folder / m->path)) << m->path;
    }
    EXPECT_EQ(runHsk("suggest " + file + " --of M --family toaster").code, 2);
}

TEST_F(HskBudget, RecordsWhatEverythingCosts) {
    Project p = bareProject();
    channel(p, {add(p, "noise_2d"), "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const std::string file = (folder / "p.huestack").string();
    ASSERT_EQ(runHsk("budget " + file + " --record --note first").code, 0);
    p = *edit::disconnectChannel(p, "m", "roughness");
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    ASSERT_EQ(runHsk("budget " + file + " --record --note 'without noise'").code, 0);
    const auto all = readHistory(historyFile(file));
    ASSERT_TRUE(all);
    ASSERT_EQ(all->size(), 2u);
    EXPECT_EQ((*all)[0].note, "first");
    EXPECT_EQ((*all)[0].date.size(), 20u);
    EXPECT_GE((*all)[0].worn.at("M").at("operations"), 48);
    EXPECT_EQ((*all)[1].worn.at("M").at("operations"), 0);
    // What is no record is not written over.
    std::ofstream(historyFile(file), std::ios::app) << "milk\n";
    const Ran ran = runHsk("budget " + file + " --record");
    EXPECT_EQ(ran.code, 2);
    EXPECT_NE(ran.output.find("line 3"), std::string::npos) << ran.output;
}

class Versions : public InFolder {};

TEST_F(Versions, AreKeptBesideTheProjectAndReadAgain) {
    const std::filesystem::path file = folder / "yard.huestack";
    Project p = walls();
    EXPECT_TRUE(keptVersions(file).empty());
    ASSERT_TRUE(keepVersion(p, file, "Before the fog"));
    const Project later = *edit::renameMaster(p, "m", "Walls");
    ASSERT_TRUE(keepVersion(later, file, "2 of many"));
    EXPECT_EQ(keptVersions(file).size(), 2u);
    const Result<Project> read = keptVersion(file, "Before the fog");
    ASSERT_TRUE(read);
    EXPECT_EQ(projectText(*read), projectText(p));
    // The same name again is the newer state.
    ASSERT_TRUE(keepVersion(later, file, "Before the fog"));
    EXPECT_EQ(keptVersions(file).size(), 2u);
    EXPECT_EQ(keptVersion(file, "Before the fog")->masters[0]->name, "Walls");
    ASSERT_TRUE(forgetVersion(file, "2 of many"));
    ASSERT_TRUE(forgetVersion(file, "Before the fog"));
    EXPECT_FALSE(std::filesystem::exists(versionsFolder(file))) << "no empty folder stays";
    EXPECT_EQ(keptVersion(file, "Before the fog").error().code, "project.missing");
    for (const char* bad : {"", "  ", "a/b", "../up", ".hidden"}) EXPECT_FALSE(keepVersion(p, file, bad)) << bad;
    EXPECT_TRUE(keptVersions(file).empty());
    // What lies there and is no project is told when it is read.
    std::filesystem::create_directories(versionsFolder(file));
    std::ofstream(versionsFolder(file) / "Broken.huestack") << "bread, milk";
    EXPECT_EQ(keptVersions(file), std::vector<std::string>{"Broken"});
    EXPECT_FALSE(keptVersion(file, "Broken"));
    EXPECT_EQ(keepVersion(p, "/proc/nowhere/yard.huestack", "x").error().code, "file.cannot-write");
}

} // namespace
} // namespace hue
