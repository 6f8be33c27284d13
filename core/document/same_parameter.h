#pragma once
// Parameters of different masters that mean the same.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// The parameter of a master that means the same as one of another: itself, else one of the same kind and name. Null where there is none.
const Parameter* sameParameter(const Master& in, const Parameter& parameter);

} // namespace hue
