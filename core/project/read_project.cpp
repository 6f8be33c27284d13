#include "core/base/diagnostic.h"
#include "core/nodes/catalogue.h"
#include "core/pack/recipe_json_private.h"
#include "core/project/store.h"
#include "core/surface/channels.h"

namespace hue {
namespace {

class ProjectReader {
  public:
    explicit ProjectReader(std::vector<Diagnostic>& report) : m_report(report) {}

    Project project(const Json& json) {
        Fields f(json, "the project", m_report);
        Project p;
        f.find("format");
        f.find("kind");
        p.name = f.text("name", "Untitled");
        for (const Json& j : objects(f.list("maps"), "maps")) p.maps.push_back(std::make_shared<MapFile>(map(j)));
        for (const Json& j : objects(f.list("packings"), "packings")) p.packings.push_back(std::make_shared<Packing>(packing(j)));
        for (const Json& j : objects(f.list("meshes"), "meshes")) p.meshes.push_back(std::make_shared<MeshFile>(mesh(j)));
        for (const Json& j : objects(f.list("masters"), "masters")) p.masters.push_back(std::make_shared<Master>(master(j)));
        for (const Json& j : objects(f.list("instances"), "instances")) p.instances.push_back(std::make_shared<Instance>(instance(j)));
        p.lineup = lineup(f.object("lineup"));
        p.loopSeconds = std::clamp(f.number("loop", 8), 0.1f, 3600.f);
        p.extra = f.rest();
        return p;
    }

  private:
    std::vector<Diagnostic>& m_report;

    /// The objects of a list; anything else in it is reported and left out.
    std::vector<std::reference_wrapper<const Json>> objectsOf(const Json& list, const char* where) {
        std::vector<std::reference_wrapper<const Json>> out;
        for (const Json& j : list) {
            if (j.is_object()) out.emplace_back(j);
            else
                m_report.push_back({Severity::Caution,
                                    "project.odd-entry",
                                    {},
                                    fmt::format("An entry of {} is not an object and was left out.", where),
                                    {}});
        }
        return out;
    }
    std::vector<Json> objects(const Json& list, const char* where) {
        std::vector<Json> out;
        for (const Json& j : objectsOf(list, where)) out.push_back(j);
        return out;
    }

    static MapKind mapKind(Fields& f) {
        return f.choice("kind",
                        {{"color", MapKind::Color}, {"data", MapKind::Data}, {"normal", MapKind::Normal}, {"height", MapKind::Height}},
                        MapKind::Color);
    }
    static std::optional<AlphaMode> alphaMode(Fields& f) {
        if (!f.find("alphaMode")) return {};
        return f.choice("alphaMode", {{"opaque", AlphaMode::Opaque}, {"mask", AlphaMode::Mask}, {"blend", AlphaMode::Blend}},
                        AlphaMode::Opaque);
    }

    MapFile map(const Json& json) {
        Fields f(json, "a map", m_report);
        MapFile m;
        m.id = f.text("id", newId('t'));
        m.name = f.text("name", m.id);
        m.path = f.text("path");
        m.kind = mapKind(f);
        m.wrap = f.choice("wrap", {{"repeat", Wrap::Repeat}, {"mirror", Wrap::Mirror}, {"clamp", Wrap::Clamp}}, Wrap::Repeat);
        m.hash = f.text("hash");
        m.set = f.text("set");
        m.role = f.text("role");
        m.format = f.text("format");
        if (f.find("madeFrom")) m.origin = origin(f.object("madeFrom"));
        m.extra = f.rest();
        return m;
    }

    MapOrigin origin(const Json& json) {
        Fields f(json, "what a map is made from", m_report);
        MapOrigin o;
        o.from = f.choice("from", {{"wire", MapOrigin::From::Wire}, {"packing", MapOrigin::From::Packing}}, MapOrigin::From::File);
        o.worn = f.text("worn");
        if (const Json* wire = f.find("wire"); wire && wire->is_object()) o.wire = source(*wire);
        const Value size = f.value("size", Value::vec2(1024, 1024));
        o.width = int(std::clamp(size[0], 1.f, float(kLargestSide)));
        o.height = int(std::clamp(size.width > 1 ? size[1] : size[0], 1.f, float(kLargestSide)));
        o.type = f.choice("samples",
                          {{"8-bit", SampleType::U8}, {"16-bit", SampleType::U16}, {"half", SampleType::F16}, {"float", SampleType::F32}},
                          SampleType::U8);
        o.seamless = f.truth("seamless", false);
        o.fingerprint = f.text("fingerprint");
        return o;
    }

