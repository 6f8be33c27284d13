#include "core/board/route.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <string_view>
#include <tuple>
#include <unordered_map>
#include <utility>

namespace hue {
namespace {

/// Level leads out of and into pins, before the first turn.
constexpr float kLead = 11;

/// Cards by the squares of the board that they touch.
class Obstacles {
  public:
    explicit Obstacles(std::span<const Box> cards) : m_cards(cards), m_seen(cards.size(), 0) {
        if (cards.empty()) return;
        Box all = cards[0];
        for (const Box& c : cards) all = around(all, c);
        all = all.grown(2 * kClearance);
        m_left = all.left, m_top = all.top;
        // As many squares as a few cards each, however far the board reaches.
        m_cell = std::max(160.f, std::max(all.width(), all.height()) / 256);
        m_across = 1 + int(all.width() / m_cell), m_down = 1 + int(all.height() / m_cell);
        m_cells.resize(size_t(m_across) * size_t(m_down));
        for (size_t i = 0; i < cards.size(); ++i)
            eachCell(*this, cards[i].grown(kClearance), [&](std::vector<int>& cell) { return cell.push_back(int(i)), true; });
    }

    bool free(Point a, Point b) {
        const Box run{std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x), std::max(a.y, b.y)};
        watch(run.grown(kClearance));
        return eachCell(*this, run, [&](const std::vector<int>& cell) {
            return std::none_of(cell.begin(), cell.end(), [&](int i) { return blocks(m_cards[size_t(i)], run); });
        });
    }

    /// Every card that lies there, or as near as a wire passes it, once.
    template <class Visit> void each(const Box& where, Visit visit) {
        ++m_round;
        const Box near = where.grown(kClearance);
        watch(near);
        eachCell(*this, near, [&](const std::vector<int>& cell) {
            for (const int i : cell)
                if (std::exchange(m_seen[size_t(i)], m_round) != m_round && m_cards[size_t(i)].meets(near)) visit(m_cards[size_t(i)]);
            return true;
        });
    }

    /// What was looked at since the last call: cards beyond it had no say.
    Box looked() { return std::exchange(m_looked, std::nullopt).value_or(Box{}); }

  private:
    void watch(const Box& b) { m_looked = m_looked ? around(*m_looked, b) : b; }

    static bool blocks(const Box& card, const Box& run) {
        const Box c = card.grown(kClearance - 0.5f);
        return run.left < c.right && c.left < run.right + 1e-3f && run.top < c.bottom && c.top < run.bottom + 1e-3f;
    }

    /// Until `visit` says no; whether it never did. What lies beyond all cards has no squares.
    template <class Self, class Visit> static bool eachCell(Self& o, const Box& b, Visit visit) {
        const auto at = [&](float x, float origin, int most) { return std::clamp(int(std::floor((x - origin) / o.m_cell)), 0, most - 1); };
        if (o.m_cells.empty()) return true;
        const int x0 = at(b.left, o.m_left, o.m_across), x1 = at(b.right, o.m_left, o.m_across);
        const int y0 = at(b.top, o.m_top, o.m_down), y1 = at(b.bottom, o.m_top, o.m_down);
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x)
                if (!visit(o.m_cells[size_t(y) * size_t(o.m_across) + size_t(x)])) return false;
        return true;
    }

    std::span<const Box> m_cards;
    float m_left = 0, m_top = 0, m_cell = 1;
    int m_across = 0, m_down = 0;
    std::vector<std::vector<int>> m_cells;
    std::vector<unsigned> m_seen;
    unsigned m_round = 0;
    std::optional<Box> m_looked;
};

/// A way as it is tried, which most are in vain.
struct Trial {
    std::array<Point, 6> corners;
    size_t count;
    operator std::span<const Point>() const { return {corners.data(), count}; }
    operator WayOfWire() const { return {corners.begin(), corners.begin() + long(count)}; }
};

/// Out to x, up or down, and in.
Trial withOneUpright(const WireEnds& w, float x) { return {{w.from, {x, w.from.y}, {x, w.to.y}, w.to}, 4}; }
/// Out to x1, up or down to y, along to x2, and in.
Trial withTwoUprights(const WireEnds& w, float x1, float y, float x2) {
    return {{w.from, {x1, w.from.y}, {x1, y}, {x2, y}, {x2, w.to.y}, w.to}, 6};
}

