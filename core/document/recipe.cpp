#include "core/document/recipe.h"

#include <algorithm>

namespace hue {

std::string_view nameOf(LaneOp::Kind k) {
    static constexpr std::string_view names[] = {"invert", "remap", "curve", "blur", "normalise", "dilate", "limit"};
    return names[int(k)];
}

int Recipe::channels() const {
    int count = 1;
    for (int l = 0; l < 4; ++l)
        if (lanes[size_t(l)].from != Lane::From::Nothing) count = l + 1;
    return count;
}

std::vector<std::string> Recipe::sources() const {
    std::vector<std::string> out;
    for (const Lane& l : lanes)
        if (l.from == Lane::From::Map && std::find(out.begin(), out.end(), l.source) == out.end()) out.push_back(l.source);
    return out;
}

} // namespace hue
