#pragma once
// The reflectance model of glTF 2.0, appendix B "BRDF Implementation", for one light direction. The GLSL twin is
// lightingGlsl() in surface_glsl.h; a test holds the two together.
#include <array>
#include <cstddef>
#include <cstdint>

namespace hue {

using Rgb = std::array<float, 3>;

struct SurfacePoint {
    Rgb baseColor{0.6f, 0.6f, 0.6f};
    float metallic = 0;  ///< 0..1
    float roughness = 1; ///< 0..1, perceptual; limited to 0.04 from below, where a light would be a point too small to see
};

/// Trowbridge-Reitz (GGX) distribution; alpha is roughness squared.
float distributionGgx(float nDotH, float alpha);
/// Height-correlated Smith visibility (Heitz 2014), the geometry term over 4 (n.l)(n.v).
float visibilitySmith(float nDotL, float nDotV, float alpha);
/// Reflected radiance for a unit of irradiance-carrying radiance from `light`: BRDF times n.l. Unit vectors.
Rgb reflect(const SurfacePoint& point, const Rgb& normal, const Rgb& view, const Rgb& light);

/// The split-sum table (Karis 2013): scale and bias of F0 by n.v (columns) and roughness (rows); size*size*2 numbers.
std::array<float, 2> splitSum(float nDotV, float roughness, int samples);
constexpr int kSplitSumSize = 32;
const std::array<float, size_t{kSplitSumSize} * kSplitSumSize * 2>& splitSumTable();

} // namespace hue
