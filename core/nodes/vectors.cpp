// Vectors: lengths, directions, taking apart and putting together.
#include "core/nodes/port_makers.h"

#include <algorithm>

namespace hue {

void addVectorNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Vectors";
    const PortDef vectorIn = anyIn("in", 0, "Any value", -1, 1);
    list.push_back({"dot_product",
                    "Dot product",
                    family,
                    "scalar projection angle between",
                    "How far two vectors point the same way.",
                    {anyIn("in1", 0, "First vector", -1, 1), anyIn("in2", 0, "Second vector", -1, 1)},
                    {numberOut()},
                    {},
                    [](Lowering& l) {
                        const Val a = l.in("in1"), b = l.in("in2");
                        const int width = std::max(l.b.width(a), l.b.width(b));
                        l.out("out", l.b.dot(l.b.spread(a, width), l.b.spread(b, width)));
                    }});
    list.push_back({"normalize",
                    "Normalize",
                    family,
                    "unit length direction",
                    "The same direction with length 1. A zero vector stays zero.",
                    {vectorIn},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.normalize(l.in("in"))); }});
    list.push_back(
        {"magnitude", "Magnitude", family, "length size norm", "The length of a vector.", {vectorIn}, {numberOut()}, {}, [](Lowering& l) {
             l.out("out", l.b.magnitude(l.in("in")));
         }});
    list.push_back({"distance",
                    "Distance",
                    family,
                    "length between far radius",
                    "The length of the difference of two vectors.",
                    {anyIn("in1", 0, "From", -1, 1), anyIn("in2", 0, "To", -1, 1)},
                    {numberOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.magnitude(l.b.sub(l.in("in1"), l.in("in2")))); }});
    list.push_back({"separate",
                    "Separate",
                    family,
                    "split components channels break unpack extract",
                    "Each component of a vector or color on its own.",
                    {vectorIn},
                    {numberOut("r", "First component (x)"), numberOut("g", "Second component (y)"), numberOut("b", "Third component (z)"),
                     numberOut("a", "Fourth component (w)")},
                    {},
                    [](Lowering& l) {
                        const Val v = l.in("in");
                        static constexpr std::string_view ports[] = {"r", "g", "b", "a"};
                        for (int i = 0; i < l.b.width(v); ++i) l.out(ports[i], l.b.component(v, i));
                    }});
    list.push_back({"combine",
                    "Combine",
                    family,
                    "append make join vector components pack",
                    "Puts numbers together to a vector.",
                    {numberIn("r", 0, "First component (x)"), numberIn("g", 0, "Second component (y)"),
                     numberIn("b", 0, "Third component (z)"), numberIn("a", 1, "Fourth component (w)")},
                    {anyOut()},
                    {{"components", {"2", "3", "4"}, "3", "How many components"}},
                    [](Lowering& l) {
                        if (l.setting("components") == "2") l.out("out", l.b.compose({l.in("r"), l.in("g")}));
                        else if (l.setting("components") == "4") l.out("out", l.b.compose({l.in("r"), l.in("g"), l.in("b"), l.in("a")}));
                        else l.out("out", l.b.compose({l.in("r"), l.in("g"), l.in("b")}));
                    }});
}

} // namespace hue
