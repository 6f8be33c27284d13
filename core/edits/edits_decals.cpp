// Edits of what lies on specimens.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"

namespace hue::edit {
namespace {

Error gone() { return refuse("edit.no-decal", "This decal is not on the specimen any more."); }

/// The specimen's decals, to be changed.
template <class Change> Result<Project> withDecals(const Project& project, size_t specimen, Change change) {
    if (specimen >= project.lineup.specimens.size()) return refuse("lineup.no-specimen", "There is no such specimen.");
    Project next = project;
    if (Outcome done = change(next.lineup.specimens[specimen].decals); !done) return done.error();
    return next;
}

/// Values brought inside of their ranges. Errors where there is no sense to keep.
Result<Decal> fitted(Decal d) {
    if (const Outcome finite = onlyFinite(d); !finite) return finite.error();
    if (!(d.width > 0 && d.height > 0 && d.depth > 0))
        return refuse("decal.size", fmt::format("{} needs a width, a height and a depth above 0; it would reach nothing.", d.name));
    if (d.facing == std::array<float, 3>{}) return refuse("decal.size", fmt::format("{} needs a direction to face.", d.name));
    for (float* size : {&d.width, &d.height, &d.depth}) *size = std::clamp(*size, 1e-4f, 1e4f);
    for (float* angle : {&d.fadeFrom, &d.fadeTo}) *angle = std::clamp(*angle, 0.f, 90.f);
    d.fadeTo = std::max(d.fadeFrom, d.fadeTo);
    d.depthFade = std::clamp(d.depthFade, 0.f, 1.f);
    d.turn = std::remainder(d.turn, 360.f);
    for (float& w : d.weights) w = std::isfinite(w) ? std::clamp(w, 0.f, 1.f) : 1;
    return d;
}

} // namespace

Result<Project> addDecal(const Project& project, size_t specimen, Decal decal) {
    return withDecals(project, specimen, [&](std::vector<Decal>& all) -> Outcome {
        if (decal.id.empty()) decal.id = newId('d');
        std::vector<std::string> names;
        for (const Decal& d : all) names.push_back(d.name);
        const std::string worn = project.nameOf(decal.wears);
        decal.name = freeName(names, !decal.name.empty() ? decal.name : !worn.empty() ? worn.substr(worn.rfind('/') + 1) : "Decal");
        Result<Decal> good = fitted(std::move(decal));
        if (!good) return good.error();
        all.push_back(std::move(*good));
        return Done{};
    });
}

Result<Project> changeDecal(const Project& project, size_t specimen, const Decal& decal) {
    return withDecals(project, specimen, [&](std::vector<Decal>& all) -> Outcome {
        for (Decal& d : all) {
            if (d.id != decal.id) continue;
            if (decal.name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A decal needs a name.");
            Result<Decal> good = fitted(decal);
            if (!good) return good.error();
            d = std::move(*good);
            return Done{};
        }
        return gone();
    });
}

Result<Project> removeDecal(const Project& project, size_t specimen, const Id& id) {
    return withDecals(project, specimen, [&](std::vector<Decal>& all) -> Outcome {
        if (!std::erase_if(all, [&](const Decal& d) { return d.id == id; })) return gone();
        return Done{};
    });
}

Result<Project> orderDecal(const Project& project, size_t specimen, const Id& id, size_t place) {
    return withDecals(project, specimen, [&](std::vector<Decal>& all) -> Outcome {
        const auto from = std::find_if(all.begin(), all.end(), [&](const Decal& d) { return d.id == id; });
        if (from == all.end()) return gone();
        Decal moved = std::move(*from);
        all.erase(from);
        all.insert(all.begin() + std::ptrdiff_t(std::min(place, all.size())), std::move(moved));
        return Done{};
    });
}

namespace {

/// The parameter by which what is worn shows a map of words.
std::optional<std::pair<Id, Id>> wordsWornBy(const Project& project, const Id& worn) {
    for (const auto& [parameter, entry] : resolve(project, worn).values)
        if (const MapFile* map = project.map(entry.value.map); map && map->origin.from == MapOrigin::From::Words)
            return std::pair{parameter, map->id};
    return {};
}

size_t wearers(const Project& project, const Id& worn) {
    size_t out = 0;
    for (const Specimen& s : project.lineup.specimens) {
        out += size_t(std::count(s.wears.begin(), s.wears.end(), worn));
        out += size_t(std::count_if(s.decals.begin(), s.decals.end(), [&](const Decal& d) { return d.wears == worn; }));
    }
    for (const InstancePtr& i : project.instances) out += i->parent == worn;
    return out;
}

} // namespace

const MapFile* wordsOn(const Project& project, const Decal& decal) {
    const auto found = wordsWornBy(project, decal.wears);
    return found ? project.map(found->second) : nullptr;
}

Result<Project> rewordDecal(const Project& project, size_t specimen, const Id& id, const MapFile& words) {
    const Decal* found = nullptr;
    if (specimen < project.lineup.specimens.size())
        for (const Decal& d : project.lineup.specimens[specimen].decals)
            if (d.id == id) found = &d;
    if (!found) return gone();
    Decal decal = *found;
    const auto shown = wordsWornBy(project, decal.wears);
    if (!shown)
        return refuse("decal.no-words", fmt::format("{} shows no words but a picture. Choose another for what it wears.", decal.name));
    const MapFile old = *project.map(shown->second);
    const Instance* worn = project.instance(decal.wears);
    const bool alone = worn && wearers(project, worn->id) == 1;

    Result<Project> next = addMap(project, words);
    if (!next) return next;
    // Its own instance follows; one that others wear as well stays, and the decal gets a copy of its own; or an instance of a master.
    Instance instance = worn ? *worn : Instance{};
    if (!alone) instance.id = decal.wears = newId('i');
    if (!worn) instance.parent = found->wears;
    if (!worn || instance.name == old.name) instance.name = words.name;
    instance.own[shown->first].map = words.id;
    if (alone) {
        for (InstancePtr& i : next->instances)
            if (i->id == instance.id) i = std::make_shared<Instance>(instance);
    } else {
        next = addInstance(*next, instance);
        if (!next) return next;
    }
    if (decal.name == old.name) decal.name = words.name;
    decal.width *= float(words.origin.width) / float(std::max(1, old.origin.width));
    decal.height *= float(words.origin.height) / float(std::max(1, old.origin.height));
    next = changeDecal(*next, specimen, decal);
    if (next && readersOf(*next, old.id).empty()) return removeMap(*next, old.id);
    return next;
}

} // namespace hue::edit
