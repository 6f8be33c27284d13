#include "core/assemblies/equal_groups.h"

#include "core/assemblies/fold.h"
#include "core/base/diagnostic.h"
#include "core/compile/compile.h"
#include "core/document/wires.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

/// What two cards must have in common, wires apart.
bool sameCard(const Node& a, const Node& b) {
    return a.kind == b.kind && a.muted == b.muted && a.settings == b.settings && a.constants == b.constants &&
           a.wires.size() == b.wires.size() &&
           std::equal(a.wires.begin(), a.wires.end(), b.wires.begin(), [](const auto& x, const auto& y) { return x.first == y.first; });
}

bool canBeIn(const Node& n) { return n.kind != "parameter" && n.kind != kOutputKind && n.kind != "note"; }

std::string labelOf(const Node& node) {
    std::string key = node.kind + (node.muted ? "\x1dmuted" : "");
    for (const auto& [name, value] : node.settings) key += "\x1f" + name + "=" + value;
    for (const auto& [port, value] : node.constants)
        key += fmt::format("\x1f{}:{},{},{},{},{}", port, value.width, value[0], value[1], value[2], value[3]);
    for (const auto& [port, wire] : node.wires) key += "\x1e" + port;
    return key;
}

/// A board by numbers, so that thousands of pairs are looked at soon.
class Numbered {
  public:
    struct Wire {
        int from; ///< card; -1 for one that is not there
        int what; ///< which output and take
        int width;
    };

    Numbered(const Graph& graph, const Compilation& taps) {
        std::map<Id, int> numbers;
        for (const auto& [id, node] : graph.nodes) {
            numbers[id] = int(ids.size());
            ids.push_back(id);
        }
        std::map<std::string, int> labels;
        std::map<std::tuple<std::string, std::string, bool>, int> whats;
        wires.resize(ids.size());
        for (size_t n = 0; n < ids.size(); ++n) {
            const Node& node = *graph.find(ids[n]);
            // Cards that are in no group are like no other.
            label.push_back(canBeIn(node) ? labels.try_emplace(labelOf(node), int(labels.size())).first->second : -1 - int(n));
            for (const auto& [port, wire] : node.wires) {
                const auto from = numbers.find(wire.node);
                const auto info = taps.ports.find({wire.node, wire.port});
                const int width = info == taps.ports.end()              ? kMapPort
                                  : !carriesNumbers(info->second.width) ? info->second.width
                                                                        : widthOfTake(wire.take, info->second.width);
                wires[n].push_back({from == numbers.end() ? -1 : from->second,
                                    whats.try_emplace({wire.port, wire.take, wire.perVertex}, int(whats.size())).first->second, width});
            }
        }
    }

    std::vector<Id> ids;
    std::vector<int> label;
    std::vector<std::vector<Wire>> wires; ///< by port
};

/// Two places side by side, grown from one card of each along the wires that lead to them.
class Pair {
  public:
    explicit Pair(const Numbered& board) : m_board(board), m_side(board.ids.size(), 0), m_other(board.ids.size(), -1) {}

    /// Grows from there. False when the two places do not match, or are less than three cards. `barred`: cards that belong elsewhere.
    bool grow(int a, int b, const std::vector<char>& barred) {
        for (const std::vector<int>* side : {&m_a, &m_b})
            for (const int n : *side) m_side[size_t(n)] = 0, m_other[size_t(n)] = -1;
        m_a.clear();
        m_b.clear();
        if (!take(a, b, barred)) return false;
        for (size_t k = 0; k < m_a.size(); ++k) {
            const auto &left = m_board.wires[size_t(m_a[k])], &right = m_board.wires[size_t(m_b[k])];
            for (size_t w = 0; w < left.size(); ++w)
                if (left[w].what == right[w].what && left[w].from >= 0 && right[w].from >= 0) take(left[w].from, right[w].from, barred);
        }
        return m_a.size() >= 3 && fits();
    }

    const std::vector<int>& a() const { return m_a; }
    const std::vector<int>& b() const { return m_b; }

  private:
    bool take(int a, int b, const std::vector<char>& barred) {
        if (a == b || barred[size_t(a)] || barred[size_t(b)] || m_side[size_t(a)] || m_side[size_t(b)]) return false;
        if (m_board.label[size_t(a)] != m_board.label[size_t(b)]) return false;
        m_a.push_back(a);
        m_b.push_back(b);
        m_side[size_t(a)] = 1;
        m_side[size_t(b)] = 2;
        m_other[size_t(a)] = b;
        return true;
    }

