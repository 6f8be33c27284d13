#pragma once
// Records what moves: frames of the lineup or of one specimen.
#include "preview/lineup_pictures.h"

#include <atomic>

namespace hue {

struct RecordRequest {
    enum class Kind { Frames, Animated, Sheet } kind = Kind::Frames;
    std::vector<size_t> specimens; ///< side by side, by index in the lineup
    int width = 420, height = 280; ///< of each
    double from = 0, to = 8;       ///< seconds; the last frame lies before `to`, so that a loop does not stutter
    double framesPerSecond = 24;
    int columns = 0;            ///< of a sheet; 0: about as wide as high
    bool lossless = false;      ///< of an animated picture
    std::filesystem::path path; ///< Frames: the folder; else the file (.webp, .png)
};

/// Frames that a request asks for.
int frameCount(const RecordRequest& request);

/// Renders and writes; the files written. Uses the renderer's context, which must be current. Always waits for the driver, so that
/// every frame is the finished one. Errors: record.range, record.cancelled, those of rendering and writing.
Result<std::vector<std::string>> record(Renderer& renderer, const Project& project, Assets& assets, LookCache& looks, LightLibrary& lights,
                                        const RecordRequest& request, const Work& work = {});

} // namespace hue
