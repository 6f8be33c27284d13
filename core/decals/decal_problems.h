#pragma once
// Decals that are not seen as they are meant.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/project/assets.h"

namespace hue {

/// Decals that reach nothing, lie inside of the mesh, are stretched more than 4:1 over most of where they are seen, wear nothing, or what
/// is no decal or leads back to what they lie on, are kept off slots that the mesh does not have, or are too many; with fixes.
std::vector<Diagnostic> decalProblems(const Project& project, Assets& assets);

} // namespace hue
