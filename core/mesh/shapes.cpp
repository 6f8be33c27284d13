#include "core/mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;

/// A surface over (u, v) in 0..1, as a grid of quads.
template <class Point> Mesh gridMesh(int columns, int rows, Point point) {
    Mesh mesh;
    for (int y = 0; y <= rows; ++y)
        for (int x = 0; x <= columns; ++x) mesh.vertices.push_back(point(float(x) / float(columns), float(y) / float(rows)));
    const auto stride = uint32_t(columns) + 1;
    for (uint32_t y = 0; y < uint32_t(rows); ++y)
        for (uint32_t x = 0; x < uint32_t(columns); ++x) {
            const uint32_t a = y * stride + x, b = a + 1, c = a + stride, d = c + 1;
            for (uint32_t i : {a, c, b, b, c, d}) mesh.indices.push_back(i);
        }
    return mesh;
}

void append(Mesh& to, const Mesh& from) {
    const auto base = uint32_t(to.vertices.size());
    to.vertices.insert(to.vertices.end(), from.vertices.begin(), from.vertices.end());
    for (uint32_t i : from.indices) to.indices.push_back(base + i);
}

Mesh finished(Mesh mesh) {
    mesh.slots = {{"Surface", 0, uint32_t(mesh.indices.size())}};
    for (Vertex& v : mesh.vertices) v.uv1 = v.uv0;
    makeTangents(mesh);
    return mesh;
}

/// A flat disc at height y, looking up or down.
Mesh disc(int detail, float y) {
    return gridMesh(detail, 1, [&](float u, float v) {
        const float angle = 2 * kPi * u * (y > 0 ? 1 : -1), r = v;
        Vertex out;
        out.position = {r * std::sin(angle), y, r * std::cos(angle)};
        out.normal = {0, y > 0 ? 1.f : -1.f, 0};
        out.uv0 = {0.5f + 0.5f * out.position[0], 0.5f + 0.5f * out.position[2] * (y > 0 ? 1 : -1)};
        return out;
    });
}

} // namespace

// The seams of the round shapes lie at the back.
Mesh makeSphere(int detail) {
    return finished(gridMesh(detail * 2, detail, [](float u, float v) {
        const float around = 2 * kPi * u + kPi, down = kPi * v;
        Vertex out;
        out.normal = {std::sin(down) * std::sin(around), std::cos(down), std::sin(down) * std::cos(around)};
        out.position = out.normal;
        // Twice around keeps the texels of the equator square.
        out.uv0 = {2 * u, v};
        out.tangent = {std::cos(around), 0, -std::sin(around), 1};
        return out;
    }));
}

Mesh makePlane() {
    return finished(gridMesh(8, 8, [](float u, float v) {
        Vertex out;
        out.position = {2.4f * (u - 0.5f), 0, 2.4f * (v - 0.5f)};
        out.normal = {0, 1, 0};
        out.uv0 = {u, v};
        return out;
    }));
}

Mesh makeCube() {
    Mesh mesh;
    for (int axis = 0; axis < 3; ++axis)
        for (float side : {1.f, -1.f})
            append(mesh, gridMesh(4, 4, [&](float u, float v) {
                       const float h = 0.8f, a = h * (2 * u - 1) * side, b = h * (1 - 2 * v);
                       Vertex out;
                       if (axis == 0) out.position = {h * side, b, -a}, out.normal = {side, 0, 0};
                       else if (axis == 1) out.position = {a * side, h * side, -b * side}, out.normal = {0, side, 0};
                       else out.position = {a, b, h * side}, out.normal = {0, 0, side};
                       out.uv0 = {u, v};
                       return out;
                   }));
    return finished(mesh);
}

Mesh makeCylinder(int detail) {
    Mesh mesh = gridMesh(detail, 8, [](float u, float v) {
        const float around = 2 * kPi * u + kPi;
        Vertex out;
        out.normal = {std::sin(around), 0, std::cos(around)};
        out.position = {out.normal[0], 1 - 2 * v, out.normal[2]};
        out.uv0 = {3 * u, v};
        return out;
    });
    append(mesh, disc(detail, 1));
    append(mesh, disc(detail, -1));
    for (Vertex& v : mesh.vertices)
        for (float& x : v.position) x *= 0.85f;
    return finished(mesh);
}

Mesh makeTorus(int detail) {
    return finished(gridMesh(detail * 2, detail, [](float u, float v) {
        const float around = 2 * kPi * u + kPi, ring = 2 * kPi * v, big = 0.75f, small = 0.35f;
        Vertex out;
        out.normal = {std::cos(ring) * std::sin(around), -std::sin(ring), std::cos(ring) * std::cos(around)};
        out.position = {(big + small * std::cos(ring)) * std::sin(around), -small * std::sin(ring),
                        (big + small * std::cos(ring)) * std::cos(around)};
        out.uv0 = {4 * u, 2 * v};
        return out;
    }));
}

const std::vector<std::pair<std::string, std::string>>& shapes() {
    static const std::vector<std::pair<std::string, std::string>> all = {{"shape:sphere", "Sphere"},
                                                                         {"shape:plane", "Plane"},
                                                                         {"shape:cube", "Cube"},
                                                                         {"shape:cylinder", "Cylinder"},
                                                                         {"shape:torus", "Torus"}};
    return all;
}

MeshPtr shapeById(const std::string& id) {
    static std::mutex mutex;
    static std::map<std::string, MeshPtr> made;
    const std::lock_guard lock(mutex);
    MeshPtr& mesh = made[id];
    if (mesh) return mesh;
    if (id == "shape:sphere") mesh = std::make_shared<Mesh>(makeSphere());
    else if (id == "shape:plane") mesh = std::make_shared<Mesh>(makePlane());
    else if (id == "shape:cube") mesh = std::make_shared<Mesh>(makeCube());
    else if (id == "shape:cylinder") mesh = std::make_shared<Mesh>(makeCylinder());
    else if (id == "shape:torus") mesh = std::make_shared<Mesh>(makeTorus());
    return mesh;
}

float Bounds::radius() const {
    float square = 0;
    for (size_t i = 0; i < 3; ++i) square += (high[i] - low[i]) * (high[i] - low[i]) / 4;
    return std::sqrt(square);
}

Bounds boundsOf(const Mesh& mesh) {
    if (mesh.vertices.empty()) return {};
    Bounds b{mesh.vertices[0].position, mesh.vertices[0].position};
    for (const Vertex& v : mesh.vertices)
        for (size_t i = 0; i < 3; ++i) {
            b.low[i] = std::min(b.low[i], v.position[i]);
            b.high[i] = std::max(b.high[i], v.position[i]);
        }
    return b;
}

} // namespace hue
