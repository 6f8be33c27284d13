#include "core/project/cut_outs.h"
#include "core/document/lineage.h"

#include "core/nodes/assembly_card.h"
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

std::vector<AlphaUse> alphaUsesOf(const Project& project) {
    std::vector<AlphaUse> out;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (const auto& master : project.masters) {
        const auto alpha = master->graph.channelWires.find("alpha");
        if (alpha == master->graph.channelWires.end()) continue;
        const Node* card = master->graph.find(alpha->second.node);
        const NodeDef* def = card ? nodeDefOf(project, *card) : nullptr;
        const PortDef* port = def ? def->input("map") : nullptr;
        const auto channel = channelOf(alpha->second);
        if (!port || port->width != kMapPort || !channel) continue;
        Id parameter, shown(settingOf(*card, *def, "map"));
        if (auto wire = card->wires.find("map"); wire != card->wires.end()) {
            const Node* from = master->graph.find(wire->second.node);
            const NodeDef* fromDef = from ? nodeDefOf(project, *from) : nullptr;
            if (!fromDef || from->kind != "parameter") continue;
            parameter = settingOf(*from, *fromDef, "parameter");
        }
        const auto wear = [&](const Id& worn) {
            const Resolved r = resolve(project, worn);
            if (!r.master || r.surface.alphaMode == AlphaMode::Opaque) return;
            const auto value = r.values.find(parameter);
            if (!parameter.empty() && value == r.values.end()) return;
            out.push_back(
                {worn, parameter.empty() ? shown : value->second.value.map, r.surface.alphaMode, {*channel, r.surface.alphaCutoff}});
        };
        wear(master->id);
        for (size_t k = 0; k < masters.size(); ++k)
            if (masters[k] == master.get()) wear(project.instances[k]->id);
    }
    return out;
}

std::map<Id, CutOut> cutOutsOf(const Project& project) {
    std::map<Id, CutOut> out;
    for (const AlphaUse& use : alphaUsesOf(project))
        if (use.mode == AlphaMode::Mask) out.try_emplace(use.map, use.cut);
    return out;
}

std::optional<CutOut> CutOuts::of(const Project& project, const Id& map) {
    const std::lock_guard lock(m_mutex);
    if (project.masters != m_masters || project.instances != m_instances) {
        m_known = cutOutsOf(project);
        m_masters = project.masters;
        m_instances = project.instances;
    }
    const auto it = m_known.find(map);
    return it == m_known.end() ? std::nullopt : std::optional(it->second);
}

} // namespace hue
