// Savings that are proposed are real, and a way to a target meets it.
#include "core/budget/map_memory.h"
#include "core/project/frame_inputs.h"
#include "core/suggest/suggest.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

const BytesIn kNoBytes = [](const Project&) { return MapBytes{}; };

/// Roughness by a fractal of six octaves, metallic by a sine of a sum, a live switch between two noises for occlusion.
struct Dear {
    Project p = bareProject();
    Id fractal, sine;
    Dear() {
        fractal = add(p, "fractal", {}, {{"octaves", "6"}});
        channel(p, {fractal, "out", ""}, "roughness");
        const Id uv = add(p, "texcoord"), sum = add(p, "add");
        sine = add(p, "sine");
        wire(p, {uv, "out", "r"}, sum, "in1");
        wire(p, {uv, "out", "g"}, sum, "in2");
        wire(p, {sum, "out", ""}, sine, "in");
        channel(p, {sine, "out", ""}, "metallic");
        Parameter moss;
        moss.id = "moss", moss.name = "Moss", moss.codeName = "moss", moss.type = ParameterType::OnOff;
        p = *edit::addParameter(p, "m", moss);
        const Id a = add(p, "noise_2d"), b = add(p, "noise_2d", {{"scale", Value::vec2(7, 7)}}), mix = add(p, "mix");
        wire(p, {a, "out", ""}, mix, "bg");
        wire(p, {b, "out", ""}, mix, "fg");
        wire(p, {add(p, "parameter", {}, {{"parameter", "moss"}}), "out", ""}, mix, "mix");
        channel(p, {mix, "out", ""}, "occlusion");
    }
    std::vector<Suggestion> suggestions(const Target& target = shippedTargets()[0]) const {
        return suggestionsFor(p, "m", target, kNoBytes, {});
    }
};

const Suggestion* find(const std::vector<Suggestion>& all, const std::string& code) {
    for (const Suggestion& s : all)
        if (s.what.code.starts_with(code)) return &s;
    return nullptr;
}
int operations(const Project& p) { return costOf(*compileSurface(p, *resolve(p, "m").master).program, nullptr, {}).operationsPerPixel(); }

TEST(Suggestions, SaveWhatTheySay) {
    const Dear dear;
    const std::vector<Suggestion> all = dear.suggestions();
    ASSERT_FALSE(all.empty());
    for (const Suggestion& s : all) {
        // The change by itself gives the state that was tried, and that state costs so much less.
        const Result<Project> after = s.what.change(dear.p);
        ASSERT_TRUE(after) << s.what.title;
        EXPECT_EQ(operations(dear.p) - operations(*after), int(std::lround(s.operations))) << s.what.title;
        EXPECT_GT(s.worth, 0) << s.what.title;
        EXPECT_NE(savingWords(s), "nothing that is counted") << s.what.title;
    }
    for (size_t k = 0; k + 1 < all.size(); ++k) EXPECT_GE(all[k].worth, all[k + 1].worth);
    const Suggestion* octaves = find(all, "octaves:" + dear.fractal);
    ASSERT_TRUE(octaves);
    EXPECT_EQ(octaves->operations, 52) << "an octave counts 52";
    const Suggestion* build = find(all, "build-choice:moss");
    ASSERT_TRUE(build);
    EXPECT_GE(build->operations, 48) << "the noise that is not chosen is not computed";
    EXPECT_TRUE(find(all, "constant:" + dear.fractal));
}

TEST(Suggestions, AConstantIsTheMean) {
    const Dear dear;
    const std::vector<Suggestion> all = dear.suggestions();
    const Suggestion* s = find(all, "constant:" + dear.fractal);
    ASSERT_TRUE(s);
    const auto roughness = [](const Project& p) {
        const Compilation c = compileSurface(p, masterOf(p));
        return overSquare(Evaluator(c.program), {}, "roughness", 1, 16);
    };
    double mean = 0;
    for (const float x : roughness(dear.p)) mean += double(x) / 256;
    for (const float x : roughness(*s->after)) ASSERT_NEAR(x, mean, 1e-5);
}

TEST(Suggestions, AreSilencedByMaster) {
    const Dear dear;
    const std::string code = dear.suggestions()[0].what.code;
    Dear quiet = dear;
    quiet.p = *edit::silenceAdvice(dear.p, "m", code, true);
    EXPECT_FALSE(find(quiet.suggestions(), code));
    EXPECT_EQ(quiet.suggestions().size(), dear.suggestions().size() - 1);
    // Every code begins with a rule that is told of.
    for (const Suggestion& s : dear.suggestions()) {
        const std::string rule = s.what.code.substr(0, s.what.code.find(':'));
        EXPECT_TRUE(std::any_of(suggestionRules().begin(), suggestionRules().end(), [&](const RuleDef& r) { return r.key == rule; }))
            << rule;
    }
}

