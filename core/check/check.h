#pragma once
// All that can be said of a project without looking at its files.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/check/range_reports.h"
#include "core/document/project.h"

namespace hue {

/// The compiler's findings on a master, advice, and what leads nowhere or cannot have an effect.
/// `maps`: what is known of the values of maps.
std::vector<Diagnostic> checkMaster(const Project& project, const Master& master, const MapBounds& maps = {});
/// The same of an assembly on its own board: its outputs take the place of the surface.
std::vector<Diagnostic> checkAssembly(const Project& project, const Assembly& assembly, const MapBounds& maps = {});
/// All masters, assemblies, instances and the lineup; not the files (see findings of Assets and the map index for those).
std::vector<Diagnostic> checkProject(const Project& project, const MapBounds& maps = {});

} // namespace hue
