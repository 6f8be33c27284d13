#pragma once
// What is worn, made ready to be drawn: compiled Programs by structure, and the values of a frame.
#include "core/compile/compile.h"
#include "core/evaluate/evaluator.h"
#include "core/store/assets.h"

#include <map>
#include <mutex>

namespace hue {

/// A compiled surface; shared by all that wear masters of the same structure.
struct Look {
    std::shared_ptr<const Evaluator> evaluator;
    std::string fragmentStage;
    bool ok = true;
    std::vector<Diagnostic> diagnostics;
};
using LookPtr = std::shared_ptr<const Look>;

/// Compiles each structure once. Any thread.
class LookCache {
  public:
    LookPtr get(const Project& project, const Master& master);
    /// How often something was compiled; dragging a value must not change it.
    int compiles() const;

  private:
    mutable std::mutex m_mutex;
    std::map<std::string, LookPtr> m_looks;
    int m_compiles = 0;
};

/// One slot of a specimen for one frame.
struct DressedSlot {
    LookPtr look;
    Frame frame;
    SurfaceSettings surface;
};

/// A specimen for one frame; holds all that a renderer needs.
struct DressedSpecimen {
    MeshPtr mesh;
    std::vector<DressedSlot> slots; ///< by slot of the mesh; a slot without anything worn shows plain grey
    std::string problem;            ///< why something stands in, or empty
};

/// Slots beyond what the specimen names wear what its last one wears.
DressedSpecimen dress(const Project& project, Assets& assets, LookCache& looks, const Specimen& specimen, double time,
                      float placementRandom = 0.5f);

} // namespace hue
