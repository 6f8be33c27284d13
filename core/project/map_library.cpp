#include "core/project/map_library.h"

#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"

#include <condition_variable>
#include <deque>
#include <fmt/format.h>
#include <thread>

namespace hue {

namespace fs = std::filesystem;

struct MapLibrary::Background {
    std::mutex mutex;
    std::condition_variable wake;
    std::deque<std::function<void()>> jobs;
    bool ends = false;
    std::thread thread;

    void start(std::function<void()> job) {
        const std::lock_guard lock(mutex);
        jobs.push_back(std::move(job));
        if (!thread.joinable()) thread = std::thread([this] { run(); });
        wake.notify_one();
    }
    void run() {
        std::unique_lock lock(mutex);
        while (true) {
            wake.wait(lock, [this] { return ends || !jobs.empty(); });
            if (ends) return;
            const auto job = std::move(jobs.front());
            jobs.pop_front();
            lock.unlock();
            job();
            lock.lock();
        }
    }
};

MapLibrary::MapLibrary() : m_background(std::make_unique<Background>()) {}

MapLibrary::~MapLibrary() {
    m_stopping = true;
    {
        const std::lock_guard lock(m_background->mutex);
        m_background->ends = true;
        m_background->wake.notify_one();
    }
    if (m_background->thread.joinable()) m_background->thread.join();
}

void MapLibrary::setReady(std::function<void()> ready) {
    const std::lock_guard lock(m_mutex);
    m_ready = std::move(ready);
}

std::string MapLibrary::Request::key(bool compressed) const {
    const int how = kind == MapKind::Color ? 0 : kind == MapKind::Normal ? 1 : 2;
    return fmt::format("{}|{}|{}|{}|{}|{}", file.string(), how, int(wrap), format, levels.key(), compressed);
}

std::optional<fs::file_time_type> MapLibrary::Request::changed() const {
    std::error_code missing;
    auto time = fs::last_write_time(file, missing);
    if (missing) return {};
    if (const auto its = levels.normals.empty() ? time : fs::last_write_time(levels.normals, missing); !missing) time = std::max(time, its);
    return time;
}

MapPtr MapLibrary::get(const fs::path& file, MapKind kind, Wrap wrap, const std::string& format, View view, const MapLevels& levels) {
    const Request request{file, kind, wrap, format, levels};
    if (view != View::Original && !format.empty())
        if (MapPtr map = compressedMap(request, view)) return map;
    const std::string key = request.key(false);
    const auto changed = request.changed();
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_entries.find(key);
        if (it != m_entries.end() && changed && it->second.changed == changed) return it->second.map;
    }
    Entry entry;
    entry.changed = changed;
    if (Result<Image> image = readImage(file); image) {
        const size_t card = cardBytes(format, image->width, image->height, image->channels, image->type);
        auto map = std::make_shared<Map>(mapOf(levelsOf(std::move(*image), kind, levels), kind, wrap));
        map->setCardBytes(card);
        entry.map = std::move(map);
    } else {
        entry.problem = image.error().sentence;
    }
    const std::lock_guard lock(m_mutex);
    m_entries[key] = entry;
    return entry.map;
}

MapPtr MapLibrary::compressedMap(const Request& request, View view) {
    const auto f = blockFormatByKey(request.format);
    if (!f) return nullptr;
    const std::string key = request.key(true);
    const auto changed = request.changed();
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_entries.find(key);
        // An entry without a map is being made, or cannot be.
        if (it != m_entries.end() && it->second.changed == changed && (it->second.map || view == View::CompressedWhenReady))
            return it->second.map;
        m_entries[key] = {nullptr, {}, changed};
    }
    auto make = [this, request, format = *f, key, changed] {
        Result<Image> image = readImage(request.file);
        if (!image) return;
        const size_t card = cardBytes(format, image->width, image->height, image->channels);
        EncodeOptions options;
        options.srgb = request.kind == MapKind::Color;
        options.cancelled = &m_stopping;
        // Each level on its own, as files for a graphics card have them.
        std::vector<Image> levels = levelsOf(std::move(*image), request.kind, request.levels);
        for (Image& level : levels) {
            Result<Image> back = asCompressed(level, format, options);
            if (!back) return;
            const bool rebuilds = request.kind == MapKind::Normal && level.channels >= 3 && infoOf(format).channels == 2;
            level = rebuilds ? renormalised(*back, true) : std::move(*back);
        }
        auto map = std::make_shared<Map>(mapOf(levels, request.kind, request.wrap));
        map->setCardBytes(card);
        std::function<void()> ready;
        {
            const std::lock_guard lock(m_mutex);
            m_entries[key] = {std::move(map), {}, changed};
            ready = m_ready;
        }
        if (ready) ready();
    };
    if (view == View::CompressedWhenReady) {
        m_background->start(std::move(make));
        return nullptr;
    }
    make();
    const std::lock_guard lock(m_mutex);
    return m_entries[key].map;
}

std::string MapLibrary::problem(const fs::path& file) const {
    const std::lock_guard lock(m_mutex);
    const std::string prefix = file.string() + "|";
    for (auto it = m_entries.lower_bound(prefix); it != m_entries.end() && it->first.starts_with(prefix); ++it)
        if (!it->second.problem.empty()) return it->second.problem;
    return {};
}

void MapLibrary::forget() {
    const std::lock_guard lock(m_mutex);
    m_entries.clear();
}

} // namespace hue
