// The shed's glazed tiles and the track bed's stones, maps and masters.
#include "core/image_files/picture_file.h"
#include "demo/graph_writer.h"
#include "demo/patterns.h"

namespace hue::depot {
namespace {

/// Broken stones: cells around scattered points, each with a height and a slope of its own.
struct Stone {
    float edge;   ///< 0 at the border between two stones
    float height; ///< 0..1
    int x, y;     ///< which
};

Stone stoneAt(float x, float y) {
    constexpr int period = 13;
    const float u = x * period + 0.35f * (clouds(x, y, 26, 2, 211) - 0.5f), v = y * period + 0.35f * (clouds(x, y, 26, 2, 223) - 0.5f);
    const int i = int(std::floor(u)), j = int(std::floor(v));
    float first = 9, second = 9, dx = 0, dy = 0;
    Stone s{};
    for (int b = -2; b <= 2; ++b)
        for (int a = -2; a <= 2; ++a) {
            const int cx = wrap(i + a, period), cy = wrap(j + b, period);
            const float px = float(i + a) + 0.1f + 0.8f * random01(cx, cy, 227), py = float(j + b) + 0.1f + 0.8f * random01(cx, cy, 229);
            const float way = std::hypot(u - px, v - py);
            if (way < first) {
                second = first, first = way;
                dx = u - px, dy = v - py;
                s.x = cx, s.y = cy;
            } else {
                second = std::min(second, way);
            }
        }
    s.edge = second - first;
    // Flat facets that lean, broken off towards the border.
    const float lean = 0.55f * ((random01(s.x, s.y, 233) - 0.5f) * dx + (random01(s.x, s.y, 239) - 0.5f) * dy);
    const float top = 0.42f + 0.42f * random01(s.x, s.y, 241) + lean;
    s.height = std::clamp(top * smooth(0, 0.3f, s.edge) + 0.07f * (clouds(x, y, 52, 3, 251) - 0.5f), 0.f, 1.f);
    return s;
}

void stoneColor(float x, float y, float* rgb) {
    const Stone s = stoneAt(x, y);
    const float tone = 0.1f + 0.16f * random01(s.x, s.y, 257), warm = random01(s.x, s.y, 263), grain = clouds(x, y, 96, 3, 269);
    const float dirt = 1 - smooth(0.02f, 0.2f, s.edge);
    const float light = tone * (0.75f + 0.5f * grain) * (1 - 0.6f * dirt);
    rgb[0] = light * (1 + 0.14f * warm);
    rgb[1] = light * (1 + 0.03f * warm);
    rgb[2] = light * (1.04f - 0.12f * warm);
}

/// Fine cracks of a glaze.
float crackAt(float x, float y) {
    constexpr int period = 9;
    const float u = x * period + 0.5f * (clouds(x, y, 9, 3, 271) - 0.5f), v = y * period + 0.5f * (clouds(x, y, 9, 3, 277) - 0.5f);
    const int i = int(std::floor(u)), j = int(std::floor(v));
    float first = 9, second = 9;
    for (int b = -1; b <= 1; ++b)
        for (int a = -1; a <= 1; ++a) {
            const int cx = wrap(i + a, period), cy = wrap(j + b, period);
            const float way = std::hypot(u - float(i + a) - random01(cx, cy, 281), v - float(j + b) - random01(cx, cy, 283));
            second = std::min(second, std::max(first, way));
            first = std::min(first, way);
        }
    return 1 - smooth(0.012f, 0.05f, second - first);
}

} // namespace

std::vector<NamedMap> makeStoneMaps() {
    constexpr int size = 512;
    const Picture height = tile(size, 1, [](float x, float y, float* v) { *v = stoneAt(x, y).height; });
    std::vector<NamedMap> maps;
    maps.push_back(
        {"ballast_color", "ballast_color.png", MapKind::Color, tile(size, 3, stoneColor), PictureEncoding::Srgb, "ballast", "base color"});
    maps.push_back({"ballast_height", "ballast_height.png", MapKind::Height, height, PictureEncoding::Linear, "ballast", "height"});
    maps.push_back(
        {"ballast_normal", "ballast_normal.png", MapKind::Normal, normalsOf(height, 0.045f), PictureEncoding::Linear, "ballast", "normal"});
    // Red: occlusion of the gaps. Green: roughness, smoother on what is high and worn. Blue: no metal.
    maps.push_back({"ballast_orm", "ballast_orm.png", MapKind::Data,
                    tile(size, 3,
                         [](float x, float y, float* v) {
                             const Stone s = stoneAt(x, y);
                             v[0] = mix(0.35f, 1, smooth(0.05f, 0.45f, s.height));
                             v[1] = mix(0.96f, 0.74f, s.height);
                             v[2] = 0;
                         }),
                    PictureEncoding::Linear, "ballast", ""});
    maps.push_back({"crazing", "crazing.png", MapKind::Data, tile(size, 1, [](float x, float y, float* v) { *v = crackAt(x, y); }),
                    PictureEncoding::Linear});
    return maps;
}

Master makeGlazedTile() {
    Master m;
    m.id = "glazed_tile";
    m.name = "Glazed tile";
    m.surface.layers = uint32_t(Layer::Reflection);
    m.parameters = {
        number("tiles", "Tiles", 6, 1, 16, "Wall", "How many tiles a UV unit across"),
        number("grout_width", "Grout width", 0.045f, 0, 0.2f, "Wall", "Share of a tile"),
        colored("grout_color", "Grout color", "#8C857A", "Wall", "Between the tiles"),
        colored("glaze_thick", "Glaze, thick", "#143F2E", "Glaze", "Where it ran together"),
        colored("glaze_thin", "Glaze, thin", "#4E8F63", "Glaze", "Over edges and bumps"),
        limitedTo1(number("variation", "Variation", 0.6f, 0, 1, "Glaze", "How much tiles differ")),
        limitedTo1(number("crazing", "Crazing", 0.1f, 0, 1, "Glaze", "Fine cracks")),
        limitedTo1(number("grime", "Grime", 0.55f, 0, 1, "Weather", "Soot and dust near the floor")),
        number("grime_height", "Grime height", 0.5f, 0, 3, "Weather", "Where grime ends, above the ground", "m"),
    };
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1);
    g.parameter("tiles", 0, 2.4f);
    g.card("grid", "multiply", 1, 1.4f, "Grid").wire("in1", "uv").wire("in2", "card_tiles");
    g.card("which", "floor", 2, 0.2f, "Which tile").wire("in", "grid");
    g.card("inside", "fract", 2, 1.8f, "Within the tile").wire("in", "grid");
    // Distance to the nearest border: the smaller of both directions.
    g.card("centered", "subtract", 3, 1.8f).set("in2", 0.5f).wire("in1", "inside");
    g.card("away", "absolute_value", 4, 1.8f, "From the middle").wire("in", "centered");
    g.card("far", "maximum", 5, 1.8f, "Nearest border").wire("in1", "away", "out", "x").wire("in2", "away", "out", "y");
    g.parameter("grout_width", 4, 3.2f);
    g.card("border", "remap", 5, 3.4f, "Where grout begins")
        .set("inhigh", 1)
        .set("outlow", 0.5f)
        .set("outhigh", 0)
        .wire("in", "card_grout_width");
    g.card("border_in", "subtract", 6, 3.6f).set("in2", 0.035f).wire("in1", "border");
    g.card("grout", "smoothstep", 7, 2.6f, "Grout").wire("in", "far").wire("low", "border_in").wire("high", "border");
    // Every tile was dipped by hand.
    g.card("dice", "cell_noise", 3, -0.6f, "Tone of a tile").set("scale", Value::vec2(1, 1)).wire("uv", "which");
    g.card("run", "fractal", 3, -2.4f, "Runs of glaze")
        .set("scale", Value::vec2(9, 4))
        .choose("octaves", "3")
        .choose("seamless", "yes")
        .wire("uv", "uv");
    g.card("pool", "mix", 4, -1.2f, "Thickness").set("mix", 0.45f).wire("bg", "run").wire("fg", "dice");
    g.parameter("variation", 4, -2.6f);
    g.card("depth", "mix", 5, -1.8f, "Varied").set("bg", 0.35f).wire("fg", "pool").wire("mix", "card_variation");
    g.card("thin_edge", "remap", 6, 0.8f, "Thin towards the border")
        .set("inlow", 0.3f)
        .set("inhigh", 0.5f)
        .set("outhigh", 0.5f)
        .choose("limit", "on")
        .wire("in", "far");
    g.card("glaze_at", "add", 6, -0.6f, "Where on the glaze").wire("in1", "depth").wire("in2", "thin_edge");
    g.parameter("glaze_thick", 5, -4.0f);
    g.parameter("glaze_thin", 5, -3.1f);
    g.card("glaze", "ramp", 7, -1.6f, "Glaze")
        .wire("in", "glaze_at")
        .wire("value1", "card_glaze_thick")
        .wire("value2", "card_glaze_thin")
        .set("position1", 0.15f)
        .set("position2", 0.95f)
        .choose("between", "smooth");
    g.card("cracks", "tiled_image", 6, -3.6f, "Cracks").choose("map", "crazing").set("tiling", Value::vec2(1, 1)).wire("uv", "grid");
    g.parameter("crazing", 6, -5.2f);
    g.card("crazed", "multiply", 7, -4.2f).wire("in1", "cracks", "color", "r").wire("in2", "card_crazing");
    g.card("crack_dark", "remap", 8, -3.4f, "Darkening").set("outlow", 1).set("outhigh", 0.45f).wire("in", "crazed");
    g.card("glaze_cracked", "multiply", 8, -1.8f, "Crazed glaze").wire("in1", "glaze").wire("in2", "crack_dark");
    g.parameter("grout_color", 7, 0.6f);
    g.card("clean", "mix", 9, -0.6f, "Clean wall").wire("bg", "glaze_cracked").wire("fg", "card_grout_color").wire("mix", "grout");
    // Grime by height in the world, more in the grout, in streaks.
    g.card("place", "position", 6, 5.0f).choose("space", "world");
    g.parameter("grime_height", 6, 6.2f);
    g.card("low", "smoothstep", 7, 5.2f, "Above the grime").set("low", 0).wire("in", "place", "out", "y").wire("high", "card_grime_height");
    g.card("near_floor", "invert", 8, 5.2f, "Near the floor").wire("in", "low");
    g.card("streaks", "fractal", 7, 7.0f, "Streaks")
        .set("scale", Value::vec2(26, 5))
        .set("amplitude", 0.6f)
        .choose("octaves", "3")
        .wire("uv", "uv");
    g.card("held", "mix", 8, 3.4f, "Held by grout").set("fg", 1.4f).wire("bg", "streaks").wire("mix", "grout");
    g.parameter("grime", 8, 6.6f);
    g.card("amount", "multiply", 9, 5.4f).wire("in1", "near_floor").wire("in2", "card_grime");
    g.card("soot", "multiply", 10, 4.6f, "Soot").wire("in1", "amount").wire("in2", "held");
    g.card("soot_limited", "clamp", 11, 4.2f).wire("in", "soot");
    g.card("base", "mix", 12, 0, "Base").set("fg", Value::vec3(0.035f, 0.031f, 0.027f)).wire("bg", "clean").wire("mix", "soot_limited");
    g.card("rough_clean", "mix", 11, 1.6f, "Clean roughness").set("bg", 0.09f).set("fg", 0.9f).wire("mix", "grout");
    g.card("rough", "mix", 12, 2.4f, "Roughness").set("fg", 0.82f).wire("bg", "rough_clean").wire("mix", "soot_limited");
    g.card("body", "invert", 8, 2.0f, "Height of a tile").wire("in", "grout");
    g.card("slope", "height_to_normal", 9, 1.8f).set("scale", 0.004f).wire("in", "body");
    g.card("normal", "normal_map", 10, 1.4f).wire("in", "slope");
    g.spread();
    g.bay("tile grid", {"uv", "card_tiles", "grid", "which", "inside", "centered", "away", "far"});
    g.bay("grime", {"place", "card_grime_height", "low", "near_floor", "streaks", "held", "card_grime", "amount", "soot", "soot_limited"});
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    g.channel("normal", "normal");
    return m;
}

