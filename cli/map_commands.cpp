#include "cli/map_commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/base/diagnostic.h"
#include "core/compress/block_format.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/images/channel_names.h"
#include "core/maps/tiling.h"
#include "core/project/map_index.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

namespace fs = std::filesystem;

Json channelJson(const ChannelFacts& c) {
    return {{"least", c.least},   {"most", c.most},           {"mean", c.mean},     {"deviation", c.deviation},
            {"levels", c.levels}, {"constant", c.constant()}, {"invalid", c.broken}};
}

/// hsk map FILE...: what a map holds.
int lookAt(const MapOptions& o) {
    bool problems = false;
    Json list = Json::array();
    for (const std::string& file : o.files) {
        const Result<Image> image = readImage(file);
        if (!image) {
            problems = true;
            if (o.json) list.push_back(Json{{"file", file}, {"problem", image.error().sentence}});
            else print(image.error().sentence);
            continue;
        }
        const MapFacts f = factsOf(*image);
        const Guess g = guessOf(fs::path(file).filename().string(), f);
        const MapKind kind = kindByName(o.kind).value_or(g.kind);
        const SeamMeter seam = seamMeter(*image);
        const RepetitionMeter repeats = repetitionMeter(*image);
        const std::vector<MapRemark> remarks = remarksOn(f, kind);
        const auto names = channelNames(f.channels);
        problems = problems || !remarks.empty();
        if (o.json) {
            Json channels = Json::object(), said = Json::array();
            for (size_t c = 0; c < names.size(); ++c) channels[names[c]] = channelJson(f.channel[c]);
            for (const MapRemark& r : remarks) said.push_back(Json{{"code", r.code}, {"sentence", r.sentence}});
            Json one{{"file", file},
                     {"width", f.width},
                     {"height", f.height},
                     {"samples", nameOf(f.type)},
                     {"channels", channels},
                     {"kind", nameOf(g.kind)},
                     {"role", g.role},
                     {"reason", g.reason},
                     {"seam", {{"vertical", seam.vertical}, {"horizontal", seam.horizontal}}},
                     {"repetition", {{"strength", repeats.strength}, {"landmark", repeats.landmark}}},
                     {"remarks", said}};
            if (kind == MapKind::Normal)
                one["normals"] = Json{
                    {"meanLength", f.normals.meanLength}, {"unitShare", f.normals.unitShare}, {"greenEvidence", f.normals.greenEvidence}};
            list.push_back(one);
            continue;
        }
        print(fmt::format("{}: {} x {}, {}, seems to be {}{}. {}", file, f.width, f.height, nameOf(f.type), nameOf(g.kind),
                          g.role.empty() || g.role == nameOf(g.kind) ? "" : " (" + g.role + ")", g.reason));
        for (size_t c = 0; c < names.size(); ++c) {
            const ChannelFacts& k = f.channel[c];
            print(fmt::format("  {:6} {:.4g} to {:.4g}, mean {:.4g}, {} levels", names[c], k.least, k.most, k.mean, k.levels));
        }
        print(fmt::format("  seam   {:.2f} left to right, {:.2f} top to bottom (1: nothing shows)", seam.vertical, seam.horizontal));
        print(fmt::format("  repeats {:.2f} within the tile, landmark {:.1f}", repeats.strength, repeats.landmark));
        for (const MapRemark& r : remarks) print("  " + r.sentence);
    }
    if (o.json) print(list);
    return problems ? 1 : 0;
}

