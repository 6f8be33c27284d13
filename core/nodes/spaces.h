#pragma once
// From one space to another. World: metres, Y up. Object: of the mesh as it was made. View: from the eye, X right, Y up, Z to the viewer.
// Tangent: from the point, along the tangent, the bitangent and the normal of the mesh. Screen, of points alone: across and down the
// picture, 0 to 1 from the top left, and metres ahead of the eye.
// Threads: any. Nothing is kept between calls.
#include "core/program/builder.h"

namespace hue {

enum class Space { Object, World, View, Tangent, Screen };

Val pointToWorld(Builder& b, Val point, Space from);
/// In the picture, what lies less than a centimetre ahead of the eye, or behind it, has no place; it lands as if it were a centimetre
/// ahead.
Val pointFromWorld(Builder& b, Val point, Space to);
/// Directions with a length; of a space that is scaled they grow and shrink with it. The screen has none: it gives the view's.
Val vectorToWorld(Builder& b, Val vector, Space from);
Val vectorFromWorld(Builder& b, Val vector, Space to);

} // namespace hue
