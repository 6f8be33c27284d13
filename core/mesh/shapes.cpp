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

Mesh makePlane(int detail) {
    return finished(gridMesh(detail, detail, [](float u, float v) {
        Vertex out;
        out.position = {2.4f * (u - 0.5f), 0, 2.4f * (v - 0.5f)};
        out.normal = {0, 1, 0};
        out.uv0 = {u, v};
        return out;
    }));
}

Mesh makeCube(int detail) {
    Mesh mesh;
    for (int axis = 0; axis < 3; ++axis)
        for (float side : {1.f, -1.f})
            append(mesh, gridMesh(detail, detail, [&](float u, float v) {
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
    Mesh mesh = gridMesh(detail, std::max(4, detail / 2), [](float u, float v) {
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

// A round table's top with a cloth: flat in the middle, hanging in folds that grow deeper downward.
Mesh makeSheet(int detail) {
    Mesh mesh = gridMesh(detail, detail, [](float u, float v) {
        const float x = 2 * u - 1, z = 2 * v - 1, way = std::hypot(x, z), around = std::atan2(z, x), top = 0.55f;
        Vertex out;
        out.uv0 = {u, v};
        if (way <= top) {
            const float sag = 0.03f * way * way;
            out.position = {1.35f * x, 0.45f - sag, 1.35f * z};
        } else {
            const float fall = way - top, bend = std::min(fall / 0.12f, 1.f), fold = std::sin(9 * around) + 0.4f * std::sin(5 * around + 1);
            const float reach = top + 0.07f * bend + fall * (0.08f + 0.2f * fold * std::min(fall / 0.3f, 1.f));
            out.position = {1.35f * reach * std::cos(around), 0.44f - 0.05f * bend * bend - 1.15f * std::max(fall - 0.05f, 0.f),
                            1.35f * reach * std::sin(around)};
        }
        return out;
    });
    makeNormals(mesh);
    return finished(std::move(mesh));
}

const std::vector<std::pair<std::string, std::string>>& shapes() {
    static const std::vector<std::pair<std::string, std::string>> all = {{"shape:sphere", "Sphere"}, {"shape:plane", "Plane"},
                                                                         {"shape:cube", "Cube"},     {"shape:cylinder", "Cylinder"},
                                                                         {"shape:torus", "Torus"},   {"shape:sheet", "Draped sheet"}};
    return all;
}

MeshPtr shapeById(const std::string& id) {
    static std::mutex mutex;
    static std::map<std::string, MeshPtr> made;
    const std::lock_guard lock(mutex);
    if (auto it = made.find(id); it != made.end()) return it->second;
    const size_t slash = id.find('/');
    const std::string shape = id.substr(0, slash);
    int density = 3;
    if (slash != std::string::npos) {
        if (id.size() != slash + 2 || id[slash + 1] < '1' || id[slash + 1] > '5') return nullptr;
        density = id[slash + 1] - '0';
    }
    auto detail = [&](int usual) { return density >= 3 ? usual << (density - 3) : usual >> (3 - density); };
    MeshPtr mesh;
    if (shape == "shape:sphere") mesh = std::make_shared<Mesh>(makeSphere(detail(64)));
    else if (shape == "shape:plane") mesh = std::make_shared<Mesh>(makePlane(detail(32)));
    else if (shape == "shape:cube") mesh = std::make_shared<Mesh>(makeCube(detail(16)));
    else if (shape == "shape:cylinder") mesh = std::make_shared<Mesh>(makeCylinder(detail(64)));
    else if (shape == "shape:torus") mesh = std::make_shared<Mesh>(makeTorus(detail(64)));
    else if (shape == "shape:sheet") mesh = std::make_shared<Mesh>(makeSheet(detail(96)));
    if (mesh) made[id] = mesh;
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
