#pragma once
#include <cstddef>

namespace hue::bench {

/// The formulas of noiseHeavy() and arithmetic(), each as one loop over a row of U with everything in registers, for the
/// best instruction set of the machine: what an engineer would write who knows the formula beforehand.
void noiseHeavyByHand(const float* u, const float* v, float* out, size_t lanes);
void arithmeticByHand(const float* u, const float* v, float* out, size_t lanes);

} // namespace hue::bench
