#include "core/suggest/suggest.h"

#include "core/compile/compile.h"
#include "core/suggest/rules_private.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {
namespace {

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

/// How many wires begin at a card.
int wiresFrom(const Master& m, const Id& card) {
    int out = 0;
    for (const auto& [id, node] : m.graph.nodes)
        for (const auto& [port, wire] : node->wires) out += wire.node == card;
    for (const auto& [channel, wire] : m.graph.channelWires) out += wire.node == card;
    return out;
}

/// Whether a card that is locked, or one of `more`, is another one after a change, or is read by fewer.
bool touchesLocked(const Master& before, const Master& after, const std::set<Id>& more) {
    for (const auto& [id, node] : before.graph.nodes) {
        if (!node->locked && !more.contains(id)) continue;
        const auto now = after.graph.nodes.find(id);
        if (now == after.graph.nodes.end()) return true;
        const Node &a = *node, &b = *now->second;
        if (node != now->second &&
            (a.kind != b.kind || a.constants != b.constants || a.settings != b.settings || a.wires != b.wires || a.muted != b.muted))
            return true;
        if (wiresFrom(after, id) < wiresFrom(before, id)) return true;
    }
    return false;
}

std::optional<Suggestion> tried(const Project& project, Proposed what, const Verdict& before, const Target& target, const BytesIn& bytes,
                                const std::set<Id>& locked) {
    Result<Project> after = what.change(project);
    if (!after) return {};
    const Resolved resolved = resolve(*after, before.worn);
    if (!resolved.master || !compileSurface(*after, *resolved.master).ok) return {};
    const Master *was = project.masterOf(before.worn), *is = after->masterOf(before.worn);
    if (!was || !is || touchesLocked(*was, *is, locked)) return {};
    Suggestion out;
    out.what = std::move(what);
    out.after = std::make_shared<Project>(std::move(*after));
    out.before = before;
    // The format of a map decides its bytes.
    out.then = verdictOf(*out.after, before.worn, target, bytes(*out.after));
    out.operations = before.cost.operationsPerPixel() - out.then.cost.operationsPerPixel();
    out.vertexOperations = figureOf(before, "vertexOperations") - figureOf(out.then, "vertexOperations");
    out.fetches = before.cost.fetches - out.then.cost.fetches;
    out.samplers = before.cost.samplers - out.then.cost.samplers;
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
    const bool saves =
        out.operations > 0 || out.vertexOperations > 0 || out.fetches > 0 || out.samplers > 0 || out.megabytes > 1e-6 || out.fitsMore;
    if (!saves) out.worth = 0;
    // Pixels that are not computed at all stand in no figure of one.
    if (out.what.area > 0) out.worth = std::max(out.worth, 0.02);
    // What masks hide is spared where they do.
    if (out.what.code.starts_with("skip-unseen") && out.then.cost.spared.operations > before.cost.spared.operations && out.operations <= 0)
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
        {"block-format",
         "A map is compressed to a block format that the target reads, by what is read of it: one, two, three or four channels."},
        {"smaller-map", "A map at half its size."},
        {"constant-channel", "A value in the place of a map's channel that is the same all over."},
        {"pack-maps", "Maps of which single channels are read in the same place become one."},
        {"share-samplers", "Maps with the same pixels, or parameters that nobody gives different maps, are read once."},
        {"procedural-to-map", "What cards give over the UVs becomes a map."},
        {"normal-from-map", "A normal map in the place of a normal that is made of neighbouring heights."},
        {"map-to-procedural", "The cards in the place of a map that was made of them."},
        {"decal-depth", "The box of a decal only as deep as what is seen in it."},
        {"merge-chain", "Cards that scale and move a value one after the other become one factor and one summand."},
        {"per-placement", "What reads the place of each pixel reads that of the object."},
        {"drop-channel", "A channel that is the same everywhere, or has no effect, is not computed."},
        {"idle-layer", "A layer of the surface whose weight is nothing everywhere goes."},
    };
    return all;
}

std::vector<Proposed> proposed(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs, TriedMaps* maps) {
    return Rules(project, worn, target, inputs, maps).run();
}

std::vector<Id> usersOf(const Project& project, const Id& master) {
    std::vector<Id> out;
    for (const Id& id : shippedOf(project))
        if (const Master* m = project.masterOf(id); m && m->id == master) out.push_back(id);
    return out;
}

std::vector<Id> lookedAt(const Project& project, const Id& worn, size_t most) {
    std::vector<Id> out{worn};
    const Master* master = project.masterOf(worn);
    std::vector<Id> users = master ? usersOf(project, master->id) : std::vector<Id>{};
    std::stable_partition(users.begin(), users.end(), [&](const Id& id) { return !wearersOf(project, id).empty(); });
    for (const Id& id : users)
        if (out.size() < most && id != worn) out.push_back(id);
    return out;
}

