#include "demo/graph_writer.h"

namespace hue::depot {

Master makeBodywork() {
    Master m;
    m.id = "bodywork";
    m.name = "Bodywork";
    m.parameters = {
        buildChoice("livery_kind", "Livery", {"band", "plain", "split"}, 0, "Build", "A band along the waist, one color, or two halves"),
        buildChoice("painted_wear", "Painted wear", {}, 1, "Build", "Primer and rust as they are painted on the mesh"),
        buildChoice("chips", "Chips", {}, 1, "Build", "Enamel that has come off edges and rivets"),
        colored("enamel_color", "Enamel color", "#DCA54A", "Enamel", "The livery above the band"),
        colored("band_color", "Band color", "#EFE6D2", "Enamel", "The band along the waist"),
        limitedTo1(number("band_height", "Band height", 0.26f, 0, 1, "Enamel", "How far the band reaches up; 0 leaves it out")),
        limitedTo1(number("enamel_roughness", "Enamel roughness", 0.22f, 0, 1, "Enamel", "Low is fresh from the paint shop")),
        number("panel_count", "Panel count", 2, 1, 8, "Panels", "Panels per tile, across and down"),
        number("seam_depth", "Seam depth", 1, 0, 2, "Panels", "Strength of seams, rivets and dents"),
        limitedTo1(number("edge_wear", "Edge wear", 0.18f, 0, 1, "Wear", "How far the enamel has come off edges and rivets")),
        limitedTo1(number("grime", "Grime", 0.25f, 0, 1, "Wear", "Dirt that settles in the grain")),
        colored("metal_color", "Metal color", "#CBC6BB", "Wear", "Steel under the enamel"),
    };
    // What a choice leaves idle is not shown.
    const auto shownWhen = [&](const Id& parameter, const Id& by, std::vector<int> is) {
        for (Parameter& p : m.parameters)
            if (p.id == parameter) p.shownWhen = {by, std::move(is)};
    };
    shownWhen("edge_wear", "chips", {1});
    shownWhen("metal_color", "chips", {1});
    shownWhen("band_height", "livery_kind", {0});
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1.6f);
    g.parameter("panel_count", 0, 0.4f);
    g.card("place", "place_2d", 1, 1.0f).wire("uv", "uv").wire("tiling", "card_panel_count");
    g.card("masks", "image", 2, 0.1f, "Panel masks").choose("map", "panel_masks").wire("uv", "place");
    g.card("normals", "image", 2, 1.4f, "Panel normals").choose("map", "panel_normal").wire("uv", "place");
    g.parameter("seam_depth", 2, 2.7f);
    g.card("normal", "normal_map", 3, 2.0f).wire("in", "normals", "color").wire("scale", "card_seam_depth");
    // Wear: the nearness of an edge, roughened by the grain, against how far the wear has come.
    g.parameter("edge_wear", 3, -1.6f);
    g.card("reach", "remap", 4, -1.6f, "Wear reach").set("outlow", 1.72f).set("outhigh", 0.62f).wire("in", "card_edge_wear");
    g.card("rough_edge", "add", 4, -0.4f, "Edges and grain").wire("in1", "masks", "color", "r").wire("in2", "masks", "color", "g");
    g.card("reach_end", "add", 5, -1.6f).set("in2", 0.12f).wire("in1", "reach");
    g.card("worn", "smoothstep", 5, -0.4f, "Worn").wire("in", "rough_edge").wire("low", "reach").wire("high", "reach_end");
    // Livery: a band along the waist.
    g.parameter("band_height", 3, 3.3f);
    g.card("height", "dot", 1, 3.0f, "Height on panel").wire("in", "uv", "out", "y");
    g.card("band_top", "subtract", 4, 3.3f).set("in1", 0.62f).wire("in2", "card_band_height");
    g.card("above", "smoothstep", 5, 2.7f, "Below the top").wire("in", "height").wire("low", "band_top").wire("high", "band_top");
    g.card("below", "step", 4, 4.4f, "Below the band").set("edge", 0.62f).wire("in", "height");
    g.card("band", "subtract", 6, 3.0f, "Band").wire("in1", "above").wire("in2", "below");
    g.parameter("enamel_color", 5, 0.7f);
    g.parameter("band_color", 5, 1.7f);
    g.card("livery", "mix", 6, 1.3f, "Livery").wire("bg", "card_enamel_color").wire("fg", "card_band_color").wire("mix", "band");
    g.card("split", "mix", 6, 0.0f, "Two halves").wire("bg", "card_enamel_color").wire("fg", "card_band_color").wire("mix", "below");
    g.parameter("livery_kind", 6, -1.2f);
    g.card("liveries", "choose", 7, 0.4f, "Liveries")
        .choose("values", "3")
        .wire("which", "card_livery_kind")
        .wire("in1", "livery")
        .wire("in2", "card_enamel_color")
        .wire("in3", "split");
    // Grime darkens and dulls.
    g.parameter("grime", 5, 4.2f);
    g.card("dirt", "multiply", 6, 4.2f, "Dirt").wire("in1", "card_grime").wire("in2", "masks", "color", "g");
    g.card("dirty", "mix", 8, 1.9f, "Dirty livery").set("fg", color("#2A241D")).wire("bg", "liveries").wire("mix", "dirt");
    // What is painted on the mesh: primer that shows, and rust over it. The grain breaks their borders up.
    g.card("primer", "painted", 7, -2.2f, "primer").choose("channel", "2");
    g.card("rust", "painted", 7, -3.4f, "rust");
    g.card("primer_shows", "formula", 8, -2.2f, "Primer shows")
        .choose("formula", "smoothstep(0.4, 0.6, a * (0.75 + 0.5 * b))")
        .wire("a", "primer")
        .wire("b", "masks", "color", "g");
    g.card("rusty", "formula", 8, -3.4f, "Rusty")
        .choose("formula", "smoothstep(0.2, 0.7, a * (0.6 + 0.8 * b))")
        .wire("a", "rust")
        .wire("b", "masks", "color", "g");
    g.card("rust_color", "mix", 8, -4.6f, "Rust color")
        .set("bg", color("#3F2013"))
        .set("fg", color("#8C4A20"))
        .wire("mix", "masks", "color", "g");
    g.parameter("enamel_roughness", 6, 5.3f);
    g.card("dull", "add", 7, 4.7f).wire("in1", "card_enamel_roughness").wire("in2", "dirt");
    g.card("dull_most", "clamp", 7, 5.4f, "At most rough").wire("in", "dull");
    // Four finishes, each over those before; seams and rivets are the sheet's, whatever lies on it.
    g.parameter("metal_color", 8, 3.2f);
    const auto finish = [&](const Id& id, const char* title, float row) -> GraphWriter& {
        return g.card(id, "finish", 9, row, title).wire("normal", "normal").wire("occlusion", "masks", "color", "b");
    };
    finish("enamel", "Enamel", 4.0f).wire("base_color", "dirty").wire("roughness", "dull_most");
    finish("metal", "Bare metal", 1.4f).wire("base_color", "card_metal_color").set("roughness", 0.58f).set("metallic", 1);
    finish("primer_finish", "Primer", -1.2f).set("base_color", color("#8E7F6E")).set("roughness", 0.55f);
    finish("rust_finish", "Rust", -3.8f).wire("base_color", "rust_color").set("roughness", 0.88f);
    g.card("chipped", "mix", 10, 2.4f, "Chipped enamel")
        .wire("bg", "enamel")
        .wire("fg", "metal")
        .wire("mix", "worn")
        .choose("unseen", "skipped");
    g.parameter("chips", 10, 1.2f);
    g.card("edges", "choose", 11, 2.4f, "Edges").wire("which", "card_chips").wire("in1", "enamel").wire("in2", "chipped");
    g.card("primed", "mix", 12, 0.4f, "Primer over it")
        .wire("bg", "edges")
        .wire("fg", "primer_finish")
        .wire("mix", "primer_shows")
        .choose("unseen", "skipped");
    g.card("rusted", "mix", 13, -1.4f, "Rust over all")
        .wire("bg", "primed")
        .wire("fg", "rust_finish")
        .wire("mix", "rusty")
        .choose("unseen", "skipped");
    g.parameter("painted_wear", 13, 1.2f);
    g.card("surface", "choose", 14, 0.4f, "Surface").wire("which", "card_painted_wear").wire("in1", "edges").wire("in2", "rusted");
    g.spread();
    g.bay("panel tiling", {"uv", "card_panel_count", "place"});
    g.bay("paint", {"primer", "rust", "primer_shows", "rusty", "rust_color"});
    g.bay("wear", {"card_edge_wear", "reach", "rough_edge", "reach_end", "worn"});
    g.channel("finish", "surface");
    return m;
}

