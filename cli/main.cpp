// hsk: Hue Stack without a window.
#include "cli/budget_command.h"
#include "cli/suggest_command.h"
#include "cli/commands.h"
#include "cli/instance_commands.h"
#include "cli/map_commands.h"
#include "cli/output.h"
#include "cli/team_commands.h"
#include "core/base/files.h"
#include "core/languages/languages.h"
#include "core/paint/fill_rules.h"
#include "core/program/passes/passes.h"

#include <CLI/CLI.hpp>
#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <exception>
#include <fmt/format.h>
#include <iostream>
#include <new>
#include <system_error>

using namespace hue::cli;

static int run(int argc, char** argv) {
    CLI::App app{"hsk works on Hue Stack projects without a display."};
    app.require_subcommand(1);
    Options o;
    int code = 0;
    auto command = [&](const char* name, const char* help, int (*run)(const Options&), bool project = true) {
        CLI::App* sub = app.add_subcommand(name, help);
        if (project) sub->add_option("PROJECT", o.project, "The .huestack file")->required();
        sub->callback([&code, &o, run] { code = run(o); });
        return sub;
    };
    auto of = [&](CLI::App* sub) { sub->add_option("--of", o.of, "A master, or Master/Instance")->required(); };
    auto out = [&](CLI::App* sub, const char* help) { sub->add_option("--out", o.out, help)->required(); };
    auto size = [&](CLI::App* sub) { sub->add_option("--size", o.size, "Pixels a side")->check(CLI::Range(4, 8192)); };
    auto time = [&](CLI::App* sub) { sub->add_option("--time", o.time, "Seconds"); };
    auto json = [&](CLI::App* sub) { sub->add_flag("--json", o.json, "Print JSON"); };

    CLI::App* c = command("check", "List problems, one a line: severity code place: sentence", check);
    json(c);
    CLI::Option* kept =
        c->add_option("--pictures", o.keptPictures,
                      "Instead: compare every master and instance with its picture in this folder; exit 1 where one differs");
    c->add_flag("--keep", o.keep, "Draw these pictures and keep them there")->needs(kept);
    c->add_option("--limit", o.limit, "How far apart they may be: CIEDE2000, mean over the picture")
        ->check(CLI::Range(0.0, 100.0))
        ->needs(kept)
        ->capture_default_str();
    c->add_option("--out", o.differing, "FILE.png: a sheet of those that differ, as kept and as they are")->needs(kept);
    json(command("nodes", "Print the catalogue of nodes", nodes, false));
    json(command("list", "List masters, parameters, instances, maps and meshes", list));
    c = command("cost", "Operations per rate, fetches, samplers, map bytes", cost);
    of(c), json(c);
    c = command("shader", "Print the shader source", shader);
    of(c);
    c->add_option("--stage", o.stage, "vertex or fragment")->check(CLI::IsMember({"vertex", "fragment"}));
    std::vector<std::string> languageKeys;
    for (const hue::LanguageDef& l : hue::languages()) languageKeys.emplace_back(l.key);
    c->add_option("--language", o.language, "The surface function alone, for use elsewhere; without it the stages of the preview")
        ->check(CLI::IsMember(languageKeys));
    c->add_option("--out", o.out, "A file; without it the text is printed");
    std::vector<std::string> passNames;
    for (const hue::PassDef& p : hue::passes()) passNames.emplace_back(p.name);
    c->add_flag("--passes", o.passes, "List the passes as they run and the operations that each leaves, instead of the source");
    c->add_option("--without", o.without, "A pass to leave out; may be given again")->check(CLI::IsMember(passNames));
    c = command("evaluate", "Evaluate one channel over the UV square", evaluate);
    of(c), size(c), time(c), out(c, "FILE.exr or FILE.png");
    c->add_option("--channel", o.channel, "Such as base-color")->required();
    c->add_option("--engine", o.engine, "cpu or gl")->check(CLI::IsMember({"cpu", "gl"}));
    c = command("render", "Render a picture, a comparison, or frames", render);
    time(c), json(c), out(c, "FILE.png; with --frames a folder, FILE.webp or a sheet as FILE.png");
    c->add_option("--of", o.ofSlots, "A master, or Master/Instance, by name or id; several for several slots, again or with commas");
    c->add_option("--specimen", o.specimen, "A specimen of the lineup instead, from 1")->check(CLI::Range(1, 6));
    c->add_option("--mesh", o.mesh,
                  "A mesh of the project, or sphere, plane, cube, cylinder, torus, draped sheet; /1 to /5 for the density");
    c->add_option("--subdivide", o.subdivide, "How often")->check(CLI::Range(0, 5));
    c->add_option("--placements", o.placements,
                  "Copies of the mesh: row:5, grid:5x3 or ring:8; behind commas turn=90, lift=0.5 and size=0.5 of the last, spacing=2");
    c->add_option("--thing", o.things, "Something that stands around: signs, bolt, steps, tubes, rail");
    c->add_option("--view", o.view,
                  "lit, light-only, unlit, a channel, invalid, world-normal, faces, uv0, uv1, vertex-color, wireframe, overdraw, cost");
    c->add_option("--wire", o.wire,
                  "A wire instead of a view: CARD.PORT or CARD.PORT.TAKE, by ids; 2:CARD.PORT of what the second slot wears");
    c->add_option("--range", o.range, "LOW:HIGH that an unlit view shows from black to white");
    c->add_option("--light", o.light, "sodium-shed, overcast-yard, grey-box, inspection-pit, harbour-dusk, or an HDR or EXR file");
    c->add_option("--rotation", o.rotation, "Turn of the light in degrees");
    c->add_option("--sun", o.sun, "Strength of the light's sun");
    c->add_option("--exposure", o.exposure, "Stops");
    c->add_option("--tone", o.tone, "Tone curve")->check(CLI::IsMember({"linear", "filmic", "neutral"}));
    c->add_option("--glare", o.glare, "0 to 1")->check(CLI::Range(0.0, 1.0));
    c->add_option("--backdrop", o.backdrop, "What stands behind")->check(CLI::IsMember({"surround", "environment", "depot"}));
    c->add_option("--yaw", o.yaw, "Degrees");
    c->add_option("--pitch", o.pitch, "Degrees")->check(CLI::Range(-89.0, 89.0));
    c->add_option("--stand-off", o.standOff, "1 fits")->check(CLI::Range(0.2, 10.0));
    c->add_option(
        "--yardstick", o.yardstick,
        "Compare with a master, Master/Instance, picture file, maps:COLOR,ORM,NORMAL,HEIGHT, or original (its own maps, not compressed); "
        "prints the difference");
    c->add_flag("--compressed", o.compressed, "Show maps as a graphics card reads them in their block formats");
    c->add_option("--show", o.show, "How the yardstick shows")->check(CLI::IsMember({"beside", "split", "difference", "none"}));
    c->add_option("--gain", o.gain, "Of the difference");
    c->add_option("--frames", o.frames, "FROM:TO in seconds");
    c->add_option("--rate", o.framesPerSecond, "Frames a second")->check(CLI::Range(0.1, 240.0));
    c->add_option("--engine", o.engine, "gl, or cpu for channels from the evaluator")->check(CLI::IsMember({"cpu", "gl"}));
    c->add_option("--size", o.pictureSize, "WIDTHxHEIGHT");
    c->add_option("--samples", o.samples, "Of a pixel, 1 to 256; 4 where a yardstick stands beside, and in frames")
        ->capture_default_str()
        ->check(CLI::Range(1, 256));
    const auto ofOrSpecimen = [&](CLI::App* sub) {
        auto* worn = sub->add_option("--of", o.of, "A master, or Master/Instance");
        auto* standing = sub->add_option("--specimen", o.specimen,
                                         "A specimen of the lineup instead, from 1: over its UVs, with its paint "
                                         "and its decals, maps for each slot");
        standing->check(CLI::Range(1, 6))->excludes(worn);
        sub->add_option("--uv-set", o.uvSet, "The UVs that lay the specimen out: 1, or 2 where the first repeat")
            ->check(CLI::Range(1, 2))
            ->needs(standing);
        auto* either = sub->add_option_group("of");
        either->add_options(worn, standing);
        either->require_option(1);
        return standing;
    };
    c = command("bake", "Bake the channels to PNG maps", bakeMaps);
    ofOrSpecimen(c), size(c), time(c), json(c), out(c, "The folder");
    c = command("dispatch", "Write a GLB with the baked maps", dispatchFile);
    CLI::Option* standing = ofOrSpecimen(c);
    size(c), time(c), json(c), out(c, "FILE.glb");
    c->add_option("--mesh", o.mesh, "A mesh of the project or a shape; a specimen brings its own")->excludes(standing);

    c = command("paint", "Fill a channel of what is painted on a mesh by rules, and say what its channels hold", paint);
    json(c), time(c);
    c->add_option("--mesh", o.mesh, "A mesh of the project or a shape");
    c->add_option(
        "--paintwork", o.paintwork,
        "A paintwork by name: it is changed and the project saved; with --mesh it is made where there is none. Without: the mesh's "
        "own vertex colors, and nothing of the project changes");
    c->add_option("--channel", o.channel, "The name of a channel that what is worn reads, or r, g, b, a, and 5 to 8 of the second set");
    c->add_flag("--info", o.info, "Say only what the channels hold");
    std::string ruleHelp = "May be given again, the first below the others. One of:";
    for (const hue::FillRuleDef& r : hue::fillRules()) ruleHelp += fmt::format("\n  {} {}: {}", r.key, r.takes, r.help);
    ruleHelp +=
        "\nA range says where it is 0 and where it is 1. Behind it may stand replace, add, subtract, multiply, largest or smallest, "
        "and weight 0.5.";
    c->add_option("--rule", o.rules, ruleHelp);
    CLI::Option* live = c->add_flag(
        "--live", o.live,
        "Keeps the rules in the paintwork, below what the hand has painted there: they are reckoned again when the mesh or a wire that "
        "they name has changed. Wires are those of what the first specimen wears that wears the paintwork. Without a rule the channel has "
        "none from now on");
    c->add_option("--of", o.of, "The master, or Master/Instance, whose wires rules may name")->excludes(live);
    c->add_option("--export", o.exported, "Writes the painted mesh as FILE.glb");
    c->add_option("--to-map", o.paintMap, "Writes the channel as a mask over the mesh's UVs, with what lies between them filled: FILE.png");
    size(c);

    c = command("decals", "Say what lies on a specimen, what each decal reaches and costs, and cut them as a mesh", decals);
    json(c);
    c->add_option("--specimen", o.specimen, "A specimen of the lineup, from 1")->required()->check(CLI::Range(1, 6));
    c->add_option("--cut", o.exported,
                  "Writes the decals, clipped out of the mesh, as FILE.glb: a material for each, UVs across its picture");
    c->add_flag("--atlas", o.atlas, "With --cut: one material for all, with maps that hold all their pictures")->needs("--cut");
    c->add_option("--size", o.size, "With --atlas: pixels that the maps are wide, and high at most")
        ->check(CLI::Range(4, 8192))
        ->needs("--atlas");
    c->add_option("--lift", o.lift, "Metres that the cut mesh lies above the surface")->check(CLI::Range(0.0, 10.0))->capture_default_str();

    addMapCommands(app, code);
    addBudgetCommand(app, code);
    addSuggestCommands(app, code);
    addInstanceCommands(app, code);
    addTeamCommands(app, code);

    try {
        app.parse(argc, argv);
    } catch (const CLI::CallForHelp& e) { return app.exit(e); } catch (const CLI::CallForAllHelp& e) {
        return app.exit(e);
    } catch (const CLI::ParseError& e) {
        std::cerr << "hsk: " << e.what() << "\nRun hsk --help for the commands.\n";
        return 2;
    }
    if (std::fflush(stdout) != 0 || std::ferror(stdout))
        return fail(fmt::format("What was to be printed could not be written: {}.", std::strerror(errno)));
    return code;
}

