#include "core/picture/picture_settings.h"

#include "core/surface/channels.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {

Outcome drawable(const RenderSettings& s) {
    if (!s.lightFile && !findLight(s.light)) return Error{"light.unknown", fmt::format("There is no light {}.", s.light), {}};
    if (s.width < 1 || s.height < 1 || s.width > kMostPixels || s.height > kMostPixels)
        return Error{"render.size",
                     fmt::format("A picture of {} x {} pixels cannot be rendered; at most {} a side.", s.width, s.height, kMostPixels),
                     {}};
    return Done{};
}

std::array<float, 2> sampleOffset(int k) {
    // The plastic number's powers, as the golden ratio is for one dimension.
    const auto part = [k](double step) {
        const double x = 0.5 + step * k;
        return float(x - std::floor(x) - 0.5);
    };
    return {part(0.7548776662466927), part(0.5698402909980532)};
}

void PictureMean::add(const RenderedPicture& picture) {
    if (picture.rgba.size() != m_sums.size()) {
        m_sums.assign(picture.rgba.size(), 0);
        m_count = 0;
    }
    for (size_t i = 0; i < m_sums.size(); ++i) m_sums[i] += picture.rgba[i];
    ++m_count;
    m_last = picture;
}

RenderedPicture PictureMean::picture() const {
    RenderedPicture out = m_last;
    for (size_t i = 0; i < m_sums.size(); ++i) out.rgba[i] = uint8_t((m_sums[i] + uint32_t(m_count) / 2) / uint32_t(m_count));
    return out;
}

} // namespace hue