Master makeSetts() {
    Master m;
    m.id = "setts";
    m.name = "Setts";
    m.parameters = {
        number("tiling", "Tiling", 1, 0.25f, 4, "Stone", "Repeats per metre and a bit"),
        colored("stone_tint", "Stone tint", "#F2EBDD", "Stone", "Multiplied with the stone's own color"),
        number("relief", "Relief", 1, 0, 2, "Stone", "Strength of the joints"),
        limitedTo1(number("wetness", "Wetness", 0, 0, 1, "Weather", "Darkens the stone and makes it shine")),
        limitedTo1(number("water_level", "Water level", 0, 0, 1, "Weather", "Height up to which water stands in the joints")),
        limitedTo1(number("moss", "Moss", 0.1f, 0, 1, "Growth", "How much of the joints is overgrown")),
        colored("moss_color", "Moss color", "#4E5A24", "Growth", "Moss and grass"),
    };
    // The brightest grain of moss is a quarter brighter than its color.
    m.parameters.back().hardMax = 0.8f;
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1.3f);
    g.parameter("tiling", 0, 0.2f);
    g.card("place", "place_2d", 1, 0.7f).wire("uv", "uv").wire("tiling", "card_tiling");
    g.card("stone", "image", 2, -0.8f, "Stone").choose("map", "setts_color").wire("uv", "place");
    g.card("height", "image", 2, 0.5f, "Height").choose("map", "setts_height").wire("uv", "place");
    g.card("normals", "image", 2, 1.8f, "Stone normals").choose("map", "setts_normal").wire("uv", "place");
    g.parameter("stone_tint", 2, -2.0f);
    g.card("tinted", "multiply", 3, -1.2f, "Tinted").wire("in1", "stone", "color").wire("in2", "card_stone_tint");
    // Moss grows from the joints up, in patches.
    g.card("patches", "fractal", 2, 3.2f, "Patches").set("scale", 3).choose("octaves", "4").wire("uv", "place");
    g.card("uneven", "subtract", 3, 1.0f, "Uneven height").wire("in1", "height", "color", "r").wire("in2", "patches");
    g.parameter("moss", 3, 2.4f);
    g.card("moss_top", "remap", 4, 2.2f, "Moss top").set("outlow", -0.55f).set("outhigh", 0.5f).wire("in", "card_moss");
    g.card("moss_edge", "add", 5, 2.6f).set("in2", 0.22f).wire("in1", "moss_top");
    g.card("bare", "smoothstep", 5, 1.2f, "Bare stone").wire("in", "uneven").wire("low", "moss_top").wire("high", "moss_edge");
    // Scattered, so that no cushion is seen twice.
    g.card("moss_scatter", "hex_tiled_image", 3, -4.2f, "Moss cushions")
        .choose("map", "moss")
        .set("tiling", Value::vec2(1.6f, 1.6f))
        .wire("uv", "place");
    g.card("moss_grain", "remap", 4, -2.3f, "Moss grain")
        .set("outlow", 0.3f)
        .set("outhigh", 1.25f)
        .wire("in", "moss_scatter", "color", "r");
    g.parameter("moss_color", 4, -3.4f);
    g.card("moss_shade", "multiply", 5, -2.5f, "Moss").wire("in1", "card_moss_color").wire("in2", "moss_grain");
    g.card("ground", "mix", 6, -1.2f, "Ground").wire("bg", "moss_shade").wire("fg", "tinted").wire("mix", "bare");
    // Water: a damp film everywhere, and standing water below its level.
    g.parameter("water_level", 3, 4.5f);
    g.parameter("wetness", 6, 3.6f);
    g.card("level_end", "add", 4, 4.9f).set("in2", 0.06f).wire("in1", "card_water_level");
    g.card("dry", "smoothstep", 5, 4.2f, "Above water")
        .wire("in", "height", "color", "r")
        .wire("low", "card_water_level")
        .wire("high", "level_end");
    g.card("water", "invert", 6, 4.8f, "Standing water").wire("in", "dry");
    g.card("wet", "maximum", 7, 3.8f, "Wet").wire("in1", "card_wetness").wire("in2", "water");
    g.card("darkened", "remap", 7, 2.4f, "Darkening").set("outlow", 1).set("outhigh", 0.5f).wire("in", "wet");
    g.card("base", "multiply", 8, -0.4f, "Base").wire("in1", "ground").wire("in2", "darkened");
    g.card("stone_rough", "mix", 7, 1.0f, "Dry roughness").set("bg", 0.97f).set("fg", 0.78f).wire("mix", "bare");
    g.card("damp_rough", "mix", 8, 2.0f, "Damp").set("fg", 0.34f).wire("bg", "stone_rough").wire("mix", "wet");
    g.card("rough", "mix", 9, 2.6f, "Roughness").set("fg", 0.06f).wire("bg", "damp_rough").wire("mix", "water");
    g.parameter("relief", 6, 0.2f);
    g.card("flattened", "multiply", 7, -0.2f, "Relief over water").wire("in1", "card_relief").wire("in2", "dry");
    g.card("normal", "normal_map", 8, 0.9f).wire("in", "normals", "color").wire("scale", "flattened");
    g.card("shade", "remap", 8, 3.6f, "Joint shade")
        .set("inlow", 0.1f)
        .set("inhigh", 0.6f)
        .set("outlow", 0.45f)
        .choose("limit", "on")
        .wire("in", "height", "color", "r");
    g.spread();
    g.bay("tiling", {"uv", "card_tiling", "place"});
    g.bay("moss", {"patches", "uneven", "card_moss", "moss_top", "moss_edge", "bare"});
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    g.channel("normal", "normal");
    g.channel("occlusion", "shade");
    return m;
}

