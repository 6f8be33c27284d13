#pragma once
// Program -> GLSL 4.10 text.
#include "core/compile/program.h"
#include "core/evaluate/evaluator.h"

namespace hue {

/// Declarations and the function `hs_Outputs hs_material(hs_Point p)`. Uniforms: `vec4 u_values[]` in the order of the
/// layout's slots, `float u_time` where needed, one `sampler2D u_map<slot>` for each map.
std::string emitMaterial(const Program& program, const UniformLayout& layout);

/// The stages that draw a mesh with a surface Program into the channel targets (see channel_targets.h); `full` for all
/// eight of them. A Program with the single output "tap" shows that value as base color.
std::string vertexStage();
std::string surfaceFragmentStage(const Program& program, const UniformLayout& layout, bool full = false);

/// A fragment stage that evaluates one output over the unit UV square, as FlatSquare does on the CPU: pixel (x, y) of
/// the target is UV ((x+0.5)/width, (y+0.5)/height). Needs `uniform vec2 u_size`.
std::string flatFragmentStage(const Program& program, const UniformLayout& layout, std::string_view output);
std::string flatVertexStage();

/// Functions that emitted code calls, such as noises; only those whose names stand in `code`.
std::string glslLibraryFor(std::string_view code);

} // namespace hue
