#include "core/maps/drawn_map.h"

#include <cstring>

namespace hue {

MapPtr drawnMap(const Drawn& drawn) {
    std::vector<std::byte> texels(kDrawnBytes);
    for (int k = 0; k < kDrawnTexels; ++k) {
        std::array<float, 4> v = valueAt(drawn, float(k) / float(kDrawnTexels - 1));
        if (drawn.kind == Drawn::Kind::Curve) v = {v[0], v[0], v[0], 1};
        std::memcpy(texels.data() + size_t(k) * sizeof v, v.data(), sizeof v);
    }
    return std::make_shared<Map>(kDrawnTexels, 1, TexelFormat::F32, false, Wrap::Clamp, std::move(texels));
}

} // namespace hue
