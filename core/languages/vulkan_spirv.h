#pragma once
// GLSL as we write it for OpenGL, as SPIR-V for a driver of Vulkan.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace hue {

enum class ShaderStage { Vertex, Fragment };

/// Uniforms of a stage go into one block of set 0, at binding 0 for the vertex and 1 for the fragment stage; maps to the bindings from 16
/// on for the fragment stage, from 48 on for the vertex stage, in the order in which they stand there. What a vertex stage hands on and a
/// fragment stage takes gets a location by its name, the same in both. `glsl`: as surface_stages.h writes it.
std::string vulkanGlsl(ShaderStage stage, std::string_view glsl);
/// Error: language.refused, with what the library said.
Result<std::vector<uint32_t>> vulkanSpirv(ShaderStage stage, const std::string& glsl);

} // namespace hue
