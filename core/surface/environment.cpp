#include "core/surface/environment.h"

#include "core/base/work.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;

float smooth(float low, float high, float x) {
    const float t = std::clamp((x - low) / (high - low), 0.f, 1.f);
    return t * t * (3 - 2 * t);
}
Rgb mix(const Rgb& a, const Rgb& b, float t) { return {a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t}; }
void addScaled(Rgb& to, const Rgb& from, float scale) {
    for (size_t c = 0; c < 3; ++c) to[c] += from[c] * scale;
}

/// 1 inside a rectangle on a plane at distance 1 along `axis`, with soft edges; `x` and `y` are its half sizes.
float panel(const Rgb& d, const Rgb& axis, const Rgb& right, float atX, float atY, float x, float y, float soft) {
    const float along = dot(d, axis);
    if (along <= 0.02f) return 0;
    const Rgb up = cross(axis, right);
    const float px = dot(d, right) / along - atX, py = dot(d, up) / along - atY;
    return (1 - smooth(x - soft, x + soft, std::fabs(px))) * (1 - smooth(y - soft, y + soft, std::fabs(py)));
}

// A dark hall with rows of sodium lamps under the roof, a gate to the blue hour on one side, and a dim floor.
Rgb sodiumShed(const Rgb& d) {
    Rgb out = mix({0.06f, 0.063f, 0.075f}, {0.15f, 0.13f, 0.11f}, smooth(-0.6f, 0.8f, d[1]));
    if (d[1] < 0) out = mix(out, {0.05f, 0.043f, 0.036f}, smooth(0, -0.3f, d[1]));
    const Rgb roof{0, 1, 0}, along{1, 0, 0};
    for (float row : {-0.85f, 0.55f})
        for (float lamp : {-1.9f, -0.65f, 0.6f, 1.85f})
            addScaled(out, {15.f, 8.6f, 3.4f}, panel(d, roof, along, lamp, row, 0.3f, 0.075f, 0.05f));
    // The gate: cold evening light, low and wide, with posts.
    const Rgb gate{-0.6f, 0, -0.8f}, gateRight = unit(cross({0, 1, 0}, gate));
    const float opening = panel(d, unit(gate), gateRight, 0, 0.28f, 0.85f, 0.42f, 0.03f);
    const float posts = 1 - panel(d, unit(gate), gateRight, 0.28f, 0.28f, 0.03f, 0.5f, 0.02f) -
                        panel(d, unit(gate), gateRight, -0.28f, 0.28f, 0.03f, 0.5f, 0.02f);
    addScaled(out, mix({1.6f, 2.3f, 3.4f}, {2.6f, 3.0f, 3.6f}, smooth(0.3f, -0.05f, d[1])), opening * std::max(posts, 0.f));
    // Work light behind, a soft white wall.
    addScaled(out, {1.5f, 1.4f, 1.25f}, panel(d, unit({0.8f, 0.1f, 0.6f}), unit({0.6f, 0, -0.8f}), 0, 0.2f, 0.9f, 0.45f, 0.15f));
    return out;
}

// Open sky under clouds, brighter overhead, over wet stone.
Rgb overcastYard(const Rgb& d) {
    const Rgb zenith{1.25f, 1.32f, 1.45f}, horizon{0.72f, 0.76f, 0.82f}, ground{0.16f, 0.155f, 0.145f};
    // CIE overcast sky: the zenith is about three times as bright as the horizon; softened here by haze.
    Rgb out = d[1] >= 0 ? mix(horizon, zenith, smooth(0, 0.9f, d[1])) : mix({0.3f, 0.3f, 0.3f}, ground, smooth(0, -0.25f, d[1]));
    const float breaks = smooth(0.55f, 0.95f, dot(d, unit({0.5f, 0.75f, 0.45f})));
    addScaled(out, {1.6f, 1.55f, 1.45f}, breaks * breaks);
    // Dark sheds along the horizon.
    const float shed = smooth(0.16f, 0.13f, d[1]) * smooth(-0.02f, 0, d[1]) * smooth(-0.2f, 0.1f, std::sin(3 * std::atan2(d[2], d[0])));
    return mix(out, {0.12f, 0.12f, 0.125f}, shed);
}

