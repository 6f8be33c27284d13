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

Map mapOf(const Image& image, MapKind kind, Wrap wrap) {
    const bool color = kind == MapKind::Color;
    auto finish = [&](TexelFormat format, std::vector<std::byte> bytes) {
        Map map(image.width, image.height, format, color, wrap, std::move(bytes));
        map.makeMips(kind == MapKind::Normal && image.channels >= 3);
        return map;
    };
    if (image.type == SampleType::U8) return finish(TexelFormat::U8, spreadToRgba<uint8_t>(image, 255));
    if (image.type == SampleType::U16 && !color) return finish(TexelFormat::U16, spreadToRgba<uint16_t>(image, 65535));
    Image floats(image.width, image.height, image.channels, SampleType::F32);
    auto* values = reinterpret_cast<float*>(floats.samples.data());
    toFloats(image.type, image.samples.data(), floats.samples.size() / 4, values);
    if (image.type == SampleType::U16) {
        const int last = image.channels >= 3 ? 3 : 1;
        for (size_t i = 0; i < floats.samples.size() / 4; i += size_t(image.channels))
            for (int c = 0; c < last; ++c) values[i + size_t(c)] = srgbToLinear(values[i + size_t(c)]);
    }
    return finish(TexelFormat::F32, spreadToRgba<float>(floats, 1.f));
}

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

std::string MapLibrary::keyOf(const fs::path& file, MapKind kind, Wrap wrap, const std::string& format, bool compressed) {
    return fmt::format("{}|{}|{}|{}|{}", file.string(),
                       kind == MapKind::Color    ? 0
                       : kind == MapKind::Normal ? 1
                                                 : 2,
                       int(wrap), format, compressed);
}

MapPtr MapLibrary::get(const fs::path& file, MapKind kind, Wrap wrap, const std::string& format, View view) {
    if (view != View::Original && !format.empty())
        if (MapPtr map = compressedMap(file, kind, wrap, format, view)) return map;
    const std::string key = keyOf(file, kind, wrap, format, false);
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_entries.find(key);
        if (it != m_entries.end() && it->second.changed == changed && !missing) return it->second.map;
    }
    Entry entry;
    entry.changed = changed;
    if (Result<Image> image = readImage(file); image) {
        auto map = std::make_shared<Map>(mapOf(*image, kind, wrap));
        if (const auto f = blockFormatByKey(format)) map->setCardBytes(bytesWithMips(*f, image->width, image->height, image->channels));
        entry.map = std::move(map);
    } else {
        entry.problem = image.error().sentence;
    }
    const std::lock_guard lock(m_mutex);
    m_entries[key] = entry;
    return entry.map;
}

MapPtr MapLibrary::compressedMap(const fs::path& file, MapKind kind, Wrap wrap, const std::string& format, View view) {
    const auto f = blockFormatByKey(format);
    if (!f) return nullptr;
    const std::string key = keyOf(file, kind, wrap, format, true);
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_entries.find(key);
        // An entry without a map is being made, or cannot be.
        if (it != m_entries.end() && it->second.changed == changed && (it->second.map || view == View::CompressedWhenReady))
            return it->second.map;
        m_entries[key] = {nullptr, {}, changed};
    }
    auto make = [this, file, kind, wrap, format = *f, key, changed] {
        const Result<Image> image = readImage(file);
        if (!image) return;
        EncodeOptions options;
        options.srgb = kind == MapKind::Color;
        options.cancelled = &m_stopping;
        Result<Image> back = asCompressed(*image, format, options);
        if (!back) return;
        if (kind == MapKind::Normal && image->channels >= 3 && infoOf(format).channels == 2) *back = renormalised(*back, true);
        auto map = std::make_shared<Map>(mapOf(*back, kind, wrap));
        map->setCardBytes(bytesWithMips(format, image->width, image->height, image->channels));
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
