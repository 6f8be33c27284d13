#include "core/paint/paint_names.h"

#include "core/compile/opened_graph.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"

#include <algorithm>
#include <deque>
#include <fmt/format.h>
#include <map>
#include <set>

namespace hue {
namespace {

/// Channels that a wire from a Geometric color card carries, as bits.
uint32_t channelsOf(const Source& wire) {
    if (wire.port == "alpha") return 8;
    if (wire.take.empty() || wire.take == "luma") return 7;
    uint32_t out = 0;
    for (const char letter : wire.take)
        if (const size_t at = std::string_view("rgbxyz").find(letter); at != std::string_view::npos) out |= 1u << at % 3;
    return out;
}

/// Channels of a Geometric color card that wires read, as bits.
uint32_t readOf(const Graph& graph, const Id& card) {
    uint32_t out = 0;
    const auto look = [&](const Source& wire) {
        if (wire.node == card) out |= channelsOf(wire);
    };
    for (const auto& [key, wire] : graph.channelWires) look(wire);
    for (const auto& [id, node] : graph.nodes)
        for (const auto& [port, wire] : node->wires) look(wire);
    return out;
}

/// Where wires of the opened graph lead.
class WaysOn {
  public:
    struct Wire {
        Source from;
        const Node* card;
        Id way;
        std::string_view port;
    };
    explicit WaysOn(const Graph& graph) : m_graph(graph) {
        for (const auto& [way, node] : graph.nodes)
            for (const auto& [port, wire] : node->wires) m_wires[wire.node].push_back({wire, node.get(), way, port});
    }

    /// The finish that a channel brings: which of its card's wires carry it, `carries` says.
    template <class Carries> std::optional<Source> finishBy(const Id& way, const Carries& carries) const {
        std::deque<std::pair<Id, bool>> next{{way, false}}; // and whether what was painted is turned around on the way there
        std::set<std::pair<Id, bool>> seen{next.front()};
        while (!next.empty()) {
            const auto [from, turned] = next.front();
            next.pop_front();
            const auto leading = m_wires.find(from);
            if (leading == m_wires.end()) continue;
            for (const Wire& wire : leading->second) {
                if ((from == way && !carries(wire.from)) || wire.card->muted) continue;
                if (const auto shown = shownBy(wire, turned)) return shown;
                const bool turns = wire.card->kind == "invert";
                if (const std::pair<Id, bool> there{wire.way, turned != turns}; seen.insert(there).second) next.push_back(there);
            }
        }
        return {};
    }

  private:
    /// What lies on the one side of a card that joins finishes by what the wire brings.
    std::optional<Source> shownBy(const Wire& wire, bool turned) const {
        const std::string& kind = wire.card->kind;
        const bool mixed = wire.port == "mix" && (kind == "mix" || kind == "finish_height_blend");
        const bool weighed = kind == "finish_weights" && wire.port.starts_with("weight");
        if (!mixed && !weighed) return {};
        const std::string side = weighed ? fmt::format("finish{}", wire.port.substr(6)) : turned ? "bg" : "fg";
        const auto source = wire.card->wires.find(side);
        return source == wire.card->wires.end() ? std::nullopt : finishAt(source->second);
    }

    /// The finish that a wire brings, where it does: what hands it on, in and out of assemblies, is passed over.
    std::optional<Source> finishAt(Source source) const {
        std::optional<Source> out;
        for (size_t k = 0; k <= m_graph.nodes.size(); ++k) {
            const auto card = m_graph.nodes.find(source.node);
            if (card == m_graph.nodes.end()) return {};
            const NodeDef* def = findNodeDef(card->second->kind);
            const PortDef* port = def ? def->output(source.port) : nullptr;
            if (def && !out) out = source;
            if (port && port->width == kFinishPort) return out;
            if (port && !port->finishes) return {};
            // A card of any width brings what it gets.
            const auto& wires = card->second->wires;
            auto on = wires.end();
            for (const char* input : {"bg", "fg", "in"})
                if (on == wires.end()) on = wires.find(input);
            if (on == wires.end()) return {};
            source = on->second;
        }
        return {};
    }

    const Graph& m_graph;
    std::map<Id, std::vector<Wire>> m_wires; ///< by the card that they come from
};

std::string finishTitle(const Project& project, const Node& card) {
    if (!card.title.empty()) return card.title;
    if (const Id worn = finishOf(card); !worn.empty()) return project.nameOf(worn);
    const NodeDef* def = findNodeDef(card.kind);
    return def ? std::string(def->name) : std::string{};
}

void add(std::vector<ReadChannel>& to, ReadChannel channel) {
    const auto at = std::lower_bound(to.begin(), to.end(), channel.channel, [](const ReadChannel& r, int c) { return r.channel < c; });
    if (at == to.end() || at->channel != channel.channel) to.insert(at, std::move(channel));
}

} // namespace

std::vector<ReadChannel> channelsRead(const Project& project, const Master& master) {
    const OpenedGraph opened = openedGraph(project, master);
    const Graph& graph = opened.opened ? *opened.opened : master.graph;
    std::vector<ReadChannel> out;
    const WaysOn ways(graph);
    const auto read = [&](ReadChannel channel, const Id& way, const auto& carries) {
        channel.finish = ways.finishBy(way, carries);
        if (channel.finish) channel.finishName = finishTitle(project, *graph.find(channel.finish->node));
        add(out, std::move(channel));
    };
    for (const auto& [way, node] : graph.nodes) {
        const bool painted = node->kind == "painted";
        if (!painted && node->kind != "geometric_color") continue;
        const auto home = opened.homes.find(way);
        const Id board = home == opened.homes.end() ? master.id : home->second.first,
                 card = home == opened.homes.end() ? way : home->second.second;
        const NodeDef& def = *findNodeDef(node->kind);
        const std::string title = node->title.empty() ? std::string(def.name) : node->title;
        if (painted) {
            const int channel = std::clamp(settingOf(*node, def, "channel")[0] - '1', 0, PaintData::kChannels - 1);
            const std::string name = node->title.empty() ? fmt::format("Channel {}", channel + 1) : title;
            read({.channel = channel, .name = name, .board = board, .card = card}, way, [](const Source&) { return true; });
            continue;
        }
        static constexpr std::string_view parts[] = {"red", "green", "blue", "alpha"};
        const uint32_t all = readOf(graph, way);
        for (int c = 0; c < 4; ++c)
            if (all >> c & 1)
                read({.channel = c, .name = fmt::format("{} {}", title, parts[c]), .board = board, .card = card}, way,
                     [c](const Source& wire) { return (channelsOf(wire) >> c & 1) != 0; });
    }
    return out;
}

std::vector<ReadChannel> channelsRead(const Project& project, const Specimen& specimen) {
    std::vector<ReadChannel> out;
    for (const Id& worn : specimen.wears)
        if (const Master* master = project.masterOf(worn))
            for (ReadChannel& r : channelsRead(project, *master)) {
                r.worn = worn;
                add(out, std::move(r));
            }
    return out;
}

} // namespace hue
