#include "core/surface/vertex_offset.h"

#include <cmath>
#include <unordered_map>

namespace hue {
namespace {

using V3 = std::array<float, 3>;

/// Vertices as points, 512 to a block.
class VertexPoints final : public PointSource {
  public:
    VertexPoints(const Mesh& mesh, const std::vector<uint32_t>& vertices, const Columns& placement)
        : m_mesh(mesh), m_vertices(vertices), m_placement(placement), m_size(lengthOf(placement[0])) {}

    bool neighbours() const override { return false; }
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        for (int r = 0; r < kBlockRows; ++r)
            for (int c = 0; c < kBlockColumns; ++c) {
                const size_t index = std::min(size_t(y + r) * kBlockColumns + size_t(x + c), m_vertices.size() - 1);
                lanes[r * kBlockColumns + c] = at(m_mesh.vertices[m_vertices[index]], attribute, size_t(component));
            }
    }

  private:
    const Mesh& m_mesh;
    const std::vector<uint32_t>& m_vertices;
    const Columns& m_placement;
    const float m_size;

    float inWorld(const Rgb& direction, size_t c) const { return turned(m_placement, direction)[c] / m_size; }

    float at(const Vertex& v, Attribute attribute, size_t c) const {
        switch (attribute) {
        case Attribute::Uv0: return v.uv0[c];
        case Attribute::Uv1: return v.uv1[c];
        case Attribute::Color: return v.color[c];
        case Attribute::PositionWorld: return placed(m_placement, v.position)[c];
        case Attribute::PositionObject: return v.position[c];
        case Attribute::NormalObject: return v.normal[c];
        case Attribute::NormalWorld:
        case Attribute::View: return inWorld(v.normal, c);
        case Attribute::TangentWorld: return inWorld({v.tangent[0], v.tangent[1], v.tangent[2]}, c);
        case Attribute::BitangentWorld:
            return inWorld(scaled(cross(v.normal, {v.tangent[0], v.tangent[1], v.tangent[2]}), v.tangent[3]), c);
        case Attribute::Screen: return 0.5f;
        case Attribute::DepthGap: return kNothingBehind;
        case Attribute::Side: return 1;
        case Attribute::Count: break;
        }
        return 0;
    }
};

bool toUnit(V3& v) {
    const float l = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
    if (!(l > 1e-20f)) return false;
    for (float& x : v) x /= l;
    return true;
}

} // namespace

void evaluateOffset(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot, std::vector<V3>& offsets,
                    const Columns& placement) {
    std::vector<uint32_t> vertices;
    std::vector<char> seen(mesh.vertices.size(), 0);
    for (uint32_t i = slot.firstIndex; i < slot.firstIndex + slot.indexCount; ++i)
        if (!std::exchange(seen[mesh.indices[i]], 1)) vertices.push_back(mesh.indices[i]);
    if (vertices.empty()) return;
    const int rows = int((vertices.size() + kBlockColumns - 1) / kBlockColumns);
    evaluator.grid(frame, {"vertex_offset"}, kBlockColumns, rows, VertexPoints(mesh, vertices, placement),
                   [&](int, int y, int columns, int height, const float* const* planes) {
                       for (int r = 0; r < height; ++r)
                           for (int c = 0; c < columns; ++c) {
                               const size_t index = size_t(y + r) * kBlockColumns + size_t(c);
                               if (index >= vertices.size()) return;
                               for (size_t k = 0; k < 3; ++k) {
                                   const float value = planes[k][r * kBlockColumns + c];
                                   offsets[vertices[index]][k] = std::isfinite(value) ? value : 0;
                               }
                           }
                   },
                   {});
}

