#include "core/pack/lane_ops.h"

#include <algorithm>
#include <cmath>

namespace hue {
namespace {

/// Monotone between its points: Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", 1980.
float curveAt(const std::vector<std::pair<float, float>>& p, float x) {
    if (x <= p.front().first) return p.front().second;
    if (x >= p.back().first) return p.back().second;
    size_t k = 1;
    while (p[k].first < x) ++k;
    auto slope = [&](size_t i) { return (p[i + 1].second - p[i].second) / (p[i + 1].first - p[i].first); };
    auto tangent = [&](size_t i) {
        if (i == 0) return slope(0);
        if (i + 1 == p.size()) return slope(i - 1);
        const float a = slope(i - 1), b = slope(i);
        return a * b <= 0 ? 0 : 2 * a * b / (a + b);
    };
    const float h = p[k].first - p[k - 1].first, t = (x - p[k - 1].first) / h, t2 = t * t, t3 = t2 * t;
    return (2 * t3 - 3 * t2 + 1) * p[k - 1].second + (t3 - 2 * t2 + t) * h * tangent(k - 1) + (3 * t2 - 2 * t3) * p[k].second +
           (t3 - t2) * h * tangent(k);
}

} // namespace

bool isPointwise(const LaneOp& op) {
    using K = LaneOp::Kind;
    return op.kind == K::Invert || op.kind == K::Remap || op.kind == K::Curve || op.kind == K::Limit;
}

float applied(const LaneOp& op, float x) {
    switch (op.kind) {
    case LaneOp::Kind::Invert: return 1 - x;
    case LaneOp::Kind::Remap: return op.newLow + (x - op.low) / (op.high - op.low) * (op.newHigh - op.newLow);
    case LaneOp::Kind::Curve: return curveAt(op.points, x);
    case LaneOp::Kind::Limit: return std::fmin(std::fmax(x, op.low), op.high);
    default: return x;
    }
}

void blur(Plane& plane, float sigma) {
    if (sigma < 0.05f) return;
    const int reach = std::max(1, int(std::ceil(3 * sigma)));
    std::vector<float> weights;
    float sum = 0;
    for (int k = -reach; k <= reach; ++k) weights.push_back(std::exp(-0.5f * float(k * k) / (sigma * sigma))), sum += weights.back();
    for (float& w : weights) w /= sum;
    Plane across(plane.width, plane.height);
    forRows(plane.height, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < plane.width; ++x) {
                float v = 0;
                for (int k = -reach; k <= reach; ++k) v += weights[size_t(k + reach)] * plane.wrapped(x + k, y);
                across.at(x, y) = v;
            }
    });
    forRows(plane.height, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y) {
            float* row = &plane.at(0, y);
            std::fill_n(row, plane.width, 0.f);
            for (int k = -reach; k <= reach; ++k) {
                const int line = ((y + k) % plane.height + plane.height) % plane.height;
                const float *other = &across.at(0, line), w = weights[size_t(k + reach)];
                for (int x = 0; x < plane.width; ++x) row[x] += w * other[x];
            }
        }
    });
}

void dilate(Plane& plane, Plane inside, int distance) {
    for (int step = 0; step < distance; ++step) {
        Plane next = plane, grown = inside;
        bool any = false;
        for (int y = 0; y < plane.height; ++y)
            for (int x = 0; x < plane.width; ++x) {
                if (inside.at(x, y) > 0.5f) continue;
                float sum = 0, count = 0;
                for (int j = -1; j <= 1; ++j)
                    for (int i = -1; i <= 1; ++i)
                        if (inside.wrapped(x + i, y + j) > 0.5f) sum += plane.wrapped(x + i, y + j), ++count;
                if (count == 0) continue;
                next.at(x, y) = sum / count;
                grown.at(x, y) = 1;
                any = true;
            }
        plane = std::move(next);
        inside = std::move(grown);
        if (!any) return;
    }
}

void apply(const LaneOp& op, Plane& plane, const Plane* inside) {
    switch (op.kind) {
    case LaneOp::Kind::Blur: return blur(plane, op.amount);
    case LaneOp::Kind::Dilate:
        if (inside) dilate(plane, *inside, int(op.amount));
        return;
    case LaneOp::Kind::Normalise: {
        const auto [low, high] = std::minmax_element(plane.values.begin(), plane.values.end());
        const float least = *low, span = *high - *low;
        if (span > 1e-9f)
            for (float& v : plane.values) v = (v - least) / span;
        return;
    }
    default:
        for (float& v : plane.values) v = applied(op, v);
    }
}

} // namespace hue
