// Edits of instances, files and the lineup.
#include "core/document/drawn.h"
#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"

#include <fmt/format.h>
#include <set>

namespace hue::edit {

static std::vector<std::string> siblingNames(const Project& project, const Id& parent, const Id& except = {}) {
    const Master* master = project.masterOf(parent);
    std::vector<std::string> names;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        if (project.instances[k]->id != except && masters[k] == master) names.push_back(project.instances[k]->name);
    return names;
}

Result<Project> addInstance(const Project& project, Instance instance) {
    if (!project.masterOf(instance.parent))
        return refuse("instance.no-parent", "An instance needs a master or another instance as its parent.");
    if (instance.name.find('/') != std::string::npos)
        return refuse("name.slash", "A name cannot hold a slash: it stands between master and instance.");
    if (instance.id.empty()) instance.id = newId('i');
    instance.name = freeName(siblingNames(project, instance.parent), instance.name.empty() ? "Instance" : instance.name);
    Project next = project;
    next.instances.push_back(std::make_shared<Instance>(std::move(instance)));
    return next;
}

Result<Project> deriveInstance(const Project& project, const Id& parent, const Id& id) {
    Instance instance;
    instance.id = id;
    instance.parent = parent;
    if (const Instance* from = project.instance(parent)) instance.name = from->name;
    Result<Project> next = addInstance(project, std::move(instance));
    if (next && project.master(parent) && !next->lineup.specimens.empty())
        for (Id& worn : next->lineup.specimens[0].wears)
            if (worn == parent) worn = id;
    return next;
}

Result<Project> renameInstance(const Project& project, const Id& id, const std::string& name) {
    if (name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A name needs at least one letter.");
    if (name.find('/') != std::string::npos)
        return refuse("name.slash", "A name cannot hold a slash: it stands between master and instance.");
    if (contains(siblingNames(project, id, id), name))
        return refuse("name.taken", fmt::format("There is an instance {} already. Choose another name.", name));
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        i.name = name;
        return Done{};
    });
}

Result<Project> removeInstance(const Project& project, const Id& id) {
    const Instance* gone = project.instance(id);
    if (!gone) return refuse("edit.no-instance", "The instance is not in the project.");
    if (Outcome o = unlocked(project, *gone); !o) return o.error();
    Project next = project;
    for (InstancePtr& slot : next.instances) {
        if (slot->parent != id) continue;
        auto child = std::make_shared<Instance>(*slot);
        child->parent = gone->parent;
        for (const auto& [parameter, value] : gone->own) child->own.emplace(parameter, value);
        if (!child->alphaMode) child->alphaMode = gone->alphaMode;
        if (!child->alphaCutoff) child->alphaCutoff = gone->alphaCutoff;
        if (!child->doubleSided) child->doubleSided = gone->doubleSided;
        slot = std::move(child);
    }
    for (Specimen& s : next.lineup.specimens) {
        for (Id& worn : s.wears)
            if (worn == id) worn = gone->parent;
        for (Decal& d : s.decals)
            if (d.wears == id) d.wears = gone->parent;
    }
    for (InstancePtr& slot : next.instances) {
        if (std::none_of(slot->own.begin(), slot->own.end(), [&](const auto& own) { return own.second.map == id; })) continue;
        auto other = std::make_shared<Instance>(*slot);
        for (auto& [parameter, value] : other->own)
            if (value.map == id) value.map = gone->parent;
        slot = std::move(other);
    }
    // What takes it as a finish takes its parent.
    changeBoards(next, [&](Master& board) {
        bool changed = false;
        for (Parameter& p : board.parameters)
            if (p.type == ParameterType::Finish && p.standard.map == id) p.standard.map = gone->parent, changed = true;
        for (Preset& preset : board.presets)
            for (auto& [parameter, value] : preset.values)
                if (value.map == id) value.map = gone->parent, changed = true;
        for (auto& [key, node] : board.graph.nodes) {
            if (finishOf(*node) != id) continue;
            Node other = *node;
            other.settings[std::string(kFinishOfSetting)] = gone->parent;
            node = std::make_shared<Node>(std::move(other));
            changed = true;
        }
        return changed;
    });
    std::erase_if(next.instances, [&](const InstancePtr& i) { return i->id == id; });
    return next;
}

