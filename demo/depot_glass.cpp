// Masters that let light through, glow, or are cut out.
#include "demo/graph_writer.h"

namespace hue::depot {
namespace {

void layer(Master& m, std::initializer_list<Layer> layers) {
    for (Layer l : layers) m.surface.layers |= uint32_t(l);
}

} // namespace

Master makeSignalLens() {
    Master m;
    m.id = "signal_lens";
    m.name = "Signal lens";
    layer(m, {Layer::Reflection, Layer::Transmission, Layer::Volume, Layer::Film});
    m.parameters = {
        colored("glass_color", "Glass color", "#E0301E", "Glass", "What white light has become at the density's depth"),
        number("density", "Density", 0.12f, 0.02f, 1, "Glass", "How deep light travels until it has the glass color", "m"),
        number("thickness", "Thickness", 0.16f, 0, 0.6f, "Glass", "Of the lens", "m"),
        number("index", "Index of refraction", 1.52f, 1, 2.5f, "Glass", "1.52 is crown glass"),
        number("rings", "Rings", 9, 0, 30, "Shape", "Steps of the lens from the middle to the rim"),
        limitedTo1(number("ring_depth", "Ring depth", 0.35f, 0, 1, "Shape", "0 is a plain dome")),
        limitedTo1(number("etching", "Etching", 0, 0, 1, "Wear", "Frosting that scatters what shines through")),
        limitedTo1(number("film", "Oil film", 0, 0, 1, "Wear", "Thin film with its colors")),
        number("film_thickness", "Film thickness", 380, 100, 800, "Wear", "Where the colors lie", "nm"),
    };
    m.parameters[3].hardMax = 4;
    m.parameters[3].hardMin = 1;
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1);
    g.card("radius", "distance", 1, 1, "From the middle").set("in2", Value::vec2(0.5f, 0.5f)).wire("in1", "uv");
    g.parameter("rings", 0, 2.2f);
    g.card("doubled", "multiply", 1, 2.2f).set("in2", 2).wire("in1", "card_rings");
    g.card("steps", "multiply", 2, 1, "Ring position").wire("in1", "radius").wire("in2", "doubled");
    g.card("ridge", "fract", 3, 1, "Ridge").wire("in", "steps");
    g.parameter("ring_depth", 3, 2.4f);
    g.card("depth", "multiply", 4, 2.2f).set("in2", 0.02f).wire("in1", "card_ring_depth");
    g.card("slope", "height_to_normal", 5, 1, "Ring slopes").wire("in", "ridge").wire("scale", "depth");
    g.card("normal", "normal_map", 6, 1).wire("in", "slope");
    g.parameter("etching", 1, 4.2f);
    g.card("frost", "fractal", 1, 5.2f, "Frost")
        .set("scale", Value::vec2(38, 38))
        .set("amplitude", 0.5f)
        .set("pivot", 0.5f)
        .wire("uv", "uv");
    g.card("etched", "multiply", 3, 4.2f, "Etched").wire("in1", "card_etching").wire("in2", "frost");
    g.card("rough", "remap", 4, 4.0f, "Roughness").set("outlow", 0.03f).set("outhigh", 0.75f).wire("in", "etched");
    g.parameter("glass_color", 5, 5.2f);
    g.parameter("density", 5, 6.0f);
    g.parameter("thickness", 5, 6.8f);
    g.parameter("index", 5, 7.6f);
    g.parameter("film", 5, 8.4f);
    g.parameter("film_thickness", 5, 9.2f);
    g.spread();
    g.channel("normal", "normal");
    g.channel("roughness", "rough");
    g.channel("attenuation_color", "card_glass_color");
    g.channel("attenuation_distance", "card_density");
    g.channel("thickness", "card_thickness");
    g.channel("ior", "card_index");
    g.channel("iridescence", "card_film");
    g.channel("iridescence_thickness", "card_film_thickness");
    m.graph.channelConstants["transmission"] = Value::number(1);
    m.graph.channelConstants["base_color"] = Value::vec3(1, 1, 1);
    return m;
}

