// Edits of parameters, instances, files and the lineup.
#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/catalogue.h"

#include <fmt/format.h>
#include <set>

namespace hue::edit {

namespace {

Outcome checkParameter(const Master& master, Parameter& p) {
    if (p.name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A parameter needs a name.");
    std::vector<std::string> names, codes;
    for (const Parameter& other : master.parameters)
        if (other.id != p.id) {
            names.push_back(other.name);
            codes.push_back(other.codeName);
        }
    if (contains(names, p.name))
        return refuse("name.taken", fmt::format("{} has a parameter {} already. Choose another name.", master.name, p.name));
    if (Outcome o = onlyFinite("The range of " + p.name, {p.softMin, p.softMax, p.hardMin, p.hardMax}, {master.id, {}, {}}); !o) return o;
    if (Outcome o = onlyFinite(p.name, p.standard.value, {master.id, {}, {}}); !o) return o;
    if (p.codeName.empty()) p.codeName = codeNameFrom(p.name);
    while (contains(codes, p.codeName)) p.codeName += "_2";
    if (p.hardMin > p.hardMax) std::swap(p.hardMin, p.hardMax);
    if (p.softMin > p.softMax) std::swap(p.softMin, p.softMax);
    p.standard = limited(p, p.standard);
    return Done{};
}

/// The card that stands for a parameter.
Node parameterNode(const Id& id, const Id& parameter, Point position) {
    Node node;
    node.id = id;
    node.kind = "parameter";
    node.position = position;
    node.settings["parameter"] = parameter;
    return node;
}

} // namespace

Result<Project> addParameter(const Project& project, const Id& master, Parameter parameter) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        if (parameter.id.empty()) parameter.id = newId('p');
        if (Outcome o = checkParameter(m, parameter); !o) return o;
        m.parameters.push_back(parameter);
        return Done{};
    });
}

Result<Project> changeParameter(const Project& project, const Id& master, const Parameter& wanted) {
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        for (Parameter& p : m.parameters) {
            if (p.id != wanted.id) continue;
            Parameter changed = wanted;
            if (Outcome o = checkParameter(m, changed); !o) return o;
            p = changed;
            return Done{};
        }
        return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    });
    if (!next) return next;
    const Parameter& now = *next->master(master)->parameter(wanted.id);
    for (InstancePtr& slot : next->instances) {
        auto it = slot->own.find(wanted.id);
        if (it == slot->own.end() || limited(now, it->second) == it->second) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own[wanted.id] = limited(now, it->second);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> removeParameter(const Project& project, const Id& master, const Id& id) {
    std::vector<Id> mapCards;
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        const Parameter* p = m.parameter(id);
        if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        const bool isMap = p->type == ParameterType::Map;
        for (auto& [nodeId, node] : m.graph.nodes) {
            const auto it = node->settings.find("parameter");
            if (node->kind != "parameter" || it == node->settings.end() || it->second != id) continue;
            if (isMap) {
                mapCards.push_back(nodeId);
                continue;
            }
            Node constant;
            constant.id = nodeId;
            constant.kind = "constant";
            constant.position = node->position;
            constant.title = node->title;
            constant.extra = node->extra;
            constant.constants["value"] = p->standard.value;
            node = std::make_shared<Node>(std::move(constant));
        }
        // What read a map from the parameter now has the map itself.
        for (auto& [nodeId, node] : m.graph.nodes) {
            const auto wire = node->wires.find("map");
            if (wire == node->wires.end() || !contains(mapCards, wire->second.node)) continue;
            auto copy = std::make_shared<Node>(*node);
            copy->wires.erase("map");
            copy->settings["map"] = p->standard.map;
            node = std::move(copy);
        }
        std::erase_if(m.parameters, [&](const Parameter& other) { return other.id == id; });
        return Done{};
    });
    if (next) next = removeNodes(*next, master, mapCards);
    if (!next) return next;
    for (InstancePtr& slot : next->instances) {
        if (!slot->own.contains(id)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own.erase(id);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> moveParameter(const Project& project, const Id& master, const Id& id, size_t index, const std::string& group) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = std::find_if(m.parameters.begin(), m.parameters.end(), [&](const Parameter& p) { return p.id == id; });
        if (it == m.parameters.end()) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        Parameter moved = *it;
        moved.group = group;
        m.parameters.erase(it);
        m.parameters.insert(m.parameters.begin() + long(std::min(index, m.parameters.size())), moved);
        return Done{};
    });
}

