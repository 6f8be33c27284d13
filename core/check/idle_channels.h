#pragma once
// Why a channel of the surface counts for nothing, and what wakes it.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

namespace hue {

/// Why a channel has no effect, and the edit that wakes it.
struct Inactive {
    std::string why;  ///< "the surface is opaque"
    Fix wake;         ///< without an edit where there is none
    bool hard = true; ///< false: only the value of another channel is in the way
};
/// By the surface's settings and by the unwired values of other channels; nothing when the channel counts.
std::optional<Inactive> inactive(const Master& master, std::string_view channel);

} // namespace hue
