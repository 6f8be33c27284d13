#pragma once
// What is measured of a material: its stages, writing its channels as a deferred renderer would.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/compile/compile.h"

#include <cstdint>

namespace hue {

/// SPIR-V of two stages that go together.
struct StagePair {
    std::vector<uint32_t> vertex, fragment;
};

/// The stages of a compiled surface. Targets of four components: base color and occlusion; the normal as a point of an octahedron,
/// roughness and metallic; emission times its strength, and alpha; then all further channels that the Program has, side by side, and where
/// eight targets are full those added together in the last. With alpha mode mask what lies below the cutoff is discarded. What is known
/// once a frame comes as values, as it does in a game. Errors: language.refused.
Result<StagePair> deferredStages(const Stages& stages, AlphaMode alpha);
/// The same targets with constants in the place of all that the material computes, and nothing moved: what is paid for with any material.
Result<StagePair> bareStages(const Stages& stages, AlphaMode alpha);
/// The stages as GLSL, before they become SPIR-V; for reading.
std::pair<std::string, std::string> deferredGlsl(const Stages& stages, AlphaMode alpha, bool bare = false);

} // namespace hue
