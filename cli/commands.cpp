#include "cli/commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "cli/picture_check.h"
#include "core/base/diagnostic.h"
#include "core/base/files.h"
#include "core/check/check.h"
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/decals/decal_problems.h"
#include "core/dispatch/dispatch.h"
#include "core/emit/emit_glsl.h"
#include "core/image_files/picture_file.h"
#include "core/languages/languages.h"
#include "core/make/made_maps.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/paint/live_rules.h"
#include "core/paint/paint_problems.h"
#include "core/program/passes/passes.h"
#include "core/program/uniform_layout.h"
#include "core/project/frame_inputs.h"
#include "core/project/map_index.h"
#include "core/surface/channels.h"
#include "core/surface/surface_stages.h"
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

Json diagnosticJson(const Project& p, const Diagnostic& d) {
    Json fixes = Json::array();
    for (const Fix& f : d.fixes) fixes.push_back(f.label);
    return Json{
        {"severity", nameOf(d.severity)}, {"code", d.code}, {"place", placeText(p, d.place)}, {"sentence", d.sentence}, {"fixes", fixes}};
}

std::string megabytes(size_t bytes) { return fmt::format("{:.2f} MB", double(bytes) / 1e6); }

} // namespace

int check(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    if (!o.keptPictures.empty()) return checkPictures(p, {o.keptPictures, o.differing, o.keep, o.limit});
    std::vector<Diagnostic> all = p.report;
    MapIndex index;
    const auto bounds = [&](const Id& map) {
        if (const MapFile* file = p.project.map(map)) index.look(p.assets.resolve(file->path));
        return boundsOfMap(p.project, p.assets, index, map);
    };
    for (auto& d : checkProject(p.project, bounds)) all.push_back(std::move(d));
    for (auto& d : p.assets.problems(p.project)) all.push_back(std::move(d));
    for (auto& d : paintProblems(p.project, p.assets)) all.push_back(std::move(d));
    for (auto& d : decalProblems(p.project, p.assets)) all.push_back(std::move(d));
    for (auto& d : staleProblems(p.project, p.assets)) all.push_back(std::move(d));
    for (auto& d : livePaintProblems(p.project, p.assets)) all.push_back(std::move(d));
    bool problems = false;
    Json list = Json::array();
    for (const Diagnostic& d : all) {
        problems = problems || d.severity != Severity::Advice;
        if (o.json) list.push_back(diagnosticJson(p.project, d));
        else print(fmt::format("{} {} {}: {}", nameOf(d.severity), d.code, placeText(p.project, d.place), d.sentence));
    }
    if (o.json) print(list);
    return problems ? 1 : 0;
}

int nodes(const Options& o) {
    Json list = Json::array();
    for (const NodeDef& def : catalogue()) {
        std::vector<std::string_view> in, out;
        for (const PortDef& p : def.inputs) in.push_back(p.key);
        for (const PortDef& p : def.outputs) out.push_back(p.key);
        if (!o.json) {
            print(fmt::format("{:22} {:17} {} -> {}\n{:22} {}", def.name, def.family, fmt::join(in, ", "), fmt::join(out, ", "), "",
                              def.help));
            continue;
        }
        Json settings = Json::object();
        for (const SettingDef& s : def.settings) settings[std::string(s.key)] = s.choices;
        list.push_back(Json{{"kind", def.key},
                            {"name", def.name},
                            {"family", def.family},
                            {"help", def.help},
                            {"inputs", in},
                            {"outputs", out},
                            {"settings", settings}});
    }
    if (o.json) print(list);
    return 0;
}

