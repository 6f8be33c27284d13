// Copies of cards: on their board, on another, and on their way there.
#include "core/document/wires.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <filesystem>
#include <functional>
#include <set>
#include <utility>

namespace hue::edit {

Result<Project> duplicateNodes(const Project& project, const Id& master, const std::vector<Id>& ids, Point offset, std::map<Id, Id>* made) {
    std::map<Id, Id> now;
    for (const Id& id : ids) now[id] = newId('n');
    if (made) *made = now;
    return withMaster(project, master, [&](Master& m) -> Outcome {
        for (const Id& id : ids) {
            const Node* node = m.graph.find(id);
            if (!node) continue;
            auto copy = std::make_shared<Node>(*node);
            copy->id = now[id];
            copy->position = {node->position.x + offset.x, node->position.y + offset.y};
            for (auto& [port, wire] : copy->wires)
                if (auto it = now.find(wire.node); it != now.end()) wire.node = it->second;
            m.graph.nodes[copy->id] = std::move(copy);
        }
        return Done{};
    });
}

CopiedCards copyCards(const Project& project, const Id& master, const std::vector<Id>& ids, const std::string& folder) {
    CopiedCards out;
    const Master* m = project.board(master);
    if (!m) return out;
    const auto takeMap = [&](const Id& id) {
        const MapFile* map = project.map(id);
        if (!map || std::any_of(out.maps.begin(), out.maps.end(), [&](const MapFile& f) { return f.id == id; })) return;
        MapFile copy = *map;
        const std::filesystem::path path(copy.path);
        if (!folder.empty() && path.is_relative()) copy.path = (std::filesystem::path(folder) / path).lexically_normal().string();
        // What is made in this project is a file like others elsewhere.
        copy.origin = {};
        copy.set.clear();
        out.maps.push_back(std::move(copy));
    };
    // With those within it, and the maps that they read.
    const std::function<void(const Id&)> takeAssembly = [&](const Id& id) {
        for (const AssemblyPtr& assembly : project.assemblies) {
            if (assembly->id != id) continue;
            if (std::find(out.assemblies.begin(), out.assemblies.end(), assembly) != out.assemblies.end()) return;
            out.assemblies.push_back(assembly);
            for (const auto& [card, node] : assembly->graph.nodes)
                for (const auto& [key, value] : node->settings) takeMap(value);
            for (const Parameter& p : assembly->parameters) takeMap(p.standard.map);
            for (const Id& inner : assembliesOn(project, assembly->graph, false)) takeAssembly(inner);
            return;
        }
    };
    for (const Id& id : ids) {
        const auto it = m->graph.nodes.find(id);
        if (it == m->graph.nodes.end()) continue;
        out.nodes[id] = it->second;
        for (const auto& [key, value] : it->second->settings) takeMap(value);
        if (const Id assembly = assemblyOf(*it->second); !assembly.empty()) takeAssembly(assembly);
        const auto setting = it->second->settings.find("parameter");
        const Parameter* p = setting == it->second->settings.end() ? nullptr : m->parameter(setting->second);
        if (!p || std::any_of(out.parameters.begin(), out.parameters.end(), [&](const Parameter& q) { return q.id == p->id; })) continue;
        out.parameters.push_back(*p);
        if (p->type == ParameterType::Map) takeMap(p->standard.map);
    }
    for (const Bay& bay : m->graph.bays)
        if (std::all_of(bay.nodes.begin(), bay.nodes.end(), [&](const Id& n) { return out.nodes.contains(n); }) && !bay.nodes.empty())
            out.bays.push_back(bay);
    return out;
}

Result<Project> bringMaps(const Project& project, const std::vector<MapFile>& maps, std::map<Id, Id>* now) {
    Result<Project> next = project;
    // The same file is the same map, whatever it is called here.
    for (const MapFile& map : maps) {
        const MapFile* same = next->map(map.id);
        if (same && !map.hash.empty() && !same->hash.empty() && same->hash != map.hash) same = nullptr;
        for (const auto& m : next->maps)
            if (!same && !map.hash.empty() && m->hash == map.hash && m->kind == map.kind) same = m.get();
        if (!same) {
            MapFile added = map;
            if (next->map(added.id)) added.id = newId('t');
            (*now)[map.id] = added.id;
            next = addMap(*next, added);
            if (!next) return next;
        } else {
            (*now)[map.id] = same->id;
        }
    }
    return next;
}

Result<Project> bringAssemblies(const Project& project, const std::vector<AssemblyPtr>& assemblies, const std::map<Id, Id>& maps,
                                bool replace) {
    Result<Project> next = project;
    const auto here = [&](const Id& id) {
        const auto it = maps.find(id);
        return it == maps.end() ? id : it->second;
    };
    for (const AssemblyPtr& assembly : assemblies) {
        const Assembly* there = next->assembly(assembly->id);
        if (there && !replace) continue;
        auto brought = std::make_shared<Assembly>(*assembly);
        for (Parameter& p : brought->parameters)
            if (p.type == ParameterType::Map) p.standard.map = here(p.standard.map);
        for (auto& [id, node] : brought->graph.nodes) {
            auto copy = std::make_shared<Node>(*node);
            for (auto& [key, value] : copy->settings) value = here(value);
            node = std::move(copy);
        }
        if (!there) {
            next = addAssembly(*next, std::move(*brought));
            if (!next) return next;
            continue;
        }
        for (AssemblyPtr& slot : next->assemblies) {
            if (slot->id != assembly->id) continue;
            const AssemblyPtr before = std::exchange(slot, std::move(brought));
            followPorts(*next, *before, *next->assembly(before->id));
            break;
        }
    }
    for (const AssemblyPtr& assembly : assemblies)
        for (const Id& inner : assembliesOn(*next, next->assembly(assembly->id)->graph, false))
            if (wouldHoldItself(*next, assembly->id, inner)) return refuseToHoldItself(cardOf(*assembly).def, {assembly->id, {}, {}});
    return next;
}

Result<Project> pasteCards(const Project& project, const Id& to, const CopiedCards& cards, Point offset, std::map<Id, Id>* made) {
    const Master* target = project.board(to);
    if (!target) return refuse("edit.no-master", "The master is not in the project.", {to, {}, {}});
    if (cards.nodes.empty())
        return refuse("edit.nothing-copied", "No cards were copied. Select some on a board and copy them first.", {to, {}, {}});
    for (const auto& [id, node] : cards.nodes)
        if (!isAssembly(*node) && !findNodeDef(node->kind))
            return refuse("node.unknown", fmt::format("There is no node {}.", node->kind), {to, {}, {}});
    std::map<Id, Id> mapNow;
    Result<Project> next = bringMaps(project, cards.maps, &mapNow);
    if (!next) return next;
    const auto mapHere = [&](const Id& id) {
        const auto it = mapNow.find(id);
        return it != mapNow.end() ? it->second : next->map(id) ? id : Id{};
    };
    next = bringAssemblies(*next, cards.assemblies, mapNow, false);
    if (!next) return next;
    for (const auto& [id, node] : cards.nodes) {
        const Id assembly = assemblyOf(*node);
        if (const NodeDef* def = nodeDefOf(*next, *node); def && wouldHoldItself(*next, to, assembly))
            return refuseToHoldItself(*def, {to, {}, {}});
    }
    // Parameters: one that stands for the same is shared, so that a value tuned once is tuned for both.
    std::map<Id, Id> parameterNow;
    for (const Parameter& p : cards.parameters) {
        const Master& m = *next->board(to);
        const auto same = std::find_if(m.parameters.begin(), m.parameters.end(), [&](const Parameter& q) {
            return q.type == p.type && q.options == p.options && (q.id == p.id || q.name == p.name);
        });
        if (same != m.parameters.end()) {
            parameterNow[p.id] = same->id;
            continue;
        }
        Parameter added = p;
        std::vector<std::string> taken;
        for (const Parameter& q : m.parameters) taken.push_back(q.name);
        if (m.parameter(added.id)) added.id = newId('p');
        added.name = freeName(taken, added.name);
        if (added.type == ParameterType::Map) added.standard.map = mapHere(added.standard.map);
        parameterNow[p.id] = added.id;
        next = addParameter(*next, to, added);
        if (!next) return next;
    }
    std::map<Id, Id> now;
    std::set<Id> among;
    for (const auto& [id, node] : cards.nodes) among.insert(now[id] = newId('n'));
    next = withMaster(*next, to, [&](Master& m) -> Outcome {
        for (const auto& [old, copied] : cards.nodes) {
            auto node = std::make_shared<Node>(*copied);
            node->id = now[old];
            node->position = {node->position.x + offset.x, node->position.y + offset.y};
            for (auto& [port, wire] : node->wires)
                if (const auto it = now.find(wire.node); it != now.end()) wire.node = it->second;
            // From outside: only where the very card is on this board.
            std::erase_if(node->wires, [&](const auto& w) { return !among.contains(w.second.node) && !m.graph.find(w.second.node); });
            for (auto& [key, value] : node->settings)
                if (key == "map" || mapNow.contains(value)) value = mapHere(value);
            if (const auto p = node->settings.find("parameter"); p != node->settings.end())
                if (const auto it = parameterNow.find(p->second); it != parameterNow.end()) p->second = it->second;
            m.graph.nodes[now[old]] = std::move(node);
        }
        std::map<Id, Id> bayNow;
        for (const Bay& bay : cards.bays) bayNow[bay.id] = newId('b');
        for (Bay bay : cards.bays) {
            bay.id = bayNow[bay.id];
            bay.inside = bayNow.contains(bay.inside) ? bayNow[bay.inside] : Id{};
            std::erase_if(bay.nodes, [&](const Id& n) { return !now.contains(n); });
            for (Id& n : bay.nodes) n = now[n];
            if (!bay.nodes.empty()) m.graph.bays.push_back(std::move(bay));
        }
        return Done{};
    });
    if (next && made) *made = now;
    return next;
}

} // namespace hue::edit
