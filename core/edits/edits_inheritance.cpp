// Edits of whose child an instance is, and of values that go up and down.
#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/document/same_parameter.h"
#include "core/edits/edit_parts.h"

#include <fmt/format.h>
#include <set>

namespace hue::edit {
namespace {

Error noInstance() { return refuse("edit.no-instance", "The instance is not in the project."); }

/// Everything that derives from it, itself included.
std::set<Id> withDescendants(const Project& project, const Id& id) {
    std::multimap<Id, Id> children;
    for (const InstancePtr& i : project.instances) children.emplace(i->parent, i->id);
    std::set<Id> out;
    std::vector<Id> next{id};
    while (!next.empty()) {
        const Id at = next.back();
        next.pop_back();
        if (!out.insert(at).second) continue;
        for (auto [child, end] = children.equal_range(at); child != end; ++child) next.push_back(child->second);
    }
    return out;
}

/// Own values of an instance of one master as those of another have them; what has no place there stays under its old id.
std::map<Id, ParameterValue> ownIn(const Master& from, const Master& to, const std::map<Id, ParameterValue>& own) {
    std::map<Id, ParameterValue> out;
    for (const auto& [id, value] : own) {
        const Parameter* p = from.parameter(id);
        const Parameter* other = p ? sameParameter(to, *p) : to.parameter(id);
        out[other ? other->id : id] = other ? limited(*other, value) : value;
    }
    return out;
}

struct Moving {
    const Instance* instance = nullptr;
    const Master *from = nullptr, *to = nullptr;
};

Result<Moving> moving(const Project& project, const Id& id, const Id& parent) {
    Moving m{project.instance(id), project.masterOf(id), project.masterOf(parent)};
    if (!m.instance) return noInstance();
    if (!m.to) return refuse("instance.no-parent", "An instance needs a master or another instance as its parent.");
    if (withDescendants(project, id).contains(parent))
        return refuse("instance.own-parent",
                      fmt::format("{} derives from {}, which cannot derive from it in turn. Choose a parent that is not "
                                  "among its children.",
                                  parent == id ? "An instance" : project.nameOf(parent), project.nameOf(id)));
    return m;
}

} // namespace

Result<Project> changeParent(const Project& project, const Id& id, const Id& parent) {
    const Result<Moving> m = moving(project, id, parent);
    if (!m) return m.error();
    if (Outcome o = unlocked(project, *m->instance); !o) return o.error();
    Project next = project;
    const std::set<Id> along = withDescendants(project, id);
    std::vector<std::string> names;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k] == m->to && !along.contains(project.instances[k]->id)) names.push_back(project.instances[k]->name);
    for (InstancePtr& slot : next.instances) {
        if (!along.contains(slot->id)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        if (copy->id == id) copy->parent = parent;
        if (m->from != m->to) {
            if (m->from) copy->own = ownIn(*m->from, *m->to, copy->own);
            copy->name = freeName(names, copy->name);
            names.push_back(copy->name);
        }
        slot = std::move(copy);
    }
    return next;
}

Result<ParentChange> parentChange(const Project& project, const Id& id, const Id& parent) {
    const Result<Moving> m = moving(project, id, parent);
    if (!m) return m.error();
    const Result<Project> next = changeParent(project, id, parent);
    if (!next) return next.error();
    const Resolved before = resolve(project, id), after = resolve(*next, id);
    const Instance& moved = *next->instance(id);
    ParentChange out;
    std::set<Id> met; // parameters of the new master that the old one has as well
    if (m->from)
        for (const Parameter& p : m->from->parameters) {
            const Parameter* other = sameParameter(*m->to, p);
            if (other) met.insert(other->id);
            if (!other && m->instance->own.contains(p.id)) out.lost.push_back(p.id);
            if (!other) continue;
            if (moved.own.contains(other->id)) out.kept.push_back(other->id);
            else if (!(limited(*other, before.values.at(p.id).value) == limited(*other, after.values.at(other->id).value)))
                out.changed.push_back(other->id);
        }
    for (const Parameter& p : m->to->parameters)
        if (!met.contains(p.id)) out.fresh.push_back(p.id);
    return out;
}

Result<Project> pushUp(const Project& project, const Id& id, const Id& parameter) {
    const Instance* instance = project.instance(id);
    if (!instance) return noInstance();
    const auto value = instance->own.find(parameter);
    if (value == instance->own.end())
        return refuse("instance.inherits",
                      fmt::format("{} inherits that value already; there is nothing to give to its parent.", project.nameOf(id)));
    Result<Project> next = setOwn(project, instance->parent, parameter, value->second);
    return next ? clearOwn(*next, id, parameter) : next;
}

Result<Project> pullDown(const Project& project, const Id& id, const Id& parameter) {
    if (!project.masterOf(id)) return noInstance();
    const std::set<Id> along = withDescendants(project, id);
    Project next = project;
    bool any = false;
    for (InstancePtr& slot : next.instances) {
        if (slot->id == id || !along.contains(slot->id) || !slot->own.contains(parameter)) continue;
        if (Outcome o = unlocked(project, *slot); !o) return o.error();
        auto copy = std::make_shared<Instance>(*slot);
        copy->own.erase(parameter);
        slot = std::move(copy);
        any = true;
    }
    if (!any) return refuse("instance.inherits", fmt::format("All that derives from {} inherits that value already.", project.nameOf(id)));
    return next;
}

Result<Project> instanceOfDifferences(const Project& project, const Id& like, const Id& parent, Instance instance) {
    const Master *from = project.masterOf(like), *to = project.masterOf(parent);
    if (!from) return noInstance();
    if (!to) return refuse("instance.no-parent", "An instance needs a master or another instance as its parent.");
    const Resolved wanted = resolve(project, like);
    Resolved there = resolve(project, parent);
    instance.parent = parent;
    if (instance.id.empty()) instance.id = newId('i');
    const auto differ = [&](bool bySet) {
        for (const Parameter& p : from->parameters) {
            const Parameter* other = sameParameter(*to, p);
            if (!other || wanted.values.at(p.id).bySet.empty() == bySet) continue;
            const ParameterValue value = limited(*other, wanted.values.at(p.id).value);
            if (!(value == limited(*other, there.values.at(other->id).value))) instance.own[other->id] = value;
        }
    };
    differ(false);
    // Maps that came of a set come of the one that it takes now, where it does.
    if (const Result<Project> with = addInstance(project, instance)) {
        const Resolved dressed = resolve(*with, instance.id);
        for (auto& [id, entry] : there.values) entry.value = dressed.values.at(id).value;
    }
    differ(true);
    if (wanted.surface.alphaMode != there.surface.alphaMode) instance.alphaMode = wanted.surface.alphaMode;
    if (wanted.surface.alphaCutoff != there.surface.alphaCutoff) instance.alphaCutoff = wanted.surface.alphaCutoff;
    if (wanted.surface.doubleSided != there.surface.doubleSided) instance.doubleSided = wanted.surface.doubleSided;
    return addInstance(project, std::move(instance));
}

} // namespace hue::edit
