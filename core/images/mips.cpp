#include "core/images/mips.h"

#include "core/base/value.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <memory>

namespace hue {
namespace {

struct SrgbTables {
    std::array<uint16_t, 256> decode;  ///< to 16-bit linear
    std::array<uint8_t, 65536> encode; ///< and back, rounded
    SrgbTables() {
        for (int i = 0; i < 256; ++i) decode[size_t(i)] = uint16_t(std::lround(srgbToLinear(float(i) / 255.f) * 65535.f));
        for (int i = 0; i < 65536; ++i) encode[size_t(i)] = uint8_t(std::lround(linearToSrgb(float(i) / 65535.f) * 255.f));
    }
};
const SrgbTables& srgbTables() {
    static const auto tables = std::make_unique<SrgbTables>();
    return *tables;
}

int colorsOf(int channels) { return channels >= 3 ? 3 : 1; }

template <int channels> void halveBytes(const uint8_t* a, const uint8_t* b, uint8_t* to, int width) {
    for (int x = 0; x < width; ++x, a += 2 * channels, b += 2 * channels, to += channels)
        for (int c = 0; c < channels; ++c) to[c] = uint8_t((a[c] + a[c + channels] + b[c] + b[c + channels] + 2) >> 2);
}
template <int channels> void halveShorts(const uint16_t* a, const uint16_t* b, uint16_t* to, int width) {
    for (int x = 0; x < width; ++x, a += 2 * channels, b += 2 * channels, to += channels)
        for (int c = 0; c < channels; ++c) to[c] = uint16_t((uint32_t(a[c]) + a[c + channels] + b[c] + b[c + channels] + 2) >> 2);
}
template <int channels> void halveEncoded(const uint8_t* a, const uint8_t* b, uint8_t* to, int width) {
    const SrgbTables& t = srgbTables();
    constexpr int colors = channels >= 3 ? 3 : 1;
    for (int x = 0; x < width; ++x, a += 2 * channels, b += 2 * channels, to += channels) {
        for (int c = 0; c < colors; ++c)
            to[c] = t.encode[(uint32_t(t.decode[a[c]]) + t.decode[a[c + channels]] + t.decode[b[c]] + t.decode[b[c + channels]] + 2) >> 2];
        for (int c = colors; c < channels; ++c) to[c] = uint8_t((a[c] + a[c + channels] + b[c] + b[c + channels] + 2) >> 2);
    }
}

using HalveBytes = void (*)(const uint8_t*, const uint8_t*, uint8_t*, int);
using HalveShorts = void (*)(const uint16_t*, const uint16_t*, uint16_t*, int);

/// A row as linear floats, and back.
void decodeRow(const Image& image, int y, bool encoded, float* out) {
    const size_t count = size_t(image.width) * size_t(image.channels);
    toFloats(image.type, image.row(y), count, out);
    if (!encoded) return;
    for (int x = 0; x < image.width; ++x)
        for (int c = 0; c < colorsOf(image.channels); ++c) {
            float& v = out[x * image.channels + c];
            v = srgbToLinear(v);
        }
}
void encodeRow(Image& image, int y, bool encoded, float* row) {
    if (encoded)
        for (int x = 0; x < image.width; ++x)
            for (int c = 0; c < colorsOf(image.channels); ++c) {
                float& v = row[x * image.channels + c];
                v = linearToSrgb(std::max(v, 0.f));
            }
    fromFloats(image.type, row, size_t(image.width) * size_t(image.channels), image.row(y));
}

/// Area average for any size: of n pixels, floor(n/2) remain, each of which covers n/floor(n/2) old ones.
Image halvedByArea(const Image& image, bool encoded, int threads) {
    Image out(std::max(1, image.width / 2), std::max(1, image.height / 2), image.channels, image.type);
    struct Tap {
        int at[3];
        float weight[3];
    };
    auto taps = [](int from, int to) {
        std::vector<Tap> list;
        const float span = float(from) / float(to);
        for (int i = 0; i < to; ++i) {
            Tap t{};
            const float left = float(i) * span, right = left + span;
            for (int k = 0; k < 3; ++k) {
                const int at = std::min(int(left) + k, from - 1);
                t.at[k] = at;
                t.weight[k] = int(left) + k < from
                                  ? std::max(0.f, std::min(float(int(left) + k + 1), right) - std::max(float(int(left) + k), left)) / span
                                  : 0;
            }
            list.push_back(t);
        }
        return list;
    };
    const std::vector<Tap> across = taps(image.width, out.width), down = taps(image.height, out.height);
    forRows(out.height, threads, [&](int from, int to) {
        std::vector<float> row(size_t(image.width) * size_t(image.channels)), sum(size_t(out.width) * size_t(out.channels));
        for (int y = from; y < to; ++y) {
            std::fill(sum.begin(), sum.end(), 0.f);
            for (int k = 0; k < 3; ++k) {
                if (down[size_t(y)].weight[k] <= 0) continue;
                decodeRow(image, down[size_t(y)].at[k], encoded, row.data());
                for (int x = 0; x < out.width; ++x)
                    for (int j = 0; j < 3; ++j) {
                        const float w = down[size_t(y)].weight[k] * across[size_t(x)].weight[j];
                        const float* from_ = &row[size_t(across[size_t(x)].at[j]) * size_t(image.channels)];
                        if (w > 0)
                            for (int c = 0; c < image.channels; ++c) sum[size_t(x * image.channels + c)] += w * from_[c];
                    }
            }
            encodeRow(out, y, encoded, sum.data());
        }
    });
    return out;
}

} // namespace

Image halved(const Image& image, bool encoded, int threads) {
    const bool integer = image.type == SampleType::U8 || (image.type == SampleType::U16 && !encoded);
    if (!integer || image.width % 2 || image.height % 2) return halvedByArea(image, encoded, threads);
    Image out(image.width / 2, image.height / 2, image.channels, image.type);
    static constexpr HalveBytes plain[] = {halveBytes<1>, halveBytes<2>, halveBytes<3>, halveBytes<4>};
    static constexpr HalveBytes light[] = {halveEncoded<1>, halveEncoded<2>, halveEncoded<3>, halveEncoded<4>};
    static constexpr HalveShorts shorts[] = {halveShorts<1>, halveShorts<2>, halveShorts<3>, halveShorts<4>};
    const size_t kind = size_t(image.channels - 1);
    forRows(out.height, threads, [&](int from, int to) {
        for (int y = from; y < to; ++y) {
            const std::byte *a = image.row(2 * y), *b = image.row(2 * y + 1);
            if (image.type == SampleType::U8)
                (encoded ? light : plain)[kind](reinterpret_cast<const uint8_t*>(a), reinterpret_cast<const uint8_t*>(b),
                                                reinterpret_cast<uint8_t*>(out.row(y)), out.width);
            else
                shorts[kind](reinterpret_cast<const uint16_t*>(a), reinterpret_cast<const uint16_t*>(b),
                             reinterpret_cast<uint16_t*>(out.row(y)), out.width);
        }
    });
    return out;
}

float raisedRoughness(float roughness, float meanLength) {
    const float r = std::clamp(meanLength, 0.f, 1.f);
    if (r >= 1) return roughness;
    const float alpha = roughness * roughness;
    // 1/kappa of the distribution whose mean has this length.
    const float spread = (1 - r * r) / std::max(3 * r - r * r * r, 1e-3f);
    return std::sqrt(std::sqrt(std::min(1.f, alpha * alpha + spread)));
}

namespace {

/// Averages directions exactly: unlike the levels, it is never renormalised, so its length tells the spread.
std::vector<Plane> halvedPlanes(const std::vector<Plane>& from) {
    std::vector<Plane> out;
    for (const Plane& p : from) {
        Plane half(std::max(1, p.width / 2), std::max(1, p.height / 2));
        for (int y = 0; y < half.height; ++y)
            for (int x = 0; x < half.width; ++x) {
                float sum = 0;
                for (int k = 0; k < 4; ++k) sum += p.at(std::min(2 * x + (k & 1), p.width - 1), std::min(2 * y + (k >> 1), p.height - 1));
                half.at(x, y) = sum / 4;
            }
        out.push_back(std::move(half));
    }
    return out;
}

/// Unit vectors of an encoded normal; a missing Z is rebuilt.
std::vector<Plane> directionsOf(const Image& image, std::array<int, 3> channel) {
    std::vector<Plane> n;
    for (int c = 0; c < 3; ++c)
        n.push_back(channel[size_t(c)] >= 0 ? planeOf(image, channel[size_t(c)]) : Plane(image.width, image.height, 1));
    for (size_t i = 0; i < n[0].values.size(); ++i) {
        float v[3];
        for (int c = 0; c < 3; ++c) v[c] = n[size_t(c)].values[i] * 2 - 1;
        if (channel[2] < 0) v[2] = std::sqrt(std::max(0.f, 1 - v[0] * v[0] - v[1] * v[1]));
        const float length = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
        for (int c = 0; c < 3; ++c) n[size_t(c)].values[i] = length > 1e-6f ? v[c] / length : c == 2 ? 1.f : 0.f;
    }
    return n;
}

float coverageOf(const Plane& p, float cutoff, float scale) {
    size_t above = 0;
    for (float v : p.values) above += v * scale >= cutoff;
    return float(above) / float(p.values.size());
}

} // namespace

std::vector<Image> makeMips(Image top, const MipMeaning& m, int threads) {
    std::vector<Image> levels;
    levels.push_back(std::move(top));
    const bool own = m.normal[0] >= 0 && m.normal[1] >= 0;
    const bool raise = m.roughness >= 0 && (m.normals || own);
    std::vector<Plane> directions;
    if (raise && m.normals) directions = directionsOf(*m.normals, {0, 1, m.normals->channels >= 3 ? 2 : -1});
    else if (own) directions = directionsOf(levels[0], m.normal);
    const float covered = m.coverage >= 0 ? coverageOf(planeOf(levels[0], m.coverage), m.cutoff, 1) : 0;
    // What is raised or scaled starts anew from the plain average of each level.
    Plane rough = raise ? planeOf(levels[0], m.roughness) : Plane{};
    Plane mask = m.coverage >= 0 ? planeOf(levels[0], m.coverage) : Plane{};
    while (levels.back().width > 1 || levels.back().height > 1) {
        Image next = halved(levels.back(), m.encoded, threads);
        if (!directions.empty()) directions = halvedPlanes(directions);
        if (own)
            for (int c = 0; c < 3; ++c) {
                if (m.normal[size_t(c)] < 0) continue;
                Plane encoded(next.width, next.height);
                for (size_t i = 0; i < encoded.values.size(); ++i) {
                    const float x = directions[0].values[i], y = directions[1].values[i], z = directions[2].values[i];
                    const float length = std::sqrt(x * x + y * y + z * z), v = directions[size_t(c)].values[i];
                    encoded.values[i] = length > 1e-6f ? v / length * 0.5f + 0.5f : c == 2 ? 1.f : 0.5f;
                }
                setChannel(next, m.normal[size_t(c)], encoded);
            }
        if (raise) {
            rough = halvedPlanes({rough})[0];
            Plane raised = rough;
            for (size_t i = 0; i < raised.values.size(); ++i) {
                const float x = directions[0].values[i], y = directions[1].values[i], z = directions[2].values[i];
                raised.values[i] = raisedRoughness(rough.values[i], std::sqrt(x * x + y * y + z * z));
            }
            setChannel(next, m.roughness, raised);
        }
        if (m.coverage >= 0) {
            mask = halvedPlanes({mask})[0];
            float low = 0, high = 8;
            for (int step = 0; step < 24; ++step) {
                const float scale = (low + high) / 2;
                (coverageOf(mask, m.cutoff, scale) < covered ? low : high) = scale;
            }
            // Only whole pixels can cover; of the two nearest scales the one that comes closer is taken.
            const float scale =
                std::fabs(coverageOf(mask, m.cutoff, low) - covered) < std::fabs(coverageOf(mask, m.cutoff, high) - covered) ? low : high;
            Plane scaled = mask;
            for (float& v : scaled.values) v = std::min(v * scale, 1.f);
            setChannel(next, m.coverage, scaled);
        }
        levels.push_back(std::move(next));
    }
    return levels;
}

} // namespace hue