int list(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    const Project& p = (*opened)->project;
    Json masters = Json::array(), instances = Json::array(), maps = Json::array(), meshes = Json::array();
    for (const auto& m : p.masters) {
        Json parameters = Json::array();
        for (const Parameter& q : m->parameters)
            parameters.push_back(Json{{"name", q.name}, {"code", q.codeName}, {"group", q.group}, {"description", q.description}});
        Json cards = Json::array();
        for (const auto& [id, node] : m->graph.nodes)
            cards.push_back(Json{{"id", id}, {"kind", node->kind}, {"title", cardTitle(p, *m, *node)}});
        masters.push_back(Json{{"name", m->name},
                               {"id", m->id},
                               {"cards", m->graph.nodes.size()},
                               {"cardList", cards},
                               {"alphaMode", nameOf(m->surface.alphaMode)},
                               {"parameters", parameters}});
    }
    Json assemblies = Json::array();
    for (const AssemblyPtr& a : p.assemblies) {
        Json inputs = Json::array(), outputs = Json::array(), users = Json::array();
        for (const Parameter& q : a->parameters)
            inputs.push_back(Json{{"name", q.name}, {"port", q.codeName}, {"description", q.description}});
        for (const AssemblyOutput& output : cardOf(*a).outputs) outputs.push_back(Json{{"name", output.name}, {"port", output.key}});
        for (const AssemblyUse& use : usesOf(p, a->id)) users.push_back(Json{{"board", p.board(use.board)->name}, {"card", use.card}});
        assemblies.push_back(Json{{"name", a->name},
                                  {"id", a->id},
                                  {"version", a->version},
                                  {"description", a->description},
                                  {"inputs", inputs},
                                  {"outputs", outputs},
                                  {"usedBy", users}});
    }
    for (const auto& i : p.instances)
        instances.push_back(Json{{"name", p.nameOf(i->id)},
                                 {"id", i->id},
                                 {"parent", p.nameOf(i->parent)},
                                 {"ownValues", i->own.size()},
                                 {"wornBy", wearersOf(p, i->id)}});
    for (const auto& m : p.maps) maps.push_back(Json{{"name", m->name}, {"id", m->id}, {"path", m->path}, {"kind", nameOf(m->kind)}});
    for (const auto& m : p.meshes) meshes.push_back(Json{{"name", m->name}, {"id", m->id}, {"path", m->path}});
    if (o.json) {
        print(Json{{"project", p.name},
                   {"masters", masters},
                   {"assemblies", assemblies},
                   {"instances", instances},
                   {"maps", maps},
                   {"meshes", meshes}});
        return 0;
    }
    for (const auto& m : p.masters) {
        print(fmt::format("master {}: {} cards, {}", m->name, m->graph.nodes.size(), nameOf(m->surface.alphaMode)));
        for (const Parameter& q : m->parameters)
            print(fmt::format("  parameter {} ({}){}", q.name, q.codeName, q.description.empty() ? "" : ": " + q.description));
        for (const auto& [id, node] : m->graph.nodes) print(fmt::format("  card {}: {} ({})", id, cardTitle(p, *m, *node), node->kind));
    }
    for (const AssemblyPtr& a : p.assemblies) {
        print(fmt::format("assembly {}: version {}, {} cards, used {} times", a->name, a->version, a->graph.nodes.size(),
                          usesOf(p, a->id).size()));
        for (const Parameter& q : a->parameters)
            print(fmt::format("  input {} ({}){}", q.codeName, q.name, q.description.empty() ? "" : ": " + q.description));
        for (const AssemblyOutput& output : cardOf(*a).outputs) print(fmt::format("  output {} ({})", output.key, output.name));
    }
    for (const auto& i : p.instances)
        print(fmt::format("instance {}: {} own values, parent {}", p.nameOf(i->id), i->own.size(), p.nameOf(i->parent)));
    for (const auto& m : p.maps) print(fmt::format("map {}: {} ({})", m->name, m->path, nameOf(m->kind)));
    for (const auto& m : p.meshes) print(fmt::format("mesh {}: {}", m->name, m->path));
    return 0;
}

