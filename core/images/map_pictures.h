#pragma once
// Maps as pictures for a screen: one channel as grey, or the colors.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

namespace hue {

struct ScreenPicture {
    int width = 0, height = 0, channels = 1; ///< 1: grey, 3: RGB
    std::vector<uint8_t> bytes;              ///< rows without padding
};
/// Values 0..1 from black to white as the file holds them (no decoding); invalid ones black. Larger maps are halved until no
/// side is longer than `mostSide`.
ScreenPicture channelPicture(const Image& image, int channel, int mostSide = 4096);
/// Red, green and blue; grey maps as grey.
ScreenPicture colorPicture(const Image& image, int mostSide = 4096);
/// The map repeated `times` by `times`, no side of the whole longer than `mostSide`.
ScreenPicture tiledPicture(const Image& image, int times, int mostSide);

} // namespace hue
