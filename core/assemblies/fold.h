#pragma once
// Assemblies made from cards, and taken apart again. Neither changes what a picture shows.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

struct Folded {
    Project project;
    Id assembly;
    Id card; ///< that stands in the place of the cards
};
/// Cards become an assembly, and one card for it takes their place. What they read from outside becomes its inputs, named after what is
/// read or where it goes; what others read of them its outputs. Cards that stand for a parameter stay where they are and feed an input.
/// Errors: assembly.nothing-selected; assembly.around (a card that was not selected lies between, and is named);
/// assembly.four-components (an input can have three at most); assembly.no-output.
Result<Folded> foldCards(const Project& project, const Id& board, const std::vector<Id>& cards, const std::string& name);

struct Unfolded {
    Project project;
    std::vector<Id> cards; ///< that were put in the place of the assembly's card
};
/// The cards of an assembly take the place of a card that stands for it; the assembly stays. Errors: edit.no-card; assembly.missing;
/// assembly.muted (a muted card shows something else than its cards would).
Result<Unfolded> unfoldCard(const Project& project, const Id& board, const Id& card);

} // namespace hue
