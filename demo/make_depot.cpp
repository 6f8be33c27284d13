// usage: make_depot FOLDER      Writes depot.huestack, maps/ and meshes/ of the demo project.
#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/image_files/picture_file.h"
#include "core/make/made_maps.h"
#include "core/mesh/paint_data.h"
#include "core/paint/live_rules.h"
#include "core/project/store.h"
#include "demo/depot.h"

#include <cstdio>
#include <fmt/format.h>

int main(int argc, char** argv) {
    using namespace hue;
    namespace fs = std::filesystem;
    if (argc != 2) {
        fmt::print(stderr, "usage: make_depot FOLDER\n");
        return 2;
    }
    const fs::path folder = fs::absolute(argv[1]);
    std::error_code failed;
    fs::create_directories(folder / "maps", failed);
    fs::create_directories(folder / "meshes", failed);
    Project project;
    project.name = "depot";
    auto stop = [](const Error& e) {
        fmt::print(stderr, "make_depot: {}\n", e.sentence);
        return 2;
    };
    auto readable = [](std::string id) {
        for (char& c : id)
            if (c == '_') c = ' ';
        return id;
    };
    for (const auto& map : depot::makeMaps()) {
        if (const auto written = writePicture(folder / "maps" / map.file, map.picture, map.encoding); !written)
            return stop(written.error());
        project.maps.push_back(std::make_shared<MapFile>(MapFile{map.id,
                                                                 readable(map.id),
                                                                 "maps/" + map.file,
                                                                 map.kind,
                                                                 Wrap::Repeat,
                                                                 contentHash(folder / "maps" / map.file),
                                                                 {},
                                                                 map.set,
                                                                 map.role}));
    }
    // The track bed's color and height in one map, by a recipe of the project.
    Assets assets;
    assets.setFolder(folder);
    Packing bed;
    bed.id = "ballast_packing";
    bed.recipe = *findRecipe("colorheight");
    bed.sources = {{"base color", "ballast_color"}, {"height", "ballast_height"}};
    MapFile packed;
    packed.id = bed.map = "ballast_packed";
    packed.name = "ballast packed";
    packed.path = "maps/ballast_packed.png";
    packed.set = "ballast";
    packed.role = "packed";
    project.maps.push_back(std::make_shared<MapFile>(packed));
    const auto made = packMap(project, assets, bed, {});
    if (!made) return stop(made.error());
    project.maps.back() = std::make_shared<MapFile>(made->file);
    project.packings.push_back(std::make_shared<Packing>(bed));
    std::vector<depot::NamedMesh> meshes = depot::makeMeshes();
    for (auto& mesh : depot::makeGlassMeshes()) meshes.push_back(std::move(mesh));
    for (const auto& mesh : meshes) {
        if (const auto written = writeMesh(folder / "meshes" / mesh.file, mesh.mesh); !written) return stop(written.error());
        project.meshes.push_back(std::make_shared<MeshFile>(MeshFile{mesh.id, readable(mesh.id), "meshes/" + mesh.file, {}}));
    }
    // On the meshes as they are read.
    std::map<Id, MeshPtr> read;
    for (const char* id : {"tram_side_panel", "yard_with_steps"}) {
        std::string problem;
        read[id] = assets.mesh(project, id, &problem);
        if (!problem.empty()) return stop({"mesh.unreadable", problem, {}});
    }
    const MeshPtr side = read["tram_side_panel"], yard = read["yard_with_steps"];
    const auto paintwork = [&](Paintwork w, const MeshPtr& mesh, std::vector<LiveRules> live) {
        w.paint = std::make_shared<PaintData>(mesh);
        w.live = std::move(live);
        project.paintworks.push_back(std::make_shared<Paintwork>(std::move(w)));
    };
    paintwork({"tram_side", "Side with rust", "tram_side_panel", "paint/side_with_rust.glb", {}}, side, depot::rulesOfTramSide());
    paintwork({"yard", "Yard with moss", "yard_with_steps", "paint/yard_with_moss.glb", {}}, yard, depot::rulesOfYard());
    project.assemblies = depot::makeAssemblies();
    for (const Master& master : depot::makeMasters()) project.masters.push_back(std::make_shared<Master>(master));
    for (const Instance& instance : depot::makeInstances()) project.instances.push_back(std::make_shared<Instance>(instance));
    project.lineup = depot::makeLineup();
    project.lineup.specimens[0].decals = depot::decalsOnTramSide(side);
    project.lineup.specimens[1].decals = depot::decalsOnYard(yard);
    const LivePaint live = reckonLive(project, assets, {});
    if (!live.failures.empty()) return stop(live.failures[0].error);
    project = withLive(project, live);
    const auto painted = edit::setPaint(project, "tram_side", depot::strokesOnTramSide(*project.paintwork("tram_side")->paint));
    if (!painted) return stop(painted.error());
    project = *painted;
    if (const Outcome saved = saveProject(project, folder / "depot.huestack"); !saved) return stop(saved.error());
    return 0;
}