Master makeMossySetts() {
    Master m;
    m.id = "mossy_setts";
    m.name = "Mossy setts";
    m.parameters = {
        ofFinish("stones", "Stones", "setts_dry", "Stone", "What the moss grows on"),
        ofSets("ground", "Ground", "setts", "Stone", "Whose maps tell how its stones stand"),
        mapped("stone_height", "Height of the stones", MapKind::Height, "", "Stone", "Which of them stand out of it"),
        buildChoice("grows", "Grows", {"as painted", "in all joints"}, 0, "Moss", "Where it is"),
        limitedTo1(number("soft_edge", "Soft edge", 0.14f, 0.01f, 1, "Moss", "Range of heights over which moss and stone are both seen")),
        drawn("moss_colors", "Greens", "gradient straight: 0 #22290E, 1 #5D6B26", "Moss",
              "From between the cushions to where the sun falls"),
        drawn("cushion", "Cushions", "curve straight: 0 0, 1 1", "Moss", "How they rise from their edge to their middle"),
        number("cushion_size", "Size of cushions", 26, 1, 60, "Moss", "Cushions to a repetition"),
        buildChoice("dew", "Dew", {}, 0, "Dew", "Drops on the moss"),
        colored("dew_color", "Color of the dew", "#C8E4F2", "Dew", "Of what it mirrors, and how much of it is seen"),
        limitedTo1(number("dew_gloss", "Gloss of the dew", 0.7f, 0, 1, "Dew", "How smooth the moss is under it")),
    };
    for (Parameter& p : m.parameters) {
        if (p.id == "cushion_size")
            p.type = ParameterType::Vector2, p.components = {"across", "along"}, p.standard.value = Value::vec2(26, 26);
        if (p.id == "stone_height") p.mostPixels = 2048, p.leastChannels = 1, p.ofSet = "ground", p.setRole = "height";
        if (p.id == "dew_color") p.alpha = true, p.strongest = 4, p.standard.value = Value::vec4(0.58f, 0.78f, 0.9f, 0.35f);
        if (p.group == "Dew" && p.id != "dew") p.shownWhen = {"dew", {1}};
    }
    GraphWriter g(m);
    // The yard, by itself as it is dry, and how high its stones stand.
    g.card("stone", kFinishOfKind, 1, 0).choose(std::string(kFinishOfSetting), "stones");
    g.parameter("stone_height", 0, 1.5f);
    g.card("height", "image", 1, 1.5f, "Height of the stones").wire("map", "card_stone_height");
    g.card("standing", "with_channel", 2, 0.3f, "Standing stones")
        .choose("channel", "height")
        .wire("finish", "stone")
        .wire("value", "height", "color", "r");
    // Cushions of moss.
    g.card("uv", "texcoord", -2, 3.6f);
    g.parameter("cushion_size", -2, 4.6f);
    g.card("places", "multiply", -1, 3.6f).wire("in1", "uv").wire("in2", "card_cushion_size");
    g.card("cushions", "fractal", 0, 3.6f, "Cushions").set("scale", 1).choose("octaves", "2").wire("uv", "places");
    g.card("noise", "remap", 1, 3.6f, "From 0 to 1").set("inlow", -0.7f).set("inhigh", 0.7f).choose("limit", "on").wire("in", "cushions");
    g.parameter("cushion", 1, 4.8f);
    g.card("domes", "read_along", 2, 3.8f, "Domes").wire("map", "card_cushion").wire("in", "noise");
    g.parameter("moss_colors", 2, 5.2f);
    g.card("greens", "read_along", 3, 4.6f, "Greens").wire("map", "card_moss_colors").wire("in", "domes", "value");
    g.card("slopes", "height_to_normal", 3, 6.4f, "Slopes").set("scale", 0.6f).wire("in", "domes", "value");
    g.card("bulge", "normal_map", 4, 6.4f, "Bulge").wire("in", "slopes");
    g.card("rises", "remap", 3, 3.2f, "Rises to").set("outlow", 0.35f).set("outhigh", 0.75f).wire("in", "domes", "value");
    // Dew lies where the cushions are high.
    g.parameter("dew_color", 3, 8);
    g.parameter("dew_gloss", 3, 9);
    g.card("drops", "multiply", 4, 8, "Drops").wire("in1", "card_dew_color", "out", "a").wire("in2", "domes", "value");
    g.card("dewy_color", "mix", 5, 7.4f, "Under dew")
        .wire("bg", "greens", "color")
        .wire("fg", "card_dew_color", "out", "rgb")
        .wire("mix", "drops");
    g.card("gloss", "multiply", 5, 9, "Smoother").wire("in1", "card_dew_gloss").wire("in2", "drops");
    g.card("dewy_rough", "subtract", 6, 9, "Roughness").set("in1", 0.96f).wire("in2", "gloss");
    g.parameter("dew", 5, 5.6f);
    g.card("moss_color", "choose", 6, 6, "Color").wire("which", "card_dew").wire("in1", "greens", "color").wire("in2", "dewy_color");
    g.card("moss_rough", "choose", 7, 8, "Roughness").set("in1", 0.96f).wire("which", "card_dew").wire("in2", "dewy_rough");
    g.card("moss", "finish", 7, 2.6f, "Moss")
        .set("occlusion", 0.85f)
        .wire("base_color", "moss_color")
        .wire("roughness", "moss_rough")
        .wire("normal", "bulge")
        .wire("height", "rises");
    // Where it is painted it fills the joints first.
    g.card("painted", "painted", 4, 1.4f, "moss");
    g.card("stands_out", "smoothstep", 3, 0, "Stands out").set("low", 0.35f).set("high", 0.75f).wire("in", "height", "color", "r");
    g.card("joints", "invert", 4, 0, "In the joints").wire("in", "stands_out");
    g.parameter("grows", 5, 0);
    g.card("where", "choose", 6, 1, "Where it grows").wire("which", "card_grows").wire("in1", "painted").wire("in2", "joints");
    g.parameter("soft_edge", 7, 6.2f);
    g.card("overgrown", "finish_height_blend", 8, 1.0f, "Overgrown")
        .wire("bg", "standing")
        .wire("fg", "moss")
        .wire("mix", "where")
        .wire("soft edge", "card_soft_edge")
        .choose("unseen", "skipped");
    g.spread();
    g.bay("moss", {"uv", "card_cushion_size", "places", "cushions", "noise", "card_cushion", "domes", "card_moss_colors", "greens",
                   "slopes", "bulge", "rises"});
    g.bay("dew", {"card_dew_color", "card_dew_gloss", "drops", "dewy_color", "gloss", "dewy_rough"});
    g.channel(std::string(kWholeSurface), "overgrown");
    return m;
}

