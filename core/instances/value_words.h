#pragma once
// Values of parameters as people and tables write them.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/project.h"

#include <string_view>

namespace hue {

/// "0.35", "0.2 0.4", "#dca54a" where that says a color exactly, else its linear components; the name of a map, or "neutral" where there is
/// none. Says all of the value: valueFrom() gives the same bits back.
std::string wordsOf(const Project& project, const Parameter& parameter, const ParameterValue& value);

/// Numbers with blanks between them (one stands for all components; a decimal comma is taken as well), a color as #RRGGBB, a map by its
/// name or id. With `now`, arithmetic on what there is: *1.1, /2, +0.05 or +-0.05, by each component. The limits of the parameter are not
/// looked at. Error: value.words, with what the parameter takes.
Result<ParameterValue> valueFrom(const Project& project, const Parameter& parameter, std::string_view words,
                                 const ParameterValue* now = nullptr);

/// Own values that read otherwise after a change of their parameter, as "Line Ochre: 0.45 becomes 0", in the order of the project.
std::vector<std::string> changedValues(const Project& before, const Project& after, const Id& parameter);

/// What shows otherwise once a parameter has been merged into another, of masters and instances with values that count: as "Line Ochre:
/// Wear was 0.4 and is 0.1".
std::vector<std::string> changedByMerge(const Project& before, const Project& after, const Id& kept, const Id& gone);

} // namespace hue
