// Edits of bays.
#include "core/edits/edit_parts.h"

#include <set>

namespace hue::edit {

namespace {

Bay* find(std::vector<Bay>& bays, const Id& id) {
    const auto it = std::find_if(bays.begin(), bays.end(), [&](const Bay& b) { return b.id == id; });
    return it == bays.end() ? nullptr : &*it;
}

/// The bay in which a card lies, then the one around that, and so on.
std::vector<Id> baysAround(std::vector<Bay>& bays, const Id& node) {
    std::vector<Id> out;
    for (const Bay& b : bays)
        if (contains(b.nodes, node)) {
            for (const Bay* at = &b; at && !contains(out, at->id); at = find(bays, at->inside)) out.push_back(at->id);
            break;
        }
    return out;
}

Result<Project> withBay(const Project& project, const Id& master, const Id& bay,
                        const std::function<void(std::vector<Bay>&, size_t)>& change) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        for (size_t i = 0; i < m.graph.bays.size(); ++i)
            if (m.graph.bays[i].id == bay) {
                change(m.graph.bays, i);
                return Done{};
            }
        return refuse("edit.no-bay", "The bay is not on the board any more.");
    });
}

} // namespace

Result<Project> addBay(const Project& project, const Id& master, const std::string& name, const std::vector<Id>& nodes) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        if (nodes.empty()) return refuse("bay.empty", "Select the cards that the bay should hold.");
        std::vector<Bay>& bays = m.graph.bays;
        // A bay goes in as a whole where everything that it holds does.
        std::set<Id> whole;
        const auto holdsOnly = [&](const Bay& b) {
            return std::all_of(b.nodes.begin(), b.nodes.end(), [&](const Id& n) { return contains(nodes, n); }) &&
                   std::all_of(bays.begin(), bays.end(), [&](const Bay& c) { return c.inside != b.id || whole.contains(c.id); });
        };
        for (size_t before = SIZE_MAX; before != whole.size();) {
            before = whole.size();
            for (const Bay& b : bays)
                if (holdsOnly(b)) whole.insert(b.id);
        }
        // It lies where all of it lay.
        Bay made{newId('b'), name, {}, {}};
        bool first = true;
        std::vector<Id> shared;
        for (const Id& n : nodes) {
            std::vector<Id> around = baysAround(bays, n);
            std::erase_if(around, [&](const Id& b) { return whole.contains(b); });
            if (first) shared = around;
            else std::erase_if(shared, [&](const Id& b) { return !contains(around, b); });
            first = false;
        }
        if (!shared.empty()) made.inside = shared.front();
        for (const Id& n : nodes) {
            const std::vector<Id> around = baysAround(bays, n);
            if (!around.empty() && whole.contains(around.front())) continue;
            for (Bay& b : bays) std::erase(b.nodes, n);
            if (!contains(made.nodes, n)) made.nodes.push_back(n);
        }
        for (Bay& b : bays)
            if (whole.contains(b.id) && !whole.contains(b.inside)) b.inside = made.id;
        bays.push_back(std::move(made));
        dropEmptyBays(bays);
        return Done{};
    });
}

Result<Project> putInBay(const Project& project, const Id& master, const Id& bay, const std::vector<Id>& nodes) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        if (!bay.empty() && !find(m.graph.bays, bay)) return refuse("edit.no-bay", "The bay is not on the board any more.");
        for (Bay& b : m.graph.bays)
            if (b.id != bay) std::erase_if(b.nodes, [&](const Id& n) { return contains(nodes, n); });
        if (Bay* into = find(m.graph.bays, bay))
            for (const Id& n : nodes)
                if (m.graph.find(n) && !contains(into->nodes, n)) into->nodes.push_back(n);
        dropEmptyBays(m.graph.bays);
        return Done{};
    });
}

Result<Project> foldBay(const Project& project, const Id& master, const Id& bay, bool folded) {
    return withBay(project, master, bay, [&](std::vector<Bay>& bays, size_t i) { bays[i].folded = folded; });
}

Result<Project> setScratch(const Project& project, const Id& master, const Id& bay, bool scratch) {
    return withBay(project, master, bay, [&](std::vector<Bay>& bays, size_t i) { bays[i].scratch = scratch; });
}

Result<Project> renameBay(const Project& project, const Id& master, const Id& bay, const std::string& name) {
    return withBay(project, master, bay, [&](std::vector<Bay>& bays, size_t i) { bays[i].name = name; });
}

Result<Project> removeBay(const Project& project, const Id& master, const Id& bay) {
    return withBay(project, master, bay, [](std::vector<Bay>& bays, size_t i) {
        const Bay gone = bays[i];
        bays.erase(bays.begin() + long(i));
        for (Bay& b : bays)
            if (b.inside == gone.id) b.inside = gone.inside;
        if (Bay* around = find(bays, gone.inside)) around->nodes.insert(around->nodes.end(), gone.nodes.begin(), gone.nodes.end());
    });
}

} // namespace hue::edit
