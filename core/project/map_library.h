#pragma once
// Loaded maps, in memory.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/maps/map_levels.h"

#include <condition_variable>
#include <filesystem>
#include <functional>
#include <map>
#include <mutex>
#include <optional>
#include <set>

namespace hue {

/// What is asked for; two that are equal share a map.
struct MapRequest {
    std::filesystem::path file;
    MapKind kind = MapKind::Color;
    Wrap wrap = Wrap::Repeat;
    std::string format{}; ///< key of a block format, or empty
    MapLevels levels{};
    std::string key(bool compressed) const;
    /// When the file, or the normals that its levels follow, changed last; nothing when the file is missing.
    std::optional<std::filesystem::file_time_type> changed() const;
};

/// Loaded maps, shared by path, kind, wrap, format and levels; a file is read again when it has changed on disk. Any thread: a map that
/// several ask for at once is read once, and the others wait for it.
class MapLibrary {
  public:
    enum class View {
        Original,
        CompressedWhenReady, ///< the original until somebody has called compress()
        Compressed           ///< waits for it
    };
    /// Null, with a message by problem(), when the file cannot be used.
    MapPtr get(const MapRequest& request, View view = View::Original);
    /// The last error for the file, empty when there was none.
    std::string problem(const std::filesystem::path& file) const;
    /// Lets go of the maps of all other files; who holds one keeps it.
    void keepOnly(const std::set<std::filesystem::path>& files);
    /// What the maps take in memory.
    size_t bytes() const;

    /// Called, from whichever thread asked, when a compressed map is wanted that is not there. The call must not wait for anything.
    void setWanted(std::function<void(const MapRequest&)> wanted);
    /// Makes the compressed map of a request; some seconds for a large one. False when it cannot be made or was cancelled.
    bool compress(const MapRequest& request, const Work& work);

  private:
    struct Entry {
        std::filesystem::path file;
        MapPtr map;
        std::string problem;
        std::optional<std::filesystem::file_time_type> changed;
        bool making = false;
    };
    MapPtr compressedMap(const MapRequest& request, View view);
    MapPtr make(const std::string& key, const MapRequest& request, const std::function<Entry()>& how);

    mutable std::mutex m_mutex;
    std::condition_variable m_made;
    std::map<std::string, Entry> m_entries;
    std::function<void(const MapRequest&)> m_wanted;
};

} // namespace hue
