#pragma once
// Maps made by code, for tests.
#include "core/images/image.h"

#include <cmath>

namespace hue::test {

/// Soft colors with edges and grain, like a photograph of stones; alpha, where there is one, a smooth ramp.
inline Image sampleColors(int width, int height, int channels, SampleType type = SampleType::U8) {
    std::vector<Plane> planes;
    uint32_t seed = 12345;
    for (int c = 0; c < channels; ++c) {
        Plane p(width, height);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const float u = float(x) / float(width) * 6.2831853f, v = float(y) / float(height) * 6.2831853f;
                seed = seed * 1664525u + 1013904223u;
                const float grain = float(seed >> 8) / 16777216.f - 0.5f;
                const float stone = std::sin(3 * u + std::sin(2 * v)) * std::sin(4 * v + 0.5f * std::sin(u)) > 0.2f ? 0.25f : 0.f;
                p.at(x, y) =
                    c == 3 ? 0.5f + 0.4f * std::sin(u + v)
                           : 0.35f + 0.08f * float(c) + 0.15f * std::sin(u + float(c) * 0.3f) * std::cos(2 * v) + stone + 0.02f * grain;
            }
        planes.push_back(std::move(p));
    }
    return imageOf(planes, type);
}

/// Four masks that have nothing to do with each other.
inline Image sampleMasks(int width, int height) {
    std::vector<Plane> planes(4, Plane(width, height));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const float u = float(x) / float(width) * 6.2831853f, v = float(y) / float(height) * 6.2831853f;
            planes[0].at(x, y) = 0.5f + 0.4f * std::sin(3 * u);
            planes[1].at(x, y) = 0.5f + 0.4f * std::cos(2 * v);
            planes[2].at(x, y) = 0.5f + 0.4f * std::sin(2 * u - 3 * v);
            planes[3].at(x, y) = 0.5f + 0.4f * std::cos(u + 5 * v);
        }
    return imageOf(planes, SampleType::U8);
}

/// A height of bumps that repeats, 0..1.
inline Plane sampleHeight(int width, int height) {
    Plane p(width, height);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const float u = float(x) / float(width) * 6.2831853f, v = float(y) / float(height) * 6.2831853f;
            p.at(x, y) =
                0.5f + 0.2f * std::sin(2 * u + std::cos(v)) + 0.2f * std::cos(3 * v + std::sin(2 * u)) + 0.08f * std::sin(5 * u - 4 * v);
        }
    return p;
}

/// Peak signal to noise of one channel, in decibels; 99 when equal.
inline double psnr(const Image& a, const Image& b, int channel) {
    double sum = 0;
    for (int y = 0; y < a.height; ++y)
        for (int x = 0; x < a.width; ++x) {
            const double d = double(a.at(x, y, channel)) - b.at(x, y, channel);
            sum += d * d;
        }
    sum /= double(a.width) * a.height;
    return sum < 1e-10 ? 99 : -10 * std::log10(sum);
}

} // namespace hue::test
