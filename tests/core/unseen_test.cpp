// What a mask hides may be skipped: the same picture, and less to pay where nothing is seen.
#include "core/cost/cost.h"
#include "core/decals/decalled.h"
#include "core/emit/emit_glsl.h"
#include "core/emit/source_lines.h"
#include "core/evaluate/plan.h"
#include "core/nodes/finish.h"
#include "core/program/passes/passes.h"
#include "core/program/unseen.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <regex>
#include <set>

namespace hue {
namespace {

using namespace test;

constexpr int kSize = 40;

std::vector<float> shown(const Project& p, const std::string& key, Constants constants = Constants::Folded) {
    const Compilation c = compileSurface(p, masterOf(p), constants);
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    FrameInputs inputs;
    inputs.parameter = [&](const Id& id) {
        Value v;
        liveConstantValue(p, masterOf(p), id, v);
        return v;
    };
    return overSquare(Evaluator(c.program), inputs, key, findChannel(key)->width, kSize);
}

/// A mask of 0 in one part of the square, 1 in another, and all between on the way: `from` and `to` along U.
Id ramp(Project& p, float from, float to) {
    const Id uv = add(p, "texcoord"), take = add(p, "separate"),
             out = add(p, "smoothstep", {{"low", Value::number(from)}, {"high", Value::number(to)}});
    wire(p, {uv, "out", ""}, take, "in");
    wire(p, {take, "r", ""}, out, "in");
    return out;
}

/// What a random graph ends in, as a finish.
Id finishOfRandomGraph(Project& p) {
    const std::map<std::string, Source> wires = masterOf(p).graph.channelWires;
    const Id card = add(p, "finish");
    for (const auto& [key, from] : wires) wire(p, from, card, key);
    return card;
}

/// Two finishes that share the cards of one random graph, joined by `kind` as a ramp says; whether what is hidden is skipped.
Project joined(uint32_t seed, std::string_view kind, bool skipped, float from = 0.3f, float to = 0.6f) {
    Project p = randomGraph(seed, 24);
    const Id back = finishOfRandomGraph(p), front = add(p, "finish"), noise = add(p, "fractal", {}, {{"octaves", "3"}}),
             normal = add(p, "height_to_normal"), bend = add(p, "normal_map");
    wire(p, {noise, "out", ""}, front, "roughness");
    wire(p, {noise, "out", ""}, normal, "in");
    wire(p, {normal, "out", ""}, bend, "in");
    wire(p, {bend, "out", ""}, front, "normal");
    wire(p, masterOf(p).graph.channelWires.at("base_color"), front, "base_color");
    p = *edit::disconnectChannel(p, "m", "base_color");
    p = *edit::disconnectChannel(p, "m", "roughness");
    const Id mask = ramp(p, from, to), card = add(p, kind, {}, {{"unseen", skipped ? "skipped" : "computed"}});
    const bool weights = kind == "finish_weights";
    wire(p, {back, "out", ""}, card, weights ? "finish1" : "bg");
    wire(p, {front, "out", ""}, card, weights ? "finish2" : "fg");
    wire(p, {mask, "out", ""}, card, weights ? "weight2" : "mix");
    if (weights) {
        const Id rest = add(p, "subtract", {{"in1", Value::number(1)}});
        wire(p, {mask, "out", ""}, rest, "in2");
        wire(p, {rest, "out", ""}, card, "weight1");
    }
    channel(p, {card, "out", ""}, "finish");
    return p;
}

constexpr std::string_view kKinds[] = {"mix", "finish_height_blend", "finish_weights", "lay_over"};

std::shared_ptr<const Program> programOf(const Project& p) { return compileSurface(p, masterOf(p)).program; }

TEST(Unseen, WhatIsSkippedShowsTheSame) {
    size_t branches = 0;
    for (const std::string_view kind : kKinds) {
        const size_t before = branches;
        for (uint32_t seed = 1; seed <= 12; ++seed) {
            const Project all = joined(seed, kind, false), less = joined(seed, kind, true);
            branches += unseenOf(*programOf(less)).branches.size();
            EXPECT_TRUE(unseenOf(*programOf(all)).branches.empty());
            for (const Constants constants : {Constants::Folded, Constants::Live})
                for (const char* key : {"base_color", "roughness", "normal"}) {
                    const std::vector<float> a = shown(all, key, constants), b = shown(less, key, constants);
                    ASSERT_EQ(a.size(), b.size());
                    for (size_t k = 0; k < a.size(); ++k)
                        ASSERT_NEAR(a[k], b[k], 1e-5f * std::max(1.f, std::fabs(a[k]))) << kind << " " << seed << " " << key << " at " << k;
                }
        }
        EXPECT_GE(branches - before, 12u) << kind << " skips in each of its graphs";
    }
    EXPECT_GT(branches, 40u) << "there was something to skip";
}

TEST(Unseen, WhatIsNotSeenCannotSpoilThePicture) {
    for (const bool skipped : {false, true}) {
        Project p = bareProject();
        const Id back = add(p, "finish", {{"roughness", Value::number(0.25f)}}), front = add(p, "finish"), broken = add(p, "divide"),
                 left = ramp(p, 0.2f, 0.4f), card = add(p, "mix", {}, {{"unseen", skipped ? "skipped" : "computed"}});
        // Endless on the left, where the mask is 0.
        wire(p, {left, "out", ""}, broken, "in2");
        wire(p, {broken, "out", ""}, front, "roughness");
        wire(p, {back, "out", ""}, card, "bg");
        wire(p, {front, "out", ""}, card, "fg");
        wire(p, {left, "out", ""}, card, "mix");
        channel(p, {card, "out", ""}, "finish");
        EXPECT_EQ(std::isfinite(shown(p, "roughness")[0]), skipped);
        if (!skipped) continue;
        EXPECT_EQ(shown(p, "roughness")[0], 0.25f);
    }
}

/// Instructions that outputs need although nothing of one branch is computed: a walk that does not pass what the mask hides.
std::vector<char> neededWithout(const Program& p, const Branch& branch) {
    std::vector<char> needed(p.code.size(), 0);
    for (const auto& o : p.outputs) needed[size_t(o.value)] = 1;
    for (size_t n = p.code.size(); n-- > 0;) {
        if (!needed[n]) continue;
        const Instruction& i = p.code[n];
        const bool hides = i.op == (branch.above ? Op::WhereAbove0 : Op::WhereBelow1) && i.args[1] == branch.mask;
        for (int a = hides ? 1 : 0; a < i.operands; ++a) needed[size_t(i.args[size_t(a)])] = 1;
    }
    return needed;
}

/// Joined twice, so that branches lie in branches, with a map that is read within.
Project nested(uint32_t seed) {
    Project p = joined(seed, "mix", true);
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.exr", MapKind::Color, Wrap::Repeat, {}, {}}));
    const Source inner = masterOf(p).graph.channelWires.at("finish");
    const Id image = add(p, "image", {}, {{"map", "map"}}), other = add(p, "finish"), mask = ramp(p, 0.5f, 0.9f),
             card = add(p, seed % 2 ? "mix" : "finish_height_blend", {}, {{"unseen", "skipped"}});
    // Read at a place that is computed for it alone.
    const Id uv = add(p, "texcoord"), turned = add(p, "rotate_2d", {{"amount", Value::number(31)}}), bent = add(p, "sine");
    wire(p, {uv, "out", ""}, turned, "in");
    wire(p, {turned, "out", ""}, bent, "in");
    wire(p, {bent, "out", ""}, image, "uv");
    wire(p, {image, "color", ""}, other, "base_color");
    wire(p, inner, card, seed % 3 ? "bg" : "fg");
    wire(p, {other, "out", ""}, card, seed % 3 ? "fg" : "bg");
    wire(p, {mask, "out", ""}, card, "mix");
    channel(p, {card, "out", ""}, "finish");
    return p;
}

TEST(Unseen, BranchesHoldWhatNothingElseNeeds) {
    int deep = 0, held = 0;
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const auto program = programOf(nested(seed));
        const Program& p = *program;
        ASSERT_EQ(validate(p), "");
        const Unseen unseen = unseenOf(p);
        for (size_t b = 0; b < unseen.branches.size(); ++b) {
            const Branch& branch = unseen.branches[b];
            deep += branch.parent >= 0;
            EXPECT_LT(branch.parent, int32_t(b));
            EXPECT_TRUE(unseen.within(branch.parent, unseen.branchOf[size_t(branch.mask)])) << "its mask is there when it is asked for";
            const std::vector<char> needed = neededWithout(p, branch);
            int operations = 0, fetches = 0;
            for (size_t n = 0; n < p.code.size(); ++n) {
                if (!unseen.within(unseen.branchOf[n], int32_t(b))) continue;
                ++held;
                EXPECT_FALSE(needed[n]) << seed << ": instruction " << n << "\n" << describe(p);
                EXPECT_GT(int32_t(n), branch.mask);
                EXPECT_GT(int(p.code[n].rate), int(Rate::Placement));
                operations += costOf(p.code[n]).operations;
                fetches += costOf(p.code[n]).fetches;
            }
            EXPECT_EQ(branch.operations, operations);
            EXPECT_EQ(branch.fetches, fetches);
            EXPECT_TRUE(fetches > 0 || operations >= kLeastBranch);
        }
        // What a map is read at, and all that leads there, every pixel has.
        std::vector<char> everywhere(p.code.size(), 0);
        for (size_t n = p.code.size(); n-- > 0;) {
            if (p.code[n].op == Op::Sample) everywhere[size_t(p.code[n].args[0])] = 1;
            if (!everywhere[n]) continue;
            EXPECT_EQ(unseen.branchOf[n], -1) << seed << ": " << n;
            for (int a = 0; a < p.code[n].operands; ++a) everywhere[size_t(p.code[n].args[size_t(a)])] = 1;
        }
    }
    EXPECT_GT(deep, 10);
    EXPECT_GT(held, 500);
}

// Scopes as the language has them, read from the text alone.
TEST(Unseen, SourceEntersBranchesAndTakesDerivativesOutside) {
    int within = 0;
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        const Project p = nested(seed);
        const Compilation c = compileSurface(p, masterOf(p));
        const std::string text = emitMaterial(*c.program, uniformLayout(*c.program));
        std::vector<std::set<std::string>> scopes;
        static const std::regex name("\\b([vxy][0-9]+)\\b"), declared("(?:float|vec[234]) ([vx][0-9]+) =(?:.*, (y[0-9]+) =)?");
        bool inside = false;
        for (const SourceLine& line : sourceLines(*c.program, text)) {
            if (line.text.starts_with("hs_Outputs hs_material")) {
                inside = true;
                scopes.assign(1, {});
                continue;
            }
            if (!inside) continue;
            if (line.text.ends_with("}")) scopes.pop_back();
            if (scopes.empty()) break;
            const bool branch = scopes.size() > 1;
            within += branch;
            if (branch) {
                EXPECT_EQ(line.text.find("dFd"), std::string::npos) << line.text;
                EXPECT_EQ(line.text.find("texture("), std::string::npos) << line.text;
            }
            std::set<std::string> fresh;
            std::smatch found;
            if (std::regex_search(line.text, found, declared))
                for (size_t k = 1; k < found.size(); ++k)
                    if (found[k].matched) fresh.insert(found[k]);
            for (auto it = std::sregex_iterator(line.text.begin(), line.text.end(), name); it != std::sregex_iterator(); ++it)
                EXPECT_TRUE(fresh.contains(it->str()) ||
                            std::any_of(scopes.begin(), scopes.end(), [&](const auto& s) { return s.contains(it->str()); }))
                    << seed << ": " << it->str() << " is not known in: " << line.text << "\n"
                    << text;
            scopes.back().insert(fresh.begin(), fresh.end());
            if (line.text.ends_with("{ // seen here")) scopes.emplace_back();
        }
        EXPECT_TRUE(scopes.empty());
    }
    EXPECT_GT(within, 300);
}

