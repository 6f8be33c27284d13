#pragma once
// What a Program costs on the machine it is made for.
#include "core/compile/program.h"
#include "core/maps/map.h"

#include <functional>

namespace hue {

struct Cost {
    std::array<int, 4> operations{}; ///< scalar operations by Rate
    int fetches = 0;
    int dependentFetches = 0; ///< whose UV depends on another fetch
    int samplers = 0;
    size_t mapBytes = 0; ///< on the graphics card, with mips, in the format each is compressed to, each map once
    int operationsPerPixel() const { return operations[int(Rate::Pixel)]; }
};

/// `map` gives the map of a slot, or null where there is none.
Cost costOf(const Program& program, const std::function<MapPtr(const MapSlot&)>& map);

} // namespace hue