Displacer::Displacer(MeshPtr mesh) : m_mesh(std::move(mesh)), m_group(m_mesh->vertices.size()) {
    struct Key {
        std::array<float, 6> k;
        bool operator==(const Key&) const = default;
    };
    struct Hash {
        size_t operator()(const Key& key) const {
            return std::hash<std::string_view>()({reinterpret_cast<const char*>(key.k.data()), sizeof key.k});
        }
    };
    std::unordered_map<Key, uint32_t, Hash> groups;
    groups.reserve(m_group.size());
    std::vector<V3> positions;
    positions.reserve(m_group.size());
    for (size_t v = 0; v < m_group.size(); ++v) {
        const Vertex& x = m_mesh->vertices[v];
        // Normals to a thousandth: what was smooth for the eye stays smooth.
        auto rounded = [](float n) { return std::round(n * 1000) + 0.f; };
        const Key key{{x.position[0] + 0.f, x.position[1] + 0.f, x.position[2] + 0.f, rounded(x.normal[0]), rounded(x.normal[1]),
                       rounded(x.normal[2])}};
        auto [it, fresh] = groups.try_emplace(key, m_groups);
        m_groups += fresh;
        m_group[v] = it->second;
        positions.push_back(x.position);
    }
    m_before = smoothNormals(positions);
}

std::vector<V3> Displacer::smoothNormals(const std::vector<V3>& positions) const {
    std::vector<V3> sums(m_groups);
    for (size_t t = 0; t + 2 < m_mesh->indices.size(); t += 3) {
        const uint32_t* i = &m_mesh->indices[t];
        const V3 &a = positions[i[0]], &b = positions[i[1]], &c = positions[i[2]];
        const V3 e{b[0] - a[0], b[1] - a[1], b[2] - a[2]}, f{c[0] - a[0], c[1] - a[1], c[2] - a[2]};
        const V3 n{e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]};
        for (int k = 0; k < 3; ++k)
            for (size_t x = 0; x < 3; ++x) sums[m_group[i[k]]][x] += n[x];
    }
    for (V3& n : sums) toUnit(n);
    return sums;
}

MeshPtr Displacer::displaced(const std::vector<V3>& offsets) const {
    auto out = std::make_shared<Mesh>(*m_mesh);
    std::vector<V3> positions(offsets.size());
    for (size_t v = 0; v < offsets.size(); ++v)
        for (size_t k = 0; k < 3; ++k) positions[v][k] = out->vertices[v].position[k] + offsets[v][k];
    if (out->rest.empty())
        for (const Vertex& x : out->vertices) out->rest.push_back({x.position, x.normal});
    const std::vector<V3> after = smoothNormals(positions);
    for (size_t v = 0; v < offsets.size(); ++v) {
        Vertex& x = out->vertices[v];
        x.position = positions[v];
        const V3 &from = m_before[m_group[v]], &to = after[m_group[v]];
        // The turn that takes the smooth normal from before to after, applied to normal and tangent (Rodrigues, with
        // cross product and cosine of unit vectors).
        const V3 axis{from[1] * to[2] - from[2] * to[1], from[2] * to[0] - from[0] * to[2], from[0] * to[1] - from[1] * to[0]};
        const float cosine = from[0] * to[0] + from[1] * to[1] + from[2] * to[2];
        auto turn = [&](float* p) {
            if (cosine < -0.9999f) {
                for (int k = 0; k < 3; ++k) p[k] = -p[k];
                return;
            }
            const float along = (axis[0] * p[0] + axis[1] * p[1] + axis[2] * p[2]) / (1 + cosine);
            const V3 crossed{axis[1] * p[2] - axis[2] * p[1], axis[2] * p[0] - axis[0] * p[2], axis[0] * p[1] - axis[1] * p[0]};
            V3 turned;
            for (size_t k = 0; k < 3; ++k) turned[k] = p[k] * cosine + crossed[k] + axis[k] * along;
            if (toUnit(turned)) std::copy(turned.begin(), turned.end(), p);
        };
        if (from != to) {
            turn(x.normal.data());
            turn(x.tangent.data());
        }
    }
    return out;
}

} // namespace hue
