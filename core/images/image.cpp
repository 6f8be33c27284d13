#include "core/images/image.h"

#include <Imath/half.h>
#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

namespace hue {

size_t bytesOf(SampleType t) { return t == SampleType::U8 ? 1 : t == SampleType::F32 ? 4 : 2; }

std::string_view nameOf(SampleType t) {
    static constexpr std::string_view names[] = {"8-bit", "16-bit", "half", "float"};
    return names[int(t)];
}

std::string_view nameOf(Filter f) {
    static constexpr std::string_view names[] = {"nearest", "box", "triangle", "lanczos"};
    return names[int(f)];
}

float halfToFloat(uint16_t half) { return imath_half_to_float(half); }

uint16_t floatToHalf(float x) { return imath_float_to_half(x); }

void toFloats(SampleType type, const std::byte* from, size_t count, float* to) {
    switch (type) {
    case SampleType::U8: {
        const auto* p = reinterpret_cast<const uint8_t*>(from);
        for (size_t i = 0; i < count; ++i) to[i] = float(p[i]) * (1 / 255.f);
        break;
    }
    case SampleType::U16: {
        const auto* p = reinterpret_cast<const uint16_t*>(from);
        for (size_t i = 0; i < count; ++i) to[i] = float(p[i]) * (1 / 65535.f);
        break;
    }
    case SampleType::F16: {
        const auto* p = reinterpret_cast<const uint16_t*>(from);
        for (size_t i = 0; i < count; ++i) to[i] = halfToFloat(p[i]);
        break;
    }
    case SampleType::F32: std::memcpy(to, from, count * 4); break;
    }
}

void fromFloats(SampleType type, const float* from, size_t count, std::byte* to) {
    // The comparison keeps NaN out: it becomes 0.
    auto unit = [](float x) { return x > 0 ? std::min(x, 1.f) : 0.f; };
    switch (type) {
    case SampleType::U8: {
        auto* p = reinterpret_cast<uint8_t*>(to);
        for (size_t i = 0; i < count; ++i) p[i] = uint8_t(unit(from[i]) * 255.f + 0.5f);
        break;
    }
    case SampleType::U16: {
        auto* p = reinterpret_cast<uint16_t*>(to);
        for (size_t i = 0; i < count; ++i) p[i] = uint16_t(unit(from[i]) * 65535.f + 0.5f);
        break;
    }
    case SampleType::F16: {
        auto* p = reinterpret_cast<uint16_t*>(to);
        for (size_t i = 0; i < count; ++i) p[i] = floatToHalf(from[i]);
        break;
    }
    case SampleType::F32: std::memcpy(to, from, count * 4); break;
    }
}

float Image::at(int x, int y, int channel) const {
    float v;
    toFloats(type, row(y) + (size_t(x) * size_t(channels) + size_t(channel)) * bytesOf(type), 1, &v);
    return v;
}

float Plane::wrapped(int x, int y) const {
    auto inside = [](int v, int n) { return unsigned(v) < unsigned(n) ? v : ((v % n) + n) % n; };
    return at(inside(x, width), inside(y, height));
}

Plane planeOf(const Image& image, int channel) {
    Plane out(image.width, image.height);
    forRows(image.height, 0, [&](int from, int to) {
        std::vector<float> row(size_t(image.width) * size_t(image.channels));
        for (int y = from; y < to; ++y) {
            toFloats(image.type, image.row(y), row.size(), row.data());
            for (int x = 0; x < image.width; ++x) out.at(x, y) = row[size_t(x * image.channels + channel)];
        }
    });
    return out;
}

Image imageOf(const std::vector<Plane>& planes, SampleType type) {
    const int channels = int(planes.size());
    Image out(planes[0].width, planes[0].height, channels, type);
    forRows(out.height, 0, [&](int from, int to) {
        std::vector<float> row(size_t(out.width) * size_t(channels));
        for (int y = from; y < to; ++y) {
            for (int c = 0; c < channels; ++c)
                for (int x = 0; x < out.width; ++x) row[size_t(x * channels + c)] = planes[size_t(c)].at(x, y);
            fromFloats(type, row.data(), row.size(), out.row(y));
        }
    });
    return out;
}

void setChannel(Image& image, int channel, const Plane& plane) {
    forRows(image.height, 0, [&](int from, int to) {
        const size_t step = bytesOf(image.type);
        for (int y = from; y < to; ++y)
            for (int x = 0; x < image.width; ++x)
                fromFloats(image.type, &plane.values[size_t(y) * size_t(plane.width) + size_t(x)], 1,
                           image.row(y) + (size_t(x) * size_t(image.channels) + size_t(channel)) * step);
    });
}

} // namespace hue
