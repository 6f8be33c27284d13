#pragma once
// The inputs of the surface: glTF 2.0's metallic-roughness model, the ratified KHR material extensions
// (emissive_strength, ior, specular, transmission, volume, clearcoat, sheen, iridescence, anisotropy, dispersion, unlit),
// and an offset of the vertices.
// Threads: any. Nothing is kept between calls.
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
    uint32_t layer = 0;         ///< of Layer: what brings the channel; 0 for the core
    std::string_view unit = {}; ///< "m", "nm"
    float comfortable = 0;      ///< end of the range for dragging, when it is not `high`
};

std::span<const ChannelDef> channels();
/// Channels that a surface with these settings has and whose names, or other words of the trade for them, begin with what was typed; best
/// first, at least two letters.
std::vector<const ChannelDef*> searchChannels(std::string_view typed, const SurfaceSettings& settings);
/// Accepts "base_color" and "base-color"; nullptr for an unknown one.
const ChannelDef* findChannel(std::string_view key);
/// Channels that the compiled surface has with these settings: the core and those of its layers.
bool isCompiled(const ChannelDef& channel, const SurfaceSettings& settings);

/// A starting point for the surface: settings that make the usual kinds.
struct SurfaceKind {
    std::string_view key, name;
    std::string_view help;
    uint32_t layers;
    bool unlit = false, simpleDiffuse = false;
    /// Values of channels that make the kind show at once, where they still have their defaults.
    std::vector<std::pair<std::string_view, Value>> values = {};
    bool decal = false;
};
std::span<const SurfaceKind> surfaceKinds();
/// The kind with exactly these layers; nullptr for an own mix.
const SurfaceKind* kindOf(const SurfaceSettings& settings);
/// What a kind adds to a surface: a line for each channel with its meaning and range.
std::vector<std::string> announcement(const SurfaceKind& kind, const SurfaceSettings& before);

/// The value of a channel that nothing is wired to: the graph's, else the default.
Value channelConstant(const Graph& graph, std::string_view channel);

struct LayerDef {
    Layer layer;
    std::string_view key, name, help;
};
std::span<const LayerDef> layers();

std::string_view nameOf(AlphaMode); ///< "opaque", "mask", "blend"

} // namespace hue
