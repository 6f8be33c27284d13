// Edits of maps, map sets and packed maps.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"
#include "core/maps/statistics.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <fmt/ranges.h>
#include <set>

namespace hue::edit {

bool readsMapBySetting(const Project& project, const Node& node, const std::string& key) {
    const NodeDef* def = nodeDefOf(project, node);
    const PortDef* port = def ? def->input(key) : nullptr;
    return port && port->width == kMapPort;
}

std::vector<std::string> readersOf(const Project& project, const Id& map) {
    std::vector<std::string> out;
    for (const Master* m : project.boards()) {
        for (const auto& [id, node] : m->graph.nodes)
            for (const auto& [key, value] : node->settings)
                if (value == map && !node->wires.contains(key) && readsMapBySetting(project, *node, key))
                    out.push_back(m->name + ": " + cardTitle(project, *m, *node));
        for (const Parameter& p : m->parameters)
            if (p.type == ParameterType::Map && p.standard.map == map) out.push_back(m->name + ": " + p.name);
    }
    for (const auto& i : project.instances)
        for (const auto& [parameter, value] : i->own)
            if (value.map == map) out.push_back(project.nameOf(i->id));
    // By the set that it is of.
    if (const MapFile* its = project.map(map); its && !its->set.empty()) {
        const auto read = [&](const Master& m, const Id& set, const ParameterValue& value) {
            const Parameter* p = value.map == its->set ? m.parameter(set) : nullptr;
            return p && p->type == ParameterType::MapSet && std::any_of(m.parameters.begin(), m.parameters.end(), [&](const Parameter& q) {
                       return q.ofSet == set && q.setRole == its->role;
                   });
        };
        for (const MasterPtr& m : project.masters)
            for (const Parameter& p : m->parameters)
                if (read(*m, p.id, p.standard)) out.push_back(m->name + ": " + p.name);
        for (const auto& i : project.instances)
            if (const Master* m = project.masterOf(i->id))
                for (const auto& [parameter, value] : i->own)
                    if (read(*m, parameter, value)) out.push_back(project.nameOf(i->id));
    }
    for (const auto& k : project.packings)
        for (const auto& [role, id] : k->sources)
            if (id == map) out.push_back("packing " + k->recipe.name);
    const Yardstick& y = project.lineup.yardstick;
    if (y.what == Yardstick::What::Maps && std::find(y.maps.begin(), y.maps.end(), map) != y.maps.end()) out.push_back("the yardstick");
    return out;
}

Result<Project> removeMap(const Project& project, const Id& id) {
    const MapFile* map = project.map(id);
    if (!map) return refuse("edit.no-file", "The map is not in the project any more.");
    const std::vector<std::string> readers = readersOf(project, id);
    if (!readers.empty())
        return refuse("map.in-use", fmt::format("{} is read by {}{}. Give them another map first.", map->name, readers[0],
                                                readers.size() > 1 ? fmt::format(" and {} more", readers.size() - 1) : ""));
    Project next = project;
    std::erase_if(next.maps, [&](const auto& m) { return m->id == id; });
    // A preset gives what is left.
    for (MasterPtr& slot : next.masters) {
        const auto names = [&](const auto& entry) { return entry.second.map == id; };
        if (std::none_of(slot->presets.begin(), slot->presets.end(),
                         [&](const Preset& p) { return std::any_of(p.values.begin(), p.values.end(), names); }))
            continue;
        auto copy = std::make_shared<Master>(*slot);
        for (Preset& p : copy->presets) std::erase_if(p.values, names);
        slot = std::move(copy);
    }
    for (auto& k : next.packings)
        if (k->map == id) {
            auto copy = std::make_shared<Packing>(*k);
            copy->map.clear(), copy->fingerprint.clear();
            k = std::move(copy);
        }
    return next;
}

namespace {

/// Where a wire that took `take` of a value of `width` components finds it in a map. Empty port: nowhere.
Source inMap(const Id& card, int width, const std::string& take) {
    auto letter = [](char c) { return "rgbargba"[std::string_view("rgbaxyzw").find(c)]; };
    if (width == 1) return {card, "color", "r"};
    if (take.empty()) {
        if (width == 4) return {card, {}, {}};
        return {card, "color", width == 2 ? "rg" : ""};
    }
    if (take == "luma") return {card, "color", "luma"};
    std::string letters;
    for (char c : take) letters += letter(c);
    if (letters == "a") return {card, "alpha", {}};
    if (letters.find('a') != std::string::npos) return {card, {}, {}};
    return {card, "color", letters == "rgb" ? "" : letters};
}

} // namespace

Result<Project> replaceByMap(const Project& project, const Id& master, const Source& wire, int width, const Id& map) {
    const MapFile* file = project.map(map);
    if (!file) return refuse("edit.no-file", "The map is not in the project any more.");
    return withMaster(project, master, [&](Master& m) -> Outcome {
        const Node* origin = m.graph.find(wire.node);
        if (!origin) return refuse("edit.no-card", "The card is not on the board any more.", {master, wire.node, wire.port});
        Node image = makeNode("image", {origin->position.x + 40, origin->position.y + 40});
        image.title = file->name;
        image.settings["map"] = map;
        int rewired = 0;
        std::optional<Error> problem;
        auto rewire = [&](Source& s, const Place& place) {
            if (s.node != wire.node || s.port != wire.port) return;
            const Source to = inMap(image.id, width, s.take);
            if (to.port.empty()) {
                problem =
                    Error{"map.four", "A wire takes four components at once; a map gives red, green and blue, and alpha apart. Take fewer.",
                          place};
                return;
            }
            s = to;
            ++rewired;
        };
        for (auto& [id, node] : m.graph.nodes) {
            auto copy = std::make_shared<Node>(*node);
            const int before = rewired;
            for (auto& [port, source] : copy->wires) rewire(source, {master, id, port});
            if (rewired != before) node = std::move(copy);
        }
        for (auto& [channel, source] : m.graph.channelWires) rewire(source, {master, {}, channel});
        if (problem) return *problem;
        if (!rewired)
            return refuse("map.unread", "Nothing reads this wire, so there is nothing to replace.", {master, wire.node, wire.port});
        m.graph.nodes[image.id] = std::make_shared<Node>(image);
        return Done{};
    });
}

namespace {

Outcome onlyFiniteRecipe(const Recipe& r) {
    Outcome o = Done{};
    for (const Lane& lane : r.lanes) {
        const std::string what = "The recipe " + r.name;
        if (o) o = onlyFinite(what, {lane.constant});
        for (const LaneOp& op : lane.ops) {
            if (o) o = onlyFinite(what, {op.low, op.high, op.newLow, op.newHigh, op.amount});
            for (const auto& [x, y] : op.points)
                if (o) o = onlyFinite(what, {x, y});
        }
    }
    return o;
}

} // namespace

Result<Project> addPacking(const Project& project, Packing packing) {
    if (Outcome o = onlyFiniteRecipe(packing.recipe); !o) return o.error();
    if (packing.id.empty()) packing.id = newId('k');
    Project next = project;
    next.packings.push_back(std::make_shared<Packing>(std::move(packing)));
    return next;
}

Result<Project> changePacking(const Project& project, const Packing& packing) {
    if (Outcome o = onlyFiniteRecipe(packing.recipe); !o) return o.error();
    Project next = project;
    for (auto& slot : next.packings)
        if (slot->id == packing.id) {
            slot = std::make_shared<Packing>(packing);
            return next;
        }
    return refuse("edit.no-packing", fmt::format("{} is not in the project any more.", packing.recipe.name));
}

Result<Project> removePacking(const Project& project, const Id& id) {
    const Packing* packing = project.packing(id);
    if (!packing) return refuse("edit.no-packing", "The packing is not in the project any more.");
    Project next = project;
    // Its map stays, as a file like any other.
    for (auto& m : next.maps)
        if (m->id == packing->map) {
            auto copy = std::make_shared<MapFile>(*m);
            copy->origin = {};
            m = std::move(copy);
        }
    std::erase_if(next.packings, [&](const auto& k) { return k->id == id; });
    return next;
}

namespace {

/// Rewires one master from the sources of a packing to its map.
class Repacker {
  public:
    Repacker(const Project& project, Master& master, const Packing& packing) : m_project(project), m_master(master), m_packing(packing) {
        for (size_t l = 0; l < 4; ++l) {
            const Lane& lane = packing.recipe.lanes[l];
            if (lane.from != Lane::From::Map) continue;
            const auto it = packing.sources.find(lane.source);
            if (it != packing.sources.end()) m_lanes[it->second].push_back({int(l), lane});
        }
    }

