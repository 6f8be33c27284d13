#include "core/document/drawn.h"

#include "core/base/value.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <optional>

namespace hue {
namespace {

constexpr std::string_view kKinds[] = {"curve", "gradient"}, kBetween[] = {"straight", "smooth", "steps"};

std::string_view trimmed(std::string_view s) {
    const size_t first = s.find_first_not_of(" \t\r\n");
    return first == s.npos ? std::string_view{} : s.substr(first, s.find_last_not_of(" \t\r\n") + 1 - first);
}

/// The next word, taken off the front.
std::string_view word(std::string_view& rest) {
    rest = trimmed(rest);
    const size_t end = std::min(rest.find_first_of(" \t"), rest.size());
    const std::string_view out = rest.substr(0, end);
    rest.remove_prefix(end);
    return out;
}

std::optional<float> number(std::string_view words) {
    float out = 0;
    const auto [last, problem] = std::from_chars(words.data(), words.data() + words.size(), out);
    if (words.empty() || problem != std::errc{} || last != words.data() + words.size() || !std::isfinite(out)) return {};
    return out;
}

int widthOf(Drawn::Kind kind) { return kind == Drawn::Kind::Curve ? 1 : 4; }

/// Slopes at the points, of one component.
float slopeAt(const std::vector<DrawnPoint>& p, size_t k, size_t c) {
    const auto between = [&](size_t i) { return (p[i + 1].value[c] - p[i].value[c]) / (p[i + 1].at - p[i].at); };
    if (k == 0) return between(0);
    if (k + 1 == p.size()) return between(k - 1);
    const float before = between(k - 1), behind = between(k);
    if (before * behind <= 0) return 0;
    // Weighted by the lengths, so that uneven points lie on one curve as even ones do.
    const float h = p[k].at - p[k - 1].at, g = p[k + 1].at - p[k].at, share = (h + 2 * g) / (3 * (h + g));
    return before * behind / (share * behind + (1 - share) * before);
}

/// "#RRGGBB" where that says the color exactly, else three numbers.
std::string colorText(const std::array<float, 4>& v) {
    const Value color{3, {v[0], v[1], v[2], 0}};
    const std::string hex = hexFromColor(color);
    if (Value back; colorFromHex(hex, back) && back == color) return hex;
    return fmt::format("{} {} {}", v[0], v[1], v[2]);
}

} // namespace

Drawn plainDrawn(Drawn::Kind kind) {
    const bool curve = kind == Drawn::Kind::Curve;
    return {kind,
            Between::Straight,
            {{0, {0, 0, 0, curve ? 0.f : 1.f}}, {1, curve ? std::array<float, 4>{1, 0, 0, 0} : std::array<float, 4>{1, 1, 1, 1}}}};
}

std::string textOf(const Drawn& d) {
    std::string out = fmt::format("{} {}:", kKinds[size_t(d.kind)], kBetween[size_t(d.between)]);
    for (size_t k = 0; k < d.points.size(); ++k) {
        const DrawnPoint& p = d.points[k];
        out += fmt::format("{} {} ", k ? "," : "", p.at);
        out += d.kind == Drawn::Kind::Curve ? fmt::format("{}", p.value[0]) : colorText(p.value);
        if (d.kind == Drawn::Kind::Gradient && p.value[3] != 1) out += fmt::format(" {}", p.value[3]);
    }
    return out;
}

Result<Drawn> drawnFrom(std::string_view text) {
    const auto wrong = [&](std::string_view at, std::string_view expected) {
        return Error{
            "drawn.words",
            fmt::format("\"{}\" cannot be read at \"{}\": {} is expected. Write such as curve smooth: 0 0, 0.4 0.25, 1 1 or gradient "
                        "straight: 0 #102030, 1 #dca54a.",
                        text, at, expected),
            {}};
    };
    Drawn out;
    const size_t colon = text.find(':');
    std::string_view head = text.substr(0, colon);
    const std::string_view kind = word(head), between = word(head);
    const auto its = std::find(std::begin(kKinds), std::end(kKinds), kind);
    if (its == std::end(kKinds)) return wrong(kind, "curve or gradient");
    out.kind = Drawn::Kind(its - std::begin(kKinds));
    const auto how = std::find(std::begin(kBetween), std::end(kBetween), between);
    if (how == std::end(kBetween) || !trimmed(head).empty()) return wrong(trimmed(text.substr(0, colon)), "straight, smooth or steps");
    out.between = Between(how - std::begin(kBetween));
    if (colon == text.npos) return wrong(text, "a colon with points behind it");
    std::string_view rest = text.substr(colon + 1);
    for (bool more = true; more;) {
        const size_t comma = rest.find(',');
        std::string_view said = trimmed(rest.substr(0, comma)), left = said;
        more = comma != rest.npos;
        if (more) rest.remove_prefix(comma + 1);
        DrawnPoint p;
        const auto at = number(word(left));
        if (!at || *at < 0 || *at > 1) return wrong(said, "a place of 0 to 1");
        p.at = *at;
        std::string_view first = word(left);
        Value color;
        if (out.kind == Drawn::Kind::Curve) {
            const auto value = number(first);
            if (!value || std::fabs(*value) > Drawn::kMost) return wrong(said, fmt::format("a value of -{0:g} to {0:g}", Drawn::kMost));
            p.value[0] = *value;
        } else {
            if (colorFromHex(first, color)) {
                std::copy_n(color.v.begin(), 3, p.value.begin());
            } else {
                for (size_t c = 0; c < 3; ++c, first = c < 3 ? word(left) : first) {
                    const auto x = number(first);
                    if (!x || *x < 0 || *x > Drawn::kMost) return wrong(said, "a color as #RRGGBB or three numbers");
                    p.value[c] = *x;
                }
            }
            p.value[3] = 1;
            if (const std::string_view alpha = word(left); !alpha.empty()) {
                const auto a = number(alpha);
                if (!a || *a < 0 || *a > 1) return wrong(said, "an alpha of 0 to 1");
                p.value[3] = *a;
            }
        }
        if (!trimmed(left).empty()) return wrong(said, "a comma or the end");
        out.points.push_back(p);
        if (out.points.size() > Drawn::kMostPoints) return wrong(said, fmt::format("at most {} points", Drawn::kMostPoints));
    }
    return inOrder(std::move(out));
}

bool isDrawn(std::string_view text) {
    return std::any_of(std::begin(kKinds), std::end(kKinds), [&](std::string_view kind) {
        return text.starts_with(kind) && text.size() > kind.size() && text[kind.size()] == ' ';
    });
}

std::array<float, 4> valueAt(const Drawn& d, float at) {
    const auto& p = d.points;
    if (p.empty()) return {};
    if (!(at > p.front().at)) return p.front().value;
    if (at >= p.back().at) return p.back().value;
    const size_t k =
        size_t(std::upper_bound(p.begin(), p.end(), at, [](float x, const DrawnPoint& q) { return x < q.at; }) - p.begin()) - 1;
    if (d.between == Between::Steps) return p[k].value;
    const float length = p[k + 1].at - p[k].at, t = (at - p[k].at) / length;
    std::array<float, 4> out{};
    for (size_t c = 0; c < size_t(widthOf(d.kind)); ++c) {
        const float from = p[k].value[c], to = p[k + 1].value[c];
        if (d.between == Between::Straight) {
            out[c] = from + (to - from) * t;
            continue;
        }
        const float u = 1 - t, slope = slopeAt(p, k, c), end = slopeAt(p, k + 1, c);
        out[c] = (1 + 2 * t) * u * u * from + t * t * (3 - 2 * t) * to + length * t * u * (u * slope - t * end);
    }
    return out;
}

Drawn inOrder(Drawn d) {
    for (DrawnPoint& p : d.points) {
        p.at = std::isfinite(p.at) ? std::clamp(p.at, 0.f, 1.f) : 0;
        for (size_t c = 0; c < 4; ++c) {
            float& x = p.value[c];
            if (c >= size_t(widthOf(d.kind))) x = 0;
            else x = std::isfinite(x) ? std::clamp(x, d.kind == Drawn::Kind::Curve ? -Drawn::kMost : 0.f, c == 3 ? 1.f : Drawn::kMost) : 0;
        }
    }
    std::stable_sort(d.points.begin(), d.points.end(), [](const DrawnPoint& a, const DrawnPoint& b) { return a.at < b.at; });
    std::vector<DrawnPoint> kept;
    for (const DrawnPoint& p : d.points)
        if (!kept.empty() && kept.back().at == p.at) kept.back() = p;
        else kept.push_back(p);
    d.points = std::move(kept);
    return d;
}

} // namespace hue
