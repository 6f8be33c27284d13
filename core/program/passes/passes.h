#pragma once
// Passes over a Program. Each says whether it changed anything, keeps the Program valid, and can be run alone.
#include "core/program/program.h"

namespace hue {

/// Evaluates what has only constant operands and drops operations that change nothing (x*1, x+0).
bool foldConstants(Program&);
/// Lets equal operations stand once.
bool mergeCommon(Program&);
/// Removes what no output needs; also unused constants, parameters and map slots.
bool removeDead(Program&);
/// Gives every instruction its rate.
void assignRates(Program&);

/// All of the above until nothing changes.
void optimise(Program&);

} // namespace hue
