#include "demo/depot.h"

#include <cmath>
#include <functional>
#include <numbers>

namespace hue::depot {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;
using P2 = std::array<float, 2>;
using P3 = std::array<float, 3>;

class Sculptor {
  public:
    Mesh mesh;

    /// A grid of quads; `at` gives position and UV. Counter-clockwise when u runs right and v down as seen from outside.
    void patch(int columns, int rows, const std::function<void(float, float, Vertex&)>& at) {
        const auto base = uint32_t(mesh.vertices.size()), stride = uint32_t(columns) + 1;
        for (int y = 0; y <= rows; ++y)
            for (int x = 0; x <= columns; ++x) {
                Vertex v;
                at(float(x) / float(columns), float(y) / float(rows), v);
                v.uv1 = v.uv0;
                mesh.vertices.push_back(v);
            }
        for (uint32_t y = 0; y < uint32_t(rows); ++y)
            for (uint32_t x = 0; x < uint32_t(columns); ++x) {
                const uint32_t a = base + y * stride + x, b = a + 1, c = a + stride, d = c + 1;
                for (uint32_t i : {a, c, b, b, c, d}) mesh.indices.push_back(i);
            }
    }

    /// A box with UVs in metres.
    void box(const P3& low, const P3& high) {
        for (int axis = 0; axis < 3; ++axis)
            for (float side : {1.f, -1.f})
                patch(1, 1, [&](float u, float v, Vertex& out) {
                    const auto a = size_t(axis), b = (a + 1) % 3, c = (a + 2) % 3;
                    // The first direction turns with the side, so that all faces look outward.
                    const float s = side > 0 ? u : 1 - u;
                    out.position[a] = side > 0 ? high[a] : low[a];
                    out.position[b] = low[b] + (high[b] - low[b]) * s;
                    out.position[c] = high[c] + (low[c] - high[c]) * v;
                    out.uv0 = {(high[b] - low[b]) * s, (high[c] - low[c]) * v};
                });
    }

    /// A profile (radius, z) turned about Z, from the middle of the front outward and back.
    void turned(const std::vector<P2>& profile, int around, bool flatUv) {
        float widest = 0, length = 0;
        for (const P2& p : profile) widest = std::max(widest, p[0]);
        std::vector<float> along{0};
        for (size_t i = 1; i < profile.size(); ++i)
            along.push_back(length += std::hypot(profile[i][0] - profile[i - 1][0], profile[i][1] - profile[i - 1][1]));
        patch(around, int(profile.size()) - 1, [&](float u, float v, Vertex& out) {
            const P2& p = profile[size_t(std::lround(v * float(profile.size() - 1)))];
            const float angle = 2 * kPi * u;
            out.position = {p[0] * std::cos(angle), p[0] * std::sin(angle), p[1]};
            out.uv0 = flatUv ? P2{0.5f + 0.5f * out.position[0] / widest, 0.5f - 0.5f * out.position[1] / widest}
                             : P2{6 * widest * u, along[size_t(std::lround(v * float(profile.size() - 1)))]};
        });
    }

