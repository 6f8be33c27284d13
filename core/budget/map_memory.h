#pragma once
// What maps take on a graphics card, by the heads of their files alone.
// Threads: any. Nothing is kept between calls.
#include "core/budget/verdict.h"
#include "core/project/assets.h"

namespace hue {

/// Bytes of a map with its levels, in the format that it is compressed to; 0 for one whose file cannot be read. Keeps references to both.
MapBytes mapBytesFor(const Project& project, const Assets& assets);

} // namespace hue
