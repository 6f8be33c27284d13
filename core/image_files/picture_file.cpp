#include "core/image_files/picture_file.h"

#include "core/base/files.h"
#include "core/base/value.h"
#include "core/image_files/image_file.h"
#include "core/image_files/png_writer.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {

namespace fs = std::filesystem;

namespace {

/// 8 bits a sample; what is not finite becomes 0.
Image encoded(const Picture& p, PictureEncoding encoding) {
    Image out(p.width, p.height, p.channels, SampleType::U8);
    const int colors = p.channels == 2 ? 1 : std::min(p.channels, 3);
    for (size_t i = 0; i < p.values.size(); ++i) {
        float x = std::isfinite(p.values[i]) ? p.values[i] : 0.f;
        if (encoding == PictureEncoding::Srgb && int(i % size_t(p.channels)) < colors) x = linearToSrgb(std::max(x, 0.f));
        out.samples[i] = std::byte(std::lround(std::clamp(x, 0.f, 1.f) * 255));
    }
    return out;
}

PixelEncoding told(PictureEncoding encoding) { return encoding == PictureEncoding::Srgb ? PixelEncoding::Srgb : PixelEncoding::Data; }

} // namespace

std::vector<unsigned char> encodePng(const Picture& picture, PictureEncoding encoding) {
    return pngOf(encoded(picture, encoding), told(encoding));
}

Result<size_t> writePicture(const fs::path& file, const Picture& picture, PictureEncoding encoding) {
    const std::string suffix = file.extension().string();
    if (suffix != ".png" && suffix != ".exr")
        return wrongSuffix(file, fmt::format("pictures are written as .png or .exr, not {}", suffix.empty() ? "without a suffix" : suffix));
    Image image;
    if (suffix == ".png") {
        image = encoded(picture, encoding);
    } else {
        image = Image(picture.width, picture.height, picture.channels, SampleType::F32);
        auto* to = reinterpret_cast<float*>(image.samples.data());
        for (size_t i = 0; i < picture.values.size(); ++i) to[i] = std::isfinite(picture.values[i]) ? picture.values[i] : 0.f;
    }
    if (Outcome written = writeImage(file, image, suffix == ".png" ? told(encoding) : PixelEncoding::Data); !written)
        return written.error();
    return size_t(std::count_if(picture.values.begin(), picture.values.end(), [](float x) { return !std::isfinite(x); }));
}

Result<Picture> readPicture(const fs::path& file) {
    const Result<Image> image = readImage(file);
    if (!image) return image.error();
    Picture p{image->width, image->height, image->channels, {}};
    p.values.resize(size_t(p.width) * size_t(p.height) * size_t(p.channels));
    toFloats(image->type, image->samples.data(), p.values.size(), p.values.data());
    return p;
}

} // namespace hue
