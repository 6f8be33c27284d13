// What lies on a surface in one place: where it is projected to, and how it joins what is beneath.
#include "core/nodes/finish.h"
#include "core/nodes/port_makers.h"
#include "core/nodes/spaces.h"

#include <algorithm>
#include <numbers>

namespace hue {
namespace {

constexpr float kDegree = float(std::numbers::pi) / 180;

Val cosine(Builder& b, Val degrees) { return b.op(Op::Cos, b.mul(degrees, b.number(kDegree))); }

/// The axes of the box in object space, of length 1: the picture's right, its up, and out of the surface.
struct BoxAxes {
    Val across, up, out;
};

/// As decalAxes() of core/decals/decal_box.h: up is up, or away from the viewer on what lies flat, before the box is turned.
BoxAxes axesOf(Lowering& l) {
    Builder& b = l.b;
    const Val out = b.normalize(l.in("facing"));
    const Val lying = b.greater(b.op(Op::Abs, b.component(out, 1)), b.number(0.999f));
    const Val reference = b.mix(b.constant(Value::vec3(0, 1, 0)), b.constant(Value::vec3(0, 0, -1)), lying);
    const Val right = b.normalize(b.cross(reference, out)), above = b.cross(out, right);
    const Val angle = b.mul(l.in("turn"), b.number(kDegree)), c = b.op(Op::Cos, angle), s = b.op(Op::Sin, angle);
    return {b.add(b.mul(right, c), b.mul(above, s)), b.sub(b.mul(above, c), b.mul(right, s)), out};
}

void lowerBox(Lowering& l) {
    Builder& b = l.b;
    const BoxAxes box = axesOf(l);
    const Val from = b.sub(l.in("position"), l.in("middle"));
    const Val size = l.in("size"), half = b.number(0.5f), one = b.number(1);
    const Val u = b.op(Op::Div, b.dot(from, box.across), b.component(size, 0));
    const Val v = b.op(Op::Div, b.dot(from, box.up), b.component(size, 1));
    l.out("uv", b.compose({b.add(u, half), b.sub(half, v)}));

    const auto within = [&](Val x) { return b.oneMinus(b.greater(b.op(Op::Abs, x), half)); };
    const Val deep = b.op(Op::Abs, b.op(Op::Div, b.dot(from, box.out), b.mul(l.in("depth"), half)));
    const Val byDepth = b.saturate(b.op(Op::Div, b.sub(one, deep), b.op(Op::Max, l.in("depth fade"), b.number(1e-4f))));
    const Val outward = b.normalize(vectorToWorld(b, box.out, Space::Object));
    const Val begins = cosine(b, l.in("fade from")), gone = cosine(b, l.in("fade to"));
    const Val facing = b.dot(b.attribute(Attribute::NormalWorld), outward);
    // What looks exactly along the surface is not projected on it, whatever the angles.
    const Val least = b.op(Op::Max, gone, b.number(1e-3f));
    const Val byAngle = b.saturate(b.op(Op::Div, b.sub(facing, least), b.op(Op::Max, b.sub(begins, least), b.number(1e-4f))));
    // Beside the box nobody asks how deep it is.
    const Val inside = b.mul(within(u), within(v));
    l.out("cover", b.mul(inside, seenAbove0(b, b.mul(byDepth, byAngle), inside, Hidden::Skipped)));

    // A negative width is a mirror, and what is seen in it leans the other way.
    const Val handed = b.op(Op::Sign, b.component(size, 0));
    l.out("across", b.mul(b.normalize(vectorToWorld(b, box.across, Space::Object)), handed));
    l.out("up", b.normalize(vectorToWorld(b, box.up, Space::Object)));
}

/// The normal of a picture that lies along `across` and `up` on the surface, turned into the frame of the normal beneath (Barre-Brisebois
/// and Hill, "Blending in Detail", 2012). `over` was computed in the frame of the mesh.
/// Where `place` is 0 nobody looks at it.
Val joinedNormals(Builder& b, Val beneath, Val over, Val across, Val up, Val weight, Val place, Hidden hidden) {
    if (b.isAttribute(over, Attribute::NormalWorld)) return beneath;
    const Val n = b.attribute(Attribute::NormalWorld);
    const Val straight = b.op(Op::Max, b.dot(over, n), b.number(1e-3f));
    const auto leans = [&](Attribute axis) { return b.mul(b.op(Op::Div, b.dot(over, b.attribute(axis)), straight), weight); };
    const auto lying = [&](Val axis) { return b.normalize(b.sub(axis, b.mul(n, b.dot(axis, n)))); };
    const Val sideways = b.mul(lying(across), leans(Attribute::TangentWorld)), upward = b.mul(lying(up), leans(Attribute::BitangentWorld));
    const Val away = seenAbove0(b, b.add(sideways, upward), place, hidden);
    if (b.isAttribute(beneath, Attribute::NormalWorld)) return b.normalize(b.add(n, away));
    const Val t = b.add(beneath, n), u = b.sub(n, away);
    // A ground that looks away from its surface has no frame; just above keeps it defined.
    const Val z = b.op(Op::Max, b.dot(t, n), b.number(1e-4f));
    return b.normalize(b.sub(b.mul(t, b.op(Op::Div, b.dot(t, u), z)), u));
}

/// The channels that a decal has weights for, and their shares.
std::string_view weightOf(std::string_view part) {
    if (part == "emissive_strength") return "emissive";
    const auto at = std::find(std::begin(Decal::kWeighted), std::end(Decal::kWeighted), part);
    return at == std::end(Decal::kWeighted) ? std::string_view() : std::string_view(*at);
}

void lowerLayOver(Lowering& l) {
    Builder& b = l.b;
    const Finish beneath = l.finish("bg");
    Finish over = l.finish("fg");
    // Skipped by its place, not by its alpha: that may lie in the same map as all else of it.
    const Val place = l.in("mix");
    const Hidden hidden = hiddenBy(l);
    const Val cover = b.saturate(b.mul(place, over.part("alpha")));
    // Layers that it does not have go on through it.
    for (const auto& [key, value] : beneath.parts)
        if (!over.part(key)) over.parts[key] = value;
    over.layers |= beneath.layers;
    l.outFinish("out", joined(beneath, over, b, [&](const ChannelDef& part, Val behind, Val before) {
                    // Whether the surface is there, and how high it lies, are its own.
                    if (part.key == "alpha" || part.key == "height") return behind;
                    const std::string_view by = weightOf(part.key);
                    const Val weight = by.empty() ? cover : b.mul(cover, b.saturate(l.in(by)));
                    if (part.key == "normal") return joinedNormals(b, behind, before, l.in("across"), l.in("up"), weight, place, hidden);
                    if (part.meaning == Meaning::Normal) return mixedNormals(b, behind, before, weight);
                    // As a mix is reckoned; what comes on top of what lies beneath is looked at only where it lies.
                    return b.add(behind, seenAbove0(b, b.mul(b.sub(before, behind), weight), place, hidden));
                }));
}

} // namespace

void addDecalNodes(std::vector<NodeDef>& list) {
    const PortDef place{"position",
                        3,
                        Meaning::Position,
                        Value::vec3(0, 0, 0),
                        -1,
                        1,
                        "What is projected on, object space; the surface itself when nothing is wired",
                        "m",
                        Unwired::PositionObject};
    list.push_back({"box_projection",
                    "Box projection",
                    "UV",
                    "decal sticker stamp poster project place picture once",
                    "UVs of one picture that is projected through a box onto the surface, and how far it covers what it meets.",
                    {place,
                     {"middle", 3, Meaning::Any, Value::vec3(0, 0, 0), -10, 10, "Middle of the box, object space", "m"},
                     {"facing", 3, Meaning::Any, Value::vec3(0, 0, 1), -1, 1, "Out of the surface, object space", {}},
                     numberIn("turn", 0, "About that direction, counter-clockwise seen from outside", -180, 180, "\u00B0"),
                     {"size", 2, Meaning::Any, Value::vec2(0.5f, 0.5f), 0.01f, 4, "Width and height; a negative width mirrors", "m"},
                     numberIn("depth", 0.2f, "How deep the box is, half to either side", 0.01f, 4, "m"),
                     numberIn("fade from", 60, "Angle between the surface and the box at which it begins to fade", 0, 90, "\u00B0"),
                     numberIn("fade to", 80, "Angle at which it is gone", 0, 90, "\u00B0"),
                     numberIn("depth fade", 0.25f, "Share of the depth, at either end, over which it fades")},
                    {out(2, Meaning::Uv, "uv", "0 to 1 across and down the box"),
                     numberOut("cover", "1 where it is seen, 0 outside of the box and on what looks away"),
                     out(3, Meaning::Direction, "across", "Right of the picture, world space"),
                     out(3, Meaning::Direction, "up", "Up of the picture, world space")},
                    {},
                    lowerBox});
    NodeDef over{"lay_over",
                 "Lay over",
                 "Finishes",
                 "decal sticker stain poster stack on top channels weights reorient",
                 "A finish that lies on another as far as its own alpha and a mask say. Normals join; layers that it does not have show "
                 "through it.",
                 {{"bg", kFinishPort, Meaning::Any, {}, 0, 1, "Finish beneath", {}},
                  {"fg", kFinishPort, Meaning::Any, {}, 0, 1, "Finish that lies on it; its alpha is how far it covers", {}},
                  numberIn("mix", 1, "Where it lies: 0 shows what is beneath"),
                  {"across", 3, Meaning::Any, Value::vec3(1, 0, 0), -1, 1, "Right of its picture, world space; from Box projection", {}},
                  {"up", 3, Meaning::Any, Value::vec3(0, 1, 0), -1, 1, "Up of its picture, world space; from Box projection", {}}},
                 {{"out", kFinishPort, Meaning::Any, {}, 0, 1, {}, {}}},
                 {hiddenSetting("skipped")},
                 lowerLayOver};
    static constexpr std::string_view helps[] = {"How much of its color counts",     "How much of its normal counts",
                                                 "How much of its roughness counts", "How much of its metallic counts",
                                                 "How much of its occlusion counts", "How much of its glow counts"};
    for (size_t k = 0; k < std::size(Decal::kWeighted); ++k) over.inputs.push_back(numberIn(Decal::kWeighted[k], 1, helps[k]));
    list.push_back(std::move(over));
}

} // namespace hue
