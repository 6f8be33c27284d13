#pragma once
// A project that two have changed: what differs, and both brought together.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// One thing that differs between two states: "masters / Ground / cards / Mortar noise".
struct Difference {
    enum class How { Added, Removed, Changed } how = How::Changed;
    std::string where;
    std::vector<std::string> fields; ///< that changed, as the file calls them
    /// What each of them was and is, as the file has it; cut where it is long, "-" where it is not there.
    std::vector<std::pair<std::string, std::string>> values;
    std::string sentence() const; ///< "masters / Ground: alphaMode changed"
};
/// From one state to another, in the order of the file; every object with an id is told by itself.
std::vector<Difference> differences(const Project& from, const Project& to);

struct Merged {
    Project project;
    std::vector<std::string> conflicts; ///< places that both changed in different ways; there `ours` was kept
};
/// Both changes of `base`. Objects with ids are brought together field by field; what one removed and the other changed stays. Error: that
/// of parseProject, should the two not fit together at all.
Result<Merged> merged(const Project& base, const Project& ours, const Project& theirs);

} // namespace hue
