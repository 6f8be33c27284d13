#include "core/document/bays.h"

#include <algorithm>

namespace hue {
namespace {

/// The bay itself, the one around it, and so on; a circle in a file ends where it began.
std::vector<const Bay*> withThoseAround(const Graph& graph, const Bay& bay) {
    std::vector<const Bay*> out;
    for (const Bay* at = &bay; at && std::find(out.begin(), out.end(), at) == out.end(); at = findBay(graph, at->inside)) out.push_back(at);
    return out;
}

} // namespace

const Bay* findBay(const Graph& graph, const Id& id) {
    const auto it = std::find_if(graph.bays.begin(), graph.bays.end(), [&](const Bay& b) { return !id.empty() && b.id == id; });
    return it == graph.bays.end() ? nullptr : &*it;
}

const Bay* bayOf(const Graph& graph, const Id& card) {
    const auto it = std::find_if(graph.bays.begin(), graph.bays.end(),
                                 [&](const Bay& b) { return std::find(b.nodes.begin(), b.nodes.end(), card) != b.nodes.end(); });
    return it == graph.bays.end() ? nullptr : &*it;
}

std::vector<Id> cardsWithin(const Graph& graph, const Id& bay) {
    std::vector<Id> out;
    for (const Bay& b : graph.bays) {
        const auto around = withThoseAround(graph, b);
        if (std::any_of(around.begin(), around.end(), [&](const Bay* a) { return a->id == bay; }))
            out.insert(out.end(), b.nodes.begin(), b.nodes.end());
    }
    return out;
}

std::map<Id, Id> foldedAway(const Graph& graph) {
    std::map<Id, Id> out;
    for (const Bay& b : graph.bays) {
        const Bay* outermost = nullptr;
        for (const Bay* a : withThoseAround(graph, b))
            if (a->folded) outermost = a;
        if (outermost)
            for (const Id& n : b.nodes) out[n] = outermost->id;
    }
    return out;
}

std::set<Id> cardsInScratch(const Graph& graph) {
    std::set<Id> out;
    for (const Bay& b : graph.bays) {
        const auto around = withThoseAround(graph, b);
        if (std::any_of(around.begin(), around.end(), [](const Bay* a) { return a->scratch; })) out.insert(b.nodes.begin(), b.nodes.end());
    }
    return out;
}

} // namespace hue
