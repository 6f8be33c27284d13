// Each pass alone, on small Programs written by hand.
#include "core/compile/compile.h"
#include "core/emit/emit_glsl.h"
#include "core/program/builder.h"
#include "core/program/intervals.h"
#include "core/program/passes/passes.h"
#include "core/program/uniform_layout.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>
#include <mutex>

namespace hue {
namespace {

struct Small {
    Program p;
    Builder b{p};
    void out(const char* name, Val v) { p.outputs.push_back({name, v.id}); }
    const Instruction& result(size_t k = 0) const { return p.code[size_t(p.outputs[k].value)]; }
    float constantResult() const { return p.constants[result().imm][0]; }
};

TEST(Folding, EvaluatesOperationsOnConstantsWithTheKernelsOfTheEvaluator) {
    Small s;
    s.out("x", s.b.op(Op::Power, s.b.number(2), s.b.number(10)));
    EXPECT_TRUE(foldConstants(s.p));
    ASSERT_EQ(s.result().op, Op::Constant);
    EXPECT_NEAR(s.constantResult(), 1024, 0.01f);
}

TEST(Folding, DropsWhatChangesNothing) {
    Small s;
    const Val uv = s.b.attribute(Attribute::Uv0);
    s.out("plus", s.b.add(uv, s.b.number(0)));
    s.out("times", s.b.mul(s.b.number(1), uv));
    s.out("minus", s.b.sub(uv, s.b.number(0)));
    s.out("over", s.b.op(Op::Div, uv, s.b.number(1)));
    s.out("same", s.b.swizzle(uv, {0, 1}));
    foldConstants(s.p);
    for (const auto& o : s.p.outputs) EXPECT_EQ(o.value, uv.id) << o.name;
}

TEST(Folding, KeepsAWidthThatTheOperationGave) {
    Small s;
    // A number plus a zero vector is a vector: it must not become the number.
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0);
    s.out("x", s.b.add(u, s.b.constant(Value::vec3(0, 0, 0))));
    foldConstants(s.p);
    EXPECT_EQ(s.result().width, 3);
}

TEST(Folding, LeavesTimeAndMapsAlone) {
    Small s;
    s.out("phase", s.b.op(Op::Phase, s.b.number(2)));
    s.out("map", s.b.sample(s.b.mapSlot({{}, "t", MapKind::Color}), s.b.constant(Value::vec2(0.5f, 0.5f))));
    foldConstants(s.p);
    EXPECT_EQ(s.result(0).op, Op::Phase);
    EXPECT_EQ(s.result(1).op, Op::Sample);
}

TEST(Folding, TakesANumberStraightOutOfAComposition) {
    Small s;
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0), v = s.b.component(s.b.attribute(Attribute::Uv0), 1);
    s.out("x", s.b.component(s.b.compose({u, v}), 1));
    foldConstants(s.p);
    EXPECT_EQ(s.p.outputs[0].value, v.id);
}

/// What an output is after the pass, on its own.
Val rewritten(Small& s, Val v) {
    s.p.outputs = {{"x", v.id}};
    useIdentities(s.p);
    EXPECT_TRUE(validate(s.p).empty()) << validate(s.p);
    return {s.p.outputs[0].value};
}

TEST(Identities, TurnSmallPowersIntoProductsAndRoots) {
    for (const auto& [exponent, op] :
         {std::pair{2.f, Op::Mul}, {3.f, Op::Mul}, {4.f, Op::Mul}, {0.5f, Op::Sqrt}, {1.f, Op::Max}, {2.5f, Op::Power}}) {
        Small s;
        const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0);
        rewritten(s, s.b.op(Op::Power, u, s.b.number(exponent)));
        EXPECT_EQ(s.result().op, op) << exponent;
    }
    // A base that cannot be negative needs no limit.
    Small s;
    const Val u = s.b.op(Op::Fract, s.b.component(s.b.attribute(Attribute::Uv0), 0));
    rewritten(s, s.b.op(Op::Power, u, s.b.number(2)));
    for (const Instruction& i : s.p.code) EXPECT_NE(i.op, Op::Max);
}

TEST(Identities, DropLimitsThatCannotAct) {
    Small s;
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0);
    const Val smooth = s.b.op(Op::Smooth, u, s.b.number(0.2f), s.b.number(0.4f));
    const auto kept = [&](Val v) {
        Small t = s;
        rewritten(t, v);
        return t.result().op == Op::Clamp || t.result().op == Op::Min || t.result().op == Op::Max;
    };
    EXPECT_FALSE(kept(s.b.saturate(smooth)));
    EXPECT_FALSE(kept(s.b.saturate(s.b.oneMinus(smooth))));
    EXPECT_FALSE(kept(s.b.saturate(s.b.mul(smooth, s.b.op(Op::Fract, u)))));
    EXPECT_FALSE(kept(s.b.op(Op::Max, s.b.op(Op::Abs, u), s.b.number(0))));
    EXPECT_FALSE(kept(s.b.op(Op::Min, s.b.op(Op::Sin, u), s.b.number(2))));
    EXPECT_TRUE(kept(s.b.saturate(u))) << "UVs go anywhere";
    EXPECT_TRUE(kept(s.b.saturate(s.b.add(smooth, smooth)))) << "up to 2";
    EXPECT_TRUE(kept(s.b.op(Op::Max, smooth, s.b.number(0.1f))));
}

