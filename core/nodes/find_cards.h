#pragma once
// Finding cards on a board by what people remember of them.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Cards of which every typed word stands in the title, the node's name or key, the parameter's name or code name, the name or path of a
/// map that it reads, a choice, a formula, the words of a note, or the name of its bay. Upper and lower case are the same. In the order in
/// which one reads: columns from left to right, cards of a column from the top. Nothing for an empty text.
std::vector<Id> findCards(const Project& project, const Master& master, std::string_view typed);

} // namespace hue
