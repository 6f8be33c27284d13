#include "core/assemblies/library.h"

#include "core/board/tidy.h"
#include "core/document/names.h"
#include "core/nodes/assembly_card.h"

#include <stdexcept>
#include <variant>

namespace hue {
namespace {

/// What goes into a port: a wire, or a value.
using Feed = std::variant<Source, Value>;

/// Writes one assembly down. Ids are short and always the same, so that two projects have the same one.
class Maker {
  public:
    Maker(std::string id, std::string name, std::string description) {
        m_made.id = std::move(id);
        m_made.name = std::move(name);
        m_made.description = std::move(description);
    }

    /// An input; its card is wired from by what is returned.
    Source input(const std::string& name, ParameterType type, const Value& standard, float low, float high, const std::string& help,
                 const std::string& unit = {}) {
        Parameter p;
        p.id = "p" + std::to_string(m_made.parameters.size() + 1);
        p.name = name;
        p.codeName = codeNameFrom(name);
        p.type = type;
        p.standard.value = standard;
        p.softMin = low, p.softMax = high;
        p.unit = unit;
        p.description = help;
        return placed(std::move(p));
    }
    Source number(const std::string& name, float standard, float low, float high, const std::string& help, const std::string& unit = {}) {
        return input(name, ParameterType::Number, Value::number(standard), low, high, help, unit);
    }
    Source follows(const std::string& name, Follows what, const std::string& help) {
        Parameter p;
        p.id = "p" + std::to_string(m_made.parameters.size() + 1);
        p.name = name;
        p.codeName = codeNameFrom(name);
        p.type = what == Follows::Uv ? ParameterType::Vector2 : ParameterType::Vector3;
        p.standard.value = {what == Follows::Uv ? 2 : 3, {}};
        p.follows = what;
        p.description = help;
        return placed(std::move(p));
    }
    Source map(const std::string& name, MapKind kind, const std::string& help) {
        Parameter p;
        p.id = "p" + std::to_string(m_made.parameters.size() + 1);
        p.name = name;
        p.codeName = codeNameFrom(name);
        p.type = ParameterType::Map;
        p.mapKind = kind;
        p.description = help;
        return placed(std::move(p));
    }

    Source card(std::string_view kind, const std::vector<std::pair<std::string, Feed>>& feeds = {},
                std::map<std::string, std::string> settings = {}) {
        const NodeDef* def = findNodeDef(kind);
        if (!def) throw std::invalid_argument(std::string(kind));
        Node node = next(kind);
        node.settings = std::move(settings);
        for (const auto& [port, feed] : feeds) {
            if (!def->input(port)) throw std::invalid_argument(std::string(kind) + "." + port);
            if (const Source* wire = std::get_if<Source>(&feed)) node.wires[port] = *wire;
            else node.constants[port] = std::get<Value>(feed);
        }
        return put(std::move(node), def->outputs[0].key);
    }

    void output(const std::string& name, const Source& from) {
        Node node = next(kOutputKind);
        node.title = name;
        node.wires["in"] = from;
        put(std::move(node), "in");
    }

    AssemblyPtr done() {
        std::map<Id, Box> boxes;
        for (const auto& [id, node] : m_made.graph.nodes) {
            const float height = 74 + 19 * float(findNodeDef(node->kind)->inputs.size() + findNodeDef(node->kind)->settings.size());
            boxes[id] = {node->position.x, node->position.y, node->position.x + 166, node->position.y + height};
        }
        for (const auto& [id, at] : tidied(m_made.graph, boxes, {})) {
            auto copy = std::make_shared<Node>(*m_made.graph.nodes[id]);
            copy->position = at;
            m_made.graph.nodes[id] = std::move(copy);
        }
        return std::make_shared<Assembly>(std::move(m_made));
    }

