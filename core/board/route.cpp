#include "core/board/route.h"

#include <cmath>
#include <functional>
#include <unordered_map>
#include <utility>

namespace hue {
namespace {

/// Level leads out of and into pins, before the first turn.
constexpr float kLead = 11;
constexpr float kCell = 240;

/// Cards by the squares of the board that they touch.
class Obstacles {
  public:
    explicit Obstacles(std::span<const Box> cards) : m_cards(cards), m_seen(cards.size(), 0) {
        for (size_t i = 0; i < cards.size(); ++i)
            eachCell(cards[i].grown(kClearance), [&](int64_t key) { m_cells[key].push_back(int(i)); });
    }

    bool free(Point a, Point b) {
        const Box run{std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x), std::max(a.y, b.y)};
        bool out = true;
        each(run, [&](const Box& card) { out = out && !blocks(card, run); });
        return out;
    }

    /// Every card that touches the square once.
    void each(const Box& where, const std::function<void(const Box&)>& visit) {
        ++m_round;
        eachCell(where, [&](int64_t key) {
            const auto cell = m_cells.find(key);
            if (cell == m_cells.end()) return;
            for (const int i : cell->second)
                if (std::exchange(m_seen[size_t(i)], m_round) != m_round) visit(m_cards[size_t(i)]);
        });
    }

  private:
    static bool blocks(const Box& card, const Box& run) {
        const Box c = card.grown(kClearance - 0.5f);
        return run.left < c.right && c.left < run.right + 1e-3f && run.top < c.bottom && c.top < run.bottom + 1e-3f;
    }

    static void eachCell(const Box& b, const std::function<void(int64_t)>& visit) {
        const int x0 = int(std::floor(b.left / kCell)), x1 = int(std::floor(b.right / kCell));
        const int y0 = int(std::floor(b.top / kCell)), y1 = int(std::floor(b.bottom / kCell));
        for (int x = x0; x <= x1; ++x)
            for (int y = y0; y <= y1; ++y) visit((int64_t(x) << 32) ^ int64_t(uint32_t(y)));
    }

    std::span<const Box> m_cards;
    std::unordered_map<int64_t, std::vector<int>> m_cells;
    std::vector<unsigned> m_seen;
    unsigned m_round = 0;
};

/// Out to x, up or down, and in.
WayOfWire withOneUpright(const WireEnds& w, float x) { return {w.from, {x, w.from.y}, {x, w.to.y}, w.to}; }
/// Out to x1, up or down to y, along to x2, and in.
WayOfWire withTwoUprights(const WireEnds& w, float x1, float y, float x2) {
    return {w.from, {x1, w.from.y}, {x1, y}, {x2, y}, {x2, w.to.y}, w.to};
}

/// The leads at both pins lie beside the cards that they belong to and are not looked at.
bool isFree(const WayOfWire& way, Obstacles& cards) {
    for (size_t i = 0; i + 1 < way.size(); ++i) {
        Point a = way[i], b = way[i + 1];
        if (i == 0) a.x += std::min(kClearance, std::max(0.f, b.x - a.x));
        if (i + 2 == way.size()) b.x -= std::min(kClearance, std::max(0.f, b.x - a.x));
        if (!cards.free(a, b)) return false;
    }
    return true;
}

WayOfWire wayOf(const WireEnds& w, Obstacles& cards) {
    const float first = w.from.x + kLead, last = w.to.x - kLead;
    if (std::fabs(w.from.y - w.to.y) < 0.5f && w.to.x > w.from.x && isFree({w.from, w.to}, cards)) return {w.from, w.to};
    // One upright run: in the gap before the target, else wherever there is one, else after the source.
    if (last >= first) {
        if (WayOfWire way = withOneUpright(w, last); isFree(way, cards)) return way;
        std::vector<float> places{first};
        const Box span{first, std::min(w.from.y, w.to.y), last, std::max(w.from.y, w.to.y)};
        cards.each(span, [&](const Box& c) {
            for (const float x : {c.left - kLead, c.right + kLead})
                if (x > first && x < last) places.push_back(x);
        });
        std::sort(places.rbegin(), places.rend());
        places.erase(std::unique(places.begin(), places.end()), places.end());
        for (const float x : places)
            if (WayOfWire way = withOneUpright(w, x); isFree(way, cards)) return way;
    }
    // Two, with a level run above or below what is in the way; the shortest that is free.
    const float top = std::min(w.from.y, w.to.y), bottom = std::max(w.from.y, w.to.y);
    std::vector<float> levels{(w.from.y + w.to.y) / 2};
    float reach = 0;
    for (int round = 0; round < 3; ++round) {
        const Box around{std::min(first, last), top - reach, std::max(first, last), bottom + reach};
        std::vector<float> found;
        cards.each(around, [&](const Box& c) { found.push_back(c.top - kLead), found.push_back(c.bottom + kLead); });
        levels.insert(levels.end(), found.begin(), found.end());
        const auto detour = [&](float y) { return std::fabs(y - w.from.y) + std::fabs(y - w.to.y); };
        std::sort(levels.begin(), levels.end(), [&](float a, float b) { return std::pair(detour(a), a) < std::pair(detour(b), b); });
        levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
        for (const float y : levels)
            if (WayOfWire way = withTwoUprights(w, first, y, last); isFree(way, cards)) return way;
        reach = reach * 2 + 160;
    }
    // There is none: the plain way, as short as it can be.
    return last >= first ? withOneUpright(w, last) : withTwoUprights(w, first, (w.from.y + w.to.y) / 2, last);
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
    const auto strip = [](float at) { return int(std::floor(at / kCell)); };
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
            const WayOfWire old = ways[run.wire];
            for (int k = 1; k <= 28; ++k) {
                // To the left (or up) first: most runs stand before their targets.
                Run moved = run;
                moved.at = run.at + kLaneWidth * float((k + 1) / 2) * (k % 2 ? -1.f : 1.f);
                WayOfWire way = old;
                across(way[run.corner]) = across(way[run.corner + 1]) = moved.at;
                // Out of the first pin to the right, into the last from the left.
                if (way[1].x < way[0].x + 2 || way[way.size() - 2].x > way.back().x - 2) continue;
                if (meets(moved) || !isFree(way, cards)) continue;
                ways[run.wire] = std::move(way);
                run = moved;
                break;
            }
        }
        placed[strip(run.at)].push_back(run);
    }
}

} // namespace

std::vector<WayOfWire> waysOfWires(std::span<const WireEnds> wires, std::span<const Box> cards) {
    Obstacles obstacles(cards);
    std::vector<WayOfWire> out;
    out.reserve(wires.size());
    for (const WireEnds& w : wires) out.push_back(wayOf(w, obstacles));
    keepApart(true, wires, out, obstacles);
    keepApart(false, wires, out, obstacles);
    return out;
}

} // namespace hue
