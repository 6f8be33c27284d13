#include "core/edits/strays.h"

#include "core/document/lineage.h"
#include "core/edits/edit_parts.h"

#include <algorithm>

namespace hue {
namespace {

bool hasStrays(const Instance& instance, const Master& master) {
    return std::any_of(instance.own.begin(), instance.own.end(), [&](const auto& own) { return !master.parameter(own.first); });
}

} // namespace

std::vector<Id> instancesWithStrays(const Project& project, const Master& master) {
    std::vector<Id> out;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k] && masters[k]->id == master.id && hasStrays(*project.instances[k], master)) out.push_back(project.instances[k]->id);
    return out;
}

namespace edit {

Result<Project> dropStrays(const Project& project, const Id& id) {
    const Master* master = project.master(id);
    if (!master) return refuse("edit.no-master", "The master is not in the project.", {id, {}, {}});
    Project next = project;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k) {
        InstancePtr& slot = next.instances[k];
        if (masters[k] != master || !hasStrays(*slot, *master)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        std::erase_if(copy->own, [&](const auto& own) { return !master->parameter(own.first); });
        slot = std::move(copy);
    }
    return next;
}

} // namespace edit
} // namespace hue