Master makeRainyWindow() {
    Master m;
    m.id = "rainy_window";
    m.name = "Rainy window";
    m.surface.doubleSided = true;
    layer(m, {Layer::Reflection, Layer::Transmission, Layer::Volume});
    m.parameters = {
        mapped("drops", "Drops", MapKind::Normal, "drops_normal", "Rain", "Normals of drops and runs"),
        number("speed", "Running speed", 0.16f, 0, 1, "Rain", "How fast the near drops run down", "/s"),
        number("rain", "Rain", 0.55f, 0, 2, "Rain", "Strength of the drops"),
        number("drop_scale", "Drop scale", 2, 0.5f, 8, "Rain", "Tiles of drops across the pane"),
        colored("tint", "Tint", "#DCE8E4", "Glass", "Color of the pane"),
        limitedTo1(number("mist", "Mist", 0.08f, 0, 1, "Glass", "Breath on the pane")),
    };
    GraphWriter g(m);
    g.parameter("speed", 0, 0);
    g.parameter("drop_scale", 0, 1.4f);
    g.card("down", "multiply", 1, 0, "Near speed").set("in2", Value::vec2(0, -1)).wire("in1", "card_speed");
    g.card("against", "multiply", 1, 2.4f, "Far speed").set("in2", Value::vec2(0.06f, -0.46f)).wire("in1", "card_speed");
    g.card("near_uv", "place_2d", 1, 0.9f, "Near UV").wire("tiling", "card_drop_scale");
    g.card("finer", "multiply", 1, 3.4f).set("in2", 1.7f).wire("in1", "card_drop_scale");
    g.card("far_uv", "place_2d", 2, 3.2f, "Far UV").set("offset", Value::vec2(-0.37f, -0.11f)).wire("tiling", "finer");
    g.card("near_run", "scroll", 3, 0, "Near run").wire("uv", "near_uv").wire("speed", "down");
    g.card("far_run", "scroll", 3, 3.0f, "Far run").wire("uv", "far_uv").wire("speed", "against");
    g.parameter("drops", 3, 1.6f);
    g.card("near", "image", 4, 0, "Near drops").wire("map", "card_drops").wire("uv", "near_run");
    g.card("far", "image", 4, 2.6f, "Far drops").wire("map", "card_drops").wire("uv", "far_run");
    g.card("joined", "join_normals", 5, 1, "Both runs").wire("in1", "near", "color").wire("in2", "far", "color");
    g.parameter("rain", 5, 2.6f);
    g.card("normal", "normal_map", 6, 1).wire("in", "joined").wire("scale", "card_rain");
    g.parameter("tint", 6, 2.8f);
    g.parameter("mist", 5, 3.8f);
    g.card("rough", "remap", 6, 3.8f, "Roughness").set("outlow", 0.01f).set("outhigh", 0.5f).wire("in", "card_mist");
    g.spread();
    g.bay("rain", {"card_speed", "down", "against", "near_run", "far_run", "near_uv", "far_uv", "finer", "card_drop_scale"});
    g.channel("normal", "normal");
    g.channel("base_color", "card_tint");
    g.channel("roughness", "rough");
    m.graph.channelConstants["transmission"] = Value::number(1);
    m.graph.channelConstants["thickness"] = Value::number(0.22f);
    return m;
}

