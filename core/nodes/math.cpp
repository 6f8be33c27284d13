// Arithmetic on values of any width.
#include "core/nodes/port_makers.h"

namespace hue {
namespace {

template <Op operation> void lowerOne(Lowering& l) { l.out("out", l.b.op(operation, l.in("in"))); }
template <Op operation> void lowerTwo(Lowering& l) { l.out("out", l.b.op(operation, l.in("in1"), l.in("in2"))); }

} // namespace

void addMathNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Math";
    auto one = [&](std::string_view key, std::string_view name, std::string_view words, std::string_view help, void (*lower)(Lowering&)) {
        list.push_back({key, name, family, words, help, {anyIn("in", 0, "Any value", -2, 2)}, {anyOut()}, {}, lower});
    };
    auto two = [&](std::string_view key, std::string_view name, std::string_view words, std::string_view help, float first, float second,
                   void (*lower)(Lowering&)) {
        list.push_back({key,
                        name,
                        family,
                        words,
                        help,
                        {anyIn("in1", first, "First value", -2, 2), anyIn("in2", second, "Second value", -2, 2)},
                        {anyOut()},
                        {},
                        lower});
    };
    two("add", "Add", "plus sum +", "First plus second.", 0, 0, lowerTwo<Op::Add>);
    two("subtract", "Subtract", "minus difference -", "First minus second.", 0, 0, lowerTwo<Op::Sub>);
    two("multiply", "Multiply", "times product tint scale *", "First times second.", 1, 1, lowerTwo<Op::Mul>);
    two("divide", "Divide", "over quotient ratio /", "First over second. A second value of zero gives an invalid pixel.", 1, 1,
        lowerTwo<Op::Div>);
    two("modulo", "Modulo", "remainder mod wrap repeat %",
        "What remains of first after whole steps of second; never negative for a positive second.", 1, 1, lowerTwo<Op::Modulo>);
    two("power", "Power", "exponent pow gamma ^", "First raised to second. A first value below 0 counts as 0.", 1, 1, lowerTwo<Op::Power>);
    two("minimum", "Minimum", "min smallest least", "The smaller value.", 0, 0, lowerTwo<Op::Min>);
    two("maximum", "Maximum", "max largest greatest", "The larger value.", 0, 0, lowerTwo<Op::Max>);
    list.push_back({"invert",
                    "Invert",
                    family,
                    "one minus complement reverse 1-x",
                    "Amount minus the value.",
                    {anyIn("in", 0, "Any value"), numberIn("amount", 1, "What is subtracted from")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.sub(l.in("amount"), l.in("in"))); }});
    one("absolute_value", "Absolute value", "abs magnitude unsigned", "The value without its sign.", lowerOne<Op::Abs>);
    one("sign", "Sign", "signum positive negative", "1 above 0, -1 below, and 0 at 0.", lowerOne<Op::Sign>);
    one("sine", "Sine", "sin oscillate", "Sine of an angle in radians.", lowerOne<Op::Sin>);
    one("cosine", "Cosine", "cos oscillate", "Cosine of an angle in radians.", lowerOne<Op::Cos>);
    list.push_back({"arctangent_2",
                    "Arctangent 2",
                    family,
                    "atan2 atan angle direction polar",
                    "The angle of a direction in radians, -pi to pi: 0 along x, a quarter turn along y. No direction has the angle 0.",
                    {anyIn("iny", 0, "Along y", -1, 1), anyIn("inx", 1, "Along x", -1, 1)},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.op(Op::Atan2, l.in("iny"), l.in("inx"))); }});
    one("square_root", "Square root", "sqrt root", "Square root; below 0 it gives 0.", lowerOne<Op::Sqrt>);
    one("exponential", "Exponential", "exp e natural growth falloff",
        "e raised to the value: 1 at 0, 2.718 at 1. Beyond what numbers can hold, it stays at the largest.", lowerOne<Op::Exp>);
    one("logarithm", "Logarithm", "log ln natural", "The natural logarithm: what e is raised to. At 0 and below it stays at -87.3.",
        lowerOne<Op::Log>);
    one("floor", "Floor", "round down integer whole", "The whole number at or below.", lowerOne<Op::Floor>);
    one("ceil", "Ceil", "round up integer whole", "The whole number at or above.", lowerOne<Op::Ceil>);
    one("round", "Round", "nearest integer whole posterize", "The nearest whole number; halves go up.",
        [](Lowering& l) { l.out("out", l.b.op(Op::Floor, l.b.add(l.in("in"), l.b.number(0.5f)))); });
    one("fract", "Fract", "fraction frac repeat wrap", "What lies above the whole number below: 0 up to 1.", lowerOne<Op::Fract>);
    one("triangle_wave", "Triangle wave", "zigzag ping pong fold mirror repeat",
        "Runs evenly from 0 at whole numbers to 1 halfway between, and back.", [](Lowering& l) {
            Builder& b = l.b;
            const Val t = b.op(Op::Fract, l.in("in"));
            l.out("out", b.oneMinus(b.op(Op::Abs, b.sub(b.add(t, t), b.number(1)))));
        });
}

} // namespace hue
