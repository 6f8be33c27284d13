#include "core/decals/decal_box.h"

#include "core/base/vectors.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kDegree = float(std::numbers::pi) / 180;

/// A corner of what is clipped: where it lies in the box, each axis -1..1, and what it is made of.
struct Corner {
    Rgb box;
    Vertex vertex;
};

Corner between(const Corner& a, const Corner& b, float t) {
    Corner out;
    const auto blend = [t]<size_t N>(const std::array<float, N>& x, const std::array<float, N>& y) {
        std::array<float, N> z;
        for (size_t k = 0; k < N; ++k) z[k] = x[k] + (y[k] - x[k]) * t;
        return z;
    };
    out.box = blend(a.box, b.box);
    out.vertex.position = blend(a.vertex.position, b.vertex.position);
    out.vertex.normal = blend(a.vertex.normal, b.vertex.normal);
    out.vertex.color = blend(a.vertex.color, b.vertex.color);
    out.vertex.color1 = blend(a.vertex.color1, b.vertex.color1);
    out.vertex.uv1 = blend(a.vertex.uv1, b.vertex.uv1);
    return out;
}

/// Sutherland and Hodgman, "Reentrant Polygon Clipping", 1974: against the six sides, one after the other.
std::vector<Corner> clipped(std::vector<Corner> polygon) {
    for (size_t axis = 0; axis < 3; ++axis)
        for (const float side : {-1.f, 1.f}) {
            std::vector<Corner> kept;
            for (size_t k = 0; k < polygon.size(); ++k) {
                const Corner &a = polygon[k], &b = polygon[(k + 1) % polygon.size()];
                const float ina = 1 - side * a.box[axis], inb = 1 - side * b.box[axis];
                if (ina >= 0) kept.push_back(a);
                if ((ina < 0) != (inb < 0)) kept.push_back(between(a, b, ina / (ina - inb)));
            }
            polygon = std::move(kept);
            if (polygon.size() < 3) return {};
        }
    return polygon;
}

} // namespace

DecalAxes decalAxes(const Decal& d) {
    DecalAxes axes;
    axes.out = directionOf(d.facing).value_or(Rgb{0, 0, 1});
    const Rgb reference = std::fabs(axes.out[1]) > 0.999f ? Rgb{0, 0, -1} : Rgb{0, 1, 0};
    const Rgb right = unit(cross(reference, axes.out)), above = cross(axes.out, right);
    const float c = std::cos(d.turn * kDegree), s = std::sin(d.turn * kDegree);
    axes.across = sum(scaled(right, c), scaled(above, s));
    axes.up = difference(scaled(above, c), scaled(right, s));
    return axes;
}

std::array<Rgb, 4> decalCorners(const Decal& d) {
    const DecalAxes axes = decalAxes(d);
    const auto at = [&](float x, float y) {
        return sum(d.position, sum(scaled(axes.across, x * d.width / 2), scaled(axes.up, y * d.height / 2)));
    };
    return {at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)};
}

Decal placedOn(Decal d, const Mesh& mesh, const MeshPoint& at) {
    d.position = at.position;
    Rgb normal{};
    for (size_t k = 0; k < 3; ++k)
        normal = sum(normal, scaled(mesh.vertices[mesh.indices[3 * size_t(at.triangle) + k]].normal, at.weights[k]));
    const std::optional<Rgb> smooth = directionOf(normal, 1e-6f);
    d.facing = smooth ? *smooth : lengthOf(at.normal) > 0 ? at.normal : d.facing;
    return d;
}

namespace {

/// Where a line of sight meets the plane of the picture, from its middle: metres across and up.
std::optional<std::array<float, 2>> onPicture(const Decal& d, const Ray& sight) {
    const DecalAxes axes = decalAxes(d);
    const float along = dot(sight.towards, axes.out);
    if (std::fabs(along) < 1e-6f) return {};
    const float far = dot(difference(d.position, sight.from), axes.out) / along;
    if (!(far > 0)) return {};
    const Rgb from = difference(sum(sight.from, scaled(sight.towards, far)), d.position);
    return std::array<float, 2>{dot(from, axes.across), dot(from, axes.up)};
}

} // namespace

