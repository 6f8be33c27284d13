#include "core/languages/languages.h"

#include "core/document/names.h"
#include "core/emit/emit_glsl.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <glslang/Public/ResourceLimits.h>
#include <glslang/Public/ShaderLang.h>
#include <glslang/SPIRV/GlslangToSpv.h>
#include <mutex>
#include <spirv-tools/optimizer.hpp>
#include <spirv_cross/spirv_hlsl.hpp>
#include <spirv_cross/spirv_msl.hpp>

namespace hue {
namespace {

Error refuse(const LanguageDef& language, const std::string& why) {
    return {"language.refused",
            fmt::format("{} could not be written: {}. Run hsk check, and report this when nothing is wrong there.", language.name, why),
            {}};
}

/// Letters, digits and single underscores, with a beginning of its own, so that no language takes it for one of its words.
std::string identifier(const std::string& codeName) {
    std::string out = "p_";
    for (const char c : codeName) {
        const bool word = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
        if (word) out += c;
        else if (out.back() != '_') out += '_';
    }
    while (out.size() > 2 && out.back() == '_') out.pop_back();
    return out;
}

SurfaceNames namesOf(const Program& program, const Project& project, const Master& master) {
    SurfaceNames out;
    for (const Id& id : program.parameters) {
        const Parameter* p = master.parameter(id);
        out.parameters.push_back(freeName(out.parameters, identifier(p ? p->codeName : id)));
        // freeName puts a blank before its number.
        std::replace(out.parameters.back().begin(), out.parameters.back().end(), ' ', '_');
    }
    for (const MapSlot& slot : program.maps) {
        const Parameter* p = master.parameter(slot.parameter);
        const MapFile* map = project.map(slot.map);
        std::string name = p ? "parameter " + p->codeName : map ? map->name : "a map";
        std::replace_if(
            name.begin(), name.end(), [](char c) { return c == '\n' || c == '\r' || c == '\\'; }, ' ');
        if (slot.kind == MapKind::Color) name += ", decoded from sRGB by the sampler";
        out.maps.push_back(name);
    }
    return out;
}

Result<std::vector<uint32_t>> toSpirv(const std::string& glsl, const LanguageDef& wanted) {
    static std::once_flag once;
    std::call_once(once, [] { glslang::InitializeProcess(); });
    glslang::TShader shader(EShLangFragment);
    const char* text = glsl.c_str();
    shader.setStrings(&text, 1);
    shader.setEnvInput(glslang::EShSourceGlsl, EShLangFragment, glslang::EShClientOpenGL, 450);
    shader.setEnvClient(glslang::EShClientOpenGL, glslang::EShTargetOpenGL_450);
    shader.setEnvTarget(glslang::EShTargetSpv, glslang::EShTargetSpv_1_0);
    shader.setAutoMapBindings(true);
    shader.setAutoMapLocations(true);
    constexpr auto rules = EShMessages(EShMsgSpvRules);
    if (!shader.parse(GetDefaultResources(), 450, false, rules)) return refuse(wanted, shader.getInfoLog());
    glslang::TProgram program;
    program.addShader(&shader);
    if (!program.link(rules) || !program.mapIO()) return refuse(wanted, program.getInfoLog());
    std::vector<uint32_t> words;
    glslang::GlslangToSpv(*program.getIntermediate(EShLangFragment), words);
    if (words.empty()) return refuse(wanted, "glslang gave nothing");
    return words;
}

Result<std::vector<uint32_t>> optimised(const std::vector<uint32_t>& words, const LanguageDef& wanted) {
    spvtools::Optimizer optimizer(SPV_ENV_OPENGL_4_5);
    std::string said;
    optimizer.SetMessageConsumer([&](spv_message_level_t, const char*, const spv_position_t&, const char* message) { said = message; });
    // What one run leaves open, the next may close.
    optimizer.RegisterPerformancePasses().RegisterPerformancePasses();
    std::vector<uint32_t> out;
    if (!optimizer.Run(words.data(), words.size(), &out)) return refuse(wanted, said);
    return out;
}

template <class Compiler, class Prepare>
Result<std::string> cross(const std::vector<uint32_t>& words, const LanguageDef& wanted, Prepare prepare) {
    try {
        Compiler compiler(words);
        prepare(compiler);
        // Else the block's members stand behind a number.
        for (const auto& block : compiler.get_shader_resources().uniform_buffers) compiler.set_name(block.id, "values");
        return compiler.compile();
    } catch (const spirv_cross::CompilerError& e) { return refuse(wanted, e.what()); }
}

} // namespace

std::span<const LanguageDef> languages() {
    static constexpr LanguageDef all[] = {{Language::Glsl, "glsl", "GLSL 4.50", ".frag", true},
                                          {Language::GlslEs, "glsl-es", "GLSL ES 3.10", ".frag", true},
                                          {Language::Hlsl, "hlsl", "HLSL, shader model 5.0", ".hlsl", true},
                                          {Language::Msl, "msl", "Metal shading language 2.0", ".metal", true},
                                          {Language::Spirv, "spirv", "SPIR-V 1.0", ".spv", false}};
    return all;
}

const LanguageDef* findLanguage(std::string_view key) {
    const auto all = languages();
    const auto it = std::find_if(all.begin(), all.end(), [&](const LanguageDef& l) { return l.key == key; });
    return it == all.end() ? nullptr : &*it;
}

Result<std::string> surfaceFunction(const Program& program, const Project& project, const Master& master, Language language) {
    const LanguageDef& wanted = languages()[size_t(language)];
    const std::string glsl = surfaceFunctionStage(program, namesOf(program, project, master));
    if (language == Language::Glsl) return glsl;
    const auto words = toSpirv(glsl, wanted);
    if (!words) return words.error();
    switch (language) {
    case Language::Spirv: {
        const auto small = optimised(*words, wanted);
        if (!small) return small.error();
        std::string bytes(small->size() * sizeof(uint32_t), '\0');
        std::memcpy(bytes.data(), small->data(), bytes.size());
        return bytes;
    }
    case Language::GlslEs:
        return cross<spirv_cross::CompilerGLSL>(*words, wanted, [](spirv_cross::CompilerGLSL& c) {
            auto options = c.get_common_options();
            options.version = 310;
            options.es = true;
            options.fragment.default_float_precision = spirv_cross::CompilerGLSL::Options::Highp;
            c.set_common_options(options);
        });
    case Language::Hlsl:
        return cross<spirv_cross::CompilerHLSL>(*words, wanted, [](spirv_cross::CompilerHLSL& c) {
            auto options = c.get_hlsl_options();
            options.shader_model = 50;
            c.set_hlsl_options(options);
        });
    case Language::Msl:
        return cross<spirv_cross::CompilerMSL>(*words, wanted, [](spirv_cross::CompilerMSL& c) {
            auto options = c.get_msl_options();
            options.set_msl_version(2, 0);
            c.set_msl_options(options);
        });
    case Language::Glsl: break;
    }
    return glsl;
}

} // namespace hue
