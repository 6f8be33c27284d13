// One color over another, with opacity. Formulas: W3C, "Compositing and Blending Level 1", where it has the operation; else the MaterialX
// standard library. Burn and Dodge keep their limits, so that no color divides by zero.
#include "core/nodes/port_makers.h"

namespace hue {
namespace {

using Over = Val (*)(Builder&, Val b, Val f);

/// Shows by the opacity what two colors give, `b` behind and `f` in front.
template <Over over> void lowerOver(Lowering& l) {
    const Val back = l.in("bg");
    l.out("out", l.b.mix(back, over(l.b, back, l.in("fg")), l.in("mix")));
}

Val plus(Builder& o, Val b, Val f) { return o.add(b, f); }
Val minus(Builder& o, Val b, Val f) { return o.sub(b, f); }
Val difference(Builder& o, Val b, Val f) { return o.op(Op::Abs, o.sub(b, f)); }
Val multiply(Builder& o, Val b, Val f) { return o.mul(b, f); }
Val screen(Builder& o, Val b, Val f) { return o.sub(o.add(b, f), o.mul(b, f)); }
Val overlay(Builder& o, Val b, Val f) {
    const Val twice = o.add(b, b);
    return o.op(Op::Select, o.greater(b, o.number(0.5f)), screen(o, o.sub(twice, o.number(1)), f), o.mul(twice, f));
}
Val least(Builder& o, Val v) { return o.op(Op::Max, v, o.number(1e-6f)); }
Val burn(Builder& o, Val b, Val f) {
    const Val lost = o.op(Op::Div, o.oneMinus(b), least(o, f));
    return o.oneMinus(o.op(Op::Min, lost, o.number(1)));
}
Val dodge(Builder& o, Val b, Val f) { return o.op(Op::Min, o.op(Op::Div, b, least(o, o.oneMinus(f))), o.number(1)); }
Val darken(Builder& o, Val b, Val f) { return o.op(Op::Min, b, f); }
Val lighten(Builder& o, Val b, Val f) { return o.op(Op::Max, b, f); }

} // namespace

void addCompositingNodes(std::vector<NodeDef>& list) {
    const auto over = [&](std::string_view key, std::string_view name, std::string_view words, std::string_view help, float front,
                          void (*lower)(Lowering&)) {
        list.push_back({key,
                        name,
                        "Color",
                        words,
                        help,
                        {colorIn("bg", 0.5f, "The color behind"), colorIn("fg", front, "The color in front"),
                         numberIn("mix", 1, "Opacity: 0 shows the color behind alone")},
                        {out(3, Meaning::Color)},
                        {},
                        lower});
    };
    over("plus", "Plus", "additive glow add light over", "Adds light: the sum of both colors.", 0, lowerOver<plus>);
    over("minus", "Minus", "subtract darken take away over", "Takes light away: behind minus front, which can fall below 0.", 0,
         lowerOver<minus>);
    over("difference", "Difference", "compare absolute distance over", "How far apart the colors are, without sign.", 0,
         lowerOver<difference>);
    over("multiply_over", "Multiply over", "tint shade stain dirt multiply opacity",
         "Darkens like a stain or a glaze: the product of both colors.", 1, lowerOver<multiply>);
    over("screen", "Screen", "lighten project light over", "Lightens as two projectors would: the opposite of Multiply over.", 0,
         lowerOver<screen>);
    over("overlay", "Overlay", "contrast detail grunge hard light over",
         "Multiplies where the color behind is dark, screens where it is light: detail that keeps the ground's tone.", 0.5f,
         lowerOver<overlay>);
    over("burn", "Burn", "color burn char darken over", "Darkens and deepens: the darker the front, the more of what is behind is lost.", 1,
         lowerOver<burn>);
    over("dodge", "Dodge", "color dodge burn out lighten over",
         "Lightens and bleaches: the lighter the front, the sooner what is behind is white.", 0, lowerOver<dodge>);
    over("darken", "Darken", "minimum darker over", "The darker of both, component by component.", 1, lowerOver<darken>);
    over("lighten", "Lighten", "maximum lighter over", "The lighter of both, component by component.", 0, lowerOver<lighten>);
}

} // namespace hue
