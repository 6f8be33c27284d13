#include "core/master_text/board_private.h"

#include "core/master_text/names_private.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue::lines {

std::optional<FormulaProblem> loopIn(const Graph& graph, const std::vector<Statement>& statements, const std::map<std::string, Id>& cards) {
    std::map<Id, const Statement*> lineOf;
    for (const Statement& s : statements)
        if (const auto card = cards.find(s.name); s.is != Statement::Is::Parameter && card != cards.end()) lineOf[card->second] = &s;
    enum class State { New, Open, Done };
    std::map<Id, State> states;
    for (const Statement& s : statements) {
        const auto start = cards.find(s.name);
        if (s.is == Statement::Is::Parameter || start == cards.end()) continue;
        std::vector<std::pair<Id, bool>> open{{start->second, false}};
        while (!open.empty()) {
            const auto [id, done] = open.back();
            open.pop_back();
            State& state = states[id];
            if (done) state = State::Done;
            const Node* node = graph.find(id);
            if (done || state != State::New || !node) continue;
            state = State::Open;
            open.emplace_back(id, true);
            for (const auto& [port, wire] : node->wires) {
                if (states[wire.node] == State::Open) {
                    const auto line = lineOf.find(id), other = lineOf.find(wire.node);
                    return FormulaProblem{line == lineOf.end() ? s.nameAt : line->second->nameAt,
                                          id == wire.node || other == lineOf.end()
                                              ? "this reads itself"
                                              : fmt::format("this reads {}, which reads it", other->second->name)};
                }
                open.emplace_back(wire.node, false);
            }
        }
    }
    return {};
}

void placeNewCards(Graph& graph, const std::set<Id>& fresh, Point start) {
    if (fresh.empty()) return;
    constexpr float across = 190, down = 150;
    using Cell = std::pair<int, int>;
    const auto cellOf = [](const Point& p) { return Cell{int(std::lround(p.x / across)), int(std::lround(p.y / down))}; };
    std::set<Cell> taken;
    std::map<Id, std::vector<Id>> readers;
    for (const auto& [id, node] : graph.nodes) {
        for (const auto& [port, wire] : node->wires) readers[wire.node].push_back(id);
        if (fresh.contains(id)) continue;
        // A card reaches into the cell beside it and the one below.
        const Cell at = cellOf(node->position);
        const int beside = node->position.x > float(at.first) * across ? 1 : -1;
        for (const int dx : {0, beside})
            for (const int dy : {0, 1}) taken.insert({at.first + dx, at.second + dy});
    }
    std::vector<Id> order = inOrder(graph);
    // Cards of parameters have no lines; they come first.
    const std::set<Id> withLines(order.begin(), order.end());
    std::vector<Id> without;
    std::set_difference(fresh.begin(), fresh.end(), withLines.begin(), withLines.end(), std::back_inserter(without));
    order.insert(order.begin(), without.begin(), without.end());
    std::map<Cell, int> next; // how far down a search from there has come
    for (const Id& id : order) {
        const Node* node = fresh.contains(id) ? graph.find(id) : nullptr;
        if (!node) continue;
        Point at = start;
        bool found = false;
        for (const auto& [port, wire] : node->wires)
            if (const Node* from = graph.find(wire.node); from && (!found || from->position.x + across > at.x))
                at = {from->position.x + across, from->position.y}, found = true;
        if (!found)
            for (const Id& reader : readers[id])
                if (const Node* to = graph.find(reader); to && !fresh.contains(reader) && !found)
                    at = {to->position.x - across, to->position.y}, found = true;
        const Cell wanted = cellOf(at);
        int& row = next.emplace(wanted, wanted.second).first->second;
        while (!taken.insert({wanted.first, row}).second) ++row;
        Node placed = *node;
        placed.position = {float(wanted.first) * across, float(row) * down};
        graph.nodes[id] = std::make_shared<Node>(std::move(placed));
    }
}

} // namespace hue::lines
