#include "core/paint/seeing_paint.h"

#include "core/base/value.h"
#include "core/base/vectors.h"
#include "core/base/work.h"

#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kForgiven = 1.5f / 255;

std::vector<float> sumOf(const PaintData& paint, std::span<const int> of) {
    std::vector<float> out(paint.vertices());
    for (const int c : of) {
        const std::vector<float> values = paint.channel(c);
        for (size_t v = 0; v < out.size(); ++v) out[v] += values[v];
    }
    return out;
}

} // namespace

PaintData shownAs(const PaintData& paint, PaintShown how, int channel, std::span<const int> of) {
    if (how == PaintShown::Drawn || how == PaintShown::Weights) return paint;
    PaintData out(paint.surface(), 16);
    const auto encoded = [](std::vector<float> values) {
        for (float& x : values) x = srgbToLinear(std::min(x, 1.f));
        return values;
    };
    if (how == PaintShown::Alone) {
        const std::vector<float> values = encoded(paint.channel(channel));
        for (int c = 0; c < 3; ++c) out = out.with(c, values);
        return out;
    }
    const std::vector<float> sums = sumOf(paint, of);
    out = out.with(0, encoded(sums));
    std::vector<float> others = sums;
    for (float& x : others) x = x > 1 + kForgiven ? 0 : x;
    for (int c = 1; c < 3; ++c) out = out.with(c, encoded(others));
    return out;
}

SumFaults sumFaults(const PaintData& paint, std::span<const int> of) {
    SumFaults out;
    for (const float x : sumOf(paint, of)) out.over += x > 1 + kForgiven, out.under += x < 1 - kForgiven;
    return out;
}

std::vector<Rgb> ringOn(const SurfaceRays& rays, const MeshPoint& middle, float radius, int count) {
    const Rgb other = std::fabs(middle.normal[1]) < 0.9f ? Rgb{0, 1, 0} : Rgb{1, 0, 0};
    const Rgb x = directionOf(cross(other, middle.normal)).value_or(Rgb{1, 0, 0}), y = cross(middle.normal, x);
    std::vector<Rgb> out;
    for (int k = 0; k < count; ++k) {
        const float angle = 2 * std::numbers::pi_v<float> * float(k) / float(count);
        const Rgb flat = sum(middle.position, sum(scaled(x, radius * std::cos(angle)), scaled(y, radius * std::sin(angle))));
        // Only on what looks the same way: the ring does not fall through a thin wall.
        const auto on = rays.nearest(flat, &middle.normal);
        out.push_back(on && on->distance < radius ? on->position : flat);
    }
    return out;
}

std::vector<bool> placesInSight(const PaintSurface& surface, const Rgb& eye) {
    const MeshNeighbours& neighbours = surface.neighbours();
    std::vector<char> seen(neighbours.places());
    forEach(seen.size(), [&](size_t place) {
        const auto p = uint32_t(place);
        const Rgb& at = neighbours.position(p);
        const auto away = directionOf(difference(eye, at));
        if (!away || dot(surface.normal(p), *away) <= 0) return;
        const float far = lengthOf(difference(eye, at)), lift = 1e-4f * far;
        seen[p] = !surface.rays().covered(sum(at, scaled(*away, lift)), *away, far - lift);
    });
    return {seen.begin(), seen.end()};
}

} // namespace hue
