#pragma once
// What a Program costs on the machine it is made for.
// Threads: any. Nothing is kept between calls.
#include "core/images/map.h"
#include "core/program/unseen.h"

#include <functional>

namespace hue {

struct Cost {
    std::array<int, 4> operations{}; ///< scalar operations by Rate
    int fetches = 0;                 ///< per pixel
    int vertexFetches = 0;           ///< per vertex, by its offset
    int dependentFetches = 0;        ///< per pixel, whose UV depends on another fetch
    int carried = 0;                 ///< components that triangles carry to the pixels; paid for by operations per pixel
    Spared spared;       ///< per pixel, where masks hide most of what is skipped where unseen; all other figures are of all of it
    int samplers = 0;    ///< of surface and offset together
    size_t mapBytes = 0; ///< on the graphics card, with mips, in the format each is compressed to, each map once
    int operationsPerPixel() const { return operations[int(Rate::Pixel)]; }
    bool skips() const { return spared.operations > 0 || spared.fetches > 0; }
    int leastOperationsPerPixel() const { return operationsPerPixel() - spared.operations; }
    int leastFetches() const { return fetches - spared.fetches; }
};

/// A map as the ledger counts it: which one, and its bytes on the card. No pixels are needed for that.
struct CardMap {
    const void* identity = nullptr; ///< equal for the same map; null: none
    size_t bytes = 0;
    CardMap() = default;
    CardMap(const void* which, size_t size) : identity(which), bytes(size) {}
    CardMap(const MapPtr& map) : identity(map.get()), bytes(map ? map->cardBytes() : 0) {}
};

/// `offset`: the Program that moves the vertices, or null; all of it that is not done once a frame is done per vertex, as is what the
/// surface computes there. `map` gives the map of a
/// slot.
Cost costOf(const Program& program, const Program* offset, const std::function<CardMap(const MapSlot&)>& map);

} // namespace hue
