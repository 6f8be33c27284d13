#pragma once
// Paint as a mask over a mesh's UVs.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"
#include "core/mesh/mesh.h"
#include "core/paint/fill_rules.h"

namespace hue {

struct PaintMap {
    Plane values;        ///< 0..1; row 0 at V = 0
    float covered = 0;   ///< share of the texels whose middle a triangle holds
    float ambiguous = 0; ///< share of those that triangles with different paint hold: what lies there is that of the last
};
/// A channel interpolated over the triangles in the first UV set, which repeats beyond 0..1. Texels that no triangle holds take the value
/// of the nearest that one does, so that no filter brings in what is not painted. `size`: 1..kLargestSide. Error: paint.no-uvs.
Result<PaintMap> mapOfPaint(const Mesh& mesh, const PaintChannel& channel, int size);

} // namespace hue
