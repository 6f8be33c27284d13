// Limits, ranges, thresholds and choices between values.
#include "core/nodes/finish.h"
#include "core/nodes/port_makers.h"

namespace hue {
namespace {

/// How far a value lies on the way from inlow to inhigh; between 0 and 1 where it is limited.
Val shareOfRange(Lowering& l) {
    const Val low = l.in("inlow");
    const Val share = l.b.op(Op::Div, l.b.sub(l.in("in"), low), l.b.sub(l.in("inhigh"), low));
    return l.setting("limit") == "on" ? l.b.saturate(share) : share;
}

} // namespace

void addRangeNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Ranges and masks";
    list.push_back({"mix",
                    "Mix",
                    family,
                    "lerp blend interpolate linear crossfade finish",
                    "From background (mix 0) to foreground (mix 1). Between two finishes it mixes all that they are made of.",
                    {withFinishes(anyIn("bg", 0, "Background, shown where mix is 0")),
                     withFinishes(anyIn("fg", 1, "Foreground, shown where mix is 1")), numberIn("mix", 0.5f, "How much of the foreground")},
                    {withFinishes(anyOut())},
                    {hiddenSetting()},
                    [](Lowering& l) {
                        if (l.bringsFinish("bg") || l.bringsFinish("fg"))
                            return l.outFinish("out", mixed(l.b, l.finish("bg"), l.finish("fg"), l.in("mix"), hiddenBy(l)));
                        l.out("out", l.b.mix(l.in("bg"), l.in("fg"), l.in("mix")));
                    }});
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
         [](Lowering& l) { l.out("out", l.b.mix(l.in("outlow"), l.in("outhigh"), shareOfRange(l))); }});
    list.push_back(
        {"range",
         "Range",
         family,
         "levels gamma remap fit",
         "Maps one range onto another with a gamma between: what levels do to a picture.",
         {anyIn("in", 0, "Any value"), numberIn("inlow", 0, "Low end of the value"), numberIn("inhigh", 1, "High end of the value"),
          numberIn("gamma", 1, "Above 1 lifts the middle, below 1 lowers it", 0.1f, 8), numberIn("outlow", 0, "Result at the low end"),
          numberIn("outhigh", 1, "Result at the high end")},
         {anyOut()},
         {{"limit", {"off", "on"}, "off", "Stay between the ends"}},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val t = shareOfRange(l);
             // A root keeps the sign, so that what leaves the range does not end at it.
             const Val root = b.op(Op::Power, b.op(Op::Abs, t), b.op(Op::Div, b.number(1), l.in("gamma")));
             l.out("out", b.mix(l.in("outlow"), l.in("outhigh"), b.mul(b.op(Op::Sign, t), root)));
         }});
    list.push_back({"inverse_mix",
                    "Inverse mix",
                    family,
                    "inverse lerp unmix fraction where between",
                    "Where a value lies between background (0) and foreground (1): what Mix would need to give it.",
                    {anyIn("bg", 0, "Gives 0"), anyIn("fg", 1, "Gives 1"), anyIn("in", 0.5f, "The value")},
                    {anyOut()},
                    {},
                    [](Lowering& l) {
                        const Val bg = l.in("bg");
                        l.out("out", l.b.op(Op::Div, l.b.sub(l.in("in"), bg), l.b.sub(l.in("fg"), bg)));
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
         },
         [](const Node& node, std::string_view port) {
             const auto stops = node.settings.find("stops");
             const char most = stops == node.settings.end() || stops->second.empty() ? '2' : stops->second[0];
             return port == "in" || port.back() <= most;
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
    list.push_back({"height_band",
                    "Height band",
                    family,
                    "altitude level strip zone mask gradient splash grime waterline",
                    "A mask of what lies between two heights, with soft edges inside.",
                    {{"position", 3, Meaning::Position, Value::vec3(0, 0, 0), -1, 1, "A point; on the object when nothing is wired", "m",
                      Unwired::PositionObject},
                     numberIn("low", 0, "Where the band starts", -2, 2, "m"),
                     numberIn("high", 0.5f, "Where it ends", -2, 2, "m"),
                     numberIn("soft edge", 0.1f, "How far in it takes to be full", 0, 1, "m")},
                    {numberOut()},
                    {{"axis", {"y", "x", "z"}, "y", "Measured along which axis; y is up"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const int axis = l.setting("axis") == "y" ? 1 : l.setting("axis") == "x" ? 0 : 2;
                        const Val at = b.component(l.in("position"), axis), low = l.in("low"), high = l.in("high");
                        const Val edge = b.op(Op::Max, l.in("soft edge"), b.number(1e-5f));
                        const Val rises = b.op(Op::Smooth, at, low, b.add(low, edge));
                        const Val falls = b.op(Op::Smooth, at, b.sub(high, edge), high);
                        l.out("out", b.mul(rises, b.oneMinus(falls)));
                    }});
    list.push_back(
        {"height_blend",
         "Height blend",
         family,
         "border displacement layer interlock blend",
         "Sharpens a mask by two heights, so that the higher surface wins where both meet: sand fills the joints first. 0 and 1 stay.",
         {numberIn("mix", 0.5f, "The mask: 0 shows the background, 1 the foreground"),
          numberIn("bgheight", 0.5f, "Height of the background, 0 to 1"), numberIn("fgheight", 0.5f, "Height of the foreground, 0 to 1"),
          numberIn("soft edge", 0.2f, "Range of heights over which both are seen", 0.01f, 1)},
         {numberOut()},
         {},
         [](Lowering& l) {
             const Val mask = l.in("mix"), back = l.in("bgheight"), front = l.in("fgheight");
             l.out("out", sharpenedByHeights(l.b, mask, back, front, l.in("soft edge")));
         }});
}

} // namespace hue
