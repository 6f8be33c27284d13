// What decals cost: laying them over a surface for each frame, compiling them, cutting one out of a mesh of a million vertices.
#include "bench/hills.h"
#include "bench/timing.h"
#include "core/compile/compile.h"
#include "core/decals/decal_box.h"
#include "core/decals/decalled.h"
#include "core/picture/looks.h"
#include "core/project/store.h"

int main(int argc, char** argv) {
    using namespace hue;
    if (argc != 2) {
        fmt::print(stderr, "usage: bench_decals demo/depot/depot.huestack\n");
        return 2;
    }
    const auto loaded = loadProject(argv[1]);
    if (!loaded) {
        fmt::print(stderr, "{}\n", loaded.error().sentence);
        return 2;
    }
    const Project& project = loaded->project;
    Specimen specimen = project.lineup.specimens.at(0);
    const Decal decal = specimen.decals.at(0);
    const Id worn = specimen.wears.at(0);
    Assets assets;
    assets.setFolder(std::filesystem::path(argv[1]).parent_path());
    for (const size_t count : {size_t(0), size_t(1), size_t(8), kMostDecals}) {
        specimen.decals.assign(count, decal);
        LookCache looks;
        dress(project, assets, looks, specimen, 0);
        tell(fmt::format("{} decals: a frame with all that is ready", count),
             times(200, [&](int) { dress(project, assets, looks, specimen, 0); }));
        const std::optional<Project> with = decalled(project, specimen, worn, "");
        const Project& seen = with ? *with : project;
        tell(fmt::format("{} decals: compiled", count),
             times(20, [&](int) { compileSurface(seen, *seen.masterOf(worn), Constants::Live); }));
    }
    const MeshPtr million = hills(1000);
    Decal on = decal;
    on.position = {}, on.facing = {0, 1, 0}, on.width = on.height = 0.45f, on.depth = 0.4f; // a twentieth of the square
    size_t triangles = 0;
    tell("cut out of a million vertices", times(20, [&](int) { triangles = cutOut(*million, on).mesh.indices.size() / 3; }));
    fmt::print("{} triangles\n", triangles);
}