/// hsk maps PROJECT: all maps, sets and what is wrong.
int projectMaps(const MapOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    MapIndex index;
    Json maps = Json::array(), sets = Json::array(), findings = Json::array();
    for (const auto& m : p.project.maps) {
        const auto k = index.look(p.assets.resolve(m->path));
        const size_t bytes =
            k->problem.empty() ? cardBytes(m->format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type) : 0;
        const auto format = blockFormatByKey(m->format);
        maps.push_back(Json{{"name", m->name},
                            {"path", m->path},
                            {"kind", nameOf(m->kind)},
                            {"set", m->set},
                            {"role", m->role},
                            {"width", k->facts.width},
                            {"height", k->facts.height},
                            {"format", format ? infoOf(*format).key : "plain"},
                            {"bytes", bytes},
                            {"readBy", edit::readersOf(p.project, m->id)}});
        if (!o.json)
            print(fmt::format("{:24} {:6} {:5} x {:<5} {:10} {:>9}  {}", m->name, nameOf(m->kind), k->facts.width, k->facts.height,
                              format ? infoOf(*format).name : "plain", megabytes(bytes),
                              m->set.empty() ? "" : m->set + (m->role.empty() ? "" : ": " + m->role)));
    }
    std::vector<const MapFile*> lone;
    for (const auto& m : p.project.maps)
        if (m->set.empty()) lone.push_back(m.get());
    for (const FoundSet& s : proposedSets(lone, p.assets, index)) {
        std::vector<std::string> names;
        for (const auto& member : s.members)
            names.push_back(fmt::format("{} ({}{})", lone[member.candidate]->name, member.role, member.byContent ? ", by its pixels" : ""));
        sets.push_back(Json{{"name", s.name}, {"maps", names}});
        if (!o.json) print(fmt::format("could be a set, {}: {}", s.name, fmt::join(names, ", ")));
    }
    bool problems = false;
    for (const Diagnostic& d : mapFindings(p.project, p.assets, index)) {
        problems = problems || d.severity != Severity::Advice;
        findings.push_back(Json{{"severity", nameOf(d.severity)}, {"code", d.code}, {"sentence", d.sentence}});
        if (!o.json) print(fmt::format("{} {}: {}", nameOf(d.severity), d.code, d.sentence));
    }
    if (o.json) print(Json{{"maps", maps}, {"proposedSets", sets}, {"findings", findings}});
    return problems ? 1 : 0;
}

} // namespace

std::string megabytes(size_t bytes) { return fmt::format("{:.2f} MB", double(bytes) / 1e6); }

std::optional<MapKind> kindByName(const std::string& name) {
    for (MapKind k : {MapKind::Color, MapKind::Data, MapKind::Normal, MapKind::Height})
        if (nameOf(k) == name) return k;
    return {};
}