/// Takes no memory itself. Libraries may have been left in the middle of something, and would stumble over that as they are taken down.
[[noreturn]] static void memoryRanOut() {
    std::fflush(nullptr);
    std::fputs("hsk: Memory ran out. Close something, or work with smaller maps and meshes; nothing was written by halves.\n", stderr);
    hue::discardUnfinishedFiles();
    std::_Exit(2);
}

/// Whether an allocation has failed; what is thrown then may come to an end where nothing may be thrown, as in destructors of
/// nlohmann-json, which take memory. There the exception itself is not to be had.
static std::atomic<bool> g_ranOut = false;
static void allocationFailed() {
    g_ranOut = true;
    throw std::bad_alloc();
}
[[noreturn]] static void ended() {
    if (g_ranOut) memoryRanOut();
    std::abort();
}

int main(int argc, char** argv) {
    std::set_new_handler(allocationFailed);
    std::set_terminate(ended);
    try {
        return run(argc, argv);
    } catch (const std::bad_alloc&) { memoryRanOut(); } catch (const std::system_error& e) {
        // Of all that is written, only what is printed ends here.
        return fail(fmt::format("What was to be printed could not be written: {}.", e.code().message()));
    } catch (const std::exception& e) { return fail(fmt::format("This should not have happened: {}.", e.what())); }
}