TEST(Identities, ChooseWhatIsKnownAndDropWhatIsNothing) {
    Small s;
    const Val uv = s.b.attribute(Attribute::Uv0), u = s.b.component(uv, 0);
    EXPECT_EQ(rewritten(s, s.b.mix(u, uv, s.b.number(1))).id, uv.id);
    Small t;
    const Val a = t.b.component(t.b.attribute(Attribute::Uv0), 0), b = t.b.component(t.b.attribute(Attribute::Uv0), 1);
    t.out("greater", t.b.op(Op::Select, t.b.op(Op::Abs, a), a, b));                      // may be 0
    t.out("sure", t.b.op(Op::Select, t.b.add(t.b.op(Op::Abs, a), t.b.number(1)), a, b)); // is above 0
    t.out("never", t.b.op(Op::Select, t.b.sub(a, a), a, b));
    t.out("nothing", t.b.mul(a, t.b.number(0)));
    useIdentities(t.p);
    EXPECT_EQ(t.result(0).op, Op::Select);
    EXPECT_EQ(t.p.outputs[1].value, a.id);
    EXPECT_EQ(t.p.outputs[2].value, b.id);
    EXPECT_EQ(t.result(3).op, Op::Constant);
}

TEST(Identities, TakeStraightFromWhereAValueComes) {
    Small s;
    const Val n = s.b.attribute(Attribute::NormalWorld);
    // Taken apart, put together, and taken again.
    const Val again = s.b.compose({s.b.component(n, 2), s.b.component(n, 1), s.b.component(n, 0)});
    s.out("x", s.b.swizzle(again, {2, 0}));
    optimise(s.p);
    ASSERT_EQ(s.result().op, Op::Swizzle);
    EXPECT_EQ(s.p.code[size_t(s.result().args[0])].op, Op::Attribute);
    EXPECT_EQ(s.result().imm, 0u | 2u << 2) << "x and z of the normal";
}

TEST(Hoisting, LeavesToTheFrameWhatIsKnownOnceAFrame) {
    Small s;
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0), f = s.b.parameter("f", 1);
    s.out("product", s.b.mul(s.b.number(2), s.b.mul(u, f)));
    s.out("sum", s.b.add(s.b.add(f, u), s.b.time()));
    EXPECT_TRUE(hoist(s.p));
    removeDead(s.p);
    assignRates(s.p);
    ASSERT_EQ(validate(s.p), "");
    for (size_t k = 0; k < 2; ++k) {
        int pixel = 0, frame = 0;
        for (const Instruction& i : s.p.code)
            if (i.op == (k ? Op::Add : Op::Mul)) (onceAFrame(i) ? frame : pixel)++;
        EXPECT_EQ(pixel, 1) << s.p.outputs[k].name;
        EXPECT_EQ(frame, 1) << s.p.outputs[k].name;
    }
}

TEST(Hoisting, LeavesWhatOthersReadAndWhatCouldLeaveTheNumbers) {
    Small s;
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0), f = s.b.parameter("f", 1), g = s.b.parameter("g", 1);
    const Val shared = s.b.mul(u, f);
    s.out("shared", shared);
    s.out("again", s.b.mul(shared, s.b.number(2)));
    s.out("unknown", s.b.mul(s.b.mul(u, g), f)); // f * g may be beyond all numbers where u * g * f is not
    s.out("huge", s.b.mul(s.b.mul(u, g), s.b.number(1e30f)));
    EXPECT_FALSE(hoist(s.p));
}

/// Outputs of a Program over a small square, one after the other.
std::vector<float> valuesOf(const Program& p, const Project& project) {
    const Evaluator e(std::make_shared<Program>(p));
    FrameInputs inputs;
    inputs.time = 2.25;
    inputs.parameter = [&](const Id& name) {
        Value v;
        liveConstantValue(project, test::masterOf(project), name, v);
        return v;
    };
    std::vector<float> out;
    for (const auto& o : p.outputs) {
        const auto one = test::overSquare(e, inputs, o.name, p.code[size_t(o.value)].width, 16);
        out.insert(out.end(), one.begin(), one.end());
    }
    return out;
}

