#pragma once
// Pixels exactly as a file holds them: nothing decoded, nothing spread, one to four channels. What looks into maps, packs,
// tiles or compresses them works on these; core/maps/map.h is what shaders read.
// Threads: many may read one that nobody writes.
#include "core/base/result.h"
#include "core/base/work.h"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <string_view>
#include <vector>

namespace hue {

enum class SampleType : uint8_t { U8, U16, F16, F32 };
size_t bytesOf(SampleType);
/// "8-bit", "16-bit", "half", "float".
std::string_view nameOf(SampleType);

constexpr int kLargestSide = 16384; ///< of any map, in pixels

struct Image {
    int width = 0, height = 0, channels = 0; ///< 1..kLargestSide, 1..4
    SampleType type = SampleType::U8;
    std::vector<std::byte> samples; ///< interleaved, row 0 on top, no padding

    Image() = default;
    Image(int w, int h, int c, SampleType t)
        : width(w), height(h), channels(c), type(t), samples(size_t(w) * size_t(h) * size_t(c) * bytesOf(t)) {}
    bool empty() const { return samples.empty(); }
    size_t rowBytes() const { return size_t(width) * size_t(channels) * bytesOf(type); }
    std::byte* row(int y) { return samples.data() + size_t(y) * rowBytes(); }
    const std::byte* row(int y) const { return samples.data() + size_t(y) * rowBytes(); }
    /// One sample: 0..1 for integers, as stored for floats.
    float at(int x, int y, int channel) const;
};

/// `count` samples to floats (0..1 for integers), and back (integers are clamped and rounded; NaN becomes 0).
void toFloats(SampleType type, const std::byte* from, size_t count, float* to);
void fromFloats(SampleType type, const float* from, size_t count, std::byte* to);
/// IEEE 754 half precision.
float halfToFloat(uint16_t half);
uint16_t floatToHalf(float x);

/// One channel as floats.
struct Plane {
    int width = 0, height = 0;
    std::vector<float> values;

    Plane() = default;
    Plane(int w, int h, float fill = 0) : width(w), height(h), values(size_t(w) * size_t(h), fill) {}
    float& at(int x, int y) { return values[size_t(y) * size_t(width) + size_t(x)]; }
    float at(int x, int y) const { return values[size_t(y) * size_t(width) + size_t(x)]; }
    /// Coordinates beyond the edges come in again at the other side.
    float wrapped(int x, int y) const;
};
Plane planeOf(const Image& image, int channel);
/// Interleaves one to four planes of one size.
Image imageOf(const std::vector<Plane>& planes, SampleType type);
void setChannel(Image& image, int channel, const Plane& plane);

/// How a size is changed.
enum class Filter { Nearest, Box, Triangle, Lanczos };
std::string_view nameOf(Filter);
/// Edges wrap. Box averages when shrinking and repeats when growing; Lanczos has three lobes.
Plane resized(const Plane& plane, int width, int height, Filter filter);
Image resized(const Image& image, int width, int height, Filter filter);

} // namespace hue
