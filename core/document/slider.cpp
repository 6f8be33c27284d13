#include "core/document/slider.h"

#include <algorithm>
#include <cmath>

namespace hue {
namespace {

bool isDecades(const Slider& s) { return s.curve == SliderCurve::Decades && s.low > 0 && s.high > s.low; }

/// The distance of the values that the slider stops at; 0 for none.
float stepOf(const Slider& s) { return s.whole ? std::max(1.f, std::round(s.step)) : s.step; }

float onStep(const Slider& s, float value) {
    const float step = stepOf(s);
    const float base = s.whole ? std::ceil(s.low) : s.low;
    if (step > 0) value = base + step * std::round((value - base) / step);
    return std::clamp(value, std::min(base, s.high), s.whole ? std::floor(s.high) : s.high);
}

} // namespace

Slider sliderOf(const Parameter& p) { return {p.softMin, p.softMax, p.step, p.slider, p.type == ParameterType::Integer || p.isNamed()}; }

float placeOn(const Slider& s, float value) {
    if (!(s.high > s.low)) return 0;
    if (isDecades(s)) return std::clamp(std::log(std::max(value, s.low) / s.low) / std::log(s.high / s.low), 0.f, 1.f);
    const float even = std::clamp((value - s.low) / (s.high - s.low), 0.f, 1.f);
    return s.curve == SliderCurve::FineBelow ? std::sqrt(even) : even;
}

float valueAt(const Slider& s, float place) {
    place = std::clamp(place, 0.f, 1.f);
    if (isDecades(s)) return onStep(s, s.low * std::pow(s.high / s.low, place));
    if (s.curve == SliderCurve::FineBelow) place *= place;
    return onStep(s, s.low + (s.high - s.low) * place);
}

float stepped(const Slider& s, float value, int direction, bool fine) {
    if (const float step = stepOf(s); step > 0) return onStep(s, value + step * float(direction));
    return valueAt(s, placeOn(s, value) + float(direction) * (fine ? 0.001f : 0.01f));
}

} // namespace hue
