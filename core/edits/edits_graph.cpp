// Edits of masters and cards.
#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/document/wires.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

namespace hue::edit {

Result<Project> chain(const Project& project, std::initializer_list<Edit> edits) {
    Result<Project> at = project;
    for (const Edit& e : edits) {
        at = e(*at);
        if (!at) return at;
    }
    return at;
}

static std::vector<std::string> masterNames(const Project& project, const Id& except = {}) {
    std::vector<std::string> names;
    for (const auto& m : project.masters)
        if (m->id != except) names.push_back(m->name);
    return names;
}

static Outcome checkName(const std::string& name) {
    if (name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A name needs at least one letter.");
    if (name.find('/') != std::string::npos)
        return refuse("name.slash", "A name cannot hold a slash: it stands between master and instance.");
    return Done{};
}

Result<Project> addMaster(const Project& project, Master master) {
    if (Outcome o = checkName(master.name); !o) return o.error();
    if (master.id.empty()) master.id = newId('m');
    master.name = freeName(masterNames(project), master.name);
    Project next = project;
    next.masters.push_back(std::make_shared<Master>(std::move(master)));
    return next;
}

Result<Project> renameMaster(const Project& project, const Id& id, const std::string& name) {
    if (Outcome o = checkName(name); !o) return o.error();
    if (contains(masterNames(project, id), name))
        return refuse("name.taken", fmt::format("There is a master {} already. Choose another name.", name));
    return withMaster(project, id, [&](Master& m) -> Outcome {
        m.name = name;
        return Done{};
    });
}

/// Masters and assemblies with a card that takes a master, or an instance of it, as a finish.
static std::vector<std::string> takersOf(const Project& project, const Id& id) {
    std::vector<std::string> names;
    const auto look = [&](const Master& board) {
        const auto takes = [&](const auto& entry) {
            const Master* worn = project.masterOf(finishOf(board, *entry.second));
            return worn && worn->id == id;
        };
        if (board.id != id && std::any_of(board.graph.nodes.begin(), board.graph.nodes.end(), takes)) names.push_back(board.name);
    };
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        for (const auto& [parameter, own] : project.instances[k]->own) {
            const Parameter* p = masters[k] && !own.map.empty() ? masters[k]->parameter(parameter) : nullptr;
            const Master* worn = p && p->type == ParameterType::Finish ? project.masterOf(own.map) : nullptr;
            if (worn && worn->id == id && masters[k]->id != id) names.push_back(project.nameOf(project.instances[k]->id));
        }
    for (const MasterPtr& m : project.masters) look(*m);
    for (const AssemblyPtr& a : project.assemblies) look(*a);
    return names;
}

Result<Project> removeMaster(const Project& project, const Id& id) {
    if (!project.master(id)) return refuse("edit.no-master", "The master is not in the project.");
    if (const std::vector<std::string> takers = takersOf(project, id); !takers.empty())
        return refuse("edit.master-taken",
                      fmt::format("{} is taken as a finish by {}. Let the cards there take another first, or remove them.",
                                  project.master(id)->name, fmt::join(takers, ", ")));
    Project next = project;
    std::erase_if(next.masters, [&](const MasterPtr& m) { return m->id == id; });
    const std::vector<const Master*> masters = mastersOfInstances(project);
    next.instances.clear();
    for (size_t k = 0; k < masters.size(); ++k)
        if (!masters[k] || masters[k]->id != id) next.instances.push_back(project.instances[k]);
    for (Specimen& s : next.lineup.specimens) {
        for (Id& worn : s.wears)
            if (!next.masterOf(worn)) worn.clear();
        for (Decal& d : s.decals)
            if (!next.masterOf(d.wears)) d.wears.clear();
    }
    return next;
}

Result<Project> setSurface(const Project& project, const Id& id, const SurfaceSettings& settings) {
    return withSurface(project, id, [&](Master& m) -> Outcome {
        if (Outcome o = onlyFinite("The alpha cutoff", {settings.alphaCutoff}, {id, {}, {}}); !o) return o;
        m.surface = settings;
        m.surface.alphaCutoff = std::clamp(settings.alphaCutoff, 0.f, 1.f);
        return Done{};
    });
}

Result<Project> silenceAdvice(const Project& project, const Id& id, const std::string& code, bool silent) {
    return withSurface(project, id, [&](Master& m) -> Outcome {
        std::erase(m.silencedAdvice, code);
        if (silent) m.silencedAdvice.push_back(code);
        return Done{};
    });
}

Result<Project> setGraph(const Project& project, const Id& master, Graph graph) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        m.graph = std::move(graph);
        dropEmptyBays(m.graph.bays);
        return Done{};
    });
}

Result<Project> addNode(const Project& project, const Id& master, Node node) {
    const NodeDef* def = nodeDefOf(project, node);
    if (!def) return refuse("node.unknown", fmt::format("There is no node {}.", node.kind));
    if (wouldHoldItself(project, master, assemblyOf(node))) return refuseToHoldItself(*def, {master, node.id, {}});
    return withMaster(project, master, [&](Master& m) -> Outcome {
        const Id id = node.id;
        // A finish is made of what the surface shows.
        if (node.kind == "finish" && !node.settings.contains("kind") && node.wires.empty())
            if (const std::string kind(finishKindFor(m.surface)); kind != "plain") node.settings["kind"] = kind;
        m.graph.nodes[id] = std::make_shared<Node>(std::move(node));
        return Done{};
    });
}

