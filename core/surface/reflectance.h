#pragma once
// The reflectance model, for one light direction: glTF 2.0, appendix B "BRDF Implementation", with the layers of the
// ratified KHR material extensions. The GLSL twin is reflectanceGlsl() in surface_glsl.h; a test holds the two together.
//
// Where the appendices leave a choice, energy is kept: what lies below a layer is dimmed by the layer's directional
// albedo, read from a table, and not by a Fresnel term for one half vector. So a white furnace never gives more than it
// gets. What facets scatter more than once, and one bounce alone would lose, comes as a lobe of its own, the same both ways
// (Kulla and Conty, "Revisiting Physically Based Shading at Imageworks", 2017), and from the environment as Fdez-Agüera has it
// ("A Multiple-Scattering Microfacet Model for Real-Time Image-based Lighting", 2019).
// Threads: any. Nothing is kept between calls.
#include "core/base/vectors.h"

#include <cstddef>
#include <cstdint>

namespace hue {

/// A point of the surface, every channel in the units of channels.h. Directions are unit length and in world space.
struct SurfacePoint {
    Rgb baseColor{0.6f, 0.6f, 0.6f};
    float metallic = 0;  ///< 0..1
    float roughness = 1; ///< 0..1, perceptual; limited to 0.04 from below, where a light would be a point too small to see
    Rgb normal{0, 0, 1};
    float ior = 1.5f; ///< 1..4
    float specular = 1;
    Rgb specularColor{1, 1, 1};
    float clearcoat = 0, clearcoatRoughness = 0;
    Rgb clearcoatNormal{0, 0, 1};
    Rgb sheenColor{0, 0, 0};
    float sheenRoughness = 0;
    float iridescence = 0, iridescenceIor = 1.3f;
    float iridescenceThickness = 400; ///< nm
    float anisotropy = 0;             ///< 0..1
    Rgb anisotropyDirection{1, 0, 0}; ///< of the stretch, in the surface
    float transmission = 0;           ///< 0..1
    bool diffuseOnly = false;
};

/// Trowbridge-Reitz (GGX) distribution; alpha is roughness squared.
float distributionGgx(float nDotH, float alpha);
/// Height-correlated Smith visibility (Heitz 2014), the geometry term over 4 (n.l)(n.v).
float visibilitySmith(float nDotL, float nDotV, float alpha);
/// The sheen lobe of KHR_materials_sheen: distribution times visibility (Estevez and Kulla 2017), not yet limited.
float sheenLobe(float nDotH, float nDotL, float nDotV, float roughness);
/// Reflectance of a thin film on a base, after KHR_materials_iridescence (Belcour and Barla 2017).
Rgb filmFresnel(float outsideIor, float filmIor, float cosine, float thicknessNm, const Rgb& baseF0);

/// Reflection face-on and at the outline, a film included, and what it leaves for the layers beneath.
struct Mirror {
    Rgb f0;
    float f90, alpha, alphaAlong; ///< alpha is roughness squared; along the stretch it is larger
    float roughness;              ///< that stands for both alphas
    float lost;                   ///< of an even light seen from here, what one bounce does not send back: 0..1
    float average;                ///< what one bounce sends back on average over all directions: 0..1
    Rgb more;                     ///< share of what is lost that comes back after more bounces
    Rgb once, often;              ///< shares of an even surrounding that are mirrored by one bounce and by more
    Rgb below;                    ///< the rest
};
Mirror mirrorOf(const SurfacePoint& point, float nDotV);

/// What is scattered, or shines through, and what is mirrored.
struct Reflected {
    Rgb scattered{}, mirrored{};
};
/// Radiance towards `view` for a unit of radiance from `light`: BRDF times |n.l|. A light from behind the surface shines
/// through as far as it transmits. Unit vectors.
Reflected reflectParts(const SurfacePoint& point, const Rgb& view, const Rgb& light);
/// The sum of the two.
Rgb reflect(const SurfacePoint& point, const Rgb& view, const Rgb& light);

/// The roughness that a pixel needs whose normals differ by `across` and `up` from its neighbours', so that small highlights on them do
/// not sparkle (Tokuyoshi and Kaplanyan, "Improved Geometric Specular Antialiasing", 2019). Never below `roughness`; both 0..1.
float widenedRoughness(float roughness, const Rgb& across, const Rgb& up);

/// The split-sum table (Karis 2013): scale and bias of F0 by n.v (columns) and roughness (rows); the directional albedo of the sheen
/// lobe; and in the table, by roughness alone, what a mirror that swallows nothing sends back by one bounce, on average.
std::array<float, 3> splitSum(float nDotV, float roughness, int samples);
constexpr int kSplitSumSize = 32;
using SplitSumTable = std::array<float, size_t{kSplitSumSize} * kSplitSumSize * 4>;
const SplitSumTable& splitSumTable();
/// The table as a linear sampler that clamps reads it.
std::array<float, 4> readSplitSum(float nDotV, float roughness);

} // namespace hue
