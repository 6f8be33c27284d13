// The demo in the repository is what its code makes, and shows what it promises.
#include "core/edits/edits.h"
#include "core/image_files/picture_file.h"
#include "core/make/bake.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/nodes/assembly_card.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <filesystem>
#include <gtest/gtest.h>
#include <regex>
#include <set>
#include <unistd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;
const fs::path kFolder = depotFolder();

TEST(Demo, IsWhatItsCodeMakes) {
    const fs::path made = fs::temp_directory_path() / ("huestack-depot-" + std::to_string(::getpid()));
    ASSERT_EQ(std::system((depotMaker() + " " + made.string()).c_str()), 0);
    const Result<Loaded> here = loadProject(kFolder / "depot.huestack"), there = loadProject(made / "depot.huestack");
    ASSERT_TRUE(here && there);
    // The last bit of a mathematical function may differ between processors, and with it a map's hash.
    const std::regex hash("\"(hash|fingerprint)\": \"[0-9a-f]*\"");
    EXPECT_EQ(std::regex_replace(projectText(here->project), hash, ""), std::regex_replace(projectText(there->project), hash, ""));
    for (const auto& map : here->project.maps) {
        const Result<Picture> a = readPicture(kFolder / map->path), b = readPicture(made / map->path);
        ASSERT_TRUE(a && b) << map->path;
        ASSERT_EQ(a->values.size(), b->values.size()) << map->path;
        float worst = 0;
        for (size_t i = 0; i < a->values.size(); ++i) worst = std::max(worst, std::fabs(a->values[i] - b->values[i]));
        EXPECT_LE(worst, 1.5f / 255) << map->path;
    }
    for (const auto& mesh : here->project.meshes) {
        const Result<Mesh> a = readMesh(kFolder / mesh->path), b = readMesh(made / mesh->path);
        ASSERT_TRUE(a && b) << mesh->path;
        EXPECT_EQ(a->indices, b->indices) << mesh->path;
        EXPECT_EQ(a->slots.size(), b->slots.size()) << mesh->path;
    }
    fs::remove_all(made);
}

TEST(Demo, MapsOfRepeatingSurfacesHaveNoSeam) {
    for (const char* name : {"maps/setts_color.png", "maps/setts_height.png", "maps/setts_normal.png", "maps/panel_normal.png"}) {
        const Result<Picture> p = readPicture(kFolder / name);
        ASSERT_TRUE(p) << name;
        const size_t n = size_t(p->width), c = size_t(p->channels);
        auto step = [&](size_t from, size_t to) {
            double sum = 0;
            for (size_t y = 0; y < n; ++y)
                for (size_t k = 0; k < c; ++k) sum += std::fabs(p->values[(y * n + from) * c + k] - p->values[(y * n + to) * c + k]);
            return sum;
        };
        double inside = 0;
        for (size_t x = 0; x + 1 < n; ++x) inside = std::max(inside, step(x, x + 1));
        // Across the border the map changes no more than it does somewhere inside.
        EXPECT_LE(step(n - 1, 0), inside * 1.05) << name;
    }
}

TEST(Demo, TheDisplayScrollsByWholeLampsAndTheLoopCloses) {
    const Result<Loaded> depot = loadProject(kFolder / "depot.huestack");
    Assets assets;
    assets.setFolder(kFolder);
    const Id worn = depot->project.findByName("Route display/Line 4");
    auto glow = [&](double time) { return evaluateChannel(depot->project, assets, worn, "emissive", 192, time, {})->values; };
    const auto start = glow(0);
    EXPECT_NE(start, glow(2)) << "it moves";
    EXPECT_EQ(start, glow(depot->project.loopSeconds)) << "one turn of the text fits the loop";
    float brightest = 0;
    for (float x : start) brightest = std::max(brightest, x);
    EXPECT_GT(brightest, 0.5f);
    const auto fixed =
        evaluateChannel(depot->project, assets, depot->project.findByName("Route display/Depot only"), "emissive", 64, 1, {})->values;
    EXPECT_EQ(fixed,
              evaluateChannel(depot->project, assets, depot->project.findByName("Route display/Depot only"), "emissive", 64, 5, {})->values)
        << "this one stands still";
}