    Packing packing(const Json& json) {
        Fields f(json, "a packing", m_report);
        Packing p;
        p.id = f.text("id", newId('k'));
        p.recipe = recipeOf(f.object("recipe"), m_report);
        for (const auto& [role, id] : f.object("sources").items())
            if (id.is_string()) p.sources[role] = id.get<std::string>();
        p.map = f.text("map");
        p.fingerprint = f.text("fingerprint");
        p.extra = f.rest();
        return p;
    }

    MeshFile mesh(const Json& json) {
        Fields f(json, "a mesh", m_report);
        MeshFile m;
        m.id = f.text("id", newId('g'));
        m.name = f.text("name", m.id);
        m.path = f.text("path");
        m.extra = f.rest();
        return m;
    }

    Source source(const Json& json) {
        Fields f(json, "a wire", m_report);
        Source s{f.text("from"), f.text("port", "out"), f.text("take")};
        return s;
    }

    std::map<std::string, Source> wires(const Json& json) {
        std::map<std::string, Source> out;
        for (const auto& [port, wire] : json.items())
            if (wire.is_object()) out[port] = source(wire);
        return out;
    }

    std::map<std::string, Value> values(const Json& json, const std::string& where) {
        std::map<std::string, Value> out;
        for (const auto& [port, j] : json.items()) {
            Value v;
            if (Fields::readValue(j, v)) out[port] = v;
            else
                m_report.push_back(
                    {Severity::Caution,
                     "project.odd-field",
                     {},
                     fmt::format("In {}, {} should be a number or a list of one to four; its default is used instead.", where, port),
                     {}});
        }
        return out;
    }

    Node node(const Json& json) {
        Fields f(json, "a card", m_report);
        Node n;
        n.id = f.text("id", newId('n'));
        n.kind = f.text("kind");
        n.title = f.text("title");
        const Value at = f.value("at", Value::vec2(0, 0));
        n.position = {at[0], at[1]};
        n.muted = f.truth("muted", false);
        n.constants = values(f.object("values"), "card " + n.id);
        for (const auto& [key, j] : f.object("settings").items())
            if (j.is_string()) n.settings[key] = j.get<std::string>();
        n.wires = wires(f.object("wires"));
        n.extra = f.rest();
        return n;
    }

    Parameter parameter(const Json& json) {
        Fields f(json, "a parameter", m_report);
        Parameter p;
        p.id = f.text("id", newId('p'));
        p.name = f.text("name", p.id);
        p.codeName = f.text("code", p.name);
        p.type = f.choice("type",
                          {{"number", ParameterType::Number},
                           {"vector2", ParameterType::Vector2},
                           {"vector3", ParameterType::Vector3},
                           {"color", ParameterType::Color},
                           {"map", ParameterType::Map}},
                          ParameterType::Number);
        p.mapKind = mapKind(f);
        if (p.type == ParameterType::Map) p.standard.map = f.text("default");
        else p.standard.value = f.value("default", Value::number(0));
        p.standard.value.width = std::max(1, p.width());
        const Value soft = f.value("range", Value::vec2(0, 1)), hard = f.value("limits", Value::vec2(-1e9f, 1e9f));
        p.softMin = soft[0];
        p.softMax = soft[1];
        p.hardMin = hard[0];
        p.hardMax = hard[1];
        p.unit = f.text("unit");
        p.group = f.text("group");
        p.description = f.text("description");
        p.extra = f.rest();
        return p;
    }

