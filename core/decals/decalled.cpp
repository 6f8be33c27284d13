#include "core/decals/decalled.h"

#include "core/compile/compile.h"
#include "core/edits/edits.h"

#include <algorithm>

namespace hue {

std::vector<Decal> decalsOn(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot) {
    std::vector<Decal> out;
    const Master* beneath = project.masterOf(worn);
    if (!beneath) return out;
    for (const Decal& d : specimen.decals) {
        if (d.hidden || std::find(d.keptOff.begin(), d.keptOff.end(), slot) != d.keptOff.end()) continue;
        if (!(d.width > 0 && d.height > 0 && d.depth > 0) || !edit::canLieOn(project, d, *beneath)) continue;
        out.push_back(d);
        if (out.size() == kMostDecals) break;
    }
    return out;
}

std::optional<Project> decalled(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot) {
    if (specimen.decals.empty()) return {};
    const std::vector<Decal> laid = decalsOn(project, specimen, worn, slot);
    if (laid.empty()) return {};
    Result<Project> out = edit::layDecals(project, project.masterOf(worn)->id, laid);
    if (!out) return {};
    return std::move(*out);
}

DecalCost decalCost(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot) {
    const std::optional<Project> with = decalled(project, specimen, worn, slot);
    if (!with) return {};
    const auto costIn = [&](const Project& p) { return costOf(*compileSurface(p, *p.masterOf(worn)).program, nullptr, {}); };
    const Cost bare = costIn(project), laid = costIn(*with);
    return {laid.operationsPerPixel() - bare.operationsPerPixel(), laid.fetches - bare.fetches,
            laid.leastOperationsPerPixel() - bare.leastOperationsPerPixel(), laid.leastFetches() - bare.leastFetches()};
}

DecalCost decalCost(const Project& project, const Specimen& specimen, const Decal& decal, const Mesh& mesh) {
    Specimen alone = specimen;
    alone.decals = {decal};
    for (size_t k = 0; k < mesh.slots.size() && !specimen.wears.empty(); ++k) {
        const Id& worn = specimen.wears[std::min(k, specimen.wears.size() - 1)];
        if (!decalsOn(project, alone, worn, mesh.slots[k].name).empty()) return decalCost(project, alone, worn, mesh.slots[k].name);
    }
    return {};
}

} // namespace hue
