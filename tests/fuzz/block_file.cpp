// Random bytes as KTX2 and DDS files: whatever they say, reading them ends with a map or a reason.
#include "core/compress/block_file.h"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    using namespace hue;
    const std::span<const std::byte> bytes(reinterpret_cast<const std::byte*>(data), size);
    for (auto read : {readKtx2, readDds}) {
        const Result<BlockMap> map = read(bytes, "input");
        if (!map) {
            // A reason is a sentence.
            if (map.error().sentence.empty() || map.error().code.empty()) std::abort();
            continue;
        }
        if (map->levels.empty() || map->width < 1 || map->height < 1) std::abort();
        if (size_t(map->width) * size_t(map->height) > 1 << 16) continue;
        for (size_t l = 0; l < map->levels.size(); ++l) {
            const int w = std::max(1, map->width >> l), h = std::max(1, map->height >> l);
            const auto image = decodeBlocks(map->levels[l].data(), map->levels[l].size(), map->format, w, h, map->channels, 1);
            if (!image) std::abort();
        }
    }
    return 0;
}
