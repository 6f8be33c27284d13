// What leaves the program: baked maps, GLB files, the reflectance model behind them, and hsk.
#include "core/cost/cost.h"
#include "core/dispatch/dispatch.h"
#include "core/image_files/picture_file.h"
#include "core/program/passes/passes.h"
#include "core/project/store.h"
#include "core/surface/environment.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <numbers>
#include <unistd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Output : public testing::Test {
  protected:
    void SetUp() override {
        folder = fs::temp_directory_path() /
                 ("huestack-out-" + std::to_string(::getpid()) + testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::create_directories(folder);
    }
    void TearDown() override { fs::remove_all(folder); }
    fs::path folder;
    Assets assets;
};
using Bake = Output;
using Hsk = Output;

Id constant(Project& p, const Value& v) { return add(p, "constant", {{"value", v}}); }

TEST_F(Bake, WritesEachChannelWhereGltfExpectsIt) {
    Project p = bareProject();
    channel(p, {constant(p, Value::vec3(1, 0.2159f, 0)), "out", ""}, "base_color");
    channel(p, {constant(p, Value::number(0.25f)), "out", ""}, "roughness");
    channel(p, {constant(p, Value::number(1)), "out", ""}, "metallic");
    channel(p, {constant(p, Value::number(0.5f)), "out", ""}, "occlusion");
    const Result<BakedSet> set = bake(p, assets, {"m", 8, 0, {}});
    ASSERT_TRUE(set) << set.error().sentence;
    const auto files = writeBake(*set, folder);
    ASSERT_TRUE(files);
    ASSERT_EQ(files->size(), 4u);
    const Picture base = *readPicture(folder / "base_color.png"), orm = *readPicture(folder / "occlusion_roughness_metallic.png"),
                  normal = *readPicture(folder / "normal.png");
    EXPECT_EQ(base.width, 8);
    EXPECT_EQ(base.channels, 3);
    EXPECT_NEAR(base.values[1], 0.5f, 0.01f) << "base color is sRGB-encoded";
    EXPECT_NEAR(orm.values[0], 0.5f, 0.01f);
    EXPECT_NEAR(orm.values[1], 0.25f, 0.01f) << "data is not encoded";
    EXPECT_NEAR(orm.values[2], 1, 0.01f);
    EXPECT_NEAR(normal.values[0], 0.5f, 0.01f);
    EXPECT_NEAR(normal.values[2], 1, 0.01f);
    EXPECT_TRUE(set->normalIsFlat);
    EXPECT_TRUE(set->emissiveIsBlack);
}

TEST_F(Bake, AGlowAboveOneIsKeptAsAStrength) {
    Project p = bareProject();
    channel(p, {constant(p, Value::vec3(1, 0.5f, 0)), "out", ""}, "emissive");
    channel(p, {constant(p, Value::number(6)), "out", ""}, "emissive_strength");
    const Result<BakedSet> set = bake(p, assets, {"m", 4, 0, {}});
    EXPECT_FLOAT_EQ(set->emissiveStrength, 6);
    EXPECT_FLOAT_EQ(set->maps[3].picture.values[0], 1);
    EXPECT_FLOAT_EQ(set->maps[3].picture.values[1], 0.5f);
}

TEST_F(Bake, CountsAndNamesWhatIsNotFinite) {
    Project p = bareProject();
    const Id d = add(p, "divide", {{"in2", Value::number(0)}});
    channel(p, {d, "out", ""}, "roughness");
    const Result<BakedSet> set = bake(p, assets, {"m", 4, 0, {}});
    EXPECT_EQ(set->maps[1].invalid, 16u);
    ASSERT_FALSE(set->cautions.empty());
    EXPECT_NE(set->cautions[0].find("not finite"), std::string::npos);
}

TEST_F(Bake, TransparentSurfacesGetTheirAlphaAndBrokenOnesAreRefused) {
    Project p = bareProject();
    channel(p, {constant(p, Value::number(0.25f)), "out", ""}, "alpha");
    p = *edit::setSurface(p, "m", {AlphaMode::Blend, 0.5f, false, false});
    const Result<BakedSet> set = bake(p, assets, {"m", 4, 0, {}});
    EXPECT_EQ(set->maps[0].picture.channels, 4);
    EXPECT_FLOAT_EQ(set->maps[0].picture.values[3], 0.25f);
    channel(p, {constant(p, Value::vec2(1, 1)), "out", ""}, "base_color");
    EXPECT_EQ(bake(p, assets, {"m", 4, 0, {}}).error().code, "bake.broken-graph");
    EXPECT_EQ(bake(p, assets, {"m", 0, 0, {}}).error().code, "bake.size");
    EXPECT_EQ(bake(p, assets, {"nobody", 4, 0, {}}).error().code, "bake.nothing");
    std::atomic<bool> cancelled = true;
    Work control;
    control.cancelled = &cancelled;
    EXPECT_EQ(bake(bareProject(), assets, {"m", 64, 0, control}).error().code, "bake.cancelled");
}

