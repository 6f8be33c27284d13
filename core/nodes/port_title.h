#pragma once
// What a port is called on its card.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Its key with blanks for underscores; of a Choose that a switch or a choice leads to, the option at which the input is taken.
std::string portTitle(const Master& board, const Node& card, std::string_view port);

} // namespace hue
