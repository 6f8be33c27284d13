#include "core/surface/light_files.h"

#include "core/base/files.h"
#include "core/base/value.h"

#include <OpenImageIO/imageio.h>
#include <cmath>
#include <condition_variable>
#include <fmt/format.h>
#include <fstream>
#include <map>
#include <mutex>
#include <numbers>

namespace hue {
namespace {

namespace fs = std::filesystem;
constexpr float kPi = std::numbers::pi_v<float>;

struct Panorama {
    int width = 0, height = 0;
    std::vector<float> rgb;

    Rgb at(const Rgb& d) const {
        const float u = 0.5f - std::atan2(d[0], d[2]) / (2 * kPi), v = std::acos(std::clamp(d[1], -1.f, 1.f)) / kPi;
        const float x = u * float(width) - 0.5f, y = std::clamp(v * float(height) - 0.5f, 0.f, float(height - 1));
        const int x0 = int(std::floor(x)), y0 = int(y), y1 = std::min(y0 + 1, height - 1);
        const float fx = x - float(x0), fy = y - float(y0);
        Rgb out;
        for (size_t c = 0; c < 3; ++c) {
            auto texel = [&](int i, int j) { return rgb[(size_t(j) * size_t(width) + size_t((i % width + width) % width)) * 3 + c]; };
            const float top = texel(x0, y0) + (texel(x0 + 1, y0) - texel(x0, y0)) * fx;
            const float low = texel(x0, y1) + (texel(x0 + 1, y1) - texel(x0, y1)) * fx;
            out[c] = top + (low - top) * fy;
        }
        return out;
    }
};

Result<std::unique_ptr<OIIO::ImageInput>> openPanorama(const fs::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"light.missing", fmt::format("{} {}. Bring the file back, or choose another light.", file.string(), why), {}};
    auto bad = [&](const std::string& why) {
        return Error{"light.unreadable", fmt::format("{} cannot be used as a light: {}.", file.string(), why), {}};
    };
    auto in = OIIO::ImageInput::open(file.string());
    if (!in) {
        std::string why = OIIO::geterror();
        return bad(why.empty() ? "it is no picture" : why.substr(0, why.find('\n')));
    }
    const OIIO::ImageSpec& spec = in->spec();
    if (spec.width < 8 || spec.height < 4 || spec.width > 32768 || spec.height > 16384)
        return bad(fmt::format("its size of {} x {} is out of range", spec.width, spec.height));
    if (std::abs(spec.width - 2 * spec.height) > spec.height / 50 + 1)
        return Error{"light.not-a-panorama",
                     fmt::format("{} is {} x {}; a light's picture of all surroundings is twice as wide as it is high.", file.string(),
                                 spec.width, spec.height),
                     {}};
    if (spec.nchannels < 3) return bad("it has no colors");
    return in;
}

Result<Panorama> readPanorama(const fs::path& file) {
    auto opened = openPanorama(file);
    if (!opened) return opened.error();
    OIIO::ImageInput* in = opened->get();
    const OIIO::ImageSpec& spec = in->spec();
    // Read in bands and averaged down at once: a large picture needs little memory, and a small sun keeps its energy.
    const int factor = std::max(1, spec.width / 1024);
    Panorama out{spec.width / factor, spec.height / factor, {}};
    out.rgb.assign(size_t(out.width) * size_t(out.height) * 3, 0);
    std::vector<float> rows(size_t(spec.width) * size_t(spec.nchannels) * size_t(factor));
    const int channels = spec.nchannels;
    for (int y = 0; y < out.height; ++y) {
        if (!in->read_scanlines(0, 0, y * factor + spec.y, (y + 1) * factor + spec.y, 0, 0, channels, OIIO::TypeDesc::FLOAT, rows.data()))
            return Error{"light.unreadable", fmt::format("{} cannot be used as a light: it ends in the middle.", file.string()), {}};
        for (int x = 0; x < out.width; ++x)
            for (size_t c = 0; c < 3; ++c) {
                float sum = 0;
                for (int j = 0; j < factor; ++j)
                    for (int i = 0; i < factor; ++i) {
                        const float value = rows[(size_t(j) * size_t(spec.width) + size_t(x * factor + i)) * size_t(channels) + c];
                        if (std::isfinite(value)) sum += std::max(value, 0.f);
                    }
                out.rgb[(size_t(y) * size_t(out.width) + size_t(x)) * 3 + c] = std::min(sum / float(factor * factor), 6e4f);
            }
    }
    // 8-bit pictures are encoded; light is linear.
    if (spec.format == OIIO::TypeDesc::UINT8)
        for (float& x : out.rgb) x = srgbToLinear(x);
    return out;
}

constexpr uint32_t kCacheMagic = 0x31474C48; // "HLG1"

bool readCache(const fs::path& file, PrefilteredLight& light) {
    std::ifstream in(file, std::ios::binary);
    uint32_t head[3] = {};
    if (!in.read(reinterpret_cast<char*>(head), sizeof head) || head[0] != kCacheMagic || head[1] != PrefilteredLight::kSize ||
        head[2] != PrefilteredLight::kLevels)
        return false;
    for (int level = 0; level < PrefilteredLight::kLevels; ++level) {
        const size_t size = size_t(PrefilteredLight::kSize >> level);
        light.faces.emplace_back(6 * size * size * 3);
        if (!in.read(reinterpret_cast<char*>(light.faces.back().data()), std::streamsize(light.faces.back().size() * sizeof(float))))
            return false;
    }
    return bool(in.read(reinterpret_cast<char*>(light.harmonics.data()), sizeof light.harmonics));
}

/// A cache that cannot be written costs time, nothing else.
void writeCache(const fs::path& file, const PrefilteredLight& light) {
    std::string bytes;
    auto add = [&](const void* p, size_t n) { bytes.append(static_cast<const char*>(p), n); };
    const uint32_t head[3] = {kCacheMagic, PrefilteredLight::kSize, PrefilteredLight::kLevels};
    add(head, sizeof head);
    for (const auto& level : light.faces) add(level.data(), level.size() * sizeof(float));
    add(light.harmonics.data(), sizeof light.harmonics);
    (void)writeFile(file, bytes, Folders::Make);
}

} // namespace

