#pragma once
// Maps that the project makes itself: a wire of a master evaluated over the unit square, and packed maps. Each remembers what
// it was made from and is made again when that has changed.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/document/project.h"
#include "core/image_files/image_file.h"
#include "core/make/bake.h"
#include "core/pack/pack.h"

#include <set>

namespace hue {

struct WirePicture {
    Image image;
    MapKind kind = MapKind::Data;
    std::vector<std::string> cautions; ///< cut or invalid values, dependence on mesh or view
};
/// Errors: make.nothing, make.size, make.broken-graph, make.cancelled, those of makeSeamless.
Result<WirePicture> pictureOfWire(const Project& project, Assets& assets, const MapOrigin& origin, const Work& control);

/// Changes whenever the picture would: of the Program, the values, the maps it reads, size and format. Empty when there is no
/// such wire.
std::string fingerprintOf(const Project& project, Assets& assets, const MapOrigin& origin);
std::string fingerprintOf(const Project& project, Assets& assets, const Packing& packing);

/// Maps that a made map is made from.
std::set<Id> mapsReadBy(const Project& project, const MapOrigin& origin);
std::set<Id> mapsReadBy(const Project& project, const Packing& packing);

/// A lane's wire, "Master/Instance: card.port.take"; empty when it names nothing.
std::optional<MapOrigin> originOfLane(const Project& project, const std::string& text);

/// Where a map of that name is written: maps/NAME.png (or .exr) in the project's folder, with a number behind when there is
/// such a file already that is not `own`.
std::filesystem::path pathForMap(const Assets& assets, const std::string& name, SampleType type, const std::filesystem::path& own = {});

struct MadeMap {
    MapFile file; ///< with path, kind, hash and fingerprint; for edit::addMap, or changeMap where its id is in the project
    std::vector<std::string> cautions;
};
/// Evaluates and writes. `map`: of the project, or a new one with name and origin. Errors also: file.cannot-write.
Result<MadeMap> makeMap(const Project& project, Assets& assets, MapFile map, const Work& control);

/// A packing's request with the files of the project.
Result<PackRequest> requestOf(const Project& project, Assets& assets, const Packing& packing);
/// Packs and writes the packing's map (made when there is none). `packing` receives map and fingerprint.
Result<MadeMap> packMap(const Project& project, Assets& assets, Packing& packing, const Work& control);

/// The levels of a map, each by what its channels mean; see Assets::levels.
std::vector<Image> levelsOf(const Project& project, const Assets& assets, const MapFile& map, Image image);

/// Made maps whose sources have changed since.
struct Stale {
    std::vector<Id> maps; ///< made from wires
    std::vector<Id> packings;
};
/// What is made again.
enum class Remake {
    Changed, ///< what has changed since it was made
    All,     ///< and packings that were never made
    Packed   ///< packings only, those that were never made too
};
Stale staleMaps(const Project& project, Assets& assets, Remake what = Remake::Changed);
/// The same in words, one caution each: make.stale.
std::vector<Diagnostic> staleProblems(const Project& project, Assets& assets);

/// Makes all stale maps again, in the order in which they depend on each other, until nothing is stale. One that fails is told and holds
/// up no other.
struct Remade {
    std::vector<MadeMap> maps;
    std::vector<Packing> packings;     ///< of those maps that are packed, as they are now
    std::vector<Error> failures;       ///< one for each map that could not be made
    std::vector<std::string> failed{}; ///< their names
    bool stopped = false;
};
Remade remakeStale(Project project, Assets& assets, const Work& work, Remake what = Remake::Changed);
/// The project with what was made. Maps and packings that it has no more are passed over; the map of a packing that had none comes in.
Result<Project> withRemade(const Project& project, const Remade& remade);

/// How often a fingerprint was taken since the program started; turning the camera must not change it.
int fingerprintsTaken();

} // namespace hue
