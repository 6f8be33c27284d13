#include "core/project/cut_outs.h"

#include "core/nodes/catalogue.h"

namespace hue {
namespace {

/// The channel of a map that a wire brings, from a card that reads one; nothing for anything else.
std::optional<int> channelOf(const Source& wire) {
    if (wire.port == "alpha") return kCoverageAlpha;
    if (wire.port != "color") return {};
    if (wire.take == "r" || wire.take == "x") return 0;
    if (wire.take == "g" || wire.take == "y") return 1;
    if (wire.take == "b" || wire.take == "z") return 2;
    return {};
}

} // namespace

std::optional<CutOut> cutOutBy(const Project& project, const Id& map) {
    for (const auto& master : project.masters) {
        const auto alpha = master->graph.channelWires.find("alpha");
        if (alpha == master->graph.channelWires.end()) continue;
        const Node* card = master->graph.find(alpha->second.node);
        const NodeDef* def = card ? findNodeDef(card->kind) : nullptr;
        const PortDef* port = def ? def->input("map") : nullptr;
        const auto channel = channelOf(alpha->second);
        if (!port || port->width != kMapPort || !channel) continue;
        // Who wears it, and with which map.
        const auto read = [&](const Id& worn) -> std::optional<CutOut> {
            const Resolved r = resolve(project, worn);
            if (!r.master || r.surface.alphaMode != AlphaMode::Mask) return {};
            Id shown(settingOf(*card, *def, "map"));
            if (auto wire = card->wires.find("map"); wire != card->wires.end()) {
                const Node* from = master->graph.find(wire->second.node);
                const NodeDef* fromDef = from ? findNodeDef(from->kind) : nullptr;
                if (!fromDef || from->kind != "parameter") return {};
                const auto value = r.values.find(Id(settingOf(*from, *fromDef, "parameter")));
                if (value == r.values.end()) return {};
                shown = value->second.value.map;
            }
            if (shown != map) return {};
            return CutOut{*channel, r.surface.alphaCutoff};
        };
        if (auto found = read(master->id)) return found;
        for (const auto& instance : project.instances)
            if (project.masterOf(instance->id) == master.get())
                if (auto found = read(instance->id)) return found;
    }
    return {};
}

} // namespace hue
