// hsk paint: fills a channel of what is painted on a mesh by rules.
#include "cli/opened.h"
#include "cli/output.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/paint/carry_over.h"
#include "core/paint/fill_rules.h"
#include "core/paint/live_rules.h"
#include "core/paint/paint_map.h"
#include "core/paint/paint_names.h"
#include "core/paint/wire_values.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

constexpr std::string_view kChannels = "rgba5678";

/// What is painted on a mesh already: by a paintwork, else what it brings along.
struct Canvas {
    MeshPtr mesh;
    PaintDataPtr paint;
    Id paintwork;       ///< empty: none
    bool isNew = false; ///< it is not in the project yet
    std::string name, meshId;
    std::vector<ReadChannel> names; ///< of its channels
    std::vector<LiveRules> live;
};

PaintDataPtr broughtAlong(const MeshPtr& mesh) {
    PaintData paint(mesh, 16);
    for (int c = 0; c < (mesh->hasColors1 ? PaintData::kChannels : 4); ++c) {
        const auto set = c < 4 ? &Vertex::color : &Vertex::color1;
        std::vector<float> values(mesh->vertices.size(), c == 3 ? 1.f : 0.f);
        if (mesh->hasColors)
            for (size_t v = 0; v < values.size(); ++v) values[v] = (mesh->vertices[v].*set)[size_t(c % 4)];
        paint = paint.with(c, values);
    }
    return std::make_shared<PaintData>(std::move(paint));
}

Result<Canvas> canvasOf(Opened& p, const Options& o) {
    Canvas out;
    const Paintwork* known = nullptr;
    for (const auto& w : p.project.paintworks)
        if (!o.paintwork.empty() && (w->name == o.paintwork || w->id == o.paintwork)) known = w.get();
    if (o.mesh.empty() && !known) {
        std::vector<std::string> names;
        for (const auto& w : p.project.paintworks) names.push_back(w->name);
        if (o.paintwork.empty()) return Error{"name.unknown", "Say with --mesh or --paintwork what is to be painted.", {}};
        return Error{"name.unknown",
                     fmt::format("There is no paintwork {}; there {}. With --mesh it is made.", o.paintwork,
                                 names.empty() ? "is none" : fmt::format("are {}", fmt::join(names, ", "))),
                     {}};
    }
    Result<Id> mesh = o.mesh.empty() ? Result<Id>(known->mesh) : findMesh(p.project, o.mesh);
    if (!mesh) return mesh.error();
    if (known && *mesh != known->mesh)
        return Error{"lineup.other-mesh", fmt::format("{} is painted on another mesh than {}.", known->name, o.mesh), {}};
    out.meshId = *mesh;
    std::string problem;
    out.mesh = p.assets.mesh(p.project, *mesh, &problem);
    if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
    // As those call them who wear it; else as somebody on such a mesh does.
    for (const bool wearing : {true, false})
        for (const Specimen& s : p.project.lineup.specimens)
            if (s.mesh == *mesh && (!wearing || (known && s.paintwork == known->id)) && out.names.empty())
                out.names = channelsRead(p.project, s);
    if (o.paintwork.empty()) {
        out.paint = broughtAlong(out.mesh);
        return out;
    }
    out.isNew = !known;
    out.name = known ? known->name : o.paintwork;
    out.paintwork = known ? known->id : newId('w');
    if (known) out.live = known->live;
    if (known && !known->paint)
        return Error{"paint.unreadable", fmt::format("The paint of {} could not be read, so it is not painted over.", known->name), {}};
    out.paint = known ? known->paint : std::make_shared<PaintData>(out.mesh);
    if (!fits(*out.paint, out.mesh)) {
        CarriedPaint carried = carriedOver(*out.paint, out.mesh);
        fmt::print(stderr, "caution: the mesh has changed; the paint was carried over, from {:.3g} m away at most\n", carried.furthest);
        out.paint = std::make_shared<PaintData>(std::move(carried.paint));
    }
    return out;
}

/// 0..7. Error: name.unknown.
Result<int> channelOf(const Canvas& canvas, const std::string& text) {
    if (text.empty()) return 0;
    for (const ReadChannel& r : canvas.names)
        if (r.name == text) return r.channel;
    if (text.size() == 1 && kChannels.find(text) != std::string_view::npos) return int(kChannels.find(text));
    std::vector<std::string> known;
    for (const char letter : kChannels) known.emplace_back(1, letter);
    for (const ReadChannel& r : canvas.names) known.push_back(r.name);
    return Error{"name.unknown", fmt::format("There is no channel {}; there are {}.", text, fmt::join(known, ", ")), {}};
}

