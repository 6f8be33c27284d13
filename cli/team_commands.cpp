// What differs between two files of a project, and two brought together, as version control asks for it. Only the files that are named
// are looked at, which may lie anywhere and be called anything.
#include "cli/team_commands.h"

#include "cli/output.h"
#include "core/base/files.h"
#include "core/check/check.h"
#include "core/project/merge.h"
#include "core/project/store.h"

#include <CLI/CLI.hpp>
#include <algorithm>
#include <fmt/format.h>
#include <fstream>
#include <optional>
#include <sstream>

namespace hue::cli {
namespace {

namespace fs = std::filesystem;

struct TeamOptions {
    std::string base, first, second, out;
    bool json = false;
};

Result<Loaded> projectIn(const std::string& file) {
    const auto unreadable = [&](const std::string& why) {
        return Error{"project.unreadable", fmt::format("{} {}. Name a project file.", file, why), {}};
    };
    if (const std::string why = whyUnreadable(file); !why.empty()) return unreadable(why);
    std::ifstream in(file, std::ios::binary);
    std::ostringstream text;
    text << in.rdbuf();
    if (!in) return unreadable("could not be read to its end");
    return parseProject(text.str(), file);
}

std::string_view nameOf(Difference::How how) {
    static constexpr std::string_view names[] = {"added", "removed", "changed"};
    return names[int(how)];
}

int diff(const TeamOptions& o) {
    const Result<Loaded> from = projectIn(o.first), to = projectIn(o.second);
    if (!from) return fail(from.error());
    if (!to) return fail(to.error());
    const std::vector<Difference> all = differences(from->project, to->project);
    Json list = Json::array();
    for (const Difference& d : all) {
        Json fields = Json::array();
        for (size_t k = 0; k < d.fields.size(); ++k)
            fields.push_back({{"field", d.fields[k]}, {"was", d.values[k].first}, {"is", d.values[k].second}});
        list.push_back({{"where", d.where}, {"how", nameOf(d.how)}, {"fields", fields}});
        if (o.json) continue;
        if (d.how != Difference::How::Changed) print(d.sentence());
        for (size_t k = 0; k < d.fields.size(); ++k)
            print(fmt::format("{}: {} was {}, is {}", d.where, d.fields[k], d.values[k].first, d.values[k].second));
    }
    if (o.json) print(list);
    return all.empty() ? 0 : 1;
}

int merge(const TeamOptions& o) {
    // Whoever else wants to change what is written over waits from before it is read.
    std::optional<Result<RewriteLock>> lock;
    if (std::error_code none; fs::is_regular_file(o.out, none)) lock.emplace(RewriteLock::take(o.out));
    if (lock && !*lock) return fail(lock->error());
    const Result<Loaded> base = projectIn(o.base), mine = projectIn(o.first), theirs = projectIn(o.second);
    for (const Result<Loaded>* one : {&base, &mine, &theirs})
        if (!*one) return fail(one->error());
    const Result<Merged> both = merged(base->project, mine->project, theirs->project);
    if (!both) return fail(both.error());
    if (const Outcome written = writeFile(o.out, projectText(both->project)); !written) return fail(written.error());
    for (const std::string& place : both->conflicts)
        print(fmt::format("conflict {}: both have changed it; what MINE has stands there, or what is left where one removed it", place));
    // What neither had alone: one took away what the other began to use.
    const auto errors = [](const Project& p) {
        std::vector<std::string> out;
        for (const Diagnostic& d : checkProject(p))
            if (d.severity == Severity::Error) out.push_back(fmt::format("error {} {}: {}", d.code, placeText(p, d.place), d.sentence));
        return out;
    };
    const std::vector<std::string> known[] = {errors(mine->project), errors(theirs->project)};
    bool broken = false;
    for (const std::string& error : errors(both->project)) {
        const auto had = [&](const auto& side) { return std::find(side.begin(), side.end(), error) != side.end(); };
        if (had(known[0]) || had(known[1])) continue;
        print(error);
        broken = true;
    }
    return both->conflicts.empty() && !broken ? 0 : 1;
}

} // namespace

void addTeamCommands(CLI::App& app, int& code) {
    static TeamOptions o;
    const auto command = [&](const char* name, const char* help, int (*run)(const TeamOptions&)) {
        CLI::App* sub = app.add_subcommand(name, help);
        sub->callback([&code, run] { code = run(o); });
        return sub;
    };
    CLI::App* c = command("diff", "Say what differs between two files of a project, a line each; exit 1 where something does", diff);
    c->add_option("A", o.first, "The file as it was")->required();
    c->add_option("B", o.second, "The file as it is")->required();
    c->add_flag("--json", o.json, "Print JSON");
    c = command("merge",
                "Bring two changed files of a project together, by ids and field by field; exit 1 where both changed the same, or what one "
                "uses is gone",
                merge);
    c->add_option("BASE", o.base, "The file that both began with")->required();
    c->add_option("MINE", o.first, "The one that is kept where both changed the same")->required();
    c->add_option("THEIRS", o.second, "The other one")->required();
    c->add_option("--out", o.out, "The file to write; may be one of the three")->required();
}

} // namespace hue::cli