Master makeSeatFelt() {
    Master m;
    m.id = "seat_felt";
    m.name = "Seat felt";
    layer(m, {Layer::Sheen});
    m.parameters = {
        colored("ground", "Ground", "#6E2226", "Pattern", "Color of the cloth"),
        colored("stripe", "Stripe", "#D9A441", "Pattern", "Color of the zigzag"),
        number("bands", "Bands", 5, 1, 16, "Pattern", "Zigzag bands along the seat"),
        limitedTo1(number("stripe_width", "Stripe width", 0.22f, 0, 1, "Pattern", "0 leaves the pattern out")),
        colored("outline", "Outline tone", "#C9B7A6", "Pile", "What the pile shows at the outline"),
        limitedTo1(number("nap", "Nap", 0.35f, 0, 1, "Pile", "How far the outline's tone reaches inward")),
        limitedTo1(number("pile", "Pile", 0.5f, 0, 1, "Pile", "Strength of the sheen")),
    };
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1);
    g.parameter("bands", 0, 2.4f);
    g.card("across", "multiply", 1, 0.6f, "Across").wire("in1", "uv", "out", "x").wire("in2", "card_bands");
    g.card("along", "multiply", 1, 1.8f, "Along").wire("in1", "uv", "out", "y").wire("in2", "card_bands");
    g.card("part", "fract", 2, 0.6f).wire("in", "across");
    g.card("middle", "subtract", 3, 0.6f).set("in2", 0.5f).wire("in1", "part");
    g.card("zig", "absolute_value", 4, 0.6f, "Zigzag").wire("in", "middle");
    g.card("shifted", "add", 5, 1.2f, "Shifted").wire("in1", "zig").wire("in2", "along");
    g.card("band", "fract", 6, 1.2f, "Band").wire("in", "shifted");
    g.parameter("stripe_width", 6, 2.4f);
    g.card("not_stripe", "step", 7, 1.6f, "Beside the stripe").wire("in", "band").wire("edge", "card_stripe_width");
    g.parameter("ground", 7, 3.2f);
    g.parameter("stripe", 7, 0.4f);
    g.card("pattern", "mix", 8, 1.2f, "Pattern").wire("bg", "card_stripe").wire("fg", "card_ground").wire("mix", "not_stripe");
    g.card("fuzz", "fractal", 1, 4.0f, "Fuzz").set("scale", Value::vec2(90, 90)).wire("uv", "uv");
    g.card("fuzz_slope", "height_to_normal", 2, 4.0f, "Fuzz slopes").set("scale", 0.0016f).wire("in", "fuzz");
    g.card("normal", "normal_map", 3, 4.0f).wire("in", "fuzz_slope");
    g.parameter("outline", 8, 3.2f);
    g.parameter("nap", 8, 4.0f);
    g.card("tones", "nap", 9, 2.0f, "Tones")
        .wire("face", "pattern")
        .wire("grazing", "card_outline")
        .wire("spread", "card_nap")
        .wire("normal", "normal");
    g.parameter("pile", 8, 4.8f);
    g.spread();
    g.bay("zigzag", {"across", "along", "part", "middle", "zig", "shifted", "band", "not_stripe", "card_stripe_width"});
    g.channel("base_color", "tones");
    g.channel("sheen", "card_pile");
    g.channel("sheen_color", "card_outline");
    g.channel("normal", "normal");
    m.graph.channelConstants["roughness"] = Value::number(0.95f);
    m.graph.channelConstants["sheen_roughness"] = Value::number(0.45f);
    return m;
}

Master makeVentGrille() {
    Master m;
    m.id = "vent_grille";
    m.name = "Vent grille";
    m.surface.alphaMode = AlphaMode::Mask;
    m.surface.doubleSided = true;
    m.parameters = {
        mapped("grille", "Grille", MapKind::Color, "grille_fine", "Grille", "Color; its alpha cuts out the holes"),
        colored("paint", "Paint", "#C9CCC6", "Grille", "Multiplies the color"),
        number("tiles", "Tiles", 4, 1, 16, "Grille", "Across the panel"),
        limitedTo1(number("dullness", "Dullness", 0.42f, 0, 1, "Grille", "Roughness of the paint")),
    };
    GraphWriter g(m);
    g.parameter("tiles", 0, 1);
    g.card("place", "place_2d", 1, 0.6f).wire("tiling", "card_tiles");
    g.parameter("grille", 1, 2.4f);
    g.card("map", "image", 2, 1, "Grille").wire("map", "card_grille").wire("uv", "place");
    g.parameter("paint", 2, 2.6f);
    g.card("color", "multiply", 3, 1, "Painted").wire("in1", "map", "color").wire("in2", "card_paint");
    g.parameter("dullness", 3, 2.6f);
    g.spread();
    g.channel("base_color", "color");
    g.channel("alpha", "map", "alpha");
    g.channel("roughness", "card_dullness");
    return m;
}