    /// How many cards were replaced.
    Result<int> run() {
        std::vector<Id> readers;
        for (const auto& [id, node] : m_master.graph.nodes)
            if (!mapOf(*node).empty() && m_lanes.contains(mapOf(*node))) readers.push_back(id);
        for (const Id& id : readers)
            if (Outcome o = replace(id); !o) return o.error();
        for (const Id& id : readers) m_master.graph.nodes.erase(id);
        for (Bay& bay : m_master.graph.bays) std::erase_if(bay.nodes, [&](const Id& id) { return contains(readers, id); });
        dropParameters();
        return int(readers.size());
    }

  private:
    struct LaneAt {
        int at;
        Lane lane;
    };
    const Project& m_project;
    Master& m_master;
    const Packing& m_packing;
    std::map<Id, std::vector<LaneAt>> m_lanes; ///< by the map that they read
    std::map<std::string, Id> m_cards;         ///< of the packed map, by how they read
    std::map<std::string, Id> m_after;         ///< cards that turn a lane back, by packed card and lanes
    std::vector<Id> m_left;                    ///< parameters that are read no more
    Id m_parameterCard;

    const Parameter* parameterOf(const Node& node) const {
        const auto wire = node.wires.find("map");
        if (wire == node.wires.end()) return nullptr;
        const Node* card = m_master.graph.find(wire->second.node);
        if (!card || card->kind != "parameter") return nullptr;
        const auto it = card->settings.find("parameter");
        return it == card->settings.end() ? nullptr : m_master.parameter(it->second);
    }
    Id mapOf(const Node& node) const {
        if (const Parameter* p = parameterOf(node)) return p->standard.map;
        const auto it = node.settings.find("map");
        return it == node.settings.end() || node.wires.contains("map") ? Id{} : it->second;
    }

