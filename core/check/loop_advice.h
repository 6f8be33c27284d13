#pragma once
// What moves, and is not back where it began when the project's loop ends.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

namespace hue {

/// Rates in turns a second that do not make whole turns within the loop, on the board and within its assemblies, each with the nearest
/// that does. A rate is known where it is set on the card, handed in by an assembly's card, or the standard of a parameter.
std::vector<Diagnostic> loopAdvice(const Project& project, const Master& master);

} // namespace hue
