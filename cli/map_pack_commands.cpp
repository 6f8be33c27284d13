// Packing, unpacking, and maps that a project makes.
#include "cli/map_commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/edits/edits.h"
#include "core/make/made_maps.h"
#include "core/maps/statistics.h"
#include "core/paint/live_rules.h"

#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {

namespace fs = std::filesystem;

int listRecipes(const MapOptions& o) {
    if (o.recipe.empty()) {
        Json list = Json::array();
        for (const Recipe& r : builtInRecipes()) {
            if (!o.json) print(fmt::format("{:14} {} (needs {})", r.suffix.substr(1), r.name, fmt::join(r.sources(), ", ")));
            list.push_back(Json{{"name", r.name}, {"short", r.suffix.substr(1)}, {"needs", r.sources()}});
        }
        if (o.json) print(list);
        return 0;
    }
    const auto recipe = findRecipe(o.recipe);
    if (!recipe) return fail(recipe.error());
    if (o.out.empty()) return fail("Say with --out where the recipe is to be written.");
    if (const Outcome written = writeRecipe(*recipe, o.out); !written) return fail(written.error());
    return 0;
}

/// Made and packed maps of a project whose sources have changed, packings that were never made, and paint by live rules. What could be made
/// is kept when another fails. `packedOnly`: maps made of wires and paint are left as they are.
static int makeStale(const MapOptions& o, bool packedOnly) {
    Options open_;
    open_.project = o.project;
    // Whoever else wants to change it waits from before it is read until it is written.
    const auto lock = RewriteLock::take(o.project);
    if (!lock) return fail(lock.error());
    const auto opened = open(open_);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Remade remade = remakeStale(p.project, p.assets, {}, packedOnly ? Remake::Packed : Remake::All);
    for (size_t i = 0; i < remade.failures.size(); ++i) fmt::print(stderr, "hsk: {}: {}\n", remade.failed[i], remade.failures[i].sentence);
    Result<Project> next = remade.maps.empty() ? p.project : withRemade(p.project, remade);
    if (!next) return fail(next.error());
    // Paint by wires that read those maps.
    const LivePaint live = packedOnly ? LivePaint{} : reckonLive(*next, p.assets, {});
    for (const UnreckonedRules& f : live.failures) fmt::print(stderr, "hsk: {}\n", f.error.sentence);
    if (!live.channels.empty()) next = withLive(*next, live);
    if (!remade.maps.empty() || !live.channels.empty()) {
        if (const Outcome saved = saveProject(*next, o.project, {p.hash, &*lock}); !saved) return fail(saved.error());
        for (const MadeMap& made : remade.maps) print(made.file.path);
        for (const ReckonedRules& r : live.channels)
            print(fmt::format("{}, channel {}", next->paintwork(r.paintwork)->name, r.channel + 1));
    }
    return remade.failures.empty() && live.failures.empty() ? 0 : 1;
}

int packMaps(const MapOptions& o) {
    if (!o.project.empty()) return makeStale(o, true);
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
            request.sources = set.maps;
            std::vector<std::string> filled;
            request.recipe = withNeutrals(
                *recipe, [&](const std::string& role) { return set.maps.contains(role); }, filled);
            if (!filled.empty())
                fmt::print(stderr, "hsk: {} has no map for some lanes, so they hold {}.\n", set.name, fmt::join(filled, ", "));
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
        float number = 0;
        const auto [end, odd] = std::from_chars(file.data(), file.data() + file.size(), number);
        std::error_code none;
        if (odd == std::errc{} && end == file.data() + file.size() && std::isfinite(number) && !fs::exists(file, none)) {
            const auto with = withNumber(request.recipe, role, number);
            if (!with) return fail(with.error());
            request.recipe = *with;
        } else {
            request.sources[role] = {file, kindOf(role)};
        }
    }
    std::vector<std::string> filled;
    // Where nothing is given at all, the first that is missing is said instead.
    if (!o.sources.empty())
        request.recipe = withNeutrals(
            request.recipe, [&](const std::string& role) { return request.sources.contains(role); }, filled);
    if (!filled.empty()) fmt::print(stderr, "hsk: no map is given for some lanes, so they hold {}.\n", fmt::join(filled, ", "));
    const auto plan = planPack(request);
    if (!plan) return fail(plan.error());
    if (const Outcome done = packToFile(request, o.out); !done) return fail(done.error());
    if (o.json)
        print(Json{{"file", o.out},
                   {"width", plan->width},
                   {"height", plan->height},
                   {"channels", plan->channels},
                   {"flows", plan->flows},
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

static std::optional<SampleType> samplesByName(const std::string& name) {
    for (SampleType t : {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32})
        if (nameOf(t) == name) return t;
    return {};
}

int makeFromWire(const MapOptions& o) {
    Options open_;
    open_.project = o.project;
    // Whoever else wants to change it waits from before it is read until it is written.
    const auto lock = RewriteLock::take(o.project);
    if (!lock) return fail(lock.error());
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
        if (const Outcome saved = saveProject(*next, o.project, {p.hash, &*lock}); !saved) return fail(saved.error());
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

int remake(const MapOptions& o) { return makeStale(o, false); }

} // namespace hue::cli
