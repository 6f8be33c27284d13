#pragma once
// From an image file to what shaders read.
// Threads: any. Nothing is kept between calls.
#include "core/images/map.h"
#include "core/images/mips.h"

#include <filesystem>

namespace hue {

/// How the smaller levels of a map are made.
struct MapLevels {
    enum class How {
        ByKind,   ///< colors as light, normals as directions
        Opacity,  ///< and so that every level covers as much: alpha where there is one, else the first channel
        AsPacked, ///< each channel by `meaning`
    } how = How::ByKind;
    MipMeaning meaning{};          ///< channels as the file has them; those it lacks do not count
    std::filesystem::path normals; ///< the map whose lost variance raises the roughness, or empty
    std::string key() const;
};
/// Level 0 is the image; the last is 1 x 1.
std::vector<Image> levelsOf(Image image, MapKind kind, const MapLevels& how);

/// One channel is spread over RGB, a second of two is alpha. Color maps are decoded from sRGB where they hold integers. The
/// levels are all of one type, largest first.
Map mapOf(const std::vector<Image>& levels, MapKind kind, Wrap wrap);
/// With levels by its kind.
Map mapOf(const Image& image, MapKind kind, Wrap wrap);
/// Errors: those of readImage.
Result<Map> readMap(const std::filesystem::path& file, MapKind kind, Wrap wrap);

} // namespace hue
