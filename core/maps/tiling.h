#pragma once
// Does a map repeat without a seam, and does one see that it repeats? And how to make it seamless.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

namespace hue {

struct SeamMeter {
    /// How much the step across the wrap-around differs from what the steps beside it predict, as a multiple of their usual
    /// variation: about 1 where nothing shows, 2 and more where a seam does.
    float vertical = 1;   ///< the seam between the left and the right edge
    float horizontal = 1; ///< between top and bottom
    float worst() const { return vertical > horizontal ? vertical : horizontal; }
};
SeamMeter seamMeter(const Image& image);

struct RepetitionMeter {
    /// Highest peak of the autocorrelation away from its middle, 0..1: 1 is an exact repetition within the tile.
    float strength = 0;
    float stepX = 0, stepY = 0; ///< where it lies, as a share of the tile
    /// How much single features stand out of the whole, which is what the eye finds again: largest deviation of a
    /// sixteenth of the tile from the mean, in standard deviations of such pieces, 0 when all are alike.
    float landmark = 0;
};
RepetitionMeter repetitionMeter(const Image& image);

/// Moves the middle to the corners; edges meet in the middle then.
Image offsetByHalf(const Image& image);

enum class SeamMethod {
    Cut,  ///< minimum-error boundary cut: Efros and Freeman, "Image Quilting", 2001
    Blend ///< variance-preserving blend: Heitz and Neyret, "High-Performance By-Example Noise", 2018, section 3
};
struct SeamlessRequest {
    SeamMethod method = SeamMethod::Cut;
    float band = 0.125f;       ///< half width of the strip in which a seam may be hidden, as a share of the size, 0.02..0.25
    int feather = 1;           ///< pixels over which a cut is softened
    std::vector<bool> normals; ///< by image: the first three channels are an encoded normal, renormalised afterwards
};
/// Maps of one set are made seamless together: the same cut for all, found where all of them differ least. All of one
/// size. The inner part stays; the edges come from the middle.
/// Errors: seamless.sizes, seamless.small (below 16 pixels).
Result<std::vector<Image>> makeSeamless(const std::vector<Image>& set, const SeamlessRequest& request);

} // namespace hue
