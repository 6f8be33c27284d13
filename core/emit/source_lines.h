#pragma once
// Which card each line of a shader's source comes from.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <string>
#include <string_view>

namespace hue {

struct SourceLine {
    std::string text;
    Id card; ///< empty for lines that come from no card
};

/// The lines of a text that was written from the Program, in GLSL or translated from it: a line that makes the value `v12` comes from the
/// card of instruction 12. Only within the function hs_material; others are library.
std::vector<SourceLine> sourceLines(const Program& program, std::string_view text);

} // namespace hue
