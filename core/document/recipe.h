#pragma once
// How a packed map is made: four lanes, each with a source and a few operations. A recipe names what it reads by role, so
// that one recipe serves every map set.
// Threads: plain values; each thread has its own.
#include "core/images/image.h"

#include <array>
#include <string>
#include <vector>

namespace hue {

/// What is done to a lane, in order. Amounts that an operation does not use are ignored.
struct LaneOp {
    enum class Kind {
        Invert,
        Remap,     ///< from low..high to newLow..newHigh, not limited
        Curve,     ///< through `points` (ascending in x), smooth and monotone between them
        Blur,      ///< gaussian, `amount` pixels of the result
        Normalise, ///< stretched so that the least value is 0 and the greatest 1
        Dilate,    ///< what lies outside of the mask in the source map's alpha takes the nearest value inside, `amount` pixels far
        Limit      ///< to low..high
    } kind = Kind::Invert;
    float low = 0, high = 1, newLow = 0, newHigh = 1, amount = 4;
    std::vector<std::pair<float, float>> points{};
    std::string extra{};
    bool operator==(const LaneOp&) const = default;
};
std::string_view nameOf(LaneOp::Kind);

struct Lane {
    enum class From { Nothing, Constant, Map, Wire } from = From::Nothing;
    float constant = 0;
    /// A role ("roughness"), or the name of a source of its own.
    std::string source;
    /// What is taken of the map: "r", "g", "b", "a", "luma", or derived: "height" (from normals), "occlusion", "curvature" (from
    /// a height).
    std::string take = "r";
    std::string wire; ///< From::Wire: "Master/Instance: card.port.take", by ids of the project
    std::vector<LaneOp> ops;
    /// What the lane holds, which decides how its smaller levels are made: "", "normal x", "normal y", "coverage", "roughness".
    std::string meaning;
    std::string extra{};
    bool operator==(const Lane&) const = default;
};

struct Recipe {
    std::string name;
    std::string suffix; ///< of the files it makes: "_orm"
    std::array<Lane, 4> lanes;
    int size = 0;      ///< pixels of the longer side; 0: of the largest source
    bool srgb = false; ///< red, green and blue are stored sRGB-encoded; alpha never is
    SampleType type = SampleType::U8;
    Filter filter = Filter::Lanczos; ///< where a source has another size
    bool raiseRoughness = false;     ///< by the variance that the normals of the set lose in smaller levels
    std::string extra;
    int channels() const; ///< 1..4: up to the last lane with a source
    /// Roles that the lanes read.
    std::vector<std::string> sources() const;
    bool operator==(const Recipe&) const = default;
};

} // namespace hue
