#pragma once
// The surface function of a master in the languages of the trade: GLSL by us; SPIR-V by glslang, made small by SPIRV-Tools; HLSL, the Metal
// shading language and GLSL ES from that by SPIRV-Cross.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/project.h"
#include "core/program/program.h"

#include <span>

namespace hue {

enum class Language { Glsl, GlslEs, Hlsl, Msl, Spirv };

struct LanguageDef {
    Language language;
    std::string_view key;  ///< on the command line
    std::string_view name; ///< for people, with its version
    std::string_view suffix;
    bool text; ///< false: words of 32 bits
};
std::span<const LanguageDef> languages();
const LanguageDef* findLanguage(std::string_view key);

/// The function of a compiled master, as a fragment stage that stands alone; see surfaceFunctionStage. SPIR-V as bytes in the order of this
/// machine. Errors: language.refused, with what the library said.
Result<std::string> surfaceFunction(const Program& program, const Project& project, const Master& master, Language language);

} // namespace hue
