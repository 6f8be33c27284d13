#include "core/mesh/things.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;
using V3 = std::array<float, 3>;

struct Paint {
    V3 color;
    float metallic = 0, roughness = 0.5f, glow = 0;
};

class Maker {
  public:
    Mesh mesh;

    /// A box between two corners.
    void box(const V3& low, const V3& high, const Paint& paint) {
        for (int axis = 0; axis < 3; ++axis)
            for (int side = 0; side < 2; ++side) {
                const size_t a = size_t(axis), b = (a + 1) % 3, c = (a + 2) % 3;
                V3 normal{};
                normal[a] = side ? 1.f : -1.f;
                std::array<V3, 4> corners;
                for (size_t k = 0; k < 4; ++k) {
                    const bool far = k == 1 || k == 2, top = k >= 2;
                    corners[k][a] = side ? high[a] : low[a];
                    corners[k][b] = (side ? far : top) ? high[b] : low[b];
                    corners[k][c] = (side ? top : far) ? high[c] : low[c];
                }
                quad(corners, normal, paint);
            }
    }

    /// A round bar along an axis (0 X, 1 Y, 2 Z) with caps; `sides` of 6 makes a nut.
    void bar(const V3& from, int axis, float length, float radius, int sides, const Paint& paint) {
        const size_t a = size_t(axis), b = (a + 1) % 3, c = (a + 2) % 3;
        auto ring = [&](int i, float along) {
            const float angle = 2 * kPi * float(i) / float(sides);
            V3 p = from;
            p[a] += along;
            p[b] += radius * std::cos(angle);
            p[c] += radius * std::sin(angle);
            return p;
        };
        for (int i = 0; i < sides; ++i) {
            const float middle = 2 * kPi * (float(i) + 0.5f) / float(sides);
            V3 flat{}, n0{}, n1{}, up{}, down{};
            flat[b] = std::cos(middle), flat[c] = std::sin(middle);
            n0[b] = std::cos(2 * kPi * float(i) / float(sides)), n0[c] = std::sin(2 * kPi * float(i) / float(sides));
            n1[b] = std::cos(2 * kPi * float(i + 1) / float(sides)), n1[c] = std::sin(2 * kPi * float(i + 1) / float(sides));
            up[a] = 1, down[a] = -1;
            const bool round = sides > 8;
            triangle(ring(i, 0), ring(i + 1, 0), ring(i + 1, length), round ? n0 : flat, round ? n1 : flat, round ? n1 : flat, paint);
            triangle(ring(i, 0), ring(i + 1, length), ring(i, length), round ? n0 : flat, round ? n1 : flat, round ? n0 : flat, paint);
            V3 top = from;
            top[a] += length;
            triangle(top, ring(i, length), ring(i + 1, length), up, up, up, paint);
            triangle(from, ring(i + 1, 0), ring(i, 0), down, down, down, paint);
        }
    }

  private:
    void vertex(const V3& p, const V3& n, const Paint& paint) {
        Vertex v;
        v.position = p;
        v.normal = n;
        v.color = {paint.color[0], paint.color[1], paint.color[2], paint.glow};
        v.uv1 = {paint.metallic, paint.roughness};
        mesh.indices.push_back(uint32_t(mesh.vertices.size()));
        mesh.vertices.push_back(v);
    }
    void triangle(const V3& a, const V3& b, const V3& c, const V3& na, const V3& nb, const V3& nc, const Paint& paint) {
        vertex(a, na, paint);
        vertex(b, nb, paint);
        vertex(c, nc, paint);
    }
    void quad(const std::array<V3, 4>& p, const V3& n, const Paint& paint) {
        triangle(p[0], p[1], p[2], n, n, n, paint);
        triangle(p[0], p[2], p[3], n, n, n, paint);
    }
};

