#pragma once
// How much of what a point of a mesh looks at is covered by the mesh itself.
// Threads: any. Nothing is kept between calls.
#include "core/paint/neighbours.h"

namespace hue {

/// At each place: the share of directions above the surface, weighted by their cosine to the normal, in which the mesh lies within `reach`
/// metres; 0 in the open, 1 where all is covered. By 256 rays from each place (Hammersley, "Monte Carlo methods for solving multivariable
/// problems", 1960; mapped to the hemisphere after Malley).
std::vector<float> occlusionAt(const Mesh& mesh, const MeshNeighbours& neighbours, float reach);

} // namespace hue
