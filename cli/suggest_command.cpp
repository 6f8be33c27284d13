#include "cli/suggest_command.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/files.h"
#include "core/budget/map_memory.h"
#include "core/project/frame_inputs.h"
#include "core/suggest/suggest.h"
#include "preview/worn_pictures.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

namespace hue::cli {
namespace {

struct SuggestOptions {
    std::string project, of, target = "console", out;
    std::vector<std::string> keep;
    int most = 10;
    bool json = false, blind = false;
};

/// Opened project, what is looked at, target.
struct Asked {
    std::shared_ptr<Opened> opened;
    Id worn;
    Target target;
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
    return out;
}

Result<LooksApart> looksOf(const Asked& asked) {
    asked.opened->assets.setView(MapLibrary::View::Compressed);
    return LooksApart::start(asked.opened->project, asked.opened->assets, asked.worn, 192);
}

int suggest(const SuggestOptions& o) {
    const Result<Asked> asked = ask(o);
    if (!asked) return fail(asked.error());
    const Project& p = asked->opened->project;
    const Resolved resolved = resolve(p, asked->worn);
    std::vector<Suggestion> all =
        suggestionsFor(p, asked->worn, asked->target, asked->bytes(), frameInputs(p, asked->opened->assets, resolved, 0));
    std::optional<Result<LooksApart>> looks;
    if (!o.blind && !all.empty()) {
        // Of those that save most, as many more as leave a choice.
        if (o.most > 0 && all.size() > size_t(2 * o.most)) all.resize(size_t(2 * o.most));
        looks.emplace(looksOf(*asked));
        if (!*looks) return fail(looks->error());
    }
    std::vector<std::pair<Suggestion, std::optional<Comparison>>> seen;
    for (Suggestion& s : all) {
        std::optional<Comparison> apart = looks ? (**looks).of(*s.after) : std::nullopt;
        seen.emplace_back(std::move(s), std::move(apart));
    }
    const auto rank = [](const auto& s) { return rankOf(s.first, s.second ? double(s.second->mean) : 0.); };
    std::stable_sort(seen.begin(), seen.end(), [&](const auto& x, const auto& y) { return rank(x) > rank(y); });
    if (o.most > 0 && seen.size() > size_t(o.most)) seen.resize(size_t(o.most));
    Json list = Json::array();
    for (const auto& [s, apart] : seen) {
        Json entry{{"code", s.what.code},
                   {"title", s.what.title},
                   {"operations", s.operations},
                   {"fetches", s.fetches},
                   {"vertexOperations", s.vertexOperations},
                   {"megabytes", s.megabytes},
                   {"fitsMore", s.fitsMore}};
        if (apart) entry["ciede2000"] = apart->mean, entry["flip"] = apart->flip;
        list.push_back(std::move(entry));
        if (!o.json)
            print(fmt::format("{}: saves {}{}{}", s.what.title, savingWords(s), apart ? fmt::format("; seen {:.2f}", apart->mean) : "",
                              s.fitsMore ? "; nearer to the target" : ""));
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
        [&](const Project& state) {
            const auto seen = looks->of(state);
            return seen ? double(seen->mean) : 100.;
        },
        {o.keep.begin(), o.keep.end()});
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
    if (o.json) print(Json{{"fits", way.fits}, {"tried", way.tried}, {"steps", std::move(steps)}});
    else
        print(way.fits ? fmt::format("It fits {}.", asked->target.name)
                       : fmt::format("It does not fit {}: nothing is left that helps.", asked->target.name));
    if (!o.out.empty())
        if (const Outcome written = writeFile(o.out, projectText(*way.steps.back().state)); !written) return fail(written.error());
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
    c->callback([&code] { code = suggest(o); });
    c = common("fit", "Takes suggestions until it fits the target, the least seen first; exit 1 where it does not come to fit");
    c->add_option("--keep", o.keep, "A card's id that stays as it is; may be given again");
    c->add_option("--out", o.out, "FILE.huestack: the project with these steps");
    c->callback([&code] { code = fit(o); });
}

} // namespace hue::cli