TEST(Hoisting, ChangesNoPixelBeyondRounding) {
    const Project none = test::bareProject();
    int hoisted = 0;
    for (uint32_t seed = 0; seed < 200; ++seed) {
        // Sums and products of UVs, time, random numbers and constants, kept small by waves.
        std::mt19937 random(seed);
        const auto upTo = [&](size_t n) { return size_t(random() % n); };
        Small s;
        std::vector<Val> values{s.b.component(s.b.attribute(Attribute::Uv0), 0), s.b.component(s.b.attribute(Attribute::Uv0), 1),
                                s.b.op(Op::Fract, s.b.time()), s.b.placementRandom()};
        for (int k = 0; k < 4; ++k) values.push_back(s.b.number(float(upTo(40)) / 10 - 2));
        for (int k = 0; k < 40; ++k) {
            const Val a = values[upTo(values.size())], b = values[upTo(8)];
            values.push_back(k % 8 == 7 ? s.b.op(Op::Sin, a) : s.b.op(upTo(2) ? Op::Add : Op::Mul, a, b));
        }
        for (size_t k = 0; k < 3; ++k) s.out(std::string(1, char('a' + k)).c_str(), values[values.size() - 1 - k]);
        removeDead(s.p);
        Program after = s.p;
        hoisted += hoist(after);
        ASSERT_EQ(validate(after), "");
        assignRates(s.p);
        assignRates(after);
        const auto before = valuesOf(s.p, none), now = valuesOf(after, none);
        for (size_t i = 0; i < now.size(); ++i) ASSERT_NEAR(now[i], before[i], 1e-5f * (1 + std::fabs(before[i]))) << seed;
    }
    EXPECT_GT(hoisted, 30) << "else nothing was tried";
}

TEST(Ordering, HoldsFewValuesAtATime) {
    // All factors before all sums: each waits for its turn. In order, one sum and what is made for it wait.
    Small s;
    const Val u = s.b.component(s.b.attribute(Attribute::Uv0), 0);
    std::vector<Val> waves;
    for (int k = 0; k < 12; ++k) waves.push_back(s.b.op(Op::Sin, s.b.mul(u, s.b.number(float(k + 2)))));
    Val sum = waves[0];
    for (size_t k = 1; k < waves.size(); ++k) sum = s.b.add(sum, waves[k]);
    s.out("x", sum);
    assignRates(s.p);
    const int before = liveComponents(s.p);
    EXPECT_GE(before, 12);
    EXPECT_TRUE(order(s.p));
    EXPECT_EQ(validate(s.p), "");
    EXPECT_LE(liveComponents(s.p), 3);
    EXPECT_FALSE(order(s.p)) << "it is in order already";
}

TEST(Ordering, NeverHoldsMoreAndChangesNoBit) {
    int better = 0;
    for (uint32_t seed = 0; seed < 40; ++seed) {
        const Project p = test::randomGraph(seed, 40);
        Program before = *compileSurface(p, test::masterOf(p), Constants::Live, {{"order"}, {}}).program, after = before;
        better += order(after);
        ASSERT_EQ(validate(after), "");
        EXPECT_LE(liveComponents(after), liveComponents(before));
        EXPECT_EQ(valuesOf(before, p), valuesOf(after, p)) << seed;
    }
    EXPECT_GT(better, 10) << "else nothing was tried";
}

// Every value of random graphs lies between the bounds that are said of it.
TEST(Intervals, HoldForEveryValueOfRandomGraphs) {
    size_t bounded = 0, all = 0;
    for (uint32_t seed = 0; seed < 60; ++seed) {
        const Project p = test::randomGraph(seed, 40);
        const Compilation compiled = compileSurface(p, test::masterOf(p));
        auto program = std::make_shared<Program>(*compiled.program);
        program->outputs.clear();
        std::vector<std::string> names;
        for (size_t n = 0; n < program->code.size(); ++n) {
            if (onceAFrame(program->code[n])) continue;
            names.push_back("v" + std::to_string(n));
            program->outputs.push_back({names.back(), int32_t(n)});
        }
        const std::vector<Interval> bounds = intervalsOf(*program);
        const Evaluator evaluator(program);
        constexpr int size = 24;
        std::mutex mutex;
        const FlatSquare square(size, size);
        evaluator.grid(evaluator.frame({}), names, size, size, square,
                       [&](int, int, int columns, int rows, const float* const* planes) {
                           const std::lock_guard lock(mutex);
                           size_t plane = 0;
                           for (const auto& o : program->outputs) {
                               const Interval& b = bounds[size_t(o.value)];
                               for (int c = 0; c < program->code[size_t(o.value)].width; ++c, ++plane)
                                   for (int r = 0; r < rows; ++r)
                                       for (int x = 0; x < columns; ++x) {
                                           const float v = planes[plane][r * kBlockColumns + x];
                                           if (!std::isfinite(v)) continue;
                                           EXPECT_TRUE(v >= b.low && v <= b.high)
                                               << infoOf(program->code[size_t(o.value)].op).name << " gave " << v << " beyond " << b.low
                                               << " to " << b.high;
                                       }
                           }
                       },
                       {});
        for (const Interval& b : bounds) bounded += b.low > -1e30f && b.high < 1e30f;
        all += bounds.size();
    }
    EXPECT_GT(bounded * 3, all) << "else nothing was said";
}

