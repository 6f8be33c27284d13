#pragma once
// Numbers as ports, constants and parameters hold them.
// Threads: any. Nothing is kept between calls.
#include <array>
#include <string>
#include <string_view>

namespace hue {

/// One to four numbers. Colors are linear, Rec. 709 primaries.
struct Value {
    int width = 1;
    std::array<float, 4> v{};

    static Value number(float x) { return {1, {x, 0, 0, 0}}; }
    static Value vec2(float x, float y) { return {2, {x, y, 0, 0}}; }
    static Value vec3(float x, float y, float z) { return {3, {x, y, z, 0}}; }
    static Value vec4(float x, float y, float z, float w) { return {4, {x, y, z, w}}; }
    float operator[](int i) const { return v[i]; }
    float& operator[](int i) { return v[i]; }
    bool operator==(const Value&) const = default;
};

/// What a vector stands for; the checker warns where two do not go together.
/// EncodedNormal: of the tangent space, with 0..1 for -1..1, as maps hold it; Normal: a direction in the world.
enum class Meaning { Any, Number, Vector, Color, Normal, EncodedNormal, Direction, Position, Uv };
std::string_view nameOf(Meaning);

/// IEC 61966-2-1 transfer functions, per component, exact form.
float srgbToLinear(float encoded);
float linearToSrgb(float linear);

/// "#DCA54A" (sRGB-encoded) from a linear color, clamped to 0..1; and back. False when the text is no such color.
std::string hexFromColor(const Value& color);
bool colorFromHex(std::string_view text, Value& color);

} // namespace hue
