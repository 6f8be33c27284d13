#pragma once
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

namespace hue {

/// The value of an instruction whose operands are all constants; with the same kernels as everywhere.
std::array<float, 4> evaluateOnce(const Program& program, const Instruction& instruction);

} // namespace hue
