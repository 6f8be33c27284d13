#include "core/check/idle_channels.h"

#include "core/edits/edits.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

/// True when the channel is unwired (or muted) and its value is all zero.
bool isZero(const Graph& graph, std::string_view channel) {
    const std::string key(channel);
    const bool muted = std::find(graph.mutedChannels.begin(), graph.mutedChannels.end(), key) != graph.mutedChannels.end();
    if ((graph.channelWires.contains(key) || feedsWhole(graph)) && !muted) return false;
    const Value v = muted ? findChannel(channel)->standard : channelConstant(graph, channel);
    for (int c = 0; c < v.width; ++c)
        if (v[c] != 0) return false;
    return true;
}

Fix changeSurface(std::string label, const Id& master, std::function<void(SurfaceSettings&)> change) {
    return {std::move(label), [master, change = std::move(change)](const Project& p) -> Result<Project> {
                SurfaceSettings s = p.master(master) ? p.master(master)->surface : SurfaceSettings{};
                change(s);
                return edit::setSurface(p, master, s);
            }};
}

Fix setValue(std::string label, const Id& master, std::string_view channel, const Value& value) {
    return {std::move(label),
            [master, key = std::string(channel), value](const Project& p) { return edit::setChannelConstant(p, master, key, value); }};
}

} // namespace

std::optional<Inactive> inactive(const Master& master, std::string_view channel) {
    const SurfaceSettings& s = master.surface;
    const ChannelDef* def = findChannel(channel);
    if (!def) return Inactive{"the surface has no such channel", {}, true};
    if (s.unlit && channel != "base_color" && channel != "alpha" && channel != "vertex_offset")
        return Inactive{"the surface is unlit", changeSurface("Switch to lit", master.id, [](SurfaceSettings& c) { c.unlit = false; })};
    static constexpr std::string_view diffuse[] = {"base_color",        "normal", "occlusion",    "emissive",
                                                   "emissive_strength", "alpha",  "vertex_offset"};
    if (s.simpleDiffuse && std::find(std::begin(diffuse), std::end(diffuse), channel) == std::end(diffuse))
        return Inactive{"the surface is simple diffuse",
                        changeSurface("Switch to plain", master.id, [](SurfaceSettings& c) { c.simpleDiffuse = false; })};
    if (!isCompiled(*def, s))
        for (const LayerDef& layer : layers())
            if (def->layer == uint32_t(layer.layer)) {
                const uint32_t wanted = uint32_t(layer.layer);
                std::string name(layer.name);
                for (char& c : name) c = char(std::tolower(c));
                return Inactive{
                    fmt::format("the surface has no {}", name),
                    changeSurface(fmt::format("Add {}", name), master.id, [wanted](SurfaceSettings& c) { c.layers |= wanted; })};
            }
    if (channel == "alpha" && s.alphaMode == AlphaMode::Opaque)
        return Inactive{"the surface is opaque",
                        changeSurface("Switch to blend", master.id, [](SurfaceSettings& c) { c.alphaMode = AlphaMode::Blend; })};
    if (s.has(Layer::Volume) && !s.has(Layer::Transmission) && (def->layer & uint32_t(Layer::Volume)))
        return Inactive{"nothing passes through", changeSurface("Add transmission", master.id,
                                                                [](SurfaceSettings& c) { c.layers |= uint32_t(Layer::Transmission); })};
    // What another channel's zero makes idle.
    struct Need {
        std::string_view channel, on, why, label;
        Value wake;
    };
    static const Need needs[] = {
        {"emissive_strength", "emissive", "emissive is black", "Make it white", Value::vec3(1, 1, 1)},
        {"clearcoat_roughness", "clearcoat", "clearcoat is 0", "Set it to 1", Value::number(1)},
        {"clearcoat_normal", "clearcoat", "clearcoat is 0", "Set it to 1", Value::number(1)},
        {"sheen", "sheen_color", "sheen color is black", "Make it grey", Value::vec3(0.35f, 0.35f, 0.35f)},
        {"sheen_color", "sheen", "sheen is 0", "Set it to 1", Value::number(1)},
        {"sheen_roughness", "sheen", "sheen is 0", "Set it to 1", Value::number(1)},
        {"sheen_roughness", "sheen_color", "sheen color is black", "Make it grey", Value::vec3(0.35f, 0.35f, 0.35f)},
        {"iridescence_ior", "iridescence", "iridescence is 0", "Set it to 1", Value::number(1)},
        {"iridescence_thickness", "iridescence", "iridescence is 0", "Set it to 1", Value::number(1)},
        {"anisotropy_rotation", "anisotropy", "anisotropy is 0", "Set it to 0.6", Value::number(0.6f)},
        {"thickness", "transmission", "transmission is 0", "Set it to 1", Value::number(1)},
        {"attenuation_color", "transmission", "transmission is 0", "Set it to 1", Value::number(1)},
        {"attenuation_distance", "transmission", "transmission is 0", "Set it to 1", Value::number(1)},
        {"dispersion", "transmission", "transmission is 0", "Set it to 1", Value::number(1)},
    };
    for (const Need& need : needs)
        if (need.channel == channel && isZero(master.graph, need.on))
            return Inactive{std::string(need.why), setValue(std::string(need.label), master.id, need.on, need.wake), false};
    if (channel == "attenuation_distance" && !master.graph.channelWires.contains("attenuation_color") &&
        channelConstant(master.graph, "attenuation_color") == Value::vec3(1, 1, 1))
        return Inactive{"attenuation color is white",
                        setValue("Make it amber", master.id, "attenuation_color", Value::vec3(0.9f, 0.5f, 0.15f)), false};
    return {};
}

} // namespace hue
