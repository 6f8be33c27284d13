#pragma once
// Between pixels of a picture and the places that they show.
// Threads: any. Nothing is kept between calls.
#include "core/mesh/surface_rays.h"
#include "core/picture/view.h"

namespace hue {

/// The view of a mesh that stands alone at the origin, `width` by `height` pixels large as the settings say.
View viewOfMesh(const Bounds& bounds, const RenderSettings& settings);

/// The line of sight through a point of the picture, in pixels from its top left corner; of length 1, from the eye.
Ray sightThrough(const View& view, float x, float y);
/// Where a place lies in the picture, in pixels from its top left corner; nothing for one behind the eye.
std::optional<std::array<float, 2>> pixelOf(const View& view, const Rgb& place);
/// Metres at a place that are as large as one pixel.
float metresOfPixel(const View& view, const Rgb& place);

} // namespace hue
