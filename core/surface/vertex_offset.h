#pragma once
// The channel vertex offset: moved vertices with normals and tangents that follow.
// Threads: any. Nothing is kept between calls.
#include "core/evaluate/evaluator.h"
#include "core/mesh/mesh.h"

namespace hue {

/// Offsets in object space, metres, for the vertices of one slot; those of other slots stay as they are in `offsets`.
/// Maps are read at level 0, since vertices have no neighbours on the screen. Values that are not finite become 0. `placement`: where
/// the mesh stands in the world; turned and evenly scaled.
void evaluateOffset(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot,
                    std::vector<std::array<float, 3>>& offsets, const Columns& placement = kWorld);

/// Moves a mesh again and again, as in an animation; what depends on the mesh alone is found once.
class Displacer {
  public:
    explicit Displacer(MeshPtr mesh);
    /// Normals turn as the smooth surface through the faces turns, so creases stay creases; without offsets nothing changes. Where the
    /// vertices were stays in `rest`.
    MeshPtr displaced(const std::vector<std::array<float, 3>>& offsets) const;

  private:
    std::vector<std::array<float, 3>> smoothNormals(const std::vector<std::array<float, 3>>& positions) const;

    MeshPtr m_mesh;
    std::vector<uint32_t> m_group; ///< of each vertex: those at the same place with the same normal
    uint32_t m_groups = 0;
    std::vector<std::array<float, 3>> m_before; ///< smooth normals by group
};

} // namespace hue