// A studio of grey walls with three soft panels: judges color without adding any.
Rgb greyBox(const Rgb& d) {
    const float base = 0.2f + 0.1f * d[1];
    Rgb out{base, base, base};
    const Rgb key = unit({0.6f, 0.6f, 0.7f}), fill = unit({-0.9f, 0.2f, 0.35f}), rim = unit({-0.1f, 0.35f, -1});
    auto add = [&](const Rgb& axis, float x, float y, float strength) {
        addScaled(out, {strength, strength, strength}, panel(d, axis, unit(cross({0, 1, 0}, axis)), 0, 0, x, y, 0.06f));
    };
    add(key, 0.45f, 0.45f, 3.0f);
    add(fill, 0.25f, 0.8f, 1.1f);
    add(rim, 0.7f, 0.14f, 2.8f);
    return out;
}

// Under the cars: a work pit with tube lights along both walls and daylight at its end.
Rgb inspectionPit(const Rgb& d) {
    Rgb out = mix({0.035f, 0.04f, 0.045f}, {0.09f, 0.1f, 0.11f}, smooth(-0.7f, 0.6f, d[1]));
    for (float side : {-1.f, 1.f}) {
        const Rgb wall{side, 0, 0};
        for (float tube : {-1.6f, 0.f, 1.6f})
            addScaled(out, {7.5f, 8.6f, 8.0f}, panel(d, wall, {0, 0, 1}, tube, -side * 0.4f, 0.55f, 0.06f, 0.05f));
    }
    addScaled(out, {2.1f, 2.4f, 2.9f}, panel(d, {0, 0, -1}, {-1, 0, 0}, 0, 0.15f, 0.42f, 0.5f, 0.05f));
    // The dark belly of the car above.
    return mix(out, {0.015f, 0.014f, 0.013f}, smooth(0.75f, 0.95f, d[1]));
}

// The harbour road after sunset: a band of warm sky, cold above, lamps in a row, wet ground.
Rgb harbourDusk(const Rgb& d) {
    const Rgb west = unit({-0.7f, 0, -0.7f});
    const float towards = smooth(-0.3f, 1.f, dot(d, west));
    Rgb sky = mix({0.85f, 0.42f, 0.24f}, {0.12f, 0.17f, 0.34f}, smooth(0.0f, 0.42f, d[1]));
    sky = mix({0.16f, 0.19f, 0.3f}, sky, 0.25f + 0.75f * towards);
    addScaled(sky, {3.2f, 1.35f, 0.5f}, towards * smooth(0.14f, 0.0f, std::fabs(d[1] - 0.05f)));
    if (d[1] < 0) sky = mix(mix(sky, {0.05f, 0.05f, 0.06f}, 0.6f), {0.03f, 0.032f, 0.04f}, smooth(0, -0.35f, d[1]));
    for (int lamp = 0; lamp < 5; ++lamp) {
        const float angle = 0.5f + float(lamp) * 0.42f;
        const Rgb at = unit({std::cos(angle), 0.34f - 0.035f * float(lamp), std::sin(angle)});
        const float near = smooth(0.9976f, 0.9992f, dot(d, at));
        addScaled(sky, {34.f, 27.f, 17.f}, near);
    }
    return sky;
}

Rgb directionOf(int face, float s, float t) { // s, t in -1..1, as OpenGL's table of cube map faces
    switch (face) {
    case 0: return unit({1, -t, -s});
    case 1: return unit({-1, -t, s});
    case 2: return unit({s, 1, t});
    case 3: return unit({s, -1, -t});
    case 4: return unit({s, -t, 1});
    default: return unit({-s, -t, -1});
    }
}

Rgb texelDirection(int face, int x, int y, int size) {
    return directionOf(face, 2 * (float(x) + 0.5f) / float(size) - 1, 2 * (float(y) + 0.5f) / float(size) - 1);
}

struct FacePoint {
    int face;
    float s, t; ///< 0..1
};
FacePoint facePoint(const Rgb& d) {
    const float ax = std::fabs(d[0]), ay = std::fabs(d[1]), az = std::fabs(d[2]);
    int face;
    float s, t, m;
    if (ax >= ay && ax >= az) face = d[0] > 0 ? 0 : 1, s = d[0] > 0 ? -d[2] : d[2], t = -d[1], m = ax;
    else if (ay >= az) face = d[1] > 0 ? 2 : 3, s = d[0], t = d[1] > 0 ? d[2] : -d[2], m = ay;
    else face = d[2] > 0 ? 4 : 5, s = d[2] > 0 ? d[0] : -d[0], t = -d[1], m = az;
    if (!(m > 0)) return {0, 0.5f, 0.5f};
    return {face, (s / m + 1) / 2, (t / m + 1) / 2};
}