constexpr Paint kSteel{{0.42f, 0.41f, 0.4f}, 1, 0.35f};
constexpr Paint kDark{{0.03f, 0.031f, 0.034f}, 0, 0.55f};
constexpr Paint kConcrete{{0.27f, 0.26f, 0.245f}, 0, 0.85f};

// Six enamel plates in two rows on a rack, each with a border and a bar or disc in a second color.
Mesh signs() {
    Maker m;
    const Paint plates[] = {{{0.62f, 0.05f, 0.03f}, 0, 0.2f}, {{0.02f, 0.1f, 0.36f}, 0, 0.2f},  {{0.78f, 0.47f, 0.03f}, 0, 0.2f},
                            {{0.03f, 0.27f, 0.1f}, 0, 0.2f},  {{0.75f, 0.73f, 0.66f}, 0, 0.2f}, {{0.05f, 0.05f, 0.055f}, 0, 0.2f}};
    const Paint light{{0.8f, 0.78f, 0.7f}, 0, 0.2f}, black{{0.02f, 0.02f, 0.022f}, 0, 0.25f};
    for (float x : {-0.62f, 0.62f}) m.box({x - 0.02f, -0.5f, -0.03f}, {x + 0.02f, 0.5f, 0.01f}, kSteel);
    for (float y : {-0.46f, 0.0f, 0.46f}) m.box({-0.64f, y - 0.012f, -0.025f}, {0.64f, y + 0.012f, 0.005f}, kSteel);
    for (int i = 0; i < 6; ++i) {
        const float x = -0.4f + 0.4f * float(i % 3), y = i < 3 ? 0.23f : -0.23f;
        const Paint& second = i == 4 ? black : light;
        m.box({x - 0.18f, y - 0.19f, 0.012f}, {x + 0.18f, y + 0.19f, 0.022f}, second);
        m.box({x - 0.165f, y - 0.175f, 0.02f}, {x + 0.165f, y + 0.175f, 0.026f}, plates[i]);
        if (i % 2 == 0) {
            for (int bar = -1; bar <= 1; ++bar)
                m.box({x - 0.12f, y + 0.09f * float(bar) - 0.02f, 0.024f}, {x + 0.12f, y + 0.09f * float(bar) + 0.02f, 0.029f}, second);
        } else {
            m.bar({x, y, 0.022f}, 2, 0.006f, 0.09f, 32, second);
            m.box({x - 0.13f, y - 0.025f, 0.024f}, {x + 0.13f, y + 0.025f, 0.03f}, second);
            m.box({x - 0.025f, y - 0.13f, 0.024f}, {x + 0.025f, y + 0.13f, 0.03f}, second);
        }
    }
    return m.mesh;
}

// A hexagon bolt with nut and thread, lying across.
Mesh bolt() {
    Maker m;
    m.bar({-0.5f, 0, 0}, 0, 0.2f, 0.27f, 6, kSteel);
    m.bar({-0.3f, 0, 0}, 0, 0.42f, 0.14f, 32, kSteel);
    for (int i = 0; i < 9; ++i) {
        m.bar({0.12f + 0.042f * float(i), 0, 0}, 0, 0.022f, 0.14f, 32, kSteel);
        m.bar({0.142f + 0.042f * float(i), 0, 0}, 0, 0.02f, 0.118f, 32, kSteel);
    }
    m.bar({0.16f, 0, 0}, 0, 0.17f, 0.25f, 6, Paint{{0.75f, 0.5f, 0.2f}, 1, 0.3f});
    return m.mesh;
}

// Three concrete steps with a yellow edge, going down to the front.
Mesh steps() {
    Maker m;
    for (int i = 0; i < 3; ++i) {
        const float top = -0.16f * float(i), back = -0.5f + 0.33f * float(i);
        m.box({-0.6f, -0.6f, back}, {0.6f, top, back + 0.34f}, kConcrete);
        m.box({-0.6f, top - 0.03f, back + 0.29f}, {0.6f, top + 0.004f, back + 0.345f}, Paint{{0.62f, 0.42f, 0.04f}, 0, 0.6f});
    }
    return m.mesh;
}

