#include "core/assemblies/breaks.h"

#include "core/document/parameter_kinds.h"
#include "core/nodes/assembly_card.h"

#include <fmt/format.h>

namespace hue {
namespace {

const Parameter* inputOf(const Assembly& assembly, const std::string& port) {
    for (const Parameter& p : assembly.parameters)
        if (p.codeName == port) return &p;
    return nullptr;
}

} // namespace

std::vector<Break> whatBreaks(const Project& project, const Assembly& changed) {
    std::vector<Break> out;
    const Assembly* now = project.assembly(changed.id);
    for (const AssemblyUse& use : usesOf(project, changed.id)) {
        const Master& board = *project.board(use.board);
        const Node& card = *board.graph.find(use.card);
        const std::string name = fmt::format("{}: {}", board.name, cardTitle(project, board, card));
        const auto say = [&](const std::string& what) { out.push_back({use.board, use.card, fmt::format("{} {}.", name, what)}); };
        const auto input = [&](const std::string& port, const char* has) {
            const Parameter *was = now ? inputOf(*now, port) : nullptr, *is = inputOf(changed, port);
            if (!is) say(fmt::format("{} {}, which is gone", has, port));
            else if (was && was->type != is->type)
                say(fmt::format("{} {}, which was {} and is {} now", has, port, kindOf(was->type).name, kindOf(is->type).name));
        };
        for (const auto& [port, wire] : card.wires) input(port, "is wired at");
        for (const auto& [port, value] : card.constants)
            if (!card.wires.contains(port)) input(port, "has a value at");
        const auto outputs = outputsOf(changed);
        const auto reads = [&](const Source& wire, const std::string& who) {
            if (wire.node != use.card) return;
            const bool there = std::any_of(outputs.begin(), outputs.end(), [&](const AssemblyOutput& o) { return o.key == wire.port; });
            if (!there) say(fmt::format("gives {} to {}, which is gone", wire.port, who));
        };
        for (const auto& [id, node] : board.graph.nodes)
            for (const auto& [port, wire] : node->wires) reads(wire, cardTitle(project, board, *node));
        for (const auto& [channel, wire] : board.graph.channelWires) reads(wire, "the surface");
    }
    return out;
}

} // namespace hue
