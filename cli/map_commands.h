#pragma once
// Commands of hsk that work on maps. Each returns the exit code: 0 good, 1 problems found, 2 can't run.
#include "core/document/project.h"

#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace hue::cli {

struct MapOptions {
    std::string project, out, recipe, pattern = "*_{role}.png", folder, kind, format = "auto", family = "bc", of, wire, method = "cut";
    std::vector<std::string> files, sources, shapes;
    std::string join, normals, operation, effort = "usual", errorPicture, samples = "8-bit", name, resize;
    int size = 0;
    double leastPsnr = 38, mostMegabytes = 0, strength = 1, width = 1, depth = 0.05, soft = 0, ground = 0, band = 0.125;
    bool json = false, zstd = false, seamless = false, mips = true, levels = false;
};

// What the commands share.
std::string megabytes(size_t bytes);
std::optional<MapKind> kindByName(const std::string& name);

int listRecipes(const MapOptions&);
int packMaps(const MapOptions&);
int unpackMaps(const MapOptions&);
int makeFromWire(const MapOptions&);
int remake(const MapOptions&);
int compressMap(const MapOptions&);
int makeSeamlessMaps(const MapOptions&);
int normalMaps(const MapOptions&);
int glossToMetallic(const MapOptions&);
int mask(const MapOptions&);

/// Adds the commands to the program; `code` receives what the chosen one returns.
void addMapCommands(CLI::App& app, int& code);

} // namespace hue::cli
