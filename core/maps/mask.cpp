#include "core/maps/mask.h"

#include "core/maps/glyphs.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

namespace hue {

std::string_view nameOf(MaskShape::Kind k) {
    static constexpr std::string_view names[] = {"rectangle", "ellipse", "polygon", "line", "text"};
    return names[int(k)];
}

Result<MaskShape> maskShapeOf(const std::string& text, float soft) {
    std::istringstream in(text);
    std::string kind;
    MaskShape s;
    s.soft = soft;
    auto bad = [&] {
        return Error{"mask.shape",
                     fmt::format("{} is no shape. Such are: rectangle 0.1 0.1 0.5 0.3; ellipse 0.2 0.2 0.4 0.4; line 0 0 1 1 0.02; polygon "
                                 "0 0 1 0 0.5 1; text 0 0.3 1 0.4 LINE 4. Before them may stand value=0.5 and, of what has a box, turn=30.",
                                 text),
                     {}};
    };
    while (in >> kind && kind.find('=') != std::string::npos) {
        const size_t equals = kind.find('=');
        float amount = 0;
        const auto [end, odd] = std::from_chars(kind.data() + equals + 1, kind.data() + kind.size(), amount);
        if (odd != std::errc{} || end != kind.data() + kind.size() || !std::isfinite(amount)) return bad();
        const std::string what = kind.substr(0, equals);
        if (what == "turn") s.turn = amount;
        else if (what == "value" && amount >= 0 && amount <= 1) s.value = amount;
        else return bad();
    }
    // Corners stand where they are put.
    if (s.turn != 0 && (kind == "line" || kind == "polygon")) return bad();
    if (kind == "rectangle" || kind == "ellipse" || kind == "text") {
        s.kind = kind == "ellipse" ? MaskShape::Kind::Ellipse : kind == "text" ? MaskShape::Kind::Text : MaskShape::Kind::Rectangle;
        if (!(in >> s.x >> s.y >> s.width >> s.height)) return bad();
        if (kind == "text") {
            std::getline(in >> std::ws, s.text);
            if (s.text.empty()) return bad();
        }
        return s;
    }
    std::vector<float> numbers;
    for (float v; in >> v;) numbers.push_back(v);
    if (kind == "line" && numbers.size() >= 5 && numbers.size() % 2 == 1) {
        s.kind = MaskShape::Kind::Line;
        s.thickness = numbers.back();
        numbers.pop_back();
    } else if (kind == "polygon" && numbers.size() >= 6 && numbers.size() % 2 == 0) {
        s.kind = MaskShape::Kind::Polygon;
    } else {
        return bad();
    }
    for (size_t i = 0; i + 1 < numbers.size(); i += 2) s.points.emplace_back(numbers[i], numbers[i + 1]);
    return s;
}

namespace {

/// A shape in pixels, with the distance to its border: below 0 inside.
struct Placed {
    const MaskShape* shape = nullptr;
    float x = 0, y = 0, halfWidth = 0, halfHeight = 0, cosine = 1, sine = 0; ///< middle and half size of the box
    std::vector<Contour> contours;
    struct Bounds {
        float left = 1e30f, top = 1e30f, right = -1e30f, bottom = -1e30f;
    };
    std::vector<Bounds> bounds; ///< of each contour
    float thickness = 0, soft = 1;
    float left = 0, top = 0, right = 0, bottom = 0; ///< nothing is painted beyond

    /// `inside`: the winding number of the outlines is not zero.
    float distance(float px, float py, bool inside) const {
        switch (shape->kind) {
        case MaskShape::Kind::Rectangle: {
            const auto [lx, ly] = local(px, py);
            const float r = std::clamp(shape->rounding, 0.f, 1.f) * std::min(halfWidth, halfHeight);
            const float qx = std::fabs(lx) - halfWidth + r, qy = std::fabs(ly) - halfHeight + r;
            return std::hypot(std::max(qx, 0.f), std::max(qy, 0.f)) + std::min(std::max(qx, qy), 0.f) - r;
        }
        case MaskShape::Kind::Ellipse: {
            // First-order distance: the value over the length of its gradient; exact at the border.
            const auto [lx, ly] = local(px, py);
            const float a = std::max(halfWidth, 0.5f), b = std::max(halfHeight, 0.5f);
            const float k = std::hypot(lx / a, ly / b), g = std::hypot(lx / (a * a), ly / (b * b));
            return g > 1e-9f ? k * (k - 1) / g : -std::min(a, b);
        }
        case MaskShape::Kind::Line: return nearest(px, py) - thickness / 2;
        default: return (inside ? -1.f : 1.f) * nearest(px, py);
        }
    }

