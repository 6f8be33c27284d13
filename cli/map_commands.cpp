#include "cli/map_commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/bake/made_maps.h"
#include "core/compress/block_file.h"
#include "core/compress/report.h"
#include "core/document/edits.h"
#include "core/maps/mask.h"
#include "core/maps/normal_tools.h"
#include "core/maps/tiling.h"
#include "core/store/map_index.h"

#include <CLI/CLI.hpp>
#include <charconv>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <sstream>

namespace hue::cli {
namespace {

namespace fs = std::filesystem;

std::string megabytes(size_t bytes) { return fmt::format("{:.2f} MB", double(bytes) / 1e6); }

std::optional<MapKind> kindByName(const std::string& name) {
    for (MapKind k : {MapKind::Color, MapKind::Data, MapKind::Normal, MapKind::Height})
        if (nameOf(k) == name) return k;
    return {};
}

Json channelJson(const ChannelFacts& c) {
    return {{"least", c.least},   {"most", c.most},           {"mean", c.mean},     {"deviation", c.deviation},
            {"levels", c.levels}, {"constant", c.constant()}, {"invalid", c.broken}};
}

std::vector<std::string> channelNames(int channels) {
    if (channels == 1) return {"grey"};
    if (channels == 2) return {"grey", "alpha"};
    std::vector<std::string> names{"red", "green", "blue", "alpha"};
    names.resize(size_t(channels));
    return names;
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
        const auto format = blockFormatByKey(m->format).value_or(BlockFormat::Plain8);
        const size_t bytes = k->problem.empty() ? bytesWithMips(format, k->facts.width, k->facts.height, k->facts.channels) : 0;
        maps.push_back(Json{{"name", m->name},
                            {"path", m->path},
                            {"kind", nameOf(m->kind)},
                            {"set", m->set},
                            {"role", m->role},
                            {"width", k->facts.width},
                            {"height", k->facts.height},
                            {"format", infoOf(format).key},
                            {"bytes", bytes},
                            {"readBy", edit::readersOf(p.project, m->id)}});
        if (!o.json)
            print(fmt::format("{:24} {:6} {:5} x {:<5} {:10} {:>9}  {}", m->name, nameOf(m->kind), k->facts.width, k->facts.height,
                              infoOf(format).name, megabytes(bytes),
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

int listRecipes(const MapOptions& o) {
    Json list = Json::array();
    for (const Recipe& r : builtInRecipes()) {
        if (!o.json) print(fmt::format("{:14} {} (needs {})", r.suffix.substr(1), r.name, fmt::join(r.sources(), ", ")));
        list.push_back(Json{{"name", r.name}, {"short", r.suffix.substr(1)}, {"needs", r.sources()}});
    }
    if (o.json) print(list);
    if (o.recipe.empty()) return 0;
    const auto recipe = findRecipe(o.recipe);
    if (!recipe) return fail(recipe.error());
    if (o.out.empty()) return fail("Say with --out where the recipe is to be written.");
    if (const Outcome written = writeRecipe(*recipe, o.out); !written) return fail(written.error());
    return 0;
}

int packMaps(const MapOptions& o) {
    if (!o.project.empty()) {
        // All packings of a project whose sources have changed, or that were never made.
        Options open_;
        open_.project = o.project;
        const auto opened = open(open_);
        if (!opened) return fail(opened.error());
        Opened& p = **opened;
        int made = 0;
        for (const auto& k : std::vector(p.project.packings)) {
            Packing packing = *k;
            if (!packing.map.empty() && fingerprintOf(p.project, p.assets, packing) == packing.fingerprint) continue;
            const auto map = packMap(p.project, p.assets, packing, {});
            if (!map) return fail(map.error());
            auto next = p.project.map(map->file.id) ? edit::changeMap(p.project, map->file) : edit::addMap(p.project, map->file);
            if (next) next = edit::changePacking(*next, packing);
            if (!next) return fail(next.error());
            p.project = std::move(*next);
            print(map->file.path);
            ++made;
        }
        if (!made) return 0;
        if (const Outcome saved = saveProject(p.project, o.project); !saved) return fail(saved.error());
        return 0;
    }
    if (o.recipe.empty() || o.out.empty())
        return fail("Packing needs a --recipe and where to write, --out; or a --project whose packings are to be made.");
    auto recipe = findRecipe(o.recipe);
    if (!recipe) return fail(recipe.error());
    if (o.size) recipe->size = o.size;
    if (!o.folder.empty()) {
        const auto sets = setsInFolder(o.folder, o.pattern);
        if (!sets) return fail(sets.error());
        bool problems = sets->empty();
        if (sets->empty()) fmt::print(stderr, "hsk: nothing in {} matches {}.\n", o.folder, o.pattern);
        for (const FileSet& set : *sets) {
            PackRequest request;
            request.recipe = *recipe;
            request.sources = set.maps;
            const fs::path to = fs::path(o.out) / (set.name + recipe->suffix +
                                                   (recipe->type == SampleType::U8 || recipe->type == SampleType::U16 ? ".png" : ".exr"));
            if (const Outcome done = packToFile(request, to); !done) {
                problems = true;
                fmt::print(stderr, "hsk: {}: {}\n", set.name, done.error().sentence);
            } else {
                print(to.string());
            }
        }
        return problems ? 1 : 0;
    }
    PackRequest request;
    request.recipe = *recipe;
    for (const std::string& s : o.sources) {
        const size_t equals = s.find('=');
        if (equals == std::string::npos) return fail(fmt::format("{} should be ROLE=FILE, such as roughness=setts_rough.png.", s));
        const std::string role = s.substr(0, equals), file = s.substr(equals + 1);
        request.sources[role] = {file, kindOf(role)};
    }
    const auto plan = planPack(request);
    if (!plan) return fail(plan.error());
    if (const Outcome done = packToFile(request, o.out); !done) return fail(done.error());
    if (o.json)
        print(Json{{"file", o.out},
                   {"width", plan->width},
                   {"height", plan->height},
                   {"channels", plan->channels},
                   {"direct", plan->direct},
                   {"workingBytes", plan->workingBytes}});
    else print(fmt::format("{}: {} x {}, {} channels", o.out, plan->width, plan->height, plan->channels));
    return 0;
}

int unpackMaps(const MapOptions& o) {
    std::optional<Recipe> recipe;
    if (!o.recipe.empty()) {
        auto found = findRecipe(o.recipe);
        if (!found) return fail(found.error());
        recipe = *found;
    }
    bool problems = false;
    for (const std::string& file : o.files) {
        const auto written = unpack(file, recipe ? &*recipe : nullptr, o.out);
        if (!written) {
            problems = true;
            fmt::print(stderr, "hsk: {}\n", written.error().sentence);
            continue;
        }
        for (const fs::path& p : *written) print(p.string());
    }
    return problems ? 2 : 0;
}

Json reportJson(const FormatReport& r) {
    Json channels = Json::array();
    for (int c = 0; c < r.channels; ++c)
        channels.push_back(
            Json{{"psnr", r.channel[size_t(c)].psnr}, {"worst", r.channel[size_t(c)].worst}, {"visible", r.channel[size_t(c)].visible}});
    return Json{{"format", infoOf(r.format).key},
                {"bytes", r.bytes},
                {"bitsPerPixel", r.bitsPerPixel},
                {"psnr", r.psnr},
                {"visible", r.visible},
                {"normalError", r.normalError},
                {"normalWorst", r.normalWorst},
                {"blockMarks", r.blockMarks},
                {"channels", channels}};
}

int compressMap(const MapOptions& o) {
    const std::string file = o.files[0];
    const Result<Image> image = readImage(file);
    if (!image) return fail(image.error());
    const MapFacts facts = factsOf(*image);
    const MapKind kind = o.kind.empty() ? guessOf(fs::path(file).filename().string(), facts).kind : *kindByName(o.kind);
    EncodeOptions options;
    options.srgb = kind == MapKind::Color;
    options.effort = o.effort == "quick" ? Effort::Quick : o.effort == "best" ? Effort::Best : Effort::Usual;
    BlockFormat format = BlockFormat::Plain8;
    std::string reason;
    bool good = true;
    if (o.format == "auto") {
        ChooseRequest request;
        request.family = o.family == "astc" ? FormatFamily::Astc : FormatFamily::Bc;
        request.leastPsnr = o.leastPsnr;
        if (o.mostMegabytes > 0) request.mostBytes = size_t(o.mostMegabytes * 1e6);
        const auto choice = chooseFormat(*image, facts, kind, request);
        if (!choice) return fail(choice.error());
        format = choice->format, reason = choice->reason, good = choice->fits;
    } else if (const auto named = blockFormatByKey(o.format)) {
        format = *named;
    } else {
        std::vector<std::string_view> keys;
        for (int f = 0; f < int(BlockFormat::Count); ++f) keys.push_back(infoOf(BlockFormat(f)).key);
        return fail(fmt::format("There is no format {}. There are: auto, {}.", o.format, fmt::join(keys, ", ")));
    }
    const auto report = reportOn(*image, kind, format, options);
    if (!report) return fail(report.error());
    if (!o.errorPicture.empty())
        if (const Outcome written = writeImage(o.errorPicture, errorPicture(*image, report->decoded, 8), PixelEncoding::Data); !written)
            return fail(written.error());
    if (!o.out.empty()) {
        MipMeaning meaning;
        Image normals;
        if (!o.recipe.empty()) {
            const auto recipe = findRecipe(o.recipe);
            if (!recipe) return fail(recipe.error());
            if (recipe->channels() > image->channels)
                return fail(
                    fmt::format("{} has {} channels and the recipe {} has {}.", file, image->channels, recipe->name, recipe->channels()));
            meaning = mipMeaningOf(*recipe);
        }
        if (!o.normals.empty()) {
            auto read = readImage(o.normals);
            if (!read) return fail(read.error());
            if (read->width != image->width || read->height != image->height)
                *read = resized(*read, image->width, image->height, Filter::Box);
            normals = std::move(*read);
            meaning.normals = &normals;
            if (meaning.roughness < 0) meaning.roughness = image->channels >= 3 ? 1 : 0;
        }
        meaning.encoded = kind == MapKind::Color;
        if (kind == MapKind::Normal && image->channels >= 3) meaning.normal = {0, 1, 2};
        if (guessOfName(fs::path(file).filename().string()).role == "opacity") meaning.coverage = image->channels == 4 ? 3 : 0;
        const auto map = compressed(o.mips ? makeMips(*image, meaning) : std::vector<Image>{*image}, format, options);
        if (!map) return fail(map.error());
        if (const Outcome written = writeBlockFile(o.out, *map, {.zstd = o.zstd}); !written) return fail(written.error());
    }
    if (o.json) {
        Json j = reportJson(*report);
        if (!reason.empty()) j["reason"] = reason;
        j["fits"] = good;
        print(j);
    } else {
        if (!reason.empty()) print(reason);
        print(fmt::format("{}: {} with mips, {:.2f} bits a pixel, {:.1f} dB, visible {:.4f}", infoOf(format).name, megabytes(report->bytes),
                          report->bitsPerPixel, report->psnr, report->visible));
        const auto names = channelNames(image->channels);
        for (size_t c = 0; c < names.size(); ++c)
            print(fmt::format("  {:6} {:.1f} dB, worst {:.3f}, visible {:.4f}", names[c], report->channel[c].psnr, report->channel[c].worst,
                              report->channel[c].visible));
        print(fmt::format("  normals made from it turn by {:.2f} degrees, 1 % by more than {:.2f}; block marks {:.2f}", report->normalError,
                          report->normalWorst, report->blockMarks));
    }
    return good ? 0 : 1;
}

int makeSeamlessMaps(const MapOptions& o) {
    std::vector<Image> set;
    SeamlessRequest request;
    request.method = o.method == "blend" ? SeamMethod::Blend : SeamMethod::Cut;
    request.band = float(o.band);
    for (const std::string& file : o.files) {
        auto image = readImage(file);
        if (!image) return fail(image.error());
        request.normals.push_back(guessOf(fs::path(file).filename().string(), factsOf(*image)).kind == MapKind::Normal);
        set.push_back(std::move(*image));
    }
    const auto made = makeSeamless(set, request);
    if (!made) return fail(made.error());
    for (size_t i = 0; i < set.size(); ++i) {
        const fs::path to = fs::path(o.out) / fs::path(o.files[i]).filename();
        const bool color = guessOfName(to.filename().string()).kind == MapKind::Color;
        if (const Outcome written = writeImage(to, (*made)[i], color ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
            return fail(written.error());
        print(fmt::format("{}: seam {:.2f} before, {:.2f} after", to.string(), seamMeter(set[i]).worst(), seamMeter((*made)[i]).worst()));
    }
    return 0;
}

int normalMaps(const MapOptions& o) {
    auto image = readImage(o.files[0]);
    if (!image) return fail(image.error());
    const HeightScale scale{float(o.width), float(o.depth)};
    Image out;
    if (o.operation == "flip-green") out = image->channels >= 3 ? flippedGreen(*image) : *image;
    else if (o.operation == "renormalise") out = renormalised(*image);
    else if (o.operation == "rebuild-z") out = renormalised(*image, true);
    else if (o.operation == "strength") out = withStrength(*image, float(o.strength));
    else if (o.operation == "join") {
        const auto detail = readImage(o.join);
        if (!detail) return fail(detail.error());
        auto joined = joinedNormals(*image, *detail);
        if (!joined) return fail(joined.error());
        out = std::move(*joined);
    } else if (o.operation == "from-height")
        out = normalsFromHeight(planeOf(*image, 0), scale, image->type == SampleType::U16 ? SampleType::U16 : SampleType::U8);
    else if (o.operation == "to-height") {
        float depth = 0;
        out = imageOf({heightFromNormals(*image, scale.width, &depth)}, SampleType::U16);
        print(fmt::format("depth {:.4g} m over {:.4g} m", depth, scale.width));
    } else if (o.operation == "occlusion") out = imageOf({occlusionFromHeight(planeOf(*image, 0), scale)}, SampleType::U8);
    else if (o.operation == "curvature") out = imageOf({curvatureFromHeight(planeOf(*image, 0), scale)}, SampleType::U8);
    if (const Outcome written = writeImage(o.out, out, PixelEncoding::Data); !written) return fail(written.error());
    return 0;
}

int glossToMetallic(const MapOptions& o) {
    std::vector<Image> maps;
    for (const std::string& file : o.files) {
        auto image = readImage(file);
        if (!image) return fail(image.error());
        maps.push_back(std::move(*image));
    }
    const auto made = fromSpecularGloss(maps[0], maps[1], maps.size() > 2 ? &maps[2] : nullptr);
    if (!made) return fail(made.error());
    std::string stem = setNameOf(fs::path(o.files[0]).filename().string());
    std::replace(stem.begin(), stem.end(), ' ', '_');
    const std::pair<const char*, const Image*> files[] = {
        {"_color.png", &made->baseColor}, {"_metallic.png", &made->metallic}, {"_roughness.png", &made->roughness}};
    for (const auto& [suffix, image] : files) {
        const fs::path to = fs::path(o.out) / (stem + suffix);
        if (const Outcome written = writeImage(to, *image, image == &made->baseColor ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
            return fail(written.error());
        print(to.string());
    }
    return 0;
}

/// "rectangle X Y WIDTH HEIGHT", "line X1 Y1 X2 Y2 THICKNESS", "polygon X1 Y1 X2 Y2 ...", "text X Y WIDTH HEIGHT WORDS".
Result<MaskShape> shapeOf(const std::string& text, double soft) {
    std::istringstream in(text);
    std::string kind;
    in >> kind;
    MaskShape s;
    s.soft = float(soft);
    auto bad = [&] {
        return Error{"mask.shape",
                     fmt::format("{} is no shape. Such are: rectangle 0.1 0.1 0.5 0.3; ellipse 0.2 0.2 0.4 0.4; line 0 0 1 1 0.02; polygon "
                                 "0 0 1 0 0.5 1; text 0 0.3 1 0.4 LINE 4.",
                                 text),
                     {}};
    };
    if (kind == "rectangle" || kind == "ellipse" || kind == "text") {
        s.kind = kind == "ellipse" ? MaskShape::Kind::Ellipse : kind == "text" ? MaskShape::Kind::Text : MaskShape::Kind::Rectangle;
        if (!(in >> s.x >> s.y >> s.width >> s.height)) return bad();
        if (kind == "text") {
            std::getline(in >> std::ws, s.text);
            if (s.text.empty()) return bad();
        }
        return s;
    }
    std::vector<float> numbers;
    for (float v; in >> v;) numbers.push_back(v);
    if (kind == "line" && numbers.size() >= 5 && numbers.size() % 2 == 1) {
        s.kind = MaskShape::Kind::Line;
        s.thickness = numbers.back();
        numbers.pop_back();
    } else if (kind == "polygon" && numbers.size() >= 6 && numbers.size() % 2 == 0) {
        s.kind = MaskShape::Kind::Polygon;
    } else {
        return bad();
    }
    for (size_t i = 0; i + 1 < numbers.size(); i += 2) s.points.emplace_back(numbers[i], numbers[i + 1]);
    return s;
}

int mask(const MapOptions& o) {
    MaskDrawing d;
    d.width = d.height = o.size ? o.size : 1024;
    d.seamless = o.seamless;
    for (const std::string& text : o.shapes) {
        const auto shape = shapeOf(text, o.soft);
        if (!shape) return fail(shape.error());
        d.shapes.push_back(*shape);
    }
    const auto plane = drawMask(d);
    if (!plane) return fail(plane.error());
    if (const Outcome written = writeImage(o.out, imageOf({*plane}, SampleType::U8), PixelEncoding::Data); !written)
        return fail(written.error());
    return 0;
}

std::optional<SampleType> samplesByName(const std::string& name) {
    for (SampleType t : {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32})
        if (nameOf(t) == name) return t;
    return {};
}

int makeFromWire(const MapOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    auto origin = originOfLane(p.project, o.of + ": " + o.wire);
    if (!origin)
        return fail(
            fmt::format("There is no {} in {}, or {} is no wire (CARD.PORT or CARD.PORT.TAKE, by ids).", o.of, p.project.name, o.wire));
    origin->width = origin->height = o.size ? o.size : 1024;
    origin->type = samplesByName(o.samples).value_or(SampleType::U8);
    origin->seamless = o.seamless;
    if (!o.name.empty()) {
        MapFile map;
        map.id = newId('t');
        map.name = o.name;
        map.origin = *origin;
        const auto made = makeMap(p.project, p.assets, map, {});
        if (!made) return fail(made.error());
        const auto next = edit::addMap(p.project, made->file);
        if (!next) return fail(next.error());
        if (const Outcome saved = saveProject(*next, o.project); !saved) return fail(saved.error());
        print(made->file.path);
        for (const std::string& c : made->cautions) fmt::print(stderr, "caution: {}\n", c);
        return 0;
    }
    if (o.out.empty()) return fail("Say with --out where the map is to be written, or with --name that it becomes a map of the project.");
    const auto picture = pictureOfWire(p.project, p.assets, *origin, {});
    if (!picture) return fail(picture.error());
    const bool integer = origin->type == SampleType::U8 || origin->type == SampleType::U16;
    if (const Outcome written =
            writeImage(o.out, picture->image, picture->kind == MapKind::Color && integer ? PixelEncoding::Srgb : PixelEncoding::Data);
        !written)
        return fail(written.error());
    for (const std::string& c : picture->cautions) fmt::print(stderr, "caution: {}\n", c);
    return 0;
}

int remake(const MapOptions& o) {
    Options open_;
    open_.project = o.project;
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Stale stale = staleMaps(p.project, p.assets);
    for (const Id& id : stale.maps) {
        const auto made = makeMap(p.project, p.assets, *p.project.map(id), {});
        if (!made) return fail(made.error());
        p.project = *edit::changeMap(p.project, made->file);
        print(made->file.path);
    }
    if (!stale.maps.empty())
        if (const Outcome saved = saveProject(p.project, o.project); !saved) return fail(saved.error());
    return packMaps(o);
}

} // namespace

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
    c->add_option("--source", o.sources, "ROLE=FILE, such as roughness=setts_rough.png; repeat for each");
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
    c->add_option("--shape", o.shapes, "Such as 'rectangle 0.1 0.1 0.5 0.3' or 'text 0 0.3 1 0.4 LINE 4'; later ones over earlier ones")
        ->required();
    c->add_option("--soft", o.soft, "Width of the soft edge, share of the height")->check(CLI::Range(0.0, 1.0));
    c->add_flag("--seamless", o.seamless, "What leaves at one side comes in at the other");
    c = command("make", "Make a map from a wire of a master", makeFromWire);
    project(c), out(c, "FILE", false), size(c, "Pixels a side");
    c->add_option("--of", o.of, "A master, or Master/Instance")->required();
    c->add_option("--wire", o.wire, "CARD.PORT or CARD.PORT.TAKE, by ids")->required();
    c->add_option("--samples", o.samples, "Per sample")->check(CLI::IsMember({"8-bit", "16-bit", "half", "float"}));
    c->add_option("--name", o.name, "Make it a map of the project with this name");
    c->add_flag("--seamless", o.seamless, "Make its edges meet");
    c = command("remake", "Make all made and packed maps again whose sources have changed", remake);
    project(c);
}

} // namespace hue::cli