Result<Project> removeNodes(const Project& project, const Id& master, const std::vector<Id>& ids) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        Graph& g = m.graph;
        for (const Id& id : ids) g.nodes.erase(id);
        for (auto& [id, node] : g.nodes) {
            const bool reads =
                std::any_of(node->wires.begin(), node->wires.end(), [&](const auto& w) { return contains(ids, w.second.node); });
            if (!reads) continue;
            auto copy = std::make_shared<Node>(*node);
            std::erase_if(copy->wires, [&](const auto& w) { return contains(ids, w.second.node); });
            node = std::move(copy);
        }
        std::erase_if(g.channelWires, [&](const auto& w) { return contains(ids, w.second.node); });
        for (Bay& bay : g.bays) std::erase_if(bay.nodes, [&](const Id& n) { return contains(ids, n); });
        dropEmptyBays(g.bays);
        return Done{};
    });
}

Result<Project> moveNodes(const Project& project, const Id& master, const std::map<Id, Point>& positions) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        for (const auto& [id, position] : positions) {
            if (Outcome o = onlyFinite("The board", {position.x, position.y}, {master, id, {}}); !o) return o;
            auto it = m.graph.nodes.find(id);
            if (it == m.graph.nodes.end()) continue;
            auto copy = std::make_shared<Node>(*it->second);
            copy->position = position;
            it->second = std::move(copy);
        }
        return Done{};
    });
}

Result<Project> renameNode(const Project& project, const Id& master, const Id& id, const std::string& title) {
    return withNode(project, master, id, [&](Node& n) -> Outcome {
        n.title = title;
        return Done{};
    });
}

/// Each of several cards is changed.
template <class Change>
static Result<Project> withNodes(const Project& project, const Id& master, const std::vector<Id>& ids, Change change) {
    Result<Project> at = project;
    for (const Id& id : ids) {
        at = withNode(*at, master, id, [&](Node& n) -> Outcome {
            change(n);
            return Done{};
        });
        if (!at) return at;
    }
    return at;
}

Result<Project> muteNodes(const Project& project, const Id& master, const std::vector<Id>& ids, bool muted) {
    return withNodes(project, master, ids, [&](Node& n) { n.muted = muted; });
}

Result<Project> lockNodes(const Project& project, const Id& master, const std::vector<Id>& ids, bool locked) {
    return withNodes(project, master, ids, [&](Node& n) { n.locked = locked; });
}

Result<Project> setConstant(const Project& project, const Id& master, const Id& id, const std::string& port, const Value& value) {
    if (Outcome o = onlyFinite("The input " + port, value, {master, id, port}); !o) return o.error();
    return withNode(project, master, id, [&](Node& n) -> Outcome {
        const NodeDef* def = nodeDefOf(project, n);
        const PortDef* input = def ? def->input(port) : nullptr;
        if (!input) return refuse("edit.no-port", fmt::format("The card has no input {}.", port), {master, id, port});
        if (input->width == kMapPort)
            return refuse("edit.no-port", fmt::format("The input {} takes a map, not numbers. Choose a map, or wire one.", port),
                          {master, id, port});
        if (input->width == kFinishPort)
            return refuse("edit.no-port", fmt::format("The input {} takes a finish, not numbers. Wire one.", port), {master, id, port});
        n.constants[port] = value;
        return Done{};
    });
}

Result<Project> setSetting(const Project& project, const Id& master, const Id& id, const std::string& key, const std::string& value) {
    return withNode(project, master, id, [&](Node& n) -> Outcome {
        const NodeDef* def = nodeDefOf(project, n);
        const SettingDef* setting = def ? def->setting(key) : nullptr;
        if (!setting) return refuse("edit.no-setting", fmt::format("The card has no setting {}.", key), {master, id, key});
        if (!setting->choices.empty() && std::find(setting->choices.begin(), setting->choices.end(), value) == setting->choices.end())
            return refuse("edit.no-choice", fmt::format("{} is no choice of {}.", value, key), {master, id, key});
        if (isAssembly(n) && key == kAssemblySetting) {
            const Assembly* assembly = project.assembly(value);
            if (!assembly) return refuse("edit.no-assembly", "The assembly is not in the project any more.", {master, id, key});
            if (wouldHoldItself(project, master, value)) return refuseToHoldItself(cardOf(*assembly).def, {master, id, key});
        }
        if (n.kind == kFinishOfKind && key == kFinishOfSetting && !value.empty() && !project.masterOf(value) &&
            !(project.board(master)->parameter(value) && project.board(master)->parameter(value)->type == ParameterType::Finish))
            return refuse("edit.no-master", "The master or instance is not in the project any more.", {master, id, key});
        n.settings[key] = value;
        return Done{};
    });
}

Result<Project> setChannelConstant(const Project& project, const Id& master, const std::string& channel, const Value& value) {
    return withSurface(project, master, [&](Master& m) -> Outcome {
        const ChannelDef* def = findChannel(channel);
        if (!def) return refuse("edit.no-channel", fmt::format("The surface has no channel {}.", channel));
        if (Outcome o = onlyFinite(std::string(def->name), value, {master, {}, channel}); !o) return o;
        m.graph.channelConstants[std::string(def->key)] = {def->width, value.v};
        return Done{};
    });
}

Result<Project> muteChannel(const Project& project, const Id& master, const std::string& channel, bool muted) {
    return withSurface(project, master, [&](Master& m) -> Outcome {
        auto& list = m.graph.mutedChannels;
        std::erase(list, channel);
        if (muted) list.push_back(channel);
        std::sort(list.begin(), list.end());
        return Done{};
    });
}

} // namespace hue::edit
