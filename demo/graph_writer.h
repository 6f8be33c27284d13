#pragma once
// How the demo's masters are written: cards by words, in columns and rows.
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "demo/depot.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace hue::depot {

inline Value color(const char* hex) {
    Value v;
    if (!colorFromHex(hex, v)) throw std::invalid_argument(hex);
    return v;
}

/// Writes a graph card by card. Ids are the given words, so that the file reads well.
class GraphWriter {
  public:
    explicit GraphWriter(Master& master) : m_master(master) {}

    GraphWriter& card(const Id& id, std::string_view kind, float column, float row, const std::string& title = {}) {
        if (!findNodeDef(kind)) throw std::invalid_argument(std::string(kind));
        Node n;
        n.id = id;
        n.kind = kind;
        n.title = title;
        n.position = {column * 222, row * 96};
        m_node = std::make_shared<Node>(n);
        m_master.graph.nodes[id] = m_node;
        return *this;
    }
    /// A card for an assembly of the library.
    GraphWriter& assembly(const Id& id, const Id& of, float column, float row) {
        Node n = makeAssemblyNode(of, {column * 222, row * 96});
        n.id = id;
        m_node = std::make_shared<Node>(n);
        m_master.graph.nodes[id] = m_node;
        return *this;
    }
    GraphWriter& parameter(const Id& id, float column, float row) {
        card("card_" + id, "parameter", column, row);
        m_node->settings["parameter"] = id;
        return *this;
    }
    GraphWriter& set(const std::string& port, const Value& v) {
        m_node->constants[port] = v;
        return *this;
    }
    GraphWriter& set(const std::string& port, float v) { return set(port, Value::number(v)); }
    GraphWriter& choose(const std::string& key, const std::string& choice) {
        m_node->settings[key] = choice;
        return *this;
    }
    GraphWriter& wire(const std::string& port, const Id& from, const std::string& output = "out", const std::string& take = {}) {
        m_node->wires[port] = {from, output, take};
        return *this;
    }
    void channel(const std::string& key, const Id& from, const std::string& output = "out", const std::string& take = {}) {
        m_master.graph.channelWires[key] = {from, output, take};
    }
    void bay(const std::string& name, const std::vector<Id>& cards) {
        m_master.graph.bays.push_back({"bay_" + std::to_string(m_master.graph.bays.size() + 1), name, cards, {}});
    }

    /// Moves cards of a column down until none lies on another.
    void spread() {
        std::vector<std::shared_ptr<Node>> cards;
        for (const auto& [id, node] : m_master.graph.nodes) cards.push_back(std::make_shared<Node>(*node));
        std::sort(cards.begin(), cards.end(), [](const auto& a, const auto& b) { return a->position.y < b->position.y; });
        for (size_t i = 0; i < cards.size(); ++i)
            for (size_t k = 0; k < i; ++k)
                if (std::fabs(cards[i]->position.x - cards[k]->position.x) < 190)
                    cards[i]->position.y = std::max(cards[i]->position.y, cards[k]->position.y + heightOf(*cards[k]) + 18);
        for (const auto& card : cards) m_master.graph.nodes[card->id] = card;
    }

  private:
    /// As the board draws it: a head, a row for each port and choice, a foot.
    static float heightOf(const Node& n) {
        if (isAssembly(n)) return 160; // those that stand here
        const NodeDef& def = *findNodeDef(n.kind);
        size_t rows = size_t(std::count_if(def.inputs.begin(), def.inputs.end(), [&](const PortDef& p) { return showsInput(n, def, p); })) +
                      (def.outputs.size() > 1 ? def.outputs.size() : 0);
        if (n.kind != "parameter" && n.kind != "image") rows += def.settings.size();
        return std::max(29 + 19 * float(rows), 52.f) + 20;
    }

    Master& m_master;
    std::shared_ptr<Node> m_node;
};

inline Parameter number(const Id& id, const char* name, float standard, float low, float high, const char* group, const char* description,
                        const char* unit = "") {
    Parameter p;
    p.id = id;
    p.codeName = id;
    p.name = name;
    p.standard.value = Value::number(standard);
    p.softMin = low;
    p.softMax = high;
    p.hardMin = low;
    p.hardMax = high * 4;
    p.group = group;
    p.description = description;
    p.unit = unit;
    return p;
}

inline Parameter colored(const Id& id, const char* name, const char* hex, const char* group, const char* description) {
    Parameter p = number(id, name, 0, 0, 1, group, description);
    p.type = ParameterType::Color;
    p.standard.value = color(hex);
    return p;
}

inline Parameter mapped(const Id& id, const char* name, MapKind kind, const Id& map, const char* group, const char* description) {
    Parameter p = number(id, name, 0, 0, 1, group, description);
    p.type = ParameterType::Map;
    p.mapKind = kind;
    p.standard.map = map;
    return p;
}

/// A curve or a gradient, by its text.
inline Parameter drawn(const Id& id, const char* name, const char* points, const char* group, const char* description) {
    Parameter p = number(id, name, 0, 0, 1, group, description);
    p.type = std::string_view(points).starts_with("curve") ? ParameterType::Curve : ParameterType::Gradient;
    p.standard.map = points;
    return p;
}

/// What a Finish of card takes that names the parameter.
inline Parameter ofFinish(const Id& id, const char* name, const Id& worn, const char* group, const char* description) {
    Parameter p = number(id, name, 0, 0, 1, group, description);
    p.type = ParameterType::Finish;
    p.standard.map = worn;
    return p;
}

/// The name of a map set, that map parameters are taken of.
inline Parameter ofSets(const Id& id, const char* name, const char* set, const char* group, const char* description) {
    Parameter p = number(id, name, 0, 0, 1, group, description);
    p.type = ParameterType::MapSet;
    p.standard.map = set;
    return p;
}

/// One of a few names, or on and off where there are none; resolved when compiling.
inline Parameter buildChoice(const Id& id, const char* name, std::vector<std::string> options, float standard, const char* group,
                             const char* description) {
    Parameter p = number(id, name, standard, 0, 1, group, description);
    p.type = options.empty() ? ParameterType::OnOff : ParameterType::Choice;
    p.options = std::move(options);
    p.build = true;
    p.softMax = p.hardMax = p.options.empty() ? 1 : float(p.options.size() - 1);
    return p;
}

inline Parameter limitedTo1(Parameter p) {
    p.hardMax = 1;
    return p;
}

} // namespace hue::depot