Rgb bilinear(const std::vector<float>& faces, int size, const FacePoint& p) {
    const float x = std::clamp(p.s * float(size) - 0.5f, 0.f, float(size - 1)),
                y = std::clamp(p.t * float(size) - 0.5f, 0.f, float(size - 1));
    const int x0 = int(x), y0 = int(y), x1 = std::min(x0 + 1, size - 1), y1 = std::min(y0 + 1, size - 1);
    auto at = [&](int i, int j) {
        const float* v = &faces[size_t((p.face * size + j) * size + i) * 3];
        return Rgb{v[0], v[1], v[2]};
    };
    return mix(mix(at(x0, y0), at(x1, y0), x - float(x0)), mix(at(x0, y1), at(x1, y1), x - float(x0)), y - float(y0));
}

std::vector<float> halved(const std::vector<float>& from, int size) {
    const int half = size / 2;
    std::vector<float> out(size_t(6 * half * half) * 3);
    for (int f = 0; f < 6; ++f)
        for (int y = 0; y < half; ++y)
            for (int x = 0; x < half; ++x)
                for (int c = 0; c < 3; ++c) {
                    auto at = [&](int i, int j) { return from[size_t((f * size + 2 * y + j) * size + 2 * x + i) * 3 + size_t(c)]; };
                    out[size_t((f * half + y) * half + x) * 3 + size_t(c)] = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4;
                }
    return out;
}

/// Filtered importance sampling of GGX (Krivanek and Colbert 2008): each sample reads the mip that its probability asks for.
std::vector<float> filteredLevel(const std::vector<std::vector<float>>& mips, int size, float roughness) {
    std::vector<float> out(size_t(6 * size * size) * 3);
    constexpr int kSamples = 64;
    const float alpha = roughness * roughness;
    struct Sample {
        Rgb light;
        int mip;
    };
    std::vector<Sample> samples;
    float weights = 0;
    for (int i = 0; i < kSamples; ++i) {
        // The golden ratio spreads the angles evenly.
        const float e2 = (float(i) + 0.5f) / kSamples, phi = 2 * kPi * std::fmod(float(i) * 0.61803399f, 1.f);
        const float cosine = std::sqrt((1 - e2) / (1 + (alpha * alpha - 1) * e2)), sine = std::sqrt(1 - cosine * cosine);
        const float nDotL = 2 * cosine * cosine - 1;
        if (nDotL <= 0) continue;
        const Rgb light{2 * cosine * sine * std::cos(phi), 2 * cosine * sine * std::sin(phi), nDotL};
        const float probability = distributionGgx(cosine, alpha) / 4;
        const float solid = 1 / (kSamples * probability), texel = 4 * kPi / (6 * float(PrefilteredLight::kSize * PrefilteredLight::kSize));
        const int mip = std::clamp(int(std::lround(0.5f * std::log2(solid / texel) + 1)), 0, int(mips.size()) - 1);
        samples.push_back({light, mip});
        weights += nDotL;
    }
    forRows(6 * size, 0, [&](int from, int to) {
        for (int row = from; row < to; ++row)
            for (int x = 0; x < size; ++x) {
                const Rgb n = texelDirection(row / size, x, row % size, size);
                const Rgb t = unit(cross(std::fabs(n[1]) < 0.9f ? Rgb{0, 1, 0} : Rgb{1, 0, 0}, n)), b = cross(n, t);
                Rgb sum{};
                for (const Sample& s : samples) {
                    Rgb d{};
                    addScaled(d, t, s.light[0]);
                    addScaled(d, b, s.light[1]);
                    addScaled(d, n, s.light[2]);
                    // Between texels: small lamps would show the samples' pattern otherwise.
                    addScaled(sum, bilinear(mips[size_t(s.mip)], PrefilteredLight::kSize >> s.mip, facePoint(d)), s.light[2]);
                }
                for (size_t c = 0; c < 3; ++c) out[size_t(row * size + x) * 3 + c] = sum[c] / weights;
            }
    });
    return out;
}

std::array<float, 9> harmonicBasis(const Rgb& d) {
    return {0.282095f,
            0.488603f * d[1],
            0.488603f * d[2],
            0.488603f * d[0],
            1.092548f * d[0] * d[1],
            1.092548f * d[1] * d[2],
            0.315392f * (3 * d[2] * d[2] - 1),
            1.092548f * d[0] * d[2],
            0.546274f * (d[0] * d[0] - d[1] * d[1])};
}

