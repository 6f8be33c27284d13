#pragma once
// The brush: what a hand leaves on the vertices of a mesh.
// Threads: any number may read a surface; a stroke belongs to one at a time.
#include "core/mesh/paint_data.h"
#include "core/mesh/surface_rays.h"
#include "core/paint/neighbours.h"
#include "core/paint/place_grid.h"

#include <algorithm>
#include <optional>

namespace hue {

struct Brush {
    enum class Does { Add, TakeAway, Set, Smooth, Smear };
    Does does = Does::Add;
    float radius = 0.1f;   ///< metres, of the mesh's own space; above 0
    float weight = 1;      ///< 0..1, in the middle
    float softEdge = 0.5f; ///< 0..1: the share of the radius over which the weight falls off
    float buildUp = 0;     ///< 0..1: 0 leaves as much as one touch however often a stroke comes by, 1 adds up with every touch
    float target = 1;      ///< 0..1: what is added, taken away or set
    bool facing = true;    ///< only what looks towards the viewer
    bool connected = true; ///< only what hangs together with where the brush is, within its size
    int slot = -1;         ///< only vertices of this slot; -1: of any
    int mirror = -1;       ///< 0..2: the same on the other side of the plane through the origin across X, Y or Z; -1: not
    int maskChannel = -1;  ///< only where this channel lies between the two below; -1: everywhere
    float maskLow = 0, maskHigh = 1;
};

/// The weight of a touch at a distance from its middle, both as shares: of the weight, and of the radius. 1 up to the soft edge, 0 from 1
/// on, between them 3t^2 - 2t^3.
float brushProfile(float distance, float softEdge);

/// A mesh made ready for painting. Vertices that share a place are painted as one.
class PaintSurface {
  public:
    explicit PaintSurface(MeshPtr mesh);
    PaintSurface(const PaintSurface&) = delete;
    PaintSurface& operator=(const PaintSurface&) = delete;

    const MeshPtr& mesh() const { return m_mesh; }
    const Bounds& bounds() const { return m_bounds; }
    const SurfaceRays& rays() const { return m_rays; }
    const MeshNeighbours& neighbours() const { return m_neighbours; }
    const PlaceGrid& grid() const { return m_grid; }
    /// Unit length, the mean over the vertices of a place.
    const std::array<float, 3>& normal(uint32_t place) const { return m_normals[place]; }
    std::span<const uint32_t> verticesOf(uint32_t place) const {
        return {m_vertices.data() + m_firstVertex[place], m_vertices.data() + m_firstVertex[place + 1]};
    }
    /// Whether a vertex is a corner of a triangle of that slot; from the 64th on slots are not told apart.
    bool isOfSlot(uint32_t vertex, int slot) const { return (m_slots[vertex] >> std::min(slot, 63) & 1) != 0; }

    /// How many vertices a touch of a brush there would reach.
    size_t reached(const MeshPoint& at, const std::array<float, 3>& towardsViewer, const Brush& brush, const PaintData& paint) const;

  private:
    friend class PaintStroke;
    /// Places that a touch reaches, each with its share of the weight.
    struct Touched {
        uint32_t place;
        float share;
    };
    void touched(const std::array<float, 3>& middle, uint32_t triangle, const std::array<float, 3>& towardsViewer, const Brush& brush,
                 std::vector<Touched>& out) const;
    bool allows(const Brush& brush, const PaintData& paint, uint32_t vertex) const;

    MeshPtr m_mesh;
    Bounds m_bounds;
    SurfaceRays m_rays;
    MeshNeighbours m_neighbours;
    PlaceGrid m_grid;
    std::vector<std::array<float, 3>> m_normals;
    std::vector<uint32_t> m_firstVertex, m_vertices;
    std::vector<uint64_t> m_slots; ///< a bit each
};

/// From where the brush is put down to where it is lifted. Touches lie a fifth of the radius apart along the surface, so that it does not
/// matter how fast the hand was, nor in how many moves it was told.
class PaintStroke {
  public:
    /// Of a channel, 0..7. `surface` and `paint` must outlive it; they are of as many vertices.
    PaintStroke(const PaintSurface& surface, const PaintData& paint, int channel, const Brush& brush);

    /// The hand has come to where a ray of sight, of the mesh's space, meets the surface; on the way there it went evenly from the last ray
    /// to this one. What lies beside the surface is passed over.
    void moveTo(const Ray& sight);
    /// Such as for the pressure of a pen: from the next touch on.
    Brush& brush() { return m_brush; }

    /// Vertices that have changed since this was asked last, each once.
    std::vector<uint32_t> takeChanged();
    float value(uint32_t vertex) const;
    bool changedAnything() const { return !m_entries.empty(); }
    /// What is painted now.
    PaintData done() const;

  private:
    struct Entry {
        uint32_t vertex;
        float before, now;
        float cover = 0; ///< of the stroke, 0..1
        bool told = false;
    };
    void touch(const std::array<float, 3>& middle, uint32_t triangle, const std::array<float, 3>& towardsViewer);
    void touchSide(const std::array<float, 3>& middle, uint32_t triangle, const std::array<float, 3>& towardsViewer,
                   const std::array<float, 3>& moved);
    float placeValue(uint32_t place) const;
    Entry& entryOf(uint32_t vertex);

    const PaintSurface& m_surface;
    const PaintData& m_before;
    const int m_channel;
    Brush m_brush;
    std::vector<uint32_t> m_entryOf; ///< by vertex; kNone for untouched ones
    std::vector<Entry> m_entries;
    std::vector<uint32_t> m_changed;
    std::vector<PaintSurface::Touched> m_touched;
    std::vector<float> m_next;
    std::optional<Ray> m_last;
    std::optional<MeshPoint> m_at;                     ///< where the last ray met the surface
    std::optional<std::array<float, 3>> m_lastTouched; ///< middle of the last touch
    float m_left = 0;                                  ///< metres to the next touch
};

} // namespace hue
