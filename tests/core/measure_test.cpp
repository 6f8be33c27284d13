// Shares of costs, and what a graphics card's compiler measures of the same materials.
#include "core/budget/ledger.h"
#include "core/budget/map_memory.h"
#include "core/languages/vulkan_spirv.h"
#include "core/measure/marginal.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <cstdlib>
#include <fmt/format.h>
#include <fstream>
#include <gtest/gtest.h>
#include <thread>

namespace hue {
namespace {

using namespace test;
const std::string kDepot = depotFile();
namespace fs = std::filesystem;

Compilation compiledOf(const Project& p) { return compileSurface(p, masterOf(p)); }

const Project& depot() {
    static const Project p = loadProject(kDepot)->project;
    return p;
}

/// Everything that shares are checked on: random graphs, and all instances of the depot in their builds.
std::vector<std::pair<std::string, Compilation>> many() {
    std::vector<std::pair<std::string, Compilation>> out;
    for (uint32_t seed = 1; seed <= 40; ++seed)
        out.emplace_back(fmt::format("random {}", seed), compiledOf(randomGraph(seed, 4 + int(seed))));
    for (const MasterPtr& m : depot().masters) out.emplace_back(m->name, compileSurface(depot(), *m));
    for (const InstancePtr& i : depot().instances)
        out.emplace_back(depot().nameOf(i->id), compileSurface(depot(), *resolve(depot(), i->id).master));
    return out;
}

TEST(Shares, AddUpToTheWhole) {
    for (const auto& [name, c] : many()) {
        const Cost cost = costOf(*c.program, c.offset.get(), {});
        const Shares shares = sharesOf(*c.program, c.offset.get());
        Share parts, cards, channels;
        for (const SharePart& p : shares.parts) parts += p.share;
        for (const auto& [card, share] : shares.byCard()) cards += share;
        for (const auto& [key, share] : shares.channels) channels += share;
        for (const Share* sum : std::initializer_list<const Share*>{&shares.whole, &parts, &cards, &channels}) {
            for (size_t r = 0; r < 4; ++r) ASSERT_NEAR(sum->operations[r], cost.operations[r], 1e-6) << name << " rate " << r;
            ASSERT_NEAR(sum->fetches, cost.fetches, 1e-6) << name;
            ASSERT_NEAR(sum->vertexFetches, cost.vertexFetches, 1e-6) << name;
        }
    }
}

TEST(Shares, OfASmallGraphAreCountedByHand) {
    // roughness = sin(u) * v, metallic = sin(u): the sine is shared, the product is roughness's own.
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), sine = add(p, "sine"), product = add(p, "multiply");
    wire(p, {uv, "out", "r"}, sine, "in");
    wire(p, {sine, "out", ""}, product, "in1");
    wire(p, {uv, "out", "g"}, product, "in2");
    channel(p, {product, "out", ""}, "roughness");
    channel(p, {sine, "out", ""}, "metallic");
    const Compilation c = compiledOf(p);
    const Shares shares = sharesOf(*c.program, c.offset.get());
    EXPECT_EQ(shares.byCard().at(sine).pixel(), 4) << "a sine counts four";
    EXPECT_EQ(shares.byCard().at(product).pixel(), 1);
    EXPECT_EQ(shares.channels.at("metallic").pixel(), 2) << "half of the sine";
    EXPECT_EQ(shares.channels.at("roughness").pixel(), 3);
    const OperationKinds kinds = operationKinds(*c.program);
    EXPECT_EQ(kinds.transcendental, 4);
    EXPECT_EQ(kinds.full, 1);
    EXPECT_EQ(kinds.quarter, 0);
}

TEST(Ledger, RowsOfALevelAddUp) {
    const auto sums = [](auto&& self, const LedgerRow& row) -> void {
        if (row.rows.empty()) return;
        double operations = 0, fetches = 0;
        for (const LedgerRow& r : row.rows) operations += r.operations, fetches += r.fetches, self(self, r);
        ASSERT_NEAR(operations, row.operations, 1e-6) << row.title;
        ASSERT_NEAR(fetches, row.fetches, 1e-6) << row.title;
    };
    bool within = false, bays = false;
    for (const InstancePtr& i : depot().instances) {
        const Ledger its = ledgerOf(depot(), i->id);
        ASSERT_FALSE(its.stages.empty()) << i->name;
        EXPECT_NEAR(its.stages[0].operations, its.cost.operationsPerPixel(), 1e-6) << i->name;
        EXPECT_GT(its.liveNumbers, 0);
        for (const LedgerRow& stage : its.stages) {
            sums(sums, stage);
            for (const LedgerRow& r : stage.rows) {
                bays = bays || r.is == LedgerRow::Is::Bay;
                for (const LedgerRow& inner : r.rows) within = within || inner.is == LedgerRow::Is::Within;
            }
        }
    }
    EXPECT_TRUE(bays && within) << "the depot has bays, and cards within finishes";
}

TEST(Ledger, MapsAndTheMatrixAreThoseOfTheVerdicts) {
    Assets assets;
    assets.setFolder(fs::path(kDepot).parent_path());
    const MapBytes bytes = mapBytesFor(depot(), assets);
    // What maps take by themselves is what a target is told that they take together.
    double sum = 0;
    Verdicts verdicts(depot(), bytes);
    for (const MapRow& r : mapRows(verdicts)) {
        sum += double(r.bytes);
        ASSERT_FALSE(r.worn.empty());
        for (const Id& worn : r.worn) EXPECT_TRUE(verdictOf(depot(), worn, shippedTargets()[0], bytes).maps.contains(r.map));
    }
    EXPECT_NEAR(sum / 1e6, verdictOf(depot(), shippedTargets()[0], bytes).memory.figure, 1e-9);
    const Matrix matrix = matrixOf(verdicts, shippedTargets());
    ASSERT_EQ(matrix.masters.size(), depot().masters.size());
    for (size_t t = 0; t < matrix.targets.size(); ++t) {
        const ProjectVerdict all = verdictOf(depot(), matrix.targets[t], bytes);
        std::map<Id, double> most;
        std::map<Id, bool> over;
        for (const Verdict& v : all.worn) {
            const Id master = depot().masterOf(v.worn)->id;
            if (v.worst()) most[master] = std::max(most[master], v.worst()->share());
            over[master] = over[master] || !v.fits();
        }
        for (size_t m = 0; m < matrix.masters.size(); ++m) {
            EXPECT_DOUBLE_EQ(matrix.cells[m][t].worst.share(), most[matrix.masters[m]]);
            EXPECT_EQ(matrix.cells[m][t].over, over[matrix.masters[m]]);
        }
    }
}

class Measuring : public InFolder {
  protected:
    /// Empty when the validator finds it good.
    std::string invalid(const std::vector<uint32_t>& words) {
        const fs::path file = folder / "stage.spv", said = folder / "said.txt";
        std::ofstream(file, std::ios::binary).write(reinterpret_cast<const char*>(words.data()), std::streamsize(words.size() * 4));
        const int code = std::system(fmt::format("spirv-val --target-env vulkan1.1 {} > {} 2>&1", file.string(), said.string()).c_str());
        std::ifstream in(said);
        const std::string words_(std::istreambuf_iterator<char>(in), {});
        return code ? words_ + "!" : std::string();
    }
    fs::path script(const std::string& body) {
        const fs::path file = folder / "measure";
        std::ofstream(file) << "#!/bin/sh\n" << body;
        fs::permissions(file, fs::perms::owner_all);
        return file;
    }
};

TEST_F(Measuring, StagesAreValidForTheDriver) {
    for (const MasterPtr& m : depot().masters) {
        const Compilation c = compileSurface(depot(), *m);
        for (const auto& stages : {deferredStages(stagesOf(c), m->surface.alphaMode), bareStages(stagesOf(c), m->surface.alphaMode)}) {
            ASSERT_TRUE(stages) << m->name << ": " << stages.error().sentence;
            EXPECT_EQ(invalid(stages->vertex), "") << m->name;
            EXPECT_EQ(invalid(stages->fragment), "") << m->name;
        }
    }
}

TEST_F(Measuring, ACompilerWithoutACardTellsWhatItMade) {
    ASSERT_EQ(whyNotMeasured(), "");
    Measurements measurements(folder / "cache");
    const Compilation c = compileSurface(depot(), *depot().masters[0]);
    const auto all = measured(measurements, c, AlphaMode::Opaque);
    ASSERT_EQ(all.size(), families().size());
    for (size_t k = 0; k < all.size(); ++k) {
        ASSERT_TRUE(all[k]) << families()[k].key << ": " << all[k].error().sentence;
        for (const char* figure : {kInstructions, kVectorRegisters, kOccupancy, kThroughput})
            EXPECT_GT(all[k]->whole.pixel(figure), 0) << families()[k].key << figure;
        EXPECT_GT(all[k]->pixel(kInstructions), 20) << "apart from what any material costs";
        EXPECT_LT(all[k]->bare.pixel(kInstructions), all[k]->whole.pixel(kInstructions));
    }
    // Known by now, and by whoever looks into the same folder later.
    EXPECT_EQ(measurements.asked(), int(2 * families().size()));
    measured(measurements, c, AlphaMode::Opaque);
    EXPECT_EQ(measurements.asked(), int(2 * families().size()));
    Measurements later(folder / "cache");
    const auto again = measured(later, c, AlphaMode::Opaque);
    EXPECT_EQ(later.asked(), 0);
    EXPECT_EQ(again[3]->whole, all[3]->whole);
    // A cache of rubbish is no cache.
    for (const auto& file : fs::directory_iterator(folder / "cache")) std::ofstream(file.path()) << "{\"stages\": 7}";
    Measurements repaired(folder / "cache");
    EXPECT_EQ(measured(repaired, c, AlphaMode::Opaque)[3]->whole, all[3]->whole);
    EXPECT_EQ(repaired.asked(), int(2 * families().size()));
}

TEST_F(Measuring, WhatIsDoneMoreOftenCostsMore) {
    Measurements measurements{fs::path()};
    const auto octaves = [&](const char* count) {
        Project p = bareProject();
        const Id noise = add(p, "fractal", {}, {{"octaves", count}});
        channel(p, {noise, "out", ""}, "roughness");
        return measured(measurements, compiledOf(p), AlphaMode::Opaque, families().subspan(3));
    };
    const auto few = octaves("2"), more = octaves("5");
    ASSERT_TRUE(few[0] && more[0]);
    EXPECT_GT(more[0]->pixel(kThroughput), 1.5 * few[0]->pixel(kThroughput));
    const Compilation plain = compiledOf(bareProject());
    const auto nothing = measured(measurements, plain, AlphaMode::Opaque, families().subspan(3));
    ASSERT_TRUE(nothing[0]);
    EXPECT_LE(nothing[0]->pixel(kInstructions), 2) << "a material of constants costs no more than any";
}

TEST_F(Measuring, TakingACardOutLeavesItsMeanAndSavesWhatOnlyItNeeded) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), noise = add(p, "fractal", {}, {{"octaves", "4"}}),
             mix = add(p, "mix", {{"bg", Value::number(0.2f)}, {"fg", Value::number(0.8f)}});
    wire(p, {noise, "out", ""}, mix, "mix");
    channel(p, {mix, "out", ""}, "roughness");
    channel(p, {uv, "out", "r"}, "metallic");
    const Compilation c = compiledOf(p);
    const auto means = meansOf(*c.program, {});
    const auto without = withoutCard(*c.program, noise, means);
    EXPECT_EQ(validate(*without), "");
    EXPECT_EQ(costOf(*without, nullptr, {}).operationsPerPixel(), 0) << "nothing of the noise is left, and a mix of constants is one";
    // The same mean by the plain way.
    const std::vector<float> whole = overSquare(Evaluator(c.program), {}, "roughness", 1, 16),
                             flat = overSquare(Evaluator(without), {}, "roughness", 1, 16);
    double mean = 0;
    for (const float x : whole) mean += double(x) / double(whole.size());
    for (const float x : flat) ASSERT_NEAR(x, mean, 1e-4);
    Measurements measurements{fs::path()};
    const auto rests = marginalsOf(measurements, c, AlphaMode::Opaque, {}, families()[3]);
    const auto its = measured(measurements, c, AlphaMode::Opaque, families().subspan(3));
    ASSERT_TRUE(its[0]);
    bool found = false;
    for (const Marginal& m : rests) {
        ASSERT_TRUE(m.without);
        if (m.card != noise) continue;
        found = true;
        EXPECT_LT(m.without->pixel(kInstructions), its[0]->bare.pixel(kInstructions) + 5) << "without it next to nothing is left";
    }
    EXPECT_TRUE(found);
}

