#include "core/paint/finer_mesh.h"

#include "core/edits/edits.h"
#include "core/paint/carry_over.h"

#include <fmt/format.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

/// "shape:sphere/4" of "shape:sphere/3", which a name without a density means; empty for the densest.
Id denserShape(const Id& shape) {
    constexpr int kStandard = 3;
    const size_t at = shape.find('/');
    const int density = at == Id::npos ? kStandard : shape[at + 1] - '0';
    const Id next = fmt::format("{}/{}", shape.substr(0, at), density + 1);
    return shapeById(next) ? next : Id{};
}

/// "meshes/kerb_finer.glb", with a number where there is one.
fs::path freeFile(const fs::path& beside) {
    std::error_code none;
    for (int n = 1;; ++n) {
        const fs::path file =
            beside.parent_path() / fmt::format("{}_finer{}.glb", beside.stem().string(), n > 1 ? fmt::format("_{}", n) : "");
        if (!fs::exists(file, none)) return file;
    }
}

} // namespace

Result<FinerMesh> finerMesh(const Project& project, Assets& assets, size_t specimen) {
    if (specimen >= project.lineup.specimens.size()) return Error{"lineup.no-specimen", "There is no such specimen.", {}};
    const Specimen& s = project.lineup.specimens[specimen];
    FinerMesh out{project, {}, 0};
    Id finer;
    MeshPtr mesh;
    if (s.mesh.starts_with("shape:")) {
        finer = denserShape(s.mesh);
        if (finer.empty()) return Error{"paint.finest", "This shape has no finer density. Take a mesh of your own, or a larger brush.", {}};
        mesh = shapeById(finer);
    } else {
        std::string problem;
        const MeshPtr now = assets.mesh(project, s.mesh, &problem);
        if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
        Result<Mesh> made = subdivided(*now, 1);
        if (!made) return made.error();
        const MeshFile& old = *project.mesh(s.mesh);
        const fs::path file = freeFile(assets.resolve(old.path));
        if (const Outcome written = writeMesh(file, *made); !written) return written.error();
        out.file = assets.stored(file);
        finer = newId('g');
        const Result<Project> added = edit::addMesh(out.project, {finer, old.name + " finer", out.file, {}});
        if (!added) return added.error();
        out.project = *added;
        // As it will be read from now on.
        mesh = assets.mesh(out.project, finer, &problem);
        if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
    }
    out.vertices = mesh->vertices.size();
    for (size_t i = 0; i < out.project.lineup.specimens.size(); ++i) {
        Specimen& other = out.project.lineup.specimens[i];
        if (i == specimen || (!s.paintwork.empty() && other.paintwork == s.paintwork)) other.mesh = finer;
    }
    for (auto& slot : out.project.paintworks) {
        if (slot->id != s.paintwork) continue;
        auto copy = std::make_shared<Paintwork>(*slot);
        copy->mesh = finer;
        if (copy->paint) copy->paint = std::make_shared<PaintData>(carriedOver(*copy->paint, mesh).paint);
        slot = std::move(copy);
    }
    return out;
}

} // namespace hue
