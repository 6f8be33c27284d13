#include "core/board/tidy.h"

#include "core/document/bays.h"

#include <cmath>
#include <numeric>

namespace hue {
namespace {

constexpr float kRowGap = 22, kColumnGap = 54, kLane = 5;
constexpr int kRounds = 9, kMostRounds = 60; ///< without getting better; at all

struct Edge {
    int from, to; ///< indices of cards
};

/// A card, or a bay with all that it holds: what is moved up and down as one.
struct Block {
    int card = -1;
    Id bay;
    std::vector<Block> inner; ///< of a bay, from top to bottom
    int firstColumn = 0, lastColumn = 0;
    float top = 0, bottom = 0;
};

class Tidying {
  public:
    Tidying(const Graph& graph, const std::map<Id, Box>& boxes, const std::set<Id>& chosen) : m_graph(graph) {
        for (const auto& [id, box] : boxes) {
            if (!graph.find(id) || (!chosen.empty() && !chosen.contains(id))) continue;
            m_index[id] = int(m_ids.size());
            m_ids.push_back(id);
            m_boxes.push_back(box);
        }
        for (const auto& [id, at] : m_index)
            for (const auto& [port, wire] : graph.find(id)->wires)
                if (const auto from = m_index.find(wire.node); from != m_index.end()) m_edges.push_back({from->second, at});
        findColumns();
    }

    std::map<Id, Point> run() {
        std::map<Id, Point> out;
        if (m_ids.empty()) return out;
        Block all = blockOf({});
        sortByPlace(all);
        improve(all);
        const std::vector<float> x = columnPlaces();
        std::vector<float> y(m_ids.size());
        place(all, y);
        settle(all, y);
        float left = m_boxes[0].left, top = m_boxes[0].top;
        for (const Box& b : m_boxes) left = std::min(left, b.left), top = std::min(top, b.top);
        const float highest = *std::min_element(y.begin(), y.end());
        for (size_t i = 0; i < m_ids.size(); ++i)
            out[m_ids[i]] = {std::round(left + x[size_t(m_column[i])]), std::round(top + y[i] - highest)};
        return out;
    }

    int crossings() const {
        std::vector<float> y(m_ids.size());
        for (size_t i = 0; i < y.size(); ++i) y[i] = (m_boxes[i].top + m_boxes[i].bottom) / 2;
        return crossings(y);
    }

  private:
    /// A card's column, counted from the right, is one more than the greatest of its readers'.
    void findColumns() {
        const size_t n = m_ids.size();
        std::vector<std::vector<int>> sources(n);
        std::vector<int> readers(n, 0);
        for (const Edge& e : m_edges) sources[size_t(e.to)].push_back(e.from), ++readers[size_t(e.from)];
        m_column.assign(n, 0);
        std::vector<int> open;
        for (size_t i = 0; i < n; ++i)
            if (!readers[i]) open.push_back(int(i));
        // What lies in a loop is never freed and stays in the last column.
        while (!open.empty()) {
            const int at = open.back();
            open.pop_back();
            for (const int s : sources[size_t(at)]) {
                m_column[size_t(s)] = std::max(m_column[size_t(s)], m_column[size_t(at)] + 1);
                if (--readers[size_t(s)] == 0) open.push_back(s);
            }
        }
        m_columns = n ? 1 + *std::max_element(m_column.begin(), m_column.end()) : 0;
        for (int& c : m_column) c = m_columns - 1 - c;
        m_through.resize(size_t(m_columns));
        for (const Edge& e : m_edges)
            for (int c = m_column[size_t(e.from)]; c < m_column[size_t(e.to)]; ++c) m_through[size_t(c)].push_back(&e);
    }

    Block blockOf(const Id& bay) const {
        Block out;
        out.bay = bay;
        out.firstColumn = m_columns, out.lastColumn = -1;
        const auto add = [&](Block b) {
            out.firstColumn = std::min(out.firstColumn, b.firstColumn);
            out.lastColumn = std::max(out.lastColumn, b.lastColumn);
            out.inner.push_back(std::move(b));
        };
        std::set<Id> inBays;
        for (const Bay& b : m_graph.bays) {
            inBays.insert(b.nodes.begin(), b.nodes.end());
            // A bay around which there is no bay (any more) lies on the board itself.
            const bool here = bay.empty() ? !findBay(m_graph, b.inside) : b.inside == bay;
            if (!here || b.id == bay) continue;
            Block inner = blockOf(b.id);
            if (!inner.inner.empty()) add(std::move(inner));
        }
        const auto addCard = [&](const Id& id) {
            const auto it = m_index.find(id);
            if (it == m_index.end()) return;
            Block card;
            card.card = it->second;
            card.firstColumn = card.lastColumn = m_column[size_t(it->second)];
            add(std::move(card));
        };
        if (bay.empty()) {
            for (const Id& id : m_ids)
                if (!inBays.contains(id)) addCard(id);
        } else {
            for (const Id& id : findBay(m_graph, bay)->nodes) addCard(id);
        }
        return out;
    }

