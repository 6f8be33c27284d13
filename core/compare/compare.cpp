#include "core/compare/compare.h"

#include "core/base/value.h"
#include "core/base/work.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

const std::array<float, 256>& linearTable() {
    static const auto table = [] {
        std::array<float, 256> t;
        for (size_t i = 0; i < 256; ++i) t[i] = srgbToLinear(float(i) / 255);
        return t;
    }();
    return table;
}

const uint8_t* pixelOf(const PictureView& p, int x, int y, int width, int height) {
    if (p.width == width && p.height == height) return p.rgba + (size_t(y) * size_t(width) + size_t(x)) * 4;
    const int sx = std::min(x * p.width / width, p.width - 1), sy = std::min(y * p.height / height, p.height - 1);
    return p.rgba + (size_t(sy) * size_t(p.width) + size_t(sx)) * 4;
}

} // namespace

Lab labOf(const Rgb& c) {
    const float xyz[3] = {(0.4124564f * c[0] + 0.3575761f * c[1] + 0.1804375f * c[2]) / 0.9504700f,
                          0.2126729f * c[0] + 0.7151522f * c[1] + 0.0721750f * c[2],
                          (0.0193339f * c[0] + 0.1191920f * c[1] + 0.9503041f * c[2]) / 1.0888300f};
    float f[3];
    for (int i = 0; i < 3; ++i) f[i] = xyz[i] > 216.f / 24389 ? std::cbrt(xyz[i]) : (24389.f / 27 * xyz[i] + 16) / 116;
    return {116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])};
}

float ciede2000(const Lab& first, const Lab& second) {
    constexpr double pi = std::numbers::pi;
    const double c1 = std::hypot(first[1], first[2]), c2 = std::hypot(second[1], second[2]);
    const double mean7 = std::pow((c1 + c2) / 2, 7), g = 0.5 * (1 - std::sqrt(mean7 / (mean7 + 6103515625.0))); // 25^7
    const double a1 = (1 + g) * first[1], a2 = (1 + g) * second[1];
    const double chroma1 = std::hypot(a1, first[2]), chroma2 = std::hypot(a2, second[2]);
    auto hue = [&](double a, double b) {
        if (a == 0 && b == 0) return 0.0;
        const double h = std::atan2(b, a);
        return h < 0 ? h + 2 * pi : h;
    };
    const double h1 = hue(a1, first[2]), h2 = hue(a2, second[2]);
    const double dL = second[0] - first[0], dC = chroma2 - chroma1;
    double dh = 0;
    if (chroma1 * chroma2 != 0) {
        dh = h2 - h1;
        if (dh > pi) dh -= 2 * pi;
        else if (dh < -pi) dh += 2 * pi;
    }
    const double dH = 2 * std::sqrt(chroma1 * chroma2) * std::sin(dh / 2);
    const double meanL = (first[0] + second[0]) / 2.0, meanC = (chroma1 + chroma2) / 2;
    double meanH = h1 + h2;
    if (chroma1 * chroma2 != 0) {
        if (std::fabs(h1 - h2) <= pi) meanH /= 2;
        else meanH = (meanH + (meanH < 2 * pi ? 2 * pi : -2 * pi)) / 2;
    }
    const double degree = pi / 180;
    const double t = 1 - 0.17 * std::cos(meanH - 30 * degree) + 0.24 * std::cos(2 * meanH) + 0.32 * std::cos(3 * meanH + 6 * degree) -
                     0.20 * std::cos(4 * meanH - 63 * degree);
    const double turn = (meanH / degree - 275) / 25, theta = 30 * degree * std::exp(-turn * turn);
    const double c7 = std::pow(meanC, 7), rc = 2 * std::sqrt(c7 / (c7 + 6103515625.0));
    const double l50 = (meanL - 50) * (meanL - 50);
    const double sl = 1 + 0.015 * l50 / std::sqrt(20 + l50), sc = 1 + 0.045 * meanC, sh = 1 + 0.015 * meanC * t;
    const double rt = -std::sin(2 * theta) * rc;
    const double l = dL / sl, c = dC / sc, h = dH / sh;
    return float(std::sqrt(std::max(0.0, l * l + c * c + h * h + rt * c * h)));
}

Histogram histogramOf(const PictureView& p) {
    Histogram out;
    const size_t count = size_t(p.width) * size_t(p.height);
    std::array<std::array<uint32_t, Histogram::kBins>, 3> bins{};
    for (size_t i = 0; i < count; ++i)
        for (size_t c = 0; c < 3; ++c) ++bins[c][p.rgba[i * 4 + c] * Histogram::kBins / 256];
    for (size_t c = 0; c < 3; ++c)
        for (size_t b = 0; b < Histogram::kBins; ++b) out.share[c][b] = count ? float(bins[c][b]) / float(count) : 0;
    return out;
}