Outcome canHold(const Project& project, const Master& master, const Parameter& p, const ParameterValue& value) {
    switch (p.type) {
    case ParameterType::Map:
        if (!value.map.empty() && !project.map(value.map)) return refuse("edit.no-map", "The map is not in the project any more.");
        break;
    case ParameterType::MapSet: {
        const std::vector<std::string> sets = project.mapSets();
        if (!value.map.empty() && std::find(sets.begin(), sets.end(), value.map) == sets.end())
            return refuse("set.gone", fmt::format("There is no map set {}. Choose another, or make maps a set of that name.", value.map));
        break;
    }
    case ParameterType::Curve:
    case ParameterType::Gradient: {
        const Result<Drawn> drawn = drawnFrom(value.map);
        if (!drawn) return drawn.error();
        if ((drawn->kind == Drawn::Kind::Curve) != (p.type == ParameterType::Curve))
            return refuse("drawn.kind", fmt::format("{} takes a {}, and \"{}\" is none.", p.name, kindOf(p.type).key, value.map));
        break;
    }
    case ParameterType::Finish: {
        if (value.map.empty()) break;
        const Master* worn = project.masterOf(value.map);
        if (!worn) return refuse("edit.no-master", "The master or instance is not in the project any more.");
        const std::vector<const Master*> within = mastersWornOn(project, *worn);
        if (worn->id == master.id || std::any_of(within.begin(), within.end(), [&](const Master* m) { return m->id == master.id; }))
            return refuse("finish.leads-back",
                          fmt::format("A finish of {} leads back to {} itself. Choose another.", worn->name, master.name));
        break;
    }
    default: break;
    }
    return Done{};
}

Result<Project> setOwn(const Project& project, const Id& id, const Id& parameterId, const ParameterValue& value) {
    const Master* master = project.assembly(id) ? project.assembly(id) : project.masterOf(id);
    const Parameter* p = master ? master->parameter(parameterId) : nullptr;
    if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    if (Outcome o = onlyFinite(p->name, value.value); !o) return o.error();
    ParameterValue inside = limited(*p, value);
    if (p->width()) inside.map.clear();
    if (Outcome o = canHold(project, *master, *p, inside); !o) return o.error();
    if (project.board(id)) {
        if (const Parameter* set = p->ofSet.empty() ? nullptr : master->parameter(p->ofSet); set && !set->standard.map.empty())
            return refuse("set.gives",
                          fmt::format("{} is of the set {}, by {}. Choose another set there, or let {} take no set.", p->name,
                                      set->standard.map, set->name, p->name),
                          {master->id, {}, {}});
        return withMaster(project, id, [&](Master& m) -> Outcome {
            for (Parameter& entry : m.parameters)
                if (entry.id == parameterId) entry.standard = inside;
            return Done{};
        });
    }
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        if (Outcome o = unlocked(project, i); !o) return o;
        i.own[parameterId] = inside;
        return Done{};
    });
}

Result<Project> clearOwn(const Project& project, const Id& id, const Id& parameter) {
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        if (Outcome o = unlocked(project, i); !o) return o;
        i.own.erase(parameter);
        return Done{};
    });
}

Outcome unlocked(const Project& project, const Instance& instance) {
    if (!instance.locked) return Done{};
    return refuse("instance.locked",
                  fmt::format("{} is locked. Unlock it first, or derive an instance from it.", project.nameOf(instance.id)));
}

namespace {

template <class Change> Result<Project> withInstances(const Project& project, const std::vector<Id>& ids, Change change) {
    Project next = project;
    const std::set<Id> wanted(ids.begin(), ids.end());
    size_t found = 0;
    for (InstancePtr& slot : next.instances) {
        if (!wanted.contains(slot->id)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        change(*copy);
        slot = std::move(copy);
        ++found;
    }
    if (found < wanted.size()) return refuse("edit.no-instance", "The instance is not in the project.");
    return next;
}

} // namespace

Result<Project> setLocked(const Project& project, const std::vector<Id>& ids, bool locked) {
    return withInstances(project, ids, [&](Instance& i) { i.locked = locked; });
}

Result<Project> setTags(const Project& project, const std::vector<Id>& ids, std::vector<std::string> tags) {
    std::vector<std::string> words;
    for (const std::string& tag : tags) {
        const size_t first = tag.find_first_not_of(" \t");
        if (first == tag.npos) continue;
        const std::string word = tag.substr(first, tag.find_last_not_of(" \t") + 1 - first);
        if (!contains(words, word)) words.push_back(word);
    }
    return withInstances(project, ids, [&](Instance& i) { i.tags = words; });
}

Result<Project> setNote(const Project& project, const Id& id, const std::string& note) {
    return withInstances(project, {id}, [&](Instance& i) { i.note = note; });
}

Result<Project> setOwnSurface(const Project& project, const Id& id, const OwnSurface& own) {
    if (Outcome o = onlyFinite("The alpha cutoff", {own.alphaCutoff.value_or(0)}); !o) return o.error();
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        if (Outcome o = unlocked(project, i); !o) return o;
        i.alphaMode = own.alphaMode;
        i.alphaCutoff = own.alphaCutoff;
        if (i.alphaCutoff) i.alphaCutoff = std::clamp(*i.alphaCutoff, 0.f, 1.f);
        i.doubleSided = own.doubleSided;
        return Done{};
    });
}

