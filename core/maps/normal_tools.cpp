#include "core/maps/normal_tools.h"

#include "core/base/value.h"
#include "core/base/vectors.h"
#include "core/images/fourier.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

using Vec3 = std::array<float, 3>;

Vec3 rebuilt(float x, float y) {
    const float length = std::sqrt(x * x + y * y);
    if (length > 0.999f) x *= 0.999f / length, y *= 0.999f / length;
    return {x, y, std::sqrt(std::max(0.f, 1 - x * x - y * y))};
}

Vec3 decoded(const float* row, int channels) {
    if (channels < 3) return rebuilt(row[0] * 2 - 1, (channels > 1 ? row[1] : 0.5f) * 2 - 1);
    return {row[0] * 2 - 1, row[1] * 2 - 1, row[2] * 2 - 1};
}

/// A map with three channels (alpha is kept) from what `change` makes of every vector.
template <class Change> Image changed(const Image& normals, Change change) {
    const int channels = std::max(normals.channels, 3);
    Image out(normals.width, normals.height, channels, normals.type);
    forRows(normals.height, 0, [&](int from, int to) {
        std::vector<float> row(size_t(normals.width) * size_t(normals.channels)), made(size_t(normals.width) * size_t(channels));
        for (int y = from; y < to; ++y) {
            toFloats(normals.type, normals.row(y), row.size(), row.data());
            for (int x = 0; x < normals.width; ++x) {
                const float* p = &row[size_t(x * normals.channels)];
                const Vec3 n = change(decoded(p, normals.channels), x, y);
                float* q = &made[size_t(x * channels)];
                for (size_t c = 0; c < 3; ++c) q[c] = n[c] * 0.5f + 0.5f;
                if (channels == 4) q[3] = p[3];
            }
            fromFloats(out.type, made.data(), made.size(), out.row(y));
        }
    });
    return out;
}

Vec3 normalized(const Vec3& v) { return directionOf(v, 1e-6f).value_or(Vec3{0, 0, 1}); }

} // namespace

Image flippedGreen(const Image& normals) {
    Image out = normals;
    Plane green = planeOf(normals, 1);
    for (float& v : green.values) v = 1 - v;
    setChannel(out, 1, green);
    return out;
}

Image renormalised(const Image& normals, bool rebuildZ) {
    return changed(normals, [rebuildZ](Vec3 n, int, int) {
        if (rebuildZ) return rebuilt(n[0], n[1]);
        if (n[2] < 0) n[2] = 0.02f;
        return normalized(n);
    });
}

Image withStrength(const Image& normals, float strength) {
    return changed(normals, [strength](Vec3 n, int, int) { return normalized({n[0] * strength, n[1] * strength, std::max(n[2], 0.02f)}); });
}

Result<Image> joinedNormals(const Image& ground, const Image& detail) {
    if (ground.width != detail.width || ground.height != detail.height)
        return Error{"normals.sizes",
                     fmt::format("The two normal maps are {} x {} and {} x {}; joined pixel by pixel they must be of one size. Resize one.",
                                 ground.width, ground.height, detail.width, detail.height),
                     {}};
    return changed(ground, [&](Vec3 n, int x, int y) {
        float row[4] = {0.5f, 0.5f, 1, 1};
        toFloats(detail.type, detail.row(y) + size_t(x) * size_t(detail.channels) * bytesOf(detail.type), size_t(detail.channels), row);
        const Vec3 d = normalized(decoded(row, detail.channels));
        n = normalized(n);
        const Vec3 t{n[0], n[1], std::max(n[2] + 1, 1e-4f)}, u{-d[0], -d[1], d[2]};
        return normalized(difference(scaled(t, dot(t, u) / t[2]), u));
    });
}

Image normalsFromHeight(const Plane& height, const HeightScale& scale, SampleType type) {
    Image out(height.width, height.height, 3, type);
    const float perX = scale.depth * float(height.width) / (2 * scale.width);
    // Pixels are square, so the other side covers what its share of pixels says.
    forRows(height.height, 0, [&](int from, int to) {
        std::vector<float> row(size_t(height.width) * 3);
        for (int y = from; y < to; ++y) {
            for (int x = 0; x < height.width; ++x) {
                const float dx = (height.wrapped(x + 1, y) - height.wrapped(x - 1, y)) * perX;
                const float dy = (height.wrapped(x, y + 1) - height.wrapped(x, y - 1)) * perX;
                const Vec3 n = normalized({-dx, dy, 1});
                for (size_t c = 0; c < 3; ++c) row[size_t(x) * 3 + c] = n[c] * 0.5f + 0.5f;
            }
            fromFloats(type, row.data(), row.size(), out.row(y));
        }
    });
    return out;
}

