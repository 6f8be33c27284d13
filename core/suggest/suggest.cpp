#include "core/suggest/suggest.h"

#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/document/parameter_kinds.h"
#include "core/nodes/assembly_card.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {
namespace {

constexpr int kWorthLooking = 4; ///< operations of a card below which no rule looks at it

/// The mean of what a wire carries over the unit square, 16 pixels a side.
std::optional<Value> meanOf(const Project& project, const Master& master, const Source& wire, const FrameInputs& inputs) {
    constexpr int kSide = 16;
    const Compilation c = compileTap(project, master, wire);
    const int32_t at = c.program->output("tap");
    if (!c.ok || at < 0) return {};
    Value out{c.program->code[size_t(at)].width, {}};
    std::array<double, 4> sums{};
    const Evaluator evaluator(c.program);
    Work alone;
    alone.threads = 1;
    evaluator.grid(
        evaluator.frame(inputs), {"tap"}, kSide, kSide, FlatSquare(kSide, kSide),
        [&](int, int, int columns, int rows, const float* const* planes) {
            for (int k = 0; k < out.width; ++k)
                for (int r = 0; r < rows; ++r)
                    for (int i = 0; i < columns; ++i)
                        if (const float x = planes[k][r * kBlockColumns + i]; std::isfinite(x)) sums[size_t(k)] += double(x);
        },
        alone);
    for (int k = 0; k < out.width; ++k) out[k] = float(sums[size_t(k)] / (kSide * kSide));
    return out;
}

class Rules {
  public:
    Rules(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs)
        : m_project(project), m_resolved(resolve(project, worn)), m_target(target), m_inputs(inputs) {}

    std::vector<Proposed> run() {
        if (!m_resolved.master) return {};
        m_master = m_project.master(m_resolved.master->id);
        if (!m_master) return {};
        m_cards = compileSurface(m_project, *m_resolved.master).cards;
        for (const auto& [id, node] : m_master->graph.nodes) {
            const NodeDef* def = nodeDefOf(m_project, *node);
            if (!def || node->muted || !m_cards.contains(id)) continue;
            settings(*node, *def);
            wires(*node, *def);
            constant(*node, *def);
        }
        choices();
        surface();
        formats();
        std::erase_if(m_out, [&](const Proposed& p) {
            const auto& silent = m_master->silencedAdvice;
            return std::find(silent.begin(), silent.end(), p.code) != silent.end();
        });
        return std::move(m_out);
    }

  private:
    std::string titleOf(const Node& node) const { return cardTitle(m_project, *m_master, node); }
    void add(std::string_view rule, const std::string& about, std::string title, std::string why, const Id& card, edit::Edit change) {
        m_out.push_back({fmt::format("{}:{}", rule, about), std::move(title), std::move(why), card, std::move(change)});
    }
    void set(std::string_view rule, const Node& node, const std::string& key, const std::string& value, std::string title,
             std::string why) {
        add(rule, node.id, std::move(title), std::move(why), node.id,
            [m = m_master->id, id = node.id, key, value](const Project& p) { return edit::setSetting(p, m, id, key, value); });
    }

    void settings(const Node& node, const NodeDef& def) {
        if (const SettingDef* s = def.setting("octaves"); s && m_cards[node.id].operations > 0) {
            const int now = std::atoi(std::string(settingOf(node, def, "octaves")).c_str());
            if (now > 1)
                set("octaves", node, "octaves", fmt::format("{}", now - 1), fmt::format("{} octaves of {}", now - 1, titleOf(node)),
                    "The finest octave is the weakest.");
        }
        if (node.kind == "fresnel" && def.setting("by") && settingOf(node, def, "by") == "index")
            set("fresnel-power", node, "by", "power", fmt::format("{} by a power", titleOf(node)),
                "A power follows the exact curve closely, and costs less.");
        // What does nearly the same in a plainer way; wires and values go along as far as they fit.
        static constexpr std::pair<std::string_view, std::string_view> kPlainer[] = {
            {"worley_noise", "noise_2d"}, {"worley_noise_3d", "noise_3d"},    {"noise_3d", "noise_2d"},
            {"fractal_3d", "fractal"},    {"hex_tiled_image", "tiled_image"}, {"triplanar_projection", "image"}};
        for (const auto& [kind, plainer] : kPlainer)
            if (node.kind == kind)
                if (const NodeDef* other = findNodeDef(plainer))
                    add("plainer-card", node.id, fmt::format("{} in the place of {}", other->name, titleOf(node)),
                        "It does nearly the same, and costs less.", node.id,
                        [m = m_master->id, id = node.id, to = std::string(plainer)](const Project& p) {
                            return edit::replaceNode(p, m, id, makeNode(to));
                        });
        if (def.setting("unseen") && settingOf(node, def, "unseen") == "computed")
            set("skip-unseen", node, "unseen", "skipped", fmt::format("Skip what {} hides", titleOf(node)),
                "Where the mask is at one of its ends, the other side is not computed.");
    }

