#include "cli/suggest_command.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/files.h"
#include "core/budget/map_memory.h"
#include "core/measure/measurements.h"
#include "core/project/frame_inputs.h"
#include "core/suggest/suggest.h"
#include "preview/worn_pictures.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

namespace hue::cli {
namespace {

struct SuggestOptions {
    std::string project, of, target = "console", out;
    std::vector<std::string> keep, families;
    int most = 10;
    bool json = false, blind = false, measure = false;
};

/// Opened project, what is looked at, target.
struct Asked {
    std::shared_ptr<Opened> opened;
    Id worn;
    Target target;
    std::shared_ptr<TriedMaps> maps;
    BytesIn bytes() const {
        return [assets = &opened->assets](const Project& state) { return mapBytesFor(state, *assets); };
    }
};

Result<Asked> ask(const SuggestOptions& o) {
    Asked out;
    Options project;
    project.project = o.project;
    auto opened = open(project);
    if (!opened) return opened.error();
    out.opened = *opened;
    const Result<Id> worn = find(out.opened->project, o.of);
    if (!worn) return worn.error();
    out.worn = *worn;
    const Result<Target> target = findTarget(o.target);
    if (!target) return target.error();
    out.target = *target;
    out.maps = std::make_shared<TriedMaps>(out.opened->assets);
    return out;
}

Result<LooksApart> looksOf(const Asked& asked) {
    asked.opened->assets.setView(MapLibrary::View::Compressed);
    return LooksApart::start(asked.opened->project, asked.opened->assets, lookedAt(asked.opened->project, asked.worn), 192);
}

/// A saving, how much is seen of it and on whom, and instructions that it saves by family.
struct Seen {
    Suggestion what;
    std::optional<LooksApart::Apart> apart;
    std::string problem; ///< why there is no picture
    std::vector<std::pair<std::string_view, Result<double>>> saved{};
};

/// What families' compilers say of all of them, each family asked once.
void measureAll(std::vector<Seen>& all, const Asked& asked, const std::vector<Family>& on) {
    const auto material = [&](const Project& p) {
        const Resolved r = resolve(p, asked.worn);
        return Material{compileSurface(p, *r.master), r.surface.alphaMode};
    };
    std::vector<Material> materials{material(asked.opened->project)};
    for (const Seen& s : all) materials.push_back(material(*s.what.after));
    Measurements measurements;
    for (const Family& family : on) {
        const std::vector<Result<Reading>> readings = readingsOf(measurements, materials, family);
        for (size_t k = 0; k < all.size(); ++k) {
            const Result<Reading>&before = readings[0], &after = readings[k + 1];
            all[k].saved.emplace_back(family.key, !before  ? Result<double>(before.error())
                                                  : !after ? Result<double>(after.error())
                                                           : before->pixel(kInstructions) - after->pixel(kInstructions));
        }
    }
}

int suggest(const SuggestOptions& o) {
    const Result<Asked> asked = ask(o);
    if (!asked) return fail(asked.error());
    std::vector<Family> on;
    for (const std::string& key : o.families) {
        const Result<Family> family = findFamily(key);
        if (!family) return fail(family.error());
        on.push_back(*family);
    }
    if (on.empty() && o.measure) on.assign(families().begin(), families().end());
    if (!on.empty())
        if (const std::string why = whyNotMeasured(); !why.empty()) return fail({"measure.no-driver", why, {}});
    const Project& p = asked->opened->project;
    const Resolved resolved = resolve(p, asked->worn);
    std::vector<Suggestion> all = suggestionsFor(p, asked->worn, asked->target, asked->bytes(),
                                                 frameInputs(p, asked->opened->assets, resolved, 0), {}, asked->maps.get());
    std::optional<Result<LooksApart>> looks;
    if (!o.blind && !all.empty()) {
        // Of those that save most, as many more as leave a choice.
        if (o.most > 0 && all.size() > size_t(2 * o.most)) all.resize(size_t(2 * o.most));
        looks.emplace(looksOf(*asked));
        if (!*looks) return fail(looks->error());
    }
    std::vector<Seen> seen;
    for (Suggestion& s : all) {
        Seen one{std::move(s), {}, {}};
        if (looks) {
            Result<LooksApart::Apart> apart = (**looks).of(*one.what.after);
            if (apart) one.apart = std::move(*apart);
            else one.problem = apart.error().sentence;
        }
        seen.push_back(std::move(one));
    }
    const auto rank = [](const Seen& s) { return rankOf(s.what, s.apart ? double(s.apart->by.mean) : 0.); };
    std::stable_sort(seen.begin(), seen.end(), [&](const Seen& x, const Seen& y) { return rank(x) > rank(y); });
    if (o.most > 0 && seen.size() > size_t(o.most)) seen.resize(size_t(o.most));
    measureAll(seen, *asked, on);
    Json list = Json::array();
    for (const Seen& one : seen) {
        const Suggestion& s = one.what;
        Json entry{{"code", s.what.code},      {"title", s.what.title},  {"operations", s.operations},
                   {"fetches", s.fetches},     {"samplers", s.samplers}, {"vertexOperations", s.vertexOperations},
                   {"megabytes", s.megabytes}, {"fitsMore", s.fitsMore}};
        std::string words = fmt::format("{}: saves {}", s.what.title, savingWords(s));
        if (one.apart) {
            const std::string whom = p.nameOf((**looks).first()[one.apart->which].worn);
            entry["ciede2000"] = one.apart->by.mean, entry["flip"] = one.apart->by.flip, entry["seenOn"] = whom;
            words += fmt::format("; seen {:.2f}{}", one.apart->by.mean, one.apart->which ? " on " + whom : "");
        } else if (!one.problem.empty()) {
            entry["problem"] = one.problem;
            words += "; not drawn: " + one.problem;
        }
        for (const auto& [family, saved] : one.saved) {
            entry["instructions"][std::string(family)] = saved ? Json(*saved) : Json(saved.error().sentence);
            words += saved ? fmt::format("; {} {} instructions", family, *saved) : fmt::format("; {}: {}", family, saved.error().sentence);
        }
        if (s.fitsMore) words += "; nearer to the target";
        list.push_back(std::move(entry));
        if (!o.json) print(words);
    }
    if (o.json) print(list);
    else if (seen.empty()) print(std::string("Nothing was found that saves something."));
    return 0;
}

int fit(const SuggestOptions& o) {
    const Result<Asked> asked = ask(o);
    if (!asked) return fail(asked.error());
    const Project& p = asked->opened->project;
    Result<LooksApart> looks = looksOf(*asked);
    if (!looks) return fail(looks.error());
    const Fit way = fitToTarget(
        p, asked->worn, asked->target, asked->bytes(),
        [&](const Project& state, const Resolved& resolved) { return frameInputs(state, asked->opened->assets, resolved, 0); },
        [&](const Project& state) -> Result<double> {
            const auto seen = looks->of(state);
            return seen ? Result<double>(double(seen->by.mean)) : Result<double>(seen.error());
        },
        {o.keep.begin(), o.keep.end()}, {}, asked->maps.get());
    Json steps = Json::array();
    for (const FitStep& s : way.steps) {
        steps.push_back({{"title", s.title},
                         {"code", s.code},
                         {"operations", s.verdict.cost.operationsPerPixel()},
                         {"fetches", s.verdict.cost.fetches},
                         {"megabytes", double(s.verdict.cost.mapBytes) / 1e6},
                         {"ciede2000", s.difference}});
        if (!o.json)
            print(fmt::format("{}: {} operations, {} fetches, {:.2f} MB; seen {:.2f}", s.title, s.verdict.cost.operationsPerPixel(),
                              s.verdict.cost.fetches, double(s.verdict.cost.mapBytes) / 1e6, s.difference));
    }
    if (o.json) {
        Json out{{"fits", way.fits}, {"tried", way.tried}, {"steps", std::move(steps)}};
        if (!way.problem.empty()) out["problem"] = way.problem;
        print(out);
    } else {
        print(way.fits ? fmt::format("It fits {}.", asked->target.name)
                       : fmt::format("It does not fit {}: nothing is left that helps.", asked->target.name));
        if (!way.problem.empty()) print("Some ways could not be drawn and were left out: " + way.problem);
    }
    if (!o.out.empty()) {
        const Result<Project> kept = asked->maps->kept(*way.steps.back().state);
        if (!kept) return fail(kept.error());
        if (const Outcome written = writeFile(o.out, projectText(*kept)); !written) return fail(written.error());
    }
    return way.fits ? 0 : 1;
}

} // namespace

void addSuggestCommands(CLI::App& app, int& code) {
    static SuggestOptions o;
    const auto common = [&](const char* name, const char* help) {
        CLI::App* c = app.add_subcommand(name, help);
        c->add_option("PROJECT", o.project, "The .huestack file")->required();
        c->add_option("--of", o.of, "A master, or Master/Instance")->required();
        c->add_option("--target", o.target, "As of budget")->capture_default_str();
        c->add_flag("--json", o.json, "Print JSON");
        return c;
    };
    CLI::App* c = common("suggest", "Ways to make it cheaper, each tried: what it saves, and how much is seen of it (CIEDE2000, mean)");
    c->add_option("--most", o.most, "How many; 0: all")->capture_default_str()->check(CLI::Range(0, 1000));
    c->add_flag("--blind", o.blind, "Draw no pictures");
    c->add_flag("--measure", o.measure, "Instructions that each saves on families of graphics cards, as their compiler says");
    c->add_option("--family", o.families, "Only on this one; may be given again");
    c->callback([&code] { code = suggest(o); });
    c = common("fit", "Takes suggestions until it fits the target, the least seen first; exit 1 where it does not come to fit");
    c->add_option("--keep", o.keep, "A card's id that stays as it is, beside those that are locked; may be given again");
    c->add_option("--out", o.out, "FILE.huestack: the project with these steps");
    c->callback([&code] { code = fit(o); });
}

} // namespace hue::cli
