#pragma once
// The kinds of parameters, each described once.
// Threads: any. Made once and never changed.
#include "core/document/project.h"

#include <span>

namespace hue {

struct ParameterKind {
    ParameterType type;
    std::string_view key;  ///< in files
    std::string_view name; ///< for people
    int width;             ///< components of its value; 0 for a map
    Meaning meaning;       ///< of its value
    bool ranged;           ///< has a slider and limits
    std::string_view glsl; ///< type in the shading language
};
std::span<const ParameterKind> parameterKinds();
const ParameterKind& kindOf(ParameterType type);
/// The kind that a constant of that width becomes when it is exposed.
ParameterType parameterTypeFor(int width, bool color);

} // namespace hue
