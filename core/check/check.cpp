// Findings that need no Program: what leads nowhere, what nobody uses, what cannot have an effect.
#include "core/check/check.h"
#include "core/assemblies/equal_groups.h"
#include "core/base/diagnostic.h"
#include "core/builds/builds.h"
#include "core/check/advice.h"
#include "core/check/idle_channels.h"
#include "core/check/range_reports.h"
#include "core/check/unknown_words.h"
#include "core/compile/compile.h"
#include "core/document/bays.h"
#include "core/document/lineage.h"
#include "core/document/wires.h"
#include "core/edits/edits.h"
#include "core/edits/strays.h"
#include "core/edits/wearing.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>
#include <tuple>

namespace hue {

namespace {

std::set<Id> nodesThatReachTheSurface(const Graph& graph) {
    std::set<Id> reached;
    std::vector<Id> open;
    for (const auto& [channel, wire] : graph.channelWires) open.push_back(wire.node);
    while (!open.empty()) {
        const Id at = open.back();
        open.pop_back();
        const Node* node = graph.find(at);
        if (!node || !reached.insert(at).second) continue;
        for (const auto& [port, wire] : node->wires) open.push_back(wire.node);
    }
    return reached;
}

/// `reached`: the cards that something comes of.
void checkDeadEnds(const Project& project, const Master& master, const std::set<Id>& reached, std::string_view nowhere,
                   std::string_view goal, std::vector<Diagnostic>& out) {
    std::set<Id> read;
    for (const auto& [id, node] : master.graph.nodes)
        for (const auto& [port, wire] : node->wires) read.insert(wire.node);
    const std::set<Id> scratch = cardsInScratch(master.graph);
    std::map<Id, bool> parameterReaches;
    for (const auto& [id, node] : master.graph.nodes) {
        const auto setting = node->settings.find("parameter");
        const bool counts = reached.contains(id) || scratch.contains(id);
        if (setting != node->settings.end() && counts) parameterReaches[setting->second] = true;
        if (const Parameter* filled = counts ? finishParameter(master, *node) : nullptr) parameterReaches[filled->id] = true;
        // Only the last card of a chain that leads nowhere is named.
        const NodeDef* def = nodeDefOf(project, *node);
        if (reached.contains(id) || read.contains(id) || scratch.contains(id) || (def && def->outputs.empty())) continue;
        const std::string title = cardTitle(project, master, *node);
        const Id masterId = master.id, nodeId = id;
        out.push_back({Severity::Advice,
                       "graph.dead-end",
                       {master.id, id, {}},
                       fmt::format("{} leads to {} and costs nothing. Wire it, or delete it.", title, nowhere),
                       {{"Delete the card", [masterId, nodeId](const Project& p) { return edit::removeNodes(p, masterId, {nodeId}); }}}});
    }
    // A map set does what the maps do that are taken of it.
    for (const Parameter& p : master.parameters)
        if (!p.ofSet.empty() && parameterReaches[p.id]) parameterReaches[p.ofSet] = true;
    for (const Parameter& p : master.parameters)
        if (!parameterReaches[p.id])
            out.push_back(
                {Severity::Caution,
                 "parameter.no-effect",
                 {master.id, {}, {}},
                 fmt::format("The parameter {} of {} has no effect: nothing leads from it to {}. Place it on the board and wire it.",
                             p.name, master.name, goal),
                 {}});
}

void checkInactiveChannels(const Master& master, std::vector<Diagnostic>& out) {
    for (const auto& [key, wire] : master.graph.channelWires) {
        const ChannelDef* channel = findChannel(key);
        const std::optional<Inactive> idle = inactive(master, key);
        if (!channel || !idle) continue;
        std::vector<Fix> fixes{idle->wake};
        const Id id = master.id;
        if (key == "alpha" && !master.surface.unlit && master.surface.alphaMode == AlphaMode::Opaque)
            fixes.push_back({"Switch to mask", [id](const Project& p) {
                                 SurfaceSettings s = p.master(id) ? p.master(id)->surface : SurfaceSettings{};
                                 s.alphaMode = AlphaMode::Mask;
                                 return edit::setSurface(p, id, s);
                             }});
        out.push_back({Severity::Caution,
                       "channel.inactive",
                       {master.id, {}, key},
                       fmt::format("{} has no effect: {}.", channel->name, idle->why),
                       std::move(fixes)});
    }
}

/// Cards that look behind the surface, where nothing lets them.
void checkSceneNodes(const Master& master, std::vector<Diagnostic>& out) {
    if (master.surface.alphaMode == AlphaMode::Blend || master.surface.has(Layer::Transmission)) return;
    for (const Id& id : nodesThatReachTheSurface(master.graph)) {
        const Node* node = master.graph.find(id);
        if (node->kind != "depth_gap" && node->kind != "behind_color") continue;
        const Id m = master.id;
        auto change = [m](auto how) {
            return [m, how](const Project& p) {
                SurfaceSettings s = p.master(m) ? p.master(m)->surface : SurfaceSettings{};
                how(s);
                return edit::setSurface(p, m, s);
            };
        };
        out.push_back({Severity::Caution,
                       "scene.not-see-through",
                       {master.id, id, {}},
                       fmt::format("{} is valid only where light passes through: with alpha mode blend, or with transmission. This surface "
                                   "is {}, so nothing lies behind it.",
                                   findNodeDef(node->kind)->name, nameOf(master.surface.alphaMode)),
                       {{"Switch to blend", change([](SurfaceSettings& s) { s.alphaMode = AlphaMode::Blend; })},
                        {"Add transmission", change([](SurfaceSettings& s) { s.layers |= uint32_t(Layer::Transmission); })}}});
    }
}

void checkDivisions(const Master& master, std::vector<Diagnostic>& out) {
    for (const auto& [id, node] : master.graph.nodes) {
        if (node->kind != "divide") continue;
        if (node->wires.contains("in2")) continue;
        const Value v = constantOf(*node, *findNodeDef("divide")->input("in2"));
        for (int c = 0; c < v.width; ++c)
            if (v[c] == 0) {
                out.push_back({Severity::Error,
                               "divide.by-zero",
                               {master.id, id, "in2"},
                               "Divide has 0 as its second value: every pixel is invalid. Set another value.",
                               {}});
                break;
            }
    }
}

/// What stands twice could be an assembly. A few cards are no burden: four at least would be saved.
std::vector<Diagnostic> equalGroupAdvice(const Project& project, const Master& board, const Compilation& taps) {
    constexpr const char* code = "graph.equal-groups";
    std::vector<Diagnostic> out;
    if (std::find(board.silencedAdvice.begin(), board.silencedAdvice.end(), code) != board.silencedAdvice.end()) return out;
    for (const EqualGroup& group : equalGroups(board.graph, taps)) {
        if (group.saved() < 4) continue;
        const Id first = group.places[0][0], id = board.id;
        std::vector<Fix> fixes{
            {"Make one assembly of them", [id, group](const Project& p) { return foldEqual(p, id, group, "Assembly"); }}};
        if (!project.assembly(id))
            fixes.push_back(
                {fmt::format("Silence for {}", board.name), [id](const Project& p) { return edit::silenceAdvice(p, id, code, true); }});
        out.push_back({Severity::Advice,
                       code,
                       {board.id, first, {}},
                       fmt::format("The same {} cards stand {} times, ending in {}. One assembly could stand for them, so that they are "
                                   "changed together.",
                                   group.size(), group.places.size(), cardTitle(project, board, first)),
                       std::move(fixes)});
    }
    return out;
}

/// Cards in scratch bays are nobody's problem unless they count.
void forgive(const Graph& graph, const std::set<Id>& reached, const Id& board, std::vector<Diagnostic>& out) {
    const std::set<Id> scratch = cardsInScratch(graph);
    if (scratch.empty()) return;
    std::erase_if(out, [&](const Diagnostic& d) {
        return d.place.master == board && scratch.contains(d.place.node) && !reached.contains(d.place.node);
    });
}

/// What is tuned on a master itself becomes everybody's default. Said only where instances are in use already.
void adviseOnBareMasters(const Project& project, const std::vector<const Master*>& mastersOfInstances, std::vector<Diagnostic>& out) {
    for (const MasterPtr& m : project.masters) {
        if (m->parameters.empty() || std::find(mastersOfInstances.begin(), mastersOfInstances.end(), m.get()) == mastersOfInstances.end())
            continue;
        for (const size_t s : specimensWearing(project, m->id))
            out.push_back(
                {Severity::Advice,
                 "wearing.bare-master",
                 {m->id, {}, {}},
                 fmt::format("Specimen {} wears {} itself: what is tuned there changes the defaults of all its instances. Let it wear "
                             "an instance.",
                             s + 1, m->name),
                 {{"Derive an instance for it", [id = m->id, s](const Project& p) { return edit::deriveFor(p, id, newId('i'), {s}); }}}});
    }
}

/// One word for all of a master: who took a parameter away may have left a value in each of its instances.
void adviseOnStrays(const Project& project, const Master& master, const std::vector<Id>& strays, std::vector<Diagnostic>& out) {
    constexpr size_t kNamed = 3;
    std::vector<std::string> names;
    for (size_t k = 0; k < strays.size() && k < kNamed; ++k) names.push_back(project.instance(strays[k])->name);
    out.push_back({Severity::Advice,
                   "instance.stray-value",
                   {master.id, {}, {}},
                   fmt::format("{}{} keep values of parameters that {} no longer has. Drop them, or bring the parameters back.",
                               fmt::join(names, ", "), strays.size() > kNamed ? fmt::format(" and {} more", strays.size() - kNamed) : "",
                               master.name),
                   {{"Drop the values", [id = master.id](const Project& p) { return edit::dropStrays(p, id); }}}});
}

void checkBuilds(const Project& project, const Master& master, std::vector<Diagnostic>& out) {
    if (!hasBuildChoices(master)) return;
    const size_t used = usedOf(buildsOf(project, master));
    if (used > kManyBuilds)
        out.push_back({Severity::Caution,
                       "builds.many",
                       {master.id, {}, {}},
                       fmt::format("{} is in use in {}, and each is compiled and shipped by itself. Leave choices live that save little.",
                                   master.name, buildCountWords(master, used)),
                       {}});
}

std::set<Id> nodesThatReachOutputs(const Graph& graph) {
    std::set<Id> outputs;
    for (const auto& [id, node] : graph.nodes)
        if (node->kind == kOutputKind) outputs.insert(id);
    std::set<Id> reached = cardsFeeding(graph, outputs);
    reached.merge(outputs);
    return reached;
}

} // namespace

std::vector<Diagnostic> checkAssembly(const Project& project, const Assembly& assembly, const MapBounds& maps) {
    const Compilation taps = compileTaps(project, assembly);
    std::vector<Diagnostic> out = taps.diagnostics;
    checkDivisions(assembly, out);
    if (taps.ok)
        for (Diagnostic& d : rangeReports(project, assembly, *taps.program, maps)) out.push_back(std::move(d));
    const std::set<Id> reached = nodesThatReachOutputs(assembly.graph);
    checkDeadEnds(project, assembly, reached, "no output of the assembly", "any of its outputs", out);
    if (cardOf(assembly).outputs.empty())
        out.push_back({Severity::Caution,
                       "assembly.no-outputs",
                       {assembly.id, {}, {}},
                       fmt::format("The assembly {} gives nothing. Put an Output card on its board, and wire to it.", assembly.name),
                       {}});
    forgive(assembly.graph, reached, assembly.id, out);
    return out;
}

std::vector<Diagnostic> checkMaster(const Project& project, const Master& master, const MapBounds& maps) {
    const Compilation compiled = compileSurface(project, master);
    std::vector<Diagnostic> out = compiled.diagnostics;
    // Cards that reach no channel are checked as well, since they are on the way to one.
    std::set<std::tuple<std::string, Id, std::string>> told;
    for (const Diagnostic& d : out) told.emplace(d.code, d.place.node, d.place.port);
    Compilation taps = compileTaps(project, master);
    for (Diagnostic& d : taps.diagnostics)
        if (told.emplace(d.code, d.place.node, d.place.port).second) out.push_back(std::move(d));
    checkDivisions(master, out);
    // Of all builds at once: with the choices left open.
    std::optional<Compilation> opened;
    if (compiled.ok && possibleBuilds(master) > 1) opened = compileSurface(project, withoutChoices(master));
    const Compilation& all = opened ? *opened : compiled;
    if (all.ok)
        for (const auto& program : {all.program, all.offset})
            if (program)
                for (Diagnostic& d : rangeReports(project, master, *program, maps)) out.push_back(std::move(d));
    checkSceneNodes(master, out);
    for (Diagnostic& d : equalGroupAdvice(project, master, taps)) out.push_back(std::move(d));
    for (Diagnostic& d : adviceFor(project, master)) out.push_back(std::move(d));
    checkInactiveChannels(master, out);
    checkBuilds(project, master, out);
    const std::set<Id> reached = nodesThatReachTheSurface(master.graph);
    checkDeadEnds(project, master, reached, "no channel of the surface", "the surface", out);
    for (const auto& [id, node] : master.graph.nodes)
        if (node->kind == kOutputKind)
            out.push_back({Severity::Caution,
                           "assembly.output-outside",
                           {master.id, id, {}},
                           "An Output card counts only on the board of an assembly. Wire to a channel of the surface instead.",
                           {{"Delete the card", [m = master.id, id = id](const Project& p) { return edit::removeNodes(p, m, {id}); }}}});
    // What is only tried, and not worn yet, is nobody's problem.
    forgive(master.graph, reached, master.id, out);
    return out;
}

/// Map set parameters whose value is no set of the project: files that were merged or edited can name one.
static void namesGoneSets(const Project& project, const std::vector<const Master*>& masters, std::vector<Diagnostic>& out) {
    const std::vector<std::string> sets = project.mapSets();
    const auto look = [&](const Master& m, const Id& id, const ParameterValue& value, const std::string& who) {
        const Parameter* p = value.map.empty() ? nullptr : m.parameter(id);
        if (!p || p->type != ParameterType::MapSet || std::find(sets.begin(), sets.end(), value.map) != sets.end()) return;
        out.push_back({Severity::Caution,
                       "set.gone",
                       {m.id, {}, {}},
                       fmt::format("{} takes its maps of the set {}, which the project does not have: they are neutral. Choose another set "
                                   "for {}.",
                                   who, value.map, p->name),
                       {}});
    };
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters) look(*m, p.id, p.standard, m->name);
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k])
            for (const auto& [id, value] : project.instances[k]->own)
                look(*masters[k], id, value, project.nameOf(project.instances[k]->id));
}

