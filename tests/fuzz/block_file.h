#pragma once
// What must hold of a block file that was read, or refused.
#include "core/compress/block_file.h"
#include "tests/fuzz/fuzz.h"

namespace hue::fuzz {

inline void blockFile(const Result<BlockMap>& map) {
    if (!map) return isReason(map.error());
    if (map->levels.empty() || map->width < 1 || map->height < 1) std::abort();
    if (size_t(map->width) * size_t(map->height) > 1 << 16) return;
    for (size_t l = 0; l < map->levels.size(); ++l) {
        const int w = std::max(1, map->width >> l), h = std::max(1, map->height >> l);
        const auto image = decodeBlocks(map->levels[l].data(), map->levels[l].size(), map->format, w, h, map->channels, 1);
        if (!image) std::abort();
    }
}

} // namespace hue::fuzz