    /// Where outlines cross a row of pixels, from the right to the left, and which way.
    struct Crossing {
        float at;
        int winding;
    };
    void crossings(float py, std::vector<Crossing>& out) const {
        out.clear();
        if (!closed()) return;
        for (size_t k = 0; k < contours.size(); ++k) {
            const Contour& c = contours[k];
            if (py < bounds[k].top || py > bounds[k].bottom) continue;
            for (size_t i = 0; i < c.size(); ++i) {
                const auto &a = c[i], &b = c[(i + 1) % c.size()];
                if ((a.second <= py) == (b.second <= py)) continue;
                const float at = a.first + (py - a.second) / (b.second - a.second) * (b.first - a.first);
                out.push_back({at, b.second > a.second ? 1 : -1});
            }
        }
        std::sort(out.begin(), out.end(), [](const Crossing& a, const Crossing& b) { return a.at > b.at; });
    }

  private:
    std::pair<float, float> local(float px, float py) const {
        const float dx = px - x, dy = py - y;
        return {dx * cosine + dy * sine, dy * cosine - dx * sine};
    }
    bool closed() const { return shape->kind != MaskShape::Kind::Line; }
    /// No more than the soft edge is wide: beyond it a pixel is all in or all out.
    float nearest(float px, float py) const {
        const float far = soft + thickness;
        float least = far * far;
        for (size_t k = 0; k < contours.size(); ++k) {
            const Contour& c = contours[k];
            const Bounds& box = bounds[k];
            const float bx = std::max({box.left - px, 0.f, px - box.right}), by = std::max({box.top - py, 0.f, py - box.bottom});
            if (bx * bx + by * by >= least) continue;
            for (size_t i = 0; i + (closed() ? 0 : 1) < c.size(); ++i) {
                const auto &a = c[i], &b = c[(i + 1) % c.size()];
                const float ex = b.first - a.first, ey = b.second - a.second, qx = px - a.first, qy = py - a.second;
                const float square = ex * ex + ey * ey, t = square > 0 ? std::clamp((qx * ex + qy * ey) / square, 0.f, 1.f) : 0;
                const float dx = qx - t * ex, dy = qy - t * ey;
                least = std::min(least, dx * dx + dy * dy);
            }
        }
        return std::sqrt(least);
    }
};

Placed place(const MaskShape& s, int width, int height) {
    Placed p;
    const float w = float(width), h = float(height);
    p.shape = &s;
    p.x = (s.x + s.width / 2) * w, p.y = (s.y + s.height / 2) * h;
    p.halfWidth = std::fabs(s.width) / 2 * w, p.halfHeight = std::fabs(s.height) / 2 * h;
    p.cosine = std::cos(s.turn * 0.01745329f), p.sine = std::sin(s.turn * 0.01745329f);
    p.thickness = s.thickness * h;
    p.soft = std::max(1.f, s.soft * h);
    if (s.kind == MaskShape::Kind::Text) {
        const TextOutline text = outlineOf(s.text);
        const float size = 2 * p.halfHeight;
        for (Contour c : text.contours) {
            for (auto& [x, y] : c) {
                const float lx = (x - text.width / 2) * size, ly = (y + 0.5f) * size;
                x = p.x + lx * p.cosine - ly * p.sine, y = p.y + lx * p.sine + ly * p.cosine;
            }
            p.contours.push_back(std::move(c));
        }
    } else if (s.kind == MaskShape::Kind::Polygon || s.kind == MaskShape::Kind::Line) {
        p.contours.emplace_back();
        for (const auto& [x, y] : s.points) p.contours[0].emplace_back(x * w, y * h);
    }
    p.left = p.top = 1e30f, p.right = p.bottom = -1e30f;
    auto reach = [&](float x, float y) {
        p.left = std::min(p.left, x), p.right = std::max(p.right, x), p.top = std::min(p.top, y), p.bottom = std::max(p.bottom, y);
    };
    if (p.contours.empty()) {
        const float r = std::hypot(p.halfWidth, p.halfHeight);
        reach(p.x - r, p.y - r), reach(p.x + r, p.y + r);
    }
    for (const Contour& c : p.contours) {
        Placed::Bounds& b = p.bounds.emplace_back();
        for (const auto& [x, y] : c) {
            reach(x, y);
            b = {std::min(b.left, x), std::min(b.top, y), std::max(b.right, x), std::max(b.bottom, y)};
        }
    }
    const float edge = p.soft + (s.kind == MaskShape::Kind::Line ? p.thickness / 2 : 0);
    p.left -= edge, p.top -= edge, p.right += edge, p.bottom += edge;
    return p;
}

} // namespace

Result<Plane> drawMask(const MaskDrawing& d) {
    if (d.width < 1 || d.height < 1 || d.width > kLargestSide || d.height > kLargestSide)
        return Error{"mask.size",
                     fmt::format("A mask of {} x {} pixels is not possible; choose 1 to {} a side.", d.width, d.height, kLargestSide),
                     {}};
    Plane out(d.width, d.height, std::clamp(d.ground, 0.f, 1.f));
    for (const MaskShape& s : d.shapes) {
        if (s.kind == MaskShape::Kind::Polygon && s.points.size() < 3)
            return Error{"mask.shape", "A polygon needs three points or more.", {}};
        if (s.kind == MaskShape::Kind::Line && s.points.size() < 2) return Error{"mask.shape", "A line needs two points or more.", {}};
        // Far beyond the mask nothing is seen, and pixels can no longer be counted.
        constexpr float kFurthest = 1000;
        const auto near = [](float x) { return std::fabs(x) <= kFurthest; };
        bool good = near(s.x) && near(s.y) && near(s.width) && near(s.height) && near(s.thickness) && near(s.soft) &&
                    std::isfinite(s.turn) && std::isfinite(s.rounding) && std::isfinite(s.value);
        for (const auto& [x, y] : s.points) good = good && near(x) && near(y);
        if (!good)
            return Error{
                "mask.shape",
                fmt::format("The numbers of a {} are shares of the mask, 0 to 1 within it, and at most {} beyond. Mend what is larger.",
                            nameOf(s.kind), kFurthest),
                {}};
        const Placed p = place(s, d.width, d.height);
        const int around = d.seamless ? 1 : 0;
        for (int ty = -around; ty <= around; ++ty)
            for (int tx = -around; tx <= around; ++tx) {
                const float ox = float(tx * d.width), oy = float(ty * d.height);
                const int x0 = std::max(0, int(std::floor(p.left + ox))), x1 = std::min(d.width, int(std::ceil(p.right + ox)) + 1);
                const int y0 = std::max(0, int(std::floor(p.top + oy))), y1 = std::min(d.height, int(std::ceil(p.bottom + oy)) + 1);
                if (x0 >= x1 || y0 >= y1) continue;
                forRows(y1 - y0, 0, [&](int from, int to) {
                    std::vector<Placed::Crossing> crossed;
                    for (int y = y0 + from; y < y0 + to; ++y) {
                        const float py = float(y) + 0.5f - oy;
                        p.crossings(py, crossed);
                        size_t right = crossed.size(); // those right of the pixel
                        int winding = 0;
                        for (const Placed::Crossing& c : crossed) winding += c.winding;
                        for (int x = x0; x < x1; ++x) {
                            const float px = float(x) + 0.5f - ox;
                            while (right > 0 && !(crossed[right - 1].at > px)) winding -= crossed[--right].winding;
                            const float away = p.distance(px, py, winding != 0);
                            float t = std::clamp(0.5f - away / p.soft, 0.f, 1.f);
                            if (s.soft > 0) t = t * t * (3 - 2 * t);
                            float& v = out.at(x, y);
                            v += (std::clamp(s.value, 0.f, 1.f) - v) * t;
                        }
                    }
                });
            }
    }
    return out;
}

} // namespace hue
