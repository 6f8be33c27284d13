#pragma once
// How far two pictures lie apart: CIEDE2000, a perceptual difference in the manner of FLIP, and histograms.
// Threads: any. Nothing is kept between calls.
#include "core/base/vectors.h"

#include <cstdint>
#include <span>
#include <vector>

namespace hue {

/// 8-bit RGBA as a screen shows it (sRGB), rows from the top. Alpha is not looked at.
struct PictureView {
    int width = 0, height = 0;
    const uint8_t* rgba = nullptr;
};

using Lab = std::array<float, 3>;
/// CIE L*a*b* for D65 from linear Rec. 709.
Lab labOf(const Rgb& linear);
/// Sharma, Wu and Dalal, "The CIEDE2000 Color-Difference Formula", 2005; with all weights 1. About 1 is just visible.
float ciede2000(const Lab& a, const Lab& b);

struct Histogram {
    static constexpr int kBins = 64;
    std::array<std::array<float, kBins>, 3> share{}; ///< of the pixels, by component of the encoded color
};
Histogram histogramOf(const PictureView& picture);

struct Comparison {
    float mean = 0, worst = 0; ///< CIEDE2000; the worst is the 99.9th part of a hundred, so that one pixel decides nothing
    float flip = 0;            ///< mean, 0 (same) to 1
    Histogram first, second;
};
/// Both of the same size; otherwise the second is read at the nearest pixel.
Comparison compare(const PictureView& first, const PictureView& second, bool withFlip = true);

/// Andersson and others, "FLIP: A Difference Evaluator for Alternating Images", 2020 (for screen pictures): the error of
/// every pixel, 0 to 1. `pixelsPerDegree`: 67 is a 4K screen of 70 cm seen from 70 cm.
std::vector<float> flipErrors(const PictureView& reference, const PictureView& test, float pixelsPerDegree = 67.02f);

/// Absolute difference of the encoded colors times `gain`, as RGBA.
std::vector<uint8_t> differencePicture(const PictureView& a, const PictureView& b, float gain);
/// The first left of `at` (0..1), the second right of it.
std::vector<uint8_t> splitPicture(const PictureView& a, const PictureView& b, float at);
/// Cut to the shape and scaled, averaging; how a photograph is brought to a specimen's size.
std::vector<uint8_t> fitted(const PictureView& picture, int width, int height);

} // namespace hue
