#pragma once
#include <array>

namespace hue {

/// Red, green and blue of linear light, Rec. 709 primaries; or a direction.
using Rgb = std::array<float, 3>;

} // namespace hue
