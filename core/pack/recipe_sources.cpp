#include "core/pack/recipe_sources.h"

#include <algorithm>

namespace hue {

std::map<std::string, Id> recipeSources(const Project& p, const Recipe& recipe, const Id& chosen, const RoleOfMap& guess) {
    std::map<std::string, Id> out;
    const MapFile* m = p.map(chosen);
    const auto roleOf = [&](const MapFile& map) { return !map.role.empty() ? map.role : guess ? guess(map) : std::string(); };
    for (const std::string& role : recipe.sources()) {
        const MapFile* found = m && !m->set.empty() ? p.mapOfSet(m->set, role) : nullptr;
        if (!found && m && (m->role == role || roleOf(*m) == role || (guess && guess(*m) == role))) found = m;
        if (!found && (!m || m->set.empty())) {
            int count = 0;
            for (const auto& other : p.maps)
                if (roleOf(*other) == role && ++count == 1) found = other.get();
            if (count > 1) found = nullptr;
        }
        if (found) out[role] = found->id;
    }
    return out;
}

std::vector<Packing> packingsForSets(const Project& project, const Recipe& recipe) {
    std::vector<Packing> all;
    for (const std::string& set : project.mapSets()) {
        Packing p;
        p.id = newId('k');
        p.recipe = recipe;
        for (const std::string& role : recipe.sources())
            if (const MapFile* m = project.mapOfSet(set, role)) p.sources[role] = m->id;
        const bool there = std::any_of(project.packings.begin(), project.packings.end(),
                                       [&](const auto& k) { return k->sources == p.sources && k->recipe == recipe; });
        if (!there && p.sources.size() == recipe.sources().size()) all.push_back(std::move(p));
    }
    return all;
}

} // namespace hue
