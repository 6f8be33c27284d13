#pragma once
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

#include <optional>
#include <set>

namespace hue {

/// Components after a take; 0 when the take does not fit a source of that width.
int widthOfTake(std::string_view take, int sourceWidth);

/// The take with which a wire of `from` components fits an input of `to` (0: any width): "" for all of it, the first letters of rgba
/// where it has too many. Nothing where a component has to be chosen: there is no silent rule for a color into one number.
std::optional<std::string> fittingTake(int from, int to);
/// What can be chosen then: each component, and "luma" from three components on.
std::vector<std::string> singleTakes(int from);

/// The cards that others depend on (what feeds them, however far away), or that depend on them; without those themselves.
std::set<Id> cardsFeeding(const Graph& graph, const std::set<Id>& cards);
std::set<Id> cardsFedBy(const Graph& graph, const std::set<Id>& cards);

/// True when following wires from the card `from` leads to the card `to`; a card leads to itself.
bool leadsTo(const Graph& graph, const Id& from, const Id& to);

} // namespace hue