Decal sizedTo(const Decal& d, const Ray& sight) {
    Decal out = d;
    if (const auto at = onPicture(d, sight)) {
        out.width = std::clamp(2 * std::fabs((*at)[0]), 1e-3f, 1e4f);
        out.height = std::clamp(2 * std::fabs((*at)[1]), 1e-3f, 1e4f);
    }
    return out;
}

Decal turnedTo(const Decal& d, const Ray& sight) {
    Decal out = d;
    if (const auto at = onPicture(d, sight); at && ((*at)[0] != 0 || (*at)[1] != 0))
        out.turn = std::remainder(d.turn + std::atan2(-(*at)[0], (*at)[1]) / kDegree, 360.f);
    return out;
}

std::vector<Rgb> frameOn(const SurfaceRays& surface, const Decal& d, int points) {
    const auto corners = decalCorners(d);
    const Rgb out = decalAxes(d).out;
    std::vector<Rgb> line;
    for (size_t side = 0; side < 4; ++side)
        for (int k = 0; k < std::max(1, points); ++k) {
            const float t = float(k) / float(std::max(1, points));
            const Rgb flat = sum(scaled(corners[side], 1 - t), scaled(corners[(side + 1) % 4], t));
            const auto on = surface.hit({sum(flat, scaled(out, d.depth / 2)), scaled(out, -1)});
            line.push_back(on && on->distance <= d.depth ? on->position : flat);
        }
    return line;
}

Decal mirroredDecal(const Decal& d, int axis, bool reversed) {
    Decal out = d;
    const auto k = size_t(std::clamp(axis, 0, 2));
    out.position[k] = -out.position[k];
    out.facing[k] = -out.facing[k];
    // Where its up goes in the mirror decides how it is turned there.
    Rgb up = decalAxes(d).up;
    up[k] = -up[k];
    Decal straight = out;
    straight.turn = 0;
    const DecalAxes axes = decalAxes(straight);
    out.turn = std::atan2(-dot(up, axes.across), dot(up, axes.up)) / kDegree;
    if (reversed) out.mirrored = !out.mirrored;
    return out;
}

std::vector<Decal> arrayOf(const Decal& d, const SurfaceRays& surface, int count, float step) {
    std::vector<Decal> out{d};
    const DecalAxes axes = decalAxes(d);
    for (int k = 1; k < std::clamp(count, 1, 256); ++k) {
        Decal copy = d;
        copy.position = sum(d.position, scaled(axes.across, step * float(k)));
        // From as far out as the box is large.
        const float reach = std::max({d.width, d.height, d.depth});
        const Ray ray{sum(copy.position, scaled(axes.out, reach)), scaled(axes.out, -1)};
        if (const std::optional<MeshPoint> at = surface.hit(ray); at && at->distance <= 2 * reach)
            copy = placedOn(copy, surface.mesh(), *at);
        out.push_back(std::move(copy));
    }
    return out;
}

