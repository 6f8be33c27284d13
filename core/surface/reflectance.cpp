#include "core/surface/reflectance.h"

#include "core/base/work.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;

float square(float x) { return x * x; }
float mix(float a, float b, float t) { return a + (b - a) * t; }
float saturate(float x) { return std::clamp(x, 0.f, 1.f); }
float fifth(float x) { return x * x * x * x * x; }
float highest(const Rgb& c) { return std::max({c[0], c[1], c[2]}); }

bool halfway(const Rgb& a, const Rgb& b, Rgb& out) {
    const auto between = directionOf(sum(a, b));
    out = between.value_or(Rgb{});
    return between.has_value();
}

float f0OfIor(float inside, float outside) { return square((inside - outside) / (inside + outside)); }

/// XYZ of a spectrum modulated by an optical path difference, fitted by Gaussians, as linear Rec. 709.
Rgb filmSensitivity(float pathNm, const Rgb& shift) {
    const float phase = 2 * kPi * pathNm * 1e-9f;
    static constexpr float value[] = {5.4856e-13f, 4.4201e-13f, 5.2481e-13f};
    static constexpr float position[] = {1.6810e+06f, 1.7953e+06f, 2.2084e+06f};
    static constexpr float variance[] = {4.3278e+09f, 9.3046e+09f, 6.6121e+09f};
    Rgb xyz;
    for (size_t c = 0; c < 3; ++c)
        xyz[c] =
            value[c] * std::sqrt(2 * kPi * variance[c]) * std::cos(position[c] * phase + shift[c]) * std::exp(-square(phase) * variance[c]);
    xyz[0] +=
        9.7470e-14f * std::sqrt(2 * kPi * 4.5282e+09f) * std::cos(2.2399e+06f * phase + shift[0]) * std::exp(-4.5282e+09f * square(phase));
    for (float& x : xyz) x /= 1.0685e-7f;
    return {3.2404542f * xyz[0] - 1.5371385f * xyz[1] - 0.4985314f * xyz[2],
            -0.9692660f * xyz[0] + 1.8760108f * xyz[1] + 0.0415560f * xyz[2],
            0.0556434f * xyz[0] - 0.2040259f * xyz[1] + 1.0572252f * xyz[2]};
}

/// Hammersley's second coordinate.
float radicalInverse(uint32_t bits) {
    bits = (bits << 16) | (bits >> 16);
    bits = ((bits & 0x55555555u) << 1) | ((bits & 0xAAAAAAAAu) >> 1);
    bits = ((bits & 0x33333333u) << 2) | ((bits & 0xCCCCCCCCu) >> 2);
    bits = ((bits & 0x0F0F0F0Fu) << 4) | ((bits & 0xF0F0F0F0u) >> 4);
    bits = ((bits & 0x00FF00FFu) << 8) | ((bits & 0xFF00FF00u) >> 8);
    return float(bits) * 2.3283064e-10f;
}

} // namespace

float distributionGgx(float nDotH, float alpha) {
    const float a2 = alpha * alpha, f = nDotH * nDotH * (a2 - 1) + 1;
    return a2 / (kPi * f * f);
}

float visibilitySmith(float nDotL, float nDotV, float alpha) {
    const float a2 = alpha * alpha;
    const float sum = nDotL * std::sqrt(nDotV * nDotV * (1 - a2) + a2) + nDotV * std::sqrt(nDotL * nDotL * (1 - a2) + a2);
    return sum > 0 ? 0.5f / sum : 0;
}

float sheenLobe(float nDotH, float nDotL, float nDotV, float roughness) {
    const float alpha = square(std::max(roughness, 0.07f)), inverse = 1 / alpha;
    const float sine2 = std::max(1 - nDotH * nDotH, 0.0078125f);
    const float distribution = (2 + inverse) * std::pow(sine2, inverse * 0.5f) / (2 * kPi);
    // Lambda of the Charlie distribution, fitted by five numbers that are interpolated by roughness.
    auto l = [alpha](float x) {
        const float t = square(1 - alpha);
        const float a = mix(21.5473f, 25.3245f, t), b = mix(3.82987f, 3.32435f, t), c = mix(0.19823f, 0.16801f, t),
                    d = mix(-1.97760f, -1.27393f, t), e = mix(-4.32054f, -4.85967f, t);
        return a / (1 + b * std::pow(x, c)) + d * x + e;
    };
    auto lambda = [&](float cosine) { return std::fabs(cosine) < 0.5f ? std::exp(l(cosine)) : std::exp(2 * l(0.5f) - l(1 - cosine)); };
    const float visibility = saturate(1 / ((1 + lambda(nDotV) + lambda(nDotL)) * (4 * nDotV * nDotL)));
    return distribution * visibility;
}

