#pragma once
// From radiance to what a screen shows: tone curves, twins of those in the screen stage.
// Threads: any. Nothing is kept between calls.
#include "core/surface/reflectance.h"

#include <string_view>
#include <vector>

namespace hue {

enum class ToneCurve { Linear, Filmic, Neutral };
struct ToneCurveDef {
    ToneCurve curve;
    std::string_view key, name, help;
};
const std::vector<ToneCurveDef>& toneCurves();

/// Linear radiance, exposure applied, to linear 0..1.
Rgb applyTone(ToneCurve curve, Rgb color);
/// The grey radiance that the curve turns into `grey` (0..1); by bisection.
float invertTone(ToneCurve curve, float grey);

} // namespace hue
