#pragma once
// What an experienced colleague would say about a surface: advice, never a wall, and each kind can be silenced.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

#include <span>

namespace hue {

/// Advice on a master: channel values, layers that contradict each other, the meshes it is worn on.
std::vector<Diagnostic> adviceFor(const Project& project, const Master& master);

/// Lists for the value editors.
struct KnownIndex {
    std::string_view name;
    float index;
};
/// Indices of refraction at 589 nm and room temperature.
std::span<const KnownIndex> knownIndices();
struct KnownMetal {
    std::string_view name;
    Value baseColor; ///< linear
};
/// Reflectance face-on, as linear Rec. 709.
std::span<const KnownMetal> knownMetals();
/// Measured base colors of dielectrics lie between charcoal and fresh snow: luminance, linear.
constexpr float kDarkestDielectric = 0.012f, kBrightestDielectric = 0.87f;
/// Metals reflect at least this much, linear.
constexpr float kDarkestMetal = 0.42f;

} // namespace hue