TEST(Suggestions, AFormatThatTheTargetReadsTakesLess) {
    Dear dear;
    MapFile map;
    map.id = "map", map.name = "Skin", map.path = "skin.png";
    dear.p = *edit::addMap(dear.p, map);
    const Id image = add(dear.p, "image", {}, {{"map", "map"}});
    channel(dear.p, {image, "color", ""}, "base_color");
    const BytesIn bytes = [](const Project& state) -> MapBytes {
        const bool small = state.map("map")->format == "astc-6x6";
        return [small](const Id&) -> size_t { return small ? 1000000 : 4000000; };
    };
    const auto all = suggestionsFor(dear.p, "m", shippedTargets()[0], bytes, {});
    const Suggestion* s = find(all, "block-format:map");
    ASSERT_TRUE(s) << "handhelds read astc";
    EXPECT_DOUBLE_EQ(s->megabytes, 3);
    EXPECT_EQ(savingWords(*s), "3.00 MB");
}

TEST(Suggestions, PlainerCardsKeepWiresAndCostLess) {
    for (const auto& [kind, plainer] : {std::pair{"worley_noise", "noise_2d"}, {"fractal_3d", "fractal"}, {"noise_3d", "noise_2d"}}) {
        Project p = bareProject();
        const Id noise = add(p, kind), mix = add(p, "mix");
        wire(p, {noise, "out", ""}, mix, "mix");
        channel(p, {mix, "out", ""}, "roughness");
        const std::vector<Suggestion> all = suggestionsFor(p, "m", shippedTargets()[0], kNoBytes, {});
        const Suggestion* s = find(all, "plainer-card:" + noise);
        ASSERT_TRUE(s) << kind;
        EXPECT_GT(s->operations, 0) << kind;
        EXPECT_EQ(masterOf(*s->after).graph.find(noise)->kind, plainer);
        EXPECT_EQ(masterOf(*s->after).graph.find(mix)->wires.at("mix").node, noise) << "what read it reads it still";
    }
}

TEST(FitToTarget, MeetsItTheLeastSeenFirst) {
    const Dear dear;
    Target target;
    target.key = "tight", target.name = "Tight";
    target.limits.operations = 200;
    ASSERT_GT(operations(dear.p), 200);
    // A stand-in for pictures: the mean distance of the roughness from the beginning's.
    const auto roughness = [](const Project& p) {
        const Compilation c = compileSurface(p, masterOf(p));
        return overSquare(Evaluator(c.program), {}, "roughness", 1, 16);
    };
    const std::vector<float> first = roughness(dear.p);
    const auto difference = [&](const Project& p) {
        double out = 0;
        const std::vector<float> now = roughness(p);
        for (size_t k = 0; k < now.size(); ++k) out += std::fabs(double(now[k] - first[k]));
        return out;
    };
    const auto inputs = [](const Project&, const Resolved&) { return FrameInputs{}; };
    const Fit fit = fitToTarget(dear.p, "m", target, kNoBytes, inputs, difference);
    EXPECT_TRUE(fit.fits);
    ASSERT_GT(fit.steps.size(), 1u);
    EXPECT_EQ(fit.steps[0].difference, 0);
    EXPECT_LE(operations(*fit.steps.back().state), 200);
    for (size_t k = 1; k < fit.steps.size(); ++k) {
        EXPECT_LT(operations(*fit.steps[k].state), operations(*fit.steps[k - 1].state)) << fit.steps[k].title;
        EXPECT_NEAR(fit.steps[k].difference, difference(*fit.steps[k].state), 1e-9) << "as far as it is told to lie";
    }
    EXPECT_TRUE(fit.steps[1].code.starts_with("build-choice") || fit.steps[1].difference < 1e-6) << "what is not seen at all goes first";
    // What is locked stays.
    std::set<Id> locked;
    for (const auto& [id, node] : masterOf(dear.p).graph.nodes) locked.insert(id);
    const Fit held = fitToTarget(dear.p, "m", target, kNoBytes, inputs, difference, locked);
    for (const FitStep& s : held.steps)
        for (const auto& [id, node] : masterOf(dear.p).graph.nodes) EXPECT_EQ(masterOf(*s.state).graph.find(id)->settings, node->settings);
    // Asked to stop it keeps what it has.
    std::atomic<bool> stop = true;
    Work work;
    work.cancelled = &stop;
    EXPECT_EQ(fitToTarget(dear.p, "m", target, kNoBytes, inputs, difference, {}, work).steps.size(), 1u);
    // One that cannot be met ends.
    target.limits.operations = 0.5f;
    target.limits.samplers = 0;
    const Fit never = fitToTarget(dear.p, "m", target, kNoBytes, inputs, difference);
    EXPECT_TRUE(never.fits || never.steps.size() <= 40);
}

} // namespace
} // namespace hue