Rgb filmFresnel(float outsideIor, float filmIor, float cosine, float thicknessNm, const Rgb& baseF0) {
    // A film that thins out to nothing must vanish without a step.
    const float t = saturate(thicknessNm / 0.03f);
    const float ior = mix(outsideIor, filmIor, t * t * (3 - 2 * t));
    const float cosine2 = 1 - square(outsideIor / ior) * (1 - square(cosine));
    if (cosine2 < 0) return {1, 1, 1};
    const float inside = std::sqrt(cosine2);
    const float r0 = f0OfIor(ior, outsideIor), r12 = r0 + (1 - r0) * fifth(saturate(1 - cosine)), t121 = 1 - r12;
    const float phi21 = ior < outsideIor ? 0 : kPi;
    const float path = 2 * ior * thicknessNm * inside;
    Rgb phi, reflected, root, back;
    for (size_t c = 0; c < 3; ++c) {
        const float s = std::sqrt(std::clamp(baseF0[c], 0.f, 0.9999f)), baseIor = (1 + s) / (1 - s);
        const float r1 = f0OfIor(baseIor, ior), r23 = r1 + (1 - r1) * fifth(saturate(1 - inside));
        phi[c] = phi21 + (baseIor < ior ? kPi : 0);
        const float r123 = std::clamp(r12 * r23, 1e-5f, 0.9999f);
        root[c] = std::sqrt(r123);
        back[c] = square(t121) * r23 / (1 - r123);
        reflected[c] = r12 + back[c];
    }
    Rgb order;
    for (size_t c = 0; c < 3; ++c) order[c] = back[c] - t121;
    for (int m = 1; m <= 2; ++m) {
        const Rgb s = filmSensitivity(float(m) * path, {float(m) * phi[0], float(m) * phi[1], float(m) * phi[2]});
        for (size_t c = 0; c < 3; ++c) {
            order[c] *= root[c];
            reflected[c] += order[c] * 2 * s[c];
        }
    }
    for (float& x : reflected) x = std::max(x, 0.f);
    return reflected;
}

Mirror mirrorOf(const SurfacePoint& p, float nDotV) {
    Mirror m;
    m.alpha = square(std::max(p.roughness, 0.04f));
    m.alphaAlong = mix(m.alpha, 1, square(p.anisotropy));
    m.roughness = std::sqrt(std::sqrt(m.alphaAlong * m.alpha));
    const float dielectric = f0OfIor(p.ior, 1);
    m.f90 = mix(p.specular, 1, p.metallic);
    for (size_t c = 0; c < 3; ++c) m.f0[c] = mix(std::min(dielectric * p.specularColor[c], 1.f) * p.specular, p.baseColor[c], p.metallic);
    if (p.iridescence > 0) {
        const Rgb film = filmFresnel(1, p.iridescenceIor, nDotV, p.iridescenceThickness, m.f0);
        const float grazing = fifth(1 - saturate(nDotV));
        for (size_t c = 0; c < 3; ++c)
            // The F0 whose Schlick curve passes through the film's value here.
            m.f0[c] = mix(m.f0[c], saturate((film[c] - grazing) / std::max(1 - grazing, 1e-3f)), p.iridescence);
    }
    const auto table = readSplitSum(nDotV, m.roughness);
    m.lost = saturate(1 - table[0] - table[1]);
    m.average = table[3];
    for (size_t c = 0; c < 3; ++c) {
        // Schlick's Fresnel on average over the hemisphere, and the geometric series of bounces.
        const float fresnel = m.f0[c] + (m.f90 - m.f0[c]) / 21;
        m.more[c] = saturate(fresnel * fresnel * m.average / std::max(1 - fresnel * (1 - m.average), 1e-3f));
        m.once[c] = saturate(m.f0[c] * table[0] + m.f90 * table[1]);
        m.often[c] = m.more[c] * m.lost;
        m.below[c] = saturate(1 - m.once[c] - m.often[c]);
    }
    return m;
}

