#include "core/maps/map_file.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>

namespace hue {
namespace {

namespace fs = std::filesystem;
constexpr int kLargestSide = 16384;

Error unreadable(const fs::path& file, const std::string& why) {
    return {"map.unreadable",
            fmt::format("{} cannot be read as an image: {}. Export it again, or choose another file.", file.string(),
                        why.empty() ? "its format is not known" : why),
            {}};
}

/// RGBA of type T from `channels` interleaved ones.
template <class T> std::vector<std::byte> spreadToRgba(const T* from, size_t texels, int channels, T one) {
    std::vector<std::byte> out(texels * 4 * sizeof(T));
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

Result<Map> readMap(const fs::path& file, MapKind kind, Wrap wrap) {
    std::error_code none;
    if (!fs::exists(file, none))
        return Error{"map.missing", fmt::format("{} is not there. Bring the file back, or relocate the map.", file.string()), {}};
    // Open TIFF and the like without applying alpha to color: masks live in the alpha of maps.
    OIIO::ImageSpec config;
    config["oiio:UnassociatedAlpha"] = 1;
    auto input = OIIO::ImageInput::open(file.string(), &config);
    if (!input) return unreadable(file, firstLine(OIIO::geterror()));
    const OIIO::ImageSpec& spec = input->spec();
    if (spec.width < 1 || spec.height < 1 || spec.depth > 1) return unreadable(file, "it has no pixels");
    if (spec.width > kLargestSide || spec.height > kLargestSide)
        return Error{"map.too-large",
                     fmt::format("{} says it is {} x {} pixels; at most {} a side can be used. Make it smaller.", file.string(), spec.width,
                                 spec.height, kLargestSide),
                     {}};
    if (spec.nchannels > 4)
        return Error{"map.channels",
                     fmt::format("{} has {} channels; a map has one to four. Write the wanted ones to a file of their own.", file.string(),
                                 spec.nchannels),
                     {}};
    const size_t texels = size_t(spec.width) * size_t(spec.height);
    const int channels = spec.nchannels;
    auto read = [&](OIIO::TypeDesc type, void* to) { return input->read_image(0, 0, 0, channels, type, to); };
    auto finish = [&](TexelFormat format, bool encoded, std::vector<std::byte> bytes) -> Result<Map> {
        Map map(spec.width, spec.height, format, encoded, wrap, std::move(bytes));
        map.makeMips();
        return map;
    };
    const bool color = kind == MapKind::Color;
    const bool whole = spec.format.basetype == OIIO::TypeDesc::UINT8 || spec.format.basetype == OIIO::TypeDesc::UINT16;
    if (spec.format.basetype == OIIO::TypeDesc::UINT8) {
        std::vector<uint8_t> data(texels * size_t(channels));
        if (!read(OIIO::TypeDesc::UINT8, data.data())) return unreadable(file, firstLine(input->geterror()));
        return finish(TexelFormat::U8, color, spreadToRgba<uint8_t>(data.data(), texels, channels, 255));
    }
    if (whole && !color) {
        std::vector<uint16_t> data(texels * size_t(channels));
        if (!read(OIIO::TypeDesc::UINT16, data.data())) return unreadable(file, firstLine(input->geterror()));
        return finish(TexelFormat::U16, false, spreadToRgba<uint16_t>(data.data(), texels, channels, 65535));
    }
    std::vector<float> data(texels * size_t(channels));
    if (!read(OIIO::TypeDesc::FLOAT, data.data())) return unreadable(file, firstLine(input->geterror()));
    if (whole && color) {
        const int last = channels == 2 ? 1 : std::min(channels, 3);
        for (size_t i = 0; i < texels; ++i)
            for (int c = 0; c < last; ++c) data[i * size_t(channels) + size_t(c)] = srgbToLinear(data[i * size_t(channels) + size_t(c)]);
    }
    return finish(TexelFormat::F32, false, spreadToRgba<float>(data.data(), texels, channels, 1.f));
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

Error cannotWrite(const fs::path& file, const std::string& why) {
    return {
        "file.cannot-write", fmt::format("{} cannot be written: {}. Check the folder and the space on the disk.", file.string(), why), {}};
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
    fs::path temporary = file;
    temporary.replace_filename("." + file.stem().string() + ".part" + suffix);
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
    std::error_code failed;
    fs::rename(temporary, file, failed);
    if (failed) return cannotWrite(file, failed.message());
    return invalid;
}

Result<Picture> readPicture(const fs::path& file) {
    auto input = OIIO::ImageInput::open(file.string());
    if (!input) return unreadable(file, firstLine(OIIO::geterror()));
    const OIIO::ImageSpec& spec = input->spec();
    Picture p{spec.width, spec.height, spec.nchannels, {}};
    p.values.resize(size_t(spec.width) * size_t(spec.height) * size_t(spec.nchannels));
    if (!input->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::FLOAT, p.values.data()))
        return unreadable(file, firstLine(input->geterror()));
    return p;
}

std::string contentHash(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return {};
    uint64_t h = 0xCBF29CE484222325ull;
    char buffer[1 << 16];
    while (in.read(buffer, sizeof buffer) || in.gcount() > 0)
        for (std::streamsize i = 0; i < in.gcount(); ++i) h = (h ^ uint64_t(static_cast<unsigned char>(buffer[i]))) * 0x100000001B3ull;
    return fmt::format("{:016x}", h);
}

MapPtr MapLibrary::get(const fs::path& file, MapKind kind, Wrap wrap) {
    const std::string key = fmt::format("{}|{}|{}", file.string(), int(kind == MapKind::Color), int(wrap));
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_entries.find(key);
        if (it != m_entries.end() && it->second.changed == changed && !missing) return it->second.map;
    }
    Entry entry;
    entry.changed = changed;
    if (Result<Map> read = readMap(file, kind, wrap)) entry.map = std::make_shared<Map>(std::move(*read));
    else entry.problem = read.error().sentence;
    const std::lock_guard lock(m_mutex);
    m_entries[key] = entry;
    return entry.map;
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
