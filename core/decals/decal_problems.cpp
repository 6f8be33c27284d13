#include "core/decals/decal_problems.h"

#include "core/base/vectors.h"
#include "core/decals/decal_box.h"
#include "core/decals/decalled.h"
#include "core/edits/edits.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

class Problems {
  public:
    Problems(const Project& project, Assets& assets) : m_project(project), m_assets(assets) {}

    std::vector<Diagnostic> run() {
        for (size_t i = 0; i < m_project.lineup.specimens.size(); ++i) specimen(i, m_project.lineup.specimens[i]);
        return std::move(m_out);
    }

  private:
    void say(Severity severity, const char* code, const Decal& d, std::string sentence, std::vector<Fix> fixes = {}) {
        m_out.push_back({severity, code, {{}, {}, d.id}, std::move(sentence), std::move(fixes)});
    }
    static Fix changed(std::string label, size_t specimen, Decal d) {
        return {std::move(label), [specimen, d = std::move(d)](const Project& p) { return edit::changeDecal(p, specimen, d); }};
    }
    static Fix removed(size_t specimen, const Decal& d) {
        return {"Remove it", [specimen, id = d.id](const Project& p) { return edit::removeDecal(p, specimen, id); }};
    }

    void specimen(size_t index, const Specimen& s) {
        if (s.decals.empty()) return;
        std::string problem;
        const MeshPtr mesh = m_assets.mesh(m_project, s.mesh, &problem);
        m_rays.reset();
        size_t seen = 0;
        for (const Decal& d : s.decals) {
            worn(index, s, d);
            if (d.hidden) continue;
            if (++seen == kMostDecals + 1)
                say(Severity::Caution, "decal.too-many", d,
                    fmt::format("{} and those above it are not projected on specimen {}: it has {} decals, and {} are the most on a slot. "
                                "Hide some, or cut them as meshes.",
                                d.name, index + 1, s.decals.size(), kMostDecals));
            // A thousand boxes against a million triangles would take minutes; those that are projected are looked at.
            if (!problem.empty() || seen > kMostDecals) continue;
            slots(index, *mesh, d);
            place(index, mesh, d);
        }
    }

    void worn(size_t index, const Specimen& s, const Decal& d) {
        const Master* master = m_project.masterOf(d.wears);
        if (!master)
            return say(Severity::Error, "decal.wears-nothing", d,
                       fmt::format("{} on specimen {} wears nothing that the project has, so it is not seen. Choose an instance for it in "
                                   "the station Paint.",
                                   d.name, index + 1),
                       {removed(index, d)});
        if (!master->surface.decal)
            say(Severity::Caution, "decal.other-kind", d,
                fmt::format("{} wears {}, whose surface is no decal: it covers everything in its box. Make the surface a decal, and say "
                            "with its alpha where it covers.",
                            d.name, m_project.nameOf(d.wears)),
                {{fmt::format("Make {} a decal", master->name), [id = master->id](const Project& p) -> Result<Project> {
                      for (const SurfaceKind& kind : surfaceKinds())
                          if (kind.decal) return edit::applyKind(p, id, kind);
                      return p;
                  }}});
        for (const Id& id : s.wears)
            if (const Master* beneath = m_project.masterOf(id); beneath && !edit::canLieOn(m_project, d, *beneath))
                return say(Severity::Error, "decal.of-itself", d,
                           fmt::format("{} wears {}, which leads back to {}, on which it lies; it is not seen there. Choose something "
                                       "else for it.",
                                       d.name, m_project.nameOf(d.wears), beneath->name),
                           {removed(index, d)});
    }

    void slots(size_t index, const Mesh& mesh, const Decal& d) {
        for (const std::string& name : d.keptOff) {
            if (std::any_of(mesh.slots.begin(), mesh.slots.end(), [&](const MeshSlot& s) { return s.name == name; })) continue;
            Decal without = d;
            std::erase(without.keptOff, name);
            say(Severity::Advice, "decal.no-slot", d,
                fmt::format("{} is kept off the slot {}, which the mesh of specimen {} does not have.", d.name, name, index + 1),
                {changed("Forget that slot", index, without)});
        }
    }

    /// The decal on the nearest point of the mesh, as a fix; none where there is no such point.
    std::vector<Fix> toNearest(std::string label, size_t index, const MeshPtr& mesh, const Decal& d) {
        if (!m_rays) m_rays.emplace(mesh);
        const std::optional<MeshPoint> nearest = m_rays->nearest(d.position);
        if (!nearest) return {};
        return {changed(std::move(label), index, placedOn(d, *mesh, *nearest))};
    }

    void place(size_t index, const MeshPtr& mesh, const Decal& d) {
        const CutDecal cut = cutOut(*mesh, d);
        // What is not worth a thousandth of the box counts as nothing.
        const float least = 1e-3f * d.width * d.height;
        if (cut.area <= least) {
            if (cut.behind > least) {
                Decal turned = d;
                turned.facing = scaled(d.facing, -1);
                return say(Severity::Caution, "decal.inside", d,
                           fmt::format("{} lies inside of the mesh of specimen {}: what is in its box looks the other way. Turn it around.",
                                       d.name, index + 1),
                           {changed("Turn it around", index, turned)});
            }
            return say(Severity::Caution, "decal.reaches-nothing", d,
                       fmt::format("{} reaches nothing of the mesh of specimen {}. Move it onto the surface, or make it deeper.", d.name,
                                   index + 1),
                       toNearest("Put it on the nearest place", index, mesh, d));
        }
        if (cut.stretched > cut.area / 2)
            say(Severity::Caution, "decal.stretched", d,
                fmt::format("{} is stretched more than 4:1 on {:.0f} % of where it is seen on specimen {}. Turn it to the surface, or let "
                            "it fade at a smaller angle.",
                            d.name, 100 * cut.stretched / cut.area, index + 1),
                toNearest("Turn it to the surface", index, mesh, d));
    }

    const Project& m_project;
    Assets& m_assets;
    std::optional<SurfaceRays> m_rays; ///< of the mesh that is looked at; made when something has to be put elsewhere
    std::vector<Diagnostic> m_out;
};

} // namespace

std::vector<Diagnostic> decalProblems(const Project& project, Assets& assets) { return Problems(project, assets).run(); }

} // namespace hue