    Master master(const Json& json) {
        Fields f(json, "a master", m_report);
        Master m;
        m.id = f.text("id", newId('m'));
        m.name = f.text("name", m.id);
        m.surface.alphaMode = alphaMode(f).value_or(AlphaMode::Opaque);
        m.surface.alphaCutoff = std::clamp(f.number("alphaCutoff", 0.5f), 0.f, 1.f);
        m.surface.doubleSided = f.truth("doubleSided", false);
        m.surface.unlit = f.truth("unlit", false);
        m.surface.simpleDiffuse = f.truth("simpleDiffuse", false);
        m.surface.highlightsFade = f.truth("highlightsFade", true);
        for (const Json& j : f.list("layers"))
            for (const LayerDef& layer : layers())
                if (j == layer.key) m.surface.layers |= uint32_t(layer.layer);
        for (const Json& j : f.list("silencedAdvice"))
            if (j.is_string()) m.silencedAdvice.push_back(j.get<std::string>());
        for (const Json& j : objects(f.list("parameters"), "parameters")) m.parameters.push_back(parameter(j));
        m.graph.channelWires = wires(f.object("channels"));
        m.graph.channelConstants = values(f.object("channelValues"), "master " + m.name);
        for (const Json& j : f.list("mutedChannels"))
            if (j.is_string()) m.graph.mutedChannels.push_back(j.get<std::string>());
        for (const Json& j : objects(f.list("cards"), "cards")) {
            auto n = std::make_shared<Node>(node(j));
            const Id id = n->id;
            if (m.graph.nodes.contains(id))
                m_report.push_back({Severity::Caution,
                                    "project.same-id",
                                    {m.id, id, {}},
                                    fmt::format("Two cards of {} have the id {}; only the last was kept.", m.name, id),
                                    {}});
            m.graph.nodes[id] = std::move(n);
        }
        for (const Json& j : objects(f.list("bays"), "bays")) {
            Fields b(j, "a bay", m_report);
            Bay bay{b.text("id", newId('b')), b.text("name"), {}, {}};
            for (const Json& n : b.list("cards"))
                if (n.is_string()) bay.nodes.push_back(n.get<std::string>());
            bay.extra = b.rest();
            m.graph.bays.push_back(std::move(bay));
        }
        m.extra = f.rest();
        return m;
    }

    Instance instance(const Json& json) {
        Fields f(json, "an instance", m_report);
        Instance i;
        i.id = f.text("id", newId('i'));
        i.name = f.text("name", i.id);
        i.parent = f.text("parent");
        for (const auto& [id, j] : f.object("values").items()) {
            ParameterValue v;
            if (j.is_string()) v.map = j.get<std::string>();
            else if (!Fields::readValue(j, v.value)) continue;
            i.own[id] = v;
        }
        i.alphaMode = alphaMode(f);
        if (f.find("alphaCutoff")) i.alphaCutoff = std::clamp(f.number("alphaCutoff", 0.5f), 0.f, 1.f);
        if (f.find("doubleSided")) i.doubleSided = f.truth("doubleSided", false);
        i.extra = f.rest();
        return i;
    }

    static Orbit orbit(Fields& f) {
        Orbit o;
        o.yaw = f.number("yaw", 30);
        o.pitch = std::clamp(f.number("pitch", 18), -89.f, 89.f);
        o.standOff = std::clamp(f.number("standOff", 1), 0.2f, 10.f);
        const Value pan = f.value("pan", Value::vec2(0, 0));
        o.panX = std::clamp(pan[0], -4.f, 4.f);
        o.panY = std::clamp(pan[1], -4.f, 4.f);
        return o;
    }

    Yardstick yardstick(const Json& json) {
        Fields f(json, "the yardstick", m_report);
        Yardstick y;
        y.what = f.choice("what",
                          {{"none", Yardstick::What::None},
                           {"specimen", Yardstick::What::Specimen},
                           {"worn", Yardstick::What::Worn},
                           {"maps", Yardstick::What::Maps},
                           {"picture", Yardstick::What::Picture},
                           {"original", Yardstick::What::Original}},
                          Yardstick::What::None);
        y.specimen = std::clamp(int(f.number("specimen", 0)), 0, 5);
        y.worn = f.text("worn");
        size_t next = 0;
        for (const Json& m : f.list("maps"))
            if (next < 4 && m.is_string()) y.maps[next++] = m.get<std::string>();
        y.picture = f.text("picture");
        y.show = f.choice(
            "show", {{"beside", Yardstick::Show::Beside}, {"split", Yardstick::Show::Split}, {"difference", Yardstick::Show::Difference}},
            Yardstick::Show::Split);
        y.split = std::clamp(f.number("split", 0.5f), 0.f, 1.f);
        y.gain = std::clamp(f.number("gain", 4), 0.1f, 100.f);
        return y;
    }

