#include "core/surface/channel_targets.h"

#include "core/base/vectors.h"

#include <bit>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

using V3 = Rgb;

/// 16 bits of a number of 0..1; GLSL's packUnorm2x16 rounds the same.
uint32_t unorm(float x) { return uint32_t(std::lround(std::clamp(std::isnan(x) ? 0.f : x, 0.f, 1.f) * 65535)); }
uint32_t pair(float low, float high) { return unorm(low) | unorm(high) << 16; }

/// Octahedral: the sphere unfolded onto a square (Meyer and others 2010), 0..1 each.
uint32_t octahedral(V3 n) {
    const float sum = std::fabs(n[0]) + std::fabs(n[1]) + std::fabs(n[2]);
    float x = n[0] / sum, y = n[1] / sum;
    if (n[2] < 0) {
        const float ox = (1 - std::fabs(y)) * (x >= 0 ? 1.f : -1.f), oy = (1 - std::fabs(x)) * (y >= 0 ? 1.f : -1.f);
        x = ox;
        y = oy;
    }
    return pair(x * 0.5f + 0.5f, y * 0.5f + 0.5f);
}

/// Two directions across a normal, the same on both sides of the fence (Duff and others 2017).
std::pair<V3, V3> basisOf(const V3& n) {
    const float sign = n[2] >= 0 ? 1.f : -1.f, a = -1 / (sign + n[2]), b = n[0] * n[1] * a;
    return {{1 + sign * n[0] * n[0] * a, sign * b, -sign * n[0]}, {b, sign + n[1] * n[1] * a, -n[1]}};
}

size_t indexOf(std::string_view key) { return size_t(findChannel(key) - channels().data()); }

} // namespace

uint32_t settingFlags(const SurfaceSettings& s, int slot) {
    uint32_t flags = kCovered | uint32_t(slot & 255) << 8;
    if (s.unlit) flags |= kUnlit;
    if (s.simpleDiffuse) flags |= kSimpleDiffuse;
    if (s.has(Layer::Volume)) flags |= kSolid;
    if (!s.highlightsFade) flags |= kHighlightsStay;
    if (s.alphaMode == AlphaMode::Blend) flags |= kBlend;
    return flags;
}

SurfacePacker::SurfacePacker(const SurfaceSettings& settings, int slot) : m_settings(settings), m_flags(settingFlags(settings, slot)) {}

PackedPixel SurfacePacker::pack(const PixelGeometry& g, const std::vector<std::array<float, 4>>& v) const {
    static const size_t base = indexOf("base_color"), metallic = indexOf("metallic"), rough = indexOf("roughness"),
                        normal = indexOf("normal"), occlusion = indexOf("occlusion"), emissive = indexOf("emissive"),
                        strength = indexOf("emissive_strength"), alpha = indexOf("alpha"), ior = indexOf("ior"),
                        specular = indexOf("specular"), tint = indexOf("specular_color"), coat = indexOf("clearcoat"),
                        coatRough = indexOf("clearcoat_roughness"), coatNormal = indexOf("clearcoat_normal"),
                        sheen = indexOf("sheen_color"), sheenRough = indexOf("sheen_roughness"), film = indexOf("iridescence"),
                        filmIor = indexOf("iridescence_ior"), filmThick = indexOf("iridescence_thickness"), stretch = indexOf("anisotropy"),
                        turn = indexOf("anisotropy_rotation"), through = indexOf("transmission"), thick = indexOf("thickness"),
                        attenuation = indexOf("attenuation_color"), distance = indexOf("attenuation_distance"),
                        dispersion = indexOf("dispersion");
    PackedPixel out{};
    float* f = out.floats.data();
    for (size_t c = 0; c < 3; ++c) {
        f[c] = v[base][c];
        f[4 + c] = v[normal][c];
        f[8 + c] = v[emissive][c] * v[strength][0];
        f[12 + c] = g.position[c];
    }
    f[3] = v[alpha][0];
    f[7] = v[rough][0];
    f[11] = v[metallic][0];
    f[15] = v[occlusion][0];
    uint32_t flags = m_flags | (g.front ? uint32_t(kFrontFace) : 0u);
    const auto all = channels();
    for (size_t k = 0; k < all.size(); ++k) {
        if (!isCompiled(all[k], m_settings) || all[k].key == "vertex_offset") continue;
        for (int c = 0; c < all[k].width; ++c) {
            const float x = v[k][size_t(c)];
            if (!std::isfinite(x)) flags |= kBroken;
            else if (x < all[k].low - 1e-4f || x > all[k].high + 1e-4f) flags |= kOutside;
        }
    }
    uint32_t* w = out.words.data();
    w[0] = flags;
    w[1] = std::bit_cast<uint32_t>(v[thick][0]);
    w[2] = pair((v[ior][0] - 1) / 3, v[dispersion][0] / 20);
    w[3] = pair(v[specular][0], v[through][0]);
    w[4] = pair(v[tint][0], v[tint][1]);
    w[5] = pair(v[tint][2], v[coat][0]);
    w[6] = pair(v[coatRough][0], v[sheenRough][0]);
    w[7] = octahedral({v[coatNormal][0], v[coatNormal][1], v[coatNormal][2]});
    w[8] = pair(v[sheen][0], v[sheen][1]);
    w[9] = pair(v[sheen][2], v[film][0]);
    w[10] = pair((v[filmIor][0] - 1) / 3, v[filmThick][0] / 2000);
    // The direction of the stretch: the mesh's tangent turned, laid into the surface, as an angle from a fixed basis.
    const float a = v[turn][0], cosine = std::cos(a), sine = std::sin(a);
    const V3 along = sum(scaled(g.tangent, cosine), scaled(g.bitangent, sine));
    const V3 n = unit({f[4], f[5], f[6]});
    const auto [b1, b2] = basisOf(n);
    constexpr float turnFull = 2 * std::numbers::pi_v<float>;
    const float angle = std::atan2(dot(along, b2), dot(along, b1)) / turnFull;
    w[11] = pair(v[stretch][0], angle - std::floor(angle));
    w[12] = pair(v[attenuation][0], v[attenuation][1]);
    w[13] = pair(v[attenuation][2], 0);
    w[14] = std::bit_cast<uint32_t>(v[distance][0]);
    w[15] = std::bit_cast<uint32_t>(v[strength][0]);
    return out;
}

} // namespace hue
