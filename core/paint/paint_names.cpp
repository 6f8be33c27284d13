#include "core/paint/paint_names.h"

#include "core/compile/opened_graph.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/catalogue.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

/// Channels of a Geometric color card that wires read, as bits.
uint32_t readOf(const Graph& graph, const Id& card) {
    uint32_t out = 0;
    const auto look = [&](const Source& wire) {
        if (wire.node != card) return;
        if (wire.port == "alpha") out |= 8;
        else if (wire.take.empty() || wire.take == "luma") out |= 7;
        else
            for (const char letter : wire.take)
                if (const size_t at = std::string_view("rgbxyz").find(letter); at != std::string_view::npos) out |= 1u << at % 3;
    };
    for (const auto& [key, wire] : graph.channelWires) look(wire);
    for (const auto& [id, node] : graph.nodes)
        for (const auto& [port, wire] : node->wires) look(wire);
    return out;
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
            add(out, {channel, node->title.empty() ? fmt::format("Channel {}", channel + 1) : title, board, card});
            continue;
        }
        static constexpr std::string_view parts[] = {"red", "green", "blue", "alpha"};
        const uint32_t read = readOf(graph, way);
        for (int c = 0; c < 4; ++c)
            if (read >> c & 1) add(out, {c, fmt::format("{} {}", title, parts[c]), board, card});
    }
    return out;
}

std::vector<ReadChannel> channelsRead(const Project& project, const Specimen& specimen) {
    std::vector<ReadChannel> out;
    for (const Id& worn : specimen.wears)
        if (const Master* master = project.masterOf(worn))
            for (ReadChannel& r : channelsRead(project, *master)) add(out, std::move(r));
    return out;
}

} // namespace hue
