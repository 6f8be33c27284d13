#include "core/surface/reflectance.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;

float dot(const Rgb& a, const Rgb& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

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

Rgb reflect(const SurfacePoint& p, const Rgb& normal, const Rgb& view, const Rgb& light) {
    const float nDotL = dot(normal, light), nDotV = std::max(dot(normal, view), 1e-4f);
    if (nDotL <= 0) return {0, 0, 0};
    Rgb half = {view[0] + light[0], view[1] + light[1], view[2] + light[2]};
    const float length = std::sqrt(dot(half, half));
    if (length <= 0) return {0, 0, 0};
    for (float& x : half) x /= length;
    const float roughness = std::max(p.roughness, 0.04f), alpha = roughness * roughness;
    const float grazing = std::pow(1 - std::clamp(dot(view, half), 0.f, 1.f), 5.f);
    const float specular = distributionGgx(std::clamp(dot(normal, half), 0.f, 1.f), alpha) * visibilitySmith(nDotL, nDotV, alpha);
    Rgb out;
    for (size_t c = 0; c < 3; ++c) {
        const float f0 = 0.04f + (p.baseColor[c] - 0.04f) * p.metallic;
        const float fresnel = f0 + (1 - f0) * grazing;
        const float diffuse = (1 - fresnel) * p.baseColor[c] * (1 - p.metallic) / kPi;
        out[c] = (diffuse + fresnel * specular) * nDotL;
    }
    return out;
}

// Karis, "Real Shading", SIGGRAPH course notes 2013 (the split-sum approximation):
// importance sampling of GGX by a Hammersley sequence.
std::array<float, 2> splitSum(float nDotV, float roughness, int samples) {
    const float alpha = roughness * roughness;
    const Rgb view = {std::sqrt(std::max(0.f, 1 - nDotV * nDotV)), 0, nDotV};
    float scale = 0, bias = 0;
    for (int i = 0; i < samples; ++i) {
        uint32_t bits = uint32_t(i);
        bits = (bits << 16) | (bits >> 16);
        bits = ((bits & 0x55555555u) << 1) | ((bits & 0xAAAAAAAAu) >> 1);
        bits = ((bits & 0x33333333u) << 2) | ((bits & 0xCCCCCCCCu) >> 2);
        bits = ((bits & 0x0F0F0F0Fu) << 4) | ((bits & 0xF0F0F0F0u) >> 4);
        bits = ((bits & 0x00FF00FFu) << 8) | ((bits & 0xFF00FF00u) >> 8);
        const float e1 = float(i) / float(samples), e2 = float(bits) * 2.3283064e-10f;
        const float phi = 2 * kPi * e1;
        const float cosine = std::sqrt((1 - e2) / (1 + (alpha * alpha - 1) * e2)), sine = std::sqrt(std::max(0.f, 1 - cosine * cosine));
        const Rgb half = {sine * std::cos(phi), sine * std::sin(phi), cosine};
        const float vDotH = std::max(dot(view, half), 0.f);
        const float nDotL = 2 * vDotH * half[2] - view[2];
        if (nDotL <= 0) continue;
        const float weight = visibilitySmith(nDotL, nDotV, alpha) * 4 * vDotH * nDotL / std::max(half[2], 1e-6f);
        const float grazing = std::pow(1 - vDotH, 5.f);
        scale += (1 - grazing) * weight;
        bias += grazing * weight;
    }
    return {scale / float(samples), bias / float(samples)};
}

const std::array<float, size_t{kSplitSumSize} * kSplitSumSize * 2>& splitSumTable() {
    static const auto table = [] {
        std::array<float, size_t{kSplitSumSize} * kSplitSumSize * 2> t;
        for (int y = 0; y < kSplitSumSize; ++y)
            for (int x = 0; x < kSplitSumSize; ++x) {
                const auto pair = splitSum((float(x) + 0.5f) / kSplitSumSize, std::max(0.02f, (float(y) + 0.5f) / kSplitSumSize), 64);
                std::copy(pair.begin(), pair.end(), t.begin() + (y * kSplitSumSize + x) * 2);
            }
        return t;
    }();
    return table;
}

} // namespace hue
