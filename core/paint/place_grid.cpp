#include "core/paint/place_grid.h"

#include "core/base/vectors.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace hue {
namespace {

/// Numbers that were seen during one search, without clearing anything between searches. Each sort of number has its own.
enum class Sort { Place, Cell, RimCell };
template <Sort> class Marks {
  public:
    explicit Marks(size_t count) {
        if (m_stamps.size() < count) m_stamps.resize(count);
        if (++m_now == 0) std::fill(m_stamps.begin(), m_stamps.end(), 0), m_now = 1;
    }
    /// Whether it was not seen before.
    bool set(size_t n) { return std::exchange(m_stamps[n], m_now) != m_now; }
    bool has(size_t n) const { return m_stamps[n] == m_now; }

  private:
    static thread_local std::vector<uint32_t> m_stamps;
    static thread_local uint32_t m_now;
};
template <Sort S> thread_local std::vector<uint32_t> Marks<S>::m_stamps;
template <Sort S> thread_local uint32_t Marks<S>::m_now = 0;

/// Joins what hangs together: who leads each, found with the way there halved.
uint32_t leaderOf(std::vector<uint32_t>& leads, uint32_t n) {
    while (leads[n] != n) n = leads[n] = leads[leads[n]];
    return n;
}

} // namespace

PlaceGrid::PlaceGrid(const MeshNeighbours& neighbours, const Bounds& box) : m_neighbours(neighbours), m_low(box.low) {
    const size_t places = neighbours.places();
    float longest = 0;
    for (size_t c = 0; c < 3; ++c) longest = std::max(longest, box.high[c] - box.low[c]);
    // Cells of about two edges, as long as that makes not too many.
    constexpr int kMostCells = 128;
    m_cellSize = std::max({2 * std::sqrt(m_neighbours.meanSquareEdge()), longest / kMostCells, std::numeric_limits<float>::min()});
    for (size_t c = 0; c < 3; ++c) m_cells[c] = std::clamp(int((box.high[c] - box.low[c]) / m_cellSize) + 1, 1, kMostCells + 1);
    m_firstInCell.assign(size_t(m_cells[0]) * size_t(m_cells[1]) * size_t(m_cells[2]) + 1, 0);
    m_cellOf.resize(places);
    for (uint32_t p = 0; p < places; ++p) ++m_firstInCell[(m_cellOf[p] = uint32_t(cellAt(m_neighbours.position(p)))) + 1];
    for (size_t c = 1; c < m_firstInCell.size(); ++c) m_firstInCell[c] += m_firstInCell[c - 1];
    m_inCell.resize(places);
    std::vector<uint32_t> at(m_firstInCell.begin(), m_firstInCell.end() - 1);
    for (uint32_t p = 0; p < places; ++p) m_inCell[at[m_cellOf[p]]++] = p;
    linkCells();
}

size_t PlaceGrid::cellAt(const Rgb& at) const {
    std::array<int, 3> cell;
    for (size_t c = 0; c < 3; ++c) cell[c] = std::clamp(int((at[c] - m_low[c]) / m_cellSize), 0, m_cells[c] - 1);
    return (size_t(cell[2]) * size_t(m_cells[1]) + size_t(cell[1])) * size_t(m_cells[0]) + size_t(cell[0]);
}

void PlaceGrid::linkCells() {
    m_links.assign(m_firstInCell.size() - 1, {});
    std::vector<uint32_t> leads(m_neighbours.places());
    for (uint32_t p = 0; p < leads.size(); ++p) leads[p] = p;
    for (size_t cell = 0; cell < m_links.size(); ++cell) {
        Links& links = m_links[cell];
        const std::array<long, 3> at = stepsTo(cell);
        bool near = true;
        const uint32_t first = m_firstInCell[cell], end = m_firstInCell[cell + 1];
        for (uint32_t i = first; i < end; ++i)
            for (const uint32_t next : m_neighbours.around(m_inCell[i])) {
                const size_t other = m_cellOf[next];
                if (other == cell) {
                    leads[leaderOf(leads, m_inCell[i])] = leaderOf(leads, next);
                    continue;
                }
                const std::array<long, 3> to = stepsTo(other), step{to[0] - at[0], to[1] - at[1], to[2] - at[2]};
                if (std::max({std::labs(step[0]), std::labs(step[1]), std::labs(step[2])}) > 1) near = false;
                else links.around |= uint32_t(1) << ((step[2] + 1) * 9 + (step[1] + 1) * 3 + step[0] + 1);
            }
        links.whole = near && first < end;
        for (uint32_t i = first + 1; i < end && links.whole; ++i)
            links.whole = leaderOf(leads, m_inCell[i]) == leaderOf(leads, m_inCell[first]);
    }
}

std::array<long, 3> PlaceGrid::stepsTo(size_t cell) const {
    const auto columns = long(m_cells[0]), rows = long(m_cells[1]);
    return {long(cell) % columns, long(cell) / columns % rows, long(cell) / (columns * rows)};
}