    /// The card that reads the packed map at the same place and in the same way as another card reads its map.
    Result<Id> packedCard(const Node& like) {
        std::string key = like.kind;
        for (const auto& [port, s] : like.wires)
            if (port != "map") key += "|" + port + "=" + s.node + "." + s.port + "." + s.take;
        for (const auto& [port, v] : like.constants) key += fmt::format("|{}={},{},{},{}", port, v[0], v[1], v[2], v[3]);
        for (const auto& [name, v] : like.settings)
            if (name != "map") key += "|" + name + "=" + v;
        const Parameter* parameter = parameterOf(like);
        key += parameter ? "|parameter" : "";
        if (const auto it = m_cards.find(key); it != m_cards.end()) return it->second;
        Node card = like;
        card.id = newId('n');
        card.title = m_project.map(m_packing.map)->name;
        card.extra.clear();
        card.wires.erase("map");
        if (parameter) {
            for (const auto& i : m_project.instances)
                if (m_project.masterOf(i->id)->id == m_master.id)
                    for (const auto& [map, lanes] : m_lanes)
                        for (const Parameter& p : m_master.parameters)
                            if (p.standard.map == map && i->own.contains(p.id))
                                return refuse("packed.instance",
                                              fmt::format("{} sets {} itself, so one packed map cannot serve it. Pack its set too, or "
                                                          "return the value to what it inherits.",
                                                          m_project.nameOf(i->id), p.name),
                                              {m_master.id, like.id, "map"});
            if (m_parameterCard.empty()) {
                Parameter made = *parameter;
                made.id = newId('p');
                made.name = "Packed maps";
                std::vector<std::string> names, codes;
                for (const Parameter& p : m_master.parameters) names.push_back(p.name), codes.push_back(p.codeName);
                made.name = freeName(names, made.name);
                made.codeName = freeCodeName(codes, codeNameFrom(made.name));
                made.mapKind = m_packing.recipe.srgb ? MapKind::Color : MapKind::Data;
                made.standard.map = m_packing.map;
                made.description = m_packing.recipe.name;
                made.extra.clear();
                Node parameterNode = makeNode("parameter", {card.position.x - 190, card.position.y});
                parameterNode.settings["parameter"] = made.id;
                m_parameterCard = parameterNode.id;
                m_master.parameters.push_back(made);
                m_master.graph.nodes[parameterNode.id] = std::make_shared<Node>(parameterNode);
            }
            card.settings.erase("map");
            card.wires["map"] = {m_parameterCard, "out", {}};
        } else {
            card.settings["map"] = m_packing.map;
        }
        m_cards[key] = card.id;
        m_master.graph.nodes[card.id] = std::make_shared<Node>(card);
        return card.id;
    }

