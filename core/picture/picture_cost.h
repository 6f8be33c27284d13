#pragma once
// What a picture of the lineup costs: pixels that are shaded, times what each of them takes.
// Threads: any. Nothing is kept between calls.
#include "core/base/work.h"
#include "core/budget/verdict.h"
#include "core/picture/looks.h"

namespace hue {

/// One slot of a specimen in its picture, all its copies together.
struct ShadedSlot {
    size_t specimen = 0, slot = 0;
    Id worn;
    AlphaMode alpha = AlphaMode::Opaque;
    bool seeThrough = false; ///< blended, or light passes through it
    size_t covered = 0;      ///< pixels that show it, or would without what is see-through before it
    /// Pixels that are computed: of opaque ones those that are seen, as a card draws them that knows what is nearest; of masks and of what
    /// is see-through each layer that nothing opaque hides.
    size_t shaded = 0;
    int operations = 0, fetches = 0; ///< of each pixel, decals included
    /// How often each pixel that it covers is computed; 0 where it covers none.
    double overdraw() const { return covered ? double(shaded) / double(covered) : 0; }
    double allOperations() const { return double(shaded) * operations; }
    double allFetches() const { return double(shaded) * fetches; }
};
/// Of all specimens, or of one; each fills a picture of that size, seen as the lineup does, at a time in seconds. Specimens without a mesh
/// that can be used have none. Errors: render.size; stopped.
Result<std::vector<ShadedSlot>> pictureCost(const Project& project, Assets& assets, LookCache& looks, int width, int height,
                                            double time = 0, std::optional<size_t> only = {}, const Work& work = {});

/// The slot whose see-through or masked surface is computed most often, against the target's overdraw; null where there is none.
struct Overdrawn {
    const ShadedSlot* slot = nullptr;
    Against against;
};
Overdrawn mostOverdrawn(const std::vector<ShadedSlot>& slots, const Target& target);

/// "1920x1080" and the like. Error: picture.size.
Result<std::pair<int, int>> pictureSize(const std::string& words);

} // namespace hue
