#include "core/maps/map_levels.h"

#include "core/image_files/image_file.h"

#include <fmt/format.h>

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
    if (meaning.coverage == kCoverageAlpha) meaning.coverage = image.channels == 4 ? 3 : image.channels == 2 ? 1 : -1;
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

} // namespace hue