int cost(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Result<Id> worn = find(p.project, o.of);
    if (!worn) return fail(worn.error());
    const Resolved resolved = resolve(p.project, *worn);
    const Compilation compiled = compileSurface(p.project, *resolved.master);
    const Cost c =
        costOf(*compiled.program, compiled.offset.get(), [&](const MapSlot& slot) { return p.assets.map(p.project, resolved, slot); });
    if (o.json) {
        Json operations = Json::object();
        for (Rate r : {Rate::Frame, Rate::Placement, Rate::Vertex, Rate::Pixel})
            operations[std::string(nameOf(r))] = c.operations[size_t(r)];
        print(Json{{"of", o.of},
                   {"operations", operations},
                   {"leastOperationsPerPixel", c.leastOperationsPerPixel()},
                   {"fetches", c.fetches},
                   {"leastFetches", c.leastFetches()},
                   {"dependentFetches", c.dependentFetches},
                   {"vertexFetches", c.vertexFetches},
                   {"carried", c.carried},
                   {"samplers", c.samplers},
                   {"mapBytes", c.mapBytes}});
    } else {
        for (Rate r : {Rate::Frame, Rate::Placement, Rate::Vertex, Rate::Pixel})
            print(fmt::format("operations per {:9} {}", nameOf(r), c.operations[size_t(r)]));
        print(fmt::format("fetches {} ({} dependent)", c.fetches, c.dependentFetches));
        if (c.skips())
            print(fmt::format("at best, where masks hide most: {} operations per pixel, fetches {}", c.leastOperationsPerPixel(),
                              c.leastFetches()));
        if (c.vertexFetches) print(fmt::format("fetches per vertex {}", c.vertexFetches));
        if (c.carried) print(fmt::format("numbers carried from vertices {}", c.carried));
        print(fmt::format("samplers {}\nmaps {}", c.samplers, megabytes(c.mapBytes)));
    }
    return compiled.ok ? 0 : 1;
}

int shader(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    const Result<Id> worn = find((*opened)->project, o.of);
    if (!worn) return fail(worn.error());
    PassOptions listed{o.without, {}};
    if (o.passes)
        listed.log = [](std::string_view pass, const Program& program, bool changed) {
            const bool vertices = program.output("vertex_offset") >= 0;
            print(fmt::format("{:<16} {:>5} operations{}{}", pass, program.code.size(), vertices ? " of the vertex offset" : "",
                              changed ? "" : "  nothing to do"));
        };
    const Compilation compiled = compileSurface((*opened)->project, *(*opened)->project.masterOf(*worn), Constants::Folded, listed);
    if (o.passes) return compiled.ok ? 0 : 1;
    if (!o.language.empty()) {
        const Project& project = (*opened)->project;
        const LanguageDef& language = *findLanguage(o.language);
        if (!compiled.ok) return fail(fmt::format("{} has errors; hsk check lists them.", o.of));
        if (!language.text && o.out.empty()) return fail(fmt::format("{} is no text. Give a file with --out.", language.name));
        const Result<std::string> text =
            surfaceFunction(*stagesOf(compiled, Carry::Asked).pixels, project, *project.masterOf(*worn), language.language);
        if (!text) return fail(text.error());
        if (o.out.empty()) return print(*text), 0;
        const Outcome written = writeFile(o.out, *text);
        return written ? 0 : fail(written.error());
    }
    const Stages stages = stagesOf(compiled);
    const std::string text = o.stage != "vertex" ? surfaceFragmentStage(*stages.pixels, uniformLayout(*stages.pixels))
                             : stages.vertices   ? vertexStage(*stages.vertices, uniformLayout(*stages.vertices))
                                                 : vertexStage();
    if (o.out.empty()) print(text);
    else if (const Outcome written = writeFile(o.out, text); !written) return fail(written.error());
    return compiled.ok ? 0 : 1;
}

int evaluate(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Result<Id> worn = find(p.project, o.of);
    if (!worn) return fail(worn.error());
    const ChannelDef* channel = findChannel(o.channel);
    if (!channel) {
        std::vector<std::string_view> keys;
        for (const ChannelDef& c : channels()) keys.push_back(c.key);
        return fail(fmt::format("There is no channel {}. There are: {}.", o.channel, fmt::join(keys, ", ")));
    }
    if (const Outcome flat = canBeFlat(p.project, *worn, channel->key); !flat) return fail(flat.error());
    Result<Picture> picture = Error{};
    if (o.engine == "gl") {
        auto context = EglContext::create();
        if (!context) return fail(context.error());
        (*context)->makeCurrent();
        const Resolved resolved = resolve(p.project, *worn);
        const Compilation compiled = compileSurface(p.project, *resolved.master);
        if (!compiled.ok) return fail(fmt::format("{} has errors; hsk check lists them.", o.of));
        const Evaluator evaluator(compiled.program);
        Renderer renderer;
        picture =
            renderer.evaluateFlat(evaluator, evaluator.frame(frameInputs(p.project, p.assets, resolved, o.time)), channel->key, o.size);
    } else {
        picture = evaluateChannel(p.project, p.assets, *worn, channel->key, o.size, o.time, {});
    }
    if (!picture) return fail(picture.error());
    const Result<size_t> invalid =
        writePicture(o.out, *picture, channel->meaning == Meaning::Color ? PictureEncoding::Srgb : PictureEncoding::Linear);
    if (!invalid) return fail(invalid.error());
    if (*invalid == 0) return 0;
    fmt::print(stderr, "hsk: {} values were not finite and were written as 0.\n", *invalid);
    return 1;
}

