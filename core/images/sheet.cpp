#include "core/images/sheet.h"

#include <numeric>

#define STBRP_STATIC
#define STB_RECT_PACK_IMPLEMENTATION
#include <stb/stb_rect_pack.h>

namespace hue {

std::optional<std::vector<SheetPlace>> placesOnSheet(std::span<const std::array<int, 2>> sizes, int width, int height) {
    if (width < 1 || height < 1) return {};
    std::vector<stbrp_rect> rectangles;
    for (const auto& [across, up] : sizes) rectangles.push_back({int(rectangles.size()), across, up, 0, 0, 0});
    std::vector<stbrp_node> skyline(static_cast<size_t>(width));
    stbrp_context sheet;
    stbrp_init_target(&sheet, width, height, skyline.data(), width);
    if (!stbrp_pack_rects(&sheet, rectangles.data(), int(rectangles.size()))) return {};
    std::vector<SheetPlace> out;
    for (const stbrp_rect& r : rectangles) out.push_back({r.x, r.y, r.w, r.h});
    return out;
}

std::vector<uint32_t> nearestSeen(const std::vector<bool>& seen, int width, int height, bool around) {
    constexpr uint32_t none = ~0u;
    std::vector<uint32_t> out(seen.size(), none), ring, next;
    for (uint32_t i = 0; i < seen.size(); ++i)
        if (seen[i]) {
            out[i] = i;
            ring.push_back(i);
        }
    if (ring.empty()) std::iota(out.begin(), out.end(), 0u);
    for (; !ring.empty(); ring.swap(next)) {
        next.clear();
        for (const uint32_t i : ring) {
            constexpr int steps[8][2] = {{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {-1, 1}, {1, -1}, {-1, -1}};
            for (const auto& [dx, dy] : steps) {
                int x = int(i) % width + dx, y = int(i) / width + dy;
                if (around) x = (x + width) % width, y = (y + height) % height;
                else if (x < 0 || y < 0 || x >= width || y >= height) continue;
                uint32_t& at = out[size_t(y) * size_t(width) + size_t(x)];
                if (at != none) continue;
                at = out[i];
                next.push_back(uint32_t(y) * uint32_t(width) + uint32_t(x));
            }
        }
    }
    return out;
}

} // namespace hue
