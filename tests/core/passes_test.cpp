// Each pass alone, on small Programs written by hand.
#include "core/emit/emit_glsl.h"
#include "core/program/builder.h"
#include "core/program/passes/passes.h"
#include "core/program/uniform_layout.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

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
