#pragma once
// Normal maps, heights and what follows from them. Encoded normals: 0..1 per component, green up unless said otherwise;
// row 0 on top. All maps repeat.
// Threads: any. Nothing is kept between calls.
#include "core/maps/statistics.h"

namespace hue {

Image flippedGreen(const Image& normals);
/// Vectors of length 1 that look out of the surface. With two channels, or `rebuildZ`, Z is made from X and Y, which are kept
/// just inside the unit disc.
Image renormalised(const Image& normals, bool rebuildZ = false);
/// Slopes times `strength`; 0 is flat, below 0 turns hills into pits.
Image withStrength(const Image& normals, float strength);
/// The detail turned into the frame of the ground. Barre-Brisebois and Hill, "Blending in Detail", 2012.
/// Error: normals.sizes.
Result<Image> joinedNormals(const Image& ground, const Image& detail);

/// Of what size the height is: how many metres one repetition of the map covers, and how deep 0 lies below 1.
struct HeightScale {
    float width = 1;     ///< metres across the map
    float depth = 0.05f; ///< metres
};
/// From central differences.
Image normalsFromHeight(const Plane& height, const HeightScale& scale, SampleType type = SampleType::U8);
/// The height whose slopes come closest to those of the normals, 0..1: Frankot and Chellappa, "A Method for Enforcing
/// Integrability in Shape from Shading Algorithms", 1988. `depth` receives the metres from the lowest to the highest
/// point.
Plane heightFromNormals(const Image& normals, float width, float* depth = nullptr);
/// How much of the sky is seen over the horizon of the height, 0..1. Looks as far as a tenth of the map's width.
Plane occlusionFromHeight(const Plane& height, const HeightScale& scale);
/// 0.5 where flat, above on ridges, below in hollows; `radius` in pixels.
Plane curvatureFromHeight(const Plane& height, const HeightScale& scale, int radius = 2);

/// glTF's base color, metallic and roughness from diffuse, specular and gloss maps, after the conversion that comes with
/// glTF's KHR_materials_pbrSpecularGlossiness. All of one size; specular RGB (sRGB), gloss grey or the specular's alpha.
/// Errors: gloss.sizes, gloss.channels.
struct MetallicSet {
    Image baseColor;           ///< RGB, sRGB
    Image metallic, roughness; ///< grey
};
Result<MetallicSet> fromSpecularGloss(const Image& diffuse, const Image& specular, const Image* gloss);

} // namespace hue
