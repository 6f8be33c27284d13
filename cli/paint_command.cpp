// hsk paint: fills a channel of a mesh's vertex colors by rules.
#include "cli/opened.h"
#include "cli/output.h"
#include "core/paint/fill_rules.h"
#include "core/paint/wire_values.h"

#include <fmt/format.h>

namespace hue::cli {
namespace {

constexpr std::string_view kChannels = "rgba";

PaintChannel channelOf(const Mesh& mesh, size_t c) {
    PaintChannel out;
    out.reserve(mesh.vertices.size());
    for (const Vertex& v : mesh.vertices) out.push_back(v.color[c]);
    return out;
}

/// Vertex colors are read as they are; a mesh without has nothing painted yet, and is opaque.
Mesh paintable(const Mesh& from) {
    Mesh mesh = from;
    if (!mesh.hasColors)
        for (Vertex& v : mesh.vertices) v.color = {0, 0, 0, 1};
    mesh.hasColors = true;
    return mesh;
}

void tell(const Mesh& mesh, bool asJson) {
    Json all = Json::array();
    for (size_t c = 0; c < kChannels.size(); ++c) {
        const PaintShare s = shareOf(channelOf(mesh, c));
        if (asJson)
            all.push_back(
                {{"channel", kChannels.substr(c, 1)}, {"least", s.least}, {"mean", s.mean}, {"most", s.most}, {"painted", s.painted}});
        else
            print(fmt::format("{}: {:.3g} to {:.3g}, mean {:.3g}, {:.0f} % of the vertices painted", kChannels.substr(c, 1), s.least,
                              s.most, s.mean, 100 * s.painted));
    }
    if (asJson) print(Json{{"vertices", mesh.vertices.size()}, {"channels", all}});
}

} // namespace

int paint(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Result<Id> id = findMesh(p.project, o.mesh);
    if (!id) return fail(id.error());
    std::string problem;
    const MeshPtr given = p.assets.mesh(p.project, *id, &problem);
    if (!problem.empty()) return fail(problem);
    const size_t channel = kChannels.find(o.channel.empty() ? "r" : o.channel);
    std::vector<FillRule> rules;
    for (const std::string& text : o.rules) {
        Result<FillRule> rule = fillRuleFromText(text);
        if (!rule) return fail(rule.error());
        rules.push_back(std::move(*rule));
    }
    Mesh mesh = paintable(*given);
    WireValues wires;
    if (!o.of.empty()) {
        const Result<Id> worn = find(p.project, o.of);
        if (!worn) return fail(worn.error());
        wires = [&p, &mesh, &o, worn = *worn](const std::string& text) -> Result<PaintChannel> {
            const Result<Source> wire = wireOf(p.project, *p.project.masterOf(worn), text);
            if (!wire) return wire.error();
            return wireAtVertices(p.project, p.assets, worn, *wire, mesh, o.time);
        };
    }
    PaintChannel values = channelOf(mesh, channel);
    if (const Outcome filled = fillByRules(mesh, rules, values, wires); !filled) return fail(filled.error());
    for (size_t v = 0; v < values.size(); ++v) mesh.vertices[v].color[channel] = values[v];
    if (!o.exported.empty())
        if (const Outcome written = writeMesh(o.exported, mesh); !written) return fail(written.error());
    tell(mesh, o.json);
    return 0;
}

} // namespace hue::cli