// Lamp tubes on a stand: something bright and straight to be mirrored.
Mesh tubes() {
    Maker m;
    for (float y : {-0.3f, 0.0f, 0.3f}) {
        m.bar({-0.55f, y, 0}, 0, 1.1f, 0.022f, 24, Paint{{0.9f, 0.95f, 1.0f}, 0, 0.5f, 6});
        for (float x : {-0.58f, 0.55f}) m.bar({x, y, 0}, 0, 0.03f, 0.026f, 16, kDark);
    }
    for (float x : {-0.565f, 0.565f}) m.box({x - 0.015f, -0.5f, -0.05f}, {x + 0.015f, 0.42f, -0.02f}, kDark);
    return m.mesh;
}

// A length of rail on two sleepers.
Mesh rail() {
    Maker m;
    for (float x : {-0.35f, 0.35f}) m.box({x - 0.11f, -0.3f, -0.3f}, {x + 0.11f, -0.17f, 0.3f}, Paint{{0.11f, 0.085f, 0.06f}, 0, 0.8f});
    m.box({-0.6f, -0.17f, -0.1f}, {0.6f, -0.14f, 0.1f}, Paint{{0.16f, 0.09f, 0.055f}, 0, 0.75f});
    m.box({-0.6f, -0.14f, -0.014f}, {0.6f, -0.03f, 0.014f}, Paint{{0.16f, 0.09f, 0.055f}, 0, 0.75f});
    m.box({-0.6f, -0.03f, -0.05f}, {0.6f, 0.02f, 0.05f}, Paint{{0.5f, 0.49f, 0.48f}, 1, 0.22f});
    return m.mesh;
}

} // namespace

const std::vector<ThingKind>& thingKinds() {
    static const std::vector<ThingKind> all = {
        {"signs", "Enamel signs", "behind", "A rack of enamel signs: straight edges and strong colors, to judge what shines through"},
        {"bolt", "Bolt", "inside", "A bolt within, to judge refraction and absorption"},
        {"steps", "Steps", "beneath", "Steps that lead down, to judge depth"},
        {"tubes", "Lamp tubes", "beside", "Bright tubes at the side, to be mirrored"},
        {"rail", "Rail", "beneath", "A piece of track"},
    };
    return all;
}

MeshPtr thingMesh(const std::string& kind) {
    static std::mutex mutex;
    static std::map<std::string, MeshPtr> made;
    const std::lock_guard lock(mutex);
    if (auto it = made.find(kind); it != made.end()) return it->second;
    Mesh mesh;
    if (kind == "signs") mesh = signs();
    else if (kind == "bolt") mesh = bolt();
    else if (kind == "steps") mesh = steps();
    else if (kind == "tubes") mesh = tubes();
    else if (kind == "rail") mesh = rail();
    else return nullptr;
    mesh.slots = {{"Thing", 0, uint32_t(mesh.indices.size())}};
    mesh.hasColors = true;
    return made[kind] = std::make_shared<Mesh>(std::move(mesh));
}

ThingPlace placeFor(const std::string& kind, const Bounds& b) {
    const auto c = b.centre();
    const float r = std::max(b.radius(), 1e-3f);
    std::string_view where = "behind";
    for (const ThingKind& k : thingKinds())
        if (k.key == kind) where = k.where;
    if (where == "inside") return {c, r * 0.55f};
    if (where == "beneath") return {{c[0], b.low[1] + 0.25f * (b.high[1] - b.low[1]), c[2]}, r * 1.1f};
    if (where == "beside") return {{c[0] + 1.5f * r, c[1], c[2] + 0.6f * r}, r * 1.4f};
    return {{c[0], c[1], c[2] - 1.5f * r}, r * 1.9f};
}

} // namespace hue
