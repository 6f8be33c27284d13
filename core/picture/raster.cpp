// Homogeneous rasterisation (Olano and Greer, "Triangle Scan Conversion using 2D Homogeneous Coordinates", 1997): the inverse of the
// matrix of a triangle's corners gives edge functions and perspective at once, and nothing has to be clipped.
#include "core/picture/raster.h"

#include "core/base/work.h"

#include <algorithm>
#include <glm/mat3x3.hpp>
#include <glm/matrix.hpp>

namespace hue {
namespace {

constexpr int kBand = 8; // rows that one task draws

struct Triangle {
    uint32_t part, index; ///< of its first corner
    glm::dmat3 edges;     ///< times (x, y, 1), x and y of -1..1: the weight of each corner over w
    glm::dvec3 depth;     ///< times the weights over w: z over w
    int left, right, low, high;
    float shift = 0; ///< added to the depth
    bool front;
};

/// Triangles that reach into the region, ready to be drawn.
std::vector<Triangle> setUp(const Matrix4& clip, int width, int height, const RasterRegion& region, std::span<const RasterPart> parts,
                            bool everySide, float slopes, float steps) {
    std::vector<Triangle> out;
    for (uint32_t k = 0; k < parts.size(); ++k) {
        const RasterPart& part = parts[k];
        const glm::dmat4 whole = glm::dmat4(clip) * glm::dmat4(part.world);
        std::vector<glm::dvec4> corners(part.mesh->vertices.size());
        forEach(corners.size(),
                [&](size_t i) { corners[i] = whole * glm::dvec4(glm::dvec3(vectorOf(part.mesh->vertices[i].position)), 1); });
        for (uint32_t i = part.firstIndex; i + 2 < part.firstIndex + part.indexCount; i += 3) {
            const glm::dvec4* c[3];
            for (uint32_t j = 0; j < 3; ++j) c[j] = &corners[part.mesh->indices[i + j]];
            Triangle t;
            t.part = k;
            t.index = i;
            // Its rows are the corners.
            const glm::dmat3 m(c[0]->x, c[1]->x, c[2]->x, c[0]->y, c[1]->y, c[2]->y, c[0]->w, c[1]->w, c[2]->w);
            const double size = glm::determinant(m);
            if (!(std::fabs(size) > 1e-18)) continue;
            t.front = size > 0;
            if (!t.front && !part.twoSided && !everySide) continue;
            t.edges = glm::inverse(glm::transpose(m));
            t.depth = {c[0]->z, c[1]->z, c[2]->z};
            const bool before = c[0]->w > 1e-9 && c[1]->w > 1e-9 && c[2]->w > 1e-9;
            double low[2] = {-1, -1}, high[2] = {1, 1};
            if (before)
                for (int axis = 0; axis < 2; ++axis) {
                    const double a = (*c[0])[axis] / c[0]->w, b = (*c[1])[axis] / c[1]->w, d = (*c[2])[axis] / c[2]->w;
                    low[axis] = std::min({a, b, d});
                    high[axis] = std::max({a, b, d});
                }
            const auto pixel = [](double x, int count) { return (std::clamp(x, -1.0, 1.0) * 0.5 + 0.5) * count; };
            t.left = std::max(region.x, int(std::ceil(pixel(low[0], width) - 0.5)));
            t.right = std::min(region.x + region.width, int(std::floor(pixel(high[0], width) - 0.5)) + 1);
            t.low = std::max(region.y, int(std::ceil(pixel(low[1], height) - 0.5)));
            t.high = std::min(region.y + region.height, int(std::floor(pixel(high[1], height) - 0.5)) + 1);
            if (t.left >= t.right || t.low >= t.high) continue;
            if (slopes != 0 || steps != 0) {
                // Depth is even over the screen; its change from pixel to pixel is the slope.
                const glm::dvec3 change = t.depth * t.edges;
                const double slope = std::max(std::fabs(change.x) / width, std::fabs(change.y) / height);
                t.shift = float(slopes * slope + steps * 0x1p-24);
            }
            out.push_back(t);
        }
    }
    return out;
}

/// Weights over w at a pixel's centre, and beside it.
glm::dvec3 weightsAt(const Triangle& t, double x, double y, int width, int height) {
    return t.edges * glm::dvec3((x + 0.5) / width * 2 - 1, (y + 0.5) / height * 2 - 1, 1);
}

/// Calls `at(pixel of the region, depth, index of the triangle)` for what each triangle covers, bands of rows side by side.
template <class At> void cover(const std::vector<Triangle>& triangles, int width, int height, const RasterRegion& region, At at) {
    const int bands = (region.height + kBand - 1) / kBand;
    forEach(size_t(bands), [&](size_t band) {
        const int first = region.y + int(band) * kBand, last = std::min(first + kBand, region.y + region.height);
        for (uint32_t k = 0; k < triangles.size(); ++k) {
            const Triangle& t = triangles[k];
            if (t.high <= first || t.low >= last) continue;
            const glm::dvec3 along = t.edges[0] * (2.0 / width);
            for (int y = std::max(first, t.low); y < std::min(last, t.high); ++y) {
                glm::dvec3 w = weightsAt(t, t.left, y, width, height);
                for (int x = t.left; x < t.right; ++x, w += along) {
                    if (w.x < 0 || w.y < 0 || w.z < 0) continue;
                    const double z = glm::dot(w, t.depth) * 0.5 + 0.5;
                    // Before the near plane, behind the far one, or behind the eye.
                    if (!(z >= 0 && z <= 1) || !(w.x + w.y + w.z > 0)) continue;
                    at(size_t(y - region.y) * size_t(region.width) + size_t(x - region.x), std::min(float(z) + t.shift, 1.f), k);
                }
            }
        }
    });
}

} // namespace

AttributePicture rasterise(const Matrix4& clip, int width, int height, const RasterRegion& region, std::span<const RasterPart> parts,
                           Sheet sheet, const std::vector<float>* limit) {
    AttributePicture out;
    out.width = region.width;
    out.height = region.height;
    out.originX = region.x;
    out.originY = region.y;
    out.wholeWidth = width;
    out.wholeHeight = height;
    const size_t count = size_t(std::max(0, region.width)) * size_t(std::max(0, region.height));
    for (auto& plane : out.planes) plane.assign(count, {});
    if (!count) return out;
    const bool moved = std::any_of(parts.begin(), parts.end(), [](const RasterPart& part) { return !part.mesh->rest.empty(); });
    if (moved)
        for (auto& plane : out.rest) plane.assign(count, {});
    const bool secondColors = std::any_of(parts.begin(), parts.end(), [](const RasterPart& part) { return part.mesh->hasColors1; });
    if (secondColors) out.second.assign(count, {});
    const bool carries = std::any_of(parts.begin(), parts.end(), [](const RasterPart& part) { return !part.mesh->carried.empty(); });
    if (carries)
        for (auto& plane : out.carried) plane.assign(count, {});
    const std::vector<Triangle> triangles = setUp(clip, width, height, region, parts, false, 0, 0);
    const bool nearest = sheet == Sheet::Nearest;
    std::vector<float> depth(count, nearest ? 2.f : -1.f);
    std::vector<uint32_t> seen(count, UINT32_MAX);
    cover(triangles, width, height, region, [&](size_t p, float z, uint32_t k) {
        if (nearest ? z >= depth[p] : z <= depth[p]) return;
        if (limit && (nearest ? z <= (*limit)[p] : z >= (*limit)[p])) return;
        depth[p] = z;
        seen[p] = k;
    });
    forEach(size_t(region.height), [&](size_t place) {
        const int row = int(place);
        for (int column = 0; column < region.width; ++column) {
            const size_t p = size_t(row) * size_t(region.width) + size_t(column);
            if (seen[p] == UINT32_MAX) continue;
            const Triangle& t = triangles[seen[p]];
            const RasterPart& part = parts[t.part];
            const Vertex* v[3];
            for (uint32_t j = 0; j < 3; ++j) v[j] = &part.mesh->vertices[part.mesh->indices[t.index + j]];
            // Weights here, one pixel to the right, and one up.
            glm::vec3 b[3];
            for (int k = 0; k < 3; ++k) {
                const glm::dvec3 w = weightsAt(t, region.x + column + (k == 1), region.y + row + (k == 2), width, height);
                b[k] = glm::vec3(w / (w.x + w.y + w.z));
            }
            const auto mixed = [&](const glm::vec3& w, auto of) { return of(*v[0]) * w.x + of(*v[1]) * w.y + of(*v[2]) * w.z; };
            const auto position = [&](const Vertex& x) { return glm::vec3(part.world * glm::vec4(vectorOf(x.position), 1)); };
            const auto normal = [](const Vertex& x) { return vectorOf(x.normal); };
            const auto tangent = [](const Vertex& x) { return glm::vec3(x.tangent[0], x.tangent[1], x.tangent[2]); };
            const auto bitangent = [&](const Vertex& x) { return glm::cross(normal(x), tangent(x)) * x.tangent[3]; };
            const auto uv0 = [](const Vertex& x) { return glm::vec2(x.uv0[0], x.uv0[1]); };
            const auto uv1 = [](const Vertex& x) { return glm::vec2(x.uv1[0], x.uv1[1]); };
            const auto color = [](const Vertex& x) { return glm::vec4(x.color[0], x.color[1], x.color[2], x.color[3]); };
            const float side = t.front ? 1.f : -1.f;
            const glm::vec3 at = mixed(b[0], position), px = mixed(b[1], position) - at, py = mixed(b[2], position) - at;
            const glm::vec2 u = mixed(b[0], uv0), ux = mixed(b[1], uv0) - u, uy = mixed(b[2], uv0) - u, second = mixed(b[0], uv1);
            const glm::vec3 n = glm::normalize(mixed(b[0], normal)) * side, tx = glm::normalize(mixed(b[0], tangent)) * side,
                            ty = glm::normalize(mixed(b[0], bitangent)) * side;
            const glm::vec4 c = mixed(b[0], color);
            auto& o = out.planes;
            o[0][p] = {at.x, at.y, at.z, float(part.slot + 1) * side};
            o[1][p] = {n.x, n.y, n.z, u.x};
            o[2][p] = {tx.x, tx.y, tx.z, u.y};
            o[3][p] = {ty.x, ty.y, ty.z, depth[p]};
            o[4][p] = {second.x, second.y, ux.x, ux.y};
            o[5][p] = {c.r, c.g, c.b, c.a};
            o[6][p] = {uy.x, uy.y, px.x, px.y};
            o[7][p] = {px.z, py.x, py.y, py.z};
            if (secondColors) {
                const auto more = [](const Vertex& x) { return glm::vec4(x.color1[0], x.color1[1], x.color1[2], x.color1[3]); };
                const glm::vec4 m = mixed(b[0], more);
                out.second[p] = {m.x, m.y, m.z, m.w};
            }
            if (carries && !part.mesh->carried.empty())
                for (size_t vector = 0; vector < size_t(kCarriedVectors); ++vector) {
                    const auto of = [&](const Vertex& x) {
                        const float* from = part.mesh->carried[size_t(&x - part.mesh->vertices.data())].data() + 4 * vector;
                        return glm::vec4(from[0], from[1], from[2], from[3]);
                    };
                    const glm::vec4 here = mixed(b[0], of), along = mixed(b[1], of) - here, up = mixed(b[2], of) - here;
                    out.carried[vector][p] = {here.x, here.y, here.z, here.w};
                    out.carried[kCarriedVectors + vector][p] = {along.x, along.y, along.z, along.w};
                    out.carried[2 * kCarriedVectors + vector][p] = {up.x, up.y, up.z, up.w};
                }
            if (!moved) continue;
            const auto restOf = [&](const Vertex& x) -> RestVertex {
                return part.mesh->rest.empty() ? RestVertex{x.position, x.normal}
                                               : part.mesh->rest[size_t(&x - part.mesh->vertices.data())];
            };
            const auto restPosition = [&](const Vertex& x) { return vectorOf(restOf(x).position); };
            const glm::vec3 r = mixed(b[0], restPosition), rx = mixed(b[1], restPosition) - r, ry = mixed(b[2], restPosition) - r;
            const glm::vec3 rn = glm::normalize(mixed(b[0], [&](const Vertex& x) { return vectorOf(restOf(x).normal); })) * side;
            out.rest[0][p] = {r.x, r.y, r.z, rx.x};
            out.rest[1][p] = {rn.x, rn.y, rn.z, rx.y};
            out.rest[2][p] = {rx.z, ry.x, ry.y, ry.z};
        }
    });
    return out;
}

std::vector<float> rasteriseDepth(const Matrix4& clip, int size, std::span<const RasterPart> parts, float slopes, float steps) {
    std::vector<float> out(size_t(size) * size_t(size), 1.f);
    const RasterRegion whole{0, 0, size, size};
    cover(setUp(clip, size, size, whole, parts, true, slopes, steps), size, size, whole,
          [&](size_t p, float z, uint32_t) { out[p] = std::min(out[p], z); });
    return out;
}

} // namespace hue
