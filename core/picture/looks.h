#pragma once
// What is worn, made ready to be drawn: compiled Programs by structure, and the values of a frame.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/compile/compile.h"
#include "core/evaluate/evaluator.h"
#include "core/mesh/placements.h"
#include "core/paint/painted_meshes.h"
#include "core/project/assets.h"
#include "core/project/map_library.h"
#include "core/surface/vertex_offset.h"

#include <map>
#include <mutex>

namespace hue {

/// A compiled surface; shared by all that wear masters of the same structure.
struct Look {
    std::shared_ptr<const Evaluator> evaluator;
    std::shared_ptr<const Evaluator> offset;   ///< of the vertices; null when nothing moves them
    std::shared_ptr<const Evaluator> vertices; ///< of what the triangles carry to the evaluator above; null when they carry nothing
    std::string stage[2];                      ///< fragment stages for the core's targets and for all
    uint32_t layers = 0;                       ///< of the surface that was compiled
    bool ok = true;
    bool valueIsColor = false; ///< for a wire: whether it is a color
    std::vector<Diagnostic> diagnostics;
};
using LookPtr = std::shared_ptr<const Look>;

/// Compiles each structure once, and keeps meshes that were refined. Any thread.
class LookCache {
  public:
    LookPtr get(const Project& project, const Master& master);
    /// One wire of a master alone.
    LookPtr wire(const Project& project, const Master& master, const Source& wire);
    /// How often something was compiled; dragging a value must not change it.
    int compiles() const;

    /// Those with paint.
    PaintedMeshes& paintedMeshes() { return m_painted; }
    /// `problem` says when a mesh cannot be subdivided as often.
    MeshPtr refined(const MeshPtr& mesh, int times, std::string* problem);
    /// repeated(), kept; `problem` says when there would be too many triangles, and the mesh stands alone.
    MeshPtr placed(const MeshPtr& mesh, const std::vector<Placement>& placements, std::string* problem);
    std::shared_ptr<const Displacer> displacer(const MeshPtr& mesh);
    /// The mesh with what its triangles carry; the one that was made before where that is the same.
    MeshPtr carrying(const MeshPtr& mesh, std::vector<CarriedValues> carried);
    /// uvDensity(), kept.
    UvDensity density(const MeshPtr& mesh, int set);

  private:
    LookPtr found(const std::string& key) const;
    LookPtr keep(const std::string& key, LookPtr look);

    mutable std::mutex m_mutex;
    std::mutex m_compiling; ///< one at a time, so that nothing is compiled twice
    struct KeptLook {
        LookPtr look;
        mutable uint64_t wanted = 0; ///< when it was last
    };
    std::map<std::string, KeptLook> m_looks;
    mutable uint64_t m_asked = 0;
    PaintedMeshes m_painted;
    std::map<std::pair<MeshPtr, int>, MeshPtr> m_refined;
    struct Placed {
        MeshPtr mesh;
        std::vector<Placement> placements;
        MeshPtr made;
    };
    std::vector<Placed> m_placed;
    std::map<MeshPtr, std::shared_ptr<const Displacer>> m_displacers;
    std::map<MeshPtr, MeshPtr> m_carrying;
    std::map<std::pair<MeshPtr, int>, UvDensity> m_densities;
    int m_compiles = 0;
};

/// One slot of a specimen for one frame.
struct DressedSlot {
    LookPtr look;
    Frame frame;
    SurfaceSettings surface;
    bool follows = false; ///< a shared parameter that moves
    int operations = 0;   ///< per pixel, fetches included as counted by the ledger; only when asked for
    bool seeThrough() const { return surface.alphaMode == AlphaMode::Blend || surface.has(Layer::Transmission); }
};

/// A specimen for one frame; holds all that a renderer needs.
struct DressedSpecimen {
    MeshPtr mesh;
    std::string lineage;            ///< the same for the same specimen as its paint and the time go on: its meshes differ by little
    std::vector<DressedSlot> slots; ///< by slot of the mesh; a slot without anything worn shows plain grey
    size_t slotsEach = 1;           ///< of each placement; the slots of the first come first
    std::vector<Thing> things;
    Bounds bounds;      ///< of the mesh before anything moved its vertices, so that the camera rests
    Bounds drawnBounds; ///< of the mesh as it is drawn
    bool castsShadow = true;
    std::string problem; ///< why something stands in, or empty
    bool moves() const;  ///< something depends on time
    /// Why it cannot be drawn: the first error of what is worn; empty when it can.
    std::string error() const;
};

struct DressOptions {
    /// When set, slots that wear `wireMaster` show this wire, and others plain grey. One that leads a finish is a surface to be lit.
    const Source* wire = nullptr;
    Id wireMaster;
    bool countCost = false;
    bool offsetView = false;                   ///< slots show their vertex offset, in metres
    std::optional<MapLibrary::View> maps = {}; ///< else as the assets give them
};

/// Slots beyond what the specimen names wear what its last one wears.
DressedSpecimen dress(const Project& project, Assets& assets, LookCache& looks, const Specimen& specimen, double time,
                      const DressOptions& options = {});

} // namespace hue