    /// Whether wires within lead alike, and those from outside could be inputs: each of one place stands for one of the other, and brings
    /// as much.
    bool fits() const {
        std::map<std::pair<int, int>, std::pair<int, int>> outside, back;
        for (size_t k = 0; k < m_a.size(); ++k) {
            const auto &left = m_board.wires[size_t(m_a[k])], &right = m_board.wires[size_t(m_b[k])];
            for (size_t w = 0; w < left.size(); ++w) {
                const auto &mine = left[w], &its = right[w];
                const bool within = mine.from >= 0 && m_side[size_t(mine.from)] == 1;
                if (within || (its.from >= 0 && m_side[size_t(its.from)] == 2)) {
                    if (!within || m_other[size_t(mine.from)] != its.from || mine.what != its.what) return false;
                    continue;
                }
                const std::pair key(mine.from, mine.what), other(its.from, its.what);
                if (mine.width == kFinishPort) return false; // no input takes one
                if (mine.width != its.width || outside.try_emplace(key, other).first->second != other ||
                    back.try_emplace(other, key).first->second != key)
                    return false;
            }
        }
        return true;
    }

    const Numbered& m_board;
    std::vector<char> m_side; ///< 1: of the first place, 2: of the second
    std::vector<int> m_other; ///< of the first place: the card that corresponds
    std::vector<int> m_a, m_b;
};

/// Whether the cards could become an assembly: nothing outside lies between them.
bool holdTogether(const Graph& graph, const std::vector<Id>& cards) {
    const std::set<Id> in(cards.begin(), cards.end()), before = cardsFeeding(graph, in), after = cardsFedBy(graph, in);
    return std::none_of(before.begin(), before.end(), [&](const Id& id) { return !in.contains(id) && after.contains(id); });
}

} // namespace

std::vector<EqualGroup> equalGroups(const Graph& graph, const Compilation& taps) {
    std::vector<EqualGroup> out;
    if (graph.nodes.size() > kMostCompared) return out;
    const Numbered numbered(graph, taps);
    const auto count = numbered.ids.size();
    std::map<int, std::vector<int>> alike;
    for (size_t n = 0; n < count; ++n)
        if (numbered.label[n] >= 0) alike[numbered.label[n]].push_back(int(n));
    // Each card as the first of a group, with all like it that have just its shape.
    using Places = std::vector<std::vector<int>>;
    std::vector<Places> found;
    Pair pair(numbered);
    int pairs = 0;
    constexpr int kMostPairs = 40000;
    std::vector<char> taken(count, 0);
    for (const auto& [label, cards] : alike)
        for (size_t i = 0; i + 1 < cards.size() && pairs < kMostPairs; ++i) {
            Places places;
            for (size_t k = i + 1; k < cards.size() && pairs < kMostPairs; ++k) {
                if (taken[size_t(cards[k])]) continue;
                ++pairs;
                if (!pair.grow(cards[i], cards[k], taken) || (!places.empty() && pair.a() != places[0])) continue;
                if (places.empty()) places.push_back(pair.a());
                places.push_back(pair.b());
                for (const int n : pair.b()) taken[size_t(n)] = 1;
            }
            for (const auto& place : places)
                for (const int n : place) taken[size_t(n)] = 0;
            if (places.size() > 1) found.push_back(std::move(places));
        }
    const auto saved = [](const Places& p) { return (p.size() - 1) * (p[0].size() - 1); };
    std::stable_sort(found.begin(), found.end(), [&](const Places& a, const Places& b) { return saved(a) > saved(b); });
    // What saves most first; of the others what is left.
    constexpr size_t kMostGroups = 8;
    for (const Places& places : found) {
        EqualGroup group;
        for (const std::vector<int>& place : places) {
            if (std::any_of(place.begin(), place.end(), [&](int n) { return taken[size_t(n)] != 0; })) {
                if (group.places.empty()) break; // the others are like the first
                continue;
            }
            std::vector<Id> cards;
            for (const int n : place) cards.push_back(numbered.ids[size_t(n)]);
            if (holdTogether(graph, cards)) group.places.push_back(std::move(cards));
            else if (group.places.empty()) break;
        }
        if (group.places.size() < 2) continue;
        for (const auto& place : group.places)
            for (const Id& id : place)
                taken[size_t(std::lower_bound(numbered.ids.begin(), numbered.ids.end(), id) - numbered.ids.begin())] = 1;
        out.push_back(std::move(group));
        if (out.size() == kMostGroups) break;
    }
    return out;
}