    void endSlot(const std::string& name) {
        const uint32_t first = mesh.slots.empty() ? 0 : mesh.slots.back().firstIndex + mesh.slots.back().indexCount;
        mesh.slots.push_back({name, first, uint32_t(mesh.indices.size()) - first});
    }
    Mesh finished() {
        makeNormals(mesh);
        makeTangents(mesh);
        return std::move(mesh);
    }
};

Mesh signalLens() {
    Sculptor s;
    std::vector<P2> dome;
    for (int i = 0; i <= 24; ++i) {
        const float a = kPi / 2 * float(i) / 24;
        dome.push_back({0.44f * std::sin(a), 0.02f + 0.2f * std::cos(a)});
    }
    s.turned(dome, 96, true);
    s.endSlot("Lens");
    s.turned({{0.43f, 0.03f}, {0.46f, 0.07f}, {0.5f, 0.07f}, {0.53f, 0.04f}, {0.53f, -0.06f}, {0.43f, -0.06f}, {0.43f, 0.03f}}, 96, false);
    s.endSlot("Ring");
    return s.finished();
}

Mesh windowPane() {
    Sculptor s;
    constexpr float w = 0.85f, h = 0.62f, f = 0.07f;
    s.patch(32, 24, [&](float u, float v, Vertex& out) {
        out.position = {(2 * u - 1) * w, (1 - 2 * v) * h, 0};
        out.uv0 = {u * w * 1.2f, v * h * 1.2f};
    });
    s.endSlot("Pane");
    s.box({-w - f, h, -0.05f}, {w + f, h + f, 0.05f});
    s.box({-w - f, -h - f, -0.05f}, {w + f, -h, 0.05f});
    s.box({-w - f, -h, -0.05f}, {-w, h, 0.05f});
    s.box({w, -h, -0.05f}, {w + f, h, 0.05f});
    s.endSlot("Frame");
    return s.finished();
}

/// A cushion: a box whose edges are round, after the superellipsoid.
void cushion(Sculptor& s, const P3& centre, const P3& half, float lean) {
    auto power = [](float x, float p) { return std::copysign(std::pow(std::fabs(x), p), x); };
    constexpr float edge = 0.32f;
    s.patch(72, 36, [&](float u, float v, Vertex& out) {
        const float around = 2 * kPi * u + kPi, down = kPi * v - kPi / 2;
        const float c = power(std::cos(down), edge);
        P3 p = {c * power(std::sin(around), edge) * half[0], -power(std::sin(down), edge) * half[1],
                c * power(std::cos(around), edge) * half[2]};
        out.uv0 = {p[0] * 1.3f + 0.5f, (p[2] - p[1] * (half[1] > half[2] ? 1.f : 0.6f)) * 1.3f};
        const float y = p[1], z = p[2];
        p[1] = y * std::cos(lean) - z * std::sin(lean);
        p[2] = y * std::sin(lean) + z * std::cos(lean);
        for (size_t i = 0; i < 3; ++i) out.position[i] = centre[i] + p[i];
    });
}

Mesh seat() {
    Sculptor s;
    cushion(s, {0, 0, 0.08f}, {0.46f, 0.1f, 0.44f}, 0);
    cushion(s, {0, 0.5f, -0.36f}, {0.46f, 0.44f, 0.09f}, -0.16f);
    s.endSlot("Cushion");
    s.box({-0.4f, -0.38f, -0.3f}, {-0.34f, -0.09f, 0.4f});
    s.box({0.34f, -0.38f, -0.3f}, {0.4f, -0.09f, 0.4f});
    s.box({-0.44f, -0.41f, -0.34f}, {0.44f, -0.37f, 0.44f});
    s.endSlot("Frame");
    return s.finished();
}

Mesh ventGrille() {
    Sculptor s;
    constexpr float w = 0.8f, h = 0.5f;
    s.patch(40, 24, [&](float u, float v, Vertex& out) {
        const float x = 2 * u - 1, y = 1 - 2 * v;
        out.position = {x * w, y * h, 0.09f * (1 - x * x) * (1 - y * y)};
        out.uv0 = {u * 1.0f, v * h / w};
    });
    s.endSlot("Grille");
    s.box({-w - 0.06f, h, -0.16f}, {w + 0.06f, h + 0.06f, 0.04f});
    s.box({-w - 0.06f, -h - 0.06f, -0.16f}, {w + 0.06f, -h, 0.04f});
    s.box({-w - 0.06f, -h, -0.16f}, {-w, h, 0.04f});
    s.box({w, -h, -0.16f}, {w + 0.06f, h, 0.04f});
    s.endSlot("Frame");
    return s.finished();
}

Mesh trough() {
    Sculptor s;
    constexpr float w = 0.85f, d = 0.42f, h = 0.36f, t = 0.05f;
    s.patch(32, 16, [&](float u, float v, Vertex& out) {
        out.position = {(2 * u - 1) * (w - t), h - 0.07f + 0.004f * std::sin(9 * u + 5 * v), (2 * v - 1) * (d - t)};
        out.uv0 = {u * 2, v};
    });
    s.endSlot("Ice");
    s.box({-w, -0.06f, -d}, {w, 0, d});
    s.box({-w, 0, -d}, {-w + t, h, d});
    s.box({w - t, 0, -d}, {w, h, d});
    s.box({-w + t, 0, -d}, {w - t, h, -d + t});
    s.box({-w + t, 0, d - t}, {w - t, h, d});
    // Steps in the trough, so that the depth beneath the ice differs.
    s.box({-w + t, 0, -d + t}, {-0.3f, 0.2f, d - t});
    s.box({-0.3f, 0, -d + t}, {0.1f, 0.11f, d - t});
    s.box({0.42f, 0, -0.1f}, {0.58f, 0.26f, 0.06f});
    s.endSlot("Trough");
    return s.finished();
}

/// Sheets that cross over a grating in the floor.
Mesh steam() {
    Sculptor s;
    for (int i = 0; i < 5; ++i) {
        const float turn = kPi * float(i) / 5, c = std::cos(turn), n = std::sin(turn), shift = 0.12f * std::sin(float(i) * 2.4f);
        s.patch(12, 12, [&](float u, float v, Vertex& out) {
            const float side = (2 * u - 1) * 0.6f * (1 + 0.35f * (1 - v)), bend = 0.16f * std::sin(3 * (1 - v) + float(i));
            out.position = {side * c - (bend + shift) * n, 1.5f * (1 - v) - 0.1f, side * n + (bend + shift) * c};
            out.uv0 = {u, v};
        });
    }
    s.endSlot("Steam");
    for (int i = -4; i <= 4; ++i) s.box({-0.7f, -0.08f, 0.14f * float(i) - 0.025f}, {0.7f, 0, 0.14f * float(i) + 0.025f});
    s.box({-0.76f, -0.1f, -0.7f}, {-0.68f, 0.01f, 0.7f});
    s.box({0.68f, -0.1f, -0.7f}, {0.76f, 0.01f, 0.7f});
    s.endSlot("Grating");
    return s.finished();
}

Mesh tube() {
    Sculptor s;
    auto rod = [&](float from, float to, float radius, int columns) {
        s.patch(columns, 28, [&](float u, float v, Vertex& out) {
            const float angle = -2 * kPi * v;
            out.position = {from + (to - from) * u, radius * std::cos(angle), radius * std::sin(angle) * -1};
            out.uv0 = {u, v};
        });
    };
    rod(-0.88f, 0.88f, 0.05f, 48);
    s.endSlot("Tube");
    for (float side : {-1.f, 1.f}) {
        rod(side > 0 ? 0.88f : -0.95f, side > 0 ? 0.95f : -0.88f, 0.056f, 2);
        s.box({side > 0 ? 0.9f : -0.95f, -0.06f, -0.16f}, {side > 0 ? 0.95f : -0.9f, 0.06f, -0.04f});
    }
    s.box({-1.0f, -0.09f, -0.26f}, {1.0f, 0.09f, -0.15f});
    s.endSlot("Fitting");
    return s.finished();
}

} // namespace

std::vector<NamedMesh> makeGlassMeshes() {
    return {{"signal_lens", "signal_lens.glb", signalLens()},
            {"window_pane", "window_pane.glb", windowPane()},
            {"seat", "seat.glb", seat()},
            {"vent_grille", "vent_grille.glb", ventGrille()},
            {"trough", "trough.glb", trough()},
            {"steam_sheets", "steam_sheets.glb", steam()},
            {"lamp_tube", "lamp_tube.glb", tube()}};
}

} // namespace hue::depot