CutDecal cutOut(const Mesh& mesh, const Decal& d, float lift) {
    CutDecal out;
    out.mesh.hasUv1 = mesh.hasUv1;
    out.mesh.hasColors = mesh.hasColors;
    out.mesh.hasColors1 = mesh.hasColors1;
    const DecalAxes axes = decalAxes(d);
    const float gone = std::max(std::cos(d.fadeTo * kDegree), 1e-3f);
    const auto inBox = [&](const Rgb& p) {
        const Rgb from = difference(p, d.position);
        return Rgb{2 * dot(from, axes.across) / d.width, 2 * dot(from, axes.up) / d.height, 2 * dot(from, axes.out) / d.depth};
    };
    for (const MeshSlot& slot : mesh.slots) {
        if (std::find(d.keptOff.begin(), d.keptOff.end(), slot.name) != d.keptOff.end()) continue;
        for (uint32_t i = slot.firstIndex; i + 2 < slot.firstIndex + slot.indexCount; i += 3) {
            // Most lie beside the box, which is told by their places alone.
            std::array<Rgb, 3> box;
            for (uint32_t k = 0; k < 3; ++k) box[k] = inBox(mesh.vertices[mesh.indices[i + k]].position);
            bool beside = false;
            for (size_t axis = 0; axis < 3 && !beside; ++axis) {
                const auto [low, high] = std::minmax({box[0][axis], box[1][axis], box[2][axis]});
                beside = !(low <= 1 && high >= -1) || !std::isfinite(box[0][axis] + box[1][axis] + box[2][axis]);
            }
            if (beside) continue;
            std::vector<Corner> corners(3);
            for (uint32_t k = 0; k < 3; ++k) corners[k] = {box[k], mesh.vertices[mesh.indices[i + k]]};
            const Rgb& a = corners[0].vertex.position;
            const std::optional<Rgb> face =
                directionOf(cross(difference(corners[1].vertex.position, a), difference(corners[2].vertex.position, a)));
            if (!face) continue;
            const bool whole = std::all_of(box.begin(), box.end(), [](const Rgb& p) {
                return std::all_of(p.begin(), p.end(), [](float x) { return std::fabs(x) <= 1; });
            });
            const std::vector<Corner> kept = whole ? std::move(corners) : clipped(std::move(corners));
            if (kept.size() < 3) continue;
            float area = 0;
            for (size_t k = 1; k + 1 < kept.size(); ++k)
                area += lengthOf(cross(difference(kept[k].vertex.position, kept[0].vertex.position),
                                       difference(kept[k + 1].vertex.position, kept[0].vertex.position))) /
                        2;
            const float facing = dot(*face, axes.out);
            if (facing < 0) out.behind += area;
            if (facing < gone) continue;
            out.area += area;
            if (facing < 0.25f) out.stretched += area;
            const auto first = uint32_t(out.mesh.vertices.size());
            for (Corner c : kept) {
                c.vertex.normal = directionOf(c.vertex.normal).value_or(*face);
                c.vertex.position = sum(c.vertex.position, scaled(c.vertex.normal, lift));
                const float u = (c.box[0] + 1) / 2;
                c.vertex.uv0 = {d.mirrored ? 1 - u : u, (1 - c.box[1]) / 2};
                out.mesh.vertices.push_back(c.vertex);
            }
            for (uint32_t k = 1; k + 1 < kept.size(); ++k)
                out.mesh.indices.insert(out.mesh.indices.end(), {first, first + k, first + k + 1});
        }
    }
    out.mesh.slots = {{d.name.empty() ? "Decal" : d.name, 0, uint32_t(out.mesh.indices.size())}};
    if (!out.mesh.indices.empty()) makeTangents(out.mesh);
    return out;
}

Result<CutDecals> cutOutAll(const Mesh& mesh, std::span<const Decal> decals, float lift) {
    CutDecals out;
    Mesh& all = out.mesh;
    all.hasColors = mesh.hasColors, all.hasColors1 = mesh.hasColors1, all.hasUv1 = mesh.hasUv1;
    for (size_t k = 0; k < decals.size(); ++k) {
        const Decal& d = decals[k];
        if (d.hidden) continue;
        // Each above the one before, so that they do not fight for the same depth.
        const Mesh cut = cutOut(mesh, d, lift * float(all.slots.size() + 1)).mesh;
        if (cut.indices.empty()) continue;
        const auto vertex = uint32_t(all.vertices.size()), index = uint32_t(all.indices.size());
        all.vertices.insert(all.vertices.end(), cut.vertices.begin(), cut.vertices.end());
        for (const uint32_t i : cut.indices) all.indices.push_back(vertex + i);
        all.slots.push_back({d.name, index, uint32_t(cut.indices.size())});
        out.decals.push_back(k);
    }
    if (all.slots.empty())
        return Error{"decal.nothing-to-cut", "No decal of the specimen reaches its mesh, so there is nothing to cut.", {}};
    return out;
}

} // namespace hue
