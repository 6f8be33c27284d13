// Curves and gradients: as text, as values between their points, and as what shaders read of them.
#include "core/check/check.h"
#include "core/maps/drawn_map.h"
#include "core/nodes/add_line.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

Drawn drawn(const std::string& text) {
    const Result<Drawn> d = drawnFrom(text);
    EXPECT_TRUE(d) << (d ? "" : d.error().sentence);
    return d ? *d : plainDrawn(Drawn::Kind::Curve);
}
float at(const Drawn& d, float x, size_t c = 0) { return valueAt(d, x)[c]; }

TEST(Drawn, IsWrittenAsItIsRead) {
    for (const char* text : {"curve smooth: 0 0, 0.4 0.25, 1 1", "curve steps: 0.5 -3.25", "curve straight: 0 1000, 1 -1000",
                             "gradient straight: 0 #102030, 1 #DCA54A", "gradient smooth: 0.25 0.1 0.2 12.5, 0.75 #FFFFFF 0.5"})
        EXPECT_EQ(textOf(drawn(text)), text);
    // Whatever is drawn comes back to the bit.
    std::mt19937 random(7);
    std::uniform_real_distribution<float> any(0, 1);
    for (int k = 0; k < 500; ++k) {
        Drawn d{k % 2 ? Drawn::Kind::Curve : Drawn::Kind::Gradient, Between(k % 3), {}};
        for (int n = 1 + k % 16; n > 0; --n) d.points.push_back({any(random), {any(random) * 9, any(random), any(random), any(random)}});
        d = inOrder(d);
        ASSERT_EQ(drawn(textOf(d)), d) << textOf(d);
    }
    EXPECT_EQ(textOf(drawn("curve smooth: 1 1, 0 0")), "curve smooth: 0 0, 1 1") << "in any order";
    EXPECT_EQ(drawn("curve straight: 0.5 1, 0.5 2").points.size(), 1u) << "one at a place, the last";
}

TEST(Drawn, WhatCannotBeReadSaysWhereAndWhatIsMeant) {
    for (const auto& [text, part] :
         std::vector<std::pair<const char*, const char*>>{{"line: 0 0", "curve or gradient"},
                                                          {"curve wavy: 0 0", "straight, smooth or steps"},
                                                          {"curve smooth 0 0", "straight, smooth or steps"},
                                                          {"curve smooth:", "a place of 0 to 1"},
                                                          {"curve smooth: 1.5 0", "a place of 0 to 1"},
                                                          {"curve smooth: 0 inf", "a value of -1000 to 1000"},
                                                          {"curve smooth: 0 0 0", "a comma or the end"},
                                                          {"gradient smooth: 0 0.5", "a color as #RRGGBB"},
                                                          {"gradient smooth: 0 #102030 2", "an alpha of 0 to 1"}}) {
        const Result<Drawn> d = drawnFrom(text);
        ASSERT_FALSE(d) << text;
        EXPECT_EQ(d.error().code, "drawn.words");
        EXPECT_NE(d.error().sentence.find(part), std::string::npos) << d.error().sentence;
    }
    std::string many = "curve straight: 0 0";
    for (int k = 1; k <= 16; ++k) many += ", 0.5 0";
    EXPECT_FALSE(drawnFrom(many));
    EXPECT_TRUE(isDrawn("curve is one") && isDrawn("gradient smooth: 0 #000000"));
    EXPECT_FALSE(isDrawn("m12345678") || isDrawn("curve") || isDrawn("") || isDrawn("curved thing"));
}

