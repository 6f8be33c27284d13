#pragma once
// A slot of a mesh, laid out over one of its UV sets: where each texel of a map lies on the surface.
// Threads: any number may read one; it never changes.
#include "core/base/vectors.h"
#include "core/evaluate/evaluator.h"
#include "core/mesh/uv_layout.h"

namespace hue {

class UnwrappedMesh final : public PointSource {
  public:
    /// `size`: texels a side, 1..kLargestSide; `set`: 0 or 1. Error: bake.no-uvs.
    static Result<UnwrappedMesh> of(MeshPtr mesh, const MeshSlot& slot, int size, int set = 0);

    /// The mesh stands at the origin, is seen from straight above each point, and has nothing behind it. Around what triangles hold, UVs go
    /// on, and all else is that of the nearest point.
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override;

    float shared() const; ///< share of the texels of the mesh that several triangles hold: what lies there is of the last

    /// A direction of the world in the frame that the mesh has at a texel: along the tangent, the bitangent and the normal; length 1.
    Rgb inFrame(int x, int y, const Rgb& direction) const;

  private:
    UnwrappedMesh(MeshPtr mesh, UvLayout layout, int set) : m_mesh(std::move(mesh)), m_layout(std::move(layout)), m_set(set) {}
    Rgb direction(const UvTexel& t, Attribute which) const;

    MeshPtr m_mesh;
    UvLayout m_layout;
    int m_set; ///< of UVs that lay it out
};

} // namespace hue
