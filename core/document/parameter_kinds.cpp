#include "core/document/parameter_kinds.h"

#include <algorithm>
#include <cmath>

namespace hue {

std::span<const ParameterKind> parameterKinds() {
    using T = ParameterType;
    static constexpr ParameterKind all[] = {
        {T::Number, "number", "Number", 1, Meaning::Number, true, "float"},
        {T::Vector2, "vector2", "Vector of two", 2, Meaning::Vector, true, "vec2"},
        {T::Vector3, "vector3", "Vector of three", 3, Meaning::Vector, true, "vec3"},
        {T::Color, "color", "Color", 3, Meaning::Color, false, "vec3"},
        {T::Map, "map", "Map", 0, Meaning::Any, false, "sampler2D"},
        {T::Integer, "integer", "Whole number", 1, Meaning::Number, true, "float"},
        {T::OnOff, "on_off", "On or off", 1, Meaning::Number, false, "float"},
        {T::Choice, "choice", "Choice", 1, Meaning::Number, false, "float"},
        {T::Curve, "curve", "Curve", 0, Meaning::Any, false, "sampler2D"},
        {T::Gradient, "gradient", "Gradient", 0, Meaning::Any, false, "sampler2D"},
        {T::Finish, "finish", "Finish", 0, Meaning::Any, false, ""},
        {T::MapSet, "map_set", "Map set", 0, Meaning::Any, false, ""},
    };
    return all;
}

const ParameterKind& kindOf(ParameterType type) { return parameterKinds()[size_t(type)]; }

ParameterType parameterTypeFor(int width, bool color) {
    if (color && width == 3) return ParameterType::Color;
    for (const ParameterKind& k : parameterKinds())
        if (k.width == width && k.type != ParameterType::Color) return k.type;
    return color ? ParameterType::Color : ParameterType::Vector3;
}

MapKind slotKindOf(const Parameter& p) { return p.type == ParameterType::Map ? p.mapKind : MapKind::Data; }

ParameterValue limited(const Parameter& p, ParameterValue value) {
    // A color that had no alpha covers all.
    if (p.type == ParameterType::Color && p.alpha && value.value.width < 4) value.value[3] = 1;
    value.value.width = std::max(1, p.width());
    const bool whole = p.isNamed() || p.type == ParameterType::Integer;
    float low = p.hardMin, high = p.hardMax;
    if (p.isNamed()) low = 0, high = p.type == ParameterType::OnOff ? 1.f : float(std::max<size_t>(1, p.options.size()) - 1);
    else if (whole && std::ceil(low) <= std::floor(high)) low = std::ceil(low), high = std::floor(high);
    for (float& x : value.value.v) {
        x = std::isfinite(x) ? std::clamp(whole ? std::round(x) : x, low, high) : low > -1e9f ? low : 0.f;
        if (x == 0) x = 0; // a zero has no sign
    }
    if (value.value.width == 4) value.value[3] = std::clamp(value.value[3], 0.f, 1.f);
    for (int c = value.value.width; c < 4; ++c) value.value[c] = 0;
    return value;
}

std::string optionOf(const Parameter& p, const Value& value) {
    const size_t at = value[0] > 0 ? size_t(std::lround(value[0])) : 0;
    if (p.type == ParameterType::OnOff) return at ? "on" : "off";
    return at < p.options.size() ? p.options[at] : std::string();
}

std::vector<std::string> optionsOf(const Parameter& p) {
    if (p.type == ParameterType::OnOff) return {"off", "on"};
    return p.type == ParameterType::Choice ? p.options : std::vector<std::string>{};
}

bool isShown(const Master& master, const Parameter& p, const Resolved& values) {
    const Parameter* by = master.parameter(p.shownWhen.parameter);
    const auto entry = by ? values.values.find(by->id) : values.values.end();
    if (entry == values.values.end()) return true;
    const int now = int(std::lround(entry->second.value.value[0]));
    return std::find(p.shownWhen.is.begin(), p.shownWhen.is.end(), now) != p.shownWhen.is.end();
}

} // namespace hue
