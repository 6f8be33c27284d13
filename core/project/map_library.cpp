#include "core/project/map_library.h"

#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"

#include <fmt/format.h>

namespace hue {

namespace fs = std::filesystem;

std::string MapRequest::key(bool compressed) const {
    const int how = kind == MapKind::Color ? 0 : kind == MapKind::Normal ? 1 : 2;
    return fmt::format("{}|{}|{}|{}|{}|{}", file.string(), how, int(wrap), format, levels.key(), compressed);
}

std::optional<fs::file_time_type> MapRequest::changed() const {
    std::error_code missing;
    auto time = fs::last_write_time(file, missing);
    if (missing) return {};
    if (const auto its = levels.normals.empty() ? time : fs::last_write_time(levels.normals, missing); !missing) time = std::max(time, its);
    return time;
}

/// One thread makes the entry, without the lock; others that want it wait.
MapPtr MapLibrary::make(const std::string& key, const MapRequest& request, const std::function<Entry()>& how) {
    const auto changed = request.changed();
    {
        std::unique_lock lock(m_mutex);
        while (true) {
            const auto it = m_entries.find(key);
            if (it == m_entries.end() || (!it->second.making && (!changed || it->second.changed != changed))) break;
            if (!it->second.making) return it->second.map;
            m_made.wait(lock);
        }
        m_entries[key] = {request.file, nullptr, {}, changed, true};
    }
    Entry made = how();
    made.file = request.file;
    made.changed = changed;
    MapPtr map = made.map;
    const std::lock_guard lock(m_mutex);
    m_entries[key] = std::move(made);
    m_made.notify_all();
    return map;
}

MapPtr MapLibrary::get(const MapRequest& request, View view) {
    if (view != View::Original && !request.format.empty())
        if (MapPtr map = compressedMap(request, view)) return map;
    return make(request.key(false), request, [&] {
        Entry entry;
        Result<Image> image = readImage(request.file);
        if (!image) {
            entry.problem = image.error().sentence;
            return entry;
        }
        const size_t card = cardBytes(request.format, image->width, image->height, image->channels, image->type);
        auto map = std::make_shared<Map>(mapOf(levelsOf(std::move(*image), request.kind, request.levels), request.kind, request.wrap));
        map->setCardBytes(card);
        entry.map = std::move(map);
        return entry;
    });
}

MapPtr MapLibrary::compressedMap(const MapRequest& request, View view) {
    if (!blockFormatByKey(request.format)) return nullptr;
    const std::string key = request.key(true);
    std::function<void(const MapRequest&)> wanted;
    {
        const auto changed = request.changed();
        const std::lock_guard lock(m_mutex);
        const auto it = m_entries.find(key);
        if (it != m_entries.end() && (it->second.making || it->second.changed == changed) &&
            (it->second.map || view == View::CompressedWhenReady))
            return it->second.map;
        wanted = m_wanted;
    }
    if (view == View::CompressedWhenReady) {
        if (wanted) wanted(request);
        return nullptr;
    }
    (void)compress(request, {});
    const std::lock_guard lock(m_mutex);
    return m_entries[key].map;
}

bool MapLibrary::compress(const MapRequest& request, const Work& work) {
    const auto format = blockFormatByKey(request.format);
    if (!format) return false;
    const std::string key = request.key(true);
    const MapPtr made = make(key, request, [&] {
        Entry entry;
        Result<Image> image = readImage(request.file);
        if (!image) return entry;
        const size_t card = cardBytes(*format, image->width, image->height, image->channels);
        EncodeOptions options;
        options.srgb = request.kind == MapKind::Color;
        options.cancelled = work.cancelled;
        // Each level on its own, as files for a graphics card have them.
        std::vector<Image> levels = levelsOf(std::move(*image), request.kind, request.levels);
        for (Image& level : levels) {
            Result<Image> back = asCompressed(level, *format, options);
            if (!back) return entry;
            const bool rebuilds = request.kind == MapKind::Normal && level.channels >= 3 && infoOf(*format).channels == 2;
            level = rebuilds ? renormalised(*back, true) : std::move(*back);
        }
        auto map = std::make_shared<Map>(mapOf(levels, request.kind, request.wrap));
        map->setCardBytes(card);
        entry.map = std::move(map);
        return entry;
    });
    if (made || !work.stopped()) return made != nullptr;
    // What was cancelled is not there, and may be asked for again.
    const std::lock_guard lock(m_mutex);
    if (const auto it = m_entries.find(key); it != m_entries.end() && !it->second.map && !it->second.making) m_entries.erase(it);
    return false;
}

void MapLibrary::setWanted(std::function<void(const MapRequest&)> wanted) {
    const std::lock_guard lock(m_mutex);
    m_wanted = std::move(wanted);
}

std::string MapLibrary::problem(const fs::path& file) const {
    const std::lock_guard lock(m_mutex);
    for (const auto& [key, entry] : m_entries)
        if (entry.file == file && !entry.problem.empty()) return entry.problem;
    return {};
}

void MapLibrary::keepOnly(const std::set<fs::path>& files) {
    const std::lock_guard lock(m_mutex);
    std::erase_if(m_entries, [&](const auto& e) { return !e.second.making && !files.contains(e.second.file); });
}

size_t MapLibrary::bytes() const {
    const std::lock_guard lock(m_mutex);
    size_t sum = 0;
    for (const auto& [key, entry] : m_entries) sum += entry.map ? entry.map->bytes() : 0;
    return sum;
}

} // namespace hue
