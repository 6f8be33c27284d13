#include "core/document/shared_parameters.h"

#include <algorithm>
#include <cmath>

namespace hue {

Value valueAt(const SharedParameter& s, double time) {
    if (!s.isMoving()) return s.value;
    const double turns = time / double(s.period);
    const double way = s.moves == SharedParameter::Moves::Runs ? turns - std::floor(turns) : 0.5 - 0.5 * std::cos(turns * 2 * M_PI);
    Value out = s.value;
    for (int c = 0; c < out.width; ++c) out[c] += (s.until[c] - s.value[c]) * float(way);
    return out;
}

std::optional<Project> sharedAt(const Project& project, double time) {
    if (std::none_of(project.shared.begin(), project.shared.end(), [](const SharedParameter& s) { return s.isMoving(); })) return {};
    std::optional<Project> out = project;
    for (SharedParameter& s : out->shared) s.value = valueAt(s, time);
    return out;
}

bool followsMoving(const Project& project, const Resolved& worn) {
    if (project.shared.empty()) return false;
    return std::any_of(worn.values.begin(), worn.values.end(), [&](const auto& entry) {
        const SharedParameter* s = project.sharedParameter(entry.second.origin);
        return s && s->isMoving();
    });
}

std::vector<std::string> followersOf(const Project& project, const Id& shared) {
    std::vector<std::string> out;
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters)
            if (p.shared == shared) out.push_back(m->name + ": " + p.name);
    return out;
}

} // namespace hue
