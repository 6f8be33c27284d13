#pragma once
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

namespace hue {

/// Which values of a Program are computed once a frame or placement and read by later rates.
struct UniformLayout {
    std::vector<int32_t> instructions; ///< slot -> instruction
    std::vector<int32_t> slots;        ///< instruction -> slot, or -1
};
UniformLayout uniformLayout(const Program& program);

} // namespace hue
