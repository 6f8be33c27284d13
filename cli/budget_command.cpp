#include "cli/budget_command.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/files.h"
#include "core/budget/history.h"
#include "core/budget/ledger.h"
#include "core/budget/map_memory.h"
#include "core/budget/target.h"
#include "core/budget/verdict.h"
#include "core/measure/marginal.h"
#include "core/picture/picture_cost.h"
#include "core/project/frame_inputs.h"

#include <CLI/CLI.hpp>
#include <ctime>
#include <fmt/chrono.h>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

struct BudgetOptions {
    std::string project, target = "console", junit, note, picture;
    std::vector<std::string> of, families;
    bool json = false, list = false, measure = false, cards = false, record = false;
};

Json jsonOf(const std::vector<Against>& limits) {
    Json out = Json::object();
    for (const Against& a : limits) out[std::string(a.def->key)] = Json{{"figure", a.figure}, {"limit", a.limit}, {"over", a.over()}};
    return out;
}

std::string escaped(const std::string& s) {
    std::string out;
    for (const char c : s) out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '"' ? "&quot;" : std::string(1, c);
    return out;
}

/// A test case for everything that is held against the target, as servers of continuous integration read them.
std::string junitOf(const Target& target, const std::vector<std::pair<std::string, std::vector<std::string>>>& cases) {
    const auto failures = std::count_if(cases.begin(), cases.end(), [](const auto& c) { return !c.second.empty(); });
    std::string out =
        fmt::format("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuite name=\"budget: {}\" tests=\"{}\" failures=\"{}\">\n",
                    escaped(target.name), cases.size(), failures);
    for (const auto& [name, over] : cases) {
        out += fmt::format("  <testcase classname=\"budget\" name=\"{}\"", escaped(name));
        out += over.empty()
                   ? "/>\n"
                   : fmt::format(">\n    <failure message=\"{}\"/>\n  </testcase>\n", escaped(fmt::format("{}", fmt::join(over, "; "))));
    }
    return out + "</testsuite>\n";
}

Json figuresOf(const StageFigures* stage) { return stage ? Json(stage->figures) : Json::object(); }

/// What a family's compiler made of it: figures under the driver's names, of the whole and of what any material costs.
Json jsonOf(const Measured& m) {
    return {{"pixel", figuresOf(m.whole.stage("Fragment"))},
            {"vertex", figuresOf(m.whole.stage("Vertex"))},
            {"barePixel", figuresOf(m.bare.stage("Fragment"))},
            {"bareVertex", figuresOf(m.bare.stage("Vertex"))}};
}

std::string measuredWords(const Family& family, const Measured& m) {
    return fmt::format("  {}: {:.0f} instructions per pixel ({:.0f} with fixed costs), {:.0f} vector registers, {:.0f} subgroups a SIMD, "
                       "{:.0f} cycles apart",
                       family.key, m.pixel(kInstructions), m.whole.pixel(kInstructions), m.whole.pixel(kVectorRegisters),
                       m.whole.pixel(kOccupancy), m.pixel(kThroughput));
}

Json jsonOf(const LedgerRow& row) {
    static constexpr const char* kinds[] = {"stage", "bay", "card", "within", "rest"};
    Json rows = Json::array();
    for (const LedgerRow& r : row.rows) rows.push_back(jsonOf(r));
    Json out{{"is", kinds[size_t(row.is)]}, {"title", row.title}, {"operations", row.operations}, {"fetches", row.fetches}};
    if (!row.id.empty()) out["id"] = row.id;
    if (!row.board.empty()) out["board"] = row.board;
    if (!rows.empty()) out["rows"] = std::move(rows);
    return out;
}