namespace {

/// Of cards in a row that are replaced for the same saving, the last alone: what comes before it is gone with it.
void keepLastOfRows(std::vector<Suggestion>& all, const Master& master) {
    const auto sameSaving = [](const Suggestion& a, const Suggestion& b) {
        const std::string rule = a.what.code.substr(0, a.what.code.find(':'));
        return (rule == "constant" || rule == "procedural-to-map") && b.what.code.starts_with(rule + ":") && a.operations == b.operations &&
               a.vertexOperations == b.vertexOperations && a.fetches == b.fetches && a.samplers == b.samplers && a.megabytes == b.megabytes;
    };
    std::vector<char> gone(all.size());
    for (size_t a = 0; a < all.size(); ++a)
        for (size_t b = 0; b < all.size(); ++b)
            if (a != b && sameSaving(all[a], all[b]) && leadsTo(master.graph, all[a].what.card, all[b].what.card)) gone[a] = 1;
    std::vector<Suggestion> left;
    for (size_t k = 0; k < all.size(); ++k)
        if (!gone[k]) left.push_back(std::move(all[k]));
    all = std::move(left);
}

std::vector<Suggestion> suggestionsBut(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                                       const FrameInputs& inputs, const std::set<Id>& locked, const Work& work, TriedMaps* maps) {
    const Verdict before = verdictOf(project, worn, target, bytes(project));
    std::vector<Proposed> all = proposed(project, worn, target, inputs, maps);
    std::vector<std::optional<Suggestion>> each(all.size());
    std::atomic<size_t> done = 0;
    inBands(all.size(), 1, work.threads, [&](size_t first, size_t last) {
        for (size_t k = first; k < last && !work.stopped(); ++k) {
            each[k] = tried(project, std::move(all[k]), before, target, bytes, locked);
            if (work.progress) work.progress(float(++done) / float(each.size()));
        }
    });
    std::vector<Suggestion> out;
    for (auto& s : each)
        if (s && s->worth > 1e-6) out.push_back(std::move(*s));
    std::stable_sort(out.begin(), out.end(), [](const Suggestion& a, const Suggestion& b) { return a.worth > b.worth; });
    if (const Master* master = project.masterOf(worn)) keepLastOfRows(out, *master);
    return out;
}

} // namespace

std::vector<Suggestion> suggestionsFor(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                                       const FrameInputs& inputs, const Work& work, TriedMaps* maps) {
    return suggestionsBut(project, worn, target, bytes, inputs, {}, work, maps);
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
    say(s.samplers, "sampler", "samplers", 0);
    say(s.megabytes, "MB", "MB", 2);
    say(s.vertexOperations, "operation per vertex", "operations per vertex", 0);
    if (const int spared = s.then.cost.spared.operations - s.before.cost.spared.operations;
        spared > 0 && s.what.code.starts_with("skip-unseen"))
        less.push_back(fmt::format("up to {} operations where it hides", spared));
    if (s.what.area > 0) less.push_back(fmt::format("{:.3g} square metres of decal that nobody sees", s.what.area));
    std::string out = less.empty() ? "nothing that is counted" : fmt::format("{}", fmt::join(less, ", "));
    if (!more.empty()) out += fmt::format(", for {}", fmt::join(more, ", "));
    return out;
}

Fit fitToTarget(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                const std::function<FrameInputs(const Project&, const Resolved&)>& inputs,
                const std::function<Result<double>(const Project&)>& difference, const std::set<Id>& locked, const Work& work,
                TriedMaps* maps) {
    Fit out;
    auto now = std::make_shared<const Project>(project);
    Verdict verdict = verdictOf(*now, worn, target, bytes(*now));
    out.steps.push_back({"as it is", {}, now, verdict, 0});
    constexpr size_t kLooked = 6, kMostSteps = 40; // candidates whose look is compared; steps
    while (!verdict.fits() && out.steps.size() < kMostSteps && !work.stopped()) {
        const Resolved resolved = resolve(*now, worn);
        std::vector<Suggestion> all =
            suggestionsBut(*now, worn, target, bytes, inputs(*now, resolved), locked, {work.threads, work.cancelled, {}}, maps);
        std::erase_if(all, [](const Suggestion& s) { return !s.fitsMore; });
        // Those that help most towards the limits are looked at; of these the one that shows least for what it brings is taken.
        std::stable_sort(all.begin(), all.end(), [](const Suggestion& a, const Suggestion& b) { return beyond(a.then) < beyond(b.then); });
        if (all.size() > kLooked) all.resize(kLooked);
        const Suggestion* best = nullptr;
        double least = 0, seen = 0;
        for (const Suggestion& s : all) {
            if (work.stopped()) break;
            const Result<double> far = difference(*s.after);
            ++out.tried;
            if (!far) {
                out.problem = far.error().sentence;
                continue;
            }
            const double gain = beyond(verdict) - beyond(s.then), price = (*far + 0.01) / std::max(gain, 1e-6);
            if (!best || price < least) best = &s, least = price, seen = *far;
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
