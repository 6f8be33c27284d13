#pragma once
// What is known of the maps of a project without reading them each time: facts and thumbnails, kept in the user's cache.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/base/diagnostic.h"
#include "core/document/project.h"
#include "core/maps/map_sets.h"
#include "core/maps/statistics.h"
#include "core/program/intervals.h"
#include "core/project/assets.h"

namespace hue {

struct MapKnowledge {
    MapFacts facts;
    Guess guess;
    static constexpr int kThumbnail = 96;
    int thumbnailWidth = 0, thumbnailHeight = 0; ///< at most kThumbnail a side
    std::vector<uint8_t> thumbnail;              ///< RGBA as stored in the file, alpha opaque
    std::string problem;                         ///< why the file cannot be used; the rest is empty then
    uintmax_t fileBytes = 0;
};
using MapKnowledgePtr = std::shared_ptr<const MapKnowledge>;

/// Any thread.
class MapIndex {
  public:
    /// `cache`: folder of what is kept between runs; empty: nothing is.
    explicit MapIndex(std::filesystem::path cache = defaultCache());
    static std::filesystem::path defaultCache();

    /// What is known by now; null when the file was not looked at since it changed.
    MapKnowledgePtr known(const std::filesystem::path& file) const;
    /// Looks at the file, or into the cache. Some 50 ms for a map of 2048 x 2048, 1 ms from the cache.
    MapKnowledgePtr look(const std::filesystem::path& file);

  private:
    struct Entry {
        std::filesystem::file_time_type changed;
        MapKnowledgePtr knowledge;
    };
    std::filesystem::path m_cache;
    mutable std::mutex m_mutex;
    std::map<std::string, Entry> m_entries;
};

/// Map findings of a project: wrong kinds with a fix, equal maps, unused maps, remarks on single maps. Only maps that the
/// index knows are judged by their pixels. `only`: of one map, which is quick; empty: of all.
std::vector<Diagnostic> mapFindings(const Project& project, const Assets& assets, const MapIndex& index, const Id& only = {});
/// Between which numbers the values of a map lie, as Programs read it: colors as linear light, an alpha of 1 where there is none, and
/// whatever is filtered from them. Nothing for a map that the index does not know.
std::optional<Interval> boundsOfMap(const Project& project, const Assets& assets, const MapIndex& index, const Id& map);
/// Maps with the same pixels, by groups of two or more.
std::vector<std::vector<Id>> equalMaps(const Project& project, const Assets& assets, const MapIndex& index);
/// Sets among maps that belong to none yet.
std::vector<FoundSet> proposedSets(const std::vector<const MapFile*>& maps, const Assets& assets, const MapIndex& index);

} // namespace hue
