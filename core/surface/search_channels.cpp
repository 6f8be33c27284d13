#include "core/surface/channels.h"

#include <algorithm>
#include <cctype>

namespace hue {
namespace {

/// What people type for a channel beside its name.
constexpr std::pair<std::string_view, std::string_view> kWords[] = {
    {"base_color", "albedo diffuse paint"},
    {"metallic", "metalness metal"},
    {"roughness", "rough gloss"},
    {"normal", "bump relief"},
    {"occlusion", "ambient ao"},
    {"emissive", "glow light emission"},
    {"alpha", "opacity transparency cutout coverage mask"},
    {"vertex_offset", "displacement sway move"},
    {"ior", "refraction"},
    {"transmission", "glass see through"},
    {"sheen_color", "fuzz cloth velvet"},
    {"clearcoat", "varnish lacquer"},
    {"iridescence", "thin film oil"},
};

std::string lowerCase(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = char(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

} // namespace

std::vector<const ChannelDef*> searchChannels(std::string_view typed, const SurfaceSettings& settings) {
    const std::string wanted = lowerCase(typed);
    std::vector<const ChannelDef*> out, byWord;
    if (wanted.size() < 2) return out;
    for (const ChannelDef& channel : channels()) {
        if (!isCompiled(channel, settings)) continue;
        const auto words = std::find_if(std::begin(kWords), std::end(kWords), [&](const auto& w) { return w.first == channel.key; });
        if (lowerCase(channel.name).starts_with(wanted)) out.push_back(&channel);
        else if (words != std::end(kWords) && (" " + std::string(words->second)).find(" " + wanted) != std::string::npos)
            byWord.push_back(&channel);
    }
    out.insert(out.end(), byWord.begin(), byWord.end());
    return out;
}

} // namespace hue
