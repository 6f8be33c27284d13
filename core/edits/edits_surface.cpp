// Edits of a surface as a whole.
#include "core/edits/edit_parts.h"
#include "core/surface/channels.h"

namespace hue::edit {

Result<Project> applyKind(const Project& project, const Id& master, const SurfaceKind& kind) {
    const Master* m = project.master(master);
    if (!m) return Error{"master.unknown", "There is no such master.", {master, {}, {}}};
    SurfaceSettings s = m->surface;
    s.layers = kind.layers;
    s.unlit = kind.unlit;
    s.simpleDiffuse = kind.simpleDiffuse;
    // By itself a decal is seen through where it covers nothing; that ends with the kind.
    if (kind.decal) s.alphaMode = AlphaMode::Blend;
    else if (s.decal && s.alphaMode == AlphaMode::Blend) s.alphaMode = AlphaMode::Opaque;
    s.decal = kind.decal;
    Result<Project> out = setSurface(project, master, s);
    for (const auto& [channel, value] : kind.values) {
        if (!out) break;
        const std::string key(channel);
        const bool untouched = !m->graph.channelWires.contains(key) && channelConstant(m->graph, key) == findChannel(key)->standard;
        if (untouched) out = setChannelConstant(*out, master, key, value);
    }
    return out;
}

} // namespace hue::edit