    Lineup lineup(const Json& json) {
        Fields f(json, "the lineup", m_report);
        Lineup l;
        for (const Json& j : objects(f.list("specimens"), "specimens")) {
            Fields s(j, "a specimen", m_report);
            Specimen specimen;
            specimen.mesh = s.text("mesh", "shape:sphere");
            for (const Json& w : s.list("wears"))
                if (w.is_string()) specimen.wears.push_back(w.get<std::string>());
            for (const Json& t : objects(s.list("things"), "things")) {
                Fields thing(t, "a thing", m_report);
                const Value at = thing.value("at", Value::vec3(0, 0, 0));
                specimen.things.push_back({thing.text("kind"),
                                           {at[0], at[1], at[2]},
                                           std::clamp(thing.number("size", 1), 0.05f, 20.f),
                                           thing.truth("castsShadow", true)});
            }
            if (s.find("orbit")) {
                Fields o(s.object("orbit"), "an orbit", m_report);
                specimen.orbit = orbit(o);
            }
            specimen.light = s.text("light");
            specimen.subdivisions = std::clamp(int(s.number("subdivisions", 0)), 0, 5);
            specimen.castsShadow = s.truth("castsShadow", true);
            l.specimens.push_back(specimen);
        }
        l.view = f.text("view", "lit");
        l.light = f.text("light", "sodium-shed");
        l.exposure = std::clamp(f.number("exposure", 0), -8.f, 8.f);
        l.orbit = orbit(f);
        l.rotation = std::fmod(f.number("rotation", 0), 360.f);
        l.sun = std::clamp(f.number("sun", 1), 0.f, 8.f);
        l.tone = f.text("tone", "neutral");
        l.glare = std::clamp(f.number("glare", l.glare), 0.f, 1.f);
        l.backdrop = f.text("backdrop", "surround");
        const Value range = f.value("viewRange", Value::vec2(0, 1));
        if (range[1] > range[0]) l.viewLow = range[0], l.viewHigh = range[1];
        if (f.find("wire")) l.wire = source(f.object("wire"));
        l.wireMaster = f.text("wireMaster");
        if (f.find("yardstick")) l.yardstick = yardstick(f.object("yardstick"));
        return l;
    }
};

Error refuse(std::string code, std::string sentence) { return {std::move(code), std::move(sentence), {}}; }

/// Parents that lead in a circle would never end.
void breakLoops(Project& p, std::vector<Diagnostic>& report) {
    for (InstancePtr& slot : p.instances) {
        Id at = slot->parent;
        for (int steps = 0; p.instance(at); ++steps, at = p.instance(at)->parent) {
            if (at != slot->id && steps < 64) continue;
            auto copy = std::make_shared<Instance>(*slot);
            copy->parent = p.masters.empty() ? Id{} : p.masters[0]->id;
            report.push_back({Severity::Error,
                              "instance.loop",
                              {},
                              fmt::format("The instance {} was its own ancestor; it now hangs on {}.", slot->name,
                                          p.masters.empty() ? "nothing" : p.masters[0]->name),
                              {}});
            slot = std::move(copy);
            break;
        }
    }
}

} // namespace

Result<Loaded> parseProject(const std::string& text, const std::string& name) {
    if (text.find_first_not_of(" \t\r\n") == std::string::npos)
        return refuse("project.truncated", fmt::format("{} is empty. Bring back an earlier version of the file.", name));
    Json json;
    try {
        json = Json::parse(text);
    } catch (const Json::parse_error& e) {
        const auto line = 1 + std::count(text.begin(), text.begin() + std::min<long>(long(e.byte), long(text.size())), '\n');
        const std::string end = text.substr(text.find_last_not_of(" \t\r\n"), 1);
        if (e.byte >= text.size() || (text[text.find_first_not_of(" \t\r\n")] == '{' && end != "}"))
            return refuse("project.truncated",
                          fmt::format("{} ends in the middle, at line {}. Bring back an earlier version of the file.", name, line));
        return refuse("project.not-json", fmt::format("{} is not a project file: line {} is not JSON.", name, line));
    } catch (const Json::exception&) {
        // Such as a number that no computer can hold.
        return refuse("project.not-json", fmt::format("{} is not a project file: it holds a number out of range.", name));
    }
    if (!json.is_object() || json.value("kind", Json()) != "huestack project")
        return refuse("project.not-a-project", fmt::format("{} is JSON but not a Hue Stack project.", name));
    const Json format = json.value("format", Json());
    if (!format.is_number_integer() || format.get<int64_t>() < 1)
        return refuse("project.not-a-project", fmt::format("{} does not say which format it has.", name));
    if (format.get<int64_t>() > kFormat)
        return refuse("project.newer-format",
                      fmt::format("{} was saved by a newer version (format {}; this one reads up to {}). Open it with that version.", name,
                                  format.get<int64_t>(), kFormat));
    Loaded out;
    out.project = ProjectReader(out.report).project(json);
    breakLoops(out.project, out.report);
    return out;
}

} // namespace hue
