#pragma once
// Animated pictures and sheets of frames.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <vector>

namespace hue {

/// A WebP animation that loops for ever, frame by frame as they come. Frames are RGBA, 8 bits, all of one size.
class AnimationWriter {
  public:
    /// `seconds`: how long each frame shows. Lossless keeps every pixel; else small differences go.
    AnimationWriter(int width, int height, double seconds, bool lossless);
    ~AnimationWriter();
    AnimationWriter(const AnimationWriter&) = delete;
    /// Error: animation.cannot-encode.
    Outcome add(const std::vector<uint8_t>& rgba);
    /// Errors: animation.cannot-encode, file.cannot-write.
    Outcome finish(const std::filesystem::path& file);

  private:
    struct State;
    std::unique_ptr<State> m;
};

} // namespace hue
