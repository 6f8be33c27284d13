#include "core/nodes/port_makers.h"

namespace hue {

void addColorNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Color";
    list.push_back({"luminance",
                    "Luminance",
                    family,
                    "grey brightness luma desaturate",
                    "The brightness of a linear color, by the Rec. 709 weights.",
                    {{"in", 3, Meaning::Color, Value::vec3(0, 0, 0), 0, 1, "A color", {}}},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.luminance(l.in("in"))); }});
    list.push_back({"saturate",
                    "Saturate",
                    family,
                    "desaturate colorfulness vivid grey fade bleach",
                    "Makes a color more or less colorful: 0 is grey, 1 changes nothing. To keep a value between 0 and 1, use Clamp.",
                    {colorIn("in", 0.5f, "A color"), numberIn("amount", 1, "0 is grey; above 1 is more colorful", 0, 2)},
                    {out(3, Meaning::Color)},
                    {},
                    [](Lowering& l) {
                        const Val color = l.in("in");
                        l.out("out", l.b.mix(l.b.luminance(color), color, l.in("amount")));
                    }});
    // Smith, "Color Gamut Transform Pairs", 1978.
    list.push_back(
        {"hsv_adjust",
         "HSV adjust",
         family,
         "hue shift saturation value tint recolor vary",
         "Turns the hue of a color and scales its saturation and value.",
         {colorIn("in", 0.5f, "A color"), numberIn("hue", 0, "Turns of the hue: 1 is all the way round", -0.5f, 0.5f),
          numberIn("saturation", 1, "Times the saturation, which ends at full", 0, 2), numberIn("value", 1, "Times the value", 0, 2)},
         {out(3, Meaning::Color)},
         {},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val c = l.in("in"), red = b.component(c, 0), green = b.component(c, 1), blue = b.component(c, 2);
             const Val most = b.op(Op::Max, red, b.op(Op::Max, green, blue));
             const Val spread = b.sub(most, b.op(Op::Min, red, b.op(Op::Min, green, blue)));
             const Val least = b.number(1e-8f), some = b.op(Op::Max, spread, least);
             const auto sixth = [&](Val from, Val to, float start) { return b.add(b.op(Op::Div, b.sub(from, to), some), b.number(start)); };
             const Val ofBlueOrGreen = b.op(Op::Select, b.greater(most, green), sixth(red, green, 4), sixth(blue, red, 2));
             const Val sixths = b.op(Op::Select, b.greater(most, red), ofBlueOrGreen, sixth(green, blue, 0));
             const Val hue = b.add(b.mul(sixths, b.number(1.f / 6)), l.in("hue"));
             const Val full = b.op(Op::Div, spread, b.op(Op::Max, most, least));
             const Val saturation = b.saturate(b.mul(full, l.in("saturation")));
             const Val around = b.op(Op::Fract, b.add(hue, b.constant(Value::vec3(1, 2.f / 3, 1.f / 3))));
             const Val away = b.op(Op::Abs, b.sub(b.mul(around, b.number(6)), b.number(3)));
             const Val pure = b.saturate(b.sub(away, b.number(1)));
             l.out("out", b.mul(b.mix(b.number(1), pure, saturation), b.mul(most, l.in("value"))));
         }});
    list.push_back({"color_distance",
                    "Color distance",
                    family,
                    "key chroma mask match similar replace",
                    "How far a color is from a chosen one, and a mask of where it is near.",
                    {{"in", 3, Meaning::Color, Value::vec3(0, 0, 0), 0, 1, "A color", {}},
                     {"target", 3, Meaning::Color, Value::vec3(1, 1, 1), 0, 1, "The chosen color", {}},
                     numberIn("tolerance", 0.1f, "Distance up to which the mask is 1"),
                     numberIn("soft edge", 0.05f, "Distance over which the mask falls to 0")},
                    {numberOut("distance"), numberOut("mask")},
                    {{"measure", {"sum", "euclidean"}, "sum", "Sum of absolute differences, or Euclidean distance"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val difference = b.sub(l.in("in"), l.in("target"));
                        const Val distance = l.setting("measure") == "sum"
                                                 ? b.dot(b.op(Op::Abs, difference), b.constant(Value::vec3(1, 1, 1)))
                                                 : b.magnitude(difference);
                        const Val tolerance = l.in("tolerance");
                        // A soft edge of zero would divide by zero in the rise.
                        const Val edge = b.op(Op::Max, l.in("soft edge"), b.number(1e-5f));
                        l.out("distance", distance);
                        l.out("mask", b.oneMinus(b.op(Op::Smooth, distance, tolerance, b.add(tolerance, edge))));
                    }});
}

} // namespace hue