/// The leads at both pins lie beside the cards that they belong to and are not looked at.
bool isFree(std::span<const Point> way, size_t run, Obstacles& cards) {
    Point a = way[run], b = way[run + 1];
    if (run == 0) a.x += std::min(kClearance, std::max(0.f, b.x - a.x));
    if (run + 2 == way.size()) b.x -= std::min(kClearance, std::max(0.f, b.x - a.x));
    return cards.free(a, b);
}
bool isFree(std::span<const Point> way, Obstacles& cards) {
    for (size_t i = 0; i + 1 < way.size(); ++i)
        if (!isFree(way, i, cards)) return false;
    return true;
}

WayOfWire wayOf(const WireEnds& w, Obstacles& cards) {
    const float first = w.from.x + kLead, last = w.to.x - kLead;
    if (std::fabs(w.from.y - w.to.y) < 0.5f && w.to.x > w.from.x && isFree(Trial{{w.from, w.to}, 2}, cards)) return {w.from, w.to};
    // One upright run: in the gap before the target, else wherever there is one, else after the source.
    if (last >= first) {
        if (const Trial way = withOneUpright(w, last); isFree(way, cards)) return way;
        std::vector<float> places{first};
        const Box span{first, std::min(w.from.y, w.to.y), last, std::max(w.from.y, w.to.y)};
        cards.each(span, [&](const Box& c) {
            for (const float x : {c.left - kLead, c.right + kLead})
                if (x > first && x < last) places.push_back(x);
        });
        std::sort(places.rbegin(), places.rend());
        places.erase(std::unique(places.begin(), places.end()), places.end());
        for (const float x : places)
            if (const Trial way = withOneUpright(w, x); isFree(way, cards)) return way;
    }
    // Two, with a level run above or below what is in the way; the shortest that is free.
    const float top = std::min(w.from.y, w.to.y), bottom = std::max(w.from.y, w.to.y);
    std::vector<float> levels{(w.from.y + w.to.y) / 2};
    float reach = 0;
    for (int round = 0; round < 3; ++round) {
        const Box here{std::min(first, last), top - reach, std::max(first, last), bottom + reach};
        std::vector<float> found;
        cards.each(here, [&](const Box& c) { found.push_back(c.top - kLead), found.push_back(c.bottom + kLead); });
        levels.insert(levels.end(), found.begin(), found.end());
        const auto detour = [&](float y) { return std::fabs(y - w.from.y) + std::fabs(y - w.to.y); };
        std::sort(levels.begin(), levels.end(), [&](float a, float b) { return std::pair(detour(a), a) < std::pair(detour(b), b); });
        levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
        for (const float y : levels)
            if (const Trial way = withTwoUprights(w, first, y, last); isFree(way, cards)) return way;
        reach = reach * 2 + 160;
    }
    // There is none: the plain way, as short as it can be.
    return last >= first ? withOneUpright(w, last) : withTwoUprights(w, first, (w.from.y + w.to.y) / 2, last);
}

std::array<float, 4> ends(const WireEnds& w) { return {w.from.x, w.from.y, w.to.x, w.to.y}; }
struct EndsHash {
    size_t operator()(const std::array<float, 4>& e) const {
        return std::hash<std::string_view>()({reinterpret_cast<const char*>(e.data()), sizeof e});
    }
};
/// A way that was found, and all that had a say in it.
struct Found {
    WayOfWire way;
    Box looked;
    bool wanted = true; ///< by the last call
};

bool before(const Box& a, const Box& b) { return std::tie(a.left, a.top, a.right, a.bottom) < std::tie(b.left, b.top, b.right, b.bottom); }
/// What one list of cards has and the other has not.
std::vector<Box> differing(std::vector<Box> a, std::vector<Box> b) {
    std::sort(a.begin(), a.end(), before);
    std::sort(b.begin(), b.end(), before);
    std::vector<Box> out;
    std::set_symmetric_difference(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(out), before);
    return out;
}

/// A run between two corners of a way: from corner k to corner k + 1.
struct Run {
    size_t wire, corner;
    float at;        ///< x of an upright run, y of a level one
    float low, high; ///< between which it runs
};

