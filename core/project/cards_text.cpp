#include "core/project/cards_text.h"

#include "core/project/shared_text_private.h"

namespace hue {

namespace {
constexpr const char* kKind = "huestack cards";
}

std::string cardsText(const CopiedCards& cards) {
    CopiedCards copy = cards;
    return sharedText(kKind, copy);
}

Result<CopiedCards> parseCards(const std::string& text) {
    const auto refuse = [](const std::string& why) {
        return Error{"cards.unreadable", fmt::format("What was copied is no cards: {}. Select cards on a board and copy them.", why), {}};
    };
    Result<CopiedCards> out = parseShared<CopiedCards>(text, kKind, "the copied cards", refuse, [](int64_t format) {
        return Error{"cards.newer-format",
                     fmt::format("The cards were copied in a newer version (format {}; this one reads up to {}). Copy them there again "
                                 "after this one was brought up to date.",
                                 format, kFormat),
                     {}};
    });
    if (out && out->nodes.empty()) return refuse("there are none in it");
    return out;
}

} // namespace hue
