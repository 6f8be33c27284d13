#pragma once
// Loaded maps, in memory.
#include "core/maps/map_levels.h"

#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>

namespace hue {

/// Loaded maps, shared by path, kind, wrap, format and levels; a file is read again when it has changed on disk.
class MapLibrary {
  public:
    MapLibrary();
    ~MapLibrary();
    enum class View {
        Original,
        CompressedWhenReady, ///< the original until a thread in the background has compressed the map
        Compressed           ///< waits for it
    };
    /// Null, with a message by problem(), when the file cannot be used. `format`: key of a block format, or empty.
    MapPtr get(const std::filesystem::path& file, MapKind kind, Wrap wrap, const std::string& format = {}, View view = View::Original,
               const MapLevels& levels = {});
    /// The last error for the file, empty when there was none.
    std::string problem(const std::filesystem::path& file) const;
    void forget();
    /// Called, from the background, when a compressed map is ready.
    void setReady(std::function<void()> ready);

  private:
    struct Entry {
        MapPtr map;
        std::string problem;
        std::optional<std::filesystem::file_time_type> changed;
    };
    struct Background;
    /// What is asked for; two that are equal share a map.
    struct Request {
        std::filesystem::path file;
        MapKind kind;
        Wrap wrap;
        std::string format;
        MapLevels levels;
        std::string key(bool compressed) const;
        /// When the file, or the normals that its levels follow, changed last; nothing when the file is missing.
        std::optional<std::filesystem::file_time_type> changed() const;
    };
    MapPtr compressedMap(const Request& request, View view);

    mutable std::mutex m_mutex;
    std::map<std::string, Entry> m_entries;
    std::function<void()> m_ready;
    std::atomic<bool> m_stopping = false;
    std::unique_ptr<Background> m_background;
};

} // namespace hue