Master makeRouteDisplay() {
    Master m;
    m.id = "route_display";
    m.name = "Route display";
    m.parameters = {
        mapped("letters", "Letters", MapKind::Data, "letters_line_4", "Text", "One texel a lamp, 96 x 16, white where lit"),
        number("scroll_speed", "Scroll speed", 0.125f, 0, 1, "Text", "Turns of the text per second", "/s"),
        colored("lamp_color", "Lamp color", "#FFB42E", "Lamps", "Light of a lit lamp"),
        number("brightness", "Brightness", 6, 0, 20, "Lamps", "Above 1 the lamps glow"),
        limitedTo1(number("lamp_size", "Lamp size", 0.78f, 0.2f, 1, "Lamps", "Diameter against the spacing")),
        limitedTo1(number("border", "Border", 0.045f, 0, 0.2f, "Frame", "Dark frame around the lamps")),
    };
    GraphWriter g(m);
    g.card("uv", "texcoord", 0, 1);
    g.card("lamps_uv", "multiply", 1, 1, "Lamp grid").set("in2", Value::vec2(96, 16)).wire("in1", "uv");
    g.card("lamp", "floor", 2, 0.3f, "Which lamp").wire("in", "lamps_uv");
    g.card("within", "fract", 2, 1.6f, "Within lamp").wire("in", "lamps_uv");
    // The text moves by whole lamps, as on a real display.
    g.parameter("scroll_speed", 0, -1.2f);
    g.card("turn", "wave", 1, -1.2f, "Turn").choose("shape", "saw").wire("frequency", "card_scroll_speed");
    g.card("steps", "multiply", 2, -1.2f).set("in2", 96).wire("in1", "turn");
    g.card("whole", "floor", 3, -1.2f, "Whole lamps").wire("in", "steps");
    g.card("shift", "combine", 4, -1.2f, "Shift").choose("components", "2").wire("r", "whole");
    g.card("moved", "add", 5, -0.6f, "Moved lamp").wire("in1", "lamp").wire("in2", "shift");
    g.card("centre", "add", 6, -0.6f, "Lamp centre").set("in2", Value::vec2(0.5f, 0.5f)).wire("in1", "moved");
    g.card("letter_uv", "divide", 7, -0.6f, "Letter UV").set("in2", Value::vec2(96, 16)).wire("in1", "centre");
    g.parameter("letters", 7, -1.7f);
    g.card("text", "image", 8, -1.0f, "Text").wire("map", "card_letters").wire("uv", "letter_uv");
    // Round lamps.
    g.card("from_centre", "distance", 3, 1.6f, "From lamp centre").set("in2", Value::vec2(0.5f, 0.5f)).wire("in1", "within");
    g.parameter("lamp_size", 3, 2.8f);
    g.card("radius", "multiply", 4, 2.4f, "Radius").set("in2", 0.5f).wire("in1", "card_lamp_size");
    g.card("inner", "subtract", 5, 2.9f).set("in2", 0.14f).wire("in1", "radius");
    g.card("outside", "smoothstep", 6, 1.9f, "Outside lamp").wire("in", "from_centre").wire("low", "inner").wire("high", "radius");
    g.card("disc", "invert", 7, 1.9f, "Lamp disc").wire("in", "outside");
    // The frame.
    g.parameter("border", 3, 4.4f);
    g.card("middle", "subtract", 1, 3.6f).set("in2", Value::vec2(0.5f, 0.5f)).wire("in1", "uv");
    g.card("off", "absolute_value", 2, 3.6f, "From middle").wire("in", "middle");
    g.card("wider", "maximum", 3, 3.4f, "To the nearer side").wire("in1", "off", "out", "x").wire("in2", "off", "out", "y");
    g.card("inside_edge", "subtract", 4, 4.1f).set("in1", 0.5f).wire("in2", "card_border");
    g.card("framed", "step", 5, 4.0f, "Frame").wire("in", "wider").wire("edge", "inside_edge");
    g.card("open", "invert", 6, 3.6f, "Inside the frame").wire("in", "framed");
    g.card("lit", "multiply", 9, 0.2f, "Lit lamps").wire("in1", "text", "color", "r").wire("in2", "disc");
    g.card("shown", "multiply", 10, 0.8f, "Shown").wire("in1", "lit").wire("in2", "open");
    g.parameter("lamp_color", 10, -0.8f);
    g.card("glow", "multiply", 11, 0, "Glow").wire("in1", "card_lamp_color").wire("in2", "shown");
    g.card("dark", "multiply", 8, 2.4f, "Lamp and frame").wire("in1", "disc").wire("in2", "open");
    g.card("base", "mix", 9, 2.4f, "Base").set("bg", color("#0E0E0F")).set("fg", color("#33302B")).wire("mix", "dark");
    g.card("rough", "mix", 10, 3.0f, "Roughness").set("bg", 0.55f).set("fg", 0.2f).wire("mix", "dark");
    g.parameter("brightness", 11, 1.4f);
    g.spread();
    g.bay("scrolling", {"card_scroll_speed", "turn", "steps", "whole", "shift"});
    g.bay("frame", {"middle", "off", "wider", "card_border", "inside_edge", "framed", "open"});
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    g.channel("emissive", "glow");
    g.channel("emissive_strength", "card_brightness");
    return m;
}