Result<Project> expose(const Project& project, const Id& master, const Id& nodeId, const std::string& port, Parameter parameter) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = m.graph.nodes.find(nodeId);
        if (it == m.graph.nodes.end()) return refuse("edit.no-card", "The card is not on the board any more.", {master, nodeId, port});
        const NodeDef* def = findNodeDef(it->second->kind);
        const bool isConstant = it->second->kind == "constant";
        const PortDef* portDef = def ? def->input(isConstant ? "value" : port) : nullptr;
        if (!portDef || portDef->width == kMapPort)
            return refuse("expose.no-constant", "Only a constant, or an unwired value of a card, can be exposed.", {master, nodeId, port});
        // One value for all pixels would take the place of what differs from pixel to pixel.
        if (portDef->unwired != Unwired::Constant)
            return refuse("expose.follows-mesh",
                          fmt::format("{} follows the mesh while nothing is wired to it; one value for all of it would flatten the card. "
                                      "Choose another value, or wire a card that changes it.",
                                      port),
                          {master, nodeId, port});
        if (parameter.id.empty()) parameter.id = newId('p');
        const Value value = constantOf(*it->second, *portDef);
        if (value.width > 3)
            return refuse("expose.four-numbers",
                          "A parameter holds up to three numbers, and this value has four. Split it into a color and a number first.",
                          {master, nodeId, port});
        parameter.standard.value = value;
        const bool color = portDef->meaning == Meaning::Color || (portDef->meaning == Meaning::Any && value.width >= 3);
        parameter.type = parameterTypeFor(value.width, color);
        if (!color) {
            // As far as the card's own value is dragged; and limits that catch a slip of the keyboard and leave room for intent.
            if (portDef->low < portDef->high && parameter.softMin == 0 && parameter.softMax == 1)
                parameter.softMin = portDef->low, parameter.softMax = portDef->high;
            for (int c = 0; c < value.width; ++c) {
                parameter.softMin = std::min(parameter.softMin, value[c]);
                parameter.softMax = std::max(parameter.softMax, value[c]);
            }
            if (parameter.hardMin == Parameter{}.hardMin && parameter.hardMax == Parameter{}.hardMax) {
                const float room = 100 * std::max(parameter.softMax - parameter.softMin, 0.01f);
                parameter.hardMin = !isConstant && parameter.softMin >= 0 ? 0 : parameter.softMin - room;
                parameter.hardMax = parameter.softMax + room;
            }
        }
        if (Outcome o = checkParameter(m, parameter); !o) return o;
        m.parameters.push_back(parameter);
        if (isConstant) {
            Node node = parameterNode(nodeId, parameter.id, it->second->position);
            node.muted = it->second->muted;
            node.extra = it->second->extra;
            it->second = std::make_shared<Node>(std::move(node));
            return Done{};
        }
        const Id made = newId('n');
        auto copy = std::make_shared<Node>(*it->second);
        copy->wires[port] = {made, "out", {}};
        const Point at{copy->position.x - 190, copy->position.y};
        it->second = std::move(copy);
        m.graph.nodes[made] = std::make_shared<Node>(parameterNode(made, parameter.id, at));
        return Done{};
    });
}

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
    for (Specimen& s : next.lineup.specimens)
        for (Id& worn : s.wears)
            if (worn == id) worn = gone->parent;
    std::erase_if(next.instances, [&](const InstancePtr& i) { return i->id == id; });
    return next;
}

Result<Project> setOwn(const Project& project, const Id& id, const Id& parameterId, const ParameterValue& value) {
    const Master* master = project.masterOf(id);
    const Parameter* p = master ? master->parameter(parameterId) : nullptr;
    if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    if (Outcome o = onlyFinite(p->name, value.value); !o) return o.error();
    ParameterValue inside = limited(*p, value);
    if (p->type != ParameterType::Map) inside.map.clear();
    else if (!inside.map.empty() && !project.map(inside.map)) return refuse("edit.no-map", "The map is not in the project any more.");
    if (project.master(id)) {
        return withMaster(project, id, [&](Master& m) -> Outcome {
            for (Parameter& entry : m.parameters)
                if (entry.id == parameterId) entry.standard = inside;
            return Done{};
        });
    }
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        i.own[parameterId] = inside;
        return Done{};
    });
}

Result<Project> clearOwn(const Project& project, const Id& id, const Id& parameter) {
    return withInstance(project, id, [&](Instance& i) -> Outcome {
        i.own.erase(parameter);
        return Done{};
    });
}

Result<Project> setOwnSurface(const Project& project, const Id& id, const OwnSurface& own) {
    if (Outcome o = onlyFinite("The alpha cutoff", {own.alphaCutoff.value_or(0)}); !o) return o.error();
    return withInstance(project, id, [&](Instance& i) -> Outcome {
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