static int bakeSpecimenMaps(const Options& o, Opened& p) {
    const Result<Specimen> specimen = findSpecimen(p.project, o.specimen);
    if (!specimen) return fail(specimen.error());
    const Result<BakedSpecimen> baked = bakeSpecimen(p.project, p.assets, *specimen, {o.size, o.time, o.uvSet - 1, {}});
    if (!baked) return fail(baked.error());
    const auto files = writeBake(*baked, o.out);
    if (!files) return fail(files.error());
    if (o.json) {
        Json slots = Json::array();
        for (const BakedSlot& s : baked->slots)
            slots.push_back({{"slot", s.name}, {"wears", p.project.nameOf(s.worn)}, {"emissiveStrength", s.set.emissiveStrength}});
        print(Json{{"files", *files}, {"slots", slots}, {"cautions", baked->cautions()}});
    } else {
        for (const std::string& f : *files) print(f);
        for (const BakedSlot& s : baked->slots)
            if (s.set.emissiveStrength > 1) print(fmt::format("{}: emissive strength {:.4g}", s.name, s.set.emissiveStrength));
        printCautions(baked->cautions());
    }
    return baked->invalid() ? 1 : 0;
}

int bakeMaps(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    if (o.specimen > 0) return bakeSpecimenMaps(o, p);
    const Result<Id> worn = find(p.project, o.of);
    if (!worn) return fail(worn.error());
    const Result<BakedSet> set = bake(p.project, p.assets, {*worn, o.size, o.time, {}});
    if (!set) return fail(set.error());
    const auto files = writeBake(*set, o.out);
    if (!files) return fail(files.error());
    if (o.json) {
        print(Json{{"files", *files}, {"emissiveStrength", set->emissiveStrength}, {"cautions", set->cautions}});
    } else {
        for (const std::string& f : *files) print(f);
        if (set->emissiveStrength > 1) print(fmt::format("emissive strength {:.4g}", set->emissiveStrength));
        printCautions(set->cautions);
    }
    return set->invalid() ? 1 : 0;
}

/// Of a specimen, or of something worn on a mesh.
static Result<DispatchReport> dispatched(const Options& o, Opened& p) {
    if (o.specimen > 0) {
        const Result<Specimen> specimen = findSpecimen(p.project, o.specimen);
        if (!specimen) return specimen.error();
        return dispatchSpecimen(p.project, p.assets, *specimen, {o.size, o.time, o.uvSet - 1, {}}, o.out);
    }
    if (o.mesh.empty())
        return Error{"name.unknown", "It is not said which mesh goes out. Name one with --mesh, or a specimen with --specimen.", {}};
    const Result<Id> worn = find(p.project, o.of);
    if (!worn) return worn.error();
    const Result<Id> mesh = findMesh(p.project, o.mesh);
    if (!mesh) return mesh.error();
    return dispatchGlb(p.project, p.assets, {*worn, o.size, o.time, {}}, *mesh, o.out);
}

int dispatchFile(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    const auto report = dispatched(o, **opened);
    if (!report) return fail(report.error());
    if (o.json) {
        print(Json{{"written", report->lines}, {"cautions", report->cautions}});
    } else {
        for (const std::string& l : report->lines) print(l);
        printCautions(report->cautions);
    }
    return report->invalid ? 1 : 0;
}

} // namespace hue::cli
