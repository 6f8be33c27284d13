#include "core/images/map.h"
#include "core/nodes/catalogue.h"
#include "core/pack/recipe_json_private.h"
#include "core/project/store.h"
#include "core/surface/channels.h"

namespace hue {
namespace {

Json of(const Value& v) {
    if (v.width == 1) return v[0];
    Json list = Json::array();
    for (int c = 0; c < v.width; ++c) list.push_back(v[c]);
    return list;
}

Json of(const Source& wire) {
    Json w{{"from", wire.node}, {"port", wire.port}};
    if (!wire.take.empty()) w["take"] = wire.take;
    return w;
}

Json of(const MapOrigin& o) {
    Json j = Json::object();
    j["from"] = o.from == MapOrigin::From::Wire ? "wire" : "packing";
    if (o.from == MapOrigin::From::Wire) {
        j["worn"] = o.worn;
        j["wire"] = of(o.wire);
        j["size"] = {o.width, o.height};
        j["samples"] = nameOf(o.type);
        j["seamless"] = o.seamless;
    }
    if (!o.fingerprint.empty()) j["fingerprint"] = o.fingerprint;
    return j;
}

Json of(const std::map<std::string, Source>& wires) {
    Json out = Json::object();
    for (const auto& [port, wire] : wires) out[port] = of(wire);
    return out;
}

Json of(const std::map<std::string, Value>& values) {
    Json out = Json::object();
    for (const auto& [key, value] : values) out[key] = of(value);
    return out;
}

Json of(const Node& n) {
    Json j{{"id", n.id}, {"kind", n.kind}};
    if (!n.title.empty()) j["title"] = n.title;
    j["at"] = Json::array({n.position.x, n.position.y});
    if (n.muted) j["muted"] = true;
    if (!n.constants.empty()) j["values"] = of(n.constants);
    if (!n.settings.empty()) {
        j["settings"] = Json::object();
        for (const auto& [key, value] : n.settings) j["settings"][key] = value;
    }
    if (!n.wires.empty()) j["wires"] = of(n.wires);
    addRest(j, n.extra);
    return j;
}

Json of(const Parameter& p) {
    static constexpr std::string_view types[] = {"number", "vector2", "vector3", "color", "map"};
    Json j{{"id", p.id}, {"name", p.name}, {"code", p.codeName}, {"type", types[int(p.type)]}};
    if (p.type == ParameterType::Map) {
        j["kind"] = nameOf(p.mapKind);
        j["default"] = p.standard.map;
    } else {
        j["default"] = of(p.standard.value);
        j["range"] = Json::array({p.softMin, p.softMax});
        j["limits"] = Json::array({p.hardMin, p.hardMax});
    }
    if (!p.unit.empty()) j["unit"] = p.unit;
    if (!p.group.empty()) j["group"] = p.group;
    if (!p.description.empty()) j["description"] = p.description;
    addRest(j, p.extra);
    return j;
}

Json of(const Master& m) {
    Json j{{"id", m.id},
           {"name", m.name},
           {"alphaMode", nameOf(m.surface.alphaMode)},
           {"alphaCutoff", m.surface.alphaCutoff},
           {"doubleSided", m.surface.doubleSided},
           {"unlit", m.surface.unlit}};
    if (m.surface.simpleDiffuse) j["simpleDiffuse"] = true;
    if (!m.surface.highlightsFade) j["highlightsFade"] = false;
    for (const LayerDef& layer : layers())
        if (m.surface.has(layer.layer)) j["layers"].push_back(layer.key);
    if (!m.silencedAdvice.empty()) j["silencedAdvice"] = m.silencedAdvice;
    j["parameters"] = Json::array();
    for (const Parameter& p : m.parameters) j["parameters"].push_back(of(p));
    j["channels"] = of(m.graph.channelWires);
    if (!m.graph.channelConstants.empty()) j["channelValues"] = of(m.graph.channelConstants);
    if (!m.graph.mutedChannels.empty()) j["mutedChannels"] = m.graph.mutedChannels;
    j["cards"] = Json::array();
    for (const auto& [id, node] : m.graph.nodes) j["cards"].push_back(of(*node));
    if (!m.graph.bays.empty()) {
        j["bays"] = Json::array();
        for (const Bay& bay : m.graph.bays) {
            Json b{{"id", bay.id}, {"name", bay.name}, {"cards", bay.nodes}};
            addRest(b, bay.extra);
            j["bays"].push_back(b);
        }
    }
    addRest(j, m.extra);
    return j;
}

Json of(const Instance& i, const Master* master) {
    Json j{{"id", i.id}, {"name", i.name}, {"parent", i.parent}};
    Json values = Json::object();
    for (const auto& [id, v] : i.own) {
        const Parameter* p = master ? master->parameter(id) : nullptr;
        values[id] = p && p->type == ParameterType::Map ? Json(v.map) : !p && !v.map.empty() ? Json(v.map) : of(v.value);
    }
    j["values"] = values;
    if (i.alphaMode) j["alphaMode"] = nameOf(*i.alphaMode);
    if (i.alphaCutoff) j["alphaCutoff"] = *i.alphaCutoff;
    if (i.doubleSided) j["doubleSided"] = *i.doubleSided;
    addRest(j, i.extra);
    return j;
}

void addOrbit(Json& j, const Orbit& o) {
    j["yaw"] = o.yaw;
    j["pitch"] = o.pitch;
    j["standOff"] = o.standOff;
    if (o.panX != 0 || o.panY != 0) j["pan"] = {o.panX, o.panY};
}

Json of(const Specimen& s) {
    Json j{{"mesh", s.mesh}, {"wears", s.wears}};
    for (const Thing& t : s.things) {
        Json thing{{"kind", t.kind}, {"at", t.position}};
        if (t.size != 1) thing["size"] = t.size;
        if (!t.castsShadow) thing["castsShadow"] = false;
        j["things"].push_back(thing);
    }
    if (s.orbit) {
        j["orbit"] = Json::object();
        addOrbit(j["orbit"], *s.orbit);
    }
    if (!s.light.empty()) j["light"] = s.light;
    if (s.subdivisions) j["subdivisions"] = s.subdivisions;
    if (!s.castsShadow) j["castsShadow"] = false;
    return j;
}

Json of(const Yardstick& y) {
    static constexpr const char* what[] = {"none", "specimen", "worn", "maps", "picture", "original"};
    static constexpr const char* show[] = {"beside", "split", "difference"};
    Json j{{"what", what[int(y.what)]}, {"show", show[int(y.show)]}, {"split", y.split}, {"gain", y.gain}};
    if (y.what == Yardstick::What::Specimen) j["specimen"] = y.specimen;
    if (y.what == Yardstick::What::Worn) j["worn"] = y.worn;
    if (y.what == Yardstick::What::Maps) j["maps"] = y.maps;
    if (y.what == Yardstick::What::Picture) j["picture"] = y.picture;
    return j;
}

Json of(const Lineup& l) {
    Json j;
    j["specimens"] = Json::array();
    for (const Specimen& s : l.specimens) j["specimens"].push_back(of(s));
    j["view"] = l.view;
    if (!l.wire.node.empty()) {
        j["wire"] = of(l.wire);
        j["wireMaster"] = l.wireMaster;
    }
    if (l.viewLow != 0 || l.viewHigh != 1) j["viewRange"] = {l.viewLow, l.viewHigh};
    j["light"] = l.light;
    if (l.rotation != 0) j["rotation"] = l.rotation;
    if (l.sun != 1) j["sun"] = l.sun;
    j["exposure"] = l.exposure;
    j["tone"] = l.tone;
    j["glare"] = l.glare;
    j["backdrop"] = l.backdrop;
    addOrbit(j, l.orbit);
    if (l.yardstick.what != Yardstick::What::None) j["yardstick"] = of(l.yardstick);
    return j;
}

} // namespace

std::string projectText(const Project& p) {
    Json j{{"kind", "huestack project"}, {"format", kFormat}, {"name", p.name}};
    j["maps"] = Json::array();
    for (const auto& m : p.maps) {
        Json map{{"id", m->id}, {"name", m->name}, {"path", m->path}, {"kind", nameOf(m->kind)}, {"wrap", nameOf(m->wrap)}};
        if (!m->hash.empty()) map["hash"] = m->hash;
        if (!m->set.empty()) map["set"] = m->set;
        if (!m->role.empty()) map["role"] = m->role;
        if (!m->format.empty()) map["format"] = m->format;
        if (m->origin.from != MapOrigin::From::File) map["madeFrom"] = of(m->origin);
        addRest(map, m->extra);
        j["maps"].push_back(map);
    }
    // Projects without packed maps keep the file that they had.
    if (!p.packings.empty()) j["packings"] = Json::array();
    for (const auto& k : p.packings) {
        Json packing{{"id", k->id}, {"recipe", recipeJson(k->recipe)}, {"sources", Json::object()}};
        for (const auto& [role, id] : k->sources) packing["sources"][role] = id;
        if (!k->map.empty()) packing["map"] = k->map;
        if (!k->fingerprint.empty()) packing["fingerprint"] = k->fingerprint;
        addRest(packing, k->extra);
        j["packings"].push_back(packing);
    }
    j["meshes"] = Json::array();
    for (const auto& m : p.meshes) {
        Json mesh{{"id", m->id}, {"name", m->name}, {"path", m->path}};
        addRest(mesh, m->extra);
        j["meshes"].push_back(mesh);
    }
    j["masters"] = Json::array();
    for (const auto& m : p.masters) j["masters"].push_back(of(*m));
    j["instances"] = Json::array();
    for (const auto& i : p.instances) j["instances"].push_back(of(*i, p.masterOf(i->id)));
    j["lineup"] = of(p.lineup);
    j["loop"] = p.loopSeconds;
    addRest(j, p.extra);
    return textOf(j);
}

} // namespace hue