std::array<Rgb, 9> harmonicsOf(const std::vector<float>& faces, int size) {
    std::array<Rgb, 9> sums{};
    float whole = 0;
    for (int f = 0; f < 6; ++f)
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const float s = 2 * (float(x) + 0.5f) / float(size) - 1, t = 2 * (float(y) + 0.5f) / float(size) - 1;
                const float solid = 1 / std::pow(1 + s * s + t * t, 1.5f);
                whole += solid;
                const auto basis = harmonicBasis(directionOf(f, s, t));
                const float* texel = &faces[size_t((f * size + y) * size + x) * 3];
                for (size_t k = 0; k < 9; ++k)
                    for (size_t c = 0; c < 3; ++c) sums[k][c] += texel[c] * basis[k] * solid;
            }
    // Cosine lobe over pi: 1, 2/3, 1/4 by order.
    for (size_t k = 0; k < 9; ++k)
        for (float& x : sums[k]) x *= 4 * kPi / whole * (k == 0 ? 1.f : k < 4 ? 2.f / 3 : 0.25f);
    return sums;
}

} // namespace

const std::vector<LightDef>& lights() {
    static const std::vector<LightDef> all = {
        {"sodium-shed", "Sodium-lamp shed", {unit({0.55f, 0.9f, 0.5f}), {2.5f, 1.85f, 1.15f}}, sodiumShed},
        {"overcast-yard", "Overcast yard", {unit({0.5f, 0.75f, 0.45f}), {1.1f, 1.08f, 1.0f}}, overcastYard},
        {"grey-box", "Neutral grey box", {unit({0.6f, 0.7f, 0.7f}), {0.9f, 0.9f, 0.9f}}, greyBox},
        {"inspection-pit", "Inspection pit", {unit({0.15f, 0.55f, -0.8f}), {1.2f, 1.35f, 1.5f}}, inspectionPit},
        {"harbour-dusk", "Harbour road at dusk", {unit({-0.75f, 0.3f, -0.6f}), {2.6f, 1.25f, 0.6f}}, harbourDusk},
    };
    return all;
}

const LightDef* findLight(const std::string& id) {
    for (const LightDef& l : lights())
        if (l.id == id) return &l;
    return nullptr;
}

PrefilteredLight prefilter(const std::function<Rgb(const Rgb&)>& radiance) {
    PrefilteredLight out;
    constexpr int size = PrefilteredLight::kSize;
    std::vector<std::vector<float>> mips{std::vector<float>(size_t(6 * size * size) * 3)};
    forEach(6 * size_t(size), [&](size_t line) {
        const int row = int(line);
        for (int x = 0; x < size; ++x) {
            const Rgb value = radiance(texelDirection(row / size, x, row % size, size));
            std::copy(value.begin(), value.end(), &mips[0][size_t(row * size + x) * 3]);
        }
    });
    for (int s = size; s > 4; s /= 2) mips.push_back(halved(mips.back(), s));
    out.faces.push_back(mips[0]);
    for (int level = 1; level < PrefilteredLight::kLevels; ++level)
        out.faces.push_back(filteredLevel(mips, size >> level, float(level) / (PrefilteredLight::kLevels - 1)));
    out.harmonics = harmonicsOf(mips[2], size >> 2);
    return out;
}

LightPtr prefiltered(const LightDef& light) {
    static std::mutex mutex;
    static std::map<std::string, LightPtr> made;
    const std::lock_guard lock(mutex);
    LightPtr& entry = made[light.id];
    if (!entry) entry = std::make_shared<PrefilteredLight>(prefilter(light.radiance));
    return entry;
}

Rgb PrefilteredLight::at(const Rgb& d, float roughness) const {
    const float level = std::clamp(roughness, 0.f, 1.f) * (kLevels - 1);
    const int low = std::min(int(level), kLevels - 1), high = std::min(low + 1, kLevels - 1);
    const FacePoint p = facePoint(d);
    const Rgb a = bilinear(faces[size_t(low)], kSize >> low, p), b = bilinear(faces[size_t(high)], kSize >> high, p);
    return mix(a, b, level - float(low));
}

TurnedLight::TurnedLight(LightPtr light, float degrees)
    : m_light(std::move(light)), m_cosine(std::cos(degrees * kPi / 180)), m_sine(std::sin(degrees * kPi / 180)) {}

void TurnedLight::around(const float d[3], float roughness, float rgb[3]) const {
    // The inverse turn, as in the lit stages.
    const Rgb value = m_light->at({m_cosine * d[0] + m_sine * d[2], d[1], m_cosine * d[2] - m_sine * d[0]}, roughness);
    std::copy(value.begin(), value.end(), rgb);
}

Rgb diffuseLight(const PrefilteredLight& light, const Rgb& normal) {
    const auto basis = harmonicBasis(normal);
    Rgb out{};
    for (size_t k = 0; k < 9; ++k) addScaled(out, light.harmonics[k], basis[k]);
    return out;
}

} // namespace hue
