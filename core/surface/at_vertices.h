#pragma once
// A Program at the vertices of a mesh.
// Threads: any. Nothing is kept between calls.
#include "core/evaluate/evaluator.h"
#include "core/mesh/mesh.h"

namespace hue {

/// Receives the planes of what was asked for, and where in them a vertex stands. Called from several threads, once for each vertex.
using AtVertex = std::function<void(uint32_t vertex, const float* const* planes, size_t lane)>;
/// Evaluates outputs for the vertices of one slot. Maps are read at level 0, since vertices have no neighbours on the screen; there is no
/// eye and no picture (vertex_limits.cpp says what stands in). `placement`: where the object lies in the world.
void atVertices(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot,
                const std::vector<std::string>& outputs, const Columns& placement, const AtVertex& at);

/// What the triangles of one slot carry, by the Program of the vertices (vertex_split.h); that of other slots stays in `carried`.
void evaluateCarried(const Evaluator& vertices, const Frame& frame, const Mesh& mesh, const MeshSlot& slot,
                     std::vector<CarriedValues>& carried, const Columns& placement);

} // namespace hue
