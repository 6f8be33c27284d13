// Where surfaces take their channels from: the board's own rail, and those of masters that Finish of cards stand for.
#include "core/compile/graph_compiler.h"

namespace hue {

std::vector<const Source*> GraphCompiler::unseenSources(const Node& node) {
    std::vector<const Source*> out;
    if (const Source* normal = mappedNormalOf(node)) out.push_back(normal);
    if (const OpenedSurface* around = surfaceAround(m_opened, node.id); around && around->uv) out.push_back(&*around->uv);
    if (const auto surface = m_opened.surfaces.find(node.id); surface != m_opened.surfaces.end())
        for (const auto& [channel, wire] : surface->second.wires)
            if (!railOf(surface->first, surface->second).isMuted(channel)) out.push_back(&wire);
    return out;
}

const Source* GraphCompiler::mappedNormalOf(const Node& node) {
    const NodeDef* def = node.kind == "normal" ? findNodeDef(node.kind) : nullptr;
    if (!def || settingOf(node, *def, "of") != "mapped") return nullptr;
    const OpenedSurface* around = surfaceAround(m_opened, node.id);
    const Rail rail = around ? railOf({}, *around) : railOfBoard();
    const Source* wire = rail.wire("normal");
    const bool whole = !wire && !rail.isMuted("normal");
    if (whole) wire = rail.wire(kWholeSurface);
    if (!wire) return nullptr;
    if (wire->node != node.id && !leadsTo(m_graph, node.id, wire->node)) return wire;
    const Id master = m_master.id;
    report(Severity::Error, "normal.of-itself", {{}, node.id, "out"},
           whole ? fmt::format("{} asks for the mapped normal and leads into the finish that brings it. Wire the normal to its channel "
                               "beside the finish, or take the normal of the mesh here.",
                               titleOf(node.id))
                 : fmt::format("{} asks for the mapped normal and feeds the normal channel itself. Take the normal of the mesh here.",
                               titleOf(node.id)),
           {{"Take the normal of the mesh",
             [master, id = node.id](const Project& p) { return edit::setSetting(p, master, id, "of", "mesh"); }}});
    return nullptr;
}

Val GraphCompiler::railValue(const Rail& rail, const ChannelDef& channel, int shift) {
    const std::string key(channel.key);
    const bool muted = rail.isMuted(key);
    if (const Source* wire = rail.wire(key)) {
        const Brought brought = follow(*wire, rail.way, rail.way, key, shift);
        if (rail.way.empty()) {
            if (Val fitted = fittedToChannel(*wire, brought, channel)) return fitted;
        } else if (brought.value) {
            // Widths that do not fit are told of the master itself.
            if (const int width = m_builder.width(brought.value); width == channel.width || width == 1)
                return m_builder.spread(brought.value, channel.width);
        }
    }
    if (const auto whole = muted || key == "vertex_offset" ? nullptr : wholeFinish(rail, shift))
        if (const Val part = whole->part(key)) return part;
    if (!rail.way.empty()) m_builder.setOrigin(m_origins.at(rail.way));
    if (channel.meaning == Meaning::Normal) return m_builder.attribute(Attribute::NormalWorld);
    if (m_constants == Constants::Live && !muted)
        return m_builder.parameter(liveConstantName(rail.way, rail.way.empty() ? key : "channel." + key), channel.width);
    if (auto it = rail.graph.channelConstants.find(key); it != rail.graph.channelConstants.end() && !muted)
        return m_builder.constant({channel.width, it->second.v});
    return m_builder.constant(channel.standard);
}

Val GraphCompiler::fittedToChannel(const Source& wire, const Brought& brought, const ChannelDef& channel) {
    const std::string key(channel.key);
    if (brought.value) {
        if (channel.meaning == Meaning::Normal) checkNormalChannel(key, wire, brought);
        return fit(brought.value, channel.width, {}, key, fmt::format("The channel {}", channel.name));
    }
    if (brought.exists) reportNoNumbers({{}, {}, key}, fmt::format("The channel {}", channel.name), channel, brought, wire);
    return {};
}

std::shared_ptr<const Finish> GraphCompiler::wholeFinish(const Rail& rail, int shift) {
    const Source* wire = rail.wire(kWholeSurface);
    if (!wire) return nullptr;
    const std::string key(kWholeSurface);
    const Brought brought = follow(*wire, rail.way, rail.way, key, shift);
    if (!brought.finish && brought.exists && rail.way.empty()) reportNoFinish({{}, {}, key}, "The whole surface", *wire);
    return brought.finish;
}

Finish GraphCompiler::finishOfSurface(const Id& way, const OpenedSurface& surface, int shift) {
    const Rail rail = railOf(way, surface);
    Finish out;
    out.layers = surface.master->surface.layers;
    const auto whole = wholeFinish(rail, shift);
    for (const ChannelDef& part : finishParts()) {
        if (!hasPart(out.layers, part)) continue;
        Val value;
        if (findChannel(part.key)) value = railValue(rail, part, shift);
        else value = whole ? whole->part(part.key) : m_builder.constant(part.standard);
        out.parts[std::string(part.key)] = value;
    }
    return out;
}

void GraphCompiler::tellOfLayers() {
    const auto whole = wholeFinish(railOfBoard(), 0);
    if (!whole) return;
    for (const LayerDef& layer : layers()) {
        const uint32_t bit = uint32_t(layer.layer);
        if (!(whole->layers & bit) || (m_master.surface.layers & bit)) continue;
        report(
            Severity::Caution, "finish.layer-off", {{}, {}, std::string(layer.key)},
            fmt::format("The finish brings the layer {}, which this surface does not have, so it is not seen. Add the layer.", layer.name),
            {{fmt::format("Add {}", layer.name), [master = m_master.id, bit](const Project& p) -> Result<Project> {
                  SurfaceSettings with = p.master(master) ? p.master(master)->surface : SurfaceSettings{};
                  with.layers |= bit;
                  return edit::setSurface(p, master, with);
              }}});
    }
}

void GraphCompiler::reportNoNumbers(const Place& place, const std::string& receiver, const ChannelDef& wanted, const Brought& brought,
                                    const Source& wire) {
    if (!brought.finish)
        return report(Severity::Error, "wire.map-to-number", place,
                      fmt::format("{} takes numbers and the wire brings a map. Read the map with an Image card.", receiver));
    // The channel of that name, or one that the port could mean.
    const ChannelDef* part = findFinishPart(wanted.key);
    const std::string key(part ? part->key : wanted.meaning == Meaning::Normal ? "normal" : wanted.width == 1 ? "roughness" : "base_color");
    const ChannelDef& taken = *findFinishPart(key);
    report(Severity::Error, "wire.finish-to-number", place,
           fmt::format("{} takes numbers and the wire brings a finish. Take one of its channels with a Separate finish card.", receiver),
           {{fmt::format("Take its channel {}", taken.name), putBetween("separate_finish", wire, "in", key, place)}});
}
void GraphCompiler::reportNoFinish(const Place& place, const std::string& receiver, const Source& wire) {
    report(Severity::Error, "wire.number-to-finish", place,
           fmt::format("{} takes a finish and the wire brings something else. Make it a channel of a Finish card.", receiver),
           {{"Make it the color of a Finish", putBetween("finish", wire, "base_color", "out", place)}});
}
std::function<Result<Project>(const Project&)> GraphCompiler::putBetween(std::string_view kind, const Source& wire, const std::string& in,
                                                                         const std::string& out, const Place& to) const {
    return [=, master = m_master.id, kind = std::string(kind)](const Project& p) {
        return edit::putBetween(p, master, wire, kind, in, out, {master, to.node, to.port});
    };
}

} // namespace hue
