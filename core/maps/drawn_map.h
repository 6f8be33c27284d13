#pragma once
// What shaders read of a curve or a gradient.
// Threads: any. Nothing is kept between calls.
#include "core/document/drawn.h"
#include "core/images/map.h"

namespace hue {

/// Texels of one; the first stands at 0, the last at 1. Between two of them a value goes straight.
inline constexpr int kDrawnTexels = 256;
/// On the graphics card: four floats each, no smaller levels.
inline constexpr size_t kDrawnBytes = size_t(kDrawnTexels) * 16;

/// One row of floats, red holding the values of a curve, with green and blue beside it the same; alpha is 1 then. It is not repeated.
MapPtr drawnMap(const Drawn& drawn);

} // namespace hue
