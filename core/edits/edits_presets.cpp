// Values under a name, and values that many masters share.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"

namespace hue::edit {
namespace {

Outcome nameHolds(const std::string& name, std::string_view what) {
    if (name.find_first_not_of(' ') != std::string::npos) return Done{};
    return refuse("name.empty", fmt::format("{} needs a name.", what));
}

Outcome checkShared(const Project& project, SharedParameter& s) {
    if (Outcome o = nameHolds(s.name, "A shared parameter"); !o) return o;
    for (const SharedParameter& other : project.shared)
        if (other.id != s.id && other.name == s.name)
            return refuse("name.taken", fmt::format("There is a shared parameter {} already. Choose another name.", s.name));
    s.value.width = s.until.width = s.type == ParameterType::Color ? 3 : 1;
    for (const Value* v : {&s.value, &s.until})
        if (Outcome o = onlyFinite(s.name, *v, {}); !o) return o;
    if (Outcome o = onlyFinite("The range of " + s.name, {s.softMin, s.softMax, s.period}); !o) return o;
    if (s.softMin > s.softMax) std::swap(s.softMin, s.softMax);
    s.period = std::clamp(s.period, 0.01f, 3600.f);
    return Done{};
}

} // namespace

Result<Project> keepPreset(const Project& project, const Id& worn, const std::string& name) {
    if (Outcome o = nameHolds(name, "A preset"); !o) return o.error();
    const Resolved all = resolve(project, worn);
    if (!all.master || project.assembly(all.master->id)) return refuse("edit.no-instance", "The instance is not in the project.");
    return withMaster(project, all.master->id, [&](Master& m) -> Outcome {
        Preset preset{name, {}};
        for (const auto& [id, entry] : all.values)
            if (entry.bySet.empty()) preset.values[id] = entry.value; // what a set gives goes with its set
        const auto same = std::find_if(m.presets.begin(), m.presets.end(), [&](const Preset& p) { return p.name == name; });
        if (same == m.presets.end()) m.presets.push_back(std::move(preset));
        else *same = std::move(preset);
        return Done{};
    });
}

Result<Project> usePreset(const Project& project, const Id& worn, const std::string& name) {
    const Master* master = project.masterOf(worn);
    if (!master) return refuse("edit.no-instance", "The instance is not in the project.");
    const auto preset = std::find_if(master->presets.begin(), master->presets.end(), [&](const Preset& p) { return p.name == name; });
    if (preset == master->presets.end()) return refuse("preset.gone", fmt::format("{} has no preset {}.", master->name, name));
    Result<Project> next = project;
    const Resolved now = resolve(project, worn);
    for (const auto& [id, value] : preset->values) {
        const Parameter* p = master->parameter(id);
        // What it is already stays inherited; what is not there any more is left out.
        if (!p || now.values.at(id).value == limited(*p, value) || !canHold(project, *master, *p, value)) continue;
        next = setOwn(*next, worn, id, value);
        if (!next) return next;
    }
    // Maps that the preset's set gives.
    if (const Instance* instance = project.instance(worn))
        for (const Parameter& p : master->parameters)
            if (next && instance->own.contains(p.id) && preset->values.contains(p.ofSet) && !preset->values.contains(p.id))
                next = clearOwn(*next, worn, p.id);
    return next;
}

Result<Project> removePreset(const Project& project, const Id& master, const std::string& name) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        if (std::erase_if(m.presets, [&](const Preset& p) { return p.name == name; })) return Done{};
        return refuse("preset.gone", fmt::format("{} has no preset {}.", m.name, name));
    });
}

Result<Project> addShared(const Project& project, SharedParameter shared) {
    if (shared.id.empty()) shared.id = newId('s');
    if (Outcome o = checkShared(project, shared); !o) return o.error();
    Project next = project;
    next.shared.push_back(std::move(shared));
    return next;
}

Result<Project> changeShared(const Project& project, const SharedParameter& wanted) {
    SharedParameter shared = wanted;
    if (Outcome o = checkShared(project, shared); !o) return o.error();
    Project next = project;
    for (SharedParameter& s : next.shared)
        if (s.id == shared.id) {
            s = std::move(shared);
            return next;
        }
    return refuse("shared.gone", "The shared parameter is not in the project any more.");
}

Result<Project> removeShared(const Project& project, const Id& id) {
    const SharedParameter* gone = project.sharedParameter(id);
    if (!gone) return refuse("shared.gone", "The shared parameter is not in the project any more.");
    Result<Project> next = project;
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters)
            if (next && p.shared == id) next = followShared(*next, m->id, p.id, {});
    if (next) std::erase_if(next->shared, [&](const SharedParameter& s) { return s.id == id; });
    return next;
}

Result<Project> followShared(const Project& project, const Id& master, const Id& parameter, const Id& id) {
    const SharedParameter* shared = project.sharedParameter(id);
    if (!id.empty() && !shared) return refuse("shared.gone", "The shared parameter is not in the project any more.");
    return withMaster(project, master, [&](Master& m) -> Outcome {
        for (Parameter& p : m.parameters) {
            if (p.id != parameter) continue;
            if (shared && p.type != shared->type)
                return refuse("shared.kind",
                              fmt::format("{} cannot follow {}: one is a {} and the other a {}. Choose a shared one of its own kind.",
                                          p.name, shared->name, kindOf(p.type).key, kindOf(shared->type).key),
                              {master, {}, {}});
            // What it had stays where it follows nothing any more.
            if (const SharedParameter* before = project.sharedParameter(p.shared); before && !shared && before->type == p.type)
                p.standard = limited(p, {before->value, {}});
            p.shared = id;
            return Done{};
        }
        return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    });
}

} // namespace hue::edit
