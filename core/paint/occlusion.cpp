#include "core/paint/occlusion.h"

#include "core/base/vectors.h"
#include "core/base/work.h"
#include "core/mesh/surface_rays.h"

#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr uint32_t kRays = 256;

/// Directions about Z, as many in each part of the hemisphere as its cosine asks for.
const std::array<Rgb, kRays>& directions() {
    static const std::array<Rgb, kRays> all = [] {
        std::array<Rgb, kRays> out;
        for (uint32_t i = 0; i < kRays; ++i) {
            uint32_t bits = i, turned = 0;
            for (int b = 0; b < 32; ++b, bits >>= 1) turned = turned << 1 | (bits & 1);
            const float square = (float(i) + 0.5f) / float(kRays), radius = std::sqrt(square);
            const float angle = 2 * std::numbers::pi_v<float> * (float(turned) / 4294967296.f + 0.5f / float(kRays));
            out[i] = {radius * std::cos(angle), radius * std::sin(angle), std::sqrt(1 - square)};
        }
        return out;
    }();
    return all;
}

/// Two directions that make a right-handed frame with `n`: Duff et al., "Building an Orthonormal Basis, Revisited", 2017.
std::array<Rgb, 2> besides(const Rgb& n) {
    const float sign = std::copysign(1.f, n[2]), a = -1 / (sign + n[2]), b = n[0] * n[1] * a;
    return {Rgb{1 + sign * n[0] * n[0] * a, sign * b, -sign * n[0]}, Rgb{b, sign + n[1] * n[1] * a, -n[1]}};
}

} // namespace

std::vector<float> occlusionAt(const Mesh& mesh, const MeshNeighbours& neighbours, float reach) {
    const SurfaceRays rays(MeshPtr(MeshPtr(), &mesh));
    std::vector<Rgb> normals(neighbours.places());
    for (uint32_t v = 0; v < mesh.vertices.size(); ++v) {
        Rgb& n = normals[neighbours.placeOf(v)];
        n = sum(n, mesh.vertices[v].normal);
    }
    // From a little above, so that no ray meets the faces that it starts on.
    const float lift = std::max(1e-4f * boundsOf(mesh).radius(), 1e-30f);
    std::vector<float> out(neighbours.places());
    forEach(out.size(), [&](size_t p) {
        const auto normal = directionOf(normals[p]);
        if (!normal) return; // nobody knows what lies above it
        const auto [x, y] = besides(*normal);
        const Rgb from = sum(neighbours.position(uint32_t(p)), scaled(*normal, lift));
        uint32_t covered = 0;
        for (const Rgb& d : directions())
            covered += rays.covered(from, sum(sum(scaled(x, d[0]), scaled(y, d[1])), scaled(*normal, d[2])), reach);
        out[p] = float(covered) / float(kRays);
    });
    return out;
}

} // namespace hue
