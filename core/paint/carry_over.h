#pragma once
// Paint on a mesh that has changed.
// Threads: any. Nothing is kept between calls.
#include "core/mesh/paint_data.h"

namespace hue {

struct CarriedPaint {
    PaintData paint;    ///< on the new mesh
    float furthest = 0; ///< metres that a new vertex lies from where its paint comes from, at most
};

/// Each vertex of the new mesh takes what was painted at the nearest point of the old one; of faces that look less than 90 degrees away
/// from it where there are any, so that the two sides of a wall stay apart.
CarriedPaint carriedOver(const PaintData& from, const MeshPtr& to);

/// Paint as it lies on a mesh: itself where it fits, carried over where it does not; nothing painted for null.
PaintDataPtr paintOn(const MeshPtr& mesh, const PaintDataPtr& paint);

} // namespace hue