Reflected reflectParts(const SurfacePoint& p, const Rgb& view, const Rgb& light) {
    Reflected out;
    Rgb &scattered = out.scattered, &mirrored = out.mirrored;
    const Rgb& n = p.normal;
    const float nDotL = dot(n, light), nDotV = std::max(dot(n, view), 1e-4f);
    if (p.diffuseOnly) {
        scattered = scaled(p.baseColor, std::max(nDotL, 0.f) / kPi);
        return out;
    }
    const Mirror m = mirrorOf(p, nDotV);
    Rgb half;
    if (nDotL > 0 && halfway(view, light, half)) {
        const float nDotH = saturate(dot(n, half));
        float lobe;
        if (p.anisotropy > 0) {
            // KHR_materials_anisotropy: t along the stretch, b across.
            const Rgb& t = p.anisotropyDirection;
            const Rgb b = cross(n, t);
            const float a2 = m.alphaAlong * m.alpha, f[] = {m.alpha * dot(t, half), m.alphaAlong * dot(b, half), a2 * nDotH};
            const float w2 = a2 / std::max(square(f[0]) + square(f[1]) + square(f[2]), 1e-12f);
            const float distribution = a2 * w2 * w2 / kPi;
            const float gv = nDotL * std::sqrt(square(m.alphaAlong * dot(t, view)) + square(m.alpha * dot(b, view)) + square(nDotV));
            const float gl = nDotV * std::sqrt(square(m.alphaAlong * dot(t, light)) + square(m.alpha * dot(b, light)) + square(nDotL));
            lobe = distribution * 0.5f / std::max(gv + gl, 1e-6f);
        } else {
            lobe = distributionGgx(nDotH, m.alpha) * visibilitySmith(nDotL, nDotV, m.alpha);
        }
        const float grazing = fifth(1 - saturate(dot(view, half)));
        const auto fromLight = readSplitSum(nDotL, m.roughness);
        const float again = m.lost * saturate(1 - fromLight[0] - fromLight[1]) / (kPi * std::max(1 - m.average, 1e-3f));
        for (size_t c = 0; c < 3; ++c) {
            mirrored[c] = ((m.f0[c] + (std::max(m.f90, m.f0[c]) - m.f0[c]) * grazing) * lobe + m.more[c] * again) * nDotL;
            scattered[c] = m.below[c] * p.baseColor[c] * (1 - p.metallic) * (1 - p.transmission) / kPi * nDotL;
        }
    } else if (nDotL < 0 && p.transmission > 0) {
        // A light behind: its mirror image in front, seen through the surface.
        const Rgb opposite{light[0] - 2 * nDotL * n[0], light[1] - 2 * nDotL * n[1], light[2] - 2 * nDotL * n[2]};
        if (halfway(view, opposite, half)) {
            const float lobe = distributionGgx(saturate(dot(n, half)), m.alpha) * visibilitySmith(-nDotL, nDotV, m.alpha) * -nDotL;
            for (size_t c = 0; c < 3; ++c) scattered[c] = m.below[c] * p.baseColor[c] * (1 - p.metallic) * p.transmission * lobe;
        }
    }
    if (const float sheen = highest(p.sheenColor); sheen > 0) {
        const float albedo = readSplitSum(nDotV, p.sheenRoughness)[2];
        const float dim = 1 - sheen * std::min(albedo, 1.f);
        float lobe = 0;
        if (nDotL > 0 && halfway(view, light, half))
            lobe = sheenLobe(saturate(dot(n, half)), nDotL, nDotV, p.sheenRoughness) * nDotL / std::max(albedo, 1.f);
        for (size_t c = 0; c < 3; ++c) {
            scattered[c] = scattered[c] * dim + p.sheenColor[c] * lobe;
            mirrored[c] *= dim;
        }
    }
    if (p.clearcoat > 0) {
        const float coatL = dot(p.clearcoatNormal, light), coatV = std::max(dot(p.clearcoatNormal, view), 1e-4f);
        const float coatRoughness = std::max(p.clearcoatRoughness, 0.04f), coatAlpha = square(coatRoughness);
        const auto coat = readSplitSum(coatV, coatRoughness);
        const float dim = 1 - p.clearcoat * saturate(0.04f * coat[0] + coat[1]);
        float lobe = 0;
        if (coatL > 0 && halfway(view, light, half)) {
            const float grazing = fifth(1 - saturate(dot(view, half)));
            lobe = distributionGgx(saturate(dot(p.clearcoatNormal, half)), coatAlpha) * visibilitySmith(coatL, coatV, coatAlpha) *
                   (0.04f + 0.96f * grazing) * coatL * p.clearcoat;
        }
        for (size_t c = 0; c < 3; ++c) {
            scattered[c] *= dim;
            mirrored[c] = mirrored[c] * dim + lobe;
        }
    }
    return out;
}

Rgb reflect(const SurfacePoint& point, const Rgb& view, const Rgb& light) {
    const Reflected r = reflectParts(point, view, light);
    return sum(r.scattered, r.mirrored);
}

