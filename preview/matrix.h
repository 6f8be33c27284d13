#pragma once
// Four by four matrices, column-major, as OpenGL takes them.
#include "core/surface/reflectance.h"

#include <array>
#include <cmath>

namespace hue {

using Matrix4 = std::array<float, 16>;

inline Matrix4 identity4() { return {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}; }

inline Matrix4 operator*(const Matrix4& a, const Matrix4& b) {
    Matrix4 out{};
    for (size_t c = 0; c < 4; ++c)
        for (size_t r = 0; r < 4; ++r)
            for (size_t k = 0; k < 4; ++k) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k];
    return out;
}

inline Rgb unit3(Rgb v) {
    const float l = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
    return {v[0] / l, v[1] / l, v[2] / l};
}
inline Rgb cross3(const Rgb& a, const Rgb& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }
inline float dot3(const Rgb& a, const Rgb& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

/// World to eye, looking from `eye` at `at`, with Y up where that makes sense.
inline Matrix4 lookAt(const Rgb& eye, const Rgb& at) {
    const Rgb back = unit3({eye[0] - at[0], eye[1] - at[1], eye[2] - at[2]});
    const Rgb right = unit3(cross3(std::fabs(back[1]) > 0.999f ? Rgb{0, 0, -1} : Rgb{0, 1, 0}, back));
    const Rgb up = cross3(back, right);
    return {right[0], up[0], back[0], 0, right[1],          up[1],          back[1],          0,
            right[2], up[2], back[2], 0, -dot3(right, eye), -dot3(up, eye), -dot3(back, eye), 1};
}

/// `height` is the tangent of half the vertical angle.
inline Matrix4 perspective(float height, float aspect, float near, float far) {
    return {1 / (height * aspect),         0, 0, 0, 0, 1 / height, 0, 0, 0, 0, (far + near) / (near - far), -1, 0, 0,
            2 * far * near / (near - far), 0};
}

inline Matrix4 orthographic(float half, float near, float far) {
    return {1 / half, 0, 0, 0, 0, 1 / half, 0, 0, 0, 0, -2 / (far - near), 0, 0, 0, -(far + near) / (far - near), 1};
}

/// Scaled, then moved.
inline Matrix4 placed(const Rgb& at, float size) { return {size, 0, 0, 0, 0, size, 0, 0, 0, 0, size, 0, at[0], at[1], at[2], 1}; }

/// Of a view times perspective, through the parts.
inline Matrix4 inverse4(const Matrix4& m) {
    // Gauss-Jordan with pivoting; called once a picture.
    std::array<double, 32> a{};
    for (size_t r = 0; r < 4; ++r)
        for (size_t c = 0; c < 4; ++c) {
            a[r * 8 + c] = m[c * 4 + r];
            a[r * 8 + 4 + c] = r == c;
        }
    for (size_t c = 0; c < 4; ++c) {
        size_t best = c;
        for (size_t r = c; r < 4; ++r)
            if (std::fabs(a[r * 8 + c]) > std::fabs(a[best * 8 + c])) best = r;
        for (size_t k = 0; k < 8; ++k) std::swap(a[c * 8 + k], a[best * 8 + k]);
        const double pivot = a[c * 8 + c];
        for (size_t k = 0; k < 8; ++k) a[c * 8 + k] /= pivot;
        for (size_t r = 0; r < 4; ++r) {
            if (r == c) continue;
            const double f = a[r * 8 + c];
            for (size_t k = 0; k < 8; ++k) a[r * 8 + k] -= f * a[c * 8 + k];
        }
    }
    Matrix4 out{};
    for (size_t r = 0; r < 4; ++r)
        for (size_t c = 0; c < 4; ++c) out[c * 4 + r] = float(a[r * 8 + 4 + c]);
    return out;
}

} // namespace hue