void printRow(const LedgerRow& row, int depth, const std::map<Id, std::string>& rests) {
    const auto rest = row.is == LedgerRow::Is::Card ? rests.find(row.id) : rests.end();
    print(fmt::format("{:{}}{}: {:.4g} {}{}{}", "", 2 * depth, row.title, row.operations, row.operations == 1 ? "operation" : "operations",
                      row.fetches > 0 ? fmt::format(", {:.4g} {}", row.fetches, row.fetches == 1 ? "fetch" : "fetches") : "",
                      rest == rests.end() ? "" : "; " + rest->second));
    for (const LedgerRow& r : row.rows) printRow(r, depth + 1, rests);
}

/// Where the cost of one goes; with `family` also what is saved when a card is taken out.
Result<Json> ledger(Opened& opened, const Id& worn, const std::optional<Family>& family, Measurements& measurements, bool json) {
    const Project& p = opened.project;
    const Ledger its = ledgerOf(p, worn);
    std::map<Id, std::string> words;
    Json rests = Json::object();
    if (family) {
        const Resolved resolved = resolve(p, worn);
        const Compilation compiled = compileSurface(p, *resolved.master);
        const auto whole = measured(measurements, compiled, resolved.surface.alphaMode, {&*family, 1});
        if (!whole[0]) return whole[0].error();
        for (const Marginal& m :
             marginalsOf(measurements, compiled, resolved.surface.alphaMode, frameInputs(p, opened.assets, resolved, 0), *family)) {
            if (!m.without) return m.without.error();
            const double instructions = whole[0]->whole.pixel(kInstructions) - m.without->pixel(kInstructions),
                         cycles = whole[0]->whole.pixel(kThroughput) - m.without->pixel(kThroughput);
            words[m.card] = fmt::format("without it {:.0f} instructions and {:.0f} cycles less", instructions, cycles);
            rests[m.card] = {{kInstructions, instructions}, {kThroughput, cycles}};
        }
    }
    Json stages = Json::array();
    for (const LedgerRow& row : its.stages) {
        if (!json) printRow(row, 1, words);
        stages.push_back(jsonOf(row));
    }
    Json channels = Json::object();
    for (const auto& [key, share] : its.channels)
        channels[key.empty() ? "other" : key] = {{"operations", share.pixel()}, {"fetches", share.fetches}};
    if (!json)
        print(fmt::format(
            "  of the operations {} run at full rate, {} at a quarter, {} through the unit for such functions; {} numbers wait at once",
            its.kinds.full, its.kinds.quarter, its.kinds.transcendental, its.liveNumbers));
    Json out{{"stages", std::move(stages)},
             {"channels", std::move(channels)},
             {"fullRate", its.kinds.full},
             {"quarterRate", its.kinds.quarter},
             {"transcendental", its.kinds.transcendental},
             {"waitingNumbers", its.liveNumbers}};
    if (family) out["without"] = std::move(rests);
    return out;
}

int listTargets() {
    for (const Target& t : shippedTargets()) {
        print(fmt::format("{}: {}. {}", t.key, t.name, t.about));
        for (const LimitDef& d : limitDefs())
            if (const float limit = t.limits.*d.limit; limit > 0)
                print(fmt::format("  {} {}{}{}", d.name, limit, d.unit.empty() ? "" : " ", d.unit));
    }
    return 0;
}

/// What the lineup's picture costs, by specimen and slot.
Json pictureJson(const Project& p, const std::vector<ShadedSlot>& slots, const Overdrawn& most, int width, int height) {
    Json rows = Json::array();
    for (const ShadedSlot& s : slots)
        rows.push_back(Json{{"specimen", s.specimen + 1},
                            {"slot", s.slot + 1},
                            {"of", p.nameOf(s.worn)},
                            {"covered", s.covered},
                            {"shaded", s.shaded},
                            {"overdraw", s.overdraw()},
                            {"operations", s.allOperations()},
                            {"fetches", s.allFetches()}});
    Json out{{"width", width}, {"height", height}, {"slots", std::move(rows)}};
    if (most.slot) out["overdraw"] = Json{{"figure", most.against.figure}, {"limit", most.against.limit}, {"over", most.against.over()}};
    return out;
}

