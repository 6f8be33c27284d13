// What depends on where one looks from, or where a face looks.
#include "core/nodes/port_makers.h"

namespace hue {
namespace {

Val facing(Lowering& l) { return l.b.op(Op::Min, l.b.op(Op::Abs, l.b.dot(l.in("normal"), l.b.attribute(Attribute::View))), l.b.number(1)); }

} // namespace

void addViewNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "View";
    list.push_back({"view_direction",
                    "View direction",
                    family,
                    "camera eye incident",
                    "From the point to the eye, world space, unit length.",
                    {},
                    {out(3, Meaning::Direction)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.attribute(Attribute::View)); }});
    list.push_back({"facing_ratio",
                    "Facing ratio",
                    family,
                    "rim angle ndotv edge",
                    "1 where the surface faces the eye, 0 at its outline.",
                    {normalIn()},
                    {numberOut()},
                    {{"invert", {"off", "on"}, "off", "1 at the outline instead"}},
                    [](Lowering& l) {
                        const Val f = facing(l);
                        l.out("out", l.setting("invert") == "on" ? l.b.oneMinus(f) : f);
                    }});
    list.push_back({"front_or_back",
                    "Front or back",
                    family,
                    "side facing two double backface lining underside",
                    "One value where the front of a face is seen, another where its back is. For surfaces that show both sides.",
                    {anyIn("front", 1, "Seen from the front"), anyIn("back", 0, "Seen from behind")},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.b.op(Op::Select, l.b.attribute(Attribute::Side), l.in("front"), l.in("back"))); }});
    // Schlick, "An Inexpensive BRDF Model for Physically-based Rendering", 1994.
    list.push_back({"fresnel",
                    "Fresnel",
                    family,
                    "schlick rim edge glow reflect",
                    "Grows towards the outline: as reflection does for an index of refraction, or by a power.",
                    {normalIn(), numberIn("index", 1.5f, "Index of refraction", 1, 3),
                     numberIn("power", 5, "Higher keeps it nearer to the outline", 0.1f, 16)},
                    {numberOut()},
                    {{"by", {"index", "power"}, "index", "What gives the curve"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val grazing = b.oneMinus(facing(l));
                        if (l.setting("by") == "power") return l.out("out", b.op(Op::Power, grazing, l.in("power")));
                        const Val n = l.in("index");
                        const Val r = b.op(Op::Div, b.sub(n, b.number(1)), b.add(n, b.number(1)));
                        const Val f0 = b.mul(r, r);
                        l.out("out", b.mix(f0, b.number(1), b.op(Op::Power, grazing, b.number(5))));
                    }});
    list.push_back({"facing_axis",
                    "Facing axis",
                    family,
                    "slope up direction dust snow moss mask",
                    "A mask of the faces that look along a direction.",
                    {normalIn(),
                     {"axis", 3, Meaning::Direction, Value::vec3(0, 1, 0), -1, 1, "World-space direction; Y is up", {}},
                     numberIn("low", 0.3f, "Cosine of the angle where the mask starts", -1, 1),
                     numberIn("high", 0.8f, "Cosine where it is full", -1, 1)},
                    {numberOut()},
                    {},
                    [](Lowering& l) {
                        const Val cosine = l.b.dot(l.in("normal"), l.b.normalize(l.in("axis")));
                        l.out("out", l.b.op(Op::Smooth, cosine, l.in("low"), l.in("high")));
                    }});
    list.push_back({"nap",
                    "Nap",
                    family,
                    "fabric cloth velvet felt fuzz two tone",
                    "The two tones of a pile: one seen face-on, one at the outline.",
                    {normalIn(),
                     {"face", 3, Meaning::Color, Value::vec3(0.2f, 0.2f, 0.2f), 0, 1, "Tone seen face-on", {}},
                     {"grazing", 3, Meaning::Color, Value::vec3(0.5f, 0.5f, 0.5f), 0, 1, "Tone at the outline", {}},
                     numberIn("spread", 0.4f, "How far the tone of the outline reaches inward")},
                    {out(3, Meaning::Color)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const Val power = b.mix(b.number(8), b.number(1), l.in("spread"));
                        l.out("out", b.mix(l.in("face"), l.in("grazing"), b.op(Op::Power, b.oneMinus(facing(l)), power)));
                    }});
    list.push_back({"depth_gap",
                    "Depth gap",
                    family,
                    "soft border intersection depth fade water foam behind distance",
                    "Metres along the line of sight from here to what lies behind; only for surfaces that let light through.",
                    {},
                    {out(1, Meaning::Number, "out", "1000 where nothing lies behind")},
                    {},
                    [](Lowering& l) { l.out("out", l.b.attribute(Attribute::DepthGap)); }});
    list.push_back({"behind_color",
                    "Behind color",
                    family,
                    "background scene refraction blur",
                    "The light that comes from behind the surface, shifted on the screen and blurred.",
                    {{"offset", 2, Meaning::Vector, Value::vec2(0, 0), -0.2f, 0.2f, "Shift in parts of the picture's width and height", {}},
                     numberIn("blur", 0, "0 is sharp, 1 the whole picture's average")},
                    {out(3, Meaning::Color)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.behind(l.in("offset"), l.in("blur"))); }});
    list.push_back({"screen_position",
                    "Screen position",
                    family,
                    "screen uv window pixel",
                    "Where the pixel lies in the picture: 0 to 1 from the top left.",
                    {},
                    {out(2, Meaning::Uv)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.attribute(Attribute::Screen)); }});
    list.push_back({"surroundings",
                    "Surroundings",
                    family,
                    "environment reflection cube sky light",
                    "The light that arrives from a direction, as a surface of some roughness mirrors it.",
                    {{"direction", 3, Meaning::Direction, Value::vec3(0, 1, 0), -1, 1, "World space; Y is up", {}},
                     numberIn("roughness", 0.2f, "0 is sharp")},
                    {out(3, Meaning::Color)},
                    {},
                    [](Lowering& l) { l.out("out", l.b.around(l.in("direction"), l.in("roughness"))); }});
}

} // namespace hue
