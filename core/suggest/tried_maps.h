#pragma once
// Maps that are made to see what they would bring: files in a folder of the program's own, until somebody keeps what reads them.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/maps/statistics.h"
#include "core/pack/pack.h"
#include "core/project/assets.h"

#include <filesystem>
#include <mutex>

namespace hue {

class TriedMaps {
  public:
    /// `assets` stay as long as this. `folder`: where files are written; empty: in the user's cache.
    explicit TriedMaps(Assets& assets, std::filesystem::path folder = {});
    Assets& assets() const { return m_assets; }

    /// What a wire shows over the unit square, as `map` names it by its origin, with the full path of its file. What was made from the same
    /// is not made again. Errors: those of pictureOfWire(), file.cannot-write.
    Result<MapFile> ofWire(const Project& project, MapFile map);
    /// The same pixels at `width` x `height`, averaged as its kind asks for. Errors: those of readImage(), file.cannot-write.
    Result<MapFile> resized(const MapFile& map, int width, int height);
    /// The packed map of a packing; `packing` receives it. Errors: those of packMap().
    Result<MapFile> packed(const Project& project, Packing& packing);
    /// Of the pixels of a map; kept. Nothing where its file cannot be read.
    std::shared_ptr<const MapFacts> factsOf(const MapFile& map);

    /// A state whose maps of that folder lie among the project's own files, as copies. Error: file.cannot-write.
    Result<Project> kept(const Project& state) const;

  private:
    /// Where a file is, or is to be, that follows from `key`; called `name` so that it is known by it when it is kept.
    std::filesystem::path fileFor(const std::string& key, const std::string& name, SampleType type) const;

    Assets& m_assets;
    std::filesystem::path m_folder;
    std::mutex m_making; ///< one file at a time
    std::map<std::string, std::shared_ptr<const MapFacts>> m_facts;
    std::map<std::string, MapKind> m_kinds; ///< of wires, by their fingerprints
};

} // namespace hue