TEST(Demo, TheTarpaulinMovesWithTheWindAndTheLoopCloses) {
    const Result<Loaded> depot = loadProject(kFolder / "depot.huestack");
    Assets assets;
    assets.setFolder(kFolder);
    const auto moved = [&](const char* name, double time) {
        const Resolved resolved = resolve(depot->project, depot->project.findByName(name));
        const Evaluator evaluator(compileChannel(depot->project, *resolved.master, "vertex_offset").program);
        return test::overSquare(evaluator, frameInputs(depot->project, assets, resolved, time), "vertex_offset", 3, 24);
    };
    const auto most = [](const std::vector<float>& v) { return *std::max_element(v.begin(), v.end()); };
    for (const char* name : {"Tarpaulin/Calm", "Tarpaulin/Gusty"}) {
        const auto start = moved(name, 0), end = moved(name, double(depot->project.loopSeconds));
        EXPECT_NE(start, moved(name, 1)) << name;
        for (size_t i = 0; i < start.size(); ++i) ASSERT_NEAR(start[i], end[i], 1e-4f) << name;
    }
    EXPECT_GT(most(moved("Tarpaulin/Gusty", 0)), 3 * most(moved("Tarpaulin/Calm", 0)));
    EXPECT_LE(most(moved("Tarpaulin/Gusty", 0.7)), 1.3f * 0.07f) << "no further than the wind and its short wave reach";
}

TEST(Demo, DustLiesOnlyAsHighAsItReachesAndTwoMastersShareTheAssemblyForIt) {
    const Result<Loaded> depot = loadProject(kFolder / "depot.huestack");
    Assets assets;
    assets.setFolder(kFolder);
    ASSERT_EQ(depot->project.assemblies.size(), 1u);
    std::set<Id> boards;
    for (const AssemblyUse& use : usesOf(depot->project, depot->project.assemblies[0]->id)) boards.insert(use.board);
    EXPECT_EQ(boards, (std::set<Id>{"tarpaulin", "brake_dust"}));
    const Id heavy = depot->project.findByName("Brake dust/Heavy");
    const auto color = [&](float reach) {
        const Project p = *edit::setOwn(depot->project, heavy, "over_rail", {Value::number(reach), {}});
        return evaluateChannel(p, assets, heavy, "base_color", 16, 0, {})->values;
    };
    const Value paint = depot->project.master("brake_dust")->parameter("paint")->standard.value;
    // The flat square lies at the height 0 and faces forward, to the wheel.
    const auto clean = color(0), dusty = color(2);
    EXPECT_NE(clean, dusty);
    const Project none = *edit::setOwn(depot->project, heavy, "amount", {Value::number(0), {}});
    const auto plain = evaluateChannel(none, assets, heavy, "base_color", 4, 0, {})->values;
    for (size_t i = 0; i < plain.size(); ++i) ASSERT_NEAR(plain[i], paint[int(i % 3)], 1e-4f) << "without dust there is only paint";
}

TEST(Demo, RainMakesTheSettsDarkerAndSmoother) {
    const Result<Loaded> depot = loadProject(kFolder / "depot.huestack");
    Assets assets;
    assets.setFolder(kFolder);
    auto mean = [&](const char* name, const char* channel) {
        const auto v = evaluateChannel(depot->project, assets, depot->project.findByName(name), channel, 64, 0, {})->values;
        double sum = 0;
        for (float x : v) sum += x;
        return sum / double(v.size());
    };
    EXPECT_LT(mean("Setts/After rain", "base_color"), mean("Setts/Dry", "base_color"));
    EXPECT_LT(mean("Setts/After rain", "roughness"), 0.6 * mean("Setts/Dry", "roughness"));
    EXPECT_GT(mean("Bodywork/Line Ochre Worn", "metallic"), 2 * mean("Bodywork/Line Ochre", "metallic")) << "more of the enamel is gone";
    for (const auto& i : depot->project.instances)
        for (const char* channel : {"roughness", "metallic", "occlusion"}) {
            const auto v = evaluateChannel(depot->project, assets, i->id, channel, 48, 0, {})->values;
            for (float x : v) ASSERT_TRUE(x >= -1e-4f && x <= 1.0001f) << i->name << " " << channel << " leaves 0..1";
        }
}

} // namespace
} // namespace hue
