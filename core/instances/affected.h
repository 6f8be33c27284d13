#pragma once
// Who may look different after an edit.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Masters and instances of both projects whose look may differ: by their master's graph or surface, what that takes in of assemblies and
/// other masters, their values, or their maps. The masters first, then instances as the later project has them. A card that was moved or
/// renamed changes nothing; whether a change of a graph is seen, pictures tell.
std::vector<Id> affectedBy(const Project& before, const Project& after);

} // namespace hue
