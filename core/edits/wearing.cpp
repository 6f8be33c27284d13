#include "core/edits/wearing.h"

#include "core/edits/edit_parts.h"

#include <algorithm>

namespace hue {
namespace {

void dress(Project& project, size_t specimen, const Id& from, const Id& to) {
    if (specimen >= project.lineup.specimens.size()) return;
    Specimen& s = project.lineup.specimens[specimen];
    std::replace(s.wears.begin(), s.wears.end(), from, to);
    for (Decal& d : s.decals)
        if (d.wears == from) d.wears = to;
}

} // namespace

std::vector<size_t> specimensWearing(const Project& project, const Id& worn) {
    std::vector<size_t> out;
    for (size_t k = 0; k < project.lineup.specimens.size(); ++k) {
        const Specimen& s = project.lineup.specimens[k];
        if (std::find(s.wears.begin(), s.wears.end(), worn) != s.wears.end() ||
            std::any_of(s.decals.begin(), s.decals.end(), [&](const Decal& d) { return d.wears == worn; }))
            out.push_back(k);
    }
    return out;
}

namespace edit {

Result<Project> deriveFor(const Project& project, const Id& parent, const Id& id, const std::vector<size_t>& specimens) {
    Instance instance;
    instance.id = id;
    instance.parent = parent;
    if (const Instance* from = project.instance(parent)) instance.name = from->name;
    Result<Project> next = addInstance(project, std::move(instance));
    if (next)
        for (const size_t k : specimens) dress(*next, k, parent, id);
    return next;
}

Result<Project> ownCopyFor(const Project& project, const Id& id, const Id& copyId, size_t specimen) {
    const Instance* from = project.instance(id);
    if (!from) return refuse("edit.no-instance", "The instance is not in the project.");
    Instance copy = *from;
    copy.id = copyId;
    copy.locked = false;
    Result<Project> next = addInstance(project, std::move(copy));
    if (next) dress(*next, specimen, id, copyId);
    return next;
}

} // namespace edit
} // namespace hue