TEST(Drawn, GoesThroughItsPointsAndStaysBetweenNeighbours) {
    const Drawn straight = drawn("curve straight: 0.2 1, 0.6 3");
    EXPECT_FLOAT_EQ(at(straight, 0), 1);
    EXPECT_FLOAT_EQ(at(straight, 0.4f), 2);
    EXPECT_FLOAT_EQ(at(straight, 1), 3);
    const Drawn steps = drawn("curve steps: 0 1, 0.5 2, 1 5");
    EXPECT_FLOAT_EQ(at(steps, 0.499f), 1);
    EXPECT_FLOAT_EQ(at(steps, 0.5f), 2);
    EXPECT_FLOAT_EQ(at(steps, 0.999f), 2);
    EXPECT_FLOAT_EQ(at(steps, 1), 5);
    std::mt19937 random(11);
    std::uniform_real_distribution<float> any(0, 1);
    for (int k = 0; k < 200; ++k) {
        Drawn d{Drawn::Kind::Curve, Between::Smooth, {}};
        for (int n = 0; n < 6; ++n) d.points.push_back({any(random), {any(random) * 4 - 2, 0, 0, 0}});
        d = inOrder(d);
        for (const DrawnPoint& p : d.points) ASSERT_NEAR(at(d, p.at), p.value[0], 1e-5f);
        for (size_t n = 0; n + 1 < d.points.size(); ++n) {
            const auto [low, high] = std::minmax(d.points[n].value[0], d.points[n + 1].value[0]);
            float before = d.points[n].value[0];
            for (int s = 1; s <= 50; ++s) {
                const float v = at(d, d.points[n].at + (d.points[n + 1].at - d.points[n].at) * float(s) / 50);
                ASSERT_GE(v, low - 1e-4f);
                ASSERT_LE(v, high + 1e-4f);
                // And never turns back between two points.
                ASSERT_GE((v - before) * (d.points[n + 1].value[0] - d.points[n].value[0]), -1e-4f);
                before = v;
            }
        }
    }
    // On one straight line it is that line, however uneven its points lie; and it has no kinks elsewhere.
    const Drawn line = drawn("curve smooth: 0 0, 0.1 0.1, 0.7 0.7, 1 1");
    for (float x = 0; x <= 1; x += 0.01f) ASSERT_NEAR(at(line, x), x, 1e-5f);
    const Drawn bent = drawn("curve smooth: 0 0, 0.3 0.6, 1 1");
    constexpr float h = 1e-3f;
    EXPECT_NEAR((at(bent, 0.3f) - at(bent, 0.3f - h)) / h, (at(bent, 0.3f + h) - at(bent, 0.3f)) / h, 0.02f);
}

TEST(Drawn, ShadersReadTheSameValues) {
    Project p = bareProject();
    Parameter fall;
    fall.id = "fall", fall.name = "Fall", fall.codeName = "fall", fall.type = ParameterType::Curve;
    p = *edit::addParameter(p, "m", fall);
    EXPECT_EQ(masterOf(p).parameters[0].standard.map, "curve straight: 0 0, 1 1") << "a new one is plain";
    Parameter tint = fall;
    tint.id = "tint", tint.name = "Tint", tint.codeName = "tint", tint.type = ParameterType::Gradient;
    p = *edit::addParameter(p, "m", tint);
    const Id uv = add(p, "texcoord");
    for (const char* id : {"fall", "tint"}) {
        const Id read = add(p, "read_along"), card = add(p, "parameter", {}, {{"parameter", id}});
        wire(p, {uv, "out", "r"}, read, "in");
        wire(p, {card, "out", ""}, read, "map");
        channel(p, {read, std::string(id) == "fall" ? "value" : "color", ""}, std::string(id) == "fall" ? "roughness" : "base_color");
        if (std::string(id) == "tint") channel(p, {read, "alpha", ""}, "metallic");
    }
    Instance i;
    i.id = "i", i.name = "I", i.parent = "m";
    p = *edit::addInstance(p, i);
    p = *edit::setOwn(p, "i", "fall", {{}, "curve smooth: 0 1, 0.3 0.1, 1 0.6"});
    p = *edit::setOwn(p, "i", "tint", {{}, "gradient straight: 0 #102030, 0.5 #DCA54A 0.25, 1 0.5 2 4"});
    for (const Id worn : {"m", "i"}) {
        const Resolved resolved = resolve(p, worn);
        const Compilation c = compileSurface(p, *resolved.master);
        ASSERT_TRUE(c.ok);
        Assets assets;
        const FrameInputs inputs = frameInputs(p, assets, resolved, 0);
        constexpr int kSide = 64;
        const Evaluator evaluator(c.program);
        const auto rough = overSquare(evaluator, inputs, "roughness", 1, kSide),
                   color = overSquare(evaluator, inputs, "base_color", 3, kSide),
                   metal = overSquare(evaluator, inputs, "metallic", 1, kSide);
        const Drawn curve = drawn(resolved.values.at("fall").value.map), gradient = drawn(resolved.values.at("tint").value.map);
        for (int x = 0; x < kSide; ++x) {
            const float place = (float(x) + 0.5f) / kSide;
            // Between two texels of 256 a value goes straight.
            ASSERT_NEAR(rough[size_t(x)], at(curve, place), 2e-3f) << worn << x;
            for (size_t k = 0; k < 3; ++k) ASSERT_NEAR(color[size_t(x) * 3 + k], at(gradient, place, k), 0.02f) << worn << x;
            ASSERT_NEAR(metal[size_t(x)], at(gradient, place, 3), 4e-3f) << worn << x;
        }
    }
    // Both are of one build: only what is read differs.
    EXPECT_EQ(resolve(p, "i").master, &masterOf(p));
}

