#pragma once
// The demo project, Cinderquay Depot: every map, mesh and master made by code.
#include "core/document/project.h"
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/mesh/paint_data.h"

namespace hue::depot {

/// A tile of pixels from a function of x, y in 0..1 that repeats at 1.
template <class Pixel> Picture tile(int size, int channels, Pixel pixel) {
    Picture p{size, size, channels, std::vector<float>(size_t(size) * size_t(size) * size_t(channels))};
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x)
            pixel((float(x) + 0.5f) / float(size), (float(y) + 0.5f) / float(size),
                  &p.values[(size_t(y) * size_t(size) + size_t(x)) * size_t(channels)]);
    return p;
}

struct NamedMap {
    std::string id, file;
    MapKind kind;
    Picture picture;
    PictureEncoding encoding;
    std::string set{}, role{};
};
std::vector<NamedMap> makeMaps();
/// Of the shed's tiles and the track bed.
std::vector<NamedMap> makeStoneMaps();
/// Of numbers, stripes, chalk, oil and a poster.
std::vector<NamedMap> makeDecalMaps();

struct NamedMesh {
    std::string id, file;
    Mesh mesh;
};
std::vector<NamedMesh> makeMeshes();
/// Meshes of what shines, glows and is cut out.
std::vector<NamedMesh> makeGlassMeshes();

/// Rust in the first channel.
std::vector<LiveRules> rulesOfTramSide();
/// More of it by hand, and primer that shows in the second.
PaintDataPtr strokesOnTramSide(const PaintData& under);

/// Moss in the corners of the yard, in the first channel.
std::vector<LiveRules> rulesOfYard();

Master makeBodywork();
Master makeSetts();
Master makeMossySetts();
Master makeGlazedTile();
Master makeBallast();
Master makeRouteDisplay();
Master makeSignalLens();
Master makeRainyWindow();
Master makeSeatFelt();
Master makeVentGrille();
Master makeFrozenTrough();
Master makePitSteam();
Master makeFluorescentTube();
Master makeReflectiveStrip();
Master makeTarpaulin();
Master makeBrakeDust();
/// Paint through a stencil, and a picture on paper: worn by decals.
Master makeStencil();
Master makePoster();
std::vector<Decal> decalsOnTramSide(const MeshPtr& mesh);
std::vector<Decal> decalsOnYard(const MeshPtr& mesh);
/// Those that cards of the masters stand for.
std::vector<AssemblyPtr> makeAssemblies();
/// All of them, in the order of the depot's list.
std::vector<Master> makeMasters();
std::vector<Instance> makeInstances();
Lineup makeLineup();

} // namespace hue::depot
