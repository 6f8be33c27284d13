// Edits of map sets, and of parameters that take their maps of one.
#include "core/edits/edit_parts.h"
#include "core/maps/statistics.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <set>

namespace hue::edit {
namespace {

bool isOf(const Parameter& p, const Id& set) { return p.type == ParameterType::Map && !set.empty() && p.ofSet == set; }

/// Whether a value of one of a board's parameters names a set.
bool namesSet(const Master& board, const Id& parameter, const ParameterValue& value, const std::string& set) {
    const Parameter* p = value.map == set ? board.parameter(parameter) : nullptr;
    return p && p->type == ParameterType::MapSet;
}

/// Wherever parameters, presets and instances name a set, they name another.
void renameSet(Project& project, const std::string& from, const std::string& to) {
    std::map<Id, std::vector<Id>> own; // parameters by instance; found while the old name stands
    for (const InstancePtr& i : project.instances)
        if (const Master* m = project.masterOf(i->id))
            for (const auto& [id, value] : i->own)
                if (namesSet(*m, id, value, from)) own[i->id].push_back(id);
    changeBoards(project, [&](Master& board) {
        bool changed = false;
        for (Parameter& p : board.parameters)
            if (namesSet(board, p.id, p.standard, from)) p.standard.map = to, changed = true;
        for (Preset& preset : board.presets)
            for (auto& [id, value] : preset.values)
                if (namesSet(board, id, value, from)) value.map = to, changed = true;
        return changed;
    });
    for (InstancePtr& slot : project.instances) {
        const auto its = own.find(slot->id);
        if (its == own.end()) continue;
        auto copy = std::make_shared<Instance>(*slot);
        for (const Id& parameter : its->second) copy->own[parameter].map = to;
        slot = std::move(copy);
    }
}

/// The first that names a set: "Setts" or "Setts/Wet".
std::string firstUserOf(const Project& project, const std::string& set) {
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters)
            if (namesSet(*m, p.id, p.standard, set)) return m->name;
    for (const InstancePtr& i : project.instances)
        if (const Master* m = project.masterOf(i->id))
            for (const auto& [id, value] : i->own)
                if (namesSet(*m, id, value, set)) return project.nameOf(i->id);
    return {};
}

/// The set that all of some maps are of, each with the role that its parameter takes; empty where there is none.
std::string oneSetOf(const Project& project, const std::vector<std::pair<const Parameter*, Id>>& maps) {
    std::string out;
    for (const auto& [p, id] : maps) {
        const MapFile* map = project.map(id);
        if (!map || map->set.empty() || map->role != p->setRole || (!out.empty() && map->set != out)) return {};
        out = map->set;
    }
    return out;
}

/// Own maps of an instance that are all of one set become that set, where it looks the same then.
void nameSetOf(Project& project, InstancePtr& slot, const Master& master, const Id& set) {
    std::vector<std::pair<const Parameter*, Id>> maps;
    for (const Parameter& p : master.parameters)
        if (const auto own = slot->own.find(p.id); isOf(p, set) && own != slot->own.end()) maps.emplace_back(&p, own->second.map);
    const std::string name = oneSetOf(project, maps);
    if (name.empty()) return;
    const Resolved before = resolve(project, slot->id);
    const InstancePtr as = slot;
    auto copy = std::make_shared<Instance>(*slot);
    copy->own[set] = {{}, name};
    for (const auto& [p, map] : maps) copy->own.erase(p->id);
    slot = std::move(copy);
    const Resolved after = resolve(project, slot->id);
    for (const Parameter& p : master.parameters)
        if (isOf(p, set) && !(before.values.at(p.id).value == after.values.at(p.id).value)) {
            slot = as;
            return;
        }
}

} // namespace

Result<Project> makeSet(const Project& project, const std::string& name, const std::vector<SetMember>& members) {
    std::set<std::string> taken, left;
    for (const SetMember& m : members) {
        if (!name.empty() && !m.role.empty() && !taken.insert(m.role).second)
            return refuse("set.role-twice", fmt::format("Two maps of {} would hold {}. Give one of them another role.", name, m.role));
        if (const MapFile* map = project.map(m.map); map && !map->set.empty() && map->set != name) left.insert(map->set);
    }
    Project next = project;
    for (const SetMember& m : members)
        for (auto& slot : next.maps) {
            if (slot->id != m.map) continue;
            auto copy = std::make_shared<MapFile>(*slot);
            copy->set = name;
            if (!m.role.empty()) copy->role = m.role;
            slot = std::move(copy);
        }
    for (const std::string& set : left) {
        const std::vector<std::string> sets = next.mapSets();
        if (std::find(sets.begin(), sets.end(), set) != sets.end()) continue;
        const std::string user = firstUserOf(project, set);
        if (!user.empty() && name.empty())
            return refuse("set.in-use", fmt::format("{} takes its maps of the set {}. Give it another set first.", user, set));
        if (!name.empty()) renameSet(next, set, name);
    }
    return next;
}

std::string roleOf(const Parameter& p) {
    if (const Guess g = guessOfName(p.name + "."); !g.role.empty()) return g.role;
    switch (p.mapKind) {
    case MapKind::Color: return "base color";
    case MapKind::Normal: return "normal";
    case MapKind::Height: return "height";
    case MapKind::Data: return "packed";
    }
    return {};
}

