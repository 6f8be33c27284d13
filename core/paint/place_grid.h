#pragma once
// The places of a mesh by cells of a grid, for a brush to find those around it.
// Threads: any number may search one grid at a time.
#include "core/mesh/mesh.h"
#include "core/paint/neighbours.h"

namespace hue {

/// Places within a ball, by a grid of about two edges a cell over the mesh's box.
class PlaceGrid {
  public:
    /// `neighbours` must outlive it.
    PlaceGrid(const MeshNeighbours& neighbours, const Bounds& box);

    struct Near {
        uint32_t place;
        float square; ///< of its distance from the middle, in square metres
    };
    /// Adds all within a ball, in no order.
    void within(const std::array<float, 3>& middle, float radius, std::vector<Near>& out) const;
    /// Adds those of them that edges within the ball lead to from some place of `from`. Costs as much as within() but for the ball's rim.
    void connected(std::span<const uint32_t> from, const std::array<float, 3>& middle, float radius, std::vector<Near>& out) const;

  private:
    class Search;
    /// Which cells around one hang together with it by an edge: bits (z + 1) * 9 + (y + 1) * 3 + x + 1 for steps of -1..1. And whether all
    /// of its own places hang together within it, with no edge that goes further than that.
    struct Links {
        uint32_t around = 0;
        bool whole = false;
    };
    std::array<long, 3> stepsTo(size_t cell) const; ///< from the first cell, along each axis
    size_t cellAt(const std::array<float, 3>& at) const;
    void linkCells(); ///< fills m_links

    const MeshNeighbours& m_neighbours;
    std::array<int, 3> m_cells{1, 1, 1};
    std::array<float, 3> m_low{};
    float m_cellSize = 1;
    std::vector<uint32_t> m_firstInCell, m_inCell, m_cellOf; ///< the last by place
    std::vector<Links> m_links;
};

} // namespace hue
