// What moves.
#include "core/nodes/port_makers.h"

namespace hue {

void addTimeNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "UV and time";
    list.push_back({"scroll",
                    "Scroll",
                    family,
                    "pan animate move flow uv speed",
                    "UVs that move with time. The offset wraps at 1, so it stays exact after hours.",
                    {uvIn(), {"speed", 2, Meaning::Vector, Value::vec2(0.1f, 0), -2, 2, "UV units per second", "/s"}},
                    {out(2, Meaning::Uv)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.add(l.in("uv"), l.b.op(Op::Phase, l.in("speed")))); }});
    list.push_back(
        {"time", "Time", family, "seconds clock animate", "Seconds since the start of the loop.", {}, {numberOut()}, {}, [](Lowering& l) {
             l.out("out", l.b.time());
         }});
    list.push_back(
        {"wave",
         "Wave",
         family,
         "oscillate pulse sine triangle square saw sawtooth blink swell",
         "Swings between low and high, once per period of time or of a value.",
         {numberIn("in", 0, "Read when the wave is of a value", 0, 1),
          numberIn("frequency", 1, "Swings per second, or per unit of the value", 0, 8), numberIn("phase", 0, "Shift in swings", 0, 1),
          numberIn("low", 0, "Lowest result"), numberIn("high", 1, "Highest result")},
         {numberOut()},
         {{"shape", {"sine", "triangle", "square", "saw"}, "sine", "Shape"}, {"of", {"time", "value"}, "time", "What drives it"}},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val frequency = l.in("frequency");
             const Val turns = l.setting("of") == "time" ? b.op(Op::Phase, frequency) : b.mul(l.in("in"), frequency);
             const Val t = b.op(Op::Fract, b.add(turns, l.in("phase")));
             Val w;
             if (l.setting("shape") == "sine") {
                 // Starts at the lowest result, as the other shapes do.
                 const Val angle = b.mul(b.sub(t, b.number(0.25f)), b.number(6.283185307f));
                 w = b.add(b.mul(b.op(Op::Sin, angle), b.number(0.5f)), b.number(0.5f));
             } else if (l.setting("shape") == "triangle") {
                 w = b.oneMinus(b.op(Op::Abs, b.sub(b.mul(t, b.number(2)), b.number(1))));
             } else if (l.setting("shape") == "square") {
                 w = b.oneMinus(b.op(Op::Less, t, b.number(0.5f)));
             } else {
                 w = t;
             }
             l.out("out", b.mix(l.in("low"), l.in("high"), w));
         }});
    list.push_back(
        {"flicker",
         "Flicker",
         family,
         "blink irregular random light failing strobe",
         "Jumps between two values at irregular moments; the same seed blinks the same way again.",
         {numberIn("rate", 8, "Possible jumps a second", 0.1f, 30, "/s"), numberIn("share", 0.7f, "Share of the time at the high value"),
          numberIn("seed", 0, "Another number blinks in another way", 0, 100), numberIn("low", 0, "Value while off", 0, 1),
          numberIn("high", 1, "Value while on", 0, 1)},
         {numberOut()},
         {},
         [](Lowering& l) {
             Builder& b = l.b;
             // Counted from a phase in double precision, so that it stays exact; after 4096 possible jumps it begins again.
             const Val round = b.number(4096);
             const Val step = b.op(Op::Floor, b.mul(b.op(Op::Phase, b.op(Op::Div, l.in("rate"), round)), round));
             const Val dice = b.cell2(b.compose({step, b.add(b.mul(l.in("seed"), b.number(17)), b.number(0.5f))}));
             l.out("out", b.mix(l.in("low"), l.in("high"), b.op(Op::Less, dice, l.in("share"))));
         }});
}

} // namespace hue
