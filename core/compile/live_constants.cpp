#include "core/compile/compile.h"
#include "core/surface/channels.h"

#include <fmt/format.h>

namespace hue {

Id liveConstantName(const Id& node, std::string_view port) { return fmt::format("@{}/{}", node, port); }

bool liveConstantValue(const Graph& graph, const Id& name, Value& value) {
    if (!name.starts_with('@')) return false;
    const size_t slash = name.find('/');
    const std::string node = name.substr(1, slash - 1), port = name.substr(slash + 1);
    if (node.empty()) {
        auto it = graph.channelConstants.find(port);
        const ChannelDef* channel = findChannel(port);
        value = it != graph.channelConstants.end() ? it->second : channel ? channel->standard : Value{};
        return true;
    }
    const Node* found = graph.find(node);
    const NodeDef* def = found ? findNodeDef(found->kind) : nullptr;
    const PortDef* portDef = def ? def->input(port) : nullptr;
    value = portDef ? constantOf(*found, *portDef) : Value{};
    return true;
}

std::string structureKey(const Project& project, const Master& master) {
    std::string key = fmt::format("{}\x1f", master.surface.layers);
    key.reserve(master.graph.nodes.size() * 96);
    auto add = [&](std::string_view text) {
        key += text;
        key += '\x1f';
    };
    auto addWires = [&](const std::map<std::string, Source>& wires) {
        for (const auto& [port, wire] : wires) {
            add(port);
            add(wire.node);
            add(wire.port);
            add(wire.take);
        }
        key += '\x1e';
    };
    for (const auto& [id, node] : master.graph.nodes) {
        add(id);
        add(node->kind);
        if (node->muted) add("muted");
        for (const auto& [name, value] : node->settings) {
            add(name);
            add(value);
            if (const MapFile* map = project.map(value)) key += char('0' + int(map->kind));
        }
        // Of the values themselves only their widths matter, and these only at ports of any width.
        if (const NodeDef* def = findNodeDef(node->kind))
            for (const PortDef& port : def->inputs)
                if (port.width >= 0) key += char('0' + constantOf(*node, port).width);
        addWires(node->wires);
    }
    addWires(master.graph.channelWires);
    for (const std::string& channel : master.graph.mutedChannels) add(channel);
    for (const Parameter& p : master.parameters) {
        add(p.id);
        key += char('0' + int(p.type));
        key += char('0' + int(p.mapKind));
    }
    return key;
}

} // namespace hue