    /// One lane of the packed card as a number, turned back where the recipe turned it.
    Source laneSource(const Id& card, const LaneAt& at) {
        Source source = at.at == 3 ? Source{card, "alpha", {}} : Source{card, "color", std::string(1, "rgb"[at.at])};
        const std::string key = fmt::format("{}#{}", card, at.at);
        if (const auto it = m_after.find(key); it != m_after.end()) return {it->second, "out", {}};
        Point where = m_master.graph.find(card)->position;
        for (size_t k = at.lane.ops.size(); k-- > 0;) {
            const LaneOp& op = at.lane.ops[k];
            if (op.kind != LaneOp::Kind::Invert && op.kind != LaneOp::Kind::Remap) continue;
            where.x += 200;
            Node node = makeNode(op.kind == LaneOp::Kind::Invert ? "invert" : "remap", where);
            if (op.kind == LaneOp::Kind::Remap) {
                node.constants["inlow"] = Value::number(op.newLow), node.constants["inhigh"] = Value::number(op.newHigh);
                node.constants["outlow"] = Value::number(op.low), node.constants["outhigh"] = Value::number(op.high);
            }
            node.wires["in"] = source;
            source = {node.id, "out", {}};
            m_after[key] = node.id;
            m_master.graph.nodes[node.id] = std::make_shared<Node>(node);
        }
        return source;
    }