std::vector<Instance> makeInstances() {
    std::vector<Instance> all;
    auto add = [&](const Id& id, const char* name, const Id& parent, std::map<Id, ParameterValue> own) {
        Instance i;
        i.id = id;
        i.name = name;
        i.parent = parent;
        i.own = std::move(own);
        all.push_back(i);
    };
    auto n = [](float x) { return ParameterValue{Value::number(x), {}}; };
    auto c = [](const char* hex) { return ParameterValue{color(hex), {}}; };
    add("line_ochre", "Line Ochre", "bodywork", {});
    add("line_ochre_worn", "Line Ochre Worn", "line_ochre", {{"edge_wear", n(0.44f)}, {"grime", n(0.55f)}, {"enamel_roughness", n(0.3f)}});
    add("line_teal", "Line Teal", "bodywork", {{"enamel_color", c("#1F7F78")}, {"edge_wear", n(0.1f)}});
    add("line_teal_split", "Line Teal Split", "line_teal", {{"livery_kind", n(2)}, {"band_color", c("#E7EFEA")}});
    add("works_grey", "Works Grey", "bodywork",
        {{"enamel_color", c("#4B4E50")},
         {"livery_kind", n(1)},
         {"enamel_roughness", n(0.48f)},
         {"seam_depth", n(0.4f)},
         {"grime", n(0.45f)}});
    add("heritage_cream", "Heritage Cream", "bodywork",
        {{"enamel_color", c("#E9DDBB")},
         {"band_color", c("#7A1F1B")},
         {"band_height", n(0.18f)},
         {"edge_wear", n(0.05f)},
         {"enamel_roughness", n(0.12f)}});
    add("showroom", "Showroom", "heritage_cream", {{"painted_wear", n(0)}, {"chips", n(0)}, {"grime", n(0)}});
    add("works_grey_salted", "Works Grey Salted", "works_grey",
        {{"enamel_color", c("#5A5D5C")}, {"grime", n(0.8f)}, {"edge_wear", n(0.5f)}});
    add("setts_dry", "Dry", "setts", {});
    add("setts_after_rain", "After rain", "setts", {{"wetness", n(0.7f)}, {"water_level", n(0.5f)}, {"moss", n(0.22f)}});
    add("setts_overgrown", "Overgrown", "setts", {{"moss", n(0.8f)}, {"wetness", n(0.15f)}});
    add("yard_moss", "Yard", "mossy_setts", {{"soft_edge", n(0.18f)}});
    add("yard_morning", "Morning", "yard_moss",
        {{"stones", {{}, "setts_after_rain"}},
         {"dew", n(1)},
         {"moss_colors", {{}, "gradient smooth: 0 #161D12, 0.55 #40542A, 1 #7C8A4A"}},
         {"cushion", {{}, "curve smooth: 0 0, 0.35 0.55, 1 1"}}});
    add("yard_joints", "Joints", "mossy_setts", {{"grows", n(1)}, {"soft_edge", n(0.3f)}});
    add("tile_bottle", "Bottle", "glazed_tile", {});
    add("tile_bone", "Bone", "glazed_tile",
        {{"glaze_thick", c("#E4DABF")}, {"glaze_thin", c("#F4EEDC")}, {"variation", n(0.35f)}, {"grime", n(0.35f)}});
    add("tile_crazed", "Crazed", "glazed_tile",
        {{"glaze_thick", c("#2A5B6B")}, {"glaze_thin", c("#8FB9B4")}, {"crazing", n(0.9f)}, {"grime", n(0.8f)}});
    add("tile_bottle_light", "Bottle", "glazed_tile_light", {});
    add("ballast_grey", "Grey", "ballast", {});
    add("ballast_rust", "Rust-stained", "ballast", {{"stain", n(0.8f)}, {"tiling", n(2)}, {"tint", c("#E8D6C4")}});
    add("display_line_4", "Line 4", "route_display", {});
    add("display_depot_only", "Depot only", "route_display",
        {{"letters", {{}, "letters_depot_only"}}, {"lamp_color", c("#E8F0FF")}, {"scroll_speed", n(0)}, {"brightness", n(4)}});
    add("lens_ruby", "Ruby", "signal_lens", {});
    add("lens_smoked", "Smoked", "signal_lens", {{"glass_color", c("#5A4A3C")}, {"density", n(0.3f)}, {"film", n(0.7f)}, {"rings", n(4)}});
    add("lens_etched", "Etched", "signal_lens", {{"glass_color", c("#2FA866")}, {"density", n(0.25f)}, {"etching", n(0.75f)}});
    add("window_drizzle", "Drizzle", "rainy_window", {});
    add("window_downpour", "Downpour", "rainy_window", {{"rain", n(1.3f)}, {"speed", n(0.5f)}, {"mist", n(0.2f)}, {"drop_scale", n(3)}});
    add("felt_zigzag", "Zigzag", "seat_felt", {});
    add("felt_plain", "Plain", "seat_felt", {{"stripe_width", n(0)}, {"ground", c("#2B4A3C")}, {"pile", n(0.8f)}});
    add("grille_fine_", "Fine", "vent_grille", {});
    add("grille_coarse_", "Coarse", "vent_grille", {{"grille", {{}, "grille_coarse"}}, {"paint", c("#7F8A80")}, {"tiles", n(2)}});
    add("trough_clear", "Clear", "frozen_trough", {});
    add("trough_milky", "Milky", "frozen_trough",
        {{"clearness", n(0.12f)}, {"shallow", c("#DFE9E6")}, {"deep", c("#A9C4C2")}, {"frost", n(0.8f)}});
    add("steam_thin", "Thin", "pit_steam", {{"density", n(0.3f)}});
    add("steam_dense", "Dense", "pit_steam", {{"density", n(0.9f)}, {"rise", n(0.4f)}});
    add("tube_new", "New", "fluorescent_tube", {{"dark_ends", n(0.05f)}});
    add("tube_failing", "Failing", "fluorescent_tube",
        {{"steadiness", n(0.55f)}, {"dark_ends", n(0.7f)}, {"glow_color", c("#FFE2C4")}, {"swell", n(0.3f)}});
    add("strip_white", "White", "reflective_strip", {});
    add("strip_lime", "Lime", "reflective_strip", {{"strip_color", c("#C9E04A")}, {"slant_color", c("#7A8B3A")}, {"brightness", n(2.2f)}});
    add("tarpaulin_calm", "Calm", "tarpaulin", {{"wind", n(0.012f)}, {"pace", n(0.125f)}});
    add("tarpaulin_gusty", "Gusty", "tarpaulin", {{"wind", n(0.07f)}, {"pace", n(0.5f)}, {"cover", c("#A65A2A")}});
    add("dust_light", "Light", "brake_dust", {{"amount", n(0.35f)}});
    add("dust_heavy", "Heavy", "brake_dust", {{"amount", n(0.95f)}, {"over_rail", n(0.9f)}});
    const auto m = [](const char* map) { return ParameterValue{{}, map}; };
    add("fleet_number", "Fleet number", "stencil", {});
    add("hazard", "Hazard stripes", "stencil", {{"shape", m("hazard_stripes")}, {"ink", c("#1B1814")}, {"ink_roughness", n(0.45f)}});
    add("chalk", "Chalk", "stencil",
        {{"shape", m("chalk_mark")}, {"ink", c("#F2F0E8")}, {"ink_roughness", n(0.95f)}, {"strength", n(0.85f)}});
    add("oil", "Oil", "stencil", {{"shape", m("oil_stain")}, {"ink", c("#15120E")}, {"ink_roughness", n(0.12f)}, {"strength", n(0.9f)}});
    add("night_line", "Night Line", "poster", {});
    return all;
}

