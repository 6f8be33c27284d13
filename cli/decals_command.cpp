// hsk decals: what lies on a specimen, what each reaches and costs, and the decals cut as a mesh.
#include "cli/opened.h"
#include "cli/output.h"
#include "core/decals/decal_box.h"
#include "core/decals/decalled.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue::cli {
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
    if (o.json) print(Json{{"specimen", o.specimen}, {"decals", all}});
    else if (s.decals.empty()) print(fmt::format("Specimen {} has no decals.", o.specimen));
    if (!o.exported.empty()) {
        const Result<Mesh> cut = cutOutAll(*mesh, s.decals, float(o.lift));
        if (!cut) return fail(cut.error());
        if (const Outcome written = writeMesh(o.exported, *cut); !written) return fail(written.error());
    }
    return 0;
}

} // namespace hue::cli
