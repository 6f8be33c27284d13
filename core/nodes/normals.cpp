// Surface normals from maps and heights. Encoded normals are 0..1 per component as in a glTF normal map, green up.
#include "core/nodes/port_makers.h"

namespace hue {

void addNormalNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Normals";
    const PortDef encodedIn{"in",
                            3,
                            Meaning::EncodedNormal,
                            Value::vec3(0.5f, 0.5f, 1),
                            0,
                            1,
                            "Encoded tangent-space normal, 0 to 1 per component, from a map of kind normal or from Height to normal",
                            {}};
    list.push_back(
        {"normal_map",
         "Normal map",
         family,
         "bump tangent space decode",
         "Turns an encoded tangent-space normal into a world-space one, for the normal channel.",
         {encodedIn, numberIn("scale", 1, "Strength; 0 is flat", 0, 4)},
         {out(3, Meaning::Normal)},
         {{"green", {"up", "down"}, "up", "Which way the map's green points"}},
         [](Lowering& l) {
             Builder& b = l.b;
             const Val n = b.sub(b.mul(l.in("in"), b.number(2)), b.number(1));
             const Val strength = l.in("scale");
             const Val green = b.mul(b.component(n, 1), b.number(l.setting("green") == "down" ? -1.f : 1.f));
             l.out("out", b.tangentToWorld(b.compose({b.mul(b.component(n, 0), strength), b.mul(green, strength), b.component(n, 2)})));
         }});
    list.push_back({"height_to_normal",
                    "Height to normal",
                    family,
                    "bump derivative slope sobel",
                    "An encoded normal from a height, read at neighbouring UVs: a map's texels, or any computed height.",
                    {numberIn("in", 0, "Height, 0 to 1"), numberIn("scale", 0.05f, "Depth of a height of 1, in UV units", 0, 0.5f)},
                    {out(3, Meaning::EncodedNormal)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        if (l.wired("in") && !l.followsUv("in"))
                            l.caution(
                                "normal.no-slope", "in",
                                "reads the height at neighbouring UVs, and this height does not depend on UVs: the normal stays flat. "
                                "Turn the map into a normal map first, and project that.");
                        const Val texel = l.texelStep("in");
                        const Val du = b.component(texel, 0), dv = b.component(texel, 1), zero = b.number(0), minus = b.number(-1);
                        auto slope = [&](Val forward, Val back, Val distance) {
                            const Val rise = b.sub(l.inAtShiftedUv("in", forward), l.inAtShiftedUv("in", back));
                            return b.op(Op::Div, b.mul(rise, l.in("scale")), b.mul(distance, b.number(2)));
                        };
                        const Val sx = slope(b.compose({du, zero}), b.compose({b.mul(du, minus), zero}), du);
                        const Val sy = slope(b.compose({zero, dv}), b.compose({zero, b.mul(dv, minus)}), dv);
                        // V grows downward and green points up, so the second slope keeps its sign.
                        const Val n = b.normalize(b.compose({b.mul(sx, minus), sy, b.number(1)}));
                        l.out("out", b.add(b.mul(n, b.number(0.5f)), b.number(0.5f)));
                    }});
    list.push_back({"rebuild_z",
                    "Rebuild Z",
                    family,
                    "reconstruct normal derive two channel bc5",
                    "The third component of a normal from the other two, which are kept just inside the unit disc.",
                    {{"in", 2, Meaning::Any, Value::vec2(0.5f, 0.5f), 0, 1, "The first two components", {}}},
                    {out(3, Meaning::EncodedNormal)},
                    {{"range", {"0 to 1", "-1 to 1"}, "0 to 1", "How the components are encoded, in and out"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const bool encoded = l.setting("range") == "0 to 1";
                        Val xy = l.in("in");
                        if (encoded) xy = b.sub(b.mul(xy, b.number(2)), b.number(1));
                        const Val length = b.magnitude(xy);
                        xy = b.mul(xy, b.op(Op::Div, b.number(0.999f), b.op(Op::Max, length, b.number(0.999f))));
                        const Val z = b.op(Op::Sqrt, b.oneMinus(b.dot(xy, xy)));
                        Val n = b.compose({b.component(xy, 0), b.component(xy, 1), z});
                        if (encoded) n = b.add(b.mul(n, b.number(0.5f)), b.number(0.5f));
                        l.out("out", n);
                    }});
    // Barre-Brisebois and Hill, "Blending in Detail", 2012: the second turned into the frame of the first.
    list.push_back({"join_normals",
                    "Join normals",
                    family,
                    "blend combine detail reorient rnm layer",
                    "Two encoded tangent-space normals as one: the second lies on the first. Adding them as colors would flatten both.",
                    {{"in1", 3, Meaning::EncodedNormal, Value::vec3(0.5f, 0.5f, 1), 0, 1, "Encoded normal of the ground", {}},
                     {"in2", 3, Meaning::EncodedNormal, Value::vec3(0.5f, 0.5f, 1), 0, 1, "Encoded normal of the detail", {}},
                     numberIn("strength1", 1, "Of the ground; 0 is flat", 0, 2),
                     numberIn("strength2", 1, "Of the detail; 0 is flat", 0, 2)},
                    {out(3, Meaning::EncodedNormal)},
                    {},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        // A strength scales the slopes. The ground has to be of length 1 again; of the detail only the direction counts.
                        const auto scaled = [&](std::string_view in, std::string_view strength) {
                            const Val n = b.sub(b.mul(l.in(in), b.number(2)), b.number(1)), s = l.in(strength);
                            return b.mul(n, b.compose({s, s, b.number(1)}));
                        };
                        const Val t = b.add(b.normalize(scaled("in1", "strength1")), b.constant(Value::vec3(0, 0, 1)));
                        const Val u = b.mul(scaled("in2", "strength2"), b.constant(Value::vec3(-1, -1, 1)));
                        // A ground that looks away from its surface has no frame; just above keeps it defined.
                        const Val z = b.op(Op::Max, b.component(t, 2), b.number(1e-4f));
                        const Val n = b.normalize(b.sub(b.mul(t, b.op(Op::Div, b.dot(t, u), z)), u));
                        l.out("out", b.add(b.mul(n, b.number(0.5f)), b.number(0.5f)));
                    }});
}

} // namespace hue
