#pragma once
// What a change of an assembly means for the cards that stand for it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

struct Break {
    Id board, card;
    std::string sentence; ///< "Bodywork: Rain streaks is wired at height, which is gone."
};
/// What would no longer hold of the cards of the project that stand for the assembly with that id, were it as `changed` is: inputs that are
/// wired or set and gone, or take something else; outputs that are read and gone. In the order of the boards.
std::vector<Break> whatBreaks(const Project& project, const Assembly& changed);

} // namespace hue
