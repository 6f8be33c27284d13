#pragma once
#include "core/document/project.h"

namespace hue {

/// Components after a take; 0 when the take does not fit a source of that width.
int widthOfTake(std::string_view take, int sourceWidth);

/// True when following wires from the card `from` leads to the card `to`; a card leads to itself.
bool leadsTo(const Graph& graph, const Id& from, const Id& to);

} // namespace hue
