// Moving UVs about.
#include "core/nodes/port_makers.h"

namespace hue {

constexpr float kDegree = 0.017453292519943295f;

void addUvNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "UV and time";
    list.push_back({"place_2d",
                    "Place 2D",
                    family,
                    "tiling transform scale rotate offset uv repeat tile",
                    "Tiles or scales, then rotates UVs about a pivot, then moves them. As all cards that place maps: a tiling of 4 shows a "
                    "map four times across, a scale of 4 four times as large, and an offset moves it towards larger U and V.",
                    {uvIn(),
                     {"tiling", 2, Meaning::Vector, Value::vec2(1, 1), 0, 16, "How often a map repeats across; one number sets both", {}},
                     {"scale", 2, Meaning::Vector, Value::vec2(1, 1), 0.01f, 8, "How large a map shows; one number sets both", {}},
                     numberIn("rotate", 0, "Turn of the UVs", -180, 180, "\u00B0"),
                     {"offset", 2, Meaning::Vector, Value::vec2(0, 0), -1, 1, "In repetitions, taken off last", {}},
                     {"pivot", 2, Meaning::Uv, Value::vec2(0, 0), 0, 1, "The point that tiling, scale and rotation leave in place", {}}},
                    {out(2, Meaning::Uv)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val pivot = l.in("pivot");
                        const Val p = b.op(Op::Div, b.mul(b.sub(l.in("uv"), pivot), l.in("tiling")), l.in("scale"));
                        const Val angle = b.mul(l.in("rotate"), b.number(kDegree));
                        const Val s = b.op(Op::Sin, angle);
                        const Val c = b.op(Op::Sin, b.add(angle, b.number(90 * kDegree)));
                        const Val x = b.component(p, 0), y = b.component(p, 1);
                        const Val turned = b.compose({b.sub(b.mul(x, c), b.mul(y, s)), b.add(b.mul(x, s), b.mul(y, c))});
                        l.out("out", b.add(b.sub(turned, l.in("offset")), pivot));
                    }});
    list.push_back(
        {"rotate_2d",
         "Rotate 2D",
         family,
         "turn spin angle vector uv",
         "Turns a vector of two components about the origin.",
         {{"in", 2, Meaning::Any, Value::vec2(1, 0), -1, 1, "A vector or UV", {}}, numberIn("amount", 0, "Angle", -180, 180, "\u00B0")},
         {out(2, Meaning::Any)},
         {},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val angle = b.mul(l.in("amount"), b.number(kDegree));
             const Val s = b.op(Op::Sin, angle), c = b.op(Op::Cos, angle);
             const Val v = l.in("in"), x = b.component(v, 0), y = b.component(v, 1);
             l.out("out", b.compose({b.sub(b.mul(x, c), b.mul(y, s)), b.add(b.mul(x, s), b.mul(y, c))}));
         }});
}

} // namespace hue
