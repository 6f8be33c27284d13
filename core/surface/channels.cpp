#include "core/surface/channels.h"

#include <algorithm>

namespace hue {

std::span<const ChannelDef> channels() {
    static const ChannelDef all[] = {
        {"base_color", "Base color", 3, Meaning::Color, Value::vec3(0.6f, 0.6f, 0.6f), 0, 1,
         "Color of a dielectric's body, or of a metal's reflection"},
        {"metallic", "Metallic", 1, Meaning::Number, Value::number(0), 0, 1,
         "0 for dielectrics, 1 for metals; between only at soft borders"},
        {"roughness", "Roughness", 1, Meaning::Number, Value::number(0.5f), 0, 1, "0 mirrors, 1 scatters all around"},
        {"normal", "Normal", 3, Meaning::Normal, Value::vec3(0, 0, 1), -1, 1,
         "World-space normal, from a Normal map; the mesh's own when nothing is wired"},
        {"occlusion", "Occlusion", 1, Meaning::Number, Value::number(1), 0, 1, "How much of the surrounding light arrives; 1 is all"},
        {"emissive", "Emissive", 3, Meaning::Color, Value::vec3(0, 0, 0), 0, 1, "Color of the light that the surface gives off"},
        {"emissive_strength", "Emissive strength", 1, Meaning::Number, Value::number(1), 0, 1e4f, "Multiplies emissive; above 1 it glows"},
        {"alpha", "Alpha", 1, Meaning::Number, Value::number(1), 0, 1, "Coverage; used by the alpha modes mask and blend"},
    };
    return all;
}

const ChannelDef* findChannel(std::string_view key) {
    std::string wanted(key);
    std::replace(wanted.begin(), wanted.end(), '-', '_');
    for (const ChannelDef& c : channels())
        if (c.key == wanted) return &c;
    return nullptr;
}

std::string whyInactive(std::string_view channel, const SurfaceSettings& s) {
    if (channel == "alpha" && s.alphaMode == AlphaMode::Opaque) return "the surface is opaque";
    if (s.unlit && channel != "base_color" && channel != "alpha") return "the surface is unlit";
    return {};
}

std::string_view nameOf(AlphaMode mode) {
    switch (mode) {
    case AlphaMode::Opaque: return "opaque";
    case AlphaMode::Mask: return "mask";
    case AlphaMode::Blend: return "blend";
    }
    return "opaque";
}

} // namespace hue
