// FLIP for screen pictures (Andersson, Nilsson, Akenine-Moeller, Oskarsson, Astrom and Fairchild 2020). Section numbers
// are the paper's.
#include "core/base/value.h"
#include "core/base/work.h"
#include "core/compare/compare.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>;
using Plane = std::vector<float>;

struct Size {
    int width, height;
    size_t count() const { return size_t(width) * size_t(height); }
};

/// Convolves with `across` along rows and `down` along columns; the border repeats.
Plane convolved(const Plane& from, Size s, const std::vector<float>& across, const std::vector<float>& down) {
    Plane rows(s.count()), out(s.count());
    const int rx = int(across.size() / 2), ry = int(down.size() / 2);
    forRows(s.height, 0, [&](int first, int behind) {
        std::vector<float> padded(size_t(s.width + 2 * rx));
        for (int y = first; y < behind; ++y) {
            const float* row = &from[size_t(y) * size_t(s.width)];
            for (int x = -rx; x < s.width + rx; ++x) padded[size_t(x + rx)] = row[std::clamp(x, 0, s.width - 1)];
            float* to = &rows[size_t(y) * size_t(s.width)];
            std::fill_n(to, s.width, 0.f);
            for (size_t k = 0; k < across.size(); ++k)
                for (int x = 0; x < s.width; ++x) to[x] += padded[size_t(x) + k] * across[k];
        }
    });
    forRows(s.height, 0, [&](int first, int behind) {
        for (int y = first; y < behind; ++y) {
            float* to = &out[size_t(y) * size_t(s.width)];
            std::fill_n(to, s.width, 0.f);
            for (size_t k = 0; k < down.size(); ++k) {
                const float* row = &rows[size_t(std::clamp(y + int(k) - ry, 0, s.height - 1)) * size_t(s.width)];
                for (int x = 0; x < s.width; ++x) to[x] += row[x] * down[k];
            }
        }
    });
    return out;
}

struct Opponent {
    std::array<Plane, 3> planes; ///< Y, Cx, Cz of the YCxCz space
};

constexpr float kWhiteX = 0.950428545f, kWhiteZ = 1.088900371f;

Opponent opponentOf(const PictureView& p, Size s) {
    Opponent out;
    for (Plane& plane : out.planes) plane.resize(s.count());
    for (int y = 0; y < s.height; ++y)
        for (int x = 0; x < s.width; ++x) {
            const int sx = std::min(x * p.width / s.width, p.width - 1), sy = std::min(y * p.height / s.height, p.height - 1);
            const uint8_t* rgb = p.rgba + (size_t(sy) * size_t(p.width) + size_t(sx)) * 4;
            float c[3];
            for (int k = 0; k < 3; ++k) c[k] = srgbToLinear(float(rgb[k]) / 255);
            const float X = (0.4123908f * c[0] + 0.3575843f * c[1] + 0.1804808f * c[2]) / kWhiteX;
            const float Y = 0.2126390f * c[0] + 0.7151687f * c[1] + 0.0721923f * c[2];
            const float Z = (0.0193308f * c[0] + 0.1191948f * c[1] + 0.9505322f * c[2]) / kWhiteZ;
            const size_t i = size_t(y) * size_t(s.width) + size_t(x);
            out.planes[0][i] = 116 * Y - 16;
            out.planes[1][i] = 500 * (X - Y);
            out.planes[2][i] = 200 * (Y - Z);
        }
    return out;
}

/// L*a*b* with the chroma scaled by lightness, after Hunt.
Lab huntLab(const float linear[3]) {
    const float xyz[3] = {(0.4123908f * linear[0] + 0.3575843f * linear[1] + 0.1804808f * linear[2]) / kWhiteX,
                          0.2126390f * linear[0] + 0.7151687f * linear[1] + 0.0721923f * linear[2],
                          (0.0193308f * linear[0] + 0.1191948f * linear[1] + 0.9505322f * linear[2]) / kWhiteZ};
    float f[3];
    for (int i = 0; i < 3; ++i) f[i] = xyz[i] > 0.008856452f ? std::cbrt(xyz[i]) : 7.787037f * xyz[i] + 4.f / 29;
    const float L = 116 * f[1] - 16;
    return {L, 0.01f * L * 500 * (f[0] - f[1]), 0.01f * L * 200 * (f[1] - f[2])};
}

float hyab(const Lab& a, const Lab& b) { return std::fabs(a[0] - b[0]) + std::hypot(a[1] - b[1], a[2] - b[2]); }

