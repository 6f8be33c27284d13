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

} // namespace hue::edit
