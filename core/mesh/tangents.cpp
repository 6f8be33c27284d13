#include "core/mesh/mesh.h"

#include <cmath>

namespace hue {
namespace {

using V3 = std::array<float, 3>;
V3 minus(const V3& a, const V3& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
V3 cross(const V3& a, const V3& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }
float dot(const V3& a, const V3& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
bool toUnit(V3& v) {
    const float l = std::sqrt(dot(v, v));
    if (!(l > 1e-12f)) return false;
    for (float& x : v) x /= l;
    return true;
}

} // namespace

void makeNormals(Mesh& mesh) {
    std::vector<V3> sums(mesh.vertices.size());
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3) {
        const uint32_t* i = &mesh.indices[t];
        const V3& a = mesh.vertices[i[0]].position;
        const V3 n = cross(minus(mesh.vertices[i[1]].position, a), minus(mesh.vertices[i[2]].position, a));
        for (int k = 0; k < 3; ++k)
            for (size_t c = 0; c < 3; ++c) sums[i[k]][c] += n[c];
    }
    for (size_t v = 0; v < sums.size(); ++v) mesh.vertices[v].normal = toUnit(sums[v]) ? sums[v] : V3{0, 1, 0};
}

// Along growing U (Lengyel, "Computing Tangent Space Basis Vectors for an Arbitrary Mesh", 2001). The bitangent points
// along falling V, since glTF's V grows downward and green points up.
void makeTangents(Mesh& mesh) {
    std::vector<V3> alongU(mesh.vertices.size()), alongV(mesh.vertices.size());
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3) {
        const uint32_t* i = &mesh.indices[t];
        const Vertex &a = mesh.vertices[i[0]], &b = mesh.vertices[i[1]], &c = mesh.vertices[i[2]];
        const V3 e = minus(b.position, a.position), f = minus(c.position, a.position);
        const float du1 = b.uv0[0] - a.uv0[0], du2 = c.uv0[0] - a.uv0[0], dv1 = b.uv0[1] - a.uv0[1], dv2 = c.uv0[1] - a.uv0[1];
        const float area = du1 * dv2 - du2 * dv1;
        if (!(std::fabs(area) > 1e-20f)) continue;
        for (size_t k = 0; k < 3; ++k) {
            const float u = (e[k] * dv2 - f[k] * dv1) / area, v = (f[k] * du1 - e[k] * du2) / area;
            for (int corner = 0; corner < 3; ++corner) {
                alongU[i[corner]][k] += u;
                alongV[i[corner]][k] += v;
            }
        }
    }
    for (size_t n = 0; n < mesh.vertices.size(); ++n) {
        Vertex& v = mesh.vertices[n];
        V3 t = alongU[n];
        const float along = dot(t, v.normal);
        for (size_t k = 0; k < 3; ++k) t[k] -= along * v.normal[k];
        if (!toUnit(t)) {
            t = std::fabs(v.normal[1]) < 0.9f ? cross({0, 1, 0}, v.normal) : cross({0, 0, 1}, v.normal);
            toUnit(t);
        }
        const float sign = dot(cross(v.normal, t), alongV[n]) > 0 ? -1.f : 1.f;
        v.tangent = {t[0], t[1], t[2], sign};
    }
}

} // namespace hue
