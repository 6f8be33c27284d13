#pragma once
// What a frame of something worn needs from its project.
// Threads: any. Nothing is kept between calls.
#include "core/evaluate/evaluator.h"
#include "core/project/assets.h"
#include "core/project/map_library.h"

namespace hue {

/// The inputs of a frame for something worn. `view`: of the maps; else that of the assets.
FrameInputs frameInputs(const Project& project, Assets& assets, const Resolved& resolved, double time,
                        std::optional<MapLibrary::View> view = {});

} // namespace hue
