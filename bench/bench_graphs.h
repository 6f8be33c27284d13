#pragma once
#include "core/document/project.h"

namespace hue::bench {

/// A graph of about `nodes` cards as a large master has them: maps of noise mixed, remapped and limited, all leading to
/// the surface.
Project largeGraph(int nodes);
/// Cards of all sorts, each reading earlier ones, by chance from a seed; the last few lead to the surface.
Project randomGraph(uint32_t seed, int nodes);
/// Fractal noise, cells and a mix of the two: what noiseHeavyByHand computes.
Project noiseHeavy();
/// Twenty-some additions, multiplications and limits on U and V: what arithmeticByHand computes.
Project arithmetic();

} // namespace hue::bench