/// A roughness that takes five sines, 4 operations each, in front of an even one.
Project sines(const char* unseen) {
    Project p = bareProject();
    const Id back = add(p, "finish", {{"roughness", Value::number(0.25f)}}), front = add(p, "finish"), uv = add(p, "texcoord"),
             take = add(p, "separate"), card = add(p, "mix", {}, {{"unseen", unseen}}), mask = add(p, "painted");
    wire(p, {uv, "out", ""}, take, "in");
    Source last{take, "r", ""};
    for (int k = 0; k < 5; ++k) {
        const Id sine = add(p, "sine");
        wire(p, last, sine, "in");
        last = {sine, "out", ""};
    }
    wire(p, last, front, "roughness");
    wire(p, {back, "out", ""}, card, "bg");
    wire(p, {front, "out", ""}, card, "fg");
    wire(p, {mask, "out", ""}, card, "mix");
    channel(p, {card, "out", ""}, "finish");
    return p;
}

TEST(Unseen, SavesWhatIsCountedByHand) {
    const Cost all = costOf(*programOf(sines("computed")), nullptr, {}), less = costOf(*programOf(sines("skipped")), nullptr, {});
    EXPECT_FALSE(all.skips());
    EXPECT_EQ(all.leastOperationsPerPixel(), all.operationsPerPixel());
    // One comparison more at worst; five sines less at best.
    EXPECT_EQ(less.operationsPerPixel(), all.operationsPerPixel() + 1);
    EXPECT_EQ(less.spared.operations, 5 * 4);
    EXPECT_EQ(less.leastOperationsPerPixel(), all.operationsPerPixel() + 1 - 5 * 4);
    // A mask that is known leaves no branch.
    for (const float known : {0.f, 1.f}) {
        Project p = sines("skipped"), q = sines("computed");
        for (Project* x : {&p, &q}) {
            const Id card = masterOf(*x).graph.channelWires.at("finish").node;
            *x = *edit::disconnect(*x, "m", card, "mix");
            *x = *edit::setConstant(*x, "m", card, "mix", Value::number(known));
        }
        EXPECT_EQ(describe(*programOf(p)), describe(*programOf(q)));
    }
}

