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
    const auto direction = [](std::string_view key, std::string_view help, Unwired unwired = Unwired::Constant) {
        return PortDef{key, 3, Meaning::Any, Value::vec3(0, 0, 1), -1, 1, help, {}, unwired};
    };
    list.push_back({"cross_product",
                    "Cross product",
                    family,
                    "perpendicular normal vector right angle",
                    "The direction at right angles to two others; as long as the area that they span.",
                    {{"in1", 3, Meaning::Any, Value::vec3(1, 0, 0), -1, 1, "First vector", {}},
                     {"in2", 3, Meaning::Any, Value::vec3(0, 1, 0), -1, 1, "Second vector", {}}},
                    {out(3, Meaning::Vector)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.cross(l.in("in1"), l.in("in2"))); }});
    list.push_back({"reflect",
                    "Reflect",
                    family,
                    "mirror bounce reflection vector",
                    "A direction thrown back by a surface, as by a mirror.",
                    {direction("in", "Direction towards the surface; the line of sight when nothing is wired", Unwired::Sight), normalIn()},
                    {out(3, Meaning::Direction)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val in = l.in("in"), normal = l.in("normal");
                        l.out("out", b.sub(in, b.mul(normal, b.mul(b.dot(in, normal), b.number(2)))));
                    }});
    // Snell's law; GLSL 4.1, 8.5 gives the same vector.
    list.push_back({"refract",
                    "Refract",
                    family,
                    "bend glass water index refraction vector snell",
                    "A direction bent as it enters a surface. Where nothing gets through, it is zero.",
                    {direction("in", "Direction towards the surface, of length 1; the line of sight when nothing is wired", Unwired::Sight),
                     normalIn(), numberIn("index", 1.5f, "Index of refraction of what is entered, over that outside", 0.5f, 3)},
                    {out(3, Meaning::Direction)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val in = l.in("in"), normal = l.in("normal"), ratio = b.op(Op::Div, b.number(1), l.in("index"));
                        const Val along = b.dot(in, normal);
                        const Val rest = b.oneMinus(b.mul(b.mul(ratio, ratio), b.oneMinus(b.mul(along, along))));
                        const Val bent = b.sub(b.mul(in, ratio), b.mul(normal, b.add(b.mul(ratio, along), b.op(Op::Sqrt, rest))));
                        l.out("out", b.op(Op::Select, b.op(Op::Less, rest, b.number(0)), b.number(0), bent));
                    }});
    // Rodrigues' formula.
    list.push_back({"rotate_3d",
                    "Rotate 3D",
                    family,
                    "turn spin axis angle vector",
                    "Turns a vector about an axis through the origin; counterclockwise when the axis points at you.",
                    {direction("in", "A vector or point"),
                     numberIn("amount", 0, "Angle", -180, 180, "\u00B0"),
                     {"axis", 3, Meaning::Any, Value::vec3(0, 1, 0), -1, 1, "Axis, of any length", {}}},
                    {out(3, Meaning::Any)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val angle = b.mul(l.in("amount"), b.number(0.0174532925f)), c = b.op(Op::Cos, angle),
                                  s = b.op(Op::Sin, angle);
                        const Val in = l.in("in"), axis = b.normalize(l.in("axis"));
                        const Val along = b.mul(axis, b.mul(b.dot(axis, in), b.oneMinus(c)));
                        l.out("out", b.add(b.add(b.mul(in, c), b.mul(b.cross(axis, in), s)), along));
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
                    },
                    [](const Node& node, std::string_view port) {
                        const auto components = node.settings.find("components");
                        const std::string_view count = components == node.settings.end() ? "3" : std::string_view(components->second);
                        return !(port == "b" && count == "2") && !(port == "a" && count != "4");
                    }});
}

} // namespace hue
