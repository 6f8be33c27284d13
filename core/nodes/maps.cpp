// Reading maps in other ways than once at a UV: repeated, projected, scattered, by level, frame by frame.
#include "core/maps/drawn_map.h"
#include "core/nodes/port_makers.h"

namespace hue {
namespace {

constexpr float kDegree = 0.017453292519943295f;

PortDef mapIn() { return {"map", kMapPort, Meaning::Any, {}, 0, 1, "A map parameter; or choose a map on the card", {}}; }
SettingDef mapSetting() { return {"map", {}, "", "A map of the project"}; }

std::vector<PortDef> mapOutputs() {
    return {out(3, Meaning::Color, "color", "Red, green and blue"), numberOut("alpha", "The fourth channel; 1 where the map has none")};
}
void outColor(Lowering& l, Val rgba) {
    l.out("color", l.b.swizzle(rgba, {0, 1, 2}));
    l.out("alpha", l.b.component(rgba, 3));
}

/// Turned by an angle of which sine and cosine are given.
Val turned(Builder& b, Val uv, Val sine, Val cosine) {
    const Val x = b.component(uv, 0), y = b.component(uv, 1);
    return b.compose({b.sub(b.mul(x, cosine), b.mul(y, sine)), b.add(b.mul(x, sine), b.mul(y, cosine))});
}

/// Three overlapping hexagons at a point: a grid of triangles whose corners each have a place, a turn and a weight of their own.
/// Heitz and Neyret, "High-Performance By-Example Noise using a Histogram-Preserving Blending Operator", 2018; turned cells after
/// Mikkelsen, "Practical Real-Time Hex-Tiling", 2022.
struct Hexagons {
    Val at[3]; ///< where each reads the map
    Val sine[3], cosine[3];
    Val weight[3]; ///< sum 1
    Val guide;     ///< UVs without jumps, for the level
};

Hexagons hexagonsAt(Lowering& l) {
    Builder& b = l.b;
    Hexagons h;
    const Val uv = b.mul(l.in("uv"), l.in("tiling"));
    h.guide = uv;
    // Skewed so that triangles become halves of unit squares; three and a half of them lie along one repetition.
    constexpr float kCells = 3.4641016f;
    const Val x = b.mul(b.component(uv, 0), b.number(kCells)), y = b.mul(b.component(uv, 1), b.number(kCells));
    const Val sx = b.sub(x, b.mul(y, b.number(0.57735027f))), sy = b.mul(y, b.number(1.15470054f));
    const Val bx = b.op(Op::Floor, sx), by = b.op(Op::Floor, sy), fx = b.sub(sx, bx), fy = b.sub(sy, by);
    const Val rest = b.oneMinus(b.add(fx, fy)), one = b.number(1), zero = b.number(0);
    auto lower = [&](Val yes, Val no) { return b.op(Op::Select, rest, yes, no); };
    const Val minus = b.mul(rest, b.number(-1));
    const Val cx[3] = {b.add(bx, lower(zero, one)), b.add(bx, lower(zero, one)), b.add(bx, lower(one, zero))};
    const Val cy[3] = {b.add(by, lower(zero, one)), b.add(by, lower(one, zero)), b.add(by, lower(zero, one))};
    const Val share[3] = {lower(rest, minus), lower(fy, b.oneMinus(fy)), lower(fx, b.oneMinus(fx))};
    const Val falloff = l.in("falloff");
    Val sum;
    for (int k = 0; k < 3; ++k) {
        h.weight[k] = b.op(Op::Power, share[k], falloff);
        sum = k ? b.add(sum, h.weight[k]) : h.weight[k];
    }
    for (int k = 0; k < 3; ++k) {
        h.weight[k] = b.op(Op::Div, h.weight[k], sum);
        // The half keeps a corner in its cell whatever the last bit says.
        const Val cell = b.compose({b.add(cx[k], b.number(0.5f)), b.add(cy[k], b.number(0.5f))});
        auto dice = [&](float shift) { return b.sub(b.cell2(b.add(cell, b.constant(Value::vec2(shift, -shift)))), b.number(0.5f)); };
        const Val angle = b.mul(b.mul(dice(71), l.in("rotation")), b.number(2 * kDegree));
        h.sine[k] = b.op(Op::Sin, angle);
        h.cosine[k] = b.op(Op::Sin, b.add(angle, b.number(90 * kDegree)));
        // The corner's own place, about which its cell turns.
        const Val px = b.mul(b.add(cx[k], b.mul(cy[k], b.number(0.5f))), b.number(1 / kCells));
        const Val py = b.mul(cy[k], b.number(0.8660254f / kCells));
        const Val middle = b.compose({px, py});
        const Val shift = b.mul(b.compose({dice(0), dice(37)}), b.mul(l.in("offset"), b.number(2)));
        h.at[k] = b.add(b.add(turned(b, b.sub(uv, middle), h.sine[k], h.cosine[k]), middle), shift);
    }
    return h;
}

std::vector<PortDef> hexInputs() {
    return {mapIn(),
            uvIn(),
            {"tiling", 2, Meaning::Vector, Value::vec2(1, 1), 0, 16, "How often the map repeats to a UV unit; one number sets both", {}},
            numberIn("rotation", 180, "How far each piece is turned at most", 0, 180, "\u00B0"),
            numberIn("offset", 1, "How far each piece is moved at most, in repetitions"),
            numberIn("falloff", 4, "How sharp the pieces meet", 1, 16)};
}

} // namespace

void addMapNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Maps";
    list.push_back(
        {"tiled_image",
         "Tiled image",
         family,
         "texture repeat tile map picture tiling",
         "A map that repeats: an Image with its own tiling and offset.",
         {mapIn(),
          uvIn(),
          {"tiling", 2, Meaning::Vector, Value::vec2(1, 1), 0, 16, "How often it repeats to a UV unit; one number sets both", {}},
          {"offset", 2, Meaning::Vector, Value::vec2(0, 0), -1, 1, "In repetitions", {}}},
         mapOutputs(),
         {mapSetting()},
         [](Lowering& l) {
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             outColor(l, l.b.sample(slot, l.b.sub(l.b.mul(l.in("uv"), l.in("tiling")), l.in("offset"))));
         }});
    list.push_back(
        {"triplanar_projection",
         "Triplanar projection",
         family,
         "box mapping world no uv triplanar three sides",
         "A map laid on from three sides, without UVs; where a face looks between two sides they are blended. Three fetches.",
         {mapIn(),
          numberIn("scale", 1, "Repetitions to a metre", 0, 8, "/m"),
          numberIn("blend", 0.3f, "How wide the sides are blended"),
          {"offset", 3, Meaning::Vector, Value::vec3(0, 0, 0), -1, 1, "Moves the projection, in metres", "m"}},
         mapOutputs(),
         {mapSetting(), {"space", {"object", "world"}, "object", "Whether the map sticks to the object or to the world"}},
         [](Lowering& l) {
             Builder& b = l.b;
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             const bool world = l.setting("space") == "world";
             const Val p =
                 b.mul(b.sub(b.attribute(world ? Attribute::PositionWorld : Attribute::PositionObject), l.in("offset")), l.in("scale"));
             const Val outside = b.attribute(world ? Attribute::NormalWorld : Attribute::NormalObject), n = b.op(Op::Abs, outside);
             // Of narrow blends only what looks nearly straight at a side counts.
             const Val power = b.op(Op::Div, b.number(1), b.op(Op::Max, l.in("blend"), b.number(0.02f)));
             Val w[3], sum;
             for (int c = 0; c < 3; ++c) {
                 w[c] = b.op(Op::Power, b.component(n, c), power);
                 sum = c ? b.add(sum, w[c]) : w[c];
             }
             const Val x = b.component(p, 0), y = b.mul(b.component(p, 1), b.number(-1)), z = b.component(p, 2);
             // Seen from outside, U runs to the right on every side, so that lettering can be read.
             const auto towards = [&](int c, Val along, float sign) {
                 return b.op(Op::Select, b.component(outside, c), b.mul(along, b.number(sign)), b.mul(along, b.number(-sign)));
             };
             const Val sides[3] = {b.compose({towards(0, z, -1), y}), b.compose({x, towards(1, z, 1)}), b.compose({towards(2, x, 1), y})};
             Val rgba;
             for (int c = 0; c < 3; ++c) {
                 const Val part = b.mul(b.sample(slot, sides[c]), b.op(Op::Div, w[c], sum));
                 rgba = c ? b.add(rgba, part) : part;
             }
             outColor(l, rgba);
         }});
    list.push_back(
        {"hex_tiled_image",
         "Hex-tiled image",
         family,
         "stochastic random scatter break repetition hexagon tiling",
         "A map scattered in turned and moved hexagons, so that it does not seem to repeat; contrast is kept. Three fetches and its mean.",
         hexInputs(),
         mapOutputs(),
         {mapSetting()},
         [](Lowering& l) {
             Builder& b = l.b;
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             const Hexagons h = hexagonsAt(l);
             // The last level is the mean of the map. What strays from it is scaled so that the spread stays.
             const Val mean = b.sampleLevel(slot, b.constant(Value::vec2(0.5f, 0.5f)), b.number(32));
             Val stray, squares, least, most;
             for (int k = 0; k < 3; ++k) {
                 const Val read = b.sampleGuided(slot, h.at[k], h.guide);
                 least = k ? b.op(Op::Min, least, read) : read;
                 most = k ? b.op(Op::Max, most, read) : read;
                 const Val part = b.mul(b.sub(read, mean), h.weight[k]);
                 const Val square = b.mul(h.weight[k], h.weight[k]);
                 stray = k ? b.add(stray, part) : part;
                 squares = k ? b.add(squares, square) : square;
             }
             // Nothing beyond what the map holds: never outside of what the three pieces have here.
             const Val blended = b.add(mean, b.op(Op::Div, stray, b.op(Op::Sqrt, squares)));
             outColor(l, b.op(Op::Min, b.op(Op::Max, blended, least), most));
         }});
    list.push_back(
        {"hex_tiled_normal_map",
         "Hex-tiled normal map",
         family,
         "stochastic random scatter break repetition hexagon normal bump",
         "As Hex-tiled image, for a normal map: every piece's slopes are turned back with it. Gives an encoded normal, for Normal map or "
         "Join normals.",
         hexInputs(),
         {out(3, Meaning::EncodedNormal)},
         {mapSetting()},
         [](Lowering& l) {
             Builder& b = l.b;
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             const Hexagons h = hexagonsAt(l);
             Val slopes, squares;
             for (int k = 0; k < 3; ++k) {
                 const Val n = b.sub(b.mul(b.swizzle(b.sampleGuided(slot, h.at[k], h.guide), {0, 1, 2}), b.number(2)), b.number(1));
                 const Val z = b.op(Op::Max, b.component(n, 2), b.number(0.05f));
                 const Val slope = b.compose({b.op(Op::Div, b.component(n, 0), z), b.op(Op::Div, b.component(n, 1), z)});
                 // Rows grow downward and green points up, so the slopes turn the way the piece was turned.
                 const Val part = b.mul(turned(b, slope, h.sine[k], h.cosine[k]), h.weight[k]);
                 const Val square = b.mul(h.weight[k], h.weight[k]);
                 slopes = k ? b.add(slopes, part) : part;
                 squares = k ? b.add(squares, square) : square;
             }
             slopes = b.op(Op::Div, slopes, b.op(Op::Sqrt, squares));
             const Val n = b.normalize(b.compose({b.component(slopes, 0), b.component(slopes, 1), b.number(1)}));
             l.out("out", b.add(b.mul(n, b.number(0.5f)), b.number(0.5f)));
         }});
    list.push_back({"image_level",
                    "Image level",
                    family,
                    "mip lod texture level explicit fetch vertex",
                    "A map read at a given level: 0 is the largest, each further one is half as large. Works per vertex, where no level "
                    "follows from neighbours.",
                    {mapIn(), uvIn(), numberIn("level", 0, "Level; fractions blend", 0, 10)},
                    mapOutputs(),
                    {mapSetting()},
                    [](Lowering& l) {
                        const int slot = l.mapSlot("map");
                        if (slot >= 0) outColor(l, l.b.sampleLevel(slot, l.in("uv"), l.in("level")));
                    }});
    list.push_back({"sheet_player",
                    "Sheet player",
                    family,
                    "flipbook sprite sheet frames animation atlas film",
                    "Plays frames that lie side by side in one map, row by row from the top left.",
                    {mapIn(), uvIn("UV within a frame"), numberIn("columns", 4, "Frames in a row", 1, 16),
                     numberIn("rows", 4, "Rows of frames", 1, 16), numberIn("rate", 12, "Frames a second", 0, 60, "/s"),
                     numberIn("first", 0, "Frame to begin with", 0, 64)},
                    mapOutputs(),
                    {mapSetting(), {"between", {"jump", "blend"}, "jump", "blend: from one frame into the next, with a second fetch"}},
                    [](Lowering& l) {
                        Builder& b = l.b;
                        const int slot = l.mapSlot("map");
                        if (slot < 0) return;
                        auto whole = [&](std::string_view port) {
                            return b.op(Op::Max, b.op(Op::Floor, b.add(l.in(port), b.number(0.5f))), b.number(1));
                        };
                        const Val columns = whole("columns"), rows = whole("rows"), frames = b.mul(columns, rows);
                        const Val phase = b.op(
                            Op::Fract, b.add(b.op(Op::Phase, b.op(Op::Div, l.in("rate"), frames)), b.op(Op::Div, l.in("first"), frames)));
                        const Val at = b.mul(phase, frames), now = b.op(Op::Floor, at);
                        const Val size = b.compose({columns, rows});
                        auto frame = [&](Val number) {
                            const Val row = b.op(Op::Floor, b.op(Op::Div, b.add(number, b.number(0.5f)), columns));
                            const Val corner = b.compose({b.sub(number, b.mul(row, columns)), row});
                            return b.sampleFramed(slot, l.in("uv"), corner, size);
                        };
                        if (l.setting("between") == "jump") return outColor(l, frame(now));
                        const Val next = b.add(now, b.number(1));
                        const Val wrapped = b.sub(next, b.mul(frames, b.op(Op::Floor, b.op(Op::Div, b.add(next, b.number(0.5f)), frames))));
                        outColor(l, b.mix(frame(now), frame(wrapped), b.op(Op::Fract, at)));
                    }});
    list.push_back({"texel_size",
                    "Texel size",
                    family,
                    "pixel texture size step",
                    "The step in UV to the neighbouring texel of a map, as Nearby takes it. Wire the UV that the map is read with when it "
                    "is tiled or placed.",
                    {mapIn(), uvIn()},
                    {out(2, Meaning::Vector)},
                    {mapSetting()},
                    [](Lowering& l) {
                        const int slot = l.mapSlot("map");
                        if (slot >= 0) l.out("out", l.texelStep(slot, "uv"));
                    }});
    list.push_back({"map_size",
                    "Map size",
                    family,
                    "resolution pixels texture dimensions",
                    "How many texels a map has across and down.",
                    {mapIn()},
                    {out(2, Meaning::Vector)},
                    {mapSetting()},
                    [](Lowering& l) {
                        const int slot = l.mapSlot("map");
                        if (slot >= 0) l.out("out", l.b.op(Op::Div, l.b.number(1), l.b.texelSize(slot)));
                    }});
    list.push_back({"nearby",
                    "Nearby",
                    family,
                    "offset sample neighbour shifted derivative",
                    "What a wire carries at a shifted UV: all that it is computed from is computed once more there.",
                    {anyIn("in", 0, "Any value"), {"offset", 2, Meaning::Vector, Value::vec2(0.01f, 0), -0.5f, 0.5f, "UV units", {}}},
                    {anyOut()},
                    {},
                    [](Lowering& l) { l.out("out", l.inAtShiftedUv("in", l.in("offset"))); }});
    list.push_back(
        {"read_along",
         "Read along",
         family,
         "curve gradient lookup profile falloff palette color stops map remap",
         "A curve or gradient parameter, read at a place of 0 to 1.",
         {{"map", kMapPort, Meaning::Any, {}, 0, 1, "A curve or gradient parameter", {}}, numberIn("in", 0.5f, "Where to read it")},
         {numberOut("value", "What a curve has there; red of a gradient"), out(3, Meaning::Color, "color", "The color of a gradient"),
          numberOut("alpha", "Its alpha")},
         {mapSetting()},
         [](Lowering& l) {
             const int slot = l.mapSlot("map");
             if (slot < 0) return;
             Builder& b = l.b;
             // From the middle of the first texel to that of the last.
             constexpr float kTexels = float(kDrawnTexels);
             const Val at = b.add(b.mul(b.saturate(l.in("in")), b.number((kTexels - 1) / kTexels)), b.number(0.5f / kTexels));
             const Val read = b.sampleLevel(slot, b.compose({at, b.number(0.5f)}), b.number(0));
             l.out("value", b.component(read, 0));
             outColor(l, read);
         }});
}

} // namespace hue