Master makeFrozenTrough() {
    Master m;
    m.id = "frozen_trough";
    m.name = "Frozen trough";
    m.surface.alphaMode = AlphaMode::Blend;
    m.surface.highlightsFade = false;
    layer(m, {Layer::Reflection});
    m.parameters = {
        colored("shallow", "Shallow", "#B9D6D8", "Ice", "Where little ice lies over the ground"),
        colored("deep", "Deep", "#0E3A46", "Ice", "Where much does"),
        number("clearness", "Clearness", 0.35f, 0.05f, 1.5f, "Ice", "Depth at which the ground is hidden", "m"),
        limitedTo1(number("frost", "Frost", 0.3f, 0, 1, "Surface", "Dull patches")),
        limitedTo1(number("cracks", "Cracks", 0.5f, 0, 1, "Surface", "White lines in the ice")),
    };
    GraphWriter g(m);
    g.card("gap", "depth_gap", 0, 0.6f);
    g.parameter("clearness", 0, 1.6f);
    g.card("part", "divide", 1, 0.8f, "Part of the depth").wire("in1", "gap").wire("in2", "card_clearness");
    g.card("depth", "clamp", 2, 0.8f, "Depth").wire("in", "part");
    g.parameter("shallow", 2, 2.2f);
    g.parameter("deep", 2, 3.0f);
    g.card("water", "mix", 3, 1.6f, "By depth").wire("bg", "card_shallow").wire("fg", "card_deep").wire("mix", "depth");
    g.card("cells", "worley_noise", 1, 4.4f, "Cells").set("scale", Value::vec2(5, 2.4f)).set("jitter", 1);
    g.card("crack", "smoothstep", 2, 4.4f, "Crack").set("low", 0.62f).set("high", 0.78f).wire("in", "cells");
    g.parameter("cracks", 2, 6.0f);
    g.card("lines", "multiply", 3, 4.4f, "Lines").wire("in1", "crack").wire("in2", "card_cracks");
    g.card("ice", "mix", 4, 1.6f, "Ice").set("fg", color("#EAF2F2")).wire("bg", "water").wire("mix", "lines");
    g.card("cover", "remap", 4, 3.4f, "Cover").set("outlow", 0.1f).set("outhigh", 0.97f).wire("in", "depth");
    g.card("alpha", "maximum", 5, 3.4f, "Alpha").wire("in1", "cover").wire("in2", "lines");
    g.card("patches", "fractal", 3, 6.6f, "Patches").set("scale", Value::vec2(3, 2)).set("amplitude", 0.5f).set("pivot", 0.5f);
    g.parameter("frost", 3, 5.8f);
    g.card("dull", "multiply", 4, 6.0f, "Dull").wire("in1", "patches").wire("in2", "card_frost");
    g.card("rough", "remap", 5, 5.2f, "Roughness").set("outlow", 0.06f).set("outhigh", 0.8f).wire("in", "dull");
    g.spread();
    g.channel("base_color", "ice");
    g.channel("alpha", "alpha");
    g.channel("roughness", "rough");
    m.graph.channelConstants["ior"] = Value::number(1.31f);
    return m;
}

Master makePitSteam() {
    Master m;
    m.id = "pit_steam";
    m.name = "Pit steam";
    m.surface.alphaMode = AlphaMode::Blend;
    m.surface.doubleSided = true;
    m.surface.simpleDiffuse = true;
    m.parameters = {
        colored("steam_color", "Color", "#E6E4DF", "Steam", "Of lit steam"),
        limitedTo1(number("density", "Density", 0.55f, 0, 1, "Steam", "How much it hides")),
        number("rise", "Rise", 0.22f, 0, 2, "Steam", "How fast it climbs", "/s"),
        number("size", "Size", 2.2f, 0.5f, 8, "Steam", "Of the billows; larger is finer"),
        number("soft_border", "Soft border", 0.3f, 0.01f, 1, "Steam", "Fades towards what it meets", "m"),
    };
    GraphWriter g(m);
    g.parameter("size", 0, 0);
    g.card("place", "place_2d", 1, 0).wire("tiling", "card_size");
    g.parameter("rise", 0, 2.2f);
    g.card("up", "multiply", 1, 2.2f, "Upward").set("in2", Value::vec2(0.05f, 1)).wire("in1", "card_rise");
    g.card("climb", "scroll", 2, 0.6f, "Climb").wire("uv", "place").wire("speed", "up");
    g.card("billows", "fractal", 3, 0.6f, "Billows")
        .set("scale", Value::vec2(1, 1))
        .set("amplitude", 0.7f)
        .set("pivot", 0.5f)
        .wire("uv", "climb");
    g.card("puffs", "smoothstep", 4, 0.6f, "Puffs").set("low", 0.3f).set("high", 0.85f).wire("in", "billows");
    g.card("uv", "texcoord", 0, 4.0f);
    g.card("from_side", "subtract", 1, 4.0f, "From the middle").set("in2", 0.5f).wire("in1", "uv", "out", "x");
    g.card("aside", "absolute_value", 2, 4.0f).wire("in", "from_side");
    g.card("outer", "smoothstep", 3, 4.0f, "Outer").set("low", 0.12f).set("high", 0.5f).wire("in", "aside");
    g.card("side_fade", "invert", 4, 3.6f, "Side").wire("in", "outer");
    g.card("top_fade", "smoothstep", 3, 5.6f, "Top").set("low", 0).set("high", 0.5f).wire("in", "uv", "out", "y");
    g.card("shape", "multiply", 5, 4.4f, "Shape").wire("in1", "side_fade").wire("in2", "top_fade");
    g.card("gap", "depth_gap", 3, 7.2f);
    g.parameter("soft_border", 3, 8.2f);
    g.card("border", "smoothstep", 4, 7.2f, "Border").set("low", 0).wire("in", "gap").wire("high", "card_soft_border");
    g.card("shaped", "multiply", 5, 1.6f).wire("in1", "puffs").wire("in2", "shape");
    g.card("soft", "multiply", 6, 2.4f).wire("in1", "shaped").wire("in2", "border");
    g.parameter("density", 6, 3.8f);
    g.card("alpha", "multiply", 7, 2.6f, "Alpha").wire("in1", "soft").wire("in2", "card_density");
    g.parameter("steam_color", 7, 1.4f);
    g.spread();
    g.bay("shape", {"uv", "from_side", "aside", "outer", "side_fade", "top_fade", "shape"});
    g.channel("base_color", "card_steam_color");
    g.channel("alpha", "alpha");
    return m;
}

