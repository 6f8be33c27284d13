#include "core/images/map_pictures.h"

#include "core/images/mips.h"

#include <algorithm>
#include <cstring>

namespace hue {
namespace {

ScreenPicture picked(const Image& image, const std::vector<int>& channels) {
    ScreenPicture p{image.width, image.height, int(channels.size()), {}};
    p.bytes.resize(size_t(p.width) * size_t(p.height) * channels.size());
    forRows(image.height, 0, [&](int from, int to) {
        std::vector<float> row(size_t(image.width) * size_t(image.channels));
        for (int y = from; y < to; ++y) {
            toFloats(image.type, image.row(y), row.size(), row.data());
            uint8_t* out = &p.bytes[size_t(y) * size_t(p.width) * channels.size()];
            for (int x = 0; x < image.width; ++x)
                for (int c : channels) {
                    const float v = row[size_t(x * image.channels + c)];
                    *out++ = uint8_t(v > 0 ? std::min(v, 1.f) * 255 + 0.5f : 0);
                }
        }
    });
    return p;
}

Image shrunk(const Image& image, int mostSide) {
    Image out = halved(image, false);
    while (std::max(out.width, out.height) > mostSide) out = halved(out, false);
    return out;
}

} // namespace

ScreenPicture channelPicture(const Image& image, int channel, int mostSide) {
    if (std::max(image.width, image.height) > mostSide) return picked(shrunk(image, mostSide), {channel});
    return picked(image, {channel});
}

ScreenPicture colorPicture(const Image& image, int mostSide) {
    const std::vector<int> channels = image.channels >= 3 ? std::vector<int>{0, 1, 2} : std::vector<int>{0};
    if (std::max(image.width, image.height) > mostSide) return picked(shrunk(image, mostSide), channels);
    return picked(image, channels);
}

ScreenPicture tiledPicture(const Image& image, int times, int mostSide) {
    const ScreenPicture one = colorPicture(image, std::max(1, mostSide / times));
    ScreenPicture p{one.width * times, one.height * times, one.channels, {}};
    const size_t row = size_t(one.width) * size_t(one.channels);
    p.bytes.resize(row * size_t(times) * size_t(p.height));
    for (int y = 0; y < p.height; ++y)
        for (int k = 0; k < times; ++k)
            std::memcpy(&p.bytes[(size_t(y) * size_t(times) + size_t(k)) * row], &one.bytes[size_t(y % one.height) * row], row);
    return p;
}

} // namespace hue
