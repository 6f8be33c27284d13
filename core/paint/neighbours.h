#pragma once
// Which vertices of a mesh lie side by side. Vertices that share a place but for rounding, split for their normals or UVs, count as one.
// Threads: many may read one that nobody writes.
#include "core/mesh/mesh.h"

#include <span>

namespace hue {

class MeshNeighbours {
  public:
    explicit MeshNeighbours(const Mesh& mesh);

    size_t places() const { return m_positions.size(); }
    /// The place of a vertex.
    uint32_t placeOf(uint32_t vertex) const { return m_placeOf[vertex]; }
    const std::array<float, 3>& position(uint32_t place) const { return m_positions[place]; }
    /// Places at the other ends of the edges of a place.
    std::span<const uint32_t> around(uint32_t place) const {
        return {m_around.data() + m_first[place], m_around.data() + m_first[place + 1]};
    }
    /// Mean of the squares of all edges' lengths, metres squared; 0 where there are none.
    float meanSquareEdge() const { return m_meanSquare; }

    /// One value a place: the mean of those of its vertices.
    std::vector<float> gathered(std::span<const float> ofVertices) const;
    /// One value a vertex, from its place.
    std::vector<float> scattered(std::span<const float> ofPlaces) const;

  private:
    std::vector<uint32_t> m_placeOf;
    std::vector<std::array<float, 3>> m_positions;
    std::vector<uint32_t> m_first, m_around;
    float m_meanSquare = 0;
};

/// How a surface bends at each place, 1/m, above 0 where it is convex: for a sphere one over its radius. From the places around each
/// (after Taubin, "Estimating the Tensor of Curvature of a Surface from a Polyhedral Approximation", 1995: the directional curvature
/// towards a neighbour), averaged over them. 0 where no triangle has an area.
std::vector<float> meanCurvatures(const Mesh& mesh, const MeshNeighbours& neighbours);

/// Metres along edges to the nearest place where two slots meet; infinite where no edge leads there.
std::vector<float> distancesToBorders(const Mesh& mesh, const MeshNeighbours& neighbours);

} // namespace hue
