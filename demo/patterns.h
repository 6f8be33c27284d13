#pragma once
// Random numbers, noises and normals that the demo's maps are drawn with.
#include "demo/depot.h"

#include <algorithm>
#include <cmath>

namespace hue::depot {

inline float random01(int x, int y, int seed) {
    uint32_t h = uint32_t(x) * 0x9E3779B1u ^ uint32_t(y) * 0x85EBCA77u ^ uint32_t(seed) * 0xC2B2AE3Du;
    h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
    h = (h ^ (h >> 13)) * 0x297A2D39u;
    return float((h ^ (h >> 16)) >> 8) / 16777216.f;
}
inline int wrap(int x, int period) { return ((x % period) + period) % period; }
inline float smooth(float low, float high, float x) {
    const float t = std::clamp((x - low) / (high - low), 0.f, 1.f);
    return t * t * (3 - 2 * t);
}
inline float mix(float a, float b, float t) { return a + (b - a) * t; }

/// Value noise that repeats after `period` cells.
inline float noise(float x, float y, int period, int seed) {
    x *= float(period);
    y *= float(period);
    const int i = int(std::floor(x)), j = int(std::floor(y));
    const float s = smooth(0, 1, x - float(i)), t = smooth(0, 1, y - float(j));
    auto at = [&](int a, int b) { return random01(wrap(i + a, period), wrap(j + b, period), seed); };
    return mix(mix(at(0, 0), at(1, 0), s), mix(at(0, 1), at(1, 1), s), t);
}
inline float clouds(float x, float y, int period, int octaves, int seed) {
    float sum = 0, weight = 0.5f, whole = 0;
    for (int o = 0; o < octaves; ++o, period *= 2, weight *= 0.5f) {
        sum += weight * noise(x, y, period, seed + o);
        whole += weight;
    }
    return sum / whole;
}

/// Tangent-space normals of a repeating height; `depth` in tile units, green up.
inline Picture normalsOf(const Picture& height, float depth) {
    const int n = height.width;
    auto at = [&](int x, int y) { return height.values[size_t(wrap(y, n) * n + wrap(x, n))]; };
    Picture p{n, n, 3, std::vector<float>(size_t(n) * size_t(n) * 3)};
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const float dx = (at(x + 1, y) - at(x - 1, y)) * depth * float(n) / 2,
                        dy = (at(x, y + 1) - at(x, y - 1)) * depth * float(n) / 2;
            const float l = std::sqrt(dx * dx + dy * dy + 1);
            float* to = &p.values[size_t(y * n + x) * 3];
            to[0] = -dx / l * 0.5f + 0.5f;
            to[1] = dy / l * 0.5f + 0.5f;
            to[2] = 1 / l * 0.5f + 0.5f;
        }
    return p;
}

} // namespace hue::depot