Result<Project> foldEqual(const Project& project, const Id& boardId, const EqualGroup& group, const std::string& name, Id* assembly) {
    const Master* board = project.board(boardId);
    const auto changed = [&] {
        return Error{
            "assembly.not-equal", "These groups of cards are not equal any more. Look for equal groups once more.", {boardId, {}, {}}};
    };
    if (!board || group.places.size() < 2) return changed();
    const Graph& graph = board->graph;
    // What anyone reads of any place becomes an output of all.
    std::vector<std::map<Id, size_t>> at(group.places.size());
    for (size_t p = 0; p < group.places.size(); ++p)
        for (size_t k = 0; k < group.places[p].size(); ++k) {
            const Node *first = graph.find(group.places[0][k]), *mine = graph.find(group.places[p][k]);
            if (!first || !mine || !sameCard(*first, *mine)) return changed();
            at[p][group.places[p][k]] = k;
        }
    Result<Folded> folded = foldCards(project, boardId, group.places[0], name);
    if (!folded) return folded.error();
    Result<Project> next = std::move(folded->project);
    const Id of = folded->assembly;
    const std::map<std::string, Source> firstWires = next->board(boardId)->graph.find(folded->card)->wires;
    if (assembly) *assembly = of;
    // The Output card that hands out what a card of the first place gives; made where it is not there yet.
    const auto outputFor = [&](size_t k, const std::string& port) -> std::optional<Id> {
        const Id card = group.places[0][k];
        for (int turn = 0; turn < 2; ++turn) {
            const Assembly& a = *next->assembly(of);
            for (const AssemblyOutput& o : outputsOf(a)) {
                const auto& wires = a.graph.find(o.card)->wires;
                const auto in = wires.find("in");
                if (in != wires.end() && in->second.node == card && in->second.port == port && in->second.take.empty()) return o.card;
            }
            const Node* within = a.graph.find(card);
            if (!within || turn) break;
            Node output = makeNode(kOutputKind, {within->position.x + 220, within->position.y + 40});
            output.title = cardTitle(*next, a, card) + (port == "out" ? "" : " " + port);
            next = edit::chain(*next, {[&](const Project& p) { return edit::addNode(p, of, output); },
                                       [&](const Project& p) {
                                           return edit::connect(p, of, {card, port, {}}, output.id, "in");
                                       }});
            if (!next) break;
        }
        return {};
    };
    for (size_t p = 1; p < group.places.size(); ++p) {
        // Its inputs: what the corresponding cards read here.
        Node card = makeAssemblyNode(of, graph.find(group.places[p][0])->position);
        const Graph now = next->board(boardId)->graph;
        for (const auto& [port, wire] : firstWires) {
            std::optional<Source> here;
            for (size_t k = 0; k < group.places[0].size() && !here; ++k)
                for (const auto& [into, original] : graph.find(group.places[0][k])->wires)
                    if (original.node == wire.node && original.port == wire.port && original.take == wire.take &&
                        original.perVertex == wire.perVertex)
                        here = now.find(group.places[p][k])->wires.at(into);
            if (!here) return changed();
            card.wires[port] = *here;
        }
        // Its readers: by what they read here. Other places that were folded already are read by their cards.
        std::map<std::pair<Id, std::string>, Id> outputs;
        const auto readsOf = [&](const Source& wire) {
            const auto mine = at[p].find(wire.node);
            if (mine == at[p].end()) return true;
            const auto output = outputFor(mine->second, wire.port);
            if (output) outputs[{wire.node, wire.port}] = *output;
            return output.has_value();
        };
        for (const auto& [id, node] : now.nodes)
            if (!at[p].contains(id))
                for (const auto& [port, wire] : node->wires)
                    if (!readsOf(wire)) return changed();
        for (const auto& [channel, wire] : now.channelWires)
            if (!readsOf(wire)) return changed();
        if (!next) return next;
        // Only now: an output that comes later may change what those before it are called.
        std::map<Id, std::string> keys;
        for (const AssemblyOutput& o : outputsOf(*next->assembly(of))) keys[o.card] = o.key;
        Graph outer = next->board(boardId)->graph;
        const auto lead = [&](Source& wire) {
            const auto output = outputs.find({wire.node, wire.port});
            if (output == outputs.end()) return false;
            wire.node = card.id;
            wire.port = keys.at(output->second);
            return true;
        };
        for (auto& [id, node] : outer.nodes) {
            auto copy = std::make_shared<Node>(*node);
            bool any = false;
            for (auto& [port, wire] : copy->wires) any = lead(wire) || any;
            if (any) node = std::move(copy);
        }
        for (auto& [channel, wire] : outer.channelWires) lead(wire);
        for (auto& [port, wire] : card.wires) lead(wire);
        for (const auto& [id, k] : at[p]) outer.nodes.erase(id);
        for (Bay& bay : outer.bays) {
            const bool mine = std::any_of(bay.nodes.begin(), bay.nodes.end(), [&](const Id& id) { return at[p].contains(id); });
            std::erase_if(bay.nodes, [&](const Id& id) { return at[p].contains(id); });
            if (mine && std::none_of(outer.bays.begin(), outer.bays.end(),
                                     [&](const Bay& b) { return std::find(b.nodes.begin(), b.nodes.end(), card.id) != b.nodes.end(); }))
                bay.nodes.push_back(card.id);
        }
        outer.nodes[card.id] = std::make_shared<Node>(card);
        next = edit::setGraph(*next, boardId, std::move(outer));
        if (!next) return next;
    }
    return next;
}

} // namespace hue