TEST(Merging, TellsEqualConstantsAndReadsFromDifferentOnes) {
    Small s;
    const Val uv = s.b.attribute(Attribute::Uv0);
    s.out("a", s.b.add(uv, s.b.number(2)));
    s.out("b", s.b.add(uv, s.b.number(2)));
    s.out("c", s.b.add(uv, s.b.number(3)));
    s.out("d", s.b.sub(uv, s.b.number(2)));
    EXPECT_TRUE(mergeCommon(s.p));
    EXPECT_EQ(s.p.outputs[0].value, s.p.outputs[1].value);
    EXPECT_NE(s.p.outputs[0].value, s.p.outputs[2].value);
    EXPECT_NE(s.p.outputs[0].value, s.p.outputs[3].value);
}

TEST(Removing, TakesUnusedParametersMapsAndConstantsWithTheCode) {
    Small s;
    s.b.parameter("unused", 1);
    s.b.sample(s.b.mapSlot({{}, "unused", MapKind::Data}), s.b.attribute(Attribute::Uv0));
    const Val used = s.b.parameter("used", 3);
    s.out("x", s.b.mul(used, s.b.number(4)));
    EXPECT_TRUE(removeDead(s.p));
    EXPECT_EQ(s.p.parameters, std::vector<Id>{"used"});
    EXPECT_TRUE(s.p.maps.empty());
    EXPECT_EQ(s.p.constants.size(), 1u);
    EXPECT_EQ(validate(s.p), "");
}

TEST(Rating, GoesByTheMostFrequentThatAValueDependsOn) {
    Small s;
    const Val parameter = s.b.parameter("p", 1), random = s.b.placementRandom(), uv = s.b.attribute(Attribute::Uv0);
    s.out("frame", s.b.add(parameter, s.b.time()));
    s.out("placement", s.b.mul(parameter, random));
    s.out("vertex", s.b.component(uv, 0));
    s.out("pixel", s.b.mul(uv, random));
    assignRates(s.p);
    EXPECT_EQ(s.result(0).rate, Rate::Frame);
    EXPECT_EQ(s.result(1).rate, Rate::Placement);
    EXPECT_EQ(s.result(2).rate, Rate::Vertex);
    EXPECT_EQ(s.result(3).rate, Rate::Pixel);
}

TEST(Validation, NamesWhatIsWrong) {
    Small s;
    const Val uv = s.b.attribute(Attribute::Uv0);
    s.out("x", s.b.add(uv, uv));
    EXPECT_EQ(validate(s.p), "");
    Program late = s.p;
    late.code.back().args[0] = 5;
    EXPECT_NE(validate(late).find("before its user"), std::string::npos);
    Program wide = s.p;
    wide.code.back().width = 3;
    EXPECT_NE(validate(wide).find("width"), std::string::npos);
    Program lost = s.p;
    lost.outputs[0].value = 99;
    EXPECT_NE(validate(lost).find("output x"), std::string::npos);
}

TEST(Glsl, WritesNumbersThatReadBackAndSpreadsThem) {
    Small s;
    const Val uv = s.b.attribute(Attribute::Uv0);
    s.out("x", s.b.op(Op::Max, uv, s.b.number(-0.1f)));
    s.out("y", s.b.mul(s.b.component(uv, 0), s.b.number(1)));
    assignRates(s.p);
    const std::string text = emitMaterial(s.p, uniformLayout(s.p));
    EXPECT_NE(text.find("vec2((-0.100000001))"), std::string::npos) << text;
    EXPECT_NE(text.find("p.uv0.x"), std::string::npos) << text;
    EXPECT_NE(text.find("* 1.0"), std::string::npos) << "a whole number is still written as a float\n" << text;
}

TEST(Description, ShowsRateWidthAndOperation) {
    Small s;
    s.out("x", s.b.noise2(s.b.attribute(Attribute::Uv0)));
    assignRates(s.p);
    EXPECT_NE(describe(s.p).find("pixel     vec1 noise 2D %0"), std::string::npos) << describe(s.p);
    EXPECT_NE(describe(s.p).find("out x = %1"), std::string::npos);
}

} // namespace
} // namespace hue
