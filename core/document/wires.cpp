#include "core/document/wires.h"

#include <algorithm>
#include <functional>
#include <utility>

namespace hue {

int widthOfTake(std::string_view take, int sourceWidth) {
    if (take.empty()) return sourceWidth;
    if (take == "luma") return sourceWidth >= 3 ? 1 : 0;
    if (take.size() > 4) return 0;
    for (char c : take) {
        const size_t at = std::string_view("rgbaxyzw").find(c);
        if (at == std::string_view::npos || int(at % 4) >= sourceWidth) return 0;
    }
    return int(take.size());
}

std::optional<std::string> fittingTake(int from, int to) {
    if (to <= 0 || from <= to) return std::string();
    if (to == 1) return {};
    return std::string("rgba").substr(0, size_t(to));
}

std::vector<std::string> singleTakes(int from) {
    std::vector<std::string> out;
    for (int i = 0; i < std::min(from, 4); ++i) out.emplace_back(1, "rgba"[i]);
    if (from >= 3) out.emplace_back("luma");
    return out;
}

namespace {

std::set<Id> walk(const std::set<Id>& from, const std::function<void(const Id&, std::vector<Id>&)>& next) {
    std::set<Id> seen;
    std::vector<Id> open(from.begin(), from.end());
    while (!open.empty()) {
        const Id at = open.back();
        open.pop_back();
        std::vector<Id> there;
        next(at, there);
        for (Id& id : there)
            if (seen.insert(id).second) open.push_back(id);
    }
    for (const Id& id : from) seen.erase(id);
    return seen;
}

} // namespace

std::set<Id> cardsFeeding(const Graph& graph, const std::set<Id>& cards) {
    return walk(cards, [&](const Id& at, std::vector<Id>& next) {
        if (const Node* node = graph.find(at))
            for (const auto& [port, wire] : node->wires)
                if (graph.find(wire.node)) next.push_back(wire.node);
    });
}

std::set<Id> cardsFedBy(const Graph& graph, const std::set<Id>& cards) {
    std::map<Id, std::vector<Id>> readers;
    for (const auto& [id, node] : graph.nodes)
        for (const auto& [port, wire] : node->wires) readers[wire.node].push_back(id);
    return walk(cards, [&](const Id& at, std::vector<Id>& next) {
        if (const auto it = readers.find(at); it != readers.end()) next = it->second;
    });
}

bool leadsTo(const Graph& graph, const Id& from, const Id& to) {
    // Walks against the wires, from `to` back to its sources.
    std::vector<Id> open{to};
    std::map<Id, bool> seen;
    while (!open.empty()) {
        const Id at = open.back();
        open.pop_back();
        if (at == from) return true;
        if (std::exchange(seen[at], true)) continue;
        if (const Node* node = graph.find(at))
            for (const auto& [port, wire] : node->wires) open.push_back(wire.node);
    }
    return false;
}

} // namespace hue
