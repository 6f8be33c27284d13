#pragma once
// What does not fit between meshes, what is painted on them, and what reads it.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/project/assets.h"

namespace hue {

/// Paint that nothing reads, channels that are read and never painted, materials that read paint on meshes that have none, paint of a mesh
/// that has changed since, paintworks that nobody wears; with fixes.
std::vector<Diagnostic> paintProblems(const Project& project, Assets& assets);

/// A new paintwork on a specimen's mesh, worn by it: what the mesh brings along, else nothing painted. Refused as edit::addPaintwork()
/// does.
Result<Project> givePaintwork(const Project& project, size_t specimen, const MeshPtr& mesh, const std::string& name = {},
                              const Id& id = {});

} // namespace hue