Master makeFluorescentTube() {
    Master m;
    m.id = "fluorescent_tube";
    m.name = "Fluorescent tube";
    m.parameters = {
        colored("glow_color", "Glow", "#E8F3FF", "Light", "Color of the light"),
        number("brightness", "Brightness", 5, 0, 20, "Light", "Above 1 it glows"),
        limitedTo1(number("steadiness", "Steadiness", 1, 0, 1, "Failing", "Share of the time that it burns")),
        number("blink_rate", "Blink rate", 11, 1, 30, "Failing", "Possible jumps a second", "/s"),
        limitedTo1(number("swell", "Swell", 0.06f, 0, 1, "Failing", "Slow rise and fall")),
        limitedTo1(number("dark_ends", "Dark ends", 0.25f, 0, 1, "Failing", "How far the burnt ends reach")),
    };
    GraphWriter g(m);
    g.parameter("steadiness", 0, 0.4f);
    g.parameter("blink_rate", 0, 1.4f);
    g.card("blink", "flicker", 1, 0.6f, "Blinking").set("low", 0.06f).wire("share", "card_steadiness").wire("rate", "card_blink_rate");
    g.parameter("swell", 0, 3.4f);
    g.card("wave", "wave", 1, 3.4f, "Swelling").set("frequency", 0.5f).set("low", -1).set("high", 1);
    g.card("swung", "multiply", 2, 3.4f).wire("in1", "wave").wire("in2", "card_swell");
    g.card("level", "add", 3, 3.2f, "Level").set("in2", 1).wire("in1", "swung");
    g.card("power", "multiply", 4, 1.8f, "Power").wire("in1", "blink").wire("in2", "level");
    g.card("uv", "texcoord", 0, 6.2f);
    g.card("from_middle", "subtract", 1, 6.2f).set("in2", 0.5f).wire("in1", "uv", "out", "x");
    g.card("end", "absolute_value", 2, 6.2f, "To the end").wire("in", "from_middle");
    g.parameter("dark_ends", 1, 7.6f);
    g.card("burnt", "multiply", 2, 7.6f).set("in2", 0.4f).wire("in1", "card_dark_ends");
    g.card("inner", "subtract", 3, 7.6f).set("in1", 0.5f).wire("in2", "burnt");
    g.card("dark", "smoothstep", 4, 6.2f, "Dark").set("high", 0.5f).wire("in", "end").wire("low", "inner");
    g.card("light", "invert", 5, 6.2f, "Light").wire("in", "dark");
    g.card("lit", "multiply", 5, 2.4f, "Lit").wire("in1", "power").wire("in2", "light");
    g.parameter("glow_color", 5, 4.2f);
    g.card("glow", "multiply", 6, 2.8f, "Glow").wire("in1", "card_glow_color").wire("in2", "lit");
    g.parameter("brightness", 6, 4.4f);
    g.spread();
    g.bay("failing", {"card_steadiness", "card_blink_rate", "blink", "card_swell", "wave", "swung", "level", "power"});
    g.channel("emissive", "glow");
    g.channel("emissive_strength", "card_brightness");
    m.graph.channelConstants["base_color"] = Value::vec3(0.75f, 0.75f, 0.74f);
    m.graph.channelConstants["roughness"] = Value::number(0.25f);
    return m;
}

} // namespace hue::depot
