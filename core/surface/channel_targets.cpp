#include "core/surface/channel_targets.h"

#include "core/base/vectors.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <numbers>

namespace hue {
namespace {

using vec3 = glm::vec3;

/// Codes of 16 bits, as hs_range() and hs_wide() in targets_glsl.cpp have them: a number that is a multiple of six, so that thirds and
/// halves are exact, and one code for what is no number.
constexpr float kRangeCodes = 65532;
constexpr uint32_t kBrokenCode = 65535;
constexpr float kWideSteps = 1365, kWideOne = 32768;

uint32_t rangeCode(float x, float low, float high) {
    if (!std::isfinite(x)) return kBrokenCode;
    return uint32_t(std::clamp((x - low) / (high - low), 0.f, 1.f) * kRangeCodes + 0.5f);
}
float ofRangeCode(uint32_t code, float low, float high) {
    return code == kBrokenCode ? std::numeric_limits<float>::quiet_NaN() : low + float(code) / kRangeCodes * (high - low);
}
uint32_t wideCode(float x) {
    if (!std::isfinite(x)) return kBrokenCode;
    return x <= 0 ? 0 : uint32_t(std::clamp(std::log2(x) * kWideSteps + kWideOne + 0.5f, 1.f, kRangeCodes));
}
float ofWideCode(uint32_t code) {
    if (code == kBrokenCode) return std::numeric_limits<float>::quiet_NaN();
    return code == 0 ? 0 : std::exp2((float(code) - kWideOne) / kWideSteps);
}

// Octahedral: the sphere unfolded onto a square (Meyer and others 2010), 16 bits each way.
uint32_t unorm(float x) { return uint32_t(std::lround(std::clamp(std::isnan(x) ? 0.f : x, 0.f, 1.f) * 65535)); }
uint32_t directionCode(const vec3& n) {
    const float sum = std::fabs(n.x) + std::fabs(n.y) + std::fabs(n.z);
    float x = n.x / sum, y = n.y / sum;
    if (n.z < 0) {
        const float ox = (1 - std::fabs(y)) * (x >= 0 ? 1.f : -1.f), oy = (1 - std::fabs(x)) * (y >= 0 ? 1.f : -1.f);
        x = ox;
        y = oy;
    }
    return unorm(x * 0.5f + 0.5f) | unorm(y * 0.5f + 0.5f) << 16;
}
vec3 ofDirectionCode(uint32_t code) {
    const float x = float(code & 65535) / 65535 * 2 - 1, y = float(code >> 16) / 65535 * 2 - 1;
    vec3 n(x, y, 1 - std::fabs(x) - std::fabs(y));
    if (n.z < 0) {
        n.x = (1 - std::fabs(y)) * (x >= 0 ? 1.f : -1.f);
        n.y = (1 - std::fabs(x)) * (y >= 0 ? 1.f : -1.f);
    }
    return glm::normalize(n);
}

size_t indexOf(std::string_view key) { return size_t(findChannel(key) - channels().data()); }

} // namespace

PackedPixel packPixel(const PixelSurface& s) {
    PackedPixel w{};
#define HUE_WHOLE(word, part) w[word] = std::bit_cast<uint32_t>(s.part);
#define HUE_FLAGS(word, part) w[word] = s.part;
#define HUE_RANGE(word, half, part, low, high) w[word] |= rangeCode(s.part, float(low), float(high)) << (16 * (half));
#define HUE_WIDE(word, half, part) w[word] |= wideCode(s.part) << (16 * (half));
#define HUE_DIRECTION(word, part) w[word] = directionCode(s.part);
#include "core/surface/targets.def"
    return w;
}

PixelSurface unpackPixel(const PackedPixel& w) {
    PixelSurface s;
#define HUE_WHOLE(word, part) s.part = std::bit_cast<float>(w[word]);
#define HUE_FLAGS(word, part) s.part = w[word];
#define HUE_RANGE(word, half, part, low, high) s.part = ofRangeCode(w[word] >> (16 * (half)) & 65535, float(low), float(high));
#define HUE_WIDE(word, half, part) s.part = ofWideCode(w[word] >> (16 * (half)) & 65535);
#define HUE_DIRECTION(word, part) s.part = ofDirectionCode(w[word]);
#include "core/surface/targets.def"
    return s;
}

int freeHalves() {
    std::array<bool, kAllWords * 2> taken{};
#define HUE_WHOLE(word, part) taken[(word)*2] = taken[(word)*2 + 1] = true;
#define HUE_FLAGS(word, part) HUE_WHOLE(word, part)
#define HUE_DIRECTION(word, part) HUE_WHOLE(word, part)
#define HUE_RANGE(word, half, part, low, high) taken[(word)*2 + (half)] = true;
#define HUE_WIDE(word, half, part) taken[(word)*2 + (half)] = true;
#include "core/surface/targets.def"
    return int(std::count(taken.begin(), taken.end(), false));
}

std::pair<glm::vec3, glm::vec3> basisOf(const glm::vec3& n) {
    const float sign = n.z >= 0 ? 1.f : -1.f, a = -1 / (sign + n.z), b = n.x * n.y * a;
    return {{1 + sign * n.x * n.x * a, sign * b, -sign * n.x}, {b, sign + n.y * n.y * a, -n.y}};
}

uint32_t settingFlags(const SurfaceSettings& s, int slot) {
    uint32_t flags = kCovered | uint32_t(slot % 255) << 8;
    if (s.unlit) flags |= kUnlit;
    if (s.simpleDiffuse) flags |= kSimpleDiffuse;
    if (s.has(Layer::Volume)) flags |= kSolid;
    if (!s.highlightsFade) flags |= kHighlightsStay;
    if (s.alphaMode == AlphaMode::Blend) flags |= kBlend;
    return flags;
}

SurfacePacker::SurfacePacker(const SurfaceSettings& settings, int slot) : m_settings(settings), m_flags(settingFlags(settings, slot)) {}

PixelSurface SurfacePacker::surface(const PixelGeometry& g, const std::vector<std::array<float, 4>>& v) const {
    static const size_t base = indexOf("base_color"), metallic = indexOf("metallic"), rough = indexOf("roughness"),
                        normal = indexOf("normal"), occlusion = indexOf("occlusion"), emissive = indexOf("emissive"),
                        strength = indexOf("emissive_strength"), alpha = indexOf("alpha"), ior = indexOf("ior"),
                        specular = indexOf("specular"), tint = indexOf("specular_color"), coat = indexOf("clearcoat"),
                        coatRough = indexOf("clearcoat_roughness"), coatNormal = indexOf("clearcoat_normal"), sheen = indexOf("sheen"),
                        sheenColor = indexOf("sheen_color"), sheenRough = indexOf("sheen_roughness"), film = indexOf("iridescence"),
                        filmIor = indexOf("iridescence_ior"), filmThick = indexOf("iridescence_thickness"), stretch = indexOf("anisotropy"),
                        turn = indexOf("anisotropy_rotation"), through = indexOf("transmission"), thick = indexOf("thickness"),
                        attenuation = indexOf("attenuation_color"), distance = indexOf("attenuation_distance"),
                        dispersion = indexOf("dispersion");
    const auto three = [&](size_t k) { return vec3(v[k][0], v[k][1], v[k][2]); };
    const auto one = [&](size_t k) { return v[k][0]; };
    PixelSurface s;
    s.flags = m_flags | (g.front ? uint32_t(kFrontFace) : 0u);
    const auto all = channels();
    for (size_t k = 0; k < all.size(); ++k) {
        if (!isCompiled(all[k], m_settings) || all[k].key == "vertex_offset") continue;
        for (int c = 0; c < all[k].width; ++c) {
            const float x = v[k][size_t(c)];
            if (!std::isfinite(x)) s.flags |= kBroken;
            else if (x < all[k].low - 1e-4f || x > all[k].high + 1e-4f) s.flags |= kOutside;
        }
    }
    s.base_color = three(base);
    s.alpha = one(alpha);
    s.occlusion = one(occlusion);
    s.position = vectorOf(g.position);
    s.normal = three(normal);
    s.roughness = one(rough);
    s.metallic = one(metallic);
    s.emissive_strength = one(strength);
    s.emissive = three(emissive) * s.emissive_strength;
    s.thickness = one(thick);
    s.attenuation_distance = one(distance);
    s.ior = one(ior);
    s.dispersion = one(dispersion);
    s.specular = one(specular);
    s.transmission = one(through);
    s.specular_color = three(tint);
    s.clearcoat = one(coat);
    s.clearcoat_roughness = one(coatRough);
    s.clearcoat_normal = three(coatNormal);
    s.sheen = one(sheen);
    s.sheen_color = three(sheenColor) * s.sheen;
    s.sheen_roughness = one(sheenRough);
    s.iridescence = one(film);
    s.iridescence_ior = one(filmIor);
    s.iridescence_thickness = one(filmThick);
    s.anisotropy = one(stretch);
    // The direction of the stretch: the mesh's tangent turned, laid into the surface, as an angle from a fixed basis.
    const vec3 along = vectorOf(g.tangent) * std::cos(one(turn)) + vectorOf(g.bitangent) * std::sin(one(turn));
    const auto [b1, b2] = basisOf(glm::normalize(s.normal));
    const float angle = std::atan2(glm::dot(along, b2), glm::dot(along, b1)) / (2 * std::numbers::pi_v<float>);
    s.angle = angle - std::floor(angle);
    s.attenuation_color = three(attenuation);
    return s;
}

} // namespace hue