TEST_F(Measuring, MoreRegistersLetFewerRunBesideEachOther) {
    Measurements measurements{fs::path()};
    for (const Family& f : families()) {
        const std::vector<OccupancyStep> steps = occupancySteps(measurements, f);
        ASSERT_GT(steps.size(), 2u) << f.key;
        for (size_t k = 0; k + 1 < steps.size(); ++k) {
            EXPECT_LT(steps[k].registers, steps[k + 1].registers) << f.key;
            EXPECT_GT(steps[k].subgroups, steps[k + 1].subgroups) << f.key;
        }
    }
    Reading r;
    r.stages = {{"Fragment Shader", {{kVectorRegisters, 50}, {kOccupancy, 4}}}};
    EXPECT_EQ(nextStepWords({{24, 10}, {48, 5}, {84, 4}}, r), "2 registers fewer give 1 subgroup more");
    EXPECT_EQ(nextStepWords({{84, 4}}, r), "");
}

TEST_F(Measuring, OneThatCrashesTakesNobodyAlong) {
    // The first process answers once and dies over the next; each further one answers.
    const std::string answer = "echo '{\"stages\": [{\"name\": \"Fragment Shader\", \"statistics\": {\"Instructions\": 7}}]}'\n";
    const std::string take = "dd bs=24 count=1 iflag=fullblock of=/dev/null 2>/dev/null || exit\n";
    const fs::path program = script("n=$(cat " + (folder / "n").string() + " 2>/dev/null || echo 0)\necho $((n + 1)) > " +
                                    (folder / "n").string() + "\necho '{\"device\": \"none\", \"driver\": 1}'\n" + "if [ $n = 0 ]; then\n" +
                                    take + answer + take + "kill -9 $$\nfi\n" + "while true; do\n" + take + answer + "done\n");
    const std::vector<StagePair> pairs(4, StagePair{{1, 2, 3}, {4}});
    const auto readings = compiledFor(families()[0], pairs, {program, {}, 5});
    ASSERT_EQ(readings.size(), 4u);
    EXPECT_TRUE(readings[0] && readings[2] && readings[3]);
    ASSERT_FALSE(readings[1]);
    EXPECT_EQ(readings[1].error().code, "measure.died");
    EXPECT_EQ(readings[3]->pixel(kInstructions), 7);
    // The real one, asked for a family that its driver does not know.
    const auto unknown = compiledFor({"toaster9", "none"}, pairs);
    ASSERT_FALSE(unknown[0]);
    EXPECT_EQ(unknown[0].error().code, "measure.family");
    // And for words that are no SPIR-V: an answer or a crash, and never a hang.
    const auto rubbish = compiledFor(families()[3], {pairs.data(), 1});
    EXPECT_FALSE(rubbish[0]);
}

