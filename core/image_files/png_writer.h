#pragma once
// PNG files written on all cores: bands of rows are filtered and deflated side by side and joined into one stream, as
// RFC 1950 and 1951 allow at byte borders. A band starts with the 32 KB before it as its dictionary, so nothing is lost.
// Threads: any. Nothing is kept between calls.
#include "core/base/files.h"
#include "core/image_files/image_file.h"

namespace hue {

/// Memory: the bands in flight, some 2 MB a core. Errors: file.cannot-write.
Result<std::unique_ptr<ImageWriter>> createPngWriter(NewFile file, const ImageFacts& facts, PixelEncoding encoding);
/// The bytes of a PNG file: 8 or 16 bits.
std::vector<unsigned char> pngOf(const Image& image, PixelEncoding encoding);

} // namespace hue
