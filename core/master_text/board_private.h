#pragma once
// What a board that was made from lines still needs: no loops, and places for what is new. Not for use elsewhere.
// Threads: any. Nothing is kept between calls.
#include "core/master_text/statements_private.h"

#include <map>
#include <set>

namespace hue::lines {

/// The first card that reads itself, by way of others or not, as a problem of its line. `cards`: by the names of the lines.
std::optional<FormulaProblem> loopIn(const Graph& graph, const std::vector<Statement>& statements, const std::map<std::string, Id>& cards);

/// Gives the fresh cards places: behind what they read, else before what reads them, else at `at`; upon no other card.
void placeNewCards(Graph& graph, const std::set<Id>& fresh, Point at);

} // namespace hue::lines
