// Values of parameters and whose child instances are, and tables of them.
#include "cli/instance_commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/files.h"
#include "core/builds/builds.h"
#include "core/compile/compile.h"
#include "core/document/same_parameter.h"
#include "core/document/shared_parameters.h"
#include "core/edits/edits.h"
#include "core/instances/instance_csv.h"
#include "core/instances/value_words.h"
#include "core/instances/variations.h"
#include "core/picture/contact_sheet.h"
#include "core/surface/channels.h"
#include "preview/lineup_pictures.h"
#include "preview/worn_pictures.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <fstream>
#include <iostream>
#include <optional>
#include <sstream>

namespace hue::cli {
namespace {

namespace fs = std::filesystem;

struct InstanceOptions {
    std::string kept, used, parameter;
    std::string project, name, parent, like, with, file, out, mesh;
    std::vector<std::string> of, values, returned, varied;
    bool inherited = false, dry = false, gradual = false, json = false, sets = false;
    int columns = 0, size = 256, samples = 16, count = 8;
    uint32_t seed = 1;
    double time = 0;
};

/// A project that is to be changed: whoever else wants to waits until it is written.
struct Held {
    RewriteLock lock;
    std::shared_ptr<Opened> opened;

    static Result<Held> take(const std::string& file) {
        Result<RewriteLock> lock = RewriteLock::take(file);
        if (!lock) return lock.error();
        Options o;
        o.project = file;
        const auto opened = open(o);
        if (!opened) return opened.error();
        return Held{std::move(*lock), *opened};
    }
    const Project& project() const { return opened->project; }
    Outcome save(const Project& next, const std::string& file) const { return saveProject(next, file, {opened->hash, &lock}); }
};

Result<std::vector<Id>> findAll(const Project& p, const std::vector<std::string>& names) {
    std::vector<Id> out;
    for (const std::string& name : names) {
        Result<Id> id = find(p, name);
        if (!id) return id.error();
        out.push_back(*id);
    }
    return out;
}

/// By its name, its name in code or its id.
Result<const Parameter*> parameterOf(const Master& master, const std::string& name) {
    for (const auto member : {&Parameter::codeName, &Parameter::name, &Parameter::id})
        for (const Parameter& p : master.parameters)
            if (p.*member == name) return &p;
    std::vector<std::string> names;
    for (const Parameter& p : master.parameters) names.push_back(p.codeName);
    return Error{"name.unknown", fmt::format("{} has no parameter {}. There are: {}.", master.name, name, fmt::join(names, ", ")), {}};
}

/// Own values of what is worn, as options give them; `told` gets a line for each that changed.
Result<Project> withValues(Project project, const Id& worn, const InstanceOptions& o, std::vector<std::string>* told) {
    const Master& master = *project.masterOf(worn);
    const auto change = [&](const std::string& name, const auto& how) -> Outcome {
        const Result<const Parameter*> p = parameterOf(master, name);
        if (!p) return p.error();
        const Parameter parameter = **p;
        const ParameterValue was = resolve(project, worn).values.at(parameter.id).value;
        Result<Project> next = how(parameter, was);
        if (!next) return next.error();
        const ParameterValue is = resolve(*next, worn).values.at(parameter.id).value;
        project = std::move(*next);
        const std::string before = wordsOf(project, parameter, was), after = wordsOf(project, parameter, is);
        if (told) told->push_back(fmt::format("{}: {} was {}, is {}", project.nameOf(worn), parameter.name, before, after));
        return Done{};
    };
    for (const std::string& given : o.values) {
        const size_t equals = given.find('=');
        if (equals == given.npos || equals == 0)
            return Error{"value.words", fmt::format("{} is no value. Write PARAMETER=VALUE.", given), {}};
        const Outcome done = change(given.substr(0, equals), [&](const Parameter& p, const ParameterValue& now) -> Result<Project> {
            const Result<ParameterValue> value = valueFrom(project, p, given.substr(equals + 1), &now);
            if (!value) return value.error();
            return edit::setOwn(project, worn, p.id, *value);
        });
        if (!done) return done.error();
    }
    for (const std::string& name : o.returned) {
        const Outcome done = change(name, [&](const Parameter& p, const ParameterValue&) { return edit::clearOwn(project, worn, p.id); });
        if (!done) return done.error();
    }
    return project;
}

int set(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Result<std::vector<Id>> worn = findAll(held->project(), o.of);
    if (!worn) return fail(worn.error());
    if (o.values.empty() && o.returned.empty()) return fail("Say with --value PARAMETER=VALUE or --return PARAMETER what is to change.");
    Project next = held->project();
    std::vector<std::string> told;
    for (const Id& id : *worn) {
        Result<Project> with = withValues(next, id, o, &told);
        if (!with) return fail(with.error());
        next = std::move(*with);
    }
    if (const Outcome saved = held->save(next, o.project); !saved) return fail(saved.error());
    for (const std::string& line : told) print(line);
    return 0;
}

int makeNew(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Result<Id> parent = find(held->project(), o.parent);
    if (!parent) return fail(parent.error());
    Instance instance;
    instance.id = newId('i'), instance.name = o.name, instance.parent = *parent;
    Result<Project> next = [&]() -> Result<Project> {
        if (o.like.empty()) return edit::addInstance(held->project(), instance);
        const Result<Id> like = find(held->project(), o.like);
        if (!like) return like.error();
        return edit::instanceOfDifferences(held->project(), *like, *parent, instance);
    }();
    if (next) next = withValues(*next, instance.id, o, nullptr);
    if (!next) return fail(next.error());
    if (const Outcome saved = held->save(*next, o.project); !saved) return fail(saved.error());
    print(next->nameOf(instance.id));
    return 0;
}

int vary(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Project& p = held->project();
    const Result<Id> parent = find(p, o.of[0]);
    if (!parent) return fail(parent.error());
    Variations v{*parent, o.name, o.count, o.gradual, o.seed, {}};
    for (const std::string& given : o.varied) {
        const size_t equals = given.find('=');
        if (equals == given.npos) return fail(fmt::format("{} is no range. Write PARAMETER=LOW..HIGH.", given));
        const Result<const Parameter*> parameter = parameterOf(*p.masterOf(*parent), given.substr(0, equals));
        if (!parameter) return fail(parameter.error());
        const Result<Varied> varied = variedFrom(p, **parameter, given.substr(equals + 1));
        if (!varied) return fail(varied.error());
        v.varied.push_back(*varied);
    }
    std::vector<Id> made;
    const Result<Project> next = o.sets ? withMapSets(p, *parent, &made) : withVariations(p, v, &made);
    if (!next) return fail(next.error());
    if (const Outcome saved = held->save(*next, o.project); !saved) return fail(saved.error());
    for (const Id& id : made) print(next->nameOf(id));
    return 0;
}

int reparent(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Project& p = held->project();
    const Result<std::vector<Id>> of = findAll(p, o.of);
    if (!of) return fail(of.error());
    const Result<Id> parent = find(p, o.parent);
    if (!parent) return fail(parent.error());
    Project next = p;
    for (const Id& id : *of) {
        const Result<edit::ParentChange> change = edit::parentChange(next, id, *parent);
        if (!change) return fail(change.error());
        const Result<Project> moved = edit::changeParent(next, id, *parent);
        if (!moved) return fail(moved.error());
        const Resolved before = resolve(next, id), after = resolve(*moved, id);
        const auto tell = [&](const char* what, const std::vector<Id>& parameters, const Resolved& with, const Project& in) {
            for (const Id& parameter : parameters)
                if (const Parameter* its = with.master->parameter(parameter))
                    print(fmt::format("{}: {} {}, {}", moved->nameOf(id), its->name, what,
                                      wordsOf(in, *its, with.values.at(parameter).value)));
        };
        tell("stays its own", change->kept, after, *moved);
        tell("is inherited anew", change->changed, after, *moved);
        tell("is new", change->fresh, after, *moved);
        tell("has no place there and stays idle", change->lost, before, next);
        next = *moved;
    }
    if (o.dry) return 0;
    if (const Outcome saved = held->save(next, o.project); !saved) return fail(saved.error());
    return 0;
}

int difference(const InstanceOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    const Project& p = (*opened)->project;
    const Result<Id> first = find(p, o.of[0]), second = find(p, o.with);
    if (!first) return fail(first.error());
    if (!second) return fail(second.error());
    const Resolved a = resolve(p, *first), b = resolve(p, *second);
    const std::string names[] = {p.nameOf(*first), p.nameOf(*second)};
    bool differ = false;
    const auto tell = [&](const std::string& what, const std::string& left, const std::string& right) {
        if (left == right) return;
        differ = true;
        print(fmt::format("{}: {} in {}, {} in {}", what, left, names[0], right, names[1]));
    };
    const std::string none = "nothing of the kind";
    for (const Parameter& its : a.master->parameters) {
        const Parameter* other = sameParameter(*b.master, its);
        tell(its.name, wordsOf(p, its, a.values.at(its.id).value), other ? wordsOf(p, *other, b.values.at(other->id).value) : none);
    }
    for (const Parameter& its : b.master->parameters) {
        if (!sameParameter(*a.master, its)) tell(its.name, none, wordsOf(p, its, b.values.at(its.id).value));
    }
    tell("alpha mode", std::string(nameOf(a.surface.alphaMode)), std::string(nameOf(b.surface.alphaMode)));
    tell("alpha cutoff", fmt::format("{}", a.surface.alphaCutoff), fmt::format("{}", b.surface.alphaCutoff));
    tell("sides", a.surface.doubleSided ? "double" : "one", b.surface.doubleSided ? "double" : "one");
    return differ ? 1 : 0;
}

Result<const Master*> masterNamed(const Project& p, const std::string& name) {
    for (const MasterPtr& m : p.masters)
        if (m->name == name || m->id == name) return m.get();
    std::vector<std::string> names;
    for (const MasterPtr& m : p.masters) names.push_back(m->name);
    return Error{"name.unknown", fmt::format("There is no master {} in {}. There are: {}.", name, p.name, fmt::join(names, ", ")), {}};
}

int csvOut(const InstanceOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    const Result<const Master*> master = masterNamed((*opened)->project, o.of[0]);
    if (!master) return fail(master.error());
    const std::string text = instanceCsv((*opened)->project, **master, o.inherited);
    if (o.out.empty()) {
        std::fwrite(text.data(), 1, text.size(), stdout);
        return 0;
    }
    const Outcome written = writeFile(o.out, text);
    return written ? 0 : fail(written.error());
}

Result<std::string> textOf(const std::string& file) {
    std::ostringstream text;
    if (file == "-") {
        text << std::cin.rdbuf();
        return text.str();
    }
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"csv.unreadable", fmt::format("{} {}. Name a table, or - for what is piped in.", file, why), {}};
    std::ifstream in(file, std::ios::binary);
    text << in.rdbuf();
    if (in.bad() || !in.is_open()) return Error{"csv.unreadable", fmt::format("{} could not be read to its end.", file), {}};
    return text.str();
}

int csvIn(const InstanceOptions& o) {
    const Result<std::string> text = textOf(o.file);
    if (!text) return fail(text.error());
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Result<const Master*> master = masterNamed(held->project(), o.of[0]);
    if (!master) return fail(master.error());
    const Result<CsvRead> read = withInstanceCsv(held->project(), **master, *text);
    if (!read) return fail(read.error());
    if (!o.dry)
        if (const Outcome saved = held->save(read->project, o.project); !saved) return fail(saved.error());
    print(fmt::format("{} values changed", read->values));
    for (const std::string& name : read->added) print(fmt::format("{} is new", name));
    for (const std::string& name : read->moved) print(fmt::format("{} has another parent", name));
    printCautions(read->cautions);
    return 0;
}

int shared(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    Project next = held->project();
    if (o.name.empty()) {
        for (const SharedParameter& s : next.shared) {
            Parameter as;
            as.type = s.type;
            print(fmt::format("{} = {}{}{}", s.name, wordsOf(next, as, {s.value, {}}), s.unit.empty() ? "" : " " + s.unit,
                              s.isMoving() ? fmt::format(", moves to {} in {:g} s", wordsOf(next, as, {s.until, {}}), s.period) : ""));
            for (const std::string& follower : followersOf(next, s.id)) print("  " + follower);
        }
        return 0;
    }
    const auto called = [&] {
        return std::find_if(next.shared.begin(), next.shared.end(), [&](const SharedParameter& s) { return s.name == o.name; });
    };
    SharedParameter s;
    const bool fresh = called() == next.shared.end();
    if (!fresh) s = *called();
    s.name = o.name;
    Value color;
    if (fresh && !o.values.empty() && colorFromHex(o.values[0], color)) s.type = ParameterType::Color, s.until = Value::vec3(1, 1, 1);
    if (!o.values.empty()) {
        Parameter as;
        as.name = s.name, as.type = s.type;
        const ParameterValue now{s.value, {}};
        const Result<ParameterValue> value = valueFrom(next, as, o.values[0], &now);
        if (!value) return fail(value.error());
        s.value = value->value;
    }
    Result<Project> made = fresh ? edit::addShared(next, s) : edit::changeShared(next, s);
    if (!made) return fail(made.error());
    next = std::move(*made);
    if (!o.of.empty()) {
        const Result<Id> master = find(next, o.of[0]);
        if (!master) return fail(master.error());
        const Result<const Parameter*> parameter = parameterOf(*next.masterOf(*master), o.parameter);
        if (!parameter) return fail(parameter.error());
        made = edit::followShared(next, next.masterOf(*master)->id, (*parameter)->id, called()->id);
        if (!made) return fail(made.error());
        next = std::move(*made);
    }
    const Outcome saved = held->save(next, o.project);
    return saved ? 0 : fail(saved.error());
}

int preset(const InstanceOptions& o) {
    const Result<Held> held = Held::take(o.project);
    if (!held) return fail(held.error());
    const Result<Id> worn = find(held->project(), o.of[0]);
    if (!worn) return fail(worn.error());
    if (o.kept.empty() && o.used.empty()) {
        for (const Preset& p : held->project().masterOf(*worn)->presets) print(p.name);
        return 0;
    }
    const Result<Project> next =
        o.used.empty() ? edit::keepPreset(held->project(), *worn, o.kept) : edit::usePreset(held->project(), *worn, o.used);
    if (!next) return fail(next.error());
    const Outcome saved = held->save(*next, o.project);
    return saved ? 0 : fail(saved.error());
}

int builds(const InstanceOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    const Project& p = (*opened)->project;
    const Result<std::vector<Id>> chosen = findAll(p, o.of);
    if (!chosen) return fail(chosen.error());
    Json list = Json::array();
    for (const MasterPtr& m : p.masters) {
        if (!chosen->empty() && std::none_of(chosen->begin(), chosen->end(), [&](const Id& id) { return p.masterOf(id) == m.get(); }))
            continue;
        // Of all masters those that have choices.
        if (chosen->empty() && !hasBuildChoices(*m)) continue;
        const std::vector<Build> all = buildsOf(p, *m);
        if (!o.json) print(fmt::format("{}: {} in use", m->name, buildCountWords(*m, usedOf(all))));
        for (const Build& b : all) {
            const Compilation c = compileSurface(p, *masterOfBuild(*m, b.chosen));
            const Cost cost = costOf(*c.program, c.offset.get(), {});
            std::vector<std::string> users;
            for (const Id& user : b.users) users.push_back(p.instance(user) ? p.instance(user)->name : m->name);
            if (o.json)
                list.push_back(Json{{"master", m->name},
                                    {"build", buildWords(p, *m, b.chosen)},
                                    {"operations", cost.operationsPerPixel()},
                                    {"fetches", cost.fetches},
                                    {"samplers", cost.samplers},
                                    {"usedBy", users}});
            else
                print(fmt::format("  {}: {} operations, {} fetches; {}", buildWords(p, *m, b.chosen), cost.operationsPerPixel(),
                                  cost.fetches, users.empty() ? "used by nobody" : fmt::format("{}", fmt::join(users, ", "))));
        }
        for (const Parameter& q : m->parameters)
            if (q.isBuildChoice() && q.isNamed() && !o.json)
                print(fmt::format("  {}: {}", q.name, choiceCostWords(choiceCosts(p, *m, q.id))));
    }
    if (o.json) print(list);
    return 0;
}

int sheet(const InstanceOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    Result<std::vector<Id>> worn = findAll(p.project, o.of);
    if (!worn) return fail(worn.error());
    // A master alone stands for all that derives from it.
    if (worn->size() == 1 && p.project.master((*worn)[0]))
        for (const InstancePtr& i : p.project.instances)
            if (p.project.masterOf(i->id) == p.project.master((*worn)[0])) worn->push_back(i->id);
    const SheetLayout layout{int(worn->size()), o.columns, o.size};
    if (const Outcome fits = layout.fits(); !fits) return fail(fits.error());
    Id mesh = "shape:sphere";
    if (!o.mesh.empty()) {
        const Result<Id> found = findMesh(p.project, o.mesh);
        if (!found) return fail(found.error());
        mesh = *found;
    }
    const auto pictures = WornPictures::start(p.project, p.assets);
    if (!pictures) return fail(pictures.error());
    (*pictures)->samples = o.samples;
    (*pictures)->time = o.time;
    (*pictures)->mesh = mesh;
    const Result<std::vector<uint8_t>> made = (*pictures)->sheet(*worn, layout);
    if (!made) return fail(made.error());
    const Outcome written = writeScreenPicture(o.out, *made, layout.width(), layout.height());
    return written ? 0 : fail(written.error());
}

} // namespace