Master makeBallast() {
    Master m;
    m.id = "ballast";
    m.name = "Ballast";
    m.parameters = {
        mapped("stones", "Packed stones", MapKind::Color, "ballast_packed", "Stones", "Base color, with height in alpha"),
        number("tiling", "Tiling", 1, 1, 12, "Stones", "How often the map repeats to a UV unit"),
        colored("tint", "Tint", "#FFFFFF", "Stones", "Multiplied with the stones' own color"),
        number("relief", "Relief", 0.045f, 0, 0.12f, "Stones", "Depth of the height, in UV units of the map"),
        limitedTo1(number("stain", "Rust stain", 0, 0, 1, "Weather", "Brake dust on what lies on top")),
    };
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1);
    g.parameter("tiling", 0, 2.2f);
    g.card("place", "place_2d", 1, 1.2f).wire("uv", "uv").wire("tiling", "card_tiling");
    g.parameter("stones", 1, -0.4f);
    g.card("packed", "image", 2, 0.6f, "Stones").wire("map", "card_stones").wire("uv", "place");
    // Everything else is derived from the height in alpha.
    g.card("per_uv", "divide", 2, 2.8f, "Depth a UV unit").wire("in1", "card_relief").wire("in2", "card_tiling");
    g.parameter("relief", 1, 3.2f);
    g.card("slope", "height_to_normal", 3, 2.4f).wire("in", "packed", "alpha").wire("scale", "per_uv");
    g.card("normal", "normal_map", 4, 2.4f).wire("in", "slope");
    g.card("rough", "remap", 3, 0.8f, "Roughness").set("outlow", 0.96f).set("outhigh", 0.74f).wire("in", "packed", "alpha");
    g.card("gaps", "smoothstep", 3, 4.2f, "Open sky").set("low", 0.05f).set("high", 0.45f).wire("in", "packed", "alpha");
    g.card("shade", "remap", 4, 4.2f, "Occlusion").set("outlow", 0.35f).wire("in", "gaps");
    g.parameter("tint", 2, -1.4f);
    g.card("tinted", "multiply", 3, -1.0f, "Tinted").wire("in1", "packed", "color").wire("in2", "card_tint");
    g.parameter("stain", 3, -2.4f);
    g.card("patches", "fractal", 2, -3.2f, "Patches").set("scale", 2).choose("octaves", "3").wire("uv", "uv");
    g.card("lies", "multiply", 4, -3.0f, "On top, in patches").wire("in1", "packed", "alpha").wire("in2", "patches");
    g.card("amount", "multiply", 5, -2.6f).wire("in1", "lies").wire("in2", "card_stain");
    g.card("base", "mix", 6, -1.0f, "Base").set("fg", Value::vec3(0.16f, 0.055f, 0.02f)).wire("bg", "tinted").wire("mix", "amount");
    g.spread();
    g.bay("from the height", {"per_uv", "card_relief", "slope", "normal", "rough", "gaps", "shade"});
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    g.channel("normal", "normal");
    g.channel("occlusion", "shade");
    return m;
}

} // namespace hue::depot
