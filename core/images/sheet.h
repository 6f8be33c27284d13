#pragma once
// Many pictures on one sheet: where each lies, and what stands where nothing of them is seen.
// Threads: any. Nothing is kept between calls.
#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace hue {

struct SheetPlace {
    int x = 0, y = 0, width = 0, height = 0;
};
/// Places for pictures of these widths and heights on a sheet, in their order, none over another or over the edge. Nothing where they have
/// no room, as far as a look along the skyline tells.
std::optional<std::vector<SheetPlace>> placesOnSheet(std::span<const std::array<int, 2>> sizes, int width, int height);

/// For each pixel the number of the nearest that is seen, by rings of eight neighbours; its own where it is seen or none is. `around`: over
/// the edges too, to the other side.
std::vector<uint32_t> nearestSeen(const std::vector<bool>& seen, int width, int height, bool around);

} // namespace hue