/// The same tiles for machines with less room: the runs of the glaze are computed at the vertices, a third less per pixel, and next to
/// nothing of that is seen.
Master makeLightTile() {
    Master m = makeGlazedTile();
    m.id = "glazed_tile_light";
    m.name = "Glazed tile, light";
    auto thickness = std::make_shared<Node>(*m.graph.nodes.at("pool"));
    thickness->wires.at("bg").perVertex = true;
    m.graph.nodes["pool"] = std::move(thickness);
    return m;
}

std::vector<Master> makeMasters() {
    return {makeBodywork(),     makeSetts(),           makeMossySetts(),      makeGlazedTile(), makeLightTile(),
            makeBallast(),      makeSeatFelt(),        makeVentGrille(),      makeSignalLens(), makeRainyWindow(),
            makeRouteDisplay(), makeFluorescentTube(), makeReflectiveStrip(), makeTarpaulin(),  makePitSteam(),
            makeFrozenTrough(), makeBrakeDust(),       makeStencil(),         makePoster()};
}

Lineup makeLineup() {
    Lineup l;
    auto add = [&](const Id& mesh, std::vector<Id> wears) -> Specimen& {
        Specimen specimen;
        specimen.mesh = mesh;
        specimen.wears = std::move(wears);
        return l.specimens.emplace_back(specimen);
    };
    add("tram_side_panel", {"line_ochre_worn"}).paintwork = "tram_side";
    add("yard_with_steps", {"yard_moss"}).paintwork = "yard";
    add("route_display", {"display_line_4", "works_grey"});
    add("signal_lens", {"lens_ruby", "works_grey"}).things = {{"signs", {0, 0.05f, -0.75f}, 1.15f, true}};
    l.orbit.yaw = 32;
    l.orbit.pitch = 22;
    l.exposure = 0.35f;
    return l;
}

} // namespace hue::depot