void PlaceGrid::within(const Rgb& middle, float radius, std::vector<Near>& out) const {
    std::array<int, 3> low, high;
    for (size_t c = 0; c < 3; ++c) {
        const auto cell = [&](float at) { return int(std::clamp(std::floor((at - m_low[c]) / m_cellSize), 0.f, float(m_cells[c] - 1))); };
        low[c] = cell(middle[c] - radius), high[c] = cell(middle[c] + radius);
    }
    const float square = radius * radius;
    for (int z = low[2]; z <= high[2]; ++z)
        for (int y = low[1]; y <= high[1]; ++y) {
            // Cells side by side hold their places side by side.
            const size_t row = (size_t(z) * size_t(m_cells[1]) + size_t(y)) * size_t(m_cells[0]);
            for (uint32_t i = m_firstInCell[row + size_t(low[0])]; i < m_firstInCell[row + size_t(high[0]) + 1]; ++i) {
                const Rgb& at = m_neighbours.position(m_inCell[i]);
                const float x = at[0] - middle[0], v = at[1] - middle[1], w = at[2] - middle[2], d = x * x + v * v + w * w;
                if (d <= square) out.push_back({m_inCell[i], d});
            }
        }
}

/// Goes along edges. Cells that hang together and lie within the ball as a whole are taken as a whole, which is most of a large ball; all
/// others place by place.
class PlaceGrid::Search {
  public:
    Search(const PlaceGrid& grid, const Rgb& middle, float radius, std::vector<Near>& out)
        : m_grid(grid), m_middle(middle), m_square(radius * radius), m_out(out) {
        m_places.clear(), m_cells.clear();
    }

    void from(std::span<const uint32_t> places) {
        for (const uint32_t place : places) reach(place);
        for (size_t p = 0, c = 0; p < m_places.size() || c < m_cells.size();) {
            if (p < m_places.size()) reachAround(m_places[p++]);
            else leave(m_cells[c++]);
        }
    }

  private:
    float squareTo(uint32_t place) const {
        const Rgb way = difference(m_grid.m_neighbours.position(place), m_middle);
        return dot(way, way);
    }

    bool liesWithin(size_t cell) const {
        if (!m_grid.m_links[cell].whole) return false;
        const std::array<long, 3> at = m_grid.stepsTo(cell);
        float furthest = 0;
        for (size_t c = 0; c < 3; ++c) {
            const float low = m_grid.m_low[c] + float(at[c]) * m_grid.m_cellSize - m_middle[c];
            const float far = std::max(std::fabs(low), std::fabs(low + m_grid.m_cellSize));
            furthest += far * far;
        }
        return furthest < m_square * 0.999f; // a place may lie beside its cell by as much as is lost in rounding
    }

    void reach(uint32_t place) {
        if (!m_seen.set(place)) return;
        const size_t cell = m_grid.m_cellOf[place];
        if (m_taken.has(cell)) return;
        if (!m_rim.has(cell)) {
            if (liesWithin(cell)) return take(cell);
            m_rim.set(cell);
        }
        const float square = squareTo(place);
        if (!(square < m_square)) return;
        m_out.push_back({place, square});
        m_places.push_back(place);
    }

    void reachAround(uint32_t place) {
        for (const uint32_t next : m_grid.m_neighbours.around(place)) reach(next);
    }

    std::span<const uint32_t> placesIn(size_t cell) const {
        return {m_grid.m_inCell.data() + m_grid.m_firstInCell[cell], m_grid.m_inCell.data() + m_grid.m_firstInCell[cell + 1]};
    }

    void take(size_t cell) {
        if (!m_taken.set(cell)) return;
        m_cells.push_back(cell);
        for (const uint32_t place : placesIn(cell)) m_out.push_back({place, squareTo(place)});
    }

    /// From a cell that is taken to what lies around it.
    void leave(size_t cell) {
        const auto columns = long(m_grid.m_cells[0]), rows = long(m_grid.m_cells[1]);
        bool leadsOut = false; // some of its edges lead to where not all is reached
        for (int side = 0; side < 27; ++side) {
            if (!(m_grid.m_links[cell].around >> side & 1)) continue;
            const auto other = size_t(long(cell) + ((side / 9 - 1) * rows + side / 3 % 3 - 1) * columns + side % 3 - 1);
            if (m_taken.has(other)) continue;
            if (liesWithin(other)) take(other);
            else leadsOut = true;
        }
        if (!leadsOut) return;
        for (const uint32_t place : placesIn(cell)) reachAround(place);
    }

    const PlaceGrid& m_grid;
    const Rgb m_middle;
    const float m_square;
    std::vector<Near>& m_out;
    Marks<Sort::Place> m_seen{m_grid.m_neighbours.places()};
    Marks<Sort::Cell> m_taken{m_grid.m_links.size()};
    Marks<Sort::RimCell> m_rim{m_grid.m_links.size()}; ///< reached, and not within as a whole
    // From where it has not gone on yet, in the order that they were reached.
    static thread_local std::vector<uint32_t> m_places;
    static thread_local std::vector<size_t> m_cells;
};
thread_local std::vector<uint32_t> PlaceGrid::Search::m_places;
thread_local std::vector<size_t> PlaceGrid::Search::m_cells;

void PlaceGrid::connected(std::span<const uint32_t> from, const Rgb& middle, float radius, std::vector<Near>& out) const {
    Search(*this, middle, radius, out).from(from);
}
} // namespace hue