TEST_F(Bake, AnInstanceBakesItsOwnValues) {
    const Result<Loaded> depot = loadProject(depotFile());
    assets.setFolder(depotFolder());
    auto mean = [&](const char* name, size_t c) {
        const Result<BakedSet> set = bake(depot->project, assets, {depot->project.findByName(name), 32, 0, {}});
        double sum = 0;
        for (size_t i = c; i < set->maps[0].picture.values.size(); i += 3) sum += set->maps[0].picture.values[i];
        return sum / (32 * 32);
    };
    EXPECT_GT(mean("Bodywork/Line Ochre", 0), 2 * mean("Bodywork/Line Teal", 0));
    EXPECT_GT(mean("Bodywork/Line Teal", 2), mean("Bodywork/Line Ochre", 2));
}

TEST_F(Bake, AGlbCarriesMeshMapsAndSurface) {
    Project p = bareProject();
    channel(p, {constant(p, Value::vec3(1, 0.5f, 0)), "out", ""}, "emissive");
    channel(p, {constant(p, Value::number(3)), "out", ""}, "emissive_strength");
    p = *edit::setSurface(p, "m", {AlphaMode::Mask, 0.3f, true, false});
    const auto report = dispatchGlb(p, assets, {"m", 8, 0, {}}, "shape:torus", folder / "out.glb");
    ASSERT_TRUE(report) << report.error().sentence;
    // The JSON chunk follows the 12 bytes of the header and its own length and type.
    std::ifstream in(folder / "out.glb", std::ios::binary);
    uint32_t head[5];
    in.read(reinterpret_cast<char*>(head), sizeof head);
    std::string text(head[3], ' ');
    in.read(text.data(), std::streamsize(text.size()));
    const auto json = nlohmann::json::parse(text);
    const auto& material = json["materials"][0];
    EXPECT_EQ(material["alphaMode"], "MASK");
    EXPECT_NEAR(material["alphaCutoff"].get<double>(), 0.3, 1e-6);
    EXPECT_EQ(material["doubleSided"], true);
    EXPECT_NEAR(material["extensions"]["KHR_materials_emissive_strength"]["emissiveStrength"].get<double>(), 3, 1e-5);
    EXPECT_EQ(json["images"].size(), 3u) << "base color, packed, emissive; a flat normal needs no map";
    const Result<Mesh> back = readMesh(folder / "out.glb");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->indices.size(), shapeById("shape:torus")->indices.size());
}

TEST(Cost, CountsOneMapOnceAndSeesDependentFetches) {
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"t", "t", "t.png", MapKind::Data, Wrap::Repeat, {}, {}}));
    const Id a = add(p, "image", {}, {{"map", "t"}}), b = add(p, "image", {}, {{"map", "t"}}),
             place = add(p, "place_2d", {{"tiling", Value::vec2(2, 2)}});
    wire(p, {a, "color", "rg"}, place, "uv");
    wire(p, {place, "out", ""}, b, "uv");
    channel(p, {b, "color", ""}, "base_color");
    const MapPtr map = std::make_shared<Map>(Map::uniform(Value::vec4(1, 1, 1, 1)));
    const Cost c = costOf(*compileSurface(p, masterOf(p)).program, nullptr, [&](const MapSlot&) { return map; });
    EXPECT_EQ(c.fetches, 2);
    EXPECT_EQ(c.dependentFetches, 1);
    EXPECT_EQ(c.samplers, 1);
    EXPECT_EQ(c.mapBytes, map->bytes());
    EXPECT_GT(c.operationsPerPixel(), 0);
}

TEST(Environments, AreFilteredWithoutLosingTheirLight) {
    for (const LightDef& light : lights()) {
        const auto filtered = prefiltered(light);
        auto mean = [&](size_t level) {
            double sum = 0;
            for (float x : filtered->faces[level]) sum += x;
            return sum / double(filtered->faces[level].size());
        };
        for (size_t level = 1; level < filtered->faces.size(); ++level)
            EXPECT_NEAR(mean(level) / mean(0), 1, 0.25) << light.id << " level " << level;
        for (const Rgb& n : {Rgb{0, 1, 0}, Rgb{0, -1, 0}, Rgb{1, 0, 0}}) EXPECT_GT(diffuseLight(*filtered, n)[1], 0) << light.id;
        EXPECT_GT(diffuseLight(*filtered, {0, 1, 0})[1], diffuseLight(*filtered, {0, -1, 0})[1]) << light.id << " comes from above";
    }
}

const std::string kDepot = depotFile();