TEST_F(Measuring, ADriverKeepsForEachFamilyWhatItIsReadyWith) {
    if (!whyNotMeasured().empty()) GTEST_SKIP() << whyNotMeasured();
    const char* before = std::getenv("XDG_CACHE_HOME");
    const std::string was = before ? before : "";
    ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
    const Compilation c = compileSurface(depot(), *depot().masters[0]);
    const Result<StagePair> stages = deferredStages(stagesOf(c), AlphaMode::Opaque);
    ASSERT_TRUE(stages);
    for (const char* key : {"navi21", "vega10"}) {
        const auto readings = compiledFor(*findFamily(key), {&*stages, 1});
        EXPECT_TRUE(readings[0]);
        const fs::path kept = folder / "cache/huestack/driver" / key;
        EXPECT_TRUE(fs::exists(kept) && !fs::is_empty(kept)) << key;
        // With it there, the driver says the same.
        EXPECT_EQ(*compiledFor(*findFamily(key), {&*stages, 1})[0], *readings[0]) << key;
    }
    if (before) ::setenv("XDG_CACHE_HOME", was.c_str(), 1);
    else ::unsetenv("XDG_CACHE_HOME");
}

TEST_F(Measuring, StopsWhenAsked) {
    const fs::path program = script("echo '{\"device\": \"none\", \"driver\": 1}'\nsleep 60\n");
    std::atomic<bool> stop = false;
    std::thread later([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(200));
        stop = true;
    });
    const std::vector<StagePair> pairs(3, StagePair{{1, 2, 3}, {4}});
    Work work;
    work.cancelled = &stop;
    const auto readings = compiledFor(families()[0], pairs, {program, {}, 50}, work);
    later.join();
    for (const auto& r : readings) {
        ASSERT_FALSE(r);
        EXPECT_EQ(r.error().code, "stopped");
    }
}

} // namespace
} // namespace hue
