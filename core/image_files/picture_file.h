#pragma once
// Pictures that were computed, in and out.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <filesystem>
#include <vector>

namespace hue {

/// Pixels to be written: interleaved, row 0 on top.
struct Picture {
    int width = 0, height = 0, channels = 3;
    std::vector<float> values;
};
enum class PictureEncoding { Linear, Srgb }; ///< of the color channels; alpha is always linear

/// Writes 8-bit PNG (values clamped to 0..1) or float EXR, by the suffix.
/// A value that is not finite is written as 0; how many there were is returned.
Result<size_t> writePicture(const std::filesystem::path& file, const Picture& picture, PictureEncoding encoding);
/// The bytes of an 8-bit PNG; what is not finite is written as 0.
std::vector<unsigned char> encodePng(const Picture& picture, PictureEncoding encoding);
Result<Picture> readPicture(const std::filesystem::path& file);

} // namespace hue
