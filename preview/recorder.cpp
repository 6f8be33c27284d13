#include "preview/recorder.h"

#include "core/image_files/animation_file.h"

#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace hue {
int frameCount(const RecordRequest& r) { return std::max(1, int(std::lround((r.to - r.from) * r.framesPerSecond))); }

Result<std::vector<std::string>> record(Renderer& renderer, const Project& project, Assets& assets, LookCache& looks, LightLibrary& lights,
                                        const RecordRequest& r, const Work& work) {
    const int frames = frameCount(r);
    const int across = r.width * std::max(1, int(r.specimens.size()));
    if (!(r.to > r.from) || !(r.framesPerSecond > 0) || frames > 20000)
        return Error{
            "record.range",
            fmt::format("{} to {} s at {} frames a second cannot be recorded; at most 20000 frames.", r.from, r.to, r.framesPerSecond),
            {}};
    if (r.specimens.empty()) return Error{"record.range", "There is no specimen to record.", {}};
    const int columns = r.columns > 0 ? r.columns : std::max(1, int(std::ceil(std::sqrt(double(frames) * r.height / across))));
    const int rows = (frames + columns - 1) / columns;
    if (r.kind == RecordRequest::Kind::Sheet && (int64_t(columns) * across > 16384 || int64_t(rows) * r.height > 16384))
        return Error{"record.range",
                     fmt::format("A sheet of {} frames would be {} x {} pixels; at most 16384 a side. Take fewer or smaller frames.",
                                 frames, int64_t(columns) * across, int64_t(rows) * r.height),
                     {}};
    std::error_code failed;
    if (r.kind == RecordRequest::Kind::Frames) std::filesystem::create_directories(r.path, failed);
    if (failed) return Error{"file.cannot-write", fmt::format("The folder {} cannot be made: {}.", r.path.string(), failed.message()), {}};
    std::unique_ptr<AnimationWriter> animation;
    if (r.kind == RecordRequest::Kind::Animated)
        animation = std::make_unique<AnimationWriter>(across, r.height, 1 / r.framesPerSecond, r.lossless);
    std::vector<uint8_t> sheet;
    if (r.kind == RecordRequest::Kind::Sheet) sheet.assign(size_t(columns) * size_t(across) * size_t(rows) * size_t(r.height) * 4, 0x77);

    std::vector<std::string> files;
    std::vector<uint8_t> strip(size_t(across) * size_t(r.height) * 4);
    for (int f = 0; f < frames; ++f) {
        if (work.stopped()) return Error{"record.cancelled", "The recording was cancelled.", {}};
        const double time = r.from + (r.to - r.from) * f / frames;
        for (size_t s = 0; s < r.specimens.size(); ++s) {
            if (r.specimens[s] >= project.lineup.specimens.size())
                return Error{"record.range", fmt::format("There is no specimen {}.", r.specimens[s] + 1), {}};
            const Specimen& specimen = project.lineup.specimens[r.specimens[s]];
            RenderSettings settings = settingsFor(project, specimen, lights, assets.folder(), true);
            if (!settings.lightFile->problem.empty()) return Error{"light.unreadable", settings.lightFile->problem, {}};
            settings.width = r.width;
            settings.height = r.height;
            settings.supersampling = 2;
            const Result<RenderedPicture> picture =
                renderer.render(dress(project, assets, looks, specimen, time, dressFor(project, settings)), settings);
            if (!picture) return picture.error();
            for (int y = 0; y < r.height; ++y)
                std::memcpy(&strip[(size_t(y) * size_t(across) + s * size_t(r.width)) * 4], &picture->rgba[size_t(y) * size_t(r.width) * 4],
                            size_t(r.width) * 4);
        }
        switch (r.kind) {
        case RecordRequest::Kind::Frames: {
            const auto file = r.path / fmt::format("frame_{:04}.png", f);
            if (Outcome o = writeScreenPicture(file, strip, across, r.height); !o) return o.error();
            files.push_back(file.string());
            break;
        }
        case RecordRequest::Kind::Animated:
            if (Outcome o = animation->add(strip); !o) return o.error();
            break;
        case RecordRequest::Kind::Sheet:
            for (int y = 0; y < r.height; ++y)
                std::memcpy(&sheet[((size_t(f / columns) * size_t(r.height) + size_t(y)) * size_t(columns) + size_t(f % columns)) *
                                   size_t(across) * 4],
                            &strip[size_t(y) * size_t(across) * 4], size_t(across) * 4);
            break;
        }
        if (work.progress) work.progress(float(f + 1) / float(frames));
    }
    if (animation) {
        if (Outcome o = animation->finish(r.path); !o) return o.error();
        files.push_back(r.path.string());
    }
    if (!sheet.empty()) {
        if (Outcome o = writeScreenPicture(r.path, sheet, columns * across, rows * r.height); !o) return o.error();
        files.push_back(r.path.string());
    }
    return files;
}

} // namespace hue
