#pragma once
// Copies of a mesh in one scene: where each stands, and all of them as one mesh.
// Threads: any. Nothing is kept between calls.
#include "core/base/vectors.h"
#include "core/document/project.h"
#include "core/mesh/mesh.h"

#include <span>

namespace hue {

/// One copy of a mesh: scaled evenly, turned about Y, then moved.
struct Placement {
    std::array<float, 3> position{};
    float turn = 0;      ///< degrees; from Z to X
    float size = 1;      ///< above 0
    float random = 0.5f; ///< 0..1, its own number
    bool operator==(const Placement&) const = default;
};
/// Where the object's X, Y, Z and origin lie in the world.
Columns columnsOf(const Placement& placement);

/// Where the copies of a mesh with these bounds stand, around the origin and with their lowest points level but for the lift; without
/// placements one that stands as it is. The copies of a ring look outward.
std::vector<Placement> placementsOf(const std::optional<Placements>& placements, const Bounds& mesh);

/// From "row:5", "grid:5x3" or "ring:8", with what else is wanted behind commas: "ring:8,turn=90,lift=0.5,size=0.5,spacing=2".
/// Errors: placements.text, with what was not understood or out of range.
Result<Placements> placementsFromText(std::string_view text);

/// All copies as one mesh in the world: the slots of the first copy, of the second and so on. `rest` holds where each vertex lies in its
/// object. One mesh for each placement, all of the same shape but for where their vertices lie.
/// Errors: mesh.too-many, above 8 million triangles.
Result<Mesh> repeated(std::span<const MeshPtr> meshes, std::span<const Placement> placements);

} // namespace hue