std::vector<Diagnostic> checkProject(const Project& project, const MapBounds& maps) {
    std::vector<Diagnostic> out = unknownWords(project);
    // What is wrong within an assembly is told once, however many cards stand for it.
    std::set<std::tuple<std::string, Id, Id, std::string>> within;
    const auto place = [](const Diagnostic& d) { return std::tuple(d.code, d.place.master, d.place.node, d.place.port); };
    for (const AssemblyPtr& assembly : project.assemblies)
        for (Diagnostic& d : checkAssembly(project, *assembly, maps)) {
            if (!within.insert(place(d)).second) continue;
            if (d.sentence.find(assembly->name) == std::string::npos) d.sentence = fmt::format("In {}: {}", assembly->name, d.sentence);
            out.push_back(std::move(d));
        }
    for (const auto& master : project.masters)
        for (Diagnostic& d : checkMaster(project, *master, maps))
            if (d.place.master == master->id || within.insert(place(d)).second) out.push_back(std::move(d));
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < project.instances.size(); ++k) {
        const InstancePtr& instance = project.instances[k];
        const Master* master = masters[k];
        if (!master) {
            out.push_back(
                {Severity::Error,
                 "instance.no-parent",
                 {},
                 fmt::format("The instance {} has no parent in this project. Delete it, or bring its master back.", instance->name),
                 {}});
            continue;
        }
    }
    namesGoneSets(project, masters, out);
    for (size_t s = 0; s < project.lineup.specimens.size(); ++s)
        for (const Id& worn : project.lineup.specimens[s].wears)
            if (!worn.empty() && !project.masterOf(worn))
                out.push_back({Severity::Caution,
                               "lineup.nothing-worn",
                               {},
                               fmt::format("Specimen {} wears something that the project does not have. Drag an instance on it.", s + 1),
                               {}});
    // All instances are gone through once, whatever the number of masters.
    std::set<const Master*> withStrays;
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k] && std::any_of(project.instances[k]->own.begin(), project.instances[k]->own.end(),
                                      [&](const auto& own) { return !masters[k]->parameter(own.first); }))
            withStrays.insert(masters[k]);
    for (const MasterPtr& m : project.masters)
        if (withStrays.contains(m.get())) adviseOnStrays(project, *m, instancesWithStrays(project, *m), out);
    adviseOnBareMasters(project, masters, out);
    return out;
}

} // namespace hue