/// Moves upright (or level) runs aside until none lies upon, or nearer than a lane to, one of another net. Runs that end at a pin stay.
void keepApart(bool upright, std::span<const WireEnds> wires, std::vector<WayOfWire>& ways, Obstacles& cards) {
    const auto across = [&](Point& p) -> float& { return upright ? p.x : p.y; };
    const auto along = [&](Point& p) -> float& { return upright ? p.y : p.x; };
    std::vector<Run> runs;
    for (size_t i = 0; i < ways.size(); ++i)
        for (size_t k = 1; k + 2 < ways[i].size(); ++k) {
            Point &a = ways[i][k], &b = ways[i][k + 1];
            if (across(a) == across(b) && along(a) != along(b))
                runs.push_back({i, k, across(a), std::min(along(a), along(b)), std::max(along(a), along(b))});
        }
    // The short ones first: they have the least choice.
    std::stable_sort(runs.begin(), runs.end(), [](const Run& a, const Run& b) { return a.high - a.low < b.high - b.low; });
    std::unordered_map<int, std::vector<Run>> placed; ///< by strip of the board
    placed.reserve(runs.size());
    const auto strip = [](float at) { return int(std::floor(at / (2 * kLaneWidth))); };
    const auto meets = [&](const Run& r) {
        for (int c = strip(r.at - kLaneWidth); c <= strip(r.at + kLaneWidth); ++c) {
            const auto there = placed.find(c);
            if (there == placed.end()) continue;
            for (const Run& o : there->second)
                if (wires[o.wire].net != wires[r.wire].net && std::fabs(o.at - r.at) < kLaneWidth - 0.01f && o.low < r.high + 2 &&
                    r.low < o.high + 2)
                    return true;
        }
        return false;
    };
    for (Run& run : runs) {
        if (meets(run)) {
            WayOfWire& way = ways[run.wire];
            // It moves with the two runs beside it; a way that is not free elsewhere stays as it is.
            const size_t before = run.corner - 1, after = run.corner + 1;
            bool stays = true;
            for (size_t k = 0; k + 1 < way.size() && stays; ++k) stays = (k >= before && k <= after) || isFree(way, k, cards);
            const auto moveTo = [&](float at) { across(way[run.corner]) = across(way[run.corner + 1]) = at; };
            const auto good = [&](const Run& moved) {
                // Out of the first pin to the right, into the last from the left.
                if (way[1].x < way[0].x + 2 || way[way.size() - 2].x > way.back().x - 2 || meets(moved)) return false;
                for (size_t k = before; k <= after; ++k)
                    if (!isFree(way, k, cards)) return false;
                return true;
            };
            Run moved = run;
            for (int k = 1; stays && k <= 28 && moved.at == run.at; ++k) {
                // To the left (or up) first: most runs stand before their targets.
                moved.at = run.at + kLaneWidth * float((k + 1) / 2) * (k % 2 ? -1.f : 1.f);
                moveTo(moved.at);
                if (!good(moved)) moveTo(moved.at = run.at);
            }
            run = moved;
        }
        placed[strip(run.at)].push_back(run);
    }
}

} // namespace

struct Router::Impl {
    std::vector<Box> cards;
    Obstacles obstacles{cards};
    std::unordered_map<std::array<float, 4>, Found, EndsHash> found;
};

Router::Router() : m(std::make_unique<Impl>()) {}
Router::~Router() = default;

void Router::setCards(std::span<const Box> cards) {
    if (std::equal(cards.begin(), cards.end(), m->cards.begin(), m->cards.end())) return;
    // Ways stay where nothing has changed that they looked at.
    const std::vector<Box> changed = differing(m->cards, {cards.begin(), cards.end()});
    if (changed.size() > 32) m->found.clear();
    else
        std::erase_if(m->found, [&](const auto& entry) {
            return std::any_of(changed.begin(), changed.end(),
                               [&](const Box& c) { return c.grown(kClearance).meets(entry.second.looked); });
        });
    m->cards.assign(cards.begin(), cards.end());
    m->obstacles = Obstacles(m->cards);
}

std::vector<WayOfWire> Router::ways(std::span<const WireEnds> wires) {
    std::vector<WayOfWire> out;
    out.reserve(wires.size());
    for (auto& entry : m->found) entry.second.wanted = false;
    for (const WireEnds& w : wires) {
        auto [it, fresh] = m->found.try_emplace(ends(w));
        if (fresh) {
            m->obstacles.looked();
            it->second.way = wayOf(w, m->obstacles);
            it->second.looked = m->obstacles.looked();
        }
        it->second.wanted = true;
        out.push_back(it->second.way);
    }
    // Those that follow the view come and go.
    if (m->found.size() > 4 * wires.size() + 1000) std::erase_if(m->found, [](const auto& entry) { return !entry.second.wanted; });
    keepApart(true, wires, out, m->obstacles);
    keepApart(false, wires, out, m->obstacles);
    return out;
}

std::vector<WayOfWire> waysOfWires(std::span<const WireEnds> wires, std::span<const Box> cards) {
    Router router;
    router.setCards(cards);
    return router.ways(wires);
}

} // namespace hue
