#pragma once
#include "core/document/project.h"

namespace hue::bench {

/// A graph of about `nodes` cards as a large master has them: maps of noise mixed, remapped and limited, all leading to
/// the surface.
Project largeGraph(int nodes);
/// Fractal noise, cells and a mix of the two: what noiseHeavyByHand computes.
Project noiseHeavy();
/// Twenty-some additions, multiplications and limits on U and V: what arithmeticByHand computes.
Project arithmetic();

} // namespace hue::bench
