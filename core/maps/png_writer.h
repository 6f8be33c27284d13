#pragma once
// PNG files written on all cores: bands of rows are filtered and deflated side by side and joined into one stream, as
// RFC 1950 and 1951 allow at byte borders. A band starts with the 32 KB before it as its dictionary, so nothing is lost.
#include "core/maps/image_file.h"

namespace hue {

/// Memory: the bands in flight, some 2 MB a core.
Result<std::unique_ptr<ImageWriter>> createPngWriter(const std::filesystem::path& file, const ImageFacts& facts, PixelEncoding encoding);

} // namespace hue
