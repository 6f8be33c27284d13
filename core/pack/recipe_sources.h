#pragma once
// Which maps of a project a recipe reads.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

#include <functional>

namespace hue {

/// What a map holds, where its entry does not say: a guess, or nothing.
using RoleOfMap = std::function<std::string(const MapFile&)>;

/// Maps for a recipe's roles: of the chosen map's set; else the chosen map itself; else, outside of a set, what is alone in its role.
/// Roles without a map are left out. `chosen` may be empty.
std::map<std::string, Id> recipeSources(const Project& project, const Recipe& recipe, const Id& chosen, const RoleOfMap& guess);

/// A packing for each map set that holds all that the recipe reads and was not packed by it yet.
std::vector<Packing> packingsForSets(const Project& project, const Recipe& recipe);

} // namespace hue
