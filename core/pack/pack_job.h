#pragma once
// What packing works from once a recipe and its sources are looked at. Used by core/pack alone.
// Threads: an object belongs to one at a time.
#include "core/image_files/image_file.h"
#include "core/pack/pack.h"

namespace hue::packing {

constexpr int kStrip = 256; ///< rows that flow through at once

/// A lane made ready: what it reads, with the file's facts.
struct Ready {
    const Lane* lane = nullptr;
    const PackSource* source = nullptr;
    ImageFacts facts;
    int channel = -1;     ///< of the file; -1: its luminance, or something derived from the whole of it
    bool decode = false;  ///< the source is sRGB here
    bool encode = false;  ///< the lane is stored as sRGB
    bool copies = false;  ///< samples go over as they are
    bool flows = true;    ///< each row of the result needs only rows nearby
    bool resizes = false; ///< the source has another size than the result
};

struct Job {
    PackPlan plan;
    std::array<Ready, 4> lanes;
    int strip = kStrip; ///< rows of the result made at once
};

inline bool stopped(const PackRequest& r) { return r.cancelled && r.cancelled->load(); }
inline Error cancelled() { return {"pack.cancelled", "Packing was cancelled; nothing was written.", {}}; }

/// Strip by strip from the sources to `sink`, which gets the next rows of the result and how many they are.
Outcome flow(const PackRequest& request, const Job& job, const std::function<Outcome(const std::byte*, int)>& sink);

} // namespace hue::packing
