#pragma once
// A layered layout of cards: columns from left to right, with few crossings.
// Sugiyama, Tagawa, Toda, "Methods for Visual Understanding of Hierarchical System Structures", 1981.
// Threads: any. Nothing is kept between calls.
#include "core/board/box.h"

#include <set>

namespace hue {

/// New places for the top left corners of the chosen cards (all when empty). A card stands left of all that read it, in its column. The
/// order from top to bottom stays as it is wherever another one has no fewer crossings. Bays hold together, and nothing else lies in them.
/// Cards that were not chosen stay, and no chosen one lands on them. What is tidy stays where it is.
/// `cards`: where each card lies now; cards of the graph without a box are left out.
std::map<Id, Point> tidied(const Graph& graph, const std::map<Id, Box>& cards, const std::set<Id>& chosen);

/// The same where bays are folded: `boxes` holds, by the id of the bay, the box of each that is seen, and nothing for the cards within.
/// Those move with it.
std::map<Id, Point> tidiedAsSeen(const Graph& graph, const std::map<Id, Box>& boxes, const std::set<Id>& chosen);

/// Crossings of straight wires between cards, counted where both run between the same two columns. For tests and figures.
int crossingsOf(const Graph& graph, const std::map<Id, Box>& cards);

} // namespace hue