TEST(Drawn, ValuesOfTheWrongKindAreRefused) {
    Project p = bareProject();
    Parameter fall;
    fall.id = "fall", fall.name = "Fall", fall.codeName = "fall", fall.type = ParameterType::Curve;
    p = *edit::addParameter(p, "m", fall);
    const auto refused = [&](const std::string& words) {
        const Result<Project> next = edit::setOwn(p, "m", "fall", {{}, words});
        return next ? std::string("taken") : next.error().code;
    };
    EXPECT_EQ(refused("gradient straight: 0 #000000"), "drawn.kind");
    EXPECT_EQ(refused("m123"), "drawn.words");
    EXPECT_EQ(refused(""), "drawn.words");
    EXPECT_EQ(refused("curve steps: 0 1"), "taken");
}

TEST(Drawn, RangesFollowWhatIsDrawn) {
    // A divisor read from a curve that reaches 0.
    const auto said = [](const char* curve) {
        Project p = bareProject();
        Parameter fall;
        fall.id = "fall", fall.name = "Fall", fall.codeName = "fall", fall.type = ParameterType::Curve, fall.standard.map = curve;
        p = *edit::addParameter(p, "m", fall);
        const Id read = add(p, "read_along"), by = add(p, "divide", {{"in1", Value::number(1)}}), uv = add(p, "texcoord");
        wire(p, {add(p, "parameter", {}, {{"parameter", "fall"}}), "out", ""}, read, "map");
        wire(p, {uv, "out", "r"}, read, "in");
        wire(p, {read, "value", ""}, by, "in2");
        channel(p, {by, "out", ""}, "roughness");
        for (const Diagnostic& d : checkMaster(p, masterOf(p)))
            if (d.code == "divide.may-be-zero") return true;
        return false;
    };
    EXPECT_TRUE(said("curve straight: 0 0, 1 1"));
    EXPECT_FALSE(said("curve straight: 0 0.5, 1 1"));
}

TEST(Drawn, FilesKeepThem) {
    Project p = bareProject();
    Parameter q;
    q.id = "fall", q.name = "Fall", q.codeName = "fall", q.type = ParameterType::Curve, q.standard.map = "curve smooth: 0 0.5, 1 1";
    p = *edit::addParameter(p, "m", q);
    q.id = "glow", q.name = "Glow", q.codeName = "glow", q.type = ParameterType::Color, q.alpha = true, q.strongest = 20, q.standard = {};
    q.standard.value = Value::vec4(4, 2, 1, 0.25f);
    p = *edit::addParameter(p, "m", q);
    q = Parameter{};
    q.id = "skin", q.name = "Skin", q.codeName = "skin", q.type = ParameterType::Map, q.mostPixels = 1024, q.leastChannels = 3;
    p = *edit::addParameter(p, "m", q);
    Instance i;
    i.id = "i", i.name = "I", i.parent = "m";
    i.own = {{"fall", {{}, "curve steps: 0 1"}}, {"glow", {Value::vec4(1, 1, 1, 0.5f), {}}}};
    p = *edit::addInstance(p, i);
    const Result<Loaded> back = parseProject(projectText(p), "it");
    ASSERT_TRUE(back);
    for (size_t k = 0; k < 3; ++k) {
        const Parameter &a = masterOf(p).parameters[k], &b = masterOf(back->project).parameters[k];
        EXPECT_EQ(a.standard, b.standard);
        EXPECT_EQ(std::tuple(a.type, a.alpha, a.strongest, a.mostPixels, a.leastChannels),
                  std::tuple(b.type, b.alpha, b.strongest, b.mostPixels, b.leastChannels));
    }
    EXPECT_EQ(back->project.instance("i")->own, p.instance("i")->own);
}

TEST(Drawn, TheAddLineMakesThem) {
    const Project p = bareProject();
    const std::vector<Proposal> curve = propose(p, masterOf(p), "falloff = curve"), gradient = propose(p, masterOf(p), "tint = gradient"),
                                finish = propose(p, masterOf(p), "paint = finish");
    ASSERT_FALSE(curve.empty() || gradient.empty() || finish.empty());
    EXPECT_EQ(curve[0].parameter.type, ParameterType::Curve);
    EXPECT_EQ(gradient[0].parameter.type, ParameterType::Gradient);
    EXPECT_EQ(finish[0].parameter.type, ParameterType::Finish);
    EXPECT_EQ(finish[0].node.kind, "finish_of");
}

} // namespace
} // namespace hue