  private:
    Source placed(Parameter p) {
        Node node = next("parameter");
        node.settings["parameter"] = p.id;
        m_made.parameters.push_back(std::move(p));
        return put(std::move(node), "out");
    }
    Node next(std::string_view kind) {
        Node node = makeNode(kind, {0, 160 * float(m_count)});
        node.id = "n" + std::to_string(++m_count);
        return node;
    }
    Source put(Node node, std::string_view port) {
        const Id id = node.id;
        m_made.graph.nodes[id] = std::make_shared<Node>(std::move(node));
        return {id, std::string(port), {}};
    }

    Assembly m_made;
    int m_count = 0;
};

Source take(Source wire, const char* letters) {
    wire.take = letters;
    return wire;
}

AssemblyPtr twoMovingNormals() {
    Maker m("lib-moving-normals", "Two moving normals", "A normal map laid over itself, both moving: water, heat haze, wind over cloth.");
    const Source map = m.map("Normal map", MapKind::Normal, "Read twice"), uv = m.follows("UV", Follows::Uv, "Where it is read");
    const Source tiling = m.number("Tiling", 2, 0.1f, 16, "Repeats of the first"),
                 ratio = m.number("Second tiling", 1.7f, 0.1f, 8,
                                  "Repeats of the second for one of the first; no whole number, or both repeat together");
    const Source first = m.input("First speed", ParameterType::Vector2, Value::vec2(0.125f, 0), -1, 1, "UV a second"),
                 second = m.input("Second speed", ParameterType::Vector2, Value::vec2(-0.125f, 0.125f), -1, 1, "UV a second");
    const Source strength = m.number("Strength", 1, 0, 2, "Of both");
    const Source uv1 = m.card("multiply", {{"in1", uv}, {"in2", tiling}}), uv2 = m.card("multiply", {{"in1", uv1}, {"in2", ratio}});
    const Source one = m.card("image", {{"map", map}, {"uv", m.card("scroll", {{"uv", uv1}, {"speed", first}})}}),
                 two = m.card("image", {{"map", map}, {"uv", m.card("scroll", {{"uv", uv2}, {"speed", second}})}});
    const Source joined = m.card("join_normals", {{"in1", one}, {"in2", two}, {"strength1", strength}, {"strength2", strength}});
    m.output("Encoded", joined);
    m.output("Normal", m.card("normal_map", {{"in", joined}}));
    return m.done();
}

AssemblyPtr edgeGlow() {
    Maker m("lib-edge-glow", "Edge glow", "Light along the outline, for the emission: selection, force, cold.");
    const Source color = m.input("Color", ParameterType::Color, Value::vec3(0.25f, 0.6f, 1), 0, 1, "Of the light"),
                 width = m.number("Falloff", 3, 0.5f, 8, "High values keep it close to the outline"),
                 strength = m.number("Strength", 1, 0, 8, "Of the light"),
                 normal = m.follows("Normal", Follows::Normal, "World space; as mapped, for detail in it");
    const Source facing = m.card("facing_ratio", {{"normal", normal}}, {{"invert", "on"}});
    const Source edge = m.card("power", {{"in1", facing}, {"in2", width}});
    m.output("Light", m.card("multiply", {{"in1", color}, {"in2", m.card("multiply", {{"in1", edge}, {"in2", strength}})}}));
    m.output("Mask", edge);
    return m.done();
}

AssemblyPtr heightAwareBorder() {
    Maker m("lib-height-border", "Height-aware border",
            "Two surfaces meet where their heights do: sand lies in the joints of stones first.");
    const Source mask = m.number("Mask", 0.5f, 0, 1, "How much of the second there is"),
                 low = m.number("First height", 0.5f, 0, 1, "Of the ground"),
                 high = m.number("Second height", 0.5f, 0, 1, "Of what lies on it"),
                 soft = m.number("Soft edge", 0.1f, 0.001f, 1, "Width of the border"),
                 first = m.input("First color", ParameterType::Color, Value::vec3(0.2f, 0.2f, 0.2f), 0, 1, "Of the ground"),
                 second = m.input("Second color", ParameterType::Color, Value::vec3(0.5f, 0.45f, 0.35f), 0, 1, "Of what lies on it");
    const Source blend = m.card("height_blend", {{"mix", mask}, {"bgheight", low}, {"fgheight", high}, {"soft edge", soft}});
    m.output("Color", m.card("mix", {{"bg", first}, {"fg", second}, {"mix", blend}}));
    m.output("Mask", blend);
    m.output("Height", m.card("mix", {{"bg", low}, {"fg", high}, {"mix", blend}}));
    return m.done();
}

AssemblyPtr softBorderByDepth() {
    Maker m("lib-soft-border", "Soft border by depth",
            "An alpha that fades where the surface comes close to what lies behind: smoke, water, light shafts.");
    const Source alpha = m.number("Alpha", 1, 0, 1, "Away from borders"),
                 far = m.number("Distance", 0.3f, 0.01f, 5, "Over which it fades", "m");
    const Source ramp = m.card("smoothstep", {{"in", m.card("depth_gap")}, {"low", Value::number(0)}, {"high", far}});
    m.output("Alpha", m.card("multiply", {{"in1", alpha}, {"in2", ramp}}));
    return m.done();
}

AssemblyPtr grimeByHeight() {
    Maker m("lib-grime", "Grime by height", "Dirt that has splashed up from the ground, uneven at its upper edge.");
    const Source top = m.number("Height", 0.4f, 0, 4, "Up to where it reaches", "m"),
                 soft = m.number("Soft edge", 0.3f, 0.01f, 2, "Over which it fades", "m"),
                 uneven = m.number("Unevenness", 0.3f, 0, 2, "How far the edge goes up and down", "m"),
                 scale = m.number("Scale", 3, 0.1f, 20, "Of the unevenness, in waves a metre");
    const Source at = m.card("position", {}, {{"space", "world"}});
    const Source noise = m.card("fractal_3d", {{"scale", scale}, {"amplitude", Value::number(1)}, {"pivot", Value::number(0)}},
                                {{"space", "world"}, {"octaves", "2"}});
    const Source edge = m.card("add", {{"in1", top}, {"in2", m.card("multiply", {{"in1", noise}, {"in2", uneven}})}});
    const Source ramp = m.card(
        "smoothstep", {{"in", m.card("subtract", {{"in1", edge}, {"in2", take(at, "y")}})}, {"low", Value::number(0)}, {"high", soft}});
    m.output("Mask", ramp);
    return m.done();
}

AssemblyPtr movingBands() {
    Maker m("lib-moving-bands", "Moving bands", "Bands that run along U or across: warning lights, belts, scanning light.");
    const Source uv = m.follows("UV", Follows::Uv, "Where it is read"), count = m.number("Bands", 6, 1, 40, "To one UV"),
                 share = m.number("Share", 0.5f, 0, 1, "Of each that is on"),
                 soft = m.number("Soft edge", 0.05f, 0.001f, 0.5f, "Of each, in bands"),
                 speed = m.number("Speed", 0.5f, -4, 4, "Bands a second"), slant = m.number("Slant", 0, -4, 4, "Bands that V moves it by");
    const Source along = m.card("add", {{"in1", m.card("multiply", {{"in1", take(uv, "x")}, {"in2", count}})},
                                        {"in2", m.card("multiply", {{"in1", take(uv, "y")}, {"in2", slant}})}});
    const Source moved = m.card("subtract", {{"in1", along}, {"in2", m.card("multiply", {{"in1", m.card("time")}, {"in2", speed}})}});
    const Source wave = m.card("triangle_wave", {{"in", moved}});
    // On where the wave lies above what is off.
    const Source edge = m.card("subtract", {{"in1", Value::number(1)}, {"in2", share}});
    const Source ramp = m.card("range",
                               {{"in", m.card("subtract", {{"in1", wave}, {"in2", edge}})},
                                {"inlow", m.card("multiply", {{"in1", soft}, {"in2", Value::number(-1)}})},
                                {"inhigh", soft}},
                               {{"limit", "on"}});
    m.output("Mask", ramp);
    return m.done();
}

AssemblyPtr slowSwell() {
    Maker m("lib-slow-swell", "Slow swell",
            "For the vertex offset: a surface that breathes along its normals, each place at its own time.");
    const Source height = m.number("Height", 0.02f, 0, 1, "How far it rises and falls", "m"),
                 speed = m.number("Speed", 0.25f, 0, 4, "Swells a second"),
                 scale = m.number("Scale", 2, 0.1f, 20, "Of the places that swell together, in waves a metre"),
                 normal = m.follows("Normal", Follows::Normal, "Along which it swells");
    const Source noise = m.card("noise_3d", {{"scale", scale}});
    const Source turn = m.card("add", {{"in1", m.card("multiply", {{"in1", m.card("time")}, {"in2", speed}})}, {"in2", noise}});
    const Source wave = m.card("sine", {{"in", m.card("multiply", {{"in1", turn}, {"in2", Value::number(6.2831853f)}})}});
    m.output("Offset", m.card("multiply", {{"in1", normal}, {"in2", m.card("multiply", {{"in1", wave}, {"in2", height}})}}));
    return m.done();
}

AssemblyPtr detailNormal() {
    Maker m("lib-detail-normal", "Detail normal", "A fine normal map that repeats on top of a coarse one.");
    const Source coarse = m.map("Normal map", MapKind::Normal, "The coarse one"),
                 fine = m.map("Detail map", MapKind::Normal, "The fine one"), uv = m.follows("UV", Follows::Uv, "Where both are read"),
                 tiling = m.number("Detail tiling", 8, 1, 64, "Repeats of the fine one"),
                 strength = m.number("Detail strength", 0.6f, 0, 2, "Of the fine one"),
                 mask = m.number("Mask", 1, 0, 1, "Where the fine one lies");
    const Source one = m.card("image", {{"map", coarse}, {"uv", uv}}),
                 two = m.card("image", {{"map", fine}, {"uv", m.card("multiply", {{"in1", uv}, {"in2", tiling}})}});
    const Source joined =
        m.card("join_normals", {{"in1", one}, {"in2", two}, {"strength2", m.card("multiply", {{"in1", strength}, {"in2", mask}})}});
    m.output("Encoded", joined);
    m.output("Normal", m.card("normal_map", {{"in", joined}}));
    return m.done();
}

AssemblyPtr packedMap() {
    Maker m("lib-packed-map", "Packed map", "Occlusion, roughness and metallic from one map, and a fourth mask from its alpha.");
    const Source map = m.map("Map", MapKind::Data, "Red: occlusion, green: roughness, blue: metallic"),
                 uv = m.follows("UV", Follows::Uv, "Where it is read"),
                 low = m.number("Roughness from", 0, 0, 1, "What green 0 stands for"),
                 high = m.number("Roughness to", 1, 0, 1, "What green 1 stands for"),
                 occlusion = m.number("Occlusion strength", 1, 0, 1, "How much of it counts");
    const Source image = m.card("image", {{"map", map}, {"uv", uv}});
    m.output("Occlusion", m.card("mix", {{"bg", Value::number(1)}, {"fg", take(image, "r")}, {"mix", occlusion}}));
    m.output("Roughness", m.card("mix", {{"bg", low}, {"fg", high}, {"mix", take(image, "g")}}));
    m.output("Metallic", take(image, "b"));
    m.output("Mask", {image.node, "alpha", {}});
    return m.done();
}

} // namespace

const std::vector<AssemblyPtr>& assemblyLibrary() {
    static const std::vector<AssemblyPtr> all{twoMovingNormals(), edgeGlow(),  heightAwareBorder(), softBorderByDepth(), grimeByHeight(),
                                              movingBands(),      slowSwell(), detailNormal(),      packedMap()};
    return all;
}

} // namespace hue
