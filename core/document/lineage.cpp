#include "core/document/lineage.h"

#include <unordered_map>

namespace hue {

std::vector<const Master*> mastersOfInstances(const Project& project) {
    std::unordered_map<std::string_view, const Master*> masters;
    for (const auto& m : project.masters) masters.emplace(m->id, m.get());
    std::unordered_map<std::string_view, size_t> index;
    for (size_t k = 0; k < project.instances.size(); ++k) index.emplace(project.instances[k]->id, k);

    enum class State { Unknown, OnTheWay, Known };
    std::vector<State> states(project.instances.size(), State::Unknown);
    std::vector<const Master*> out(project.instances.size(), nullptr);
    std::vector<size_t> way;
    for (size_t k = 0; k < project.instances.size(); ++k) {
        const Master* found = nullptr;
        // Upwards until something is known; a circle comes back to what is on the way, and leads nowhere.
        for (const Id* at = &project.instances[k]->id;;) {
            if (const auto m = masters.find(*at); m != masters.end()) {
                found = m->second;
                break;
            }
            const auto i = index.find(*at);
            if (i == index.end() || states[i->second] == State::OnTheWay) break;
            if (states[i->second] == State::Known) {
                found = out[i->second];
                break;
            }
            states[i->second] = State::OnTheWay;
            way.push_back(i->second);
            at = &project.instances[i->second]->parent;
        }
        // Of several with one id, the first is meant.
        if (way.empty()) out[k] = found;
        for (const size_t passed : way) {
            out[passed] = found;
            states[passed] = State::Known;
        }
        way.clear();
    }
    return out;
}

} // namespace hue
