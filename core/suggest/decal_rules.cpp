// Savings of decals on the specimens of the lineup.
#include "core/decals/decal_box.h"
#include "core/suggest/rules_private.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

/// How far what is seen in the box lies from the plane through its middle, in metres.
float reachOf(const Mesh& cut, const Decal& decal) {
    const auto out = glm::vec3(vectorOf(decalAxes(decal).out)), middle = glm::vec3(vectorOf(decal.position));
    const float least = std::cos(decal.fadeTo * 3.14159265f / 180);
    float reach = 0;
    for (size_t t = 0; t + 2 < cut.indices.size(); t += 3) {
        const auto at = [&](size_t k) { return glm::vec3(vectorOf(cut.vertices[cut.indices[t + k]].position)); };
        const glm::vec3 n = glm::cross(at(1) - at(0), at(2) - at(0));
        const float length = glm::length(n);
        if (length <= 0 || glm::dot(n, out) / length < least) continue;
        for (size_t k = 0; k < 3; ++k) reach = std::max(reach, std::fabs(glm::dot(at(k) - middle, out)));
    }
    return reach;
}

} // namespace

/// Boxes that go deeper than what is seen in them, on specimens that wear this or by decals that do: what lies behind is computed for
/// nothing. The part over which a decal fades stays behind what is seen.
void Rules::decalDepths() {
    const auto isThis = [&](const Id& worn) {
        const Master* m = m_project.masterOf(worn);
        return m && m->id == m_master->id;
    };
    const std::vector<Specimen>& specimens = m_project.lineup.specimens;
    for (size_t s = 0; s < specimens.size(); ++s) {
        const bool worn = std::any_of(specimens[s].wears.begin(), specimens[s].wears.end(), isThis);
        for (const Decal& decal : specimens[s].decals) {
            if (decal.hidden || decal.locked || decal.depthFade > 0.95f || !(worn || isThis(decal.wears))) continue;
            const MeshPtr mesh = m_maps->assets().mesh(m_project, specimens[s].mesh);
            if (!mesh) continue;
            const CutDecal now = cutOut(*mesh, decal);
            Decal shorter = decal;
            // Not as thin as a sheet: it stays where the mesh is moved a little.
            shorter.depth = std::max(0.05f * std::min(decal.width, decal.height), 2.04f * reachOf(now.mesh, decal) / (1 - decal.depthFade));
            if (now.area <= 0 || shorter.depth > 0.9f * decal.depth) continue;
            const CutDecal then = cutOut(*mesh, shorter);
            const float saved = now.area + now.behind - then.area - then.behind;
            if (std::fabs(then.area - now.area) > 0.005f * now.area || saved < 0.01f * (now.area + now.behind)) continue;
            add("decal-depth", decal.id, fmt::format("{} {:.2g} m deep", decal.name.empty() ? "The decal" : decal.name, shorter.depth),
                fmt::format("Its box is {:.2g} m deep, and what is seen of it lies within less.", decal.depth), {},
                [s, shorter](const Project& p) { return edit::changeDecal(p, s, shorter); });
            m_out.back().area = double(saved);
        }
    }
}

} // namespace hue
