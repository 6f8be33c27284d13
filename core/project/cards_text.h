#pragma once
// Copied cards as text: what the clipboard holds, and what can be sent to somebody.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/copied_cards.h"

namespace hue {

/// JSON, with the fields that cards, bays, parameters and maps have in a project file (docs/file-format.md).
std::string cardsText(const CopiedCards& cards);
/// Errors: cards.unreadable, cards.newer-format; they say what stands there instead.
Result<CopiedCards> parseCards(const std::string& text);

} // namespace hue
