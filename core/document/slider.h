#pragma once
// Where values lie on the slider of a parameter.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// What a slider needs to know; of a Parameter or of a port.
struct Slider {
    float low = 0, high = 1;
    float step = 0;                        ///< from `low` on; 0: none
    SliderCurve curve = SliderCurve::Even; ///< Decades counts as Even unless low is above 0
    bool whole = false;                    ///< whole numbers alone
};
Slider sliderOf(const Parameter& parameter);

/// 0 at the low end to 1 at the high one; values beyond stand at the ends.
float placeOn(const Slider& slider, float value);
/// The value at a place of 0..1, on a step where there are steps.
float valueAt(const Slider& slider, float place);
/// The next value up (+1) or down (-1): one step, or a hundredth of the way; a thousandth when `fine` and without steps.
float stepped(const Slider& slider, float value, int direction, bool fine = false);

} // namespace hue
