#pragma once
// Small pictures of what every output and channel of a master carries.
// Threads: any. Nothing is kept between calls.
#include "core/compile/compile.h"
#include "core/project/assets.h"

#include <optional>

namespace hue {

struct Swatch {
    int side = 0;
    std::vector<uint32_t> rgb; ///< 0xFFRRGGBB, rows from the top; colors encoded for the screen, directions as 0..1
};

/// By "node.port" and "channel.key", of taps that were compiled with live constants. U runs right and V down, on a dome that faces the
/// eye. Any thread; a few milliseconds.
std::map<std::string, Swatch> swatchesOf(const Project& project, const Resolved& resolved, const Compilation& taps, Assets& assets,
                                         double time, int side);

/// Of one wire, with the values of what is worn: a master or an instance. The card as it is in the opened graph (opened_graph.h). Null when
/// there is no such wire. Any thread.
std::optional<Swatch> swatchOf(const Project& project, const Id& worn, const Source& wire, Assets& assets, double time, int side);

} // namespace hue