void printPicture(const Project& p, const std::vector<ShadedSlot>& slots, const Overdrawn& most) {
    for (const ShadedSlot& s : slots)
        print(fmt::format(
            "specimen {}, slot {}, {}: {} pixels, computed {:.2f} times each: {:.2f} million operations, {:.2f} million fetches",
            s.specimen + 1, s.slot + 1, s.worn.empty() ? "nothing" : p.nameOf(s.worn), s.covered, s.overdraw(), s.allOperations() / 1e6,
            s.allFetches() / 1e6));
    if (most.slot)
        print(fmt::format("most of {}: {}{}", most.against.words(), p.nameOf(most.slot->worn), most.against.over() ? ", over" : ""));
}

int budget(const BudgetOptions& o) {
    if (o.list) return listTargets();
    if (o.project.empty()) return fail("Name a .huestack file, or ask for --targets.");
    const Result<Target> target = findTarget(o.target);
    if (!target) return fail(target.error());
    Options project;
    project.project = o.project;
    const auto opened = open(project);
    if (!opened) return fail(opened.error());
    const Project& p = (*opened)->project;
    std::vector<Id> of;
    for (const std::string& name : o.of) {
        const Result<Id> id = find(p, name);
        if (!id) return fail(id.error());
        of.push_back(*id);
    }
    std::vector<Family> on;
    for (const std::string& key : o.families) {
        const Result<Family> family = findFamily(key);
        if (!family) return fail(family.error());
        on.push_back(*family);
    }
    if (o.measure)
        if (const std::string why = whyNotMeasured(); !why.empty()) return fail(why);
    if (on.empty()) on.assign(families().begin(), families().end());
    std::optional<std::pair<int, int>> size;
    if (!o.picture.empty()) {
        const auto asked = pictureSize(o.picture);
        if (!asked) return fail(asked.error());
        size = *asked;
    }
    Measurements measurements;
    const ProjectVerdict all = verdictOf(p, *target, mapBytesFor(p, (*opened)->assets), of);
    std::vector<std::pair<std::string, std::vector<std::string>>> cases;
    const auto over = [](const std::vector<Against>& limits) {
        std::vector<std::string> out;
        for (const Against& a : limits)
            if (a.over()) out.push_back(a.words());
        return out;
    };
    Json worn = Json::array(), builds = Json::array();
    for (const Verdict& v : all.worn) {
        std::vector<std::string> beyond = over(v.limits);
        for (const std::string& map : v.badFormats) beyond.push_back(fmt::format("the map {} is in a format that it does not read", map));
        cases.emplace_back(p.nameOf(v.worn), beyond);
        worn.push_back(
            Json{{"of", p.nameOf(v.worn)}, {"fits", v.fits()}, {"limits", jsonOf(v.limits)}, {"mapsInOtherFormats", v.badFormats}});
        const Resolved resolved = resolve(p, v.worn);
        std::vector<std::string> lines;
        if (o.measure && resolved.master) {
            const auto figures = measured(measurements, compileSurface(p, *resolved.master), resolved.surface.alphaMode, on);
            for (size_t k = 0; k < on.size(); ++k) {
                if (!figures[k]) return fail(figures[k].error());
                worn.back()["measured"][std::string(on[k].key)] = jsonOf(*figures[k]);
                lines.push_back(measuredWords(on[k], *figures[k]));
            }
        }
        if (!o.json) {
            if (!beyond.empty()) print(fmt::format("{} is over: {}", cases.back().first, fmt::join(beyond, "; ")));
            else if (const Against* most = v.worst()) print(fmt::format("{} fits; most of {}", cases.back().first, most->words()));
            else print(fmt::format("{} fits", cases.back().first));
            for (const std::string& line : lines) print(line);
        }
        if (o.cards) {
            const auto rows = ledger(**opened, v.worn, o.measure ? std::optional(on.back()) : std::nullopt, measurements, o.json);
            if (!rows) return fail(rows.error());
            worn.back()["ledger"] = *rows;
        }
    }
    for (size_t k = 0; k < all.builds.size(); ++k) {
        const std::string name = p.nameOf(all.masters[k]);
        cases.emplace_back(name + ": builds", over({all.builds[k]}));
        builds.push_back(
            Json{{"of", name}, {"figure", all.builds[k].figure}, {"limit", all.builds[k].limit}, {"over", all.builds[k].over()}});
        if (!o.json && all.builds[k].over()) print(fmt::format("{} is over: {}", name, all.builds[k].words()));
    }
    cases.emplace_back("map memory of the project", over({all.memory}));
    std::vector<ShadedSlot> shaded;
    Overdrawn most;
    if (size) {
        LookCache looks;
        auto counted = pictureCost(p, (*opened)->assets, looks, size->first, size->second);
        if (!counted) return fail(counted.error());
        shaded = std::move(*counted);
        most = mostOverdrawn(shaded, *target);
        if (most.slot) cases.emplace_back("overdraw of the lineup", over({most.against}));
    }
    const bool fits = all.fits() && !(most.slot && most.against.over());
    if (o.json) {
        Json out{{"target", target->key},
                 {"fits", fits},
                 {"worn", worn},
                 {"builds", builds},
                 {"projectMegabytes", Json{{"figure", all.memory.figure}, {"limit", all.memory.limit}, {"over", all.memory.over()}}}};
        if (size) out["picture"] = pictureJson(p, shaded, most, size->first, size->second);
        print(out);
    } else {
        printPicture(p, shaded, most);
    }
    if (!o.json) print(fmt::format("{}{}", all.memory.words(), all.memory.over() ? ": over" : ""));
    if (o.record) {
        const std::time_t now = std::time(nullptr);
        if (const Outcome written =
                appendRecord(historyFile(o.project), recordOf(p, all, fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(now)), o.note));
            !written)
            return fail(written.error());
    }
    if (!o.junit.empty())
        if (const Outcome written = writeFile(o.junit, junitOf(*target, cases)); !written) return fail(written.error());
    return fits ? 0 : 1;
}

} // namespace

