#include "core/make/bake_specimen.h"

#include "core/decals/decalled.h"
#include "core/document/names.h"
#include "core/paint/carry_over.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {

size_t BakedSpecimen::invalid() const {
    size_t sum = 0;
    for (const BakedSlot& s : slots) sum += s.set.invalid();
    return sum;
}

std::vector<std::string> BakedSpecimen::cautions() const {
    std::vector<std::string> out;
    for (const BakedSlot& s : slots)
        for (const std::string& c : s.set.cautions)
            if (std::find(out.begin(), out.end(), c) == out.end()) out.push_back(c);
    return out;
}

Result<BakedSpecimen> bakeSpecimen(const Project& project, Assets& assets, const Specimen& specimen, const SpecimenBakeRequest& request) {
    if (const Outcome possible = canBeBaked(request.size); !possible) return possible.error();
    std::string problem;
    BakedSpecimen out;
    out.uvSet = request.uvSet;
    out.mesh = assets.mesh(project, specimen.mesh, &problem);
    if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
    if (const Paintwork* paintwork = project.paintwork(specimen.paintwork); paintwork && paintwork->paint)
        out.mesh = std::make_shared<Mesh>(painted(*out.mesh, *paintOn(out.mesh, paintwork->paint)));
    const size_t count = out.mesh->slots.size();
    for (size_t k = 0; k < count; ++k) {
        const MeshSlot& slot = out.mesh->slots[k];
        const Id worn = specimen.wears.empty() ? Id{} : specimen.wears[std::min(k, specimen.wears.size() - 1)];
        if (!project.masterOf(worn))
            return Error{"bake.nothing", fmt::format("The slot {} wears nothing that could be baked. Dress it first.", slot.name), {}};
        const Result<UnwrappedMesh> points = UnwrappedMesh::of(out.mesh, slot, request.size, request.uvSet);
        if (!points) return points.error();
        Work part = request.control;
        if (part.progress) part.progress = [&](float p) { request.control.progress((float(k) + p) / float(count)); };
        const std::optional<Project> withDecals = decalled(project, specimen, worn, slot.name);
        Result<BakedSet> set = bake(withDecals ? *withDecals : project, assets,
                                    {worn, request.size, request.time, part, &*points, specimen.placements.has_value()});
        if (!set) return set.error();
        out.slots.push_back({slot.name, worn, std::move(*set)});
    }
    return out;
}

Result<std::vector<std::string>> writeBake(const BakedSpecimen& baked, const std::filesystem::path& folder) {
    std::vector<std::string> files;
    std::vector<std::string> taken;
    for (const BakedSlot& slot : baked.slots) {
        std::filesystem::path into = folder;
        if (baked.slots.size() > 1) {
            taken.push_back(freeCodeName(taken, codeNameFrom(slot.name)));
            into /= taken.back();
        }
        const auto written = writeBake(slot.set, into);
        if (!written) return written.error();
        files.insert(files.end(), written->begin(), written->end());
    }
    return files;
}

} // namespace hue
