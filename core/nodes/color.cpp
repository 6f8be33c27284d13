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
