#pragma once
// The outlines of text as polygons.
// Threads: any. What is kept between calls is kept under a lock.
#include <string>
#include <utility>
#include <vector>

namespace hue {

using Contour = std::vector<std::pair<float, float>>;
struct TextOutline {
    std::vector<Contour> contours; ///< Y downward, in units of the letters' height from baseline to top of capitals
    float width = 0;
};
/// In the bold text font that travels with the program. Characters that it does not have show as boxes.
TextOutline outlineOf(const std::string& utf8);

} // namespace hue
