#pragma once
// The inputs of the surface: glTF 2.0's metallic-roughness model.
#include "core/document/project.h"

#include <span>

namespace hue {

struct ChannelDef {
    std::string_view key;  ///< in files and on the command line (there also with dashes)
    std::string_view name; ///< for people
    int width;
    Meaning meaning;
    Value standard;
    float low, high; ///< valid range; values outside are marked in the view of invalid pixels
    std::string_view help;
};

std::span<const ChannelDef> channels();
/// Accepts "base_color" and "base-color"; nullptr for an unknown one.
const ChannelDef* findChannel(std::string_view key);

/// Why a channel has no effect on a surface with these settings; empty when it has.
std::string whyInactive(std::string_view channel, const SurfaceSettings& settings);

std::string_view nameOf(AlphaMode); ///< "opaque", "mask", "blend"

} // namespace hue