void addMapCommands(CLI::App& app, int& code) {
    static MapOptions o;
    auto command = [&](const char* name, const char* help, int (*run)(const MapOptions&)) {
        CLI::App* sub = app.add_subcommand(name, help);
        sub->callback([&code, run] { code = run(o); });
        return sub;
    };
    auto project = [](CLI::App* sub) { sub->add_option("PROJECT", o.project, "The .huestack file")->required(); };
    auto json = [](CLI::App* sub) { sub->add_flag("--json", o.json, "Print JSON"); };
    auto out = [](CLI::App* sub, const char* help, bool needed = true) {
        CLI::Option* option = sub->add_option("--out", o.out, help);
        if (needed) option->required();
    };
    auto files = [](CLI::App* sub, const char* help) { sub->add_option("FILE", o.files, help)->required(); };
    auto kind = [](CLI::App* sub) {
        sub->add_option("--kind", o.kind, "What it holds; else guessed")->check(CLI::IsMember({"color", "data", "normal", "height"}));
    };
    auto size = [](CLI::App* sub, const char* help) { sub->add_option("--size", o.size, help)->check(CLI::Range(1, kLargestSide)); };

    CLI::App* c = command("maps", "List a project's maps, sets that could be made, and what is wrong with them", projectMaps);
    project(c), json(c);
    c = command("map", "Look into image files: channels, levels, seams, what they seem to be", lookAt);
    files(c, "Image files"), json(c), kind(c);
    c = command("recipes", "List the built-in recipes, or write one as a file to start from", listRecipes);
    json(c), out(c, "FILE.huerecipe", false);
    c->add_option("--recipe", o.recipe, "The one to write");
    c = command("pack", "Pack maps by a recipe: one, all sets of a folder, or what a project has", packMaps);
    json(c), out(c, "FILE, or a folder with --sets", false), size(c, "Pixels of the longer side; else that of the largest source");
    c->add_option("--recipe", o.recipe, "A built-in recipe (hsk recipes lists them) or a .huerecipe file");
    c->add_option("--source", o.sources, "ROLE=FILE or ROLE=NUMBER, such as roughness=setts_rough.png or occlusion=1; repeat for each");
    c->add_option("--sets", o.folder, "A folder with sets of maps");
    c->add_option("--pattern", o.pattern, "How files of a set are named")->capture_default_str();
    c->add_option("--project", o.project, "Make the packings of this project whose sources have changed");
    c = command("unpack", "Take packed maps apart", unpackMaps);
    files(c, "Packed maps"), out(c, "The folder");
    c->add_option("--recipe", o.recipe, "How they were packed; else channels keep their colors' names");
    c = command("compress", "Compress a map to a block format, and tell what that does to it", compressMap);
    files(c, "An image file"), json(c), kind(c), out(c, "FILE.ktx2 or FILE.dds", false);
    c->add_option("--format", o.format, "auto, plain-8, bc1, bc3, bc4, bc5, bc7, astc-4x4, ...")->capture_default_str();
    c->add_option("--family", o.family, "For auto")->check(CLI::IsMember({"bc", "astc"}));
    c->add_option("--least-psnr", o.leastPsnr, "For auto: decibels")->capture_default_str()->check(CLI::Range(10.0, 90.0));
    c->add_option("--most-mb", o.mostMegabytes, "For auto: memory with mips")->check(CLI::Range(0.0, 1e6));
    c->add_option("--effort", o.effort, "How long to search")->check(CLI::IsMember({"quick", "usual", "best"}));
    c->add_option("--error-picture", o.errorPicture, "Write the difference, eight times as strong, as FILE.png");
    c->add_option("--recipe", o.recipe, "How it was packed, which decides how its smaller levels are made");
    c->add_option("--normals", o.normals, "A normal map by whose variance roughness (green, or grey) is raised in smaller levels");
    c->add_flag("--zstd", o.zstd, "Supercompress (KTX2)");
    c->add_flag("!--no-mips", o.mips, "Write the largest level alone");
    c = command("seamless", "Make maps of one set seamless together", makeSeamlessMaps);
    files(c, "Image files of one size"), out(c, "The folder");
    c->add_option("--method", o.method, "cut or blend")->check(CLI::IsMember({"cut", "blend"}));
    c->add_option("--band", o.band, "Half width of the strip, share of the size")->capture_default_str()->check(CLI::Range(0.02, 0.25));
    c = command("normals", "Work on normal maps and heights", normalMaps);
    files(c, "A normal map or height"), out(c, "The result");
    c->add_option("--do", o.operation, "What")
        ->required()
        ->check(CLI::IsMember(
            {"flip-green", "renormalise", "rebuild-z", "strength", "join", "from-height", "to-height", "occlusion", "curvature"}));
    c->add_option("--strength", o.strength, "For strength")->capture_default_str();
    c->add_option("--detail", o.join, "For join: the normal map that lies on the first");
    c->add_option("--width", o.width, "Metres across the map")->capture_default_str()->check(CLI::Range(1e-4, 1e5));
    c->add_option("--depth", o.depth, "Metres from black to white")->capture_default_str()->check(CLI::Range(0.0, 1e4));
    c = command("from-gloss", "Make base color, metallic and roughness from diffuse, specular and gloss", glossToMetallic);
    files(c, "Diffuse, specular and (unless in specular's alpha) gloss"), out(c, "The folder");
    c = command("mask", "Draw a black-and-white mask", mask);
    out(c, "FILE.png"), size(c, "Pixels a side");
    c->add_option("--shape", o.shapes,
                  "Such as 'rectangle 0.1 0.1 0.5 0.3' or 'turn=30 value=0.5 text 0 0.3 1 0.4 LINE 4'; later ones over earlier ones")
        ->required();
    c->add_option("--soft", o.soft, "Width of the soft edge, share of the height")->check(CLI::Range(0.0, 1.0));
    c->add_option("--ground", o.ground, "What is there before any shape")->capture_default_str()->check(CLI::Range(0.0, 1.0));
    c->add_flag("--seamless", o.seamless, "What leaves at one side comes in at the other");
    c = command("make", "Make a map from a wire of a master", makeFromWire);
    project(c), out(c, "FILE", false), size(c, "Pixels a side");
    c->add_option("--of", o.of, "A master, or Master/Instance")->required();
    c->add_option("--wire", o.wire, "CARD.PORT or CARD.PORT.TAKE, by ids")->required();
    c->add_option("--samples", o.samples, "Per sample")->check(CLI::IsMember({"8-bit", "16-bit", "half", "float"}));
    c->add_option("--name", o.name, "Make it a map of the project with this name");
    c->add_flag("--seamless", o.seamless, "Make its edges meet");
    c = command("remake", "Make all made and packed maps, and paint by live rules, again whose sources have changed", remake);
    project(c);
}

} // namespace hue::cli
