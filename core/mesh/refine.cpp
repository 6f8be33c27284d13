// Finer meshes, and what can be measured on them.
#include "core/mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <unordered_map>

namespace hue {
namespace {

template <size_t n> std::array<float, n> middle(const std::array<float, n>& a, const std::array<float, n>& b) {
    std::array<float, n> out;
    for (size_t i = 0; i < n; ++i) out[i] = (a[i] + b[i]) / 2;
    return out;
}
void toUnit(float* v) {
    const float l = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
    if (l > 1e-12f)
        for (int i = 0; i < 3; ++i) v[i] /= l;
}

Vertex between(const Vertex& a, const Vertex& b) {
    Vertex v;
    v.position = middle(a.position, b.position);
    v.normal = middle(a.normal, b.normal);
    v.tangent = middle(a.tangent, b.tangent);
    v.tangent[3] = a.tangent[3];
    v.uv0 = middle(a.uv0, b.uv0);
    v.uv1 = middle(a.uv1, b.uv1);
    v.color = middle(a.color, b.color);
    v.color1 = middle(a.color1, b.color1);
    toUnit(v.normal.data());
    toUnit(v.tangent.data());
    return v;
}

} // namespace

Result<Mesh> subdivided(const Mesh& mesh, int times) {
    const double triangles = double(mesh.indices.size()) / 3 * std::pow(4.0, times);
    if (triangles > 8e6)
        return Error{"mesh.too-many",
                     fmt::format("Subdivided {} times, the mesh would have {:.1f} million triangles; at most 8 are drawn. Choose fewer.",
                                 times, triangles / 1e6),
                     {}};
    Mesh out = mesh;
    for (int t = 0; t < times; ++t) {
        std::vector<uint32_t> next;
        next.reserve(out.indices.size() * 4);
        std::unordered_map<uint64_t, uint32_t> halves;
        halves.reserve(out.indices.size());
        auto half = [&](uint32_t a, uint32_t b) {
            const uint64_t key = uint64_t(std::min(a, b)) << 32 | std::max(a, b);
            auto [it, fresh] = halves.try_emplace(key, uint32_t(out.vertices.size()));
            if (fresh) {
                const Vertex v = between(out.vertices[a], out.vertices[b]);
                out.vertices.push_back(v);
            }
            return it->second;
        };
        for (size_t i = 0; i + 2 < out.indices.size(); i += 3) {
            const uint32_t a = out.indices[i], b = out.indices[i + 1], c = out.indices[i + 2];
            const uint32_t ab = half(a, b), bc = half(b, c), ca = half(c, a);
            for (uint32_t k : {a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca}) next.push_back(k);
        }
        out.indices = std::move(next);
        for (MeshSlot& slot : out.slots) {
            slot.firstIndex *= 4;
            slot.indexCount *= 4;
        }
    }
    return out;
}

UvDensity uvDensity(const Mesh& mesh, int set) {
    std::vector<std::pair<float, float>> list; // density, area
    list.reserve(mesh.indices.size() / 3);
    double whole = 0;
    for (size_t i = 0; i + 2 < mesh.indices.size(); i += 3) {
        const Vertex &a = mesh.vertices[mesh.indices[i]], &b = mesh.vertices[mesh.indices[i + 1]], &c = mesh.vertices[mesh.indices[i + 2]];
        float e[3], f[3];
        for (size_t k = 0; k < 3; ++k) e[k] = b.position[k] - a.position[k], f[k] = c.position[k] - a.position[k];
        const float x = e[1] * f[2] - e[2] * f[1], y = e[2] * f[0] - e[0] * f[2], z = e[0] * f[1] - e[1] * f[0];
        const float area = std::sqrt(x * x + y * y + z * z) / 2;
        auto uv = [&](const Vertex& v) { return set ? v.uv1 : v.uv0; };
        const float flat = std::fabs((uv(b)[0] - uv(a)[0]) * (uv(c)[1] - uv(a)[1]) - (uv(c)[0] - uv(a)[0]) * (uv(b)[1] - uv(a)[1])) / 2;
        if (!(area > 1e-12f)) continue;
        list.emplace_back(std::sqrt(flat / area), area);
        whole += area;
    }
    std::sort(list.begin(), list.end());
    UvDensity out;
    double sum = 0;
    for (const auto& [density, area] : list) {
        const double before = sum / whole;
        sum += area;
        const double now = sum / whole;
        if (before <= 0.05 && now >= 0.05) out.lowest = density;
        if (before <= 0.5 && now >= 0.5) out.median = density;
        if (before <= 0.95 && now >= 0.95) out.highest = density;
    }
    return out;
}

} // namespace hue
