#include "cli/budget_command.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/files.h"
#include "core/budget/map_memory.h"
#include "core/budget/target.h"
#include "core/budget/verdict.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

struct BudgetOptions {
    std::string project, target = "console", junit;
    std::vector<std::string> of;
    bool json = false, list = false;
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

int listTargets() {
    for (const Target& t : shippedTargets()) {
        print(fmt::format("{}: {}. {}", t.key, t.name, t.about));
        for (const LimitDef& d : limitDefs())
            if (const float limit = t.limits.*d.limit; limit > 0)
                print(fmt::format("  {} {}{}{}", d.name, limit, d.unit.empty() ? "" : " ", d.unit));
    }
    return 0;
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
        if (o.json) continue;
        if (!beyond.empty()) print(fmt::format("{} is over: {}", cases.back().first, fmt::join(beyond, "; ")));
        else if (const Against* most = v.worst()) print(fmt::format("{} fits; most of {}", cases.back().first, most->words()));
        else print(fmt::format("{} fits", cases.back().first));
    }
    for (size_t k = 0; k < all.builds.size(); ++k) {
        const std::string name = p.nameOf(all.masters[k]);
        cases.emplace_back(name + ": builds", over({all.builds[k]}));
        builds.push_back(
            Json{{"of", name}, {"figure", all.builds[k].figure}, {"limit", all.builds[k].limit}, {"over", all.builds[k].over()}});
        if (!o.json && all.builds[k].over()) print(fmt::format("{} is over: {}", name, all.builds[k].words()));
    }
    cases.emplace_back("map memory of the project", over({all.memory}));
    if (o.json)
        print(Json{{"target", target->key},
                   {"fits", all.fits()},
                   {"worn", worn},
                   {"builds", builds},
                   {"projectMegabytes", Json{{"figure", all.memory.figure}, {"limit", all.memory.limit}, {"over", all.memory.over()}}}});
    else print(fmt::format("{}{}", all.memory.words(), all.memory.over() ? ": over" : ""));
    if (!o.junit.empty())
        if (const Outcome written = writeFile(o.junit, junitOf(*target, cases)); !written) return fail(written.error());
    return all.fits() ? 0 : 1;
}

} // namespace

void addBudgetCommand(CLI::App& app, int& code) {
    static BudgetOptions o;
    CLI::App* c = app.add_subcommand("budget", "What is worn against the limits of a target; exit 1 over one of them");
    c->add_option("PROJECT", o.project, "The .huestack file");
    c->add_option("--of", o.of, "A master, or Master/Instance; may be given again. Without it everything that is in use");
    c->add_option("--target", o.target, "handheld, headset, console, desktop, or a target's file that ends with .json")
        ->capture_default_str();
    c->add_flag("--targets", o.list, "List the targets that come along, with their limits");
    c->add_flag("--json", o.json, "Print JSON");
    c->add_option("--junit", o.junit, "FILE.xml: a test case for everything that is held against the target");
    c->callback([&code] { code = budget(o); });
}

} // namespace hue::cli
