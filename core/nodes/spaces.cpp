#include "core/nodes/spaces.h"

#include "core/nodes/port_makers.h"

namespace hue {
namespace {

struct Frame3 {
    Val x, y, z, origin;
};

Frame3 frameOf(Builder& b, Space space) {
    switch (space) {
    case Space::Object: return {b.objectToWorld(0), b.objectToWorld(1), b.objectToWorld(2), b.objectToWorld(3)};
    case Space::Tangent:
        return {b.attribute(Attribute::TangentWorld), b.attribute(Attribute::BitangentWorld), b.attribute(Attribute::NormalWorld),
                b.attribute(Attribute::PositionWorld)};
    default: return {b.cameraToWorld(0), b.cameraToWorld(1), b.cameraToWorld(2), b.cameraToWorld(3)};
    }
}

Space spaceOf(std::string_view name) {
    return name == "object"    ? Space::Object
           : name == "view"    ? Space::View
           : name == "tangent" ? Space::Tangent
           : name == "screen"  ? Space::Screen
                               : Space::World;
}

} // namespace

Val vectorToWorld(Builder& b, Val v, Space from) {
    if (from == Space::World) return v;
    const Frame3 f = frameOf(b, from);
    const auto along = [&](Val axis, int c) { return b.mul(axis, b.component(v, c)); };
    return b.add(b.add(along(f.x, 0), along(f.y, 1)), along(f.z, 2));
}

Val vectorFromWorld(Builder& b, Val v, Space to) {
    if (to == Space::World) return v;
    const Frame3 f = frameOf(b, to);
    const Val along = b.compose({b.dot(v, f.x), b.dot(v, f.y), b.dot(v, f.z)});
    // The axes of an object are as long as it is scaled; all others are of length 1.
    return to == Space::Object ? b.op(Op::Div, along, b.dot(f.x, f.x)) : along;
}

Val pointToWorld(Builder& b, Val p, Space from) {
    if (from == Space::World) return p;
    if (from == Space::Screen) {
        const Val ahead = b.component(p, 2);
        const Val slope = b.op(Op::Div, b.sub(b.mul(b.swizzle(p, {0, 1}), b.number(2)), b.number(1)), b.cameraScale());
        const Val across = b.mul(b.component(slope, 0), ahead), down = b.mul(b.component(slope, 1), ahead);
        p = b.compose({across, b.mul(down, b.number(-1)), b.mul(ahead, b.number(-1))});
    }
    return b.add(vectorToWorld(b, p, from), frameOf(b, from).origin);
}

Val pointFromWorld(Builder& b, Val p, Space to) {
    if (to == Space::World) return p;
    const Val seen = vectorFromWorld(b, b.sub(p, frameOf(b, to).origin), to);
    if (to != Space::Screen) return seen;
    const Val ahead = b.mul(b.component(seen, 2), b.number(-1));
    const Val slope = b.op(Op::Div, b.swizzle(seen, {0, 1}), b.op(Op::Max, ahead, b.number(0.01f)));
    const Val half = b.mul(b.mul(slope, b.cameraScale()), b.constant(Value::vec2(0.5f, -0.5f)));
    const Val place = b.add(half, b.number(0.5f));
    return b.compose({b.component(place, 0), b.component(place, 1), ahead});
}

void addSpaceNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Vectors";
    list.push_back({"transform_point",
                    "Transform point",
                    family,
                    "space convert matrix object world view camera tangent screen local pivot place",
                    "A place, said in another space. Of the screen: across, down (0 to 1) and metres ahead of the eye.",
                    {{"in", 3, Meaning::Any, Value::vec3(0, 0, 0), -1, 1, "The place; the origin of the space when nothing is wired", "m"}},
                    {out(3, Meaning::Position)},
                    {{"from", {"object", "world", "view", "tangent", "screen"}, "object", "The space it is given in"},
                     {"to", {"object", "world", "view", "tangent", "screen"}, "world", "The space that is wanted"}},
                    [](Lowering& l) {
                        const Space from = spaceOf(l.setting("from")), to = spaceOf(l.setting("to"));
                        const Val in = l.in("in");
                        l.out("out", from == to ? in : pointFromWorld(l.b, pointToWorld(l.b, in, from), to));
                    }});
    list.push_back({"transform_vector",
                    "Transform vector",
                    family,
                    "space convert matrix direction object world view camera tangent local rotate",
                    "A direction with a length, said in another space. Where a placement is scaled its length follows.",
                    {{"in", 3, Meaning::Any, Value::vec3(0, 1, 0), -1, 1, "The direction", {}}},
                    {out(3, Meaning::Direction)},
                    {{"from", {"object", "world", "view", "tangent"}, "object", "The space it is given in"},
                     {"to", {"object", "world", "view", "tangent"}, "world", "The space that is wanted"}},
                    [](Lowering& l) {
                        const Space from = spaceOf(l.setting("from")), to = spaceOf(l.setting("to"));
                        const Val in = l.in("in");
                        l.out("out", from == to ? in : vectorFromWorld(l.b, vectorToWorld(l.b, in, from), to));
                    }});
    list.push_back({"transform_normal",
                    "Transform normal",
                    family,
                    "space convert matrix direction object world view camera tangent matcap facing",
                    "A normal, said in another space; of length 1. In view space X and Y say where on a ball it looks.",
                    {{"in",
                      3,
                      Meaning::Any,
                      Value::vec3(0, 0, 1),
                      -1,
                      1,
                      "The normal; the mesh's own when nothing is wired",
                      {},
                      Unwired::NormalWorld}},
                    {out(3, Meaning::Normal)},
                    {{"from", {"object", "world", "view", "tangent"}, "world", "The space it is given in"},
                     {"to", {"object", "world", "view", "tangent"}, "view", "The space that is wanted"}},
                    [](Lowering& l) {
                        const Space from = spaceOf(l.setting("from")), to = spaceOf(l.setting("to"));
                        // The mesh's own, in the space that it is asked for in.
                        const Val in = l.wired("in") || from == Space::World ? l.in("in") : vectorFromWorld(l.b, l.in("in"), from);
                        l.out("out", l.b.normalize(from == to ? in : vectorFromWorld(l.b, vectorToWorld(l.b, in, from), to)));
                    }});
}

} // namespace hue
