#pragma once
// Threads: any. Nothing is kept between calls.
#include <array>
#include <glm/geometric.hpp>
#include <glm/vec3.hpp>
#include <optional>

namespace hue {

/// Red, green and blue of linear light, Rec. 709 primaries; or a direction or a place, metres.
using Rgb = std::array<float, 3>;

/// What leads from a space to the world: where its X, Y, Z and its origin go.
using Columns = std::array<Rgb, 4>;
constexpr Columns kWorld{{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0, 0, 0}}};

// What GLM computes, for the arrays that images, meshes and project files hold.
inline glm::vec3 vectorOf(const Rgb& a) { return {a[0], a[1], a[2]}; }
inline Rgb arrayOf(const glm::vec3& v) { return {v.x, v.y, v.z}; }

inline float dot(const Rgb& a, const Rgb& b) { return glm::dot(vectorOf(a), vectorOf(b)); }
inline float lengthOf(const Rgb& a) { return glm::length(vectorOf(a)); }
inline Rgb cross(const Rgb& a, const Rgb& b) { return arrayOf(glm::cross(vectorOf(a), vectorOf(b))); }
inline Rgb sum(const Rgb& a, const Rgb& b) { return arrayOf(vectorOf(a) + vectorOf(b)); }
inline Rgb difference(const Rgb& a, const Rgb& b) { return arrayOf(vectorOf(a) - vectorOf(b)); }
inline Rgb scaled(const Rgb& a, float by) { return arrayOf(vectorOf(a) * by); }

/// A direction of the space, as long as it becomes in the world.
inline Rgb turned(const Columns& to, const Rgb& v) {
    return arrayOf(vectorOf(to[0]) * v[0] + vectorOf(to[1]) * v[1] + vectorOf(to[2]) * v[2]);
}
inline Rgb placed(const Columns& to, const Rgb& point) { return sum(turned(to, point), to[3]); }

/// The direction of `a`; none of a length that is not above `least`, nor of one that is no number.
inline std::optional<Rgb> directionOf(const Rgb& a, float least = 0) {
    const float length = lengthOf(a);
    if (!(length > least)) return {};
    return arrayOf(vectorOf(a) / length);
}
/// The direction of `a`, which has a length; no numbers where it has none.
inline Rgb unit(const Rgb& a) { return arrayOf(vectorOf(a) / lengthOf(a)); }

} // namespace hue
