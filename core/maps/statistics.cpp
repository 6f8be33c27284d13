#include "core/maps/statistics.h"

#include "core/images/mips.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <mutex>

namespace hue {
namespace {

/// Sums of one channel, from bands of rows.
struct Sums {
    std::vector<uint32_t> counts; ///< by stored value, of integers and of floats at 16 bits over their range
    float least = INFINITY, most = -INFINITY;
    double sum = 0, squares = 0;
    size_t broken = 0, outside = 0, finite = 0;

    void add(const Sums& o) {
        for (size_t i = 0; i < counts.size(); ++i) counts[i] += o.counts[i];
        least = std::min(least, o.least), most = std::max(most, o.most);
        sum += o.sum, squares += o.squares;
        broken += o.broken, outside += o.outside, finite += o.finite;
    }
};

template <class T> void countIntegers(const Image& image, int from, int to, std::vector<Sums>& sums) {
    for (int y = from; y < to; ++y) {
        const auto* p = reinterpret_cast<const T*>(image.row(y));
        for (int x = 0; x < image.width; ++x)
            for (int c = 0; c < image.channels; ++c) ++sums[size_t(c)].counts[*p++];
    }
}

ChannelFacts factsOfCounts(const Sums& s) {
    ChannelFacts f;
    const size_t n = s.counts.size();
    const double top = double(n - 1);
    size_t total = 0;
    double sum = 0, squares = 0;
    int first = -1, last = 0;
    for (size_t v = 0; v < n; ++v) {
        if (!s.counts[v]) continue;
        ++f.levels;
        if (first < 0) first = int(v);
        last = int(v);
        total += s.counts[v];
        const double x = double(v) / top;
        sum += x * s.counts[v], squares += x * x * s.counts[v];
        f.share[v * ChannelFacts::kBins / n] += float(s.counts[v]);
    }
    for (float& x : f.share) x /= float(total);
    f.least = float(first / top), f.most = float(last / top);
    f.mean = float(sum / double(total));
    f.deviation = float(std::sqrt(std::max(0.0, squares / double(total) - sum / double(total) * (sum / double(total)))));
    return f;
}

uint64_t mixed(uint64_t h) {
    h ^= h >> 33;
    h *= 0xFF51AFD7ED558CCDull;
    h ^= h >> 33;
    return h;
}

/// Alike for the same pixels in a grey, an RGB and an RGBA file.
uint64_t hashPixels(const Image& image, int threads) {
    std::vector<uint64_t> rows(size_t(image.height));
    forRows(image.height, threads, [&](int from, int to) {
        const size_t step = bytesOf(image.type);
        for (int y = from; y < to; ++y) {
            uint64_t h = uint64_t(y) * 0x9E3779B97F4A7C15ull;
            const std::byte* p = image.row(y);
            for (int x = 0; x < image.width; ++x, p += step * size_t(image.channels)) {
                auto sample = [&](int c) {
                    uint32_t v = 0;
                    std::memcpy(&v, p + step * size_t(c), step);
                    return uint64_t(v);
                };
                const bool grey = image.channels < 3;
                const uint64_t r = sample(0), g = grey ? r : sample(1), b = grey ? r : sample(2);
                const uint64_t one = image.type == SampleType::U8    ? 255
                                     : image.type == SampleType::U16 ? 65535
                                     : image.type == SampleType::F16 ? 0x3C00
                                                                     : 0x3F800000;
                const uint64_t a = image.channels == 2 ? sample(1) : image.channels == 4 ? sample(3) : one;
                h = (h ^ (r | g << 32)) * 0x100000001B3ull;
                h = (h ^ (b | a << 32)) * 0x100000001B3ull;
                h ^= h >> 29;
            }
            rows[size_t(y)] = mixed(h);
        }
    });
    uint64_t h = mixed(uint64_t(image.width) << 32 | uint64_t(image.height)) ^ uint64_t(image.type);
    for (uint64_t r : rows) h = mixed(h * 31 + r);
    return h;
}

/// At most `side` pixels a side, by averaging; enough for correlations and sketches.
Image small(const Image& image, int side) {
    const auto larger = [side](const Image& i) { return i.width > side * 2 && i.height > side * 2; };
    if (!larger(image)) return image;
    Image out = halved(image, false);
    while (larger(out)) out = halved(out, false);
    return out;
}

float correlation(const std::vector<float>& a, const std::vector<float>& b) {
    double sa = 0, sb = 0, aa = 0, bb = 0, ab = 0;
    const double n = double(a.size());
    for (size_t i = 0; i < a.size(); ++i) {
        sa += a[i], sb += b[i];
        aa += double(a[i]) * a[i], bb += double(b[i]) * b[i], ab += double(a[i]) * b[i];
    }
    const double va = aa - sa * sa / n, vb = bb - sb * sb / n;
    if (va < 1e-9 * n || vb < 1e-9 * n) return 1;
    return float((ab - sa * sb / n) / std::sqrt(va * vb));
}

NormalFacts normalsOf(const Image& image) {
    NormalFacts f;
    // Full resolution, but not every pixel of a very large map.
    const int step = std::max(1, int(std::sqrt(double(image.width) * image.height / 1.0e6)));
    size_t count = 0, unit = 0, away = 0;
    double lengths = 0, z = 0, a = 0, b = 0, aa = 0, bb = 0, ab = 0;
    size_t pairs = 0;
    f.shortest = INFINITY;
    auto decoded = [&](int x, int y, float* v) {
        float row[4];
        toFloats(image.type, image.row(y % image.height) + size_t(x % image.width) * size_t(image.channels) * bytesOf(image.type),
                 size_t(image.channels), row);
        for (int c = 0; c < 3; ++c) v[c] = row[c] * 2 - 1;
    };
    for (int y = 0; y < image.height; y += step)
        for (int x = 0; x < image.width; x += step) {
            float v[3];
            decoded(x, y, v);
            const float length = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
            if (!std::isfinite(length)) continue;
            ++count;
            lengths += length;
            f.shortest = std::min(f.shortest, length), f.longest = std::max(f.longest, length);
            unit += std::fabs(length - 1) < 0.06f;
            away += v[2] < -0.02f;
            z += v[2];
            float right[3], left[3], down[3], up[3];
            decoded(x + 1, y, right), decoded(x + image.width - 1, y, left), decoded(x, y + 1, down), decoded(x, y + image.height - 1, up);
            auto slope = [](const float* n, int c) { return n[c] / std::max(n[2], 0.15f); };
            // Slopes are -dh/dx and, with green up and rows downward, +dh/dy; so these two are opposite when green is up.
            const double dxy = slope(down, 0) - slope(up, 0), dyx = -(slope(right, 1) - slope(left, 1));
            if (!std::isfinite(dxy) || !std::isfinite(dyx)) continue;
            ++pairs;
            a += dxy, b += dyx, aa += dxy * dxy, bb += dyx * dyx, ab += dxy * dyx;
        }
    if (!count) return f;
    f.meanLength = float(lengths / double(count));
    f.unitShare = float(unit) / float(count), f.awayShare = float(away) / float(count);
    f.meanZ = float(z / double(count));
    if (pairs > 16) {
        const double n = double(pairs), va = aa - a * a / n, vb = bb - b * b / n;
        if (va > 1e-6 * n && vb > 1e-6 * n) f.greenEvidence = float((ab - a * b / n) / std::sqrt(va * vb));
    }
    if (f.greenEvidence > 0.15f) f.green = GreenConvention::Up;
    if (f.greenEvidence < -0.15f) f.green = GreenConvention::Down;
    return f;
}

} // namespace

MapFacts factsOf(const Image& image, int threads) {
    MapFacts f;
    f.width = image.width, f.height = image.height, f.channels = image.channels, f.type = image.type;
    const size_t channels = size_t(image.channels);
    std::mutex mutex;
    if (image.type == SampleType::U8 || image.type == SampleType::U16) {
        const size_t values = image.type == SampleType::U8 ? 256 : 65536;
        std::vector<Sums> all(channels);
        for (Sums& s : all) s.counts.assign(values, 0);
        forRows(image.height, threads, [&](int from, int to) {
            std::vector<Sums> part(channels);
            for (Sums& s : part) s.counts.assign(values, 0);
            if (image.type == SampleType::U8) countIntegers<uint8_t>(image, from, to, part);
            else countIntegers<uint16_t>(image, from, to, part);
            const std::lock_guard lock(mutex);
            for (size_t c = 0; c < channels; ++c)
                for (size_t v = 0; v < values; ++v) all[c].counts[v] += part[c].counts[v];
        });
        for (size_t c = 0; c < channels; ++c) f.channel[c] = factsOfCounts(all[c]);
    } else {
        std::vector<Sums> all(channels);
        auto pass = [&](auto each) {
            forRows(image.height, threads, [&](int from, int to) {
                std::vector<Sums> part(channels);
                for (size_t c = 0; c < channels; ++c) part[c].counts.assign(all[c].counts.size(), 0);
                std::vector<float> row(size_t(image.width) * channels);
                for (int y = from; y < to; ++y) {
                    toFloats(image.type, image.row(y), row.size(), row.data());
                    for (size_t i = 0; i < row.size(); ++i) each(part[i % channels], row[i], i % channels);
                }
                const std::lock_guard lock(mutex);
                for (size_t c = 0; c < channels; ++c) all[c].add(part[c]);
            });
        };
        pass([](Sums& s, float v, size_t) {
            if (!std::isfinite(v)) {
                ++s.broken;
                return;
            }
            s.least = std::min(s.least, v), s.most = std::max(s.most, v);
            s.sum += v, s.squares += double(v) * v;
            s.outside += v < 0 || v > 1;
            ++s.finite;
        });
        std::vector<Sums> first = all;
        for (Sums& s : all) {
            s = {};
            s.counts.assign(65536, 0);
        }
        pass([&](Sums& s, float v, size_t c) {
            const float span = first[c].most - first[c].least;
            if (std::isfinite(v)) ++s.counts[span > 0 ? size_t(std::lround((v - first[c].least) / span * 65535)) : 0];
        });
        for (size_t c = 0; c < channels; ++c) {
            ChannelFacts& k = f.channel[c];
            const Sums& s = first[c];
            k.broken = s.broken, k.outside = s.outside;
            if (!s.finite) continue;
            k.least = s.least, k.most = s.most;
            k.mean = float(s.sum / double(s.finite));
            k.deviation = float(std::sqrt(std::max(0.0, s.squares / double(s.finite) - double(k.mean) * k.mean)));
            k.binLow = std::min(0.f, s.least), k.binHigh = std::max(1.f, s.most);
            for (size_t v = 0; v < 65536; ++v) {
                if (!all[c].counts[v]) continue;
                ++k.levels;
                const float x = s.least + (s.most - s.least) * float(v) / 65535;
                const int bin = std::clamp(int((x - k.binLow) / (k.binHigh - k.binLow) * ChannelFacts::kBins), 0, ChannelFacts::kBins - 1);
                k.share[size_t(bin)] += float(all[c].counts[v]) / float(s.finite);
            }
        }
    }
    f.pixels = hashPixels(image, threads);

    const Image shrunk = small(image, 256);
    std::vector<Plane> planes;
    for (int c = 0; c < image.channels; ++c) planes.push_back(planeOf(shrunk, c));
    for (Plane& p : planes)
        for (float& v : p.values)
            if (!std::isfinite(v)) v = 0;
    const size_t texels = planes[0].values.size();
    if (image.channels >= 3) {
        f.grey = planes[0].values == planes[1].values && planes[1].values == planes[2].values;
        f.likeness = std::min({correlation(planes[0].values, planes[1].values), correlation(planes[1].values, planes[2].values),
                               correlation(planes[0].values, planes[2].values)});
        f.normals = normalsOf(image);
    } else {
        f.grey = true;
    }
    // Edges of what is brightest in the map, or of the slopes.
    Plane light(shrunk.width, shrunk.height);
    for (size_t i = 0; i < texels; ++i)
        light.values[i] = image.channels >= 3 ? (planes[0].values[i] + planes[1].values[i] + planes[2].values[i]) / 3 : planes[0].values[i];
    Plane edges(shrunk.width, shrunk.height);
    double between = 0, whole = 0, mean = 0;
    for (float v : light.values) mean += v;
    mean /= double(texels);
    for (int y = 0; y < shrunk.height; ++y)
        for (int x = 0; x < shrunk.width; ++x) {
            float d = 0;
            for (size_t c = 0; c < std::min<size_t>(planes.size(), 3); ++c) {
                const Plane& p = planes[c];
                d += std::fabs(p.wrapped(x + 1, y) - p.wrapped(x - 1, y)) + std::fabs(p.wrapped(x, y + 1) - p.wrapped(x, y - 1));
            }
            edges.at(x, y) = d;
            const double v = light.at(x, y) - mean;
            whole += v * v;
            between += v * (light.wrapped(x + 1, y) - mean);
        }
    f.smoothness = whole > 1e-9 ? float(std::clamp(between / whole, 0.0, 1.0)) : 1;
    f.sketch = resized(edges, MapFacts::kSketch, MapFacts::kSketch, Filter::Box).values;
    return f;
}

} // namespace hue