/// Section 4.1: what the eye does not resolve is filtered away, in opponent channels.
std::vector<Lab> filtered(const Opponent& o, Size s, float ppd) {
    struct Gauss {
        float a, b;
    };
    static constexpr Gauss sets[3][2] = {{{1, 0.0047f}, {0, 1e-5f}}, {{1, 0.0053f}, {0, 1e-5f}}, {{34.1f, 0.04f}, {13.5f, 0.025f}}};
    const int radius = int(std::ceil(3 * std::sqrt(0.04f / (2 * kPi * kPi)) * ppd));
    std::array<Plane, 3> planes;
    for (size_t c = 0; c < 3; ++c) {
        planes[c].assign(s.count(), 0);
        float whole = 0;
        std::vector<std::vector<float>> kernels;
        std::vector<float> sums;
        for (const Gauss& g : sets[c]) {
            if (g.a == 0) continue;
            std::vector<float> k(size_t(2 * radius + 1));
            float sum = 0;
            for (int x = -radius; x <= radius; ++x) {
                const float d = float(x) / ppd;
                sum += k[size_t(x + radius)] = std::exp(-kPi * kPi * d * d / g.b);
            }
            // In two dimensions the weight is a sqrt(pi / b), over the square of the row's sum.
            const float weight = g.a * std::sqrt(kPi / g.b) * sum * sum;
            for (float& x : k) x /= sum;
            kernels.push_back(std::move(k));
            sums.push_back(weight);
            whole += weight;
        }
        for (size_t k = 0; k < kernels.size(); ++k) {
            const Plane part = convolved(o.planes[c], s, kernels[k], kernels[k]);
            for (size_t i = 0; i < part.size(); ++i) planes[c][i] += part[i] * sums[k] / whole;
        }
    }
    std::vector<Lab> out(s.count());
    for (size_t i = 0; i < out.size(); ++i) {
        const float Y = (planes[0][i] + 16) / 116, X = (planes[1][i] / 500 + Y) * kWhiteX, Z = (Y - planes[2][i] / 200) * kWhiteZ;
        const float linear[3] = {std::clamp(3.2409699f * X - 1.5373832f * Y - 0.4986108f * Z, 0.f, 1.f),
                                 std::clamp(-0.9692436f * X + 1.8759675f * Y + 0.0415551f * Z, 0.f, 1.f),
                                 std::clamp(0.0556301f * X - 0.2039770f * Y + 1.0569715f * Z, 0.f, 1.f)};
        out[i] = huntLab(linear);
    }
    return out;
}

/// Section 4.2: strength of edges and of points.
struct Features {
    Plane edges, points;
};
Features featuresOf(const Plane& lightness, Size s, float ppd) {
    const float sigma = 0.5f * 0.082f * ppd;
    const int radius = int(std::ceil(3 * sigma));
    std::vector<float> smooth(size_t(2 * radius + 1)), first(smooth), second(smooth);
    float sum = 0, positive[2] = {}, negative[2] = {};
    for (int x = -radius; x <= radius; ++x) {
        const float g = std::exp(-float(x * x) / (2 * sigma * sigma)), d1 = -float(x) * g, d2 = (float(x * x) / (sigma * sigma) - 1) * g;
        const auto i = size_t(x + radius);
        smooth[i] = g, first[i] = d1, second[i] = d2;
        sum += g;
        (d1 > 0 ? positive : negative)[0] += std::fabs(d1);
        (d2 > 0 ? positive : negative)[1] += std::fabs(d2);
    }
    for (size_t i = 0; i < smooth.size(); ++i) {
        smooth[i] /= sum;
        first[i] /= first[i] > 0 ? positive[0] : negative[0];
        second[i] /= second[i] > 0 ? positive[1] : negative[1];
    }
    Plane y(lightness);
    for (float& v : y) v = (v + 16) / 116;
    auto length = [](const Plane& a, const Plane& b) {
        Plane out(a.size());
        for (size_t i = 0; i < out.size(); ++i) out[i] = std::hypot(a[i], b[i]);
        return out;
    };
    return {length(convolved(y, s, first, smooth), convolved(y, s, smooth, first)),
            length(convolved(y, s, second, smooth), convolved(y, s, smooth, second))};
}

} // namespace

std::vector<float> flipErrors(const PictureView& reference, const PictureView& test, float ppd) {
    const Size s{reference.width, reference.height};
    const Opponent a = opponentOf(reference, s), b = opponentOf(test, s);
    const std::vector<Lab> labA = filtered(a, s, ppd), labB = filtered(b, s, ppd);
    const Features featuresA = featuresOf(a.planes[0], s, ppd), featuresB = featuresOf(b.planes[0], s, ppd);
    static constexpr float green[3] = {0, 1, 0}, blue[3] = {0, 0, 1};
    constexpr float power = 0.7f, pc = 0.4f, pt = 0.95f;
    const float most = std::pow(hyab(huntLab(green), huntLab(blue)), power);
    std::vector<float> out(s.count());
    for (size_t i = 0; i < out.size(); ++i) {
        const float d = std::pow(hyab(labA[i], labB[i]), power);
        const float color = d < pc * most ? d * pt / (pc * most) : pt + (d - pc * most) / (most - pc * most) * (1 - pt);
        const float feature =
            std::max(std::fabs(featuresA.edges[i] - featuresB.edges[i]), std::fabs(featuresA.points[i] - featuresB.points[i]));
        const float f = std::sqrt(std::clamp(feature / std::numbers::sqrt2_v<float>, 0.f, 1.f));
        out[i] = color <= 0 ? 0 : std::pow(std::clamp(color, 0.f, 1.f), 1 - f);
    }
    return out;
}

} // namespace hue
