#include "core/edits/starting_points.h"

#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"

namespace hue {
namespace {

NodePtr shared(Node node) { return std::make_shared<Node>(std::move(node)); }

Parameter parameter(const char* name, const char* code, ParameterType type, Value standard, const char* help) {
    Parameter p;
    p.id = newId('p');
    p.name = name;
    p.codeName = code;
    p.type = type;
    p.standard.value = standard;
    p.hardMin = 0;
    p.hardMax = type == ParameterType::Number ? 100.f : 1.f;
    p.description = help;
    return p;
}

/// Puts a card for the parameter on the board; its id.
Id place(Master& m, const Parameter& p, float x, float y) {
    Node n = makeNode("parameter", {x, y});
    n.settings["parameter"] = p.id;
    m.graph.nodes[n.id] = shared(n);
    m.parameters.push_back(p);
    return n.id;
}

void addPlain(Master& m) {
    m.graph.channelWires["base_color"] = {
        place(m, parameter("Color", "color", ParameterType::Color, Value::vec3(0.6f, 0.35f, 0.12f), "Color of the surface"), 0, 0),
        "out",
        {}};
    Parameter roughness = parameter("Roughness", "roughness", ParameterType::Number, Value::number(0.4f), "0 mirrors, 1 scatters");
    roughness.hardMax = 1;
    m.graph.channelWires["roughness"] = {place(m, roughness, 0, 130), "out", {}};
    Parameter metallic = parameter("Metallic", "metallic", ParameterType::Number, Value::number(0), "1 for bare metal");
    metallic.hardMax = 1;
    m.graph.channelWires["metallic"] = {place(m, metallic, 0, 260), "out", {}};
}

void addMapped(Master& m) {
    Parameter tiles = parameter("Tiling", "tiling", ParameterType::Number, Value::number(2), "How often the maps repeat");
    tiles.softMax = 16;
    const Id scale = place(m, tiles, 0, 0);
    Node uv = makeNode("place_2d", {200, 0});
    uv.wires["tiling"] = {scale, "out", {}};
    auto map = [&](const char* name, const char* code, MapKind kind, float y) {
        Parameter p = parameter(name, code, ParameterType::Map, {}, "Empty shows the neutral value of its kind");
        p.mapKind = kind;
        Node image = makeNode("image", {600, y});
        image.title = name;
        image.wires["map"] = {place(m, p, 400, y), "out", {}};
        image.wires["uv"] = {uv.id, "out", {}};
        m.graph.nodes[image.id] = shared(image);
        return image.id;
    };
    const Id color = map("Color map", "color_map", MapKind::Color, 0), packed = map("Packed map", "packed_map", MapKind::Data, 170),
             normals = map("Normals", "normals", MapKind::Normal, 340);
    m.graph.nodes[uv.id] = shared(uv);
    const Id tint = place(
        m, parameter("Tint", "tint", ParameterType::Color, Value::vec3(0.8f, 0.8f, 0.8f), "Multiplied with the color map"), 600, -140);
    Node tinted = makeNode("multiply", {800, 0});
    tinted.wires["in1"] = {color, "color", {}};
    tinted.wires["in2"] = {tint, "out", {}};
    m.graph.nodes[tinted.id] = shared(tinted);
    Node decode = makeNode("normal_map", {800, 340});
    decode.wires["in"] = {normals, "color", {}};
    m.graph.nodes[decode.id] = shared(decode);
    // glTF's packing: occlusion, roughness, metallic.
    Node metal = makeNode("multiply", {800, 170});
    metal.title = "Metallic";
    metal.wires["in1"] = {packed, "color", "b"};
    metal.constants["in2"] = Value::number(0);
    m.graph.nodes[metal.id] = shared(metal);
    m.graph.channelWires = {{"base_color", {tinted.id, "out", {}}},
                            {"normal", {decode.id, "out", {}}},
                            {"roughness", {packed, "color", "g"}},
                            {"occlusion", {packed, "color", "r"}},
                            {"metallic", {metal.id, "out", {}}}};
}

void addGlow(Master& m) {
    m.graph.channelConstants["base_color"] = Value::vec3(0.02f, 0.02f, 0.02f);
    const Id color =
        place(m, parameter("Light color", "light_color", ParameterType::Color, Value::vec3(1, 0.6f, 0.2f), "Color of the glow"), 0, 0);
    Parameter speed = parameter("Pulse", "pulse", ParameterType::Number, Value::number(0.5f), "Swells per second");
    speed.softMax = 4;
    speed.unit = "/s";
    const Id frequency = place(m, speed, 0, 130);
    Parameter strength = parameter("Brightness", "brightness", ParameterType::Number, Value::number(4), "Above 1 it glows");
    strength.softMax = 20;
    const Id high = place(m, strength, 0, 260);
    Node wave = makeNode("wave", {220, 130});
    wave.wires["frequency"] = {frequency, "out", {}};
    wave.wires["high"] = {high, "out", {}};
    wave.constants["low"] = Value::number(0.4f);
    m.graph.nodes[wave.id] = shared(wave);
    m.graph.channelWires["emissive"] = {color, "out", {}};
    m.graph.channelWires["emissive_strength"] = {wave.id, "out", {}};
}

/// A finish of its own color and roughness; its card's id.
Id finish(Master& m, const std::string& title, const char* code, Value color, float roughness, float metallic, float x, float y) {
    Parameter tint = parameter((title + " color").c_str(), (std::string(code) + "_color").c_str(), ParameterType::Color, color, "");
    Parameter rough = parameter((title + " roughness").c_str(), (std::string(code) + "_roughness").c_str(), ParameterType::Number,
                                Value::number(roughness), "0 mirrors, 1 scatters");
    tint.description = "Color of the finish " + title;
    rough.hardMax = 1;
    tint.group = rough.group = title;
    Node card = makeNode("finish", {x + 220, y});
    card.title = title;
    card.wires["base_color"] = {place(m, tint, x, y), "out", {}};
    card.wires["roughness"] = {place(m, rough, x, y + 110), "out", {}};
    if (metallic > 0) card.constants["metallic"] = Value::number(metallic);
    const Id id = card.id;
    m.graph.nodes[id] = shared(std::move(card));
    return id;
}

/// Each finish lies over those before it where its channel is painted.
void addPainted(Master& m, bool four) {
    struct Over {
        const char *title, *code;
        Value color;
        float roughness, metallic;
    };
    static const Over all[] = {{"Enamel", "enamel", Value::vec3(0.42f, 0.24f, 0.05f), 0.25f, 0},
                               {"Primer", "primer", Value::vec3(0.27f, 0.22f, 0.17f), 0.7f, 0},
                               {"Metal", "metal", Value::vec3(0.56f, 0.55f, 0.53f), 0.4f, 1},
                               {"Rust", "rust", Value::vec3(0.21f, 0.07f, 0.025f), 0.9f, 0}};
    static const Over two[] = {all[0], all[3]};
    const std::span<const Over> chosen = four ? std::span<const Over>(all) : std::span<const Over>(two);
    constexpr float kApart = 330;
    Source beneath;
    for (size_t k = 0; k < chosen.size(); ++k) {
        const Over& over = chosen[k];
        const Id card = finish(m, over.title, over.code, over.color, over.roughness, over.metallic, 0, kApart * float(k));
        if (k == 0) {
            beneath = {card, "out", {}};
            continue;
        }
        Node painted = makeNode("painted", {440, kApart * float(k) + 160}),
             mix = makeNode("mix", {440 + 220 * float(k), kApart * float(k) - 110});
        painted.title = over.code;
        if (k > 1) painted.settings["channel"] = std::to_string(k);
        mix.wires = {{"bg", beneath}, {"fg", {card, "out", {}}}, {"mix", {painted.id, "out", {}}}};
        beneath = {mix.id, "out", {}};
        m.graph.nodes[painted.id] = shared(painted);
        m.graph.nodes[mix.id] = shared(mix);
    }
    m.graph.channelWires[std::string(kWholeSurface)] = beneath;
}

} // namespace

const std::vector<StartingPoint>& startingPoints() {
    static const std::vector<StartingPoint> all = {
        {"plain", "Plain surface", "Color, roughness and metallic as parameters"},
        {"mapped", "Mapped surface", "A tiled map set: color, packed occlusion, roughness and metallic, normals"},
        {"glow", "Glowing surface", "Light of its own that swells with time"},
        {"two-finishes", "Two finishes by paint", "One finish over another where a channel is painted on the mesh"},
        {"four-finishes", "Four finishes by paint", "Enamel, primer, metal and rust, each over what lies beneath by a painted channel"},
        {"empty", "Empty", "A bare master; type on the board to add"},
    };
    return all;
}

Master makeDecalMaster(const std::string& name) {
    Master m;
    m.id = newId('m');
    m.name = name;
    m.surface.decal = true;
    m.surface.alphaMode = AlphaMode::Blend;
    Parameter picture = parameter("Picture", "picture", ParameterType::Map, {}, "Covers as far as its alpha says");
    picture.mapKind = MapKind::Color;
    Node image = makeNode("image", {200, 0}), tinted = makeNode("multiply", {420, 0});
    image.wires["map"] = {place(m, picture, 0, 0), "out", {}};
    tinted.wires = {
        {"in1", {image.id, "color", {}}},
        {"in2",
         {place(m, parameter("Tint", "tint", ParameterType::Color, Value::vec3(1, 1, 1), "Multiplied with the picture"), 200, -140),
          "out",
          {}}}};
    Parameter roughness = parameter("Roughness", "roughness", ParameterType::Number, Value::number(0.6f), "0 mirrors, 1 scatters");
    roughness.hardMax = 1;
    m.graph.channelWires = {{"base_color", {tinted.id, "out", {}}},
                            {"alpha", {image.id, "alpha", {}}},
                            {"roughness", {place(m, roughness, 200, 160), "out", {}}}};
    m.graph.nodes[image.id] = shared(image);
    m.graph.nodes[tinted.id] = shared(tinted);
    return m;
}

Project makeProject(std::string_view startingPoint) {
    Project p;
    p.name = "Untitled";
    Master m;
    m.id = newId('m');
    m.name = "Master 1";
    if (startingPoint == "plain") addPlain(m);
    else if (startingPoint == "mapped") addMapped(m);
    else if (startingPoint == "glow") addGlow(m);
    else if (startingPoint == "two-finishes") addPainted(m, false);
    else if (startingPoint == "four-finishes") addPainted(m, true);
    p.lineup.specimens = {{"shape:sphere", {m.id}}};
    p.lineup.light = "grey-box";
    p.masters.push_back(std::make_shared<Master>(std::move(m)));
    return p;
}

} // namespace hue
