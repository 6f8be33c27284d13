#pragma once
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

struct StartingPoint {
    std::string_view id, name, help;
};
/// "empty", "plain", "mapped", "glow", "two-finishes", "four-finishes".
const std::vector<StartingPoint>& startingPoints();
/// A master of the kind decal: a picture with its alpha, a tint and a roughness as parameters.
Master makeDecalMaster(const std::string& name);
/// A project with one master made from a starting point, worn by one sphere; the empty one wears a bare master.
Project makeProject(std::string_view startingPoint);

} // namespace hue
