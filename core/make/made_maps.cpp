#include "core/make/made_maps.h"

#include "core/document/drawn.h"

#include "core/make/flat_limits.h"

#include "core/base/diagnostic.h"
#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/compile/compile.h"
#include "core/document/names.h"
#include "core/edits/edits.h"
#include "core/maps/statistics.h"
#include "core/maps/tiling.h"
#include "core/project/frame_inputs.h"

#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <mutex>
#include <set>

namespace hue {
namespace {

namespace fs = std::filesystem;

Error refuse(std::string code, std::string sentence) { return {std::move(code), std::move(sentence), {}}; }

/// By the content, so that a project may be moved or copied; read again only when time or length of the file have changed.
void addFile(Hash& h, const fs::path& file) {
    static std::mutex mutex;
    static std::map<std::string, std::string> known;
    std::error_code none;
    const std::string key =
        fmt::format("{}|{}|{}", file.string(), fs::last_write_time(file, none).time_since_epoch().count(), fs::file_size(file, none));
    {
        const std::lock_guard lock(mutex);
        if (const auto it = known.find(key); it != known.end()) return h.add(it->second);
    }
    const std::string hash = contentHash(file);
    h.add(hash);
    const std::lock_guard lock(mutex);
    if (known.size() > 4096) known.clear();
    known[key] = hash;
}

struct Wired {
    Resolved resolved;
    Compilation compiled;
    int width = 0;
    Meaning meaning = Meaning::Any;
};

Result<std::shared_ptr<Wired>> compileWire(const Project& project, const MapOrigin& o) {
    auto w = std::make_shared<Wired>();
    w->resolved = resolve(project, o.worn);
    const Master* master = w->resolved.master;
    if (!master || !master->graph.find(o.wire.node))
        return refuse("make.nothing", "The wire that the map would be made from is not there. Choose another wire; nothing was written.");
    w->compiled = compileTap(project, *master, o.wire);
    if (!w->compiled.ok)
        for (const Diagnostic& d : w->compiled.diagnostics)
            if (d.severity == Severity::Error)
                return Error{"make.broken-graph", fmt::format("No map can be made from {}: {}", master->name, d.sentence), d.place};
    const int32_t value = w->compiled.program->output("tap");
    if (value < 0) return refuse("make.nothing", "This wire carries a map or a whole finish, not numbers; choose one that does.");
    w->width = w->compiled.program->code[size_t(value)].width;
    const auto port = w->compiled.ports.find({o.wire.node, o.wire.port});
    if (port != w->compiled.ports.end() && o.wire.take.empty()) w->meaning = port->second.meaning;
    return w;
}

} // namespace

Result<WirePicture> pictureOfWire(const Project& project, Assets& assets, const MapOrigin& o, const Work& control) {
    if (o.width < 1 || o.height < 1 || o.width > kLargestSide || o.height > kLargestSide)
        return refuse("make.size",
                      fmt::format("A map of {} x {} pixels is not possible; choose 1 to {} a side.", o.width, o.height, kLargestSide));
    const auto wired = compileWire(project, o);
    if (!wired) return wired.error();
    const Wired& w = **wired;
    WirePicture out;
    const bool normal = w.meaning == Meaning::Normal && w.width == 3;
    const bool color = w.meaning == Meaning::Color && w.width >= 3;
    out.kind = color ? MapKind::Color : normal ? MapKind::Normal : MapKind::Data;
    const bool integer = o.type == SampleType::U8 || o.type == SampleType::U16;
    const Evaluator evaluator(w.compiled.program);
    const Frame frame = evaluator.frame(frameInputs(project, assets, w.resolved, 0));
    out.image = Image(o.width, o.height, w.width, o.type);
    std::atomic<size_t> invalid = 0, cut = 0;
    const auto sink = [&](int x, int y, int columns, int rows, const float* const* planes) {
        size_t badHere = 0, cutHere = 0;
        std::vector<float> row(size_t(columns) * size_t(w.width));
        for (int r = 0; r < rows; ++r) {
            for (int i = 0; i < columns; ++i)
                for (int c = 0; c < w.width; ++c) {
                    float v = planes[c][r * kBlockColumns + i];
                    if (!std::isfinite(v)) v = 0, ++badHere;
                    if (normal) v = v * 0.5f + 0.5f;
                    if (integer && (v < -0.002f || v > 1.002f)) ++cutHere;
                    if (color && integer && c < 3) v = linearToSrgb(std::max(v, 0.f));
                    row[size_t(i * w.width + c)] = v;
                }
            fromFloats(o.type, row.data(), row.size(), out.image.row(y + r) + size_t(x) * size_t(w.width) * bytesOf(o.type));
        }
        invalid += badHere, cut += cutHere;
    };
    if (!evaluator.grid(frame, {"tap"}, o.width, o.height, FlatSquare(o.width, o.height), sink, control))
        return refuse("make.cancelled", "Making the map was cancelled; nothing was written.");
    if (invalid) out.cautions.push_back(fmt::format("{} values were not finite and became 0.", invalid.load()));
    if (cut) out.cautions.push_back(fmt::format("{} values lie outside of 0 to 1 and were cut off; half or float keeps them.", cut.load()));
    const Program& p = *w.compiled.program;
    for (const FlatLimit& limit : flatLimits(p, {"tap"}))
        out.cautions.push_back(fmt::format("The wire depends on {}; the map holds it {}.", limit.what, limit.instead));
    if (p.readsTime()) out.cautions.push_back("The wire moves with time; the map holds it at 0 s.");
    if (out.kind == MapKind::Data && w.width == 3) {
        // Encoded normals are plain vectors to the compiler; their lengths tell.
        if (guessOf("", factsOf(out.image)).kind == MapKind::Normal) out.kind = MapKind::Normal;
    }
    if (o.seamless) {
        SeamlessRequest request;
        request.method = SeamMethod::Blend;
        request.normals = {out.kind == MapKind::Normal};
        auto made = makeSeamless({out.image}, request);
        if (!made) return made.error();
        out.image = std::move((*made)[0]);
    }
    return out;
}

static std::atomic<int> g_fingerprints = 0;
int fingerprintsTaken() { return g_fingerprints; }

std::string fingerprintOf(const Project& project, Assets& assets, const MapOrigin& o) {
    ++g_fingerprints;
    const auto wired = compileWire(project, o);
    if (!wired) return {};
    const Wired& w = **wired;
    Hash h;
    h.add(describe(*w.compiled.program));
    const FrameInputs inputs = frameInputs(project, assets, w.resolved, 0);
    for (const Id& p : w.compiled.program->parameters) {
        const Value v = inputs.parameter(p);
        h.number(v.width);
        h.add(v.v.data(), sizeof v.v);
    }
    for (const MapSlot& slot : w.compiled.program->maps) {
        Id id = slot.map;
        if (const auto it = w.resolved.values.find(slot.parameter); it != w.resolved.values.end()) id = it->second.value.map;
        if (const MapFile* map = project.map(id)) {
            addFile(h, assets.resolve(map->path));
            h.number(map->kind), h.number(map->wrap);
        } else if (isDrawn(id)) {
            h.add(id);
        }
    }
    h.number(o.width), h.number(o.height), h.number(o.type), h.number(o.seamless);
    return h.text();
}

std::set<Id> mapsReadBy(const Project& project, const MapOrigin& o) {
    std::set<Id> out;
    const auto wired = compileWire(project, o);
    if (!wired) return out;
    for (const MapSlot& slot : (*wired)->compiled.program->maps) {
        const auto own = (*wired)->resolved.values.find(slot.parameter);
        const Id& id = own == (*wired)->resolved.values.end() ? slot.map : own->second.value.map;
        if (!isDrawn(id)) out.insert(id);
    }
    return out;
}

std::set<Id> mapsReadBy(const Project& project, const Packing& packing) {
    std::set<Id> out;
    for (const auto& [role, id] : packing.sources) out.insert(id);
    for (const Lane& lane : packing.recipe.lanes)
        if (const auto origin = lane.from == Lane::From::Wire ? originOfLane(project, lane.wire) : std::nullopt)
            out.merge(mapsReadBy(project, *origin));
    return out;
}

std::string fingerprintOf(const Project& project, Assets& assets, const Packing& packing) {
    ++g_fingerprints;
    Hash h;
    h.add(recipeText(packing.recipe));
    for (const auto& [role, id] : packing.sources) {
        h.add(role);
        if (const MapFile* map = project.map(id)) {
            addFile(h, assets.resolve(map->path));
            h.number(map->kind);
        }
    }
    for (const Lane& lane : packing.recipe.lanes)
        if (lane.from == Lane::From::Wire)
            if (const auto origin = originOfLane(project, lane.wire)) h.add(fingerprintOf(project, assets, *origin));
    return h.text();
}

std::optional<MapOrigin> originOfLane(const Project& project, const std::string& text) {
    const size_t colon = text.rfind(": ");
    if (colon == std::string::npos) return {};
    MapOrigin o;
    o.from = MapOrigin::From::Wire;
    o.type = SampleType::F32;
    o.worn = project.findByName(text.substr(0, colon));
    const std::string wire = text.substr(colon + 2);
    const size_t first = wire.find('.'), second = wire.find('.', first == std::string::npos ? first : first + 1);
    if (o.worn.empty() || first == std::string::npos) return {};
    o.wire.node = wire.substr(0, first);
    o.wire.port = wire.substr(first + 1, second == std::string::npos ? second : second - first - 1);
    if (second != std::string::npos) o.wire.take = wire.substr(second + 1);
    return o;
}

fs::path pathForMap(const Assets& assets, const std::string& name, SampleType type, const fs::path& own) {
    std::string stem;
    for (char c : name) stem += std::isalnum(static_cast<unsigned char>(c)) ? char(std::tolower(static_cast<unsigned char>(c))) : '_';
    if (stem.empty()) stem = "map";
    const bool floats = type == SampleType::F16 || type == SampleType::F32;
    const fs::path folder = assets.folder() / "maps";
    std::error_code none;
    for (int n = 1;; ++n) {
        const fs::path path = folder / (stem + (n > 1 ? "_" + std::to_string(n) : "") + (floats ? ".exr" : ".png"));
        if (path == own || !fs::exists(path, none)) return path;
    }
}

namespace {

/// Where the map is written: its own file where that can hold the samples.
/// Error: make.outside; a project that came from elsewhere must not reach into other folders.
Result<fs::path> targetOf(const Assets& assets, const MapFile& map, SampleType type) {
    const fs::path own = map.path.empty() ? fs::path{} : assets.resolve(map.path);
    const fs::path path = !own.empty() && canHold(own, type) ? own : pathForMap(assets, map.name, type, own);
    if (!liesWithin(assets.folder(), path))
        return refuse("make.outside",
                      fmt::format("{} would be written to {}, which lies outside of the project's folder {}. Bring it in as a "
                                  "map, or give it a file inside the folder.",
                                  map.name, path.lexically_normal().string(), assets.folder().string()));
    return path;
}

} // namespace

Result<MadeMap> makeMap(const Project& project, Assets& assets, MapFile map, const Work& control) {
    auto picture = pictureOfWire(project, assets, map.origin, control);
    if (!picture) return picture.error();
    const Result<fs::path> target = targetOf(assets, map, map.origin.type);
    if (!target) return target.error();
    const fs::path& path = *target;
    const bool integer = map.origin.type == SampleType::U8 || map.origin.type == SampleType::U16;
    const bool encoded = picture->kind == MapKind::Color && integer;
    if (Outcome o = writeImage(path, picture->image, encoded ? PixelEncoding::Srgb : PixelEncoding::Data); !o) return o.error();
    map.path = assets.stored(path);
    map.kind = picture->kind;
    map.hash = contentHash(path);
    map.origin.fingerprint = fingerprintOf(project, assets, map.origin);
    return MadeMap{std::move(map), std::move(picture->cautions)};
}

Result<PackRequest> requestOf(const Project& project, Assets& assets, const Packing& packing) {
    PackRequest r;
    r.recipe = packing.recipe;
    for (const auto& [role, id] : packing.sources) {
        const MapFile* map = project.map(id);
        if (!map)
            return refuse("pack.no-source", fmt::format("The map for {} is not in the project any more. Give the packing another.", role));
        r.sources[role] = {assets.resolve(map->path), map->kind};
    }
    r.wire = [&project, &assets](const std::string& wire, int width, int height) -> Result<Plane> {
        auto origin = originOfLane(project, wire);
        if (!origin) return refuse("make.nothing", fmt::format("There is no wire {}. Choose another for the lane.", wire));
        origin->width = width, origin->height = height;
        const auto picture = pictureOfWire(project, assets, *origin, {});
        if (!picture) return picture.error();
        return planeOf(picture->image, 0);
    };
    return r;
}

Result<MadeMap> packMap(const Project& project, Assets& assets, Packing& packing, const Work& control) {
    auto request = requestOf(project, assets, packing);
    if (!request) return request.error();
    request->threads = control.threads;
    request->cancelled = control.cancelled;
    request->progress = control.progress;
    MapFile map;
    if (const MapFile* there = project.map(packing.map)) {
        map = *there;
    } else {
        std::vector<std::string> names;
        for (const auto& m : project.maps) names.push_back(m->name);
        // Named after the set where all sources are of one.
        std::string set;
        for (const auto& [role, id] : packing.sources)
            if (const MapFile* source = project.map(id)) set = set.empty() || set == source->set ? source->set : "-";
        map.name = freeName(names, (set.empty() || set == "-" ? packing.recipe.name : set + packing.recipe.suffix));
        map.id = newId('t');
        if (set != "-") map.set = set;
        map.role = "packed";
    }
    const Result<fs::path> target = targetOf(assets, map, packing.recipe.type);
    if (!target) return target.error();
    const fs::path& path = *target;
    for (const auto& [role, source] : request->sources)
        if (source.file == path)
            return refuse("pack.onto-source",
                          fmt::format("The packed map would overwrite {}, which it is made from. Give it another name.", path.string()));
    if (Outcome o = packToFile(*request, path); !o) return o.error();
    map.path = assets.stored(path);
    map.kind = packing.recipe.srgb ? MapKind::Color : MapKind::Data;
    map.hash = contentHash(path);
    map.origin = {};
    map.origin.from = MapOrigin::From::Packing;
    packing.map = map.id;
    packing.fingerprint = fingerprintOf(project, assets, packing);
    return MadeMap{std::move(map), {}};
}

std::vector<Image> levelsOf(const Project& project, const Assets& assets, const MapFile& map, Image image) {
    return levelsOf(std::move(image), map.kind, assets.levels(project, map));
}

Stale staleMaps(const Project& project, Assets& assets, Remake what) {
    Stale out;
    for (const auto& m : project.maps) {
        if (what == Remake::Packed || m->origin.from != MapOrigin::From::Wire) continue;
        const std::string now = fingerprintOf(project, assets, m->origin);
        if (!now.empty() && now != m->origin.fingerprint) out.maps.push_back(m->id);
    }
    for (const auto& k : project.packings)
        if (k->map.empty() ? what != Remake::Changed : fingerprintOf(project, assets, *k) != k->fingerprint) out.packings.push_back(k->id);
    return out;
}

std::vector<Diagnostic> staleProblems(const Project& project, Assets& assets) {
    std::vector<Diagnostic> out;
    const Stale stale = staleMaps(project, assets);
    const auto say = [&](const Id& id, const std::string& name) {
        out.push_back({Severity::Caution,
                       "make.stale",
                       {{}, {}, id},
                       fmt::format("What {} is made from has changed since. Run hsk remake, or open the project in the window.", name),
                       {}});
    };
    for (const Id& id : stale.maps) say(id, project.map(id)->name);
    for (const Id& id : stale.packings) {
        const Packing& k = *project.packing(id);
        const MapFile* map = project.map(k.map);
        say(k.map, map ? map->name : k.recipe.name);
    }
    return out;
}

Remade remakeStale(Project project, Assets& assets, const Work& work, Remake what) {
    Remade out;
    std::set<Id> given; // up: made again, or failed
    // Whatever is made may make others stale: what reads it, directly or through others. Each round makes what does not depend on
    // something that is stale itself; who was made once is not made again, so it ends.
    while (!work.stopped()) {
        Stale stale = staleMaps(project, assets, what);
        std::erase_if(stale.maps, [&](const Id& id) { return given.contains(id); });
        std::erase_if(stale.packings, [&](const Id& id) { return given.contains(id); });
        if (stale.maps.empty() && stale.packings.empty()) return out;
        std::set<Id> old(stale.maps.begin(), stale.maps.end());
        for (const Id& id : stale.packings) old.insert(project.packing(id)->map);
        const auto waits = [&](const std::set<Id>& reads) {
            return std::any_of(reads.begin(), reads.end(), [&](const Id& id) { return old.contains(id); });
        };
        const auto take = [&](Result<MadeMap> made, const Id& id, const std::string& name, const Packing* packing) {
            given.insert(id);
            if (!made) {
                if (work.stopped()) return;
                out.failures.push_back(made.error());
                out.failed.push_back(name);
                return;
            }
            Remade one;
            one.maps.push_back(*made);
            if (packing) one.packings.push_back(*packing);
            if (Result<Project> next = withRemade(project, one)) project = std::move(*next);
            out.maps.push_back(std::move(*made));
            if (packing) out.packings.push_back(*packing);
        };
        bool any = false;
        for (int last = 0; last < 2 && !any; ++last) {
            // In the second round nothing was free of what is stale: a circle, which is gone through as it comes.
            for (const Id& id : stale.maps) {
                const MapFile map = *project.map(id);
                std::set<Id> reads = mapsReadBy(project, map.origin);
                reads.erase(id);
                if (work.stopped() || (!last && waits(reads))) continue;
                take(makeMap(project, assets, map, work), id, map.name, nullptr);
                any = true;
            }
            for (const Id& id : stale.packings) {
                Packing packing = *project.packing(id);
                std::set<Id> reads = mapsReadBy(project, packing);
                reads.erase(packing.map);
                if (work.stopped() || (!last && waits(reads))) continue;
                auto made = packMap(project, assets, packing, work);
                take(std::move(made), id, packing.recipe.name, &packing);
                any = true;
            }
        }
    }
    out.stopped = true;
    return out;
}

Result<Project> withRemade(const Project& project, const Remade& remade) {
    Result<Project> next = project;
    const auto isNew = [&](const Id& map) {
        return std::any_of(remade.packings.begin(), remade.packings.end(), [&](const Packing& k) {
            const Packing* there = project.packing(k.id);
            return k.map == map && there && there->map.empty();
        });
    };
    for (const MadeMap& made : remade.maps) {
        if (next && next->map(made.file.id)) next = edit::changeMap(*next, made.file);
        else if (next && isNew(made.file.id)) next = edit::addMap(*next, made.file);
    }
    for (const Packing& packing : remade.packings)
        if (next && next->packing(packing.id)) next = edit::changePacking(*next, packing);
    return next;
}

} // namespace hue