Plane heightFromNormals(const Image& normals, float width, float* depth) {
    const int w = normals.width, h = normals.height;
    // Slopes in x and in y, rows growing downward, both in one transform as real and imaginary part.
    Spectrum slopes(w, h);
    forRows(h, 0, [&](int from, int to) {
        std::vector<float> row(size_t(w) * size_t(normals.channels));
        for (int y = from; y < to; ++y) {
            toFloats(normals.type, normals.row(y), row.size(), row.data());
            for (int x = 0; x < w; ++x) {
                const Vec3 n = decoded(&row[size_t(x * normals.channels)], normals.channels);
                const float z = std::max(n[2], 0.05f);
                const float sx = -n[0] / z, sy = n[1] / z;
                slopes.at(x, y) = {std::isfinite(sx) ? sx : 0, std::isfinite(sy) ? sy : 0};
            }
        }
    });
    slopes.transform(false);
    Spectrum height(w, h);
    constexpr float kTurn = 6.28318531f;
    forRows(h, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < w; ++x) {
                const std::complex<float> a = slopes.at(x, y), b = std::conj(slopes.at((w - x) % w, (h - y) % h));
                const std::complex<float> p = (a + b) * 0.5f, q = (a - b) * std::complex<float>(0, -0.5f);
                // The central difference that made the slopes has sin(frequency) as its transfer function; dividing by it
                // brings the height back. Towards the highest frequency it vanishes, so what is left there is dropped.
                const float fx = float(x <= w / 2 ? x : x - w) / float(w) * kTurn, fy = float(y <= h / 2 ? y : y - h) / float(h) * kTurn;
                const float sx = std::sin(fx), sy = std::sin(fy), square = sx * sx + sy * sy;
                height.at(x, y) = square <= 0.02f * (fx * fx + fy * fy) ? std::complex<float>(0, 0)
                                                                        : std::complex<float>(0, -1) * (p * sx + q * sy) / square;
            }
    });
    height.transform(true);
    Plane out = height.real();
    const auto [low, high] = std::minmax_element(out.values.begin(), out.values.end());
    const float least = *low, span = *high - *low;
    // Slopes are metres per metre, so the height came out in pixels; the transform left it unscaled.
    if (depth) *depth = span / (float(w) * float(h)) * width / float(w);
    for (float& v : out.values) v = span > 1e-12f ? (v - least) / span : 0.5f;
    return out;
}

Plane occlusionFromHeight(const Plane& height, const HeightScale& scale) {
    const float reach = scale.width * 0.1f;
    Plane out(height.width, height.height);
    const float pixel = scale.width / float(height.width);
    const int far = std::clamp(int(reach / pixel), 1, std::max(height.width, height.height) / 2);
    // Distances grow, so that near and far both count with few reads.
    std::vector<int> steps;
    for (float d = 1; int(d) <= far; d = std::max(d + 1, d * 1.5f)) steps.push_back(int(d));
    constexpr int kDirections = 12;
    forRows(height.height, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < height.width; ++x) {
                float open = 0;
                for (int k = 0; k < kDirections; ++k) {
                    const float a = float(k) * (6.28318531f / kDirections), cx = std::cos(a), cy = std::sin(a);
                    float horizon = 0;
                    for (int d : steps) {
                        const float rise =
                            (height.wrapped(x + int(std::lround(cx * float(d))), y + int(std::lround(cy * float(d)))) - height.at(x, y)) *
                            scale.depth;
                        horizon = std::max(horizon, rise / (float(d) * pixel));
                    }
                    // Cosine-weighted sky above a horizon of this slope.
                    open += 1 / (1 + horizon * horizon);
                }
                out.at(x, y) = open / kDirections;
            }
    });
    return out;
}