float widenedRoughness(float roughness, const Rgb& across, const Rgb& up) {
    // The variance of the slopes, for a pixel as wide as a half standard deviation each way; limited, since borders of a mesh are no bumps.
    const float spread = std::min(0.5f * (dot(across, across) + dot(up, up)), 0.18f);
    if (!(spread > 0)) return roughness;
    const float alpha = square(roughness);
    return std::sqrt(std::sqrt(std::min(alpha * alpha + spread, 1.f)));
}

// Karis, "Real Shading", SIGGRAPH course notes 2013 (the split-sum approximation):
// importance sampling of GGX by a Hammersley sequence.
std::array<float, 3> splitSum(float nDotV, float roughness, int samples) {
    const float alpha = roughness * roughness;
    const Rgb view = {std::sqrt(std::max(0.f, 1 - nDotV * nDotV)), 0, nDotV};
    float scale = 0, bias = 0, sheen = 0;
    for (int i = 0; i < samples; ++i) {
        const float e1 = (float(i) + 0.5f) / float(samples), e2 = radicalInverse(uint32_t(i));
        const float phi = 2 * kPi * e1;
        const float cosine = std::sqrt((1 - e2) / (1 + (alpha * alpha - 1) * e2)), sine = std::sqrt(std::max(0.f, 1 - cosine * cosine));
        const Rgb half = {sine * std::cos(phi), sine * std::sin(phi), cosine};
        const float vDotH = std::max(dot(view, half), 0.f);
        const float nDotL = 2 * vDotH * half[2] - view[2];
        if (nDotL > 0) {
            const float weight = visibilitySmith(nDotL, nDotV, alpha) * 4 * vDotH * nDotL / std::max(half[2], 1e-6f);
            const float grazing = fifth(1 - vDotH);
            scale += (1 - grazing) * weight;
            bias += grazing * weight;
        }
    }
    // Sheen: light directions spread evenly over the hemisphere. The lobe is so wide that it needs no more of them than these.
    const int directions = std::min(samples, 128);
    for (int i = 0; i < directions; ++i) {
        const float z = radicalInverse(uint32_t(i)), phi = 2 * kPi * (float(i) + 0.5f) / float(directions), side = std::sqrt(1 - z * z);
        const Rgb light{side * std::cos(phi), side * std::sin(phi), z};
        Rgb between;
        if (z > 0 && halfway(view, light, between)) sheen += sheenLobe(saturate(between[2]), z, nDotV, roughness) * z * 2 * kPi;
    }
    return {scale / float(samples), bias / float(samples), sheen / float(directions)};
}

const SplitSumTable& splitSumTable() {
    static const auto table = [] {
        SplitSumTable t;
        forEach(kSplitSumSize, [&](size_t line) {
            const int y = int(line);
            for (int x = 0; x < kSplitSumSize; ++x) {
                const auto entry = splitSum((float(x) + 0.5f) / kSplitSumSize, std::max(0.02f, (float(y) + 0.5f) / kSplitSumSize), 512);
                std::copy(entry.begin(), entry.end(), t.begin() + (y * kSplitSumSize + x) * 4);
            }
            // The average over the hemisphere, weighted by the cosine.
            float sum = 0, weight = 0;
            for (int x = 0; x < kSplitSumSize; ++x) {
                const float cosine = (float(x) + 0.5f) / kSplitSumSize;
                const float* entry = &t[size_t(y * kSplitSumSize + x) * 4];
                sum += (entry[0] + entry[1]) * cosine;
                weight += cosine;
            }
            for (int x = 0; x < kSplitSumSize; ++x) t[size_t(y * kSplitSumSize + x) * 4 + 3] = std::min(sum / weight, 1.f);
        });
        return t;
    }();
    return table;
}

std::array<float, 4> readSplitSum(float nDotV, float roughness) {
    const SplitSumTable& t = splitSumTable();
    const float x = std::clamp(nDotV * kSplitSumSize - 0.5f, 0.f, kSplitSumSize - 1.f);
    const float y = std::clamp(roughness * kSplitSumSize - 0.5f, 0.f, kSplitSumSize - 1.f);
    const int x0 = std::min(int(x), kSplitSumSize - 2), y0 = std::min(int(y), kSplitSumSize - 2);
    const float fx = x - float(x0), fy = y - float(y0);
    std::array<float, 4> out;
    for (size_t c = 0; c < 4; ++c) {
        auto at = [&](int i, int j) { return t[size_t((y0 + j) * kSplitSumSize + x0 + i) * 4 + c]; };
        out[c] = mix(mix(at(0, 0), at(1, 0), fx), mix(at(0, 1), at(1, 1), fx), fy);
    }
    return out;
}

} // namespace hue
