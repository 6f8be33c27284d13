// hsk decals: what lies on a specimen, what each reaches and costs, and the decals cut as a mesh, with one atlas where asked for.
#include "cli/opened.h"
#include "cli/output.h"
#include "core/decals/decal_box.h"
#include "core/decals/decalled.h"
#include "core/dispatch/dispatch.h"

#include <fmt/format.h>

namespace hue::cli {
namespace {

Json jsonOf(const Project& project, const DecalAtlas& atlas) {
    Json pictures = Json::array();
    for (const AtlasPicture& p : atlas.pictures)
        pictures.push_back(
            {{"wears", project.nameOf(p.worn)}, {"x", p.place.x}, {"y", p.place.y}, {"width", p.place.width}, {"height", p.place.height}});
    const Picture& sheet = atlas.set.maps[0].picture;
    return {{"width", sheet.width},
            {"height", sheet.height},
            {"pictures", pictures},
            {"pixelsPerMetre", atlas.perMetre},
            {"cleanLevels", atlas.cleanLevels},
            {"apart", {{"maps", atlas.mapsApart}, {"bytes", atlas.bytesApart}}},
            {"together", {{"maps", atlas.set.read().size()}, {"bytes", atlas.bytesTogether}, {"bytesAsBc7", atlas.bytesInBlocks}}}};
}

} // namespace

int decals(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    const Result<Specimen> found = findSpecimen(p.project, o.specimen);
    if (!found) return fail(found.error());
    const Specimen& s = *found;
    std::string problem;
    const MeshPtr mesh = p.assets.mesh(p.project, s.mesh, &problem);
    if (!problem.empty()) return fail(problem);
    Json all = Json::array();
    for (const Decal& d : s.decals) {
        const CutDecal cut = cutOut(*mesh, d);
        const size_t triangles = cut.mesh.indices.size() / 3;
        const DecalCost cost = decalCost(p.project, s, d, *mesh);
        if (o.json)
            all.push_back({{"name", d.name},
                           {"wears", p.project.nameOf(d.wears)},
                           {"hidden", d.hidden},
                           {"area", cut.area},
                           {"stretched", cut.stretched},
                           {"projected",
                            {{"operations", cost.operations},
                             {"fetches", cost.fetches},
                             {"operationsBeside", cost.operationsBeside},
                             {"fetchesBeside", cost.fetchesBeside}}},
                           {"cut", {{"triangles", triangles}, {"vertices", cut.mesh.vertices.size()}}}});
        else
            print(fmt::format("{}: {}{}, {:.3g} by {:.3g} m, seen on {:.3g} m2; projected {} operations and {} {} within its box, "
                              "{} and {} at all other pixels of its slots, cut {} triangles, "
                              "baked, in maps of its slots' own, nothing",
                              d.name, p.project.nameOf(d.wears), d.hidden ? ", hidden" : "", d.width, d.height, cut.area, cost.operations,
                              cost.fetches, cost.fetches == 1 ? "fetch" : "fetches", cost.operationsBeside, cost.fetchesBeside, triangles));
    }
    const std::filesystem::path file = o.exported;
    std::optional<DecalAtlas> atlas;
    std::vector<std::string> lines, cautions;
    if (o.atlas) {
        if (const Outcome named = canBeDispatched(file); !named) return fail(named.error());
        Result<DecalAtlas> made = decalAtlas(p.project, p.assets, s, {o.size, float(o.lift), 0, {}});
        if (!made) return fail(made.error());
        const auto report = dispatchDecals(p.project, *made, file);
        if (!report) return fail(report.error());
        lines = report->lines, cautions = report->cautions;
        atlas = std::move(*made);
    } else if (!file.empty()) {
        const Result<CutDecals> cut = cutOutAll(*mesh, s.decals, float(o.lift));
        if (!cut) return fail(cut.error());
        if (const Outcome written = writeMesh(file, cut->mesh); !written) return fail(written.error());
    }
    if (o.json) {
        Json out{{"specimen", o.specimen}, {"decals", all}};
        if (atlas) out["atlas"] = jsonOf(p.project, *atlas);
        print(out);
    } else if (s.decals.empty()) {
        print(fmt::format("Specimen {} has no decals.", o.specimen));
    } else {
        for (const std::string& line : lines) print(line);
    }
    printCautions(cautions);
    return 0;
}

} // namespace hue::cli