void addInstanceCommands(CLI::App& app, int& code) {
    static InstanceOptions o;
    const auto command = [&](CLI::App& under, const char* name, const char* help, int (*run)(const InstanceOptions&)) {
        CLI::App* sub = under.add_subcommand(name, help);
        sub->add_option("PROJECT", o.project, "The .huestack file")->required();
        sub->callback([&code, run] { code = run(o); });
        return sub;
    };
    const auto values = [&](CLI::App* sub) {
        sub->add_option(
            "--value", o.values,
            "PARAMETER=VALUE: numbers with blanks between them, #RRGGBB, the name of a map or neutral; *1.1, /2 and +0.05 change "
            "what is there. May be given again");
    };
    CLI::App* c = command(app, "set", "Give masters and instances values", set);
    c->add_option("--of", o.of, "A master, or Master/Instance; may be given again")->required();
    values(c);
    c->add_option("--return", o.returned, "A parameter whose own value goes, so that it is inherited again; may be given again");

    CLI::App* instance = app.add_subcommand("instance", "Make instances, give them other parents, compare them");
    instance->require_subcommand(1);
    c = command(*instance, "new", "Make an instance, and print its name", makeNew);
    c->add_option("--parent", o.parent, "A master, or Master/Instance")->required();
    c->add_option("--name", o.name, "Its name; a number is added where it is taken")->required();
    c->add_option("--like", o.like, "What it shall look like, by own values only where that differs from the parent");
    values(c);
    c = command(*instance, "vary", "Make instances that vary some values within ranges, and print their names", vary);
    c->add_option("--of", o.of, "What they derive from: a master, or Master/Instance")->required()->expected(1);
    c->add_option(
        "--vary", o.varied,
        "PARAMETER=LOW..HIGH, or maps with semicolons between them; may be given again. Each takes a value out of every part of its "
        "range, by chance");
    c->add_flag("--sets", o.sets, "Instead: one for each map set that has a map for it, with its maps");
    c->add_option("--count", o.count, "How many")->capture_default_str();
    c->add_flag("--gradual", o.gradual, "From low to high in even steps, all parameters together");
    c->add_option("--seed", o.seed, "Of the chance")->capture_default_str();
    c->add_option("--name", o.name, "Of all, with numbers behind; without it their parent's");
    c = command(*instance, "reparent", "Let instances derive from another parent, and say what becomes of their values", reparent);
    c->add_option("--of", o.of, "Master/Instance; may be given again")->required();
    c->add_option("--parent", o.parent, "A master, or Master/Instance")->required();
    c->add_flag("--dry", o.dry, "Say it only");
    c = command(*instance, "diff", "Say in which values two differ, a line each; exit 1 where they do", difference);
    c->add_option("--of", o.of, "A master, or Master/Instance")->required()->expected(1);
    c->add_option("--with", o.with, "The other one")->required();

    CLI::App* csv = app.add_subcommand("csv", "Values of a master's instances as a table for spreadsheets");
    csv->require_subcommand(1);
    c = command(*csv, "out", "Print or write the table: a row for each instance, empty cells where it inherits", csvOut);
    c->add_option("--of", o.of, "The master")->required()->expected(1);
    c->add_flag("--inherited", o.inherited, "Write what is inherited as well, behind a ~");
    c->add_option("--out", o.out, "FILE.csv; without it the table is printed");
    c = command(*csv, "in", "Bring a table in: values of the instances that it names, which are made where there are none", csvIn);
    c->add_option("FILE", o.file, "The table, with commas, semicolons or tabulators; - for what is piped in")->required();
    c->add_option("--of", o.of, "The master")->required()->expected(1);
    c->add_flag("--dry", o.dry, "Say what would change only");

    c = command(app, "shared", "Shared parameters: list them with who follows them, set one, or let a parameter follow one", shared);
    c->add_option("--name", o.name, "Of the shared parameter; it is made where there is none");
    c->add_option("--value", o.values, "A number, or a color as #RRGGBB")->expected(1);
    c->add_option("--of", o.of, "A master whose parameter is to follow it")->expected(1);
    c->add_option("--parameter", o.parameter, "Of that master");

    c = command(app, "preset", "Presets of masters: list them, keep the values of an instance as one, or give them to one", preset);
    c->add_option("--of", o.of, "A master, or Master/Instance")->required()->expected(1);
    c->add_option("--keep", o.kept, "Keep its values under this name");
    c->add_option("--use", o.used, "Give it the values of this preset");

    c = command(app, "builds", "Combinations of build choices that are in use, by whom, and what each costs", builds);
    c->add_option("--of", o.of, "A master; may be given again. Without it all that have build choices");
    c->add_flag("--json", o.json, "Print JSON");

    c = command(app, "sheet", "Render instances side by side with their names under them", sheet);
    c->add_option("--of", o.of, "Master/Instance; may be given again. A master alone: with all its instances")->required();
    c->add_option("--out", o.out, "FILE.png")->required();
    c->add_option("--mesh", o.mesh, "A mesh of the project or a shape; without it a sphere");
    c->add_option("--columns", o.columns, "How many side by side; about as many as rows without it")->check(CLI::Range(1, 64));
    c->add_option("--size", o.size, "Pixels a side of each picture")->check(CLI::Range(16, 2048))->capture_default_str();
    c->add_option("--samples", o.samples, "Of a pixel")->check(CLI::Range(1, 256))->capture_default_str();
    c->add_option("--time", o.time, "Seconds");
}

} // namespace hue::cli