    void wires(const Node& node, const NodeDef& def) {
        for (const auto& [port, wire] : node.wires) {
            const PortDef* in = def.input(port);
            const auto from = m_cards.find(wire.node);
            if (!in || !carriesNumbers(in->width) || wire.perVertex || from == m_cards.end() || from->second.rate != Rate::Pixel ||
                from->second.operations < kWorthLooking)
                continue;
            const Node* source = m_master->graph.find(wire.node);
            if (!source) continue;
            add("per-vertex", node.id + "." + port, fmt::format("Compute {} at the vertices", titleOf(*source)),
                fmt::format("What changes slowly over a triangle can be carried over it to {}.", titleOf(node)), wire.node,
                [m = m_master->id, id = node.id, port = port](const Project& p) { return edit::setPerVertex(p, m, id, port, true); });
        }
    }

    /// All readers of a card's numbers read their mean.
    void constant(const Node& node, const NodeDef& def) {
        const CardCost& cost = m_cards[node.id];
        // What comes from the mesh has no mean that means anything.
        if (cost.rate != Rate::Pixel || (cost.operations < kWorthLooking && !cost.fetches) || isAssembly(node) || def.inputs.empty())
            return;
        std::vector<edit::Edit> steps;
        std::map<std::pair<std::string, std::string>, std::optional<Value>> means;
        const auto mean = [&](const Source& wire) -> std::optional<Value> {
            auto& known = means[{wire.port, wire.take}];
            const PortDef* port = def.output(wire.port);
            if (!known && port && port->width != kFinishPort && !port->finishes)
                known = meanOf(m_project, *m_resolved.master, wire, m_inputs);
            return known;
        };
        const Id master = m_master->id;
        for (const auto& [id, reader] : m_master->graph.nodes) {
            const NodeDef* its = nodeDefOf(m_project, *reader);
            for (const auto& [port, wire] : reader->wires) {
                if (wire.node != node.id) continue;
                const PortDef* in = its ? its->input(port) : nullptr;
                const std::optional<Value> v = in && carriesNumbers(in->width) ? mean(wire) : std::nullopt;
                if (!v) return; // a finish or a map, which has no mean
                steps.push_back([=, id = id, port = port](const Project& p) { return edit::disconnect(p, master, id, port); });
                steps.push_back([=, id = id, port = port](const Project& p) { return edit::setConstant(p, master, id, port, *v); });
            }
        }
        for (const auto& [channel, wire] : m_master->graph.channelWires) {
            if (wire.node != node.id) continue;
            const ChannelDef* c = findChannel(channel);
            // A mean of normals is no flat one, and the mesh's own serves better.
            const bool normal = c && c->meaning == Meaning::Normal;
            const std::optional<Value> v = c && !normal ? mean(wire) : std::nullopt;
            if (!v && !normal) return;
            steps.push_back([=, channel = channel](const Project& p) { return edit::disconnectChannel(p, master, channel); });
            if (v) steps.push_back([=, channel = channel](const Project& p) { return edit::setChannelConstant(p, master, channel, *v); });
        }
        if (steps.empty()) return;
        add("constant", node.id, fmt::format("A constant in the place of {}", titleOf(node)), "Its mean, for all that read it.", node.id,
            [steps](const Project& p) {
                Result<Project> next = p;
                for (const edit::Edit& step : steps)
                    if (next) next = step(*next);
                return next;
            });
    }

    void choices() {
        for (const Parameter& p : m_master->parameters) {
            if (!p.isNamed() || p.build) continue;
            Parameter build = p;
            build.build = true;
            add("build-choice", p.id, fmt::format("{} as a build choice", p.name),
                "What is not chosen is not computed; each choice in use is a build.", {},
                [m = m_master->id, build](const Project& q) { return edit::changeParameter(q, m, build); });
        }
    }

    void surface() {
        SurfaceSettings s = m_master->surface;
        if (s.alphaMode != AlphaMode::Blend || s.decal) return;
        s.alphaMode = AlphaMode::Mask;
        add("cut-out", "alpha", "Cut out in the place of see-through",
            "Pixels behind each other are not shaded several times, and nothing has to be sorted.", {},
            [m = m_master->id, s](const Project& p) { return edit::setSurface(p, m, s); });
    }

