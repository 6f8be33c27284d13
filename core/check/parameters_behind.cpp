#include "core/check/parameters_behind.h"

#include "core/document/wires.h"

#include <algorithm>

namespace hue {

std::set<Id> parametersBehind(const Master& board, const Place& place) {
    if (place.master != board.id) return {};
    std::set<Id> from;
    const auto start = [&](const std::map<std::string, Source>& wires, const std::string& port) {
        if (const auto wire = wires.find(port); wire != wires.end()) from.insert(wire->second.node);
    };
    if (place.node.empty()) {
        start(board.graph.channelWires, place.port);
    } else if (const Node* card = board.graph.find(place.node)) {
        start(card->wires, place.port);
        // Of two edges either may be moved.
        if (card->kind == "smoothstep") start(card->wires, place.port == "low" ? "high" : "low");
    }
    std::set<Id> cards = cardsFeeding(board.graph, from), out;
    cards.merge(from);
    for (const Id& id : cards) {
        const Node* card = board.graph.find(id);
        if (!card || card->kind != "parameter") continue;
        if (const auto reads = card->settings.find("parameter"); reads != card->settings.end() && board.parameter(reads->second))
            out.insert(reads->second);
    }
    return out;
}

bool isOfRanges(const Diagnostic& problem) {
    static constexpr std::string_view codes[] = {"divide.may-be-zero",     "root.may-be-negative",         "power.may-be-negative",
                                                 "smoothstep.no-width",    "smoothstep.may-have-no-width", "mix.beyond",
                                                 "channel.may-leave-range"};
    return std::find(std::begin(codes), std::end(codes), problem.code) != std::end(codes);
}

} // namespace hue
