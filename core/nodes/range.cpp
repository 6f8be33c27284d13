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
    list.push_back(
        {"ramp",
         "Ramp",
         family,
         "gradient color stops map curve palette",
         "Runs through two to four values as a number grows, each reached at its position.",
         {numberIn("in", 0.5f, "Where on the ramp"), anyIn("value1", 0, "Value at the first position"),
          anyIn("value2", 1, "Value at the second"), anyIn("value3", 1, "Value at the third, when there is one"),
          anyIn("value4", 1, "Value at the fourth, when there is one"), numberIn("position1", 0, "Position of the first value"),
          numberIn("position2", 1, "Of the second"), numberIn("position3", 1, "Of the third"), numberIn("position4", 1, "Of the fourth")},
         {anyOut()},
         {{"stops", {"2", "3", "4"}, "2", "How many values"},
          {"between", {"even", "smooth"}, "even", "How values go over into each other"}},
         [](Lowering& l) {
             Builder& b = l.b;
             static constexpr std::string_view values[] = {"value1", "value2", "value3", "value4"};
             static constexpr std::string_view positions[] = {"position1", "position2", "position3", "position4"};
             const int stops = l.setting("stops")[0] - '0';
             Val result = l.in(values[0]);
             const Val at = l.in("in");
             for (int k = 1; k < stops; ++k) {
                 const Val from = l.in(positions[k - 1]), to = l.in(positions[k]);
                 Val t;
                 if (l.setting("between") == "smooth") {
                     t = b.op(Op::Smooth, at, from, to);
                 } else {
                     // Two values at one position make a hard step.
                     const Val span = b.op(Op::Max, b.sub(to, from), b.number(1e-5f));
                     t = b.saturate(b.op(Op::Div, b.sub(at, from), span));
                 }
                 result = b.mix(result, l.in(values[k]), t);
             }
             l.out("out", result);
         }});
    list.push_back({"split",
                    "Split",
                    family,
                    "two halves side ramp left right top bottom edge divide",
                    "Two values side by side with an edge between: a two-sided ramp. To take a vector apart, use Separate.",
                    {anyIn("value1", 0, "Left or above"), anyIn("value2", 1, "Right or below"),
                     numberIn("center", 0.5f, "Where the edge lies"), numberIn("soft edge", 0.002f, "Width of the edge", 0, 0.5f), uvIn()},
                    {anyOut()},
                    {{"direction", {"left right", "top bottom"}, "left right", "Which way"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val at = b.component(l.in("uv"), l.setting("direction") == "left right" ? 0 : 1);
                        const Val half = b.mul(b.op(Op::Max, l.in("soft edge"), b.number(1e-5f)), b.number(0.5f)), center = l.in("center");
                        l.out("out", b.mix(l.in("value1"), l.in("value2"), b.op(Op::Smooth, at, b.sub(center, half), b.add(center, half))));
                    }});
}

} // namespace hue