    Result<Source> translated(const Node& card, const Source& wire, const Id& packed) {
        const Id map = mapOf(card);
        const std::vector<LaneAt>& lanes = m_lanes.at(map);
        auto laneFor = [&](char letter) -> const LaneAt* {
            for (const LaneAt& l : lanes)
                if (l.lane.take.size() == 1 && l.lane.take[0] == letter) return &l;
            // A map of which one channel was packed was grey as a rule: any of its components is that channel.
            if (lanes.size() == 1 && lanes[0].lane.take != "a" && letter != 'a') return &lanes[0];
            return nullptr;
        };
        const bool one = lanes.size() == 1 && lanes[0].lane.take != "a";
        if (wire.port == "alpha") {
            if (const LaneAt* l = laneFor('a')) return laneSource(packed, *l);
        } else if (wire.take == "luma" && one) {
            return laneSource(packed, lanes[0]);
        } else if (wire.take.size() == 1) {
            if (const LaneAt* l = laneFor("rgbargba"[std::string_view("rgbaxyzw").find(wire.take[0])])) return laneSource(packed, *l);
        } else if (wire.take.empty()) {
            if (one) return laneSource(packed, lanes[0]);
            const LaneAt *r = laneFor('r'), *g = laneFor('g'), *b = laneFor('b');
            if (r && g && b && r->at == 0 && g->at == 1 && b->at == 2) return Source{packed, "color", {}};
            if (r && g && r->lane.meaning == "normal x" && r->at < 3 && g->at < 3) {
                const std::string key = packed + "#z";
                if (const auto it = m_after.find(key); it != m_after.end()) return Source{it->second, "out", {}};
                Point where = m_master.graph.find(packed)->position;
                Node node = makeNode("rebuild_z", {where.x + 200, where.y});
                node.wires["in"] = {packed, "color", std::string{"rgb"[r->at], "rgb"[g->at]}};
                m_after[key] = node.id;
                const Id id = node.id;
                m_master.graph.nodes[id] = std::make_shared<Node>(std::move(node));
                return Source{id, "out", {}};
            }
        }
        return refuse(
            "packed.read-otherwise",
            fmt::format("{} is read as {}{}, which the packed map does not hold. Read single components there, or pack more of it.",
                        m_project.map(map) ? m_project.map(map)->name : "A map", wire.port, wire.take.empty() ? "" : "." + wire.take),
            {m_master.id, card.id, wire.port});
    }

    Outcome replace(const Id& id) {
        const Node card = *m_master.graph.find(id);
        const auto packed = packedCard(card);
        if (!packed) return packed.error();
        // Cards are added while wires are changed, so the readers are listed first.
        std::vector<std::pair<Id, std::string>> ports;
        for (const auto& [other, node] : m_master.graph.nodes)
            for (const auto& [port, s] : node->wires)
                if (s.node == id) ports.emplace_back(other, port);
        for (const auto& [other, port] : ports) {
            auto to = translated(card, m_master.graph.find(other)->wires.at(port), *packed);
            if (!to) return to.error();
            auto copy = std::make_shared<Node>(*m_master.graph.find(other));
            copy->wires[port] = *to;
            m_master.graph.nodes[other] = std::move(copy);
        }
        for (auto& [channel, s] : m_master.graph.channelWires) {
            if (s.node != id) continue;
            auto to = translated(card, s, *packed);
            if (!to) return to.error();
            s = *to;
        }
        if (const Parameter* p = parameterOf(card)) m_left.push_back(p->id);
        return Done{};
    }

    /// Parameters whose maps are read no more go, with their cards.
    void dropParameters() {
        for (const Id& parameter : m_left) {
            std::vector<Id> cards;
            bool read = false;
            for (const auto& [id, node] : m_master.graph.nodes) {
                const auto it = node->settings.find("parameter");
                if (node->kind == "parameter" && it != node->settings.end() && it->second == parameter) cards.push_back(id);
            }
            for (const auto& [id, node] : m_master.graph.nodes)
                for (const auto& [port, s] : node->wires) read = read || contains(cards, s.node);
            if (read) continue;
            for (const Id& id : cards) m_master.graph.nodes.erase(id);
            for (Bay& bay : m_master.graph.bays) std::erase_if(bay.nodes, [&](const Id& id) { return contains(cards, id); });
            std::erase_if(m_master.parameters, [&](const Parameter& p) { return p.id == parameter; });
        }
    }
};

} // namespace

Result<Project> usePacked(const Project& project, const Id& id) {
    const Packing* packing = project.packing(id);
    if (!packing || !project.map(packing->map)) return refuse("packed.not-made", "The packed map was not made yet. Pack it first.");
    Project next = project;
    int replaced = 0;
    std::optional<Error> wrong;
    changeBoards(next, [&](Master& board) {
        const Result<int> cards = Repacker(project, board, *packing).run();
        if (!cards) wrong = cards.error();
        else replaced += *cards;
        return cards && *cards;
    });
    if (wrong) return *wrong;
    if (!replaced) return refuse("packed.unread", "No card reads the maps that were packed, so there is nothing to replace.");
    return next;
}

} // namespace hue::edit