Plane curvatureFromHeight(const Plane& height, const HeightScale& scale, int radius) {
    const int w = height.width, h = height.height, r = std::max(1, radius);
    Plane bend(w, h);
    double squares = 0;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const float around =
                (height.wrapped(x + r, y) + height.wrapped(x - r, y) + height.wrapped(x, y + r) + height.wrapped(x, y - r)) / 4;
            const float v = (height.at(x, y) - around) * scale.depth / (scale.width / float(w) * float(r));
            bend.at(x, y) = v;
            squares += double(v) * v;
        }
    // Three deviations reach black and white.
    const float spread = 6 * float(std::sqrt(squares / double(bend.values.size())));
    for (float& v : bend.values) v = spread > 1e-9f ? std::clamp(0.5f + v / spread, 0.f, 1.f) : 0.5f;
    return bend;
}

Result<MetallicSet> fromSpecularGloss(const Image& diffuse, const Image& specular, const Image* gloss) {
    auto same = [&](const Image& i) { return i.width == diffuse.width && i.height == diffuse.height; };
    if (!same(specular) || (gloss && !same(*gloss)))
        return Error{"gloss.sizes", "Diffuse, specular and gloss maps must be of one size. Resize the others.", {}};
    if (diffuse.channels < 3 || specular.channels < 3)
        return Error{"gloss.channels", "Diffuse and specular maps need red, green and blue.", {}};
    if (!gloss && specular.channels < 4)
        return Error{"gloss.channels", "There is no gloss: give a gloss map, or a specular map with gloss in its alpha.", {}};
    constexpr float kDielectric = 0.04f;
    MetallicSet out{Image(diffuse.width, diffuse.height, 3, diffuse.type), Image(diffuse.width, diffuse.height, 1, diffuse.type),
                    Image(diffuse.width, diffuse.height, 1, diffuse.type)};
    // How bright a color is to the eye, as the conversion uses it.
    auto brightness = [](const Vec3& c) { return std::sqrt(0.299f * c[0] * c[0] + 0.587f * c[1] * c[1] + 0.114f * c[2] * c[2]); };
    forRows(diffuse.height, 0, [&](int from, int to) {
        const size_t n = size_t(diffuse.width);
        std::vector<float> d(n * size_t(diffuse.channels)), s(n * size_t(specular.channels)), g(gloss ? n * size_t(gloss->channels) : 0);
        std::vector<float> base(n * 3), metallic(n), roughness(n);
        for (int y = from; y < to; ++y) {
            toFloats(diffuse.type, diffuse.row(y), d.size(), d.data());
            toFloats(specular.type, specular.row(y), s.size(), s.data());
            if (gloss) toFloats(gloss->type, gloss->row(y), g.size(), g.data());
            for (size_t x = 0; x < n; ++x) {
                Vec3 diff, spec;
                for (size_t c = 0; c < 3; ++c) {
                    diff[c] = srgbToLinear(d[x * size_t(diffuse.channels) + c]);
                    spec[c] = srgbToLinear(s[x * size_t(specular.channels) + c]);
                }
                const float strongest = std::max({spec[0], spec[1], spec[2]}), left = 1 - strongest;
                const float db = brightness(diff), sb = brightness(spec);
                float m = 0;
                if (sb >= kDielectric) {
                    const float b = db * left / (1 - kDielectric) + sb - 2 * kDielectric, c = kDielectric - sb;
                    m = std::clamp((-b + std::sqrt(std::max(b * b - 4 * kDielectric * c, 0.f))) / (2 * kDielectric), 0.f, 1.f);
                }
                for (size_t c = 0; c < 3; ++c) {
                    const float fromDiffuse = diff[c] * left / (1 - kDielectric) / std::max(1 - m, 1e-4f);
                    const float fromSpecular = (spec[c] - kDielectric * (1 - m)) / std::max(m, 1e-4f);
                    const float mixed = fromDiffuse + (fromSpecular - fromDiffuse) * m * m;
                    base[x * 3 + c] = linearToSrgb(std::clamp(mixed, 0.f, 1.f));
                }
                metallic[x] = m;
                roughness[x] = 1 - (gloss ? g[x * size_t(gloss->channels)] : s[x * 4 + 3]);
            }
            fromFloats(out.baseColor.type, base.data(), base.size(), out.baseColor.row(y));
            fromFloats(out.metallic.type, metallic.data(), n, out.metallic.row(y));
            fromFloats(out.roughness.type, roughness.data(), n, out.roughness.row(y));
        }
    });
    return out;
}

} // namespace hue
