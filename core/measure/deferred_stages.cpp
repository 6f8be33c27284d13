#include "core/measure/deferred_stages.h"

#include "core/emit/emit_glsl.h"
#include "core/languages/vulkan_spirv.h"
#include "core/program/uniform_layout.h"
#include "core/surface/channels.h"
#include "core/surface/surface_stages.h"

#include <fmt/format.h>

namespace hue {
namespace {

constexpr int kTargets = 8;
constexpr std::string_view kUsual[] = {"base_color", "occlusion", "normal", "roughness",
                                       "metallic",   "emissive",  "alpha",  "emissive_strength"};

/// What stands for a channel: what the Program has for it, or a constant. A normal that nothing changes is the mesh's.
std::string valueOf(const Program& p, std::string_view key, bool bare) {
    const ChannelDef& channel = *findChannel(key);
    const std::string standard = channel.meaning == Meaning::Normal ? "p.normalWorld" : constantText(channel.standard.v, channel.width);
    return bare ? standard : outputText(p, key, standard);
}

std::string writes(const Program& p, bool bare) {
    const auto value = [&](std::string_view key) { return valueOf(p, key, bare); };
    std::string out =
        fmt::format("  o_target0 = vec4({}, {});\n", value("base_color"), value("occlusion")) +
        fmt::format("  o_target1 = vec4(hs_octahedral({}), {}, {});\n", value("normal"), value("roughness"), value("metallic")) +
        fmt::format("  o_target2 = vec4({} * {}, {});\n", value("emissive"), value("emissive_strength"), value("alpha"));
    // The others, one component after the other.
    std::vector<std::string> components;
    for (const ChannelDef& c : channels()) {
        if (std::find(std::begin(kUsual), std::end(kUsual), c.key) != std::end(kUsual) || c.key == "vertex_offset" || p.output(c.key) < 0)
            continue;
        for (int k = 0; k < c.width; ++k) components.push_back(c.width == 1 ? value(c.key) : fmt::format("{}.{}", value(c.key), "xyzw"[k]));
    }
    constexpr size_t kRoom = size_t(kTargets - 3) * 4;
    for (size_t k = kRoom; k < components.size(); ++k) components[kRoom - 1] += " + " + components[k];
    components.resize(std::min(components.size(), kRoom));
    for (size_t t = 3; t < size_t(kTargets); ++t) {
        std::string four;
        for (size_t c = 0; c < 4; ++c) {
            const size_t k = (t - 3) * 4 + c;
            four += fmt::format("{}{}", c ? ", " : "", k < components.size() ? components[k] : "0.0");
        }
        if ((t - 3) * 4 < components.size()) out += fmt::format("  o_target{} = vec4({});\n", t, four);
    }
    return out;
}

std::string fragmentStage(const Program& p, AlphaMode alpha, bool bare) {
    std::string out(kGlslVersion);
    out += emitMaterial(p, uniformLayout(p));
    const PointGlsl point = pointFromVertices(p);
    out += point.declarations;
    const std::string written = writes(p, bare);
    for (int t = 0; t < kTargets; ++t)
        if (written.find(fmt::format("o_target{} ", t)) != written.npos)
            out += fmt::format("layout(location = {0}) out vec4 o_target{0};\n", t);
    out += R"(uniform float u_alphaCutoff;
vec2 hs_octahedral(vec3 n) {
  vec2 flat2 = n.xy / (abs(n.x) + abs(n.y) + abs(n.z));
  vec2 folded = (1.0 - abs(flat2.yx)) * vec2(flat2.x >= 0.0 ? 1.0 : -1.0, flat2.y >= 0.0 ? 1.0 : -1.0);
  return n.z >= 0.0 ? flat2 : folded;
}
void main() {
)" + point.lines;
    if (!bare) out += "  hs_Outputs m = hs_material(p);\n";
    if (alpha == AlphaMode::Mask) out += fmt::format("  if ({} < u_alphaCutoff) discard;\n", valueOf(p, "alpha", bare));
    return out + written + "}\n";
}

Result<StagePair> asSpirv(const std::pair<std::string, std::string>& glsl) {
    auto vertex = vulkanSpirv(ShaderStage::Vertex, glsl.first);
    if (!vertex) return vertex.error();
    auto fragment = vulkanSpirv(ShaderStage::Fragment, glsl.second);
    if (!fragment) return fragment.error();
    return StagePair{std::move(*vertex), std::move(*fragment)};
}

} // namespace

std::pair<std::string, std::string> deferredGlsl(const Stages& s, AlphaMode alpha, bool bare) {
    return {s.vertices && !bare ? vertexStage(*s.vertices, uniformLayout(*s.vertices)) : vertexStage(false),
            fragmentStage(*s.pixels, alpha, bare)};
}

Result<StagePair> deferredStages(const Stages& stages, AlphaMode alpha) { return asSpirv(deferredGlsl(stages, alpha)); }
Result<StagePair> bareStages(const Stages& stages, AlphaMode alpha) { return asSpirv(deferredGlsl(stages, alpha, true)); }

} // namespace hue
