#pragma once
// GLM's matrices as OpenGL takes them, for the arrays that a scene holds.
// Threads: any. Nothing is kept between calls.
#include "core/base/vectors.h"

#include <cmath>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <glm/mat4x4.hpp>

namespace hue {

using Matrix4 = glm::mat4;

/// World to eye, looking from `eye` at `at`, with Y up where that makes sense.
inline Matrix4 lookAt(const Rgb& eye, const Rgb& at) {
    const Rgb back = unit(difference(eye, at));
    const glm::vec3 up = std::fabs(back[1]) > 0.999f ? glm::vec3(0, 0, -1) : glm::vec3(0, 1, 0);
    return glm::lookAt(vectorOf(eye), vectorOf(at), up);
}

/// `height` is the tangent of half the vertical angle.
inline Matrix4 perspective(float height, float aspect, float near, float far) {
    return glm::perspective(2 * std::atan(height), aspect, near, far);
}

inline Matrix4 orthographic(float half, float near, float far) { return glm::ortho(-half, half, -half, half, near, far); }

/// Scaled, then moved.
inline Matrix4 placed(const Rgb& at, float size) { return glm::scale(glm::translate(Matrix4(1), vectorOf(at)), glm::vec3(size)); }

/// Of a view times perspective, through the parts.
inline Matrix4 inverseOf(const Matrix4& m) { return glm::inverse(glm::dmat4(m)); }

} // namespace hue