void tell(const Canvas& canvas, bool asJson) {
    Json all = Json::array();
    for (int c = 0; c < PaintData::kChannels; ++c) {
        const PaintShare s = shareOf(canvas.paint->channel(c));
        std::string name;
        for (const ReadChannel& r : canvas.names)
            if (r.channel == c) name = r.name;
        const std::string letter(kChannels.substr(size_t(c), 1));
        std::vector<std::string> live;
        for (const LiveRules& l : canvas.live)
            if (l.channel == c) live = l.rules;
        if (c >= 4 && name.empty() && live.empty() && !canvas.paint->isPainted(c)) continue; // most paint has four
        if (asJson)
            all.push_back({{"channel", letter},
                           {"name", name},
                           {"least", s.least},
                           {"mean", s.mean},
                           {"most", s.most},
                           {"painted", s.painted},
                           {"live", live}});
        else
            print(fmt::format("{}{}: {:.3g} to {:.3g}, mean {:.3g}, {:.0f} % of the vertices painted{}", letter,
                              name.empty() ? "" : fmt::format(" ({})", name), s.least, s.most, s.mean, 100 * s.painted,
                              live.empty() ? "" : fmt::format("; live below: {}", fmt::join(live, ", "))));
    }
    if (asJson) print(Json{{"vertices", canvas.paint->vertices()}, {"bits", canvas.paint->bits()}, {"channels", all}});
}

Result<Project> projectWith(const Project& project, const Canvas& canvas) {
    if (!canvas.isNew) return edit::setPaint(project, canvas.paintwork, canvas.paint);
    Paintwork w;
    w.id = canvas.paintwork, w.name = canvas.name, w.mesh = canvas.meshId, w.paint = canvas.paint;
    return edit::addPaintwork(project, w);
}

Outcome keep(const Opened& p, const Canvas& canvas, const Options& o, const RewriteLock& lock) {
    const Result<Project> next = projectWith(p.project, canvas);
    if (!next) return next.error();
    return saveProject(*next, o.project, {p.hash, &lock});
}

/// Keeps rules in the paintwork.
Outcome keepLive(Opened& p, Canvas& canvas, int channel, const Options& o, const RewriteLock& lock) {
    Result<Project> next = projectWith(p.project, canvas);
    if (next) next = edit::setLiveRules(*next, canvas.paintwork, {channel, o.rules, {}});
    if (!next) return next.error();
    const LivePaint live = reckonLive(*next, p.assets, {});
    if (const std::optional<Error> failure = live.failureOf(canvas.paintwork, channel)) return *failure;
    const Project reckoned = withLive(*next, live);
    const Paintwork& its = *reckoned.paintwork(canvas.paintwork);
    canvas.paint = its.paint, canvas.live = its.live;
    return saveProject(reckoned, o.project, {p.hash, &lock});
}

} // namespace

int paint(const Options& o) {
    std::optional<RewriteLock> lock;
    if (!o.paintwork.empty() && !o.info) {
        Result<RewriteLock> taken = RewriteLock::take(o.project);
        if (!taken) return fail(taken.error());
        lock.emplace(std::move(*taken));
    }
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    Result<Canvas> canvas = canvasOf(p, o);
    if (!canvas) return fail(canvas.error());
    const Result<int> channel = channelOf(*canvas, o.channel);
    if (!channel) return fail(channel.error());
    const Result<Id> worn = o.of.empty() ? Id{} : find(p.project, o.of);
    if (!worn) return fail(worn.error());
    std::vector<FillRule> rules;
    for (const std::string& text : o.rules) {
        Result<FillRule> rule = fillRuleFromText(text);
        if (!rule) return fail(rule.error());
        rules.push_back(std::move(*rule));
    }
    if (o.live && !o.info) {
        if (!lock) return fail("Rules stay live in a paintwork. Name one with --paintwork.");
        if (const Outcome kept = keepLive(p, *canvas, *channel, o, *lock); !kept) return fail(kept.error());
    } else if (!rules.empty() && !o.info) {
        const Mesh mesh = painted(*canvas->mesh, *canvas->paint);
        WireValues wires;
        if (!worn->empty())
            wires = [&p, &mesh, &o, worn = *worn](const std::string& text) -> Result<PaintChannel> {
                const Result<Source> wire = wireOf(p.project, *p.project.masterOf(worn), text);
                if (!wire) return wire.error();
                return wireAtVertices(p.project, p.assets, worn, *wire, mesh, o.time);
            };
        PaintChannel values = canvas->paint->channel(*channel);
        if (const Outcome filled = fillByRules(mesh, rules, values, wires); !filled) return fail(filled.error());
        canvas->paint = std::make_shared<PaintData>(canvas->paint->with(*channel, values));
        if (lock)
            if (const Outcome kept = keep(p, *canvas, o, *lock); !kept) return fail(kept.error());
    }
    if (!o.exported.empty())
        if (const Outcome written = writePaint(o.exported, *canvas->paint); !written) return fail(written.error());
    if (!o.paintMap.empty()) {
        const Result<PaintMap> map = mapOfPaint(*canvas->mesh, canvas->paint->channel(*channel), o.size);
        if (!map) return fail(map.error());
        if (map->ambiguous > 0)
            fmt::print(stderr, "caution: {:.2g} % of the map is used twice, with different paint: the UVs lie over each other\n",
                       100 * map->ambiguous);
        const SampleType type = canvas->paint->bits() == 8 ? SampleType::U8 : SampleType::U16;
        if (const Outcome written = writeImage(o.paintMap, imageOf({map->values}, type), PixelEncoding::Data); !written)
            return fail(written.error());
    }
    tell(*canvas, o.json);
    return 0;
}

} // namespace hue::cli