void addBudgetCommand(CLI::App& app, int& code) {
    static BudgetOptions o;
    CLI::App* c = app.add_subcommand("budget", "What is worn against the limits of a target; exit 1 over one of them");
    c->add_option("PROJECT", o.project, "The .huestack file");
    c->add_option("--of", o.of, "A master, or Master/Instance; may be given again. Without it everything that is in use");
    c->add_option("--target", o.target, "handheld, headset, console, desktop, or a target's file that ends with .json")
        ->capture_default_str();
    c->add_flag("--measure", o.measure, "Ask a graphics card's compiler as well, without a card; figures stand under the driver's names");
    c->add_option("--family", o.families, "Of cards to measure on: polaris10, vega10, navi10, navi21; may be given again. Without it all");
    c->add_flag("--cards", o.cards,
                "Where the cost goes, by stage, bay and card; with --measure what would be saved without each, on the last family");
    c->add_option(
        "--picture", o.picture,
        "1920x1080 and the like: what a picture of each specimen costs there, pixels that are computed several times included; the "
        "target's overdraw counts as well");
    c->add_flag("--targets", o.list, "List the targets that come along, with their limits");
    c->add_flag("--json", o.json, "Print JSON");
    c->add_flag("--record", o.record, "Add what everything costs now to NAME.budget.jsonl beside the project");
    c->add_option("--note", o.note, "With --record: what is said about it, such as a revision")->needs("--record");
    c->add_option("--junit", o.junit, "FILE.xml: a test case for everything that is held against the target");
    c->callback([&code] { code = budget(o); });
}

} // namespace hue::cli