TEST_F(Hsk, FindsNoProblemsInTheDemoAndSomeInABrokenProject) {
    EXPECT_EQ(runHsk("check " + kDepot).code, 0);
    Project p = bareProject();
    p = *edit::addMap(p, {"t", "lost", "gone.png", MapKind::Color, Wrap::Repeat, {}, {}});
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    const Ran found = runHsk("check " + (folder / "p.huestack").string());
    EXPECT_EQ(found.code, 1);
    EXPECT_NE(found.output.find("error map.cannot-use project/t: The map lost"), std::string::npos) << found.output;
    EXPECT_EQ(nlohmann::json::parse(runHsk("check --json " + (folder / "p.huestack").string()).output)[0]["code"], "map.cannot-use");
}

TEST_F(Hsk, CannotRunWithoutAProjectOrWithAnUnknownName) {
    for (const std::string& bad :
         {std::string("check /no/such.huestack"), "cost " + kDepot + " --of Nothing", std::string("fly"),
          "render " + kDepot + " --of Setts/Dry --view x-ray --out x.png", "bake " + kDepot + " --of Setts/Dry --size 1 --out x",
          "evaluate " + kDepot + " --of Setts/Dry --channel smell --out x.exr",
          "render " + kDepot + " --of Setts/Dry --size big --out x.png"}) {
        const Ran r = runHsk(bad);
        EXPECT_EQ(r.code, 2) << bad;
        EXPECT_NE(r.output.find("hsk: "), std::string::npos) << bad;
    }
}

TEST_F(Hsk, PrintsListsCostsAndShaders) {
    const auto list = nlohmann::json::parse(runHsk("list --json " + kDepot).output);
    EXPECT_EQ(list["masters"].size(), 19u);
    EXPECT_GE(list["instances"].size(), 5u);
    EXPECT_EQ(nlohmann::json::parse(runHsk("nodes --json").output).size(), catalogue().size());
    // Color, height and normals of the stones; three hexagons of moss and their mean.
    EXPECT_EQ(nlohmann::json::parse(runHsk("cost --json " + kDepot + " --of Setts/Dry").output)["fetches"], 3 + 4);
    EXPECT_NE(runHsk("shader " + kDepot + " --of Bodywork").output.find("#version 410"), std::string::npos);
    EXPECT_NE(runHsk("shader " + kDepot + " --of Bodywork --stage vertex").output.find("gl_Position"), std::string::npos);
}

TEST_F(Hsk, ListsThePassesAndLeavesOutWhatItIsTold) {
    const Ran all = runHsk("shader " + kDepot + " --of Bodywork --passes");
    ASSERT_EQ(all.code, 0) << all.output;
    for (const PassDef& pass : passes()) EXPECT_NE(all.output.find(pass.name), std::string::npos) << pass.name;
    EXPECT_EQ(all.output.find("#version"), std::string::npos) << "instead of the source";
    const std::string name(passes()[0].name);
    const Ran without = runHsk("shader " + kDepot + " --of Bodywork --passes --without " + name);
    ASSERT_EQ(without.code, 0) << without.output;
    EXPECT_EQ(without.output.find("\n" + name), std::string::npos) << without.output;
    EXPECT_NE(without.output.substr(0, name.size()), name);
    // Without merging what is equal, more is left to do.
    auto length = [&](const std::string& rest) { return runHsk("shader " + kDepot + " --of Bodywork" + rest).output.size(); };
    EXPECT_GT(length(" --without merge-common"), length(""));
    EXPECT_EQ(runHsk("shader " + kDepot + " --of Bodywork --without tidy").code, 2);
}

TEST_F(Hsk, EvaluatesTheSameWithBothEnginesAndRenders) {
    for (const char* engine : {"cpu", "gl"})
        ASSERT_EQ(runHsk("evaluate " + kDepot + " --of \"Route display/Line 4\" --channel roughness --size 32 --engine " + engine +
                         " --out " + (folder / (std::string(engine) + ".exr")).string())
                      .code,
                  0);
    const Picture cpu = *readPicture(folder / "cpu.exr"), gl = *readPicture(folder / "gl.exr");
    for (size_t i = 0; i < cpu.values.size(); ++i) ASSERT_NEAR(cpu.values[i], gl.values[i], 1e-4f);
    ASSERT_EQ(runHsk("render " + kDepot +
                     " --of \"Route display/Line 4,Bodywork/Works Grey\" --mesh \"route display\" --size 64x48 --time 1 --out " +
                     (folder / "r.png").string())
                  .code,
              0);
    EXPECT_EQ(readPicture(folder / "r.png")->width, 64);
    ASSERT_EQ(runHsk("bake " + kDepot + " --of Setts/Dry --size 16 --out " + (folder / "maps").string()).code, 0);
    EXPECT_TRUE(fs::exists(folder / "maps" / "normal.png"));
}

} // namespace
} // namespace hue
