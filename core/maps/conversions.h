#pragma once
// One map made of another, as the window and the command line offer it.
// Threads: any. Nothing is kept between calls.
#include "core/maps/normal_tools.h"

#include <span>
#include <string_view>

namespace hue {

enum class Conversion { FlipGreen, Renormalise, RebuildZ, Strength, Join, FromHeight, ToHeight, Occlusion, Curvature };

struct ConversionDef {
    Conversion what;
    std::string_view key;  ///< on the command line: "flip-green"
    std::string_view name; ///< for people: "flip green"
    std::string_view help;
    std::string_view suffix;                                            ///< behind the name of what is made
    MapKind kind;                                                       ///< of what is made
    Role role;                                                          ///< of what is made
    bool fromNormals;                                                   ///< else from a height, the first channel
    bool strength = false, width = false, depth = false, other = false; ///< which settings count
};
std::span<const ConversionDef> conversions();
const ConversionDef& conversionDef(Conversion what);
/// By key; null for an unknown one.
const ConversionDef* findConversion(std::string_view key);

struct ConversionSettings {
    float strength = 1;
    HeightScale scale{1, 0.02f};
    const Image* other = nullptr; ///< normals to join with, of any size
};
/// Errors: convert.channels, convert.other, those of joinedNormals.
Result<Image> convert(Conversion what, const Image& image, const ConversionSettings& settings);

/// What a map of this kind and role is most likely to be converted to.
Conversion usualConversion(MapKind kind);

} // namespace hue
