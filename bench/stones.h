#pragma once
// Sample pixels and a stopwatch for the benchmarks of maps.
#include "core/images/image.h"

#include <chrono>
#include <cmath>
#include <functional>

namespace hue::bench {

/// The shortest of so many times.
inline double seconds(int times, const std::function<void()>& work) {
    double best = 1e9;
    for (int i = 0; i < times; ++i) {
        const auto start = std::chrono::steady_clock::now();
        work();
        best = std::min(best, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    return best;
}

/// Stones with grain: neither flat nor pure noise, as maps are.
inline Plane stones(int size, int seed) {
    Plane p(size, size);
    forRows(size, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < size; ++x) {
                const float u = float(x) / float(size) * 6.2831853f, v = float(y) / float(size) * 6.2831853f, k = float(seed);
                uint32_t h = uint32_t(x) * 0x9E3779B1u ^ uint32_t(y) * 0x85EBCA77u ^ uint32_t(seed) * 0xC2B2AE3Du;
                h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
                const float grain = float((h ^ (h >> 13)) >> 8) / 16777216.f - 0.5f;
                p.at(x, y) = 0.5f + 0.2f * std::sin(9 * u + k + std::sin(7 * v)) * std::sin(11 * v + k) +
                             0.12f * std::sin(40 * u + 3 * std::sin(13 * v + k)) + 0.06f * grain;
            }
    });
    return p;
}

} // namespace hue::bench
