#include "core/document/parameter_kinds.h"

namespace hue {

std::span<const ParameterKind> parameterKinds() {
    using T = ParameterType;
    static constexpr ParameterKind all[] = {
        {T::Number, "number", "Number", 1, Meaning::Number, true, "float"},
        {T::Vector2, "vector2", "Vector of two", 2, Meaning::Vector, true, "vec2"},
        {T::Vector3, "vector3", "Vector of three", 3, Meaning::Vector, true, "vec3"},
        {T::Color, "color", "Color", 3, Meaning::Color, false, "vec3"},
        {T::Map, "map", "Map", 0, Meaning::Any, false, "sampler2D"},
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

} // namespace hue
