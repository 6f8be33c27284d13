#pragma once
// Curves and gradients: a few points, and how one goes over into the next.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace hue {

/// How a value gets from one point to the next.
enum class Between {
    Straight,
    Smooth, ///< a cubic that never leaves what lies between two neighbours: Fritsch and Butland, "A Method for Constructing Local Monotone
            ///< Piecewise Cubic Interpolants", 1984, with its slopes by the harmonic mean
    Steps,  ///< keeps the value of the point before
};

struct DrawnPoint {
    float at = 0;                 ///< 0..1
    std::array<float, 4> value{}; ///< of a curve the first alone; of a gradient a linear color and its alpha
    bool operator==(const DrawnPoint&) const = default;
};

struct Drawn {
    enum class Kind { Curve, Gradient };
    static constexpr size_t kMostPoints = 16;
    static constexpr float kMost = 1000; ///< of a value, either way
    Kind kind = Kind::Curve;
    Between between = Between::Smooth;
    std::vector<DrawnPoint> points; ///< one at least, in the order of `at`; no two at one place
    bool operator==(const Drawn&) const = default;
};

/// From 0 to 1; from black to white.
Drawn plainDrawn(Drawn::Kind kind);

/// "curve smooth: 0 0, 0.4 0.25, 1 1"; "gradient straight: 0 #102030, 1 #DCA54A 0.5", a color with its alpha behind it where that is not 1,
/// by its linear components where no code says it exactly. Reads back as the same.
std::string textOf(const Drawn& drawn);
/// Points may come in any order. Error: drawn.words, with the place in the text and what is expected there.
Result<Drawn> drawnFrom(std::string_view text);
/// Whether a text says that it is a curve or a gradient, readable or not; no id of a map does.
bool isDrawn(std::string_view text);

/// The value at a place; before the first point that of the first, behind the last that of the last.
std::array<float, 4> valueAt(const Drawn& drawn, float at);

/// With points in their order, between 0 and 1 and the limits of values, and of several at one place the last alone.
Drawn inOrder(Drawn drawn);

} // namespace hue
