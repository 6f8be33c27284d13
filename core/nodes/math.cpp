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
    one("sine", "Sine", "sin oscillate", "Sine of an angle in radians.", lowerOne<Op::Sin>);
    one("square_root", "Square root", "sqrt root", "Square root; below 0 it gives 0.", lowerOne<Op::Sqrt>);
    one("floor", "Floor", "round down integer whole", "The whole number at or below.", lowerOne<Op::Floor>);
    one("fract", "Fract", "fraction frac repeat wrap", "What lies above the whole number below: 0 up to 1.", lowerOne<Op::Fract>);
}

} // namespace hue