    void formats() {
        if (m_target.formats.empty()) return;
        const std::set<Id> maps = mapsWornBy(m_project, m_resolved.master->id);
        std::set<Id> all = maps;
        for (const auto& [id, entry] : m_resolved.values)
            if (m_project.map(entry.value.map)) all.insert(entry.value.map);
        for (const Id& id : all) {
            const MapFile* map = m_project.map(id);
            if (!map) continue;
            const auto takes = [&](std::string_view format) {
                return std::find(m_target.formats.begin(), m_target.formats.end(), format) != m_target.formats.end();
            };
            if (!map->format.empty() && takes(map->format)) continue;
            const bool normal = map->kind == MapKind::Normal;
            for (const char* format : {normal ? "bc5" : "bc7", "astc-6x6"})
                if (takes(format)) {
                    MapFile smaller = *map;
                    smaller.format = format;
                    add("block-format", id, fmt::format("{} in {}", map->name, format),
                        fmt::format("{} reads it, and it takes less memory.", m_target.name), {},
                        [smaller](const Project& p) { return edit::changeMap(p, smaller); });
                    break;
                }
        }
    }

    const Project& m_project;
    const Resolved m_resolved;
    const Target& m_target;
    const FrameInputs& m_inputs;
    const Master* m_master = nullptr;
    std::map<Id, CardCost> m_cards;
    std::vector<Proposed> m_out;
};

double figureOf(const Verdict& v, std::string_view key) {
    for (const Against& a : v.limits)
        if (a.def->key == key) return a.figure;
    return 0;
}

/// How far over the limits it is, as a sum of shares beyond 1, and one for each map in a format that the target does not read.
double beyond(const Verdict& v) {
    double out = double(v.badFormats.size());
    for (const Against& a : v.limits) out += std::max(0., a.share() - 1);
    return out;
}

std::optional<Suggestion> tried(const Project& project, Proposed what, const Verdict& before, const Target& target, const BytesIn& bytes) {
    Result<Project> after = what.change(project);
    if (!after) return {};
    const Resolved resolved = resolve(*after, before.worn);
    if (!resolved.master || !compileSurface(*after, *resolved.master).ok) return {};
    Suggestion out;
    out.what = std::move(what);
    out.after = std::make_shared<Project>(std::move(*after));
    out.before = before;
    // The format of a map decides its bytes.
    out.then = verdictOf(*out.after, before.worn, target, bytes(*out.after));
    out.operations = before.cost.operationsPerPixel() - out.then.cost.operationsPerPixel();
    out.vertexOperations = figureOf(before, "vertexOperations") - figureOf(out.then, "vertexOperations");
    out.fetches = before.cost.fetches - out.then.cost.fetches;
    out.megabytes = (double(before.cost.mapBytes) - double(out.then.cost.mapBytes)) / 1e6;
    out.fitsMore = beyond(out.then) < beyond(before) - 1e-9;
    // What becomes more counts half against it: a way that helps where it is needed may cost where there is room.
    double loss = 0;
    for (size_t k = 0; k < before.limits.size() && k < out.then.limits.size(); ++k) {
        const Against &a = before.limits[k], &b = out.then.limits[k];
        const double of = a.limit > 0 ? a.limit : std::max(a.figure, 1.), gain = (a.figure - b.figure) / of;
        if (gain > 0) out.worth = std::max(out.worth, gain);
        else loss -= gain;
    }
    out.worth -= loss / 2;
    const bool saves = out.operations > 0 || out.vertexOperations > 0 || out.fetches > 0 || out.megabytes > 1e-6 || out.fitsMore;
    if (!saves) out.worth = 0;
    // What masks hide is spared where they do.
    if (out.then.cost.spared.operations > before.cost.spared.operations && out.operations <= 0)
        out.worth = std::max(out.worth, double(out.then.cost.spared.operations - before.cost.spared.operations) /
                                            std::max(1, before.cost.operationsPerPixel()) / 2);
    return out;
}

} // namespace

std::span<const RuleDef> suggestionRules() {
    static constexpr RuleDef all[] = {
        {"octaves", "One octave less of a fractal noise."},
        {"plainer-card",
         "A card that does nearly the same in a plainer way: Noise 2D for cells or a noise in space, plain tiling for tiling by hexagons."},
        {"fresnel-power", "Fresnel by a power in the place of the exact curve by an index of refraction."},
        {"skip-unseen", "What a mask of finishes hides is skipped."},
        {"per-vertex", "A wire is computed at the vertices and carried over the triangles."},
        {"constant", "All that read a card read its mean."},
        {"build-choice", "A live switch or choice is resolved when compiling."},
        {"cut-out", "A see-through surface is cut out."},
        {"block-format", "A map is compressed to a block format that the target reads."},
    };
    return all;
}

