#include "core/maps/map_file.h"

#include "core/compress/block_format.h"
#include "core/hash.h"
#include "core/maps/image_file.h"
#include "core/maps/normal_tools.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <cmath>
#include <condition_variable>
#include <cstring>
#include <deque>
#include <fmt/format.h>
#include <fstream>
#include <thread>

namespace hue {
namespace {

namespace fs = std::filesystem;

/// RGBA of type T from `channels` interleaved ones.
template <class T> std::vector<std::byte> spreadToRgba(const Image& image, T one) {
    const size_t texels = size_t(image.width) * size_t(image.height);
    const int channels = image.channels;
    std::vector<std::byte> out(texels * 4 * sizeof(T));
    const auto* from = reinterpret_cast<const T*>(image.samples.data());
    auto* to = reinterpret_cast<T*>(out.data());
    for (size_t i = 0; i < texels; ++i, from += channels, to += 4) {
        const bool grey = channels < 3;
        to[0] = from[0];
        to[1] = grey ? from[0] : from[1];
        to[2] = grey ? from[0] : from[2];
        to[3] = channels == 2 ? from[1] : channels == 4 ? from[3] : one;
    }
    return out;
}

std::string firstLine(std::string text) { return text.substr(0, text.find('\n')); }

} // namespace

std::string MapLevels::key() const {
    if (how != How::AsPacked) return fmt::format("{}", int(how));
    const MipMeaning& m = meaning;
    return fmt::format("{} {} {} {} {} {} {} {} {}", int(how), m.encoded, m.normal[0], m.normal[1], m.normal[2], m.coverage, m.cutoff,
                       m.roughness, normals.string());
}

std::vector<Image> levelsOf(Image image, MapKind kind, const MapLevels& how) {
    MipMeaning meaning = how.meaning;
    if (how.how != MapLevels::How::AsPacked) {
        meaning = {};
        meaning.encoded = kind == MapKind::Color;
        if (kind == MapKind::Normal && image.channels >= 3) meaning.normal = {0, 1, 2};
        if (how.how == MapLevels::How::Opacity) meaning.coverage = image.channels == 4 ? 3 : image.channels == 2 ? 1 : 0;
    }
    // Half and float files hold linear values.
    meaning.encoded = meaning.encoded && (image.type == SampleType::U8 || image.type == SampleType::U16);
    for (int* channel : {&meaning.normal[0], &meaning.normal[1], &meaning.coverage, &meaning.roughness})
        if (*channel >= image.channels) *channel = -1;
    Image normals;
    if (meaning.roughness >= 0 && !how.normals.empty())
        if (auto read = readImage(how.normals); read && read->channels >= 2) {
            const bool same = read->width == image.width && read->height == image.height;
            normals = same ? std::move(*read) : resized(*read, image.width, image.height, Filter::Box);
            meaning.normals = &normals;
        }
    return makeMips(std::move(image), meaning);
}

Map mapOf(const std::vector<Image>& levels, MapKind kind, Wrap wrap) {
    const bool color = kind == MapKind::Color;
    const SampleType type = levels[0].type;
    const TexelFormat format = type == SampleType::U8              ? TexelFormat::U8
                               : type == SampleType::U16 && !color ? TexelFormat::U16
                                                                   : TexelFormat::F32;
    auto texels = [&](const Image& image) {
        if (format == TexelFormat::U8) return spreadToRgba<uint8_t>(image, 255);
        if (format == TexelFormat::U16) return spreadToRgba<uint16_t>(image, 65535);
        Image floats(image.width, image.height, image.channels, SampleType::F32);
        auto* values = reinterpret_cast<float*>(floats.samples.data());
        toFloats(image.type, image.samples.data(), floats.samples.size() / 4, values);
        if (image.type == SampleType::U16) {
            const int last = image.channels >= 3 ? 3 : 1;
            for (size_t i = 0; i < floats.samples.size() / 4; i += size_t(image.channels))
                for (int c = 0; c < last; ++c) values[i + size_t(c)] = srgbToLinear(values[i + size_t(c)]);
        }
        return spreadToRgba<float>(floats, 1.f);
    };
    Map map(levels[0].width, levels[0].height, format, color, wrap, texels(levels[0]));
    for (size_t n = 1; n < levels.size(); ++n) map.addLevel({levels[n].width, levels[n].height, texels(levels[n])});
    return map;
}

Map mapOf(const Image& image, MapKind kind, Wrap wrap) { return mapOf(levelsOf(image, kind, {}), kind, wrap); }

Result<Map> readMap(const fs::path& file, MapKind kind, Wrap wrap) {
    const Result<Image> image = readImage(file);
    if (!image) return image.error();
    return mapOf(*image, kind, wrap);
}

namespace {

std::vector<uint8_t> toBytes(const Picture& p, PictureEncoding encoding) {
    std::vector<uint8_t> out(p.values.size());
    const int colors = p.channels == 2 ? 1 : std::min(p.channels, 3);
    for (size_t i = 0; i < out.size(); ++i) {
        float x = std::isfinite(p.values[i]) ? p.values[i] : 0.f;
        if (encoding == PictureEncoding::Srgb && int(i % size_t(p.channels)) < colors) x = linearToSrgb(std::max(x, 0.f));
        out[i] = uint8_t(std::lround(std::clamp(x, 0.f, 1.f) * 255));
    }
    return out;
}

OIIO::ImageSpec specOf(const Picture& p, OIIO::TypeDesc type, PictureEncoding encoding) {
    OIIO::ImageSpec spec(p.width, p.height, p.channels, type);
    spec.attribute("oiio:ColorSpace", encoding == PictureEncoding::Srgb ? "sRGB" : "Linear");
    // Alpha is data of its own here, so it must not be multiplied in.
    spec.attribute("oiio:UnassociatedAlpha", 1);
    spec.attribute("png:compressionLevel", 4);
    return spec;
}

} // namespace

Result<std::vector<unsigned char>> encodePng(const Picture& picture, PictureEncoding encoding) {
    std::vector<unsigned char> bytes;
    OIIO::Filesystem::IOVecOutput stream(bytes);
    auto output = OIIO::ImageOutput::create("x.png", &stream);
    if (!output) return cannotWrite("PNG", OIIO::geterror());
    const std::vector<uint8_t> data = toBytes(picture, encoding);
    if (!output->open("x.png", specOf(picture, OIIO::TypeDesc::UINT8, encoding)) ||
        !output->write_image(OIIO::TypeDesc::UINT8, data.data()) || !output->close())
        return cannotWrite("PNG", output->geterror());
    return bytes;
}

Result<size_t> writePicture(const fs::path& file, const Picture& picture, PictureEncoding encoding) {
    size_t invalid = 0;
    for (float x : picture.values) invalid += !std::isfinite(x);
    const std::string suffix = file.extension().string();
    if (suffix != ".png" && suffix != ".exr")
        return cannotWrite(file, fmt::format("pictures are written as .png or .exr, not {}", suffix.empty() ? "without a suffix" : suffix));
    const fs::path temporary = temporaryFor(file);
    std::error_code none;
    auto output = OIIO::ImageOutput::create(temporary.string());
    if (!output) return cannotWrite(file, OIIO::geterror());
    bool ok = false;
    if (suffix == ".png") {
        const std::vector<uint8_t> data = toBytes(picture, encoding);
        ok = output->open(temporary.string(), specOf(picture, OIIO::TypeDesc::UINT8, encoding)) &&
             output->write_image(OIIO::TypeDesc::UINT8, data.data());
    } else {
        std::vector<float> data = picture.values;
        for (float& x : data)
            if (!std::isfinite(x)) x = 0;
        ok = output->open(temporary.string(), specOf(picture, OIIO::TypeDesc::FLOAT, PictureEncoding::Linear)) &&
             output->write_image(OIIO::TypeDesc::FLOAT, data.data());
    }
    ok = ok && output->close();
    if (!ok) {
        const std::string why = firstLine(output->geterror());
        fs::remove(temporary, none);
        return cannotWrite(file, why.empty() ? "the folder is missing or not writable" : why);
    }
    if (Outcome moved = moveInPlace(temporary, file); !moved) return moved.error();
    return invalid;
}

Result<Picture> readPicture(const fs::path& file) {
    const Result<Image> image = readImage(file);
    if (!image) return image.error();
    Picture p{image->width, image->height, image->channels, {}};
    p.values.resize(size_t(p.width) * size_t(p.height) * size_t(p.channels));
    toFloats(image->type, image->samples.data(), p.values.size(), p.values.data());
    return p;
}

std::string contentHash(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return {};
    Hash hash;
    char buffer[1 << 16];
    while (in.read(buffer, sizeof buffer) || in.gcount() > 0) hash.add(buffer, size_t(in.gcount()));
    return hash.text();
}

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