TEST(Unseen, OfTwoSidesThatExcludeEachOtherOneIsSpared) {
    Unseen u;
    u.branches = {{7, true, -1, 100, 0}, {7, false, -1, 60, 2}, {9, true, 1, 20, 1}, {11, true, -1, 13, 0}};
    // Without the first side: 100, and within the other still 20 and a fetch. Without the second: 60 and two fetches. A mask of its
    // own: 13.
    EXPECT_EQ(mostSpared(u).operations, 100 + 20 + 13);
    EXPECT_EQ(mostSpared(u).fetches, 1);
    u.branches[0].operations = 50;
    EXPECT_EQ(mostSpared(u).operations, 60 + 13);
    EXPECT_EQ(mostSpared(u).fetches, 2);
}

int g_counted = 0;
void count(const float* const*, float* const*, size_t, uint32_t, const KernelContext&) { ++g_counted; }

TEST(Unseen, TheProcessorLeavesOutBlocksThatShowNothing) {
    const auto program = programOf(sines("skipped"));
    const Evaluator evaluator(program);
    const UniformLayout layout = uniformLayout(*program);
    PlanRequest request;
    request.number = [&](int32_t n, int c) -> int32_t {
        const Instruction& i = program->code[size_t(n)];
        return i.op == Op::Constant ? int32_t(i.imm) * 4 + c : -1;
    };
    request.wanted = {{program->output("roughness"), 0}};
    const Plan plan = makePlan(*program, request);
    ASSERT_EQ(plan.branches.size(), 1u);
    std::vector<float> numbers;
    for (const auto& k : program->constants) numbers.insert(numbers.end(), k.begin(), k.end());
    for (const float painted : {0.f, 0.5f}) {
        std::vector<float> arena(size_t(plan.planes) * kLanePadding, -77.f);
        for (const auto& pinned : plan.pinned)
            std::fill_n(arena.begin() + pinned.plane * kLanePadding, kLanePadding,
                        pinned.component < 0                     ? numbers[size_t(pinned.number)]
                        : pinned.attribute == Attribute::Painted ? painted
                                                                 : 0.3f);
        BoundPlan steps(plan, arena.data(), kLanePadding, numbers.data());
        steps.run(kLanePadding, {});
        float sine = 0.3f;
        for (int k = 0; k < 5; ++k) sine = std::sin(sine);
        EXPECT_NEAR(arena[size_t(plan.results[0]) * kLanePadding], painted > 0 ? 0.25f + (sine - 0.25f) * painted : 0.25f, 1e-5f);
        // The same with steps that count themselves.
        Plan counting = plan;
        int within = 0;
        for (PlanStep& s : counting.steps)
            if (s.branch >= 0) s.kernel = count, ++within;
        g_counted = 0;
        BoundPlan(counting, arena.data(), kLanePadding, numbers.data()).run(kLanePadding, {});
        EXPECT_GE(within, 5);
        EXPECT_EQ(g_counted, painted > 0 ? within : 0);
    }
}

} // namespace
} // namespace hue