Comparison compare(const PictureView& a, const PictureView& b, bool withFlip) {
    Comparison out;
    out.first = histogramOf(a);
    out.second = histogramOf(b);
    const size_t count = size_t(a.width) * size_t(a.height);
    if (!count || !b.width || !b.height) return out;
    std::vector<float> errors(count);
    const auto& linear = linearTable();
    forRows(a.height, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < a.width; ++x) {
                const uint8_t *p = pixelOf(a, x, y, a.width, a.height), *q = pixelOf(b, x, y, a.width, a.height);
                float& e = errors[size_t(y) * size_t(a.width) + size_t(x)];
                if (p[0] == q[0] && p[1] == q[1] && p[2] == q[2]) e = 0;
                else e = ciede2000(labOf({linear[p[0]], linear[p[1]], linear[p[2]]}), labOf({linear[q[0]], linear[q[1]], linear[q[2]]}));
            }
    });
    double sum = 0;
    for (float e : errors) sum += e;
    out.mean = float(sum / double(count));
    const size_t at = std::min(count - 1, size_t(double(count) * 0.999));
    std::nth_element(errors.begin(), errors.begin() + long(at), errors.end());
    out.worst = errors[at];
    if (withFlip) {
        double whole = 0;
        for (float e : flipErrors(a, b)) whole += e;
        out.flip = float(whole / double(count));
    }
    return out;
}

std::vector<uint8_t> differencePicture(const PictureView& a, const PictureView& b, float gain) {
    std::vector<uint8_t> out(size_t(a.width) * size_t(a.height) * 4, 255);
    for (int y = 0; y < a.height; ++y)
        for (int x = 0; x < a.width; ++x) {
            const uint8_t *p = pixelOf(a, x, y, a.width, a.height), *q = pixelOf(b, x, y, a.width, a.height);
            for (size_t c = 0; c < 3; ++c)
                out[(size_t(y) * size_t(a.width) + size_t(x)) * 4 + c] =
                    uint8_t(std::clamp(std::fabs(float(p[c]) - float(q[c])) * gain + 0.5f, 0.f, 255.f));
        }
    return out;
}

std::vector<uint8_t> splitPicture(const PictureView& a, const PictureView& b, float at) {
    std::vector<uint8_t> out(size_t(a.width) * size_t(a.height) * 4, 255);
    const int edge = int(std::lround(std::clamp(at, 0.f, 1.f) * float(a.width)));
    for (int y = 0; y < a.height; ++y)
        for (int x = 0; x < a.width; ++x) {
            const uint8_t* p = pixelOf(x < edge ? a : b, x, y, a.width, a.height);
            std::copy_n(p, 3, &out[(size_t(y) * size_t(a.width) + size_t(x)) * 4]);
        }
    return out;
}

std::vector<uint8_t> fitted(const PictureView& p, int width, int height) {
    std::vector<uint8_t> out(size_t(width) * size_t(height) * 4, 255);
    if (!p.width || !p.height) return out;
    // The largest part of the picture with the wanted shape, from its middle.
    const float scale = std::min(float(p.width) / float(width), float(p.height) / float(height));
    const float left = (float(p.width) - scale * float(width)) / 2, top = (float(p.height) - scale * float(height)) / 2;
    const auto& linear = linearTable();
    const int taps = std::max(1, int(std::ceil(scale)));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            float sum[3] = {};
            for (int j = 0; j < taps; ++j)
                for (int i = 0; i < taps; ++i) {
                    const int sx = std::clamp(int(left + (float(x) + (float(i) + 0.5f) / float(taps)) * scale), 0, p.width - 1);
                    const int sy = std::clamp(int(top + (float(y) + (float(j) + 0.5f) / float(taps)) * scale), 0, p.height - 1);
                    const uint8_t* from = p.rgba + (size_t(sy) * size_t(p.width) + size_t(sx)) * 4;
                    for (int c = 0; c < 3; ++c) sum[c] += linear[from[c]];
                }
            for (size_t c = 0; c < 3; ++c)
                out[(size_t(y) * size_t(width) + size_t(x)) * 4 + c] =
                    uint8_t(std::lround(linearToSrgb(sum[c] / float(taps * taps)) * 255));
        }
    return out;
}

} // namespace hue
