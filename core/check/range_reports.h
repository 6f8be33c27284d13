#pragma once
// What the values of a master can reach, told before anybody meets it.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"
#include "core/program/intervals.h"

namespace hue {

/// Between which numbers the values of a map lie, as a Program reads it; nothing where that is not known. See boundsOfMap() of the map
/// index.
using MapBounds = std::function<std::optional<Interval>(const Id& map)>;

/// Of the cards on the board, and of those within the assemblies that it uses, with the values that they get there. From the bounds that
/// values have when parameters stay within their limits, and maps within theirs (0 to 1 where they are not known):
/// channels that can leave their range, weights of a Mix that can leave 0 to 1, divisions by what can reach 0, roots and powers of what can
/// be negative, ramps whose edges never lie in order. Nothing is said where bounds are not known. The program: compiled with constants
/// folded.
std::vector<Diagnostic> rangeReports(const Project& project, const Master& master, const Program& program, const MapBounds& maps = {});

} // namespace hue
