#include "core/paint/neighbours.h"

#include "core/base/vectors.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>
#include <unordered_map>

namespace hue {
namespace {

using Cell = std::array<int64_t, 3>;
struct CellHash {
    size_t operator()(const Cell& c) const { return uint64_t(c[0]) * 73856093 ^ uint64_t(c[1]) * 19349663 ^ uint64_t(c[2]) * 83492791; }
};

/// Finds vertices of nearly the same place: both sides of a seam were reckoned apart, and differ by rounding.
class Places {
  public:
    explicit Places(const Mesh& mesh) {
        m_near = std::max(2e-6f * boundsOf(mesh).radius(), 1e-30f);
        m_cells.reserve(mesh.vertices.size());
    }
    /// Its number; `fresh` where there is none yet as near as that.
    uint32_t find(const Rgb& at, const std::vector<Rgb>& places, bool& fresh) {
        // Cells of twice the distance, and those beside it that are nearer than that.
        Cell low, high;
        for (size_t c = 0; c < 3; ++c) low[c] = cellOf(at[c] - m_near), high[c] = cellOf(at[c] + m_near);
        for (int64_t x = low[0]; x <= high[0]; ++x)
            for (int64_t y = low[1]; y <= high[1]; ++y)
                for (int64_t z = low[2]; z <= high[2]; ++z)
                    if (const auto it = m_cells.find({x, y, z}); it != m_cells.end())
                        for (const uint32_t p : it->second)
                            if (lengthOf(difference(places[p], at)) <= m_near) return fresh = false, p;
        m_cells[{cellOf(at[0]), cellOf(at[1]), cellOf(at[2])}].push_back(uint32_t(places.size()));
        return fresh = true, uint32_t(places.size());
    }

  private:
    float m_near = 0;
    std::unordered_map<Cell, std::vector<uint32_t>, CellHash> m_cells;

    int64_t cellOf(float x) const {
        const double cell = std::floor(double(x) / (2 * double(m_near)));
        return std::fabs(cell) < 1e18 ? int64_t(cell) : 0; // what is no number lies nowhere
    }
};

} // namespace

MeshNeighbours::MeshNeighbours(const Mesh& mesh) : m_placeOf(mesh.vertices.size()) {
    Places places(mesh);
    for (size_t v = 0; v < mesh.vertices.size(); ++v) {
        bool fresh = false;
        m_placeOf[v] = places.find(mesh.vertices[v].position, m_positions, fresh);
        if (fresh) m_positions.push_back(mesh.vertices[v].position);
    }
    std::vector<std::pair<uint32_t, uint32_t>> edges;
    edges.reserve(mesh.indices.size() * 2);
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3)
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t a = m_placeOf[mesh.indices[t + k]], b = m_placeOf[mesh.indices[t + (k + 1) % 3]];
            if (a == b) continue;
            edges.emplace_back(a, b);
            edges.emplace_back(b, a);
        }
    std::sort(edges.begin(), edges.end());
    edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
    m_first.assign(m_positions.size() + 1, 0);
    double squares = 0;
    for (const auto& [a, b] : edges) {
        ++m_first[a + 1];
        m_around.push_back(b);
        const float length = lengthOf(difference(m_positions[a], m_positions[b]));
        squares += double(length) * double(length);
    }
    for (size_t p = 0; p < m_positions.size(); ++p) m_first[p + 1] += m_first[p];
    if (!edges.empty()) m_meanSquare = float(squares / double(edges.size()));
}

std::vector<float> MeshNeighbours::gathered(std::span<const float> ofVertices) const {
    std::vector<float> out(places(), 0), count(places(), 0);
    for (size_t v = 0; v < ofVertices.size(); ++v) out[m_placeOf[v]] += ofVertices[v], ++count[m_placeOf[v]];
    for (size_t p = 0; p < out.size(); ++p) out[p] /= count[p];
    return out;
}

std::vector<float> MeshNeighbours::scattered(std::span<const float> ofPlaces) const {
    std::vector<float> out(m_placeOf.size());
    for (size_t v = 0; v < out.size(); ++v) out[v] = ofPlaces[m_placeOf[v]];
    return out;
}

std::vector<float> meanCurvatures(const Mesh& mesh, const MeshNeighbours& neighbours) {
    // Normals by area, of the places: those of vertices may be bent or split.
    std::vector<Rgb> normals(neighbours.places(), Rgb{});
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3) {
        const uint32_t p[3] = {neighbours.placeOf(mesh.indices[t]), neighbours.placeOf(mesh.indices[t + 1]),
                               neighbours.placeOf(mesh.indices[t + 2])};
        const Rgb& a = neighbours.position(p[0]);
        const Rgb area = cross(difference(neighbours.position(p[1]), a), difference(neighbours.position(p[2]), a));
        for (const uint32_t place : p) normals[place] = sum(normals[place], area);
    }
    std::vector<float> out(neighbours.places(), 0);
    for (uint32_t p = 0; p < out.size(); ++p) {
        const auto normal = directionOf(normals[p]);
        const auto around = neighbours.around(p);
        if (!normal || around.empty()) continue;
        double bend = 0;
        for (const uint32_t q : around) {
            const Rgb way = difference(neighbours.position(q), neighbours.position(p));
            bend -= 2 * double(dot(*normal, way)) / double(dot(way, way));
        }
        out[p] = float(bend / double(around.size()));
    }
    return out;
}

std::vector<float> distancesToBorders(const Mesh& mesh, const MeshNeighbours& neighbours) {
    constexpr int kNone = -1, kSeveral = -2;
    std::vector<int> slotOf(neighbours.places(), kNone);
    for (size_t s = 0; s < mesh.slots.size(); ++s)
        for (uint32_t i = mesh.slots[s].firstIndex; i < mesh.slots[s].firstIndex + mesh.slots[s].indexCount; ++i) {
            int& its = slotOf[neighbours.placeOf(mesh.indices[i])];
            its = its == kNone || its == int(s) ? int(s) : kSeveral;
        }
    std::vector<float> out(neighbours.places(), std::numeric_limits<float>::infinity());
    using Reached = std::pair<float, uint32_t>;
    std::priority_queue<Reached, std::vector<Reached>, std::greater<>> open;
    for (uint32_t p = 0; p < out.size(); ++p)
        if (slotOf[p] == kSeveral) open.emplace(out[p] = 0, p);
    while (!open.empty()) {
        const auto [far, p] = open.top();
        open.pop();
        if (far > out[p]) continue;
        for (const uint32_t q : neighbours.around(p)) {
            const float then = far + lengthOf(difference(neighbours.position(q), neighbours.position(p)));
            if (then < out[q]) open.emplace(out[q] = then, q);
        }
    }
    return out;
}

} // namespace hue
