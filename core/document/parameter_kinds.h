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
    int width;             ///< components of its value; 0 where it is ParameterValue::map
    Meaning meaning;       ///< of its value
    bool ranged;           ///< has a slider and limits
    std::string_view glsl; ///< type in the shading language
};
std::span<const ParameterKind> parameterKinds();
const ParameterKind& kindOf(ParameterType type);
/// The kind that a constant of that width becomes when it is exposed.
ParameterType parameterTypeFor(int width, bool color);

/// What a map slot of a parameter holds; curves and gradients hold data.
MapKind slotKindOf(const Parameter& p);

/// Brings a value inside the hard limits of its parameter, and to whole numbers where it takes only these.
ParameterValue limited(const Parameter& p, ParameterValue value);
/// "on", or the name of an option; empty for other kinds, and beyond the options.
std::string optionOf(const Parameter& p, const Value& value);
/// The names that its values have, in their order: off and on, or the options of a choice; none for other kinds.
std::vector<std::string> optionsOf(const Parameter& p);
/// Whether the sheet shows it, by what the parameter is set to that it asks for. One that asks for what is not there is shown.
bool isShown(const Master& master, const Parameter& p, const Resolved& values);

} // namespace hue
