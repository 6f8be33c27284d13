#pragma once
// Carrying out recipes, and taking packed maps apart again.
// Threads: any. Nothing is kept between calls.
#include "core/images/map_kind.h"
#include "core/images/mips.h"
#include "core/pack/recipe.h"

#include <atomic>
#include <functional>
#include <map>
#include <optional>

namespace hue {

/// A map that a recipe reads.
struct PackSource {
    std::filesystem::path file;
    MapKind kind = MapKind::Data;
    bool encoded() const { return kind == MapKind::Color; }
};
struct PackRequest {
    Recipe recipe;
    std::map<std::string, PackSource> sources; ///< by role
    /// Gives the wire of a lane as a plane of a size; needed when a lane reads one.
    std::function<Result<Plane>(const std::string& wire, int width, int height)> wire;
    int threads = 0;
    const std::atomic<bool>* cancelled = nullptr;
    std::function<void(float)> progress; ///< 0..1
};

/// What packing decided before it reads pixels.
struct PackPlan {
    int width = 0, height = 0, channels = 0;
    bool flows = false;      ///< rows go from the sources to the result, strip by strip, and only strips are in memory
    size_t workingBytes = 0; ///< most memory taken besides the result, in memory or in its file
};
/// Errors: recipe.problem, pack.no-source, pack.take, and those of reading.
Result<PackPlan> planPack(const PackRequest& request);

/// The packed map in memory. Errors also: pack.cancelled.
Result<Image> pack(const PackRequest& request);
/// Straight to a file: where rows flow, the result is never in memory as a whole.
Outcome packToFile(const PackRequest& request, const std::filesystem::path& file);
/// A small picture of what packing would give, 8-bit, no side longer than `side`, with distances in proportion. Lanes whose source is not
/// there yet are empty; without any the picture is. Errors: recipe.problem, pack.cancelled, and those of reading.
Result<Image> packPreview(PackRequest request, int side);
/// How the levels of a packed map are made.
MipMeaning mipMeaningOf(const Recipe& recipe);

/// Each channel to a grey file: NAME + "_" + role or channel + suffix. Lanes that a recipe inverted or remapped are turned back
/// where that is possible. The files written.
Result<std::vector<std::filesystem::path>> unpack(const std::filesystem::path& file, const Recipe* recipe,
                                                  const std::filesystem::path& folder);

/// Sets of files in a folder by a pattern such as "*_{role}.png": the star is the set's name, {role} a word for what it holds.
struct FileSet {
    std::string name;
    std::map<std::string, PackSource> maps; ///< by role
};
/// Errors: pattern.odd, folder.missing.
Result<std::vector<FileSet>> setsInFolder(const std::filesystem::path& folder, const std::string& pattern);

} // namespace hue
