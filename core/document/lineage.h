#pragma once
// Whose child everything is, for all instances in one pass.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Project::masterOf of every instance, in their order, in a time that grows with their number however deep they derive.
std::vector<const Master*> mastersOfInstances(const Project& project);

} // namespace hue
