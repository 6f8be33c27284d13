#include "core/languages/vulkan_spirv.h"

#include <fmt/format.h>
#include <glslang/Public/ResourceLimits.h>
#include <glslang/Public/ShaderLang.h>
#include <glslang/SPIRV/GlslangToSpv.h>
#include <mutex>

namespace hue {
namespace {

/// What goes from stage to stage, in the order of the locations.
constexpr std::string_view kHandedOn[] = {
    "v_positionWorld", "v_positionObject", "v_normalWorld",   "v_normalObject", "v_tangent",  "v_bitangent", "v_uv0",     "v_uv1",
    "v_color",         "v_painted",        "v_paintedSecond", "v_carried0",     "v_carried1", "v_carried2",  "v_carried3"};

Error refuse(const std::string& why) {
    return {
        "language.refused",
        fmt::format("A stage for the driver could not be written: {}. Run hsk check, and report this when nothing is wrong there.", why),
        {}};
}

bool startsWith(std::string_view line, std::string_view with) { return line.substr(0, with.size()) == with; }

/// "out vec4 v_color, v_painted;" as one line for each, with locations.
std::string located(std::string_view line, std::string_view way) {
    std::string_view rest = line.substr(way.size());
    const size_t blank = rest.find(' ');
    const std::string_view type = rest.substr(0, blank);
    rest = rest.substr(blank + 1, rest.find(';') - blank - 1);
    std::string out;
    while (!rest.empty()) {
        const size_t comma = std::min(rest.find(','), rest.size());
        std::string_view name = rest.substr(0, comma);
        while (!name.empty() && name.front() == ' ') name.remove_prefix(1);
        const auto at = std::find(std::begin(kHandedOn), std::end(kHandedOn), name);
        out += fmt::format("layout(location = {}) {}{} {};\n", at - std::begin(kHandedOn), way, type, name);
        rest.remove_prefix(std::min(comma + 1, rest.size()));
    }
    return out;
}

} // namespace

std::string vulkanGlsl(ShaderStage stage, std::string_view glsl) {
    const bool vertex = stage == ShaderStage::Vertex;
    const std::string_view way = vertex ? "out " : "in ";
    std::string head = "#version 450 core\n", values, body;
    int maps = vertex ? 48 : 16;
    while (!glsl.empty()) {
        const size_t end = std::min(glsl.find('\n'), glsl.size());
        const std::string_view line = glsl.substr(0, end);
        glsl.remove_prefix(std::min(end + 1, glsl.size()));
        if (startsWith(line, "#version")) continue;
        if (startsWith(line, "uniform sampler")) body += fmt::format("layout(set = 0, binding = {}) {}\n", maps++, line);
        else if (startsWith(line, "uniform ")) values += fmt::format("  {}\n", line.substr(8));
        else if (startsWith(line, way) && line.find("v_") != line.npos) body += located(line, way);
        else body += fmt::format("{}\n", line);
    }
    if (!values.empty()) head += fmt::format("layout(std140, set = 0, binding = {}) uniform hs_Frame {{\n{}}};\n", vertex ? 0 : 1, values);
    // Vulkan numbers vertices in another word.
    for (size_t at = body.find("gl_VertexID"); at != body.npos; at = body.find("gl_VertexID", at)) body.replace(at, 11, "gl_VertexIndex");
    return head + body;
}

Result<std::vector<uint32_t>> vulkanSpirv(ShaderStage stage, const std::string& glsl) {
    static std::once_flag once;
    std::call_once(once, [] { glslang::InitializeProcess(); });
    const EShLanguage language = stage == ShaderStage::Vertex ? EShLangVertex : EShLangFragment;
    const std::string vulkan = vulkanGlsl(stage, glsl);
    glslang::TShader shader(language);
    const char* text = vulkan.c_str();
    shader.setStrings(&text, 1);
    shader.setEnvInput(glslang::EShSourceGlsl, language, glslang::EShClientVulkan, 100);
    shader.setEnvClient(glslang::EShClientVulkan, glslang::EShTargetVulkan_1_1);
    shader.setEnvTarget(glslang::EShTargetSpv, glslang::EShTargetSpv_1_3);
    constexpr auto rules = EShMessages(EShMsgSpvRules | EShMsgVulkanRules);
    if (!shader.parse(GetDefaultResources(), 450, false, rules)) return refuse(shader.getInfoLog());
    glslang::TProgram program;
    program.addShader(&shader);
    if (!program.link(rules)) return refuse(program.getInfoLog());
    std::vector<uint32_t> words;
    glslang::GlslangToSpv(*program.getIntermediate(language), words);
    return words.empty() ? Result<std::vector<uint32_t>>(refuse("glslang gave nothing")) : words;
}

} // namespace hue
