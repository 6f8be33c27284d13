#include "core/surface/vertex_offset.h"

#include "core/surface/at_vertices.h"

#include <cmath>
#include <unordered_map>

namespace hue {
namespace {

using V3 = std::array<float, 3>;

bool toUnit(V3& v) {
    const float l = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
    if (!(l > 1e-20f)) return false;
    for (float& x : v) x /= l;
    return true;
}

} // namespace

void evaluateOffset(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot, std::vector<V3>& offsets,
                    const Columns& placement) {
    atVertices(evaluator, frame, mesh, slot, {"vertex_offset"}, placement, [&](uint32_t vertex, const float* const* planes, size_t lane) {
        for (size_t k = 0; k < 3; ++k) {
            const float value = planes[k][lane];
            offsets[vertex][k] = std::isfinite(value) ? value : 0;
        }
    });
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
