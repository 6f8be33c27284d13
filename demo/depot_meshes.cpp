#include "demo/depot.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

namespace hue::depot {
namespace {

using P2 = std::array<float, 2>;

/// A patch of quads from a function of (u, v); counter-clockwise when u runs right and v runs down as seen from outside.
void addPatch(Mesh& mesh, int columns, int rows, const std::function<Vertex(float, float)>& point) {
    const auto base = uint32_t(mesh.vertices.size());
    for (int y = 0; y <= rows; ++y)
        for (int x = 0; x <= columns; ++x) mesh.vertices.push_back(point(float(x) / float(columns), float(y) / float(rows)));
    const auto stride = uint32_t(columns) + 1;
    for (uint32_t y = 0; y < uint32_t(rows); ++y)
        for (uint32_t x = 0; x < uint32_t(columns); ++x) {
            const uint32_t a = base + y * stride + x, b = a + 1, c = a + stride, d = c + 1;
            for (uint32_t i : {a, c, b, b, c, d}) mesh.indices.push_back(i);
        }
}

void endSlot(Mesh& mesh, const std::string& name) {
    const uint32_t first = mesh.slots.empty() ? 0 : mesh.slots.back().firstIndex + mesh.slots.back().indexCount;
    mesh.slots.push_back({name, first, uint32_t(mesh.indices.size()) - first});
}

Mesh finished(Mesh mesh) {
    makeNormals(mesh);
    makeTangents(mesh);
    return mesh;
}

/// A profile (y, z) drawn along X; UVs in metres along X and along the profile.
void extrude(Mesh& mesh, const std::vector<P2>& profile, float width, int columns, float vPerMetre, float uPerMetre) {
    std::vector<float> length{0};
    for (size_t i = 1; i < profile.size(); ++i)
        length.push_back(length.back() + std::hypot(profile[i][0] - profile[i - 1][0], profile[i][1] - profile[i - 1][1]));
    const auto base = uint32_t(mesh.vertices.size());
    for (size_t i = 0; i < profile.size(); ++i)
        for (int x = 0; x <= columns; ++x) {
            const float u = float(x) / float(columns);
            Vertex v;
            v.position = {(u - 0.5f) * width, profile[i][0], profile[i][1]};
            v.uv0 = v.uv1 = {u * width * uPerMetre, length[i] * vPerMetre};
            mesh.vertices.push_back(v);
        }
    const auto stride = uint32_t(columns) + 1;
    for (uint32_t y = 0; y + 1 < profile.size(); ++y)
        for (uint32_t x = 0; x < uint32_t(columns); ++x) {
            const uint32_t a = base + y * stride + x, b = a + 1, c = a + stride, d = c + 1;
            for (uint32_t i : {a, c, b, b, c, d}) mesh.indices.push_back(i);
        }
}

/// The flat ends of an extrusion: a fan over the closed profile from a point that sees all of it.
void capEnds(Mesh& mesh, const std::vector<P2>& profile, float width, P2 middle) {
    for (float side : {-1.f, 1.f}) {
        const auto base = uint32_t(mesh.vertices.size());
        auto add = [&](const P2& p) {
            Vertex v;
            v.position = {side * width / 2, p[0], p[1]};
            v.uv0 = v.uv1 = {p[1], p[0]};
            mesh.vertices.push_back(v);
        };
        add(middle);
        for (const P2& p : profile) add(p);
        for (uint32_t i = 1; i < profile.size(); ++i) {
            mesh.indices.push_back(base);
            mesh.indices.push_back(base + (side > 0 ? i + 1 : i));
            mesh.indices.push_back(base + (side > 0 ? i : i + 1));
        }
    }
}

/// A rounded slab whose front bulges, as the side of a tram does; in profile from the front's top around to the back.
std::vector<P2> slabProfile(float height, float depth, float bulge, float tuck, float edge) {
    std::vector<P2> out;
    constexpr float pi = std::numbers::pi_v<float>;
    auto front = [&](float t) { // t: 0 top, 1 bottom
        const float skirt = t > 0.72f ? (t - 0.72f) / 0.28f : 0;
        return depth / 2 + bulge * std::sin(pi * std::min(t * 1.1f, 1.f)) - tuck * skirt * skirt;
    };
    for (int i = 0; i <= 8; ++i) { // top edge, from back to front
        const float a = pi / 2 * float(i) / 8;
        out.push_back({height / 2 - edge + edge * std::cos(a), front(0) - edge + edge * std::sin(a)});
    }
    for (int i = 1; i < 40; ++i) {
        const float t = float(i) / 40;
        out.push_back({height / 2 - edge - t * (height - 2 * edge), front(t)});
    }
    for (int i = 0; i <= 8; ++i) {
        const float a = pi / 2 * float(i) / 8;
        out.push_back({-height / 2 + edge - edge * std::sin(a), front(1) - edge + edge * std::cos(a)});
    }
    out.push_back({-height / 2, -depth / 2});
    out.push_back({height / 2, -depth / 2});
    out.push_back(out.front());
    return out;
}

Mesh tramSidePanel() {
    Mesh mesh;
    const auto profile = slabProfile(1.25f, 0.16f, 0.07f, 0.12f, 0.03f);
    // One metre is half a tile: panels of some 60 cm with the default of Panel count.
    extrude(mesh, profile, 2.0f, 64, 0.6f, 0.6f);
    const size_t sides = mesh.vertices.size();
    const float around = mesh.vertices.back().uv0[1] / 0.6f;
    capEnds(mesh, profile, 2.0f, {0, 0});
    // Second UVs that repeat nowhere, for maps of its own: the sides above, both ends below.
    mesh.hasUv1 = true;
    const Bounds bounds = boundsOf(mesh);
    for (size_t k = 0; k < mesh.vertices.size(); ++k) {
        Vertex& v = mesh.vertices[k];
        const auto share = [&](size_t axis) { return (v.position[axis] - bounds.low[axis]) / (bounds.high[axis] - bounds.low[axis]); };
        if (k < sides) v.uv1 = {0.01f + 0.98f * share(0), 0.01f + 0.83f * v.uv0[1] / (0.6f * around)};
        else v.uv1 = {(v.position[0] < 0 ? 0.02f : 0.52f) + 0.46f * share(1), 0.87f + 0.12f * share(2)};
    }
    endSlot(mesh, "Body");
    return finished(mesh);
}

Mesh routeDisplay() {
    Mesh mesh;
    constexpr float w = 1.9f, h = 0.52f, depth = 0.2f, rim = 0.055f, recess = 0.03f;
    addPatch(mesh, 48, 12, [](float u, float v) {
        Vertex p;
        p.position = {(u - 0.5f) * (w - 2 * rim), (0.5f - v) * (h - 2 * rim), depth / 2 - recess};
        p.uv0 = p.uv1 = {u, v};
        return p;
    });
    endSlot(mesh, "Screen");
    // Housing: a closed strip from the screen's border over the rim and around to the back, for each of the four sides.
    const std::vector<P2> ring = {{-rim, depth / 2 - recess}, {-rim, depth / 2 - 0.008f},    {-rim + 0.008f, depth / 2},
                                  {-0.02f, depth / 2},        {-0.006f, depth / 2 - 0.006f}, {0, depth / 2 - 0.02f},
                                  {0, -depth / 2 + 0.02f},    {-0.02f, -depth / 2}};
    for (size_t i = 0; i + 1 < ring.size(); ++i)
        for (int side = 0; side < 4; ++side)
            addPatch(mesh, 12, 1, [&](float u, float v) {
                const P2 at = {ring[i][0] + (ring[i + 1][0] - ring[i][0]) * v, ring[i][1] + (ring[i + 1][1] - ring[i][1]) * v};
                const float x = w / 2 + at[0], y = h / 2 + at[0], t = 1 - 2 * u;
                Vertex p;
                if (side == 0) p.position = {x * t, y, at[1]};
                else if (side == 1) p.position = {-x, y * t, at[1]};
                else if (side == 2) p.position = {-x * t, -y, at[1]};
                else p.position = {x, -y * t, at[1]};
                p.uv0 = p.uv1 = {0.5f * (p.position[0] + p.position[2]), 0.5f * (p.position[1] + p.position[2])};
                return p;
            });
    addPatch(mesh, 4, 2, [](float u, float v) {
        Vertex p;
        p.position = {(0.5f - u) * (w - 0.04f), (0.5f - v) * (h - 0.04f), -depth / 2};
        p.uv0 = p.uv1 = {u, v};
        return p;
    });
    endSlot(mesh, "Housing");
    return finished(mesh);
}

Mesh yardWithSteps() {
    Mesh mesh;
    // From the back over two steps to the front edge, then down and under: a slab cut out of the yard.
    const std::vector<P2> corners = {{0.36f, -1.1f}, {0.36f, -0.62f}, {0.18f, -0.62f}, {0.18f, -0.18f},
                                     {0, -0.18f},    {0, 1.1f},       {-0.16f, 1.1f}};
    std::vector<P2> profile;
    for (size_t i = 0; i + 1 < corners.size(); ++i) {
        const P2 a = corners[i], b = corners[i + 1];
        // Doubled corners keep the edges crisp where normals are averaged; between them it is fine enough to be painted.
        std::vector<float> steps{0, 0.02f, 0.98f};
        const int fine = int(std::ceil(std::hypot(b[0] - a[0], b[1] - a[1]) / 0.045f));
        for (int k = 1; k < fine; ++k) steps.push_back(0.02f + 0.96f * float(k) / float(fine));
        std::sort(steps.begin(), steps.end());
        for (float t : steps) profile.push_back({a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t});
    }
    profile.push_back(corners.back());
    extrude(mesh, profile, 2.2f, 48, 1.1f, 1.1f);
    std::vector<P2> outline = corners;
    outline.push_back({-0.16f, -1.1f});
    outline.push_back(corners.front());
    capEnds(mesh, outline, 2.2f, outline[outline.size() - 2]);
    endSlot(mesh, "Yard");
    return finished(mesh);
}

/// A sheet over a load: flat on top, falling at both sides, fine enough for waves.
Mesh tarpaulin() {
    Mesh mesh;
    addPatch(mesh, 72, 72, [](float u, float v) {
        const float x = (u - 0.5f) * 1.8f, side = std::fabs(v - 0.5f) * 2, fall = std::max(0.f, side - 0.45f) / 0.55f;
        Vertex out{};
        const float across = v < 0.5f ? -1.f : 1.f;
        out.position = {x, 0.35f - 0.62f * fall * (0.35f + 0.65f * fall) - 0.05f * std::cos(x * 2.1f) * (1 - fall),
                        across * (std::min(side, 0.45f) * 0.95f + 0.16f * std::sin(fall * 1.5f))};
        out.uv0 = {u, v};
        return out;
    });
    endSlot(mesh, "Cloth");
    return finished(mesh);
}

} // namespace

std::vector<NamedMesh> makeMeshes() {
    return {{"tram_side_panel", "tram_side_panel.glb", tramSidePanel()},
            {"yard_with_steps", "yard_with_steps.glb", yardWithSteps()},
            {"route_display", "route_display.glb", routeDisplay()},
            {"tarpaulin", "tarpaulin.glb", tarpaulin()}};
}

} // namespace hue::depot
