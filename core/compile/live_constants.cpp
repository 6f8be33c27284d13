#include "core/compile/compile.h"
#include "core/document/parameter_kinds.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <fmt/format.h>

namespace hue {

Id liveConstantName(const Id& node, std::string_view port) { return fmt::format("@{}/{}", node, port); }

namespace {

/// "channel.KEY": what the rail of a master holds; else the value of a parameter, by its code name.
Value valueOfWorn(const Project& project, const Id& worn, const std::string& name) {
    const Master* master = project.masterOf(worn);
    if (!master) return {};
    constexpr std::string_view ofChannel = "channel.";
    if (name.starts_with(ofChannel)) {
        const std::string key = name.substr(ofChannel.size());
        return findChannel(key) ? channelConstant(master->graph, key) : Value{};
    }
    const Resolved resolved = resolve(project, worn);
    for (const Parameter& p : master->parameters)
        if (p.codeName == name)
            if (const auto entry = resolved.values.find(p.id); entry != resolved.values.end()) return entry->second.value.value;
    return {};
}

} // namespace

bool liveConstantValue(const Project& project, const Master& master, const Id& name, Value& value) {
    if (!name.starts_with('@')) return false;
    const size_t slash = name.rfind('/');
    const std::string way = name.substr(1, slash - 1), port = name.substr(slash + 1);
    if (way.empty()) {
        auto it = master.graph.channelConstants.find(port);
        const ChannelDef* channel = findChannel(port);
        value = it != master.graph.channelConstants.end() ? it->second : channel ? channel->standard : Value{};
        return true;
    }
    // Down the assemblies and finishes to the board on which the card lies.
    const Master* board = &master;
    std::shared_ptr<const Master> built;
    const Node* found = board->graph.find(way);
    for (std::string_view rest = way; !found && board;) {
        const size_t end = rest.find('/');
        const Node* card = board->graph.find(Id(rest.substr(0, end)));
        if (end == std::string_view::npos) {
            found = card;
            break;
        }
        if (const Id worn = card ? finishOf(*board, *card) : Id{}; !worn.empty()) {
            const Resolved its = resolve(project, worn);
            board = its.master;
            built = its.built;
        } else {
            board = card ? project.assembly(assemblyOf(*card)) : nullptr;
        }
        rest.remove_prefix(end + 1);
    }
    if (const Id worn = found ? finishOf(*board, *found) : Id{}; !worn.empty()) {
        value = valueOfWorn(project, worn, port);
        return true;
    }
    const NodeDef* def = found ? nodeDefOf(project, *found) : nullptr;
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
            if (wire.perVertex) key += 'v';
        }
        key += '\x1e';
    };
    const auto addBoard = [&](const Master& board) {
        for (const auto& [id, node] : board.graph.nodes) {
            add(id);
            add(node->kind);
            if (node->muted) add("muted");
            for (const auto& [name, value] : node->settings) {
                add(name);
                add(value);
                if (const MapFile* map = project.map(value)) key += char('0' + int(map->kind));
            }
            // Of the values themselves only their widths matter, and these only at ports of any width.
            if (const NodeDef* def = nodeDefOf(project, *node))
                for (const PortDef& port : def->inputs)
                    if (port.width >= 0) key += char('0' + constantOf(*node, port).width);
            addWires(node->wires);
        }
        for (const Parameter& p : board.parameters) {
            add(p.id);
            key += char('0' + int(p.type));
            key += char('0' + int(p.mapKind));
            if (p.isBuildChoice()) add(p.width() ? fmt::format("{}", p.standard.value[0]) : p.standard.map);
            key += char('0' + p.width());
        }
    };
    addBoard(master);
    addWires(master.graph.channelWires);
    for (const std::string& channel : master.graph.mutedChannels) add(channel);
    // What an instance that is taken as a finish changes are maps and builds; its other values stay open.
    for (const Id& finish : finishesWornOn(project, master)) {
        add(finish);
        const Master* its = project.masterOf(finish);
        for (const auto& [parameter, entry] : resolve(project, finish).values) {
            const Parameter* p = its->parameter(parameter);
            if (p && p->isNamed() && p->build) add(optionOf(*p, entry.value.value));
            add(entry.value.map);
            if (const MapFile* map = project.map(entry.value.map)) key += char('0' + int(map->kind));
        }
    }
    const std::vector<const Master*> worn = mastersWornOn(project, master);
    std::vector<Id> assemblies = assembliesOn(project, master.graph, true);
    for (const Master* m : worn) {
        add(m->id);
        key += fmt::format("{}\x1f", m->surface.layers);
        addBoard(*m);
        for (const Parameter& p : m->parameters) add(p.codeName);
        addWires(m->graph.channelWires);
        for (const std::string& channel : m->graph.mutedChannels) add(channel);
        for (Id& id : assembliesOn(project, m->graph, true)) assemblies.push_back(std::move(id));
    }
    for (const Id& id : assemblies) {
        add(id);
        const Assembly* assembly = project.assembly(id);
        if (!assembly) continue;
        addBoard(*assembly);
        // How the ports are called and what they read decides what is wired.
        for (const Parameter& p : assembly->parameters) {
            add(p.codeName);
            key += char('0' + int(p.follows));
            add(p.standard.map);
        }
        for (const AssemblyOutput& output : cardOf(*assembly).outputs) {
            add(output.card);
            add(output.key);
        }
    }
    return key;
}

} // namespace hue
