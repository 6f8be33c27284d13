// Masters of the yard outside: what hangs in the wind, shines back, and gathers dust. Two of them share an assembly of the library.
#include "core/assemblies/library.h"
#include "core/nodes/assembly_card.h"
#include "demo/graph_writer.h"

namespace hue::depot {
namespace {

constexpr const char* kGrime = "lib-grime";

} // namespace

std::vector<AssemblyPtr> makeAssemblies() {
    std::vector<AssemblyPtr> out;
    for (const AssemblyPtr& a : assemblyLibrary())
        if (a->id == kGrime) out.push_back(a);
    return out;
}

Master makeReflectiveStrip() {
    Master m;
    m.id = "reflective_strip";
    m.name = "Reflective strip";
    m.parameters = {
        colored("strip_color", "Strip color", "#F1F0E6", "Strip", "Seen face-on"),
        colored("slant_color", "Slant color", "#8E9498", "Strip", "Seen at a slant, where it sends no light back"),
        number("brightness", "Brightness", 1.6f, 0, 6, "Light", "Of the light that comes back face-on"),
        number("narrowness", "Narrowness", 4, 1, 16, "Light", "How close to face-on one must be to see it"),
        number("prisms", "Prisms", 60, 8, 160, "Strip", "Along one UV"),
        limitedTo1(number("dirt", "Dirt", 0.2f, 0, 1, "Wear", "Film that dulls both")),
    };
    GraphWriter g(m);
    g.card("facing", "facing_ratio", 0, 0);
    g.parameter("narrowness", 0, 1.2f);
    g.card("returned", "power", 1, 0, "Sent back").wire("in1", "facing").wire("in2", "card_narrowness");
    g.parameter("prisms", 0, 2.4f);
    g.card("lattice", "formula", 1, 1.6f, "Prisms")
        .choose("formula", "// triangles: three families of lines\nlet p = uv * a\n"
                           "fn edge(x) = smoothstep(0, 0.12, abs(fract(x) - 0.5))\n"
                           "edge(p.y) * edge(p.x + p.y / 2) * edge(p.x - p.y / 2)")
        .wire("a", "card_prisms");
    g.parameter("dirt", 0, 3.6f);
    g.card("film", "fractal", 1, 3.2f, "Film").set("scale", Value::vec2(5, 5)).set("amplitude", 0.5f).set("pivot", 0.5f);
    g.card("dull", "formula", 2, 3.2f, "Dull").choose("formula", "clamp(a * (0.4 + b))").wire("a", "card_dirt").wire("b", "film");
    g.parameter("strip_color", 1, 5.2f);
    g.parameter("slant_color", 1, 6.2f);
    g.card("tone", "mix", 2, 5.2f, "Tone").wire("bg", "card_slant_color").wire("fg", "card_strip_color").wire("mix", "facing");
    g.card("base", "mix", 3, 4.4f, "Base").set("fg", color("#4A453C")).wire("bg", "tone").wire("mix", "dull");
    g.parameter("brightness", 2, 1.4f);
    g.card("light", "formula", 3, 1, "Light")
        .choose("formula", "a * b * c * (1 - d)")
        .wire("a", "card_strip_color")
        .wire("b", "returned")
        .wire("c", "lattice")
        .wire("d", "dull");
    g.card("rough", "mix", 3, 6, "Roughness").set("bg", 0.22f).set("fg", 0.8f).wire("mix", "dull");
    g.spread();
    g.channel("base_color", "base");
    g.channel("emissive", "light");
    g.channel("emissive_strength", "card_brightness");
    g.channel("roughness", "rough");
    return m;
}

Master makeTarpaulin() {
    Master m;
    m.id = "tarpaulin";
    m.name = "Tarpaulin";
    m.surface.doubleSided = true;
    m.parameters = {
        colored("cover", "Cover", "#3E6A58", "Cloth", "Color of the coated cloth"),
        number("weave", "Weave", 90, 10, 300, "Cloth", "Threads to one UV"),
        limitedTo1(number("weave_depth", "Weave depth", 0.2f, 0, 1, "Cloth", "0 is a smooth coat")),
        number("wind", "Wind", 0.03f, 0, 0.2f, "Wind", "How far the cloth is moved", "m"),
        number("pace", "Pace", 0.25f, 0.125f, 2, "Wind", "Waves a second; eighths come back with the loop", "/s"),
        number("splash", "Splash height", 0.25f, 0, 2, "Dirt", "Up to where dirt has splashed", "m"),
        limitedTo1(number("dirt", "Dirt", 0.6f, 0, 1, "Dirt", "How thick it lies")),
    };
    GraphWriter g(m);
    g.parameter("wind", 0, 0);
    g.parameter("pace", 0, 1);
    g.card("waves", "formula", 1, 0, "Wind waves")
        .choose("formula", "let t = time * b * 2 * pi\n"
                           "// a long wave, and a short one that runs twice as fast\n"
                           "let long = sin(position.x * 3.1 + t) * cos(position.z * 2.3 - t)\n"
                           "let short = sin(position.x * 9 + position.z * 7 + t * 2)\n"
                           "normal * (long + 0.3 * short) * a")
        .wire("a", "card_wind")
        .wire("b", "card_pace");
    g.parameter("weave", 0, 2.4f);
    g.card("threads", "formula", 1, 2.4f, "Threads")
        .choose("formula", "let p = uv * a * 2 * pi\n0.5 + 0.5 * sin(p.x) * sin(p.y)")
        .wire("a", "card_weave");
    g.parameter("weave_depth", 1, 4);
    g.card("depth", "multiply", 2, 4).set("in2", 0.004f).wire("in1", "card_weave_depth");
    g.card("slopes", "height_to_normal", 3, 2.4f).wire("in", "threads").wire("scale", "depth");
    g.card("normal", "normal_map", 4, 2.4f).wire("in", "slopes");
    g.parameter("splash", 0, 5.4f);
    g.assembly("grime", kGrime, 1, 5.4f).set("soft_edge", 0.2f).set("unevenness", 0.4f).wire("height", "card_splash");
    g.parameter("dirt", 1, 7.4f);
    g.card("dirty", "multiply", 2, 6, "Dirty").wire("in1", "grime", "mask").wire("in2", "card_dirt");
    g.parameter("cover", 2, 7.4f);
    g.card("base", "mix", 3, 6.2f, "Base").set("fg", color("#3A3227")).wire("bg", "card_cover").wire("mix", "dirty");
    g.card("rough", "mix", 3, 7.8f, "Roughness").set("bg", 0.42f).set("fg", 0.9f).wire("mix", "dirty");
    g.spread();
    g.channel("vertex_offset", "waves");
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    g.channel("normal", "normal");
    return m;
}

Master makeBrakeDust() {
    Master m;
    m.id = "brake_dust";
    m.name = "Brake dust";
    m.parameters = {
        colored("paint", "Paint", "#45494C", "Paint", "Of the clean frame"),
        colored("dust", "Dust", "#5A3B26", "Dust", "Iron that has rusted on its way"),
        limitedTo1(number("amount", "Amount", 0.6f, 0, 1, "Dust", "How thick it lies")),
        number("over_rail", "Over the rail", 0.5f, 0, 2, "Dust", "Height that it reaches", "m"),
        number("grain", "Grain", 40, 4, 200, "Dust", "Clumps to a metre"),
    };
    GraphWriter g(m);
    g.card("up", "facing_axis", 0, 0, "Up").set("low", 0.1f).set("high", 0.9f);
    g.card("wheel", "facing_axis", 0, 2, "To the wheel").set("axis", Value::vec3(0, -0.3f, 1)).set("low", 0.2f).set("high", 0.9f);
    g.card("caught", "maximum", 1, 1, "Caught").wire("in1", "up").wire("in2", "wheel");
    g.parameter("over_rail", 0, 4);
    g.assembly("reach", kGrime, 1, 3.4f).set("soft_edge", 0.25f).set("unevenness", 0.15f).wire("height", "card_over_rail");
    g.card("lies", "multiply", 2, 1.6f, "Lies there").wire("in1", "caught").wire("in2", "reach", "mask");
    g.parameter("grain", 1, 5.6f);
    g.card("clumps", "noise_3d", 2, 4.4f, "Clumps").set("amplitude", 0.6f).set("pivot", 0.6f).wire("scale", "card_grain");
    g.parameter("amount", 2, 6.4f);
    g.card("mask", "formula", 3, 2, "Dust")
        .choose("formula", "clamp(a * b * (0.5 + c))")
        .wire("a", "lies")
        .wire("b", "card_amount")
        .wire("c", "clumps");
    g.parameter("paint", 3, 4);
    g.parameter("dust", 3, 5);
    g.card("base", "mix", 4, 2.6f, "Base").wire("bg", "card_paint").wire("fg", "card_dust").wire("mix", "mask");
    g.card("rough", "mix", 4, 4.4f, "Roughness").set("bg", 0.38f).set("fg", 0.92f).wire("mix", "mask");
    g.spread();
    g.channel("base_color", "base");
    g.channel("roughness", "rough");
    return m;
}

} // namespace hue::depot