Result<Project> takeOfSet(const Project& project, const Id& master, const std::vector<Id>& parameters, const Id& set) {
    const Master* board = project.board(master);
    const Parameter* chosen = board ? board->parameter(set) : nullptr;
    if (!set.empty() && !chosen) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    if (chosen && chosen->type != ParameterType::MapSet)
        return refuse("set.kind", fmt::format("{} is no map set. Choose a parameter of that kind.", chosen->name), {master, {}, {}});
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        for (const Id& id : parameters) {
            const auto at = std::find_if(m.parameters.begin(), m.parameters.end(), [&](const Parameter& p) { return p.id == id; });
            if (at == m.parameters.end()) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
            if (at->type != ParameterType::Map)
                return refuse("set.kind", fmt::format("{} is no map, and a set has maps alone.", at->name), {master, {}, {}});
            at->ofSet = set;
            at->setRole = set.empty() ? std::string() : roleOf(*at);
        }
        // Defaults that are of one set are of it from now on.
        std::vector<std::pair<const Parameter*, Id>> maps;
        for (const Parameter& p : m.parameters)
            if (isOf(p, set) && !p.standard.map.empty()) maps.emplace_back(&p, p.standard.map);
        const std::string name = oneSetOf(project, maps);
        for (Parameter& p : m.parameters) {
            if (name.empty()) break;
            if (p.id == set && p.standard.map.empty()) p.standard.map = name;
        }
        const Parameter* its = m.parameter(set);
        for (Parameter& p : m.parameters)
            if (isOf(p, set) && its && its->standard.map == name) p.standard = {};
        return Done{};
    });
    if (!next || set.empty()) return next;
    const Master& now = *next->board(master);
    for (InstancePtr& slot : next->instances)
        if (!slot->locked && next->masterOf(slot->id) == &now) nameSetOf(*next, slot, now, set);
    return next;
}

Result<Project> wearSet(const Project& project, const Id& worn, const std::string& set) {
    const Master* master = project.masterOf(worn);
    if (!master) return refuse("edit.no-instance", "The instance is not in the project.");
    Result<Project> next = project;
    int fitted = 0;
    for (const Parameter& p : master->parameters) {
        if (p.type != ParameterType::Map) continue;
        const Parameter* of = p.ofSet.empty() ? nullptr : master->parameter(p.ofSet);
        const MapFile* map = project.mapOfSet(set, of ? p.setRole : roleOf(p));
        if (!map) continue;
        next = of ? setOwn(*next, worn, of->id, {{}, set}) : setOwn(*next, worn, p.id, {{}, map->id});
        if (next && of && project.instance(worn)) next = clearOwn(*next, worn, p.id);
        if (!next) return next;
        ++fitted;
    }
    if (!fitted)
        return refuse("set.no-parameter",
                      fmt::format("{} has no map parameter for what {} holds. Expose its maps as parameters, or place Image cards.",
                                  master->name, set));
    return next;
}

Result<Project> swapSets(const Project& project, const std::string& from, const std::string& to, const Id& worn) {
    std::map<Id, Id> other;
    for (const auto& m : project.maps)
        if (m->set == from)
            if (const MapFile* there = project.mapOfSet(to, m->role)) other[m->id] = there->id;
    if (other.empty())
        return refuse("set.nothing-alike", fmt::format("{} and {} have no role in common, so nothing can be swapped.", from, to));
    auto swapped = [&](const Id& id) {
        const auto it = other.find(id);
        return it == other.end() ? id : it->second;
    };
    const auto swapIn = [&](const Parameter& p, ParameterValue& value) {
        if (p.type == ParameterType::MapSet) value.map = value.map == from ? to : value.map;
        else value.map = swapped(value.map);
    };
    Project next = project;
    changeBoards(next, [&](Master& board) {
        if (!worn.empty() && board.id != worn) return false;
        for (Parameter& p : board.parameters) swapIn(p, p.standard);
        for (auto& [id, node] : board.graph.nodes) {
            std::shared_ptr<Node> changed;
            for (const auto& [key, value] : node->settings) {
                if (swapped(value) == value || !readsMapBySetting(project, *node, key)) continue;
                if (!changed) changed = std::make_shared<Node>(*node);
                changed->settings[key] = swapped(value);
            }
            if (changed) node = std::move(changed);
        }
        return true;
    });
    // What an instance inherits changes with its master; here it becomes its own.
    if (project.instance(worn)) {
        const Resolved resolved = resolve(project, worn);
        Result<Project> made = project;
        for (const auto& [id, entry] : resolved.values) {
            ParameterValue instead = entry.value;
            swapIn(*resolved.master->parameter(id), instead);
            if (instead == entry.value || !entry.bySet.empty()) continue; // what a set gives goes with its set
            made = setOwn(*made, worn, id, instead);
            if (!made) return made;
        }
        return made;
    }
    for (InstancePtr& slot : next.instances) {
        if (!worn.empty()) continue;
        const Master* master = project.masterOf(slot->id);
        auto copy = std::make_shared<Instance>(*slot);
        for (auto& [id, value] : copy->own)
            if (const Parameter* p = master ? master->parameter(id) : nullptr) swapIn(*p, value);
            else value.map = swapped(value.map); // of a parameter that is gone
        slot = std::move(copy);
    }
    return next;
}

} // namespace hue::edit
