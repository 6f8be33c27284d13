#include "core/surface/tone.h"

#include <algorithm>

namespace hue {

const std::vector<ToneCurveDef>& toneCurves() {
    static const std::vector<ToneCurveDef> all = {
        {ToneCurve::Linear, "linear", "linear", "No curve: what is brighter than white is cut off"},
        {ToneCurve::Filmic, "filmic", "filmic", "Soft shoulder and deeper shadows, as film has"},
        {ToneCurve::Neutral, "neutral", "neutral", "Khronos PBR Neutral: keeps base colors, compresses only highlights"},
    };
    return all;
}

Rgb applyTone(ToneCurve curve, Rgb c) {
    switch (curve) {
    case ToneCurve::Linear: break;
    case ToneCurve::Filmic:
        // Narkowicz, "ACES Filmic Tone Mapping Curve", 2015: a rational fit.
        for (float& x : c) {
            x = std::max(x, 0.f) * 0.6f;
            x = x * (2.51f * x + 0.03f) / (x * (2.43f * x + 0.59f) + 0.14f);
        }
        break;
    case ToneCurve::Neutral: {
        // Khronos PBR Neutral tone mapper, as the Khronos Group specifies it (2024).
        const float low = std::min({c[0], c[1], c[2]}), offset = low < 0.08f ? low - 6.25f * low * low : 0.04f;
        for (float& x : c) x -= offset;
        const float peak = std::max({c[0], c[1], c[2]});
        constexpr float start = 0.76f, d = 1 - start;
        if (peak < start) break;
        const float newPeak = 1 - d * d / (peak + d - start), g = 1 - 1 / (0.15f * (peak - newPeak) + 1);
        for (float& x : c) x = x * newPeak / peak, x += (newPeak - x) * g;
        break;
    }
    }
    for (float& x : c) x = std::clamp(x, 0.f, 1.f);
    return c;
}

float invertTone(ToneCurve curve, float grey) {
    float low = 0, high = 64;
    for (int i = 0; i < 48; ++i) {
        const float middle = (low + high) / 2;
        (applyTone(curve, {middle, middle, middle})[0] < grey ? low : high) = middle;
    }
    return (low + high) / 2;
}

} // namespace hue
