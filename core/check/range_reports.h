#pragma once
// What the values of a master can reach, told before anybody meets it.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"
#include "core/program/program.h"

namespace hue {

/// From the bounds that values have when parameters stay within their limits and maps hold 0 to 1: channels that can leave their range,
/// weights of a Mix that can leave 0 to 1, divisions by what can reach 0, roots and powers of what can be negative, ramps whose edges never
/// lie in order. Nothing is said where bounds are not known. The program: compiled with constants folded.
std::vector<Diagnostic> rangeReports(const Project& project, const Master& master, const Program& program);

} // namespace hue
