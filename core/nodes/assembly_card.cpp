#include "core/nodes/assembly_card.h"

#include "core/document/names.h"
#include "core/document/parameter_kinds.h"

#include <algorithm>
#include <set>
#include <tuple>

namespace hue {

PortDef portOf(const Parameter& p) {
    const ParameterKind& kind = kindOf(p.type);
    PortDef port;
    port.key = p.codeName;
    port.width = p.leadsMap() ? kMapPort : p.width();
    port.meaning = kind.meaning;
    port.standard = p.standard.value;
    port.low = p.softMin;
    port.high = p.softMax;
    port.help = p.description.empty() ? std::string_view(p.name) : std::string_view(p.description);
    port.unit = p.unit;
    if (p.follows == Follows::Uv && p.type == ParameterType::Vector2) port.unwired = Unwired::Uv, port.meaning = Meaning::Uv;
    if (p.follows == Follows::Normal && kind.width == 3) port.unwired = Unwired::NormalWorld, port.meaning = Meaning::Normal;
    if (p.follows == Follows::Position && kind.width == 3) port.unwired = Unwired::PositionObject, port.meaning = Meaning::Position;
    return port;
}

namespace {

std::shared_ptr<const AssemblyCard> made(const Assembly& assembly) {
    auto card = std::make_shared<AssemblyCard>();
    card->outputs = outputsOf(assembly);
    NodeDef& def = card->def;
    def.key = kAssemblyKind;
    def.name = assembly.name;
    def.family = "Assemblies";
    def.words = "assembly";
    def.help =
        assembly.description.empty() ? std::string_view("A graph of its own, used as a node.") : std::string_view(assembly.description);
    for (const Parameter& p : assembly.parameters) def.inputs.push_back(portOf(p));
    for (const AssemblyOutput& output : card->outputs) {
        PortDef port;
        port.key = output.key;
        port.help = output.name;
        def.outputs.push_back(port);
    }
    def.settings.push_back({kAssemblySetting, {}, "", "Which assembly"});
    // A map that is chosen on the card.
    for (const PortDef& port : def.inputs)
        if (port.width == kMapPort) def.settings.push_back({port.key, {}, "", port.help});
    return card;
}

} // namespace

std::vector<AssemblyOutput> outputsOf(const Assembly& assembly) {
    std::vector<const Node*> cards;
    for (const auto& [id, node] : assembly.graph.nodes)
        if (node->kind == kOutputKind) cards.push_back(node.get());
    std::sort(cards.begin(), cards.end(), [](const Node* a, const Node* b) {
        return std::tie(a->position.y, a->position.x, a->id) < std::tie(b->position.y, b->position.x, b->id);
    });
    std::vector<AssemblyOutput> out;
    std::set<std::string> taken;
    for (const Node* card : cards) {
        AssemblyOutput output{card->id, codeNameFrom(card->title.empty() ? "out" : card->title), card->title.empty() ? "Out" : card->title};
        while (!taken.insert(output.key).second) output.key += "_2";
        out.push_back(std::move(output));
    }
    return out;
}

const AssemblyCard& cardOf(const Assembly& assembly) {
    return assembly.card.get([&] { return made(assembly); });
}

Id assemblyOf(const Node& node) {
    if (!isAssembly(node)) return {};
    const auto it = node.settings.find(std::string(kAssemblySetting));
    return it == node.settings.end() ? Id{} : it->second;
}

const NodeDef* nodeDefOf(const Project& project, const Node& node) {
    if (!isAssembly(node)) return findNodeDef(node.kind);
    const Assembly* assembly = project.assembly(assemblyOf(node));
    return assembly ? &cardOf(*assembly).def : nullptr;
}

Node makeAssemblyNode(const Id& assembly, Point position) {
    Node node = makeNode(kAssemblyKind, position);
    node.settings[std::string(kAssemblySetting)] = assembly;
    return node;
}

std::vector<Id> assembliesOn(const Project& project, const Graph& graph, bool deep) {
    std::vector<Id> out;
    std::set<Id> seen;
    const auto take = [&](const Graph& g) {
        for (const auto& [id, node] : g.nodes)
            if (const Id of = assemblyOf(*node); !of.empty() && seen.insert(of).second) out.push_back(of);
    };
    take(graph);
    for (size_t i = 0; deep && i < out.size(); ++i)
        if (const Assembly* within = project.assembly(out[i])) take(within->graph);
    return out;
}

bool wouldHoldItself(const Project& project, const Id& outer, const Id& inner) {
    if (outer == inner) return true;
    const Assembly* within = project.assembly(inner);
    if (!within || !project.assembly(outer)) return false;
    const std::vector<Id> held = assembliesOn(project, within->graph, true);
    return std::find(held.begin(), held.end(), outer) != held.end();
}

std::vector<AssemblyUse> usesOf(const Project& project, const Id& assembly) {
    std::vector<AssemblyUse> out;
    for (const Master* board : project.boards())
        for (const auto& [id, node] : board->graph.nodes)
            if (assemblyOf(*node) == assembly) out.push_back({board->id, id});
    return out;
}

} // namespace hue