namespace {

template <class List, class Entry> Result<Project> addFile(const Project& project, List Project::*list, Entry entry, char letter) {
    if (entry.id.empty()) entry.id = newId(letter);
    std::vector<std::string> names;
    for (const auto& other : project.*list) names.push_back(other->name);
    entry.name = freeName(names, entry.name);
    Project next = project;
    (next.*list).push_back(std::make_shared<Entry>(std::move(entry)));
    return next;
}

template <class List, class Entry> Result<Project> changeFile(const Project& project, List Project::*list, const Entry& entry) {
    Project next = project;
    for (auto& slot : next.*list)
        if (slot->id == entry.id) {
            slot = std::make_shared<Entry>(entry);
            return next;
        }
    return refuse("edit.no-file", fmt::format("{} is not in the project any more.", entry.name));
}

} // namespace

Result<Project> addMap(const Project& p, MapFile map) { return addFile(p, &Project::maps, std::move(map), 't'); }
Result<Project> changeMap(const Project& p, const MapFile& map) { return changeFile(p, &Project::maps, map); }
Result<Project> addMesh(const Project& p, MeshFile mesh) { return addFile(p, &Project::meshes, std::move(mesh), 'g'); }
Result<Project> changeMesh(const Project& p, const MeshFile& mesh) { return changeFile(p, &Project::meshes, mesh); }

Result<Project> setLineup(const Project& project, const Lineup& lineup) {
    // What a file brought along may stay; nothing else that is not there comes in.
    std::set<Id> before;
    for (const Specimen& s : project.lineup.specimens) before.insert(s.wears.begin(), s.wears.end());
    for (const Specimen& s : lineup.specimens)
        for (const Id& worn : s.wears)
            if (!worn.empty() && !project.masterOf(worn) && !before.contains(worn))
                return refuse("lineup.nothing-worn", "Only a master or an instance can be worn.");
    const auto orbit = [](const Orbit& o) { return onlyFinite("The camera", {o.yaw, o.pitch, o.standOff, o.panX, o.panY}); };
    const Yardstick& y = lineup.yardstick;
    Outcome finite = onlyFinite(
        "The lineup", {lineup.viewLow, lineup.viewHigh, lineup.rotation, lineup.sun, lineup.exposure, lineup.glare, y.split, y.gain});
    if (finite) finite = orbit(lineup.orbit);
    for (const Specimen& s : lineup.specimens) {
        if (finite && s.orbit) finite = orbit(*s.orbit);
        for (const Thing& t : s.things)
            if (finite) finite = onlyFinite("What stands beside a specimen", {t.position[0], t.position[1], t.position[2], t.size});
        for (const Decal& d : s.decals)
            if (finite) finite = onlyFinite(d);
    }
    if (!finite) return finite.error();
    Project next = project;
    next.lineup = lineup;
    return next;
}

Result<Project> wear(const Project& project, size_t specimen, size_t slot, const Id& worn) {
    if (specimen >= project.lineup.specimens.size()) return refuse("lineup.no-specimen", "There is no such specimen.");
    if (!worn.empty() && !project.masterOf(worn)) return refuse("lineup.nothing-worn", "Only a master or an instance can be worn.");
    Project next = project;
    auto& wears = next.lineup.specimens[specimen].wears;
    if (wears.size() <= slot) wears.resize(slot + 1);
    wears[slot] = worn;
    return next;
}

} // namespace hue::edit
