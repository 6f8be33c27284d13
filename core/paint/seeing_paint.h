#pragma once
// Paint shown by itself, and what shows where a brush is.
// Threads: any. Nothing is kept between calls.
#include "core/paint/brush.h"

namespace hue {

enum class PaintShown {
    Drawn,   ///< as what is worn shows it
    Alone,   ///< one channel in grey
    Weights, ///< the first three as red, green and blue
    Sum      ///< of the chosen channels in grey; above 1 in red
};
/// Paint whose vertex colors are what is to be seen, three channels of it. `of`: channels that are summed. Grey is made so that the screen
/// shows a value of one half as the middle of its range, as it does for channels of data.
PaintData shownAs(const PaintData& paint, PaintShown how, int channel, std::span<const int> of);
/// Vertices at which the channels together are above 1, or below it; a step and a half are forgiven.
struct SumFaults {
    size_t over = 0, under = 0;
};
SumFaults sumFaults(const PaintData& paint, std::span<const int> of);

/// A ring of so many points on the surface, each as near to `radius` from the middle as the surface is bent.
std::vector<std::array<float, 3>> ringOn(const SurfaceRays& rays, const MeshPoint& middle, float radius, int count);

/// Which places of a mesh an eye sees: those that look towards it and that nothing hides.
std::vector<bool> placesInSight(const PaintSurface& surface, const std::array<float, 3>& eye);

} // namespace hue
