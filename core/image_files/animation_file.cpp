#include "core/image_files/animation_file.h"

#include "core/base/files.h"

#include <fmt/format.h>
#include <webp/encode.h>
#include <webp/mux.h>

namespace hue {

struct AnimationWriter::State {
    int width, height;
    double seconds;
    int frames = 0;
    WebPAnimEncoder* encoder = nullptr;
    WebPConfig config;
};

AnimationWriter::AnimationWriter(int width, int height, double seconds, bool lossless) : m(std::make_unique<State>()) {
    m->width = width;
    m->height = height;
    m->seconds = seconds;
    WebPAnimEncoderOptions options;
    WebPAnimEncoderOptionsInit(&options);
    options.anim_params.loop_count = 0;
    m->encoder = WebPAnimEncoderNew(width, height, &options);
    WebPConfigInit(&m->config);
    m->config.lossless = lossless;
    m->config.quality = lossless ? 60 : 88;
    m->config.method = 2;
}

AnimationWriter::~AnimationWriter() { WebPAnimEncoderDelete(m->encoder); }

Outcome AnimationWriter::add(const std::vector<uint8_t>& rgba) {
    WebPPicture picture;
    WebPPictureInit(&picture);
    picture.width = m->width;
    picture.height = m->height;
    picture.use_argb = 1;
    const bool ok = m->encoder && WebPPictureImportRGBA(&picture, rgba.data(), m->width * 4) &&
                    WebPAnimEncoderAdd(m->encoder, &picture, int(m->frames * m->seconds * 1000 + 0.5), &m->config);
    WebPPictureFree(&picture);
    if (!ok)
        return Error{"animation.cannot-encode",
                     fmt::format("Frame {} of {} x {} pixels cannot be encoded: {}.", m->frames + 1, m->width, m->height,
                                 m->encoder ? WebPAnimEncoderGetError(m->encoder) : "the size is out of range"),
                     {}};
    ++m->frames;
    return Done{};
}

Outcome AnimationWriter::finish(const std::filesystem::path& file) {
    WebPData data;
    WebPDataInit(&data);
    if (!m->encoder || !WebPAnimEncoderAdd(m->encoder, nullptr, int(m->frames * m->seconds * 1000 + 0.5), nullptr) ||
        !WebPAnimEncoderAssemble(m->encoder, &data))
        return Error{"animation.cannot-encode", "The animated picture cannot be put together. Record fewer or smaller frames.", {}};
    const Outcome written = writeFile(file, {reinterpret_cast<const char*>(data.bytes), data.size});
    WebPDataClear(&data);
    return written;
}

} // namespace hue
