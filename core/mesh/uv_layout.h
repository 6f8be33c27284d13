#pragma once
// Where each texel of a map lies on a mesh that a UV set lays out.
// Threads: any number may read one; it never changes.
#include "core/mesh/mesh.h"

#include <optional>

namespace hue {

/// A place on a mesh, as a texel has it.
struct UvTexel {
    static constexpr uint32_t kNone = ~0u;
    uint32_t triangle = kNone;   ///< the first of its three indices
    float second = 0, third = 0; ///< shares of its second and third corner
    int16_t right = 0, down = 0; ///< texels away from the nearest one whose middle a triangle holds; 0 for such ones

    /// What a mesh has there; `of` gives a number for the index of a vertex.
    template <class Of> float mixed(const Mesh& mesh, const Of& of) const {
        return of(mesh.indices[triangle]) * (1 - second - third) + of(mesh.indices[triangle + 1]) * second +
               of(mesh.indices[triangle + 2]) * third;
    }
};

class UvLayout {
  public:
    /// The UVs of a slot, which repeat beyond 0..1; row 0 at V = 0. Each texel that no triangle holds takes the place of the nearest one
    /// that is held, over the edges of the square, so that no filter brings in what is not there. `size`: texels a side, 1..kLargestSide.
    /// Nothing when no triangle has room.
    static std::optional<UvLayout> of(const Mesh& mesh, const MeshSlot& slot, int size, int set = 0);

    int size() const { return m_size; }
    const UvTexel& at(int x, int y) const { return m_texels[size_t(y) * size_t(m_size) + size_t(x)]; }
    const std::vector<UvTexel>& texels() const { return m_texels; } ///< row by row
    size_t held() const { return m_held; }                          ///< texels whose middle a triangle holds
    /// What lay first at texels (by their number) that other triangles took, which are not its neighbours along an edge; one for each.
    const std::vector<std::pair<uint32_t, UvTexel>>& covered() const { return m_covered; }

  private:
    explicit UvLayout(int size) : m_size(size), m_texels(size_t(size) * size_t(size)) {}
    void lay(const Mesh& mesh, const MeshSlot& slot, int set);
    void continueAround();

    int m_size;
    std::vector<UvTexel> m_texels;
    size_t m_held = 0;
    std::vector<std::pair<uint32_t, UvTexel>> m_covered;
};

} // namespace hue
