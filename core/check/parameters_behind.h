#pragma once
// Which parameters a problem is about.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

#include <set>

namespace hue {

/// Parameters that lead to an input of a card, or to a channel where the place names no card. Empty where nothing is wired there, and for
/// places of other boards.
std::set<Id> parametersBehind(const Master& board, const Place& place);
/// Whether a problem is one of values that parameters may take, which is mended where their ranges are.
bool isOfRanges(const Diagnostic& problem);

} // namespace hue
