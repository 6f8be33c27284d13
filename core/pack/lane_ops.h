#pragma once
// The operations of a lane.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"
#include "core/pack/recipe.h"

namespace hue {

/// Whether it works value by value, so that rows can flow through it.
bool isPointwise(const LaneOp& op);
/// One value through a pointwise operation.
float applied(const LaneOp& op, float x);
/// In place. `inside`: the mask of Dilate, above 0.5 inside; null: everywhere.
void apply(const LaneOp& op, Plane& plane, const Plane* inside);

/// Takes the nearest value inside for pixels outside, up to `distance` pixels; the map repeats. The mask grows along.
void dilate(Plane& plane, Plane inside, int distance);
/// Gaussian of this standard deviation in pixels; the map repeats.
void blur(Plane& plane, float sigma);

} // namespace hue
