#pragma once
// What lies in which bay.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

#include <set>

namespace hue {

const Bay* findBay(const Graph& graph, const Id& id);
/// The cards of a bay and of all bays within it.
std::vector<Id> cardsWithin(const Graph& graph, const Id& bay);
/// The outermost folded bay around each card that lies in one: card -> bay.
std::map<Id, Id> foldedAway(const Graph& graph);
/// Cards that lie in a scratch bay, or in a bay within one.
std::set<Id> cardsInScratch(const Graph& graph);
/// The innermost bay in which a card lies; nullptr for none.
const Bay* bayOf(const Graph& graph, const Id& card);

} // namespace hue
