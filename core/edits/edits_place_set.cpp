// A map set as cards on the board.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/catalogue.h"

namespace hue::edit {
namespace {

/// Where the maps of a role go.
struct Destination {
    std::string_view role, channel, take;
    std::string_view through; ///< a card between, with its input "in"; none when empty
};
constexpr Destination kDestinations[] = {{"base color", "base_color", "", ""}, {"normal", "normal", "", "normal_map"},
                                         {"roughness", "roughness", "r", ""},  {"gloss", "roughness", "r", "invert"},
                                         {"metallic", "metallic", "r", ""},    {"occlusion", "occlusion", "r", ""},
                                         {"emissive", "emissive", "", ""},     {"opacity", "alpha", "r", ""}};

/// Puts cards below those that are there, in the columns that lead to the surface.
class Placer {
  public:
    explicit Placer(Master& m) : m_master(m) {
        float right = 600, low = -kRow;
        for (const auto& [id, node] : m.graph.nodes) right = std::max(right, node->position.x), low = std::max(low, node->position.y);
        m_x = right - 600, m_y = low + kRow;
    }

    void start() {
        const Parameter* there = nullptr;
        for (const Parameter& p : m_master.parameters)
            if (p.type == ParameterType::Number && p.codeName == "tiling") there = &p;
        Parameter tiling;
        if (there) {
            tiling = *there;
        } else {
            tiling = named("Tiling", ParameterType::Number, "How often the maps repeat");
            tiling.standard.value = Value::number(1);
            tiling.softMax = 8, tiling.hardMin = 0, tiling.hardMax = 100;
            m_master.parameters.push_back(tiling);
        }
        Node place = makeNode("place_2d", {m_x, m_y});
        place.wires["tiling"] = {parameterCard(tiling.id, m_x - kColumn, m_y), "out", {}};
        m_place = keep(place);
    }

    /// An Image card that reads the map through a parameter of its own.
    Id image(const MapFile& map, const std::string& name) {
        Parameter p = named(name, ParameterType::Map, "Empty shows the neutral value of its kind");
        p.mapKind = map.kind;
        p.standard.map = map.id;
        m_master.parameters.push_back(p);
        Node card = makeNode("image", {m_x + 2 * kColumn, m_y});
        card.title = name;
        card.wires["map"] = {parameterCard(p.id, m_x + kColumn, m_y), "out", {}};
        card.wires["uv"] = {m_place, "out", {}};
        return keep(card);
    }
    void wire(const Id& from, const Destination& to) {
        Source source{from, "color", std::string(to.take)};
        if (!to.through.empty()) {
            Node between = makeNode(std::string(to.through), {m_x + 3 * kColumn, m_y});
            between.wires["in"] = source;
            source = {keep(between), "out", {}};
        }
        m_master.graph.channelWires[std::string(to.channel)] = source;
        m_master.graph.channelConstants.erase(std::string(to.channel));
    }
    void nextRow() { m_y += kRow; }

  private:
    static constexpr float kColumn = 200, kRow = 170;

    Parameter named(const std::string& name, ParameterType type, const char* description) const {
        std::vector<std::string> names, codes;
        for (const Parameter& p : m_master.parameters) names.push_back(p.name), codes.push_back(p.codeName);
        Parameter p;
        p.id = newId('p');
        p.name = freeName(names, name);
        p.codeName = freeCodeName(codes, codeNameFrom(p.name));
        p.type = type;
        p.group = "Maps";
        p.description = description;
        return p;
    }
    Id parameterCard(const Id& parameter, float x, float y) {
        Node card = makeNode("parameter", {x, y});
        card.settings["parameter"] = parameter;
        return keep(card);
    }
    Id keep(const Node& node) {
        m_master.graph.nodes[node.id] = std::make_shared<Node>(node);
        return node.id;
    }

    Master& m_master;
    Id m_place;
    float m_x, m_y;
};

/// What a packed map's lanes hold, by role: as its recipe says, or for a map that was packed elsewhere in glTF's order.
std::vector<std::string> lanesOf(const Project& project, const MapFile& map) {
    std::vector<std::string> lanes;
    for (const auto& k : project.packings)
        if (k->map == map.id)
            for (const Lane& lane : k->recipe.lanes) lanes.push_back(lane.from == Lane::From::Map && lane.ops.empty() ? lane.source : "");
    return lanes.empty() ? std::vector<std::string>{"occlusion", "roughness", "metallic"} : lanes;
}

} // namespace

Result<Project> placeSet(const Project& project, const Id& master, const std::string& set, std::vector<std::string>* left) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        Placer placer(m);
        bool any = false;
        for (const auto& map : project.maps) {
            if (map->set != set) continue;
            std::vector<Destination> to;
            const std::vector<std::string> lanes = map->role == "packed" ? lanesOf(project, *map) : std::vector<std::string>{};
            for (const Destination& d : kDestinations) {
                if (d.role == map->role) to.push_back(d);
                for (size_t l = 0; l < lanes.size(); ++l)
                    if (lanes[l] == d.role && !d.take.empty())
                        to.push_back({d.role, d.channel, std::string_view("rgba").substr(l, 1), d.through});
            }
            if (to.empty()) {
                if (left) left->push_back(map->name);
                continue;
            }
            if (!any) placer.start();
            any = true;
            std::string name = map->role + " map";
            name[0] = char(std::toupper(name[0]));
            const Id image = placer.image(*map, name);
            for (const Destination& d : to) placer.wire(image, d);
            placer.nextRow();
        }
        if (!any)
            return refuse("set.nothing-to-place",
                          fmt::format("No map of {} holds what a channel of the surface reads. Say what its maps hold first.", set));
        return Done{};
    });
}

} // namespace hue::edit
