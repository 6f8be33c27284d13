#pragma once
// Program -> GLSL 4.10 text.
// Threads: any. Nothing is kept between calls.
#include "core/program/uniform_layout.h"

namespace hue {

/// Declarations and the function `hs_Outputs hs_material(hs_Point p)`. Uniforms: `vec4 u_values[]` in the order of the
/// layout's slots, `float u_time` where needed, one `sampler2D u_map<slot>` for each map.
std::string emitMaterial(const Program& program, const UniformLayout& layout);
/// The same for vertices, which have no neighbours and no scene: maps are read at level 0, and what was drawn before, like the environment,
/// is an even grey. Uniforms: `vec4 u_vertexValues[]`, `float u_time`, `sampler2D u_vertexMap<slot>`.
std::string emitVertices(const Program& program, const UniformLayout& layout);

/// A fragment stage that evaluates one output over the unit UV square, as FlatSquare does on the CPU: pixel (x, y) of
/// the target is UV ((x+0.5)/width, (y+0.5)/height). Needs `uniform vec2 u_size`.
std::string flatFragmentStage(const Program& program, const UniformLayout& layout, std::string_view output);
std::string flatVertexStage();

/// What parameters and maps are called in a text that stands alone, in the order of Program::parameters and Program::maps. Names of
/// parameters are identifiers, each another; those of maps are remarks.
struct SurfaceNames {
    std::vector<std::string> parameters, maps;
};
/// The surface function without a renderer around it: a fragment stage (GLSL 4.50) whose inputs are what the mesh gives, whose outputs are
/// the channels side by side, and whose block `hs_Values` holds the parameters by name. Everything is computed per pixel.
std::string surfaceFunctionStage(const Program& program, const SurfaceNames& names);

/// "#version ..." of every stage.
extern const std::string_view kGlslVersion;
/// "vec3(0.1, 0.2, 0.3)", "1.0"; exact.
std::string constantText(const std::array<float, 4>& v, int width);
std::string numberText(float x);
/// How the value of an output is written after a call of hs_material as `m`; `otherwise` when the Program has none.
std::string outputText(const Program& program, std::string_view name, std::string_view otherwise);

/// Functions that emitted code calls, such as noises; only those whose names stand in `code`.
std::string glslLibraryFor(std::string_view code);

} // namespace hue
