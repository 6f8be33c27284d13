#pragma once
// What the files of edits share.
// Threads: an object belongs to one at a time.
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace hue::edit {

inline Error refuse(std::string code, std::string sentence, Place place = {}) {
    return {std::move(code), std::move(sentence), std::move(place)};
}

/// Whether a setting of a card is the map that it reads while no map is wired.
bool readsMapBySetting(const Project& project, const Node& node, const std::string& key);

/// Wires and values at the ports of an assembly's cards go on with what its inputs and outputs are called now.
void followPorts(Project& project, const Assembly& before, const Assembly& after);

/// A copy of the project in which `change` was applied to a copy of the master or assembly. `change` returns an Outcome.
template <class Change> Result<Project> withMaster(const Project& project, const Id& id, Change change) {
    Project next = project;
    for (MasterPtr& slot : next.masters) {
        if (slot->id != id) continue;
        auto copy = std::make_shared<Master>(*slot);
        if (Outcome outcome = change(*copy); !outcome) return outcome.error();
        slot = std::move(copy);
        return next;
    }
    for (AssemblyPtr& slot : next.assemblies) {
        if (slot->id != id) continue;
        auto copy = std::make_shared<Assembly>(*slot);
        if (Outcome outcome = change(*copy); !outcome) return outcome.error();
        const AssemblyPtr before = std::exchange(slot, std::move(copy));
        followPorts(next, *before, *next.assembly(id));
        return next;
    }
    return refuse("edit.no-master", "The master is not in the project.", {id, {}, {}});
}

/// `change` gets a copy of every master and assembly, and says whether it is to take the place of the one there was.
template <class Change> void changeBoards(Project& project, Change change) {
    const auto each = [&]<class T>(std::vector<std::shared_ptr<const T>>& boards) {
        for (std::shared_ptr<const T>& slot : boards) {
            auto copy = std::make_shared<T>(*slot);
            if (change(*copy)) slot = std::move(copy);
        }
    };
    each(project.masters);
    each(project.assemblies);
}

inline Error refuseToHoldItself(const NodeDef& def, Place place) {
    return refuse("assembly.holds-itself", fmt::format("{} cannot stand on its own board, nor within what it consists of.", def.name),
                  std::move(place));
}

/// As withMaster, of what only a master has.
template <class Change> Result<Project> withSurface(const Project& project, const Id& id, Change change) {
    if (project.assembly(id))
        return refuse("assembly.no-surface", "An assembly has no surface. Wire to an Output card, and its card to the surface of a master.",
                      {id, {}, {}});
    return withMaster(project, id, change);
}

template <class Change> Result<Project> withNode(const Project& project, const Id& master, const Id& id, Change change) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = m.graph.nodes.find(id);
        if (it == m.graph.nodes.end()) return refuse("edit.no-card", "The card is not on the board any more.", {master, id, {}});
        auto copy = std::make_shared<Node>(*it->second);
        if (Outcome outcome = change(*copy); !outcome) return outcome;
        it->second = std::move(copy);
        return Done{};
    });
}

template <class Change> Result<Project> withInstance(const Project& project, const Id& id, Change change) {
    Project next = project;
    for (InstancePtr& slot : next.instances) {
        if (slot->id != id) continue;
        auto copy = std::make_shared<Instance>(*slot);
        if (Outcome outcome = change(*copy); !outcome) return outcome.error();
        slot = std::move(copy);
        return next;
    }
    return refuse("edit.no-instance", "The instance is not in the project.");
}

/// Whether a parameter can hold a value: a map that there is, a curve or gradient that can be read, a finish that does not lead back to its
/// own board. Errors: edit.no-map, drawn.words, drawn.kind, edit.no-master, finish.leads-back.
Outcome canHold(const Project& project, const Master& master, const Parameter& p, const ParameterValue& value);

/// Refuses what is not finite; `what` begins the sentence: "The range of Wear".
inline Outcome onlyFinite(const std::string& what, std::initializer_list<float> numbers, Place place = {}) {
    if (std::all_of(numbers.begin(), numbers.end(), [](float x) { return std::isfinite(x); })) return Done{};
    return refuse("value.not-finite", what + " takes finite numbers only. Type other ones.", std::move(place));
}
inline Outcome onlyFinite(const std::string& what, const Value& v, Place place = {}) {
    return onlyFinite(what, {v[0], v[1], v[2], v[3]}, std::move(place));
}

/// Of where a decal lies and how it fades.
inline Outcome onlyFinite(const Decal& d) {
    return onlyFinite(d.name.empty() ? "The decal" : d.name,
                      {d.position[0], d.position[1], d.position[2], d.facing[0], d.facing[1], d.facing[2], d.turn, d.width, d.height,
                       d.depth, d.fadeFrom, d.fadeTo, d.depthFade});
}

inline bool contains(const std::vector<std::string>& list, const std::string& entry) {
    return std::find(list.begin(), list.end(), entry) != list.end();
}

/// Bays that hold nothing go, and then those that held only them.
inline void dropEmptyBays(std::vector<Bay>& bays) {
    const auto empty = [&](const Bay& b) {
        return b.nodes.empty() && std::none_of(bays.begin(), bays.end(), [&](const Bay& c) { return c.inside == b.id; });
    };
    for (auto gone = std::find_if(bays.begin(), bays.end(), empty); gone != bays.end();
         gone = std::find_if(bays.begin(), bays.end(), empty))
        bays.erase(gone);
}

} // namespace hue::edit
