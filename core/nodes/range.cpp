// Limits, ranges, thresholds and choices between values.
#include "core/nodes/port_makers.h"

namespace hue {

void addRangeNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Ranges and masks";
    list.push_back({"mix",
                    "Mix",
                    family,
                    "lerp blend interpolate linear crossfade",
                    "From background (mix 0) to foreground (mix 1).",
                    {anyIn("bg", 0, "Background, shown where mix is 0"), anyIn("fg", 1, "Foreground, shown where mix is 1"),
                     numberIn("mix", 0.5f, "How much of the foreground")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.mix(l.in("bg"), l.in("fg"), l.in("mix"))); }});
    list.push_back({"clamp",
                    "Clamp",
                    family,
                    "limit saturate restrict bounds",
                    "Keeps a value between low and high.",
                    {anyIn("in", 0, "Any value"), numberIn("low", 0, "Lowest result"), numberIn("high", 1, "Highest result")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.op(Op::Clamp, l.in("in"), l.in("low"), l.in("high"))); }});
    list.push_back(
        {"remap",
         "Remap",
         family,
         "range fit map scale bias levels",
         "Maps one range onto another. Goes on beyond both ends unless limited.",
         {anyIn("in", 0, "Any value"), numberIn("inlow", 0, "Low end of the value"), numberIn("inhigh", 1, "High end of the value"),
          numberIn("outlow", 0, "Result at the low end"), numberIn("outhigh", 1, "Result at the high end")},
         {anyOut()},
         {{"limit", {"off", "on"}, "off", "Stay between the ends"}},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val low = l.in("inlow");
             Val t = b.op(Op::Div, b.sub(l.in("in"), low), b.sub(l.in("inhigh"), low));
             if (l.setting("limit") == "on") t = b.saturate(t);
             l.out("out", b.mix(l.in("outlow"), l.in("outhigh"), t));
         }});
    list.push_back({"step",
                    "Step",
                    family,
                    "threshold cutoff hard edge",
                    "0 below the edge, 1 from it on.",
                    {anyIn("in", 0, "Any value"), numberIn("edge", 0.5f, "Where it switches")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.oneMinus(l.b.op(Op::Less, l.in("in"), l.in("edge")))); }});
    list.push_back({"smoothstep",
                    "Smoothstep",
                    family,
                    "smooth threshold soft edge ramp s-curve",
                    "0 below low, 1 above high, an even rise between.",
                    {anyIn("in", 0, "Any value"), numberIn("low", 0, "Where the rise starts"), numberIn("high", 1, "Where it ends")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.op(Op::Smooth, l.in("in"), l.in("low"), l.in("high"))); }});
    list.push_back(
        {"contrast",
         "Contrast",
         family,
         "levels sharpen gain",
         "Moves values away from a pivot (amount above 1) or towards it.",
         {anyIn("in", 0, "Any value"), numberIn("amount", 1, "1 changes nothing", 0, 8), numberIn("pivot", 0.5f, "The value that stays")},
         {anyOut()},
         {},
         [](Lowering& l) {
             const Val pivot = l.in("pivot");
             l.out("out", l.b.add(l.b.mul(l.b.sub(l.in("in"), pivot), l.in("amount")), pivot));
         }});
    list.push_back({"if_greater",
                    "If greater",
                    family,
                    "compare condition branch select choose >",
                    "in1 where value1 is greater than value2, else in2.",
                    {numberIn("value1", 1, "Compared"), numberIn("value2", 0, "Compared with"), anyIn("in1", 1, "Where value1 is greater"),
                     anyIn("in2", 0, "Elsewhere")},
                    {anyOut()},
                    {},
                    [](Lowering& l) {
                        const Val greater = l.b.op(Op::Less, l.in("value2"), l.in("value1"));
                        l.out("out", l.b.op(Op::Select, greater, l.in("in1"), l.in("in2")));
                    }});
}

} // namespace hue