std::vector<Proposed> proposed(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs) {
    return Rules(project, worn, target, inputs).run();
}

std::vector<Suggestion> suggestionsFor(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                                       const FrameInputs& inputs, const Work& work) {
    const Verdict before = verdictOf(project, worn, target, bytes(project));
    std::vector<Proposed> all = proposed(project, worn, target, inputs);
    std::vector<std::optional<Suggestion>> each(all.size());
    std::atomic<size_t> done = 0;
    inBands(all.size(), 1, work.threads, [&](size_t first, size_t last) {
        for (size_t k = first; k < last && !work.stopped(); ++k) {
            each[k] = tried(project, std::move(all[k]), before, target, bytes);
            if (work.progress) work.progress(float(++done) / float(each.size()));
        }
    });
    std::vector<Suggestion> out;
    for (auto& s : each)
        if (s && s->worth > 1e-6) out.push_back(std::move(*s));
    std::stable_sort(out.begin(), out.end(), [](const Suggestion& a, const Suggestion& b) { return a.worth > b.worth; });
    return out;
}

double rankOf(const Suggestion& s, double seen) { return s.worth / (0.2 + seen); }

std::string savingWords(const Suggestion& s) {
    std::vector<std::string> less, more;
    const auto say = [&](double saved, std::string_view one, std::string_view many, int digits) {
        if (std::fabs(saved) < (digits ? 0.005 : 0.5)) return;
        const double size = std::fabs(saved);
        (saved > 0 ? less : more).push_back(fmt::format("{:.{}f} {}", size, digits, size == 1 ? one : many));
    };
    say(s.operations, "operation", "operations", 0);
    say(s.fetches, "fetch", "fetches", 0);
    say(s.megabytes, "MB", "MB", 2);
    say(s.vertexOperations, "operation per vertex", "operations per vertex", 0);
    if (const int spared = s.then.cost.spared.operations - s.before.cost.spared.operations;
        spared > 0 && s.what.code.starts_with("skip-unseen"))
        less.push_back(fmt::format("up to {} operations where it hides", spared));
    std::string out = less.empty() ? "nothing that is counted" : fmt::format("{}", fmt::join(less, ", "));
    if (!more.empty()) out += fmt::format(", for {}", fmt::join(more, ", "));
    return out;
}

Fit fitToTarget(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                const std::function<FrameInputs(const Project&, const Resolved&)>& inputs,
                const std::function<double(const Project&)>& difference, const std::set<Id>& locked, const Work& work) {
    Fit out;
    auto now = std::make_shared<const Project>(project);
    Verdict verdict = verdictOf(*now, worn, target, bytes(*now));
    out.steps.push_back({"as it is", {}, now, verdict, 0});
    constexpr size_t kLooked = 6, kMostSteps = 40; // candidates whose look is compared; steps
    while (!verdict.fits() && out.steps.size() < kMostSteps && !work.stopped()) {
        const Resolved resolved = resolve(*now, worn);
        std::vector<Suggestion> all = suggestionsFor(*now, worn, target, bytes, inputs(*now, resolved), {work.threads, work.cancelled, {}});
        std::erase_if(all, [&](const Suggestion& s) { return !s.fitsMore || (!s.what.card.empty() && locked.contains(s.what.card)); });
        // Those that help most towards the limits are looked at; of these the one that shows least for what it brings is taken.
        std::stable_sort(all.begin(), all.end(), [](const Suggestion& a, const Suggestion& b) { return beyond(a.then) < beyond(b.then); });
        if (all.size() > kLooked) all.resize(kLooked);
        const Suggestion* best = nullptr;
        double least = 0, seen = 0;
        for (const Suggestion& s : all) {
            if (work.stopped()) break;
            const double far = difference(*s.after), gain = beyond(verdict) - beyond(s.then), price = (far + 0.01) / std::max(gain, 1e-6);
            ++out.tried;
            if (!best || price < least) best = &s, least = price, seen = far;
        }
        if (!best) break;
        now = best->after;
        verdict = best->then;
        out.steps.push_back({best->what.title, best->what.code, now, verdict, seen});
        if (work.progress) work.progress(std::min(0.99f, float(out.steps.size()) / 20));
    }
    out.fits = verdict.fits();
    return out;
}

} // namespace hue
