#pragma once
// Words as a picture that lies on something: letters and nothing around them.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <string>

namespace hue {

inline constexpr size_t kMostLettering = 200; ///< characters

/// White letters, one line below the other and each in the middle; RGBA of 8 bits, white everywhere, alpha 1 in letters and 0 around them.
/// As wide as its longest line, with a margin that levels do not fill; sides are multiples of four, as block formats want them, and 4096 at
/// most. `capitals`: pixels from the baseline to the top of capitals, 1 or more; less where the picture would be too large. Error:
/// mask.text.
Result<Image> lettering(const std::string& text, int capitals = 160);

/// A name for it: its first words on one line.
std::string nameOfLettering(const std::string& text);

} // namespace hue
