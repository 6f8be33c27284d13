// Making maps seamless. One direction after the other: the map is moved by half, so that its edges meet in the middle, and
// a strip of the unmoved map, which is whole there, is laid over the place where they meet. For the second direction the
// strip must close on itself, so its borders start and end at the same place.
#include "core/maps/tiling.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

/// A map as planes.
struct Section {
    std::vector<Plane> planes;
};

Plane turned(const Plane& p) {
    Plane out(p.height, p.width);
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) out.at(y, x) = p.at(x, y);
    return out;
}

Plane movedInX(const Plane& p) {
    Plane out(p.width, p.height);
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) out.at(x, y) = p.at((x + p.width / 2) % p.width, y);
    return out;
}

/// The path from the first to the last line through `cost` (columns x lines) with the least sum, moving at most one
/// column a line. With `closed` it ends in the column where it starts.
std::vector<int> leastPath(const Plane& cost, bool closed) {
    const int w = cost.width, h = cost.height;
    auto solve = [&](int start) {
        Plane sum = cost;
        if (start >= 0)
            for (int x = 0; x < w; ++x)
                if (x != start) sum.at(x, 0) = 1e30f;
        for (int y = 1; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                float least = sum.at(x, y - 1);
                if (x > 0) least = std::min(least, sum.at(x - 1, y - 1));
                if (x + 1 < w) least = std::min(least, sum.at(x + 1, y - 1));
                sum.at(x, y) += least;
            }
        std::vector<int> path(static_cast<size_t>(h));
        int x = start;
        if (start < 0) {
            x = 0;
            for (int k = 1; k < w; ++k)
                if (sum.at(k, h - 1) < sum.at(x, h - 1)) x = k;
        }
        float total = sum.at(x, h - 1);
        for (int y = h - 1; y >= 0; --y) {
            path[size_t(y)] = x;
            if (y == 0) break;
            int next = x;
            if (x > 0 && sum.at(x - 1, y - 1) < sum.at(next, y - 1)) next = x - 1;
            if (x + 1 < w && sum.at(x + 1, y - 1) < sum.at(next, y - 1)) next = x + 1;
            x = next;
        }
        return std::pair{path, total};
    };
    const auto open = solve(-1).first;
    if (!closed) return open;
    // The best closed path nearly always passes where the best open one is in its middle or at an end.
    std::pair<std::vector<int>, float> best{{}, 1e38f};
    for (int start : {open.front(), open.back(), open[open.size() / 2], w / 2})
        if (auto tried = solve(start); tried.second < best.second) best = std::move(tried);
    return best.first;
}

/// Lays a strip over the seam in the middle of the moved planes. `closed`: the strip itself must wrap along its length.
void mend(std::vector<Section>& set, const SeamlessRequest& request, bool closed) {
    const int w = set[0].planes[0].width, h = set[0].planes[0].height;
    const int half = std::clamp(int(request.band * float(w)), 4, w / 4), middle = w / 2;
    std::vector<std::vector<Plane>> moved;
    for (const Section& m : set) {
        moved.emplace_back();
        for (const Plane& p : m.planes) moved.back().push_back(movedInX(p));
    }
    // How much strip and ground differ, over all maps, left and right of the seam.
    auto costOf = [&](int first) {
        Plane cost(half, h);
        for (size_t k = 0; k < set.size(); ++k)
            for (size_t c = 0; c < set[k].planes.size(); ++c)
                for (int y = 0; y < h; ++y)
                    for (int x = 0; x < half; ++x) {
                        const float d = set[k].planes[c].at(first + x, y) - moved[k][c].at(first + x, y);
                        cost.at(x, y) += d * d;
                    }
        // A small cost of its own keeps the path short where nothing differs.
        for (float& v : cost.values) v += 1e-5f;
        return cost;
    };
    Plane weight(w, h);
    if (request.method == SeamMethod::Cut) {
        // The seam itself must be covered, so a margin around it is out of bounds.
        const int left = middle - half, margin = std::max(2, half / 8);
        auto blocked = [&](Plane cost, bool atEnd) {
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < margin; ++x) cost.at(atEnd ? half - 1 - x : x, y) += 1e6f;
            return cost;
        };
        const std::vector<int> a = leastPath(blocked(costOf(left), true), closed), b = leastPath(blocked(costOf(middle), false), closed);
        const float soft = float(std::max(request.feather, 0)) + 0.5f;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                const float inside = std::min(float(x - left - a[size_t(y)]), float(middle + b[size_t(y)] - x));
                weight.at(x, y) = std::clamp(inside / soft + 0.5f, 0.f, 1.f);
            }
    } else {
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                const float t = std::clamp(1 - std::fabs(float(x) + 0.5f - float(middle)) / float(half), 0.f, 1.f);
                weight.at(x, y) = t * t * (3 - 2 * t);
            }
    }
    for (size_t k = 0; k < set.size(); ++k)
        for (size_t c = 0; c < set[k].planes.size(); ++c) {
            Plane& strip = set[k].planes[c];
            double mean = 0;
            for (float v : strip.values) mean += v;
            mean /= double(strip.values.size());
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) {
                    const float t = weight.at(x, y), ground = moved[k][c].at(x, y);
                    float v = ground + (strip.at(x, y) - ground) * t;
                    // Plain blending would pull both towards their mean; this keeps the variance.
                    if (request.method == SeamMethod::Blend) v = float(mean) + (v - float(mean)) / std::sqrt(t * t + (1 - t) * (1 - t));
                    strip.at(x, y) = v;
                }
        }
}

} // namespace

Result<std::vector<Image>> makeSeamless(const std::vector<Image>& set, const SeamlessRequest& request) {
    if (set.empty()) return std::vector<Image>{};
    for (const Image& image : set) {
        if (image.width != set[0].width || image.height != set[0].height)
            return Error{"seamless.sizes",
                         fmt::format("Maps of a set are made seamless together and must be of one size; these are {} x {} and {} x {}.",
                                     set[0].width, set[0].height, image.width, image.height),
                         {}};
        if (image.width < 16 || image.height < 16)
            return Error{"seamless.small", "A map needs at least 16 x 16 pixels to be made seamless.", {}};
        // The cheapest way along a seam has no meaning among values that cannot be compared.
        for (int c = 0; c < image.channels; ++c)
            for (float x : planeOf(image, c).values)
                if (!std::isfinite(x))
                    return Error{
                        "seamless.broken",
                        "A map holds values that are NaN or infinite, so no seam can be found in it. Export it again without them.",
                        {}};
    }
    std::vector<Section> work;
    for (const Image& image : set) {
        work.emplace_back();
        for (int c = 0; c < image.channels; ++c) work.back().planes.push_back(planeOf(image, c));
    }
    mend(work, request, false);
    for (Section& m : work)
        for (Plane& p : m.planes) p = turned(p);
    mend(work, request, true);
    std::vector<Image> out;
    for (size_t k = 0; k < work.size(); ++k) {
        for (Plane& p : work[k].planes) p = turned(p);
        std::vector<Plane>& p = work[k].planes;
        if (k < request.normals.size() && request.normals[k] && p.size() >= 3)
            for (size_t i = 0; i < p[0].values.size(); ++i) {
                float n[3], length = 0;
                for (size_t c = 0; c < 3; ++c) n[c] = p[c].values[i] * 2 - 1, length += n[c] * n[c];
                length = std::sqrt(length);
                for (size_t c = 0; c < 3 && length > 1e-6f; ++c) p[c].values[i] = n[c] / length * 0.5f + 0.5f;
            }
        out.push_back(imageOf(p, set[k].type));
    }
    return out;
}

} // namespace hue