    template <class Of> float mean(const Block& b, const Of& of, int& count) const {
        if (b.card >= 0) return count = 1, of(b.card);
        float sum = 0;
        count = 0;
        for (const Block& inner : b.inner) {
            int n = 0;
            sum += mean(inner, of, n) * float(std::max(n, 1));
            count += n;
        }
        return count ? sum / float(count) : 0;
    }

    template <class Of> void sortBy(Block& b, const Of& of) const {
        std::vector<std::pair<float, size_t>> order;
        for (size_t i = 0; i < b.inner.size(); ++i) {
            int n = 0;
            order.emplace_back(mean(b.inner[i], of, n), i);
        }
        std::stable_sort(order.begin(), order.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
        std::vector<Block> sorted;
        for (const auto& [y, i] : order) sorted.push_back(std::move(b.inner[i]));
        b.inner = std::move(sorted);
        for (Block& inner : b.inner)
            if (inner.card < 0) sortBy(inner, of);
    }

    void sortByPlace(Block& all) const {
        sortBy(all, [&](int card) { return m_boxes[size_t(card)].top; });
    }

    /// Cards from top to bottom, as blocks lie.
    static void flatten(const Block& b, std::vector<float>& rank, float& next) {
        if (b.card >= 0) rank[size_t(b.card)] = next++;
        for (const Block& inner : b.inner) flatten(inner, rank, next);
    }
    std::vector<float> ranksOf(const Block& all) const {
        std::vector<float> rank(m_ids.size());
        float next = 0;
        flatten(all, rank, next);
        return rank;
    }

    int crossings(const std::vector<float>& y) const {
        // Two wires cross where they run between the same two columns and change their order; a long wire is taken as straight.
        int out = 0;
        const auto at = [&](const Edge& e, int column) {
            const int a = m_column[size_t(e.from)], b = m_column[size_t(e.to)];
            const float t = b > a ? float(column - a) / float(b - a) : 0;
            return y[size_t(e.from)] + (y[size_t(e.to)] - y[size_t(e.from)]) * t;
        };
        std::vector<std::pair<float, float>> ends;
        std::vector<float> rights, spare;
        for (int c = 0; c + 1 < m_columns; ++c) {
            ends.clear(), rights.clear();
            for (const Edge* e : m_through[size_t(c)]) ends.emplace_back(at(*e, c), at(*e, c + 1));
            std::sort(ends.begin(), ends.end());
            for (const auto& [left, right] : ends) rights.push_back(right);
            spare.resize(rights.size());
            out += inversions(rights, spare, 0, rights.size());
        }
        return out;
    }

    /// Pairs that stand in the wrong order; sorts on the way.
    static int inversions(std::vector<float>& v, std::vector<float>& spare, size_t from, size_t to) {
        if (to - from < 2) return 0;
        const size_t middle = (from + to) / 2;
        int out = inversions(v, spare, from, middle) + inversions(v, spare, middle, to);
        size_t a = from, b = middle, k = from;
        while (a < middle && b < to) {
            if (v[b] < v[a]) out += int(middle - a), spare[k++] = v[b++];
            else spare[k++] = v[a++];
        }
        while (a < middle) spare[k++] = v[a++];
        while (b < to) spare[k++] = v[b++];
        std::copy(spare.begin() + long(from), spare.begin() + long(to), v.begin() + long(from));
        return out;
    }

    /// Everything is drawn to the mean of its neighbours, to the right and to the left in turn; the first order that no round betters
    /// stays.
    void improve(Block& all) const {
        int best = crossings(ranksOf(all));
        Block now = all;
        int since = 0;
        for (int round = 0; round < kMostRounds && since < kRounds && best > 0; ++round, ++since) {
            const std::vector<float> rank = ranksOf(now);
            std::vector<float> sum = rank;
            std::vector<int> n(m_ids.size(), 1);
            for (const Edge& e : m_edges) {
                if (round % 3 != 1) sum[size_t(e.from)] += 4 * rank[size_t(e.to)], n[size_t(e.from)] += 4;
                if (round % 3 != 0) sum[size_t(e.to)] += 4 * rank[size_t(e.from)], n[size_t(e.to)] += 4;
            }
            sortBy(now, [&](int card) { return sum[size_t(card)] / float(n[size_t(card)]); });
            if (const int crossed = crossings(ranksOf(now)); crossed < best) best = crossed, all = now, since = -1;
        }
    }

    std::vector<float> columnPlaces() const {
        std::vector<float> widest(size_t(m_columns), 0), x(size_t(m_columns), 0);
        for (size_t i = 0; i < m_ids.size(); ++i) widest[size_t(m_column[i])] = std::max(widest[size_t(m_column[i])], m_boxes[i].width());
        // Wires that turn in a gap need a lane each; bays that end there their margin.
        std::vector<float> names(widest.size(), 0);
        for (const auto& [id, at] : m_index)
            for (const auto& [port, wire] : m_graph.find(id)->wires)
                // The name of an underpass stands before its end.
                if (const int c = m_column[size_t(at)]; !wire.underpass.empty() && c > 0) names[size_t(c) - 1] = kUnderpassWidth;
        std::vector<std::set<int>> turning(static_cast<size_t>(m_columns));
        for (const Edge& e : m_edges) turning[size_t(std::max(0, m_column[size_t(e.to)] - 1))].insert(e.from);
        for (int c = 1; c < m_columns; ++c) {
            const float lanes = kLane * float(std::min<size_t>(turning[size_t(c - 1)].size(), 14));
            x[size_t(c)] = x[size_t(c - 1)] + widest[size_t(c - 1)] + kColumnGap + std::max(0.f, lanes - 20) + names[size_t(c - 1)];
        }
        return x;
    }

    /// As high as what lies above in its columns lets it. `skyline`: the lowest edge so far, by column.
    void put(Block& b, std::vector<float>& skyline, std::vector<float>& y) const {
        float top = -1e9f;
        for (int c = b.firstColumn; c <= b.lastColumn; ++c) top = std::max(top, skyline[size_t(c)]);
        if (b.card >= 0) {
            b.top = top + kRowGap;
            y[size_t(b.card)] = b.top;
            b.bottom = b.top + m_boxes[size_t(b.card)].height();
        } else {
            b.top = top + kRowGap;
            std::vector<float> within(skyline.size(), b.top + kBayHead - kRowGap);
            b.bottom = b.top;
            for (Block& inner : b.inner) put(inner, within, y), b.bottom = std::max(b.bottom, inner.bottom);
            b.bottom += kBayMargin;
        }
        for (int c = b.firstColumn; c <= b.lastColumn; ++c) skyline[size_t(c)] = b.bottom;
    }

    void place(Block& all, std::vector<float>& y) const {
        std::vector<float> skyline(size_t(m_columns), 0);
        for (Block& b : all.inner) put(b, skyline, y);
    }

    void move(Block& b, float by, std::vector<float>& y) const {
        b.top += by, b.bottom += by;
        if (b.card >= 0) y[size_t(b.card)] += by;
        for (Block& inner : b.inner) move(inner, by, y);
    }

    void cardsOf(const Block& b, std::vector<int>& out) const {
        if (b.card >= 0) out.push_back(b.card);
        for (const Block& inner : b.inner) cardsOf(inner, out);
    }

    /// From the lowest up, each is let down towards what it is wired to, as far as there is room.
    void settle(Block& all, std::vector<float>& y) const {
        std::vector<std::vector<int>> near(m_ids.size());
        for (const Edge& e : m_edges) near[size_t(e.from)].push_back(e.to), near[size_t(e.to)].push_back(e.from);
        for (int round = 0; round < 3; ++round) {
            std::vector<float> ground(size_t(m_columns), 1e9f);
            for (size_t k = all.inner.size(); k-- > 0;) {
                Block& b = all.inner[k];
                float room = 1e9f;
                for (int c = b.firstColumn; c <= b.lastColumn; ++c) room = std::min(room, ground[size_t(c)] - kRowGap - b.bottom);
                std::vector<int> cards;
                cardsOf(b, cards);
                const std::set<int> mine(cards.begin(), cards.end());
                float wish = 0;
                int n = 0;
                for (const int card : cards)
                    for (const int other : near[size_t(card)])
                        if (!mine.contains(other)) wish += y[size_t(other)] - y[size_t(card)], ++n;
                if (n) move(b, std::clamp(wish / float(n), 0.f, std::max(0.f, room)), y);
                for (int c = b.firstColumn; c <= b.lastColumn; ++c) ground[size_t(c)] = std::min(ground[size_t(c)], b.top);
            }
        }
    }

    const Graph& m_graph;
    std::map<Id, int> m_index;
    std::vector<Id> m_ids;
    std::vector<Box> m_boxes;
    std::vector<Edge> m_edges;
    std::vector<int> m_column; ///< from the left
    int m_columns = 0;
    std::vector<std::vector<const Edge*>> m_through; ///< wires between a column and the next
};

std::map<Id, Box> movedTo(std::map<Id, Box> cards, const std::map<Id, Point>& places) {
    for (const auto& [id, at] : places) {
        Box& b = cards.at(id);
        b = {at.x, at.y, at.x + b.width(), at.y + b.height()};
    }
    return cards;
}

} // namespace

std::map<Id, Point> tidied(const Graph& graph, const std::map<Id, Box>& cards, const std::set<Id>& chosen) {
    // An order that is better only becomes visible once things lie in columns; so until nothing changes. Where two or more take turns, the
    // first of them by their places stands for all.
    constexpr size_t kMostTurns = 24;
    std::map<Id, Box> now = cards;
    std::vector<std::map<Id, Point>> turns;
    const auto placesOf = [](const std::map<Id, Point>& p) {
        std::vector<std::pair<float, float>> out;
        for (const auto& [id, at] : p) out.emplace_back(at.x, at.y);
        return out;
    };
    std::map<Id, Point> places;
    while (turns.size() < kMostTurns) {
        places = Tidying(graph, now, chosen).run();
        const auto before = std::find(turns.begin(), turns.end(), places);
        if (before != turns.end()) {
            places = *std::min_element(before, turns.end(), [&](const auto& a, const auto& b) { return placesOf(a) < placesOf(b); });
            break;
        }
        now = movedTo(std::move(now), places);
        turns.push_back(places);
    }
    if (chosen.empty()) return places;
    // Nothing lands on what stays: all of it moves down until there is room.
    float down = 0;
    for (bool again = true; again;) {
        again = false;
        for (const auto& [id, at] : places) {
            const Box mine = Box{at.x, at.y + down, at.x + cards.at(id).width(), at.y + down + cards.at(id).height()}.grown(8);
            for (const auto& [other, box] : cards)
                if (!places.contains(other) && mine.meets(box)) down += box.bottom + kRowGap - mine.top, again = true;
            if (again) break;
        }
    }
    for (auto& [id, at] : places) at.y += down;
    return places;
}

std::map<Id, Point> tidiedAsSeen(const Graph& graph, const std::map<Id, Box>& boxes, const std::set<Id>& chosen) {
    const std::map<Id, Id> folded = foldedAway(graph);
    if (folded.empty()) return tidied(graph, boxes, chosen);
    // Each folded bay as one card, which reads what its cards read and is read where they are.
    Graph seen;
    const auto standIn = [&](const Id& card) {
        const auto it = folded.find(card);
        return it == folded.end() ? card : it->second;
    };
    std::map<Id, std::shared_ptr<Node>> nodes;
    for (const auto& [id, node] : graph.nodes) {
        const Id as = standIn(id);
        std::shared_ptr<Node>& to = nodes[as];
        if (!to) {
            to = std::make_shared<Node>();
            to->id = as;
        }
        for (const auto& [port, wire] : node->wires)
            if (const Id from = standIn(wire.node); from != as) to->wires[id + "." + port] = {from, wire.port, {}};
    }
    for (const auto& [id, node] : nodes) seen.nodes[id] = node;
    for (Bay bay : graph.bays) {
        if (bay.folded) continue;
        std::erase_if(bay.nodes, [&](const Id& n) { return folded.contains(n); });
        // A folded bay lies where the bay lay that it stands for.
        for (const Bay& inner : graph.bays)
            if (inner.inside == bay.id && inner.folded) bay.nodes.push_back(inner.id);
        seen.bays.push_back(std::move(bay));
    }
    std::map<Id, Point> out;
    for (const auto& [id, to] : tidied(seen, boxes, chosen)) {
        if (graph.find(id)) {
            out[id] = to;
            continue;
        }
        const Box& box = boxes.at(id);
        for (const Id& card : cardsWithin(graph, id))
            if (const Node* node = graph.find(card)) out[card] = {node->position.x + to.x - box.left, node->position.y + to.y - box.top};
    }
    return out;
}

int crossingsOf(const Graph& graph, const std::map<Id, Box>& cards) { return Tidying(graph, cards, {}).crossings(); }

} // namespace hue
