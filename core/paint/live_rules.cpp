#include "core/paint/live_rules.h"

#include "core/base/hash.h"
#include "core/edits/edits.h"
#include "core/mesh/paint_data.h"
#include "core/paint/wire_values.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

/// The mesh as rules of a channel may see it.
Mesh seenBelow(const Paintwork& w, int channel) {
    PaintData paint = *w.paint;
    for (const LiveRules& l : w.live)
        if (l.channel >= channel) paint = paint.without(l.channel);
    return painted(*paint.surface(), paint);
}

/// Of what rules read, and of what they gave: a state of the paint that is older is told from one that is not.
std::string fingerprintOf(const std::string& read, const PaintData& paint, int channel) {
    Hash hash;
    hash.add(read);
    const PaintChannel under = paint.channel(PaintData::under(channel));
    hash.add(under.data(), under.size() * sizeof(float));
    return hash.text();
}

/// One channel's rules, reckoned as far as they must be.
class Reckoning {
  public:
    Reckoning(const Project& project, Assets& assets, const Paintwork& w, const LiveRules& live)
        : m_project(project), m_assets(assets), m_paintwork(w), m_live(live) {}

    /// Nothing when what was reckoned last still holds.
    Result<std::optional<ReckonedRules>> run() {
        std::vector<FillRule> rules;
        for (const std::string& text : m_live.rules) {
            Result<FillRule> rule = fillRuleFromText(text);
            if (!rule) return rule.error();
            rules.push_back(std::move(*rule));
        }
        Hash read;
        read.add(m_paintwork.paint->shape());
        for (const std::string& text : m_live.rules) read.add(text);
        for (const FillRule& rule : rules) {
            if (rule.kind != FillRule::Kind::Wire) continue;
            const Result<PaintChannel>& values = wire(rule.wire);
            if (!values) return values.error();
            read.add(values->data(), values->size() * sizeof(float));
        }
        ReckonedRules out{m_paintwork.id, m_live.channel, PaintChannel(m_paintwork.paint->vertices()), read.text()};
        if (fingerprintOf(out.read, *m_paintwork.paint, m_live.channel) == m_live.fingerprint) return std::optional<ReckonedRules>{};
        const Outcome filled = fillByRules(mesh(), rules, out.values, [&](const std::string& words) { return wire(words); });
        if (!filled) return filled.error();
        return std::optional(std::move(out));
    }

  private:
    const Mesh& mesh() {
        if (!m_mesh) m_mesh = seenBelow(m_paintwork, m_live.channel);
        return *m_mesh;
    }
    const Result<PaintChannel>& wire(const std::string& words) {
        const auto known = m_wires.find(words);
        return known != m_wires.end() ? known->second : m_wires.emplace(words, valuesOf(words)).first->second;
    }
    Result<PaintChannel> valuesOf(const std::string& words) {
        for (const Specimen& s : m_project.lineup.specimens) {
            if (s.paintwork != m_paintwork.id) continue;
            const Result<WornWire> its = wornWire(m_project, s, words);
            if (!its) return its.error();
            return wireAtVertices(m_project, m_assets, its->worn, its->wire, mesh(), 0);
        }
        return Error{"paint.wire",
                     fmt::format("No specimen wears the paintwork {}, so there is no wire {} to paint by. Choose it for one.",
                                 m_paintwork.name, words),
                     {}};
    }

    const Project& m_project;
    Assets& m_assets;
    const Paintwork& m_paintwork;
    const LiveRules& m_live;
    std::optional<Mesh> m_mesh; ///< once it is needed
    std::map<std::string, Result<PaintChannel>> m_wires;
};

} // namespace

float handOver(float painted, float was, float is) {
    if (painted > was) return is + (1 - is) * (painted - was) / (1 - was);
    if (painted < was) return is * painted / was;
    return is;
}

std::optional<Error> LivePaint::failureOf(const Id& paintwork, int channel) const {
    for (const UnreckonedRules& f : failures)
        if (f.paintwork == paintwork && f.channel == channel) return f.error;
    return {};
}

LivePaint reckonLive(const Project& project, Assets& assets, const Work& work) {
    LivePaint out;
    Project now = project;
    for (const auto& known : project.paintworks) {
        std::vector<int> channels;
        for (const LiveRules& l : known->live) channels.push_back(l.channel);
        std::sort(channels.begin(), channels.end());
        for (const int channel : channels) {
            if (work.stopped()) {
                out.stopped = true;
                return out;
            }
            // With what was reckoned just now for those below.
            const Paintwork& w = *now.paintwork(known->id);
            if (!w.paint) continue;
            Result<std::optional<ReckonedRules>> reckoned = Reckoning(now, assets, w, *w.liveOf(channel)).run();
            if (!reckoned) {
                out.failures.push_back({known->id, channel, reckoned.error()});
                continue;
            }
            if (!*reckoned) continue;
            const LivePaint one{{std::move(**reckoned)}, {}, false};
            now = withLive(now, one);
            out.channels.push_back(one.channels[0]);
        }
    }
    return out;
}

std::vector<Diagnostic> livePaintProblems(const Project& project, Assets& assets, const Work& work) {
    std::vector<Diagnostic> out;
    const LivePaint live = reckonLive(project, assets, work);
    for (const UnreckonedRules& f : live.failures)
        out.push_back({Severity::Caution, f.error.code, {{}, {}, f.paintwork}, f.error.sentence, {}});
    for (const ReckonedRules& r : live.channels)
        out.push_back({Severity::Caution,
                       "paint.stale",
                       {{}, {}, r.paintwork},
                       fmt::format("What the rules below channel {} of {} read has changed since they were reckoned. Run hsk remake, or "
                                   "open the project in the window.",
                                   r.channel + 1, project.paintwork(r.paintwork)->name),
                       {}});
    return out;
}

Project withLive(const Project& project, const LivePaint& live) {
    Project out = project;
    for (const ReckonedRules& r : live.channels) {
        const Paintwork* w = out.paintwork(r.paintwork);
        const LiveRules* rules = w ? w->liveOf(r.channel) : nullptr;
        if (!rules || !w->paint || w->paint->vertices() != r.values.size()) continue;
        LiveRules reckoned = *rules;
        const int under = PaintData::under(r.channel);
        // In steps, as it is kept: so what the hand has not touched is told from what it has.
        PaintData paint = w->paint->with(under, r.values);
        PaintChannel painted = w->paint->channel(r.channel);
        const PaintChannel was = w->paint->channel(under), is = paint.channel(under);
        for (size_t v = 0; v < painted.size(); ++v) painted[v] = handOver(painted[v], was[v], is[v]);
        paint = paint.with(r.channel, painted);
        reckoned.fingerprint = fingerprintOf(r.read, paint, r.channel);
        const Result<Project> kept = edit::setPaint(out, r.paintwork, std::make_shared<PaintData>(std::move(paint)));
        const Result<Project> next = kept ? edit::setLiveRules(*kept, r.paintwork, std::move(reckoned)) : kept;
        if (next) out = *next;
    }
    return out;
}

} // namespace hue
