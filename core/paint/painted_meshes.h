#pragma once
// Meshes with paint on them, for pictures.
// Threads: any. What is kept is kept under a lock; a mesh may be let go on any thread.
#include "core/mesh/paint_data.h"

#include <mutex>

namespace hue {

/// Keeps the newest of each mesh, and those that somebody holds. One that is older and that nobody holds is painted over in place: as a
/// stroke goes on, only what it has changed is put on, and no mesh is copied.
class PaintedMeshes {
  public:
    /// The mesh with paint as its vertex colors; carried over where it was painted on another shape. What was given stays as it is for as
    /// long as anybody holds it.
    MeshPtr get(const MeshPtr& mesh, const PaintDataPtr& paint);

  private:
    /// A painted mesh that nobody holds any more.
    struct Spare {
        MeshPtr mesh;
        PaintDataPtr on;
        std::unique_ptr<Mesh> made;
    };
    /// Outlives the keeper in the meshes that are still held.
    struct Spares {
        std::mutex mutex;
        Spare last;
    };
    struct Kept {
        MeshPtr mesh;
        PaintDataPtr paint, on; ///< as it was given, and as it lies on the mesh
        MeshPtr made;
    };
    MeshPtr shared(const MeshPtr& mesh, const PaintDataPtr& on, std::unique_ptr<Mesh> made) const;
    Spare takeSpare(const MeshPtr& mesh);

    std::mutex m_mutex;
    std::vector<Kept> m_kept; ///< what was asked for last stands last
    std::shared_ptr<Spares> m_spares = std::make_shared<Spares>();
};

} // namespace hue