fs::path lightCacheFolder() { return cacheFolder("lights"); }

Outcome canBeLight(const fs::path& file) {
    const auto opened = openPanorama(file);
    if (!opened) return opened.error();
    return Done{};
}

Result<LightPtr> readLight(const fs::path& file, const fs::path& cache) {
    const fs::path cached = cache.empty() ? fs::path{} : cache / (contentHash(file) + ".light");
    auto out = std::make_shared<PrefilteredLight>();
    if (!cached.empty() && readCache(cached, *out)) return LightPtr(out);
    const Result<Panorama> panorama = readPanorama(file);
    if (!panorama) return panorama.error();
    *out = prefilter([&](const Rgb& d) { return panorama->at(d); });
    if (!cached.empty()) writeCache(cached, *out);
    return LightPtr(out);
}

struct LightLibrary::Shared {
    std::mutex mutex;
    std::condition_variable done;
    struct Entry {
        fs::file_time_type changed;
        LightPtr light;
        std::string problem;
        bool reading = false;
        uint64_t generation = 0; ///< 0: never read
    };
    std::map<std::string, Entry> entries;
    uint64_t generations = 0;
};

LightLibrary::LightLibrary() : m(std::make_unique<Shared>()) {}
LightLibrary::~LightLibrary() = default;

void LightLibrary::read(const fs::path& file) {
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    {
        std::unique_lock lock(m->mutex);
        Shared::Entry& e = m->entries[file.string()];
        if (e.reading) return m->done.wait(lock, [&] { return !e.reading; });
        if (e.generation && e.changed == changed) return;
        e.reading = true;
    }
    const Result<LightPtr> light = readLight(file, lightCacheFolder());
    const std::lock_guard lock(m->mutex);
    Shared::Entry& e = m->entries[file.string()];
    e.changed = changed;
    e.light = light ? *light : nullptr;
    e.problem = light ? std::string{} : light.error().sentence;
    e.reading = false;
    e.generation = ++m->generations;
    m->done.notify_all();
}

ReadyLight LightLibrary::get(const std::string& id, const fs::path& folder, bool wait) {
    if (const LightDef* def = findLight(id)) return {def->id, def->sun, prefiltered(*def), {}, {}};
    const LightDef& neutral = *findLight("grey-box");
    auto standIn = [&](std::string why, fs::path unread = {}) {
        return ReadyLight{neutral.id, neutral.sun, prefiltered(neutral), std::move(why), std::move(unread)};
    };
    const fs::path path = folder / id;
    if (path.extension().empty()) return standIn(fmt::format("There is no light {}; the neutral grey box stands in.", id));
    if (wait) read(path);
    std::error_code missing;
    const auto changed = fs::last_write_time(path, missing);
    const std::lock_guard lock(m->mutex);
    const Shared::Entry& e = m->entries[path.string()];
    if (!e.generation || e.changed != changed) return standIn({}, path);
    if (!e.light) return standIn(e.problem);
    // A file's picture holds its own sun; none is added.
    return {fmt::format("{}#{}", path.string(), e.generation), Sun{}, e.light, {}, {}};
}

} // namespace hue
