#pragma once
// Smaller levels of a map, each by what its channels mean.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <array>

namespace hue {

/// The alpha of a map, whichever of its channels that is.
constexpr int kCoverageAlpha = 4;

struct MipMeaning {
    bool encoded = false; ///< the first three channels (one of a grey map) are sRGB: averaged as light
    std::array<int, 3> normal{-1, -1,
                              -1}; ///< channels of X, Y, Z of an encoded normal; averaged as directions and renormalised. Z may be -1
    int coverage = -1;             ///< channel of a cut-out mask: every level covers as much above the cutoff as the first
    float cutoff = 0.5f;
    int roughness = -1;             ///< channel of glTF roughness that is raised by what the normals lose when averaged
    const Image* normals = nullptr; ///< for roughness: encoded normals of the same size, when not in this image
};

/// Level 0 is `top`; the last is 1 x 1. Odd sizes are averaged by area. Memory: a third more than the map.
std::vector<Image> makeMips(Image top, const MipMeaning& meaning, int threads = 0);

/// One step: half the size, at least 1 pixel.
Image halved(const Image& image, bool encoded, int threads = 0);

/// Roughness that a lobe needs when its normals were averaged to a vector of this length (0..1): the spread of a von
/// Mises-Fisher distribution (Banerjee and others, 2005) added to the squared alpha, as Neubelt and Pettineo, "Crafting
/// a Next-Gen Material Pipeline", 2013, derive it.
float raisedRoughness(float roughness, float meanLength);

} // namespace hue
