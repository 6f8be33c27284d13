#include "core/emit/emit_glsl.h"

#include "core/surface/channels.h"
#include "core/surface/surface_glsl.h"

#include <fmt/format.h>

namespace hue {
namespace {

constexpr std::string_view kVersion = "#version 410 core\n";

constexpr std::string_view kPoint = R"(struct hs_Point {
  vec2 uv0, uv1;
  vec4 color;
  vec3 positionWorld, positionObject, normalWorld, normalObject, tangent, bitangent, view;
  vec2 screen;
  float depthGap;
};
)";

// What was drawn before, and the environment; without a scene both are an even grey, as on the CPU.
constexpr std::string_view kBehind = R"(uniform sampler2D u_behindMap;
uniform float u_behindMapLevels; // below 0: no scene
uniform vec2 u_behindSize;
vec3 hs_behind(vec2 offset, float blur) {
  if (u_behindMapLevels < 0.0) return vec3(0.5);
  return textureLod(u_behindMap, gl_FragCoord.xy / u_behindSize + offset * vec2(1.0, -1.0), clamp(blur, 0.0, 1.0) * u_behindMapLevels).rgb;
}
)";
constexpr std::string_view kAround = R"(uniform samplerCube u_aroundMap;
uniform float u_aroundLevels; // below 0: no scene
uniform vec2 u_aroundTurn;
vec3 hs_aroundAt(vec3 d, float rough) {
  if (u_aroundLevels < 0.0) return vec3(0.5);
  vec3 turned = vec3(u_aroundTurn.x * d.x + u_aroundTurn.y * d.z, d.y, u_aroundTurn.x * d.z - u_aroundTurn.y * d.x);
  return textureLod(u_aroundMap, turned, clamp(rough, 0.0, 1.0) * u_aroundLevels).rgb;
}
)";

std::string_view typeOf(int width) {
    static constexpr std::string_view names[] = {"float", "vec2", "vec3", "vec4"};
    return names[width - 1];
}

std::string numberText(float x) {
    if (std::isnan(x)) return "(0.0 / 0.0)";
    if (std::isinf(x)) return x > 0 ? "(1.0 / 0.0)" : "(-1.0 / 0.0)";
    std::string text = fmt::format("{:.9g}", x);
    if (text.find_first_of(".e") == std::string::npos) text += ".0";
    return x < 0 ? "(" + text + ")" : text;
}

std::string constantText(const std::array<float, 4>& v, int width) {
    if (width == 1) return numberText(v[0]);
    std::string out = fmt::format("{}(", typeOf(width));
    for (int c = 0; c < width; ++c) out += (c ? ", " : "") + numberText(v[size_t(c)]);
    return out + ")";
}

std::string_view swizzleText(uint32_t imm, int width, char* buffer) {
    for (int c = 0; c < width; ++c) buffer[c] = "xyzw"[(imm >> (2 * c)) & 3];
    return {buffer, size_t(width)};
}

class Emitter {
  public:
    Emitter(const Program& p, const UniformLayout& layout) : m_p(p), m_layout(layout) {}

    std::string run() {
        std::string body;
        body.reserve(m_p.code.size() * 48);
        std::vector<bool> wanted(m_p.code.size());
        for (const auto& o : m_p.outputs) wanted[size_t(o.value)] = true;
        for (size_t n = m_p.code.size(); n-- > 0;)
            if (wanted[n] && onPixel(n))
                for (int a = 0; a < m_p.code[n].operands; ++a) wanted[size_t(m_p.code[n].args[size_t(a)])] = true;
        for (size_t n = 0; n < m_p.code.size(); ++n)
            if (wanted[n] && onPixel(n) && m_p.code[n].op != Op::Attribute)
                fmt::format_to(std::back_inserter(body), "  {} v{} = {};\n", typeOf(m_p.code[n].width), n, expression(m_p.code[n]));
        std::string outputs;
        for (size_t k = 0; k < m_p.outputs.size(); ++k) {
            outputs += fmt::format("  {} o{}; // {}\n", typeOf(m_p.code[size_t(m_p.outputs[k].value)].width), k, m_p.outputs[k].name);
            body += fmt::format("  r.o{} = {};\n", k, operand(m_p.outputs[k].value));
        }
        std::string out(kPoint);
        if (!m_layout.instructions.empty()) out += fmt::format("uniform vec4 u_values[{}];\n", m_layout.instructions.size());
        if (body.find("u_time") != std::string::npos) out += "uniform float u_time;\n";
        for (size_t s = 0; s < m_p.maps.size(); ++s) out += fmt::format("uniform sampler2D u_map{};\n", s);
        if (body.find("hs_behind(") != std::string::npos) out += kBehind;
        if (body.find("hs_aroundAt(") != std::string::npos) out += kAround;
        out += glslLibraryFor(body);
        out += "struct hs_Outputs {\n" + outputs + "};\n";
        out += "hs_Outputs hs_material(hs_Point p) {\n  hs_Outputs r;\n" + body + "  return r;\n}\n";
        return out;
    }

  private:
    const Program& m_p;
    const UniformLayout& m_layout;

    bool onPixel(size_t n) const { return m_p.code[n].rate > Rate::Placement; }

    std::string operand(int32_t n) const {
        const Instruction& i = m_p.code[size_t(n)];
        if (i.op == Op::Constant) return constantText(m_p.constants[i.imm], i.width);
        if (const int32_t slot = m_layout.slots[size_t(n)]; slot >= 0) {
            static constexpr std::string_view parts[] = {".x", ".xy", ".xyz", ""};
            return fmt::format("u_values[{}]{}", slot, parts[i.width - 1]);
        }
        if (i.op == Op::Attribute) return fmt::format("p.{}", nameOf(Attribute(i.imm)));
        return fmt::format("v{}", n);
    }

    std::string spreadOperand(int32_t n, int width) const {
        const std::string text = operand(n);
        return m_p.code[size_t(n)].width == width ? text : fmt::format("{}({})", typeOf(width), text);
    }

    std::string expression(const Instruction& i) const {
        char buffer[4];
        switch (i.op) {
        case Op::Swizzle:
            // A number has no components to name in this version of the language.
            return m_p.code[size_t(i.args[0])].width == 1 ? spreadOperand(i.args[0], i.width)
                                                          : fmt::format("{}.{}", operand(i.args[0]), swizzleText(i.imm, i.width, buffer));
        case Op::Compose: {
            std::string out = fmt::format("{}(", typeOf(i.width));
            for (int a = 0; a < i.operands; ++a) out += (a ? ", " : "") + operand(i.args[size_t(a)]);
            return out + ")";
        }
        case Op::Sample: return fmt::format("texture(u_map{}, {})", i.imm, operand(i.args[0]));
        case Op::SampleLevel: return fmt::format("textureLod(u_map{}, {}, {})", i.imm, operand(i.args[0]), operand(i.args[1]));
        case Op::SampleGuided:
            return fmt::format("textureGrad(u_map{0}, {1}, dFdx({2}), dFdy({2}))", i.imm, operand(i.args[0]), operand(i.args[1]));
        default: break;
        }
        const OpInfo& info = infoOf(i.op);
        std::string args[3];
        for (int a = 0; a < i.operands; ++a)
            args[a] = info.elementwise ? spreadOperand(i.args[size_t(a)], i.width) : operand(i.args[size_t(a)]);
        return fmt::format(fmt::runtime(info.glsl), args[0], args[1], args[2], fmt::arg("imm", i.imm));
    }
};

std::string outputText(const Program& p, std::string_view name, std::string_view otherwise) {
    for (size_t k = 0; k < p.outputs.size(); ++k)
        if (p.outputs[k].name == name) return fmt::format("m.o{}", k);
    return std::string(otherwise);
}

} // namespace

std::string emitMaterial(const Program& program, const UniformLayout& layout) { return Emitter(program, layout).run(); }

std::string vertexStage() {
    return std::string(kVersion) + R"(layout(location = 0) in vec3 a_position;
layout(location = 1) in vec3 a_normal;
layout(location = 2) in vec4 a_tangent; // w: sign of the bitangent
layout(location = 3) in vec2 a_uv0;
layout(location = 4) in vec2 a_uv1;
layout(location = 5) in vec4 a_color;
uniform mat4 u_world;
uniform mat3 u_worldNormal;
uniform mat4 u_clip;
out vec3 v_positionWorld, v_positionObject, v_normalWorld, v_normalObject, v_tangent, v_bitangent;
out vec2 v_uv0, v_uv1;
out vec4 v_color;
void main() {
  vec4 world = u_world * vec4(a_position, 1.0);
  v_positionWorld = world.xyz;
  v_positionObject = a_position;
  v_normalObject = a_normal;
  v_normalWorld = u_worldNormal * a_normal;
  v_tangent = mat3(u_world) * a_tangent.xyz;
  v_bitangent = cross(v_normalWorld, v_tangent) * a_tangent.w;
  v_uv0 = a_uv0;
  v_uv1 = a_uv1;
  v_color = a_color;
  gl_Position = u_clip * world;
}
)";
}

std::string surfaceFragmentStage(const Program& p, const UniformLayout& layout, bool full) {
    std::string out(kVersion);
    out += channelTargetsGlsl(full, true);
    out += emitMaterial(p, layout);
    const bool gap = p.reads(Attribute::DepthGap);
    out += R"(in vec3 v_positionWorld, v_positionObject, v_normalWorld, v_normalObject, v_tangent, v_bitangent;
in vec2 v_uv0, v_uv1;
in vec4 v_color;
uniform vec3 u_eye;
uniform float u_alphaCutoff; // below 0: no mask
uniform uint u_flags;
uniform vec2 u_pictureSize;
uniform sampler2D u_peeled; // depth of the layer behind, which this one must lie in front of
uniform float u_peel;       // 1: draw only what lies in front of u_peeled
)";
    if (gap)
        out += R"(uniform sampler2D u_sceneDepth;
uniform vec4 u_depthRange; // near, far, height of the floor, 1 when there is a floor
float hs_depthGap() {
  float z = texelFetch(u_sceneDepth, ivec2(gl_FragCoord.xy), 0).r * 2.0 - 1.0;
  float near = u_depthRange.x, far = u_depthRange.y;
  vec3 ray = v_positionWorld - u_eye;
  float here = 1.0 / gl_FragCoord.w, gap = 1000.0;
  if (z < 0.9999999) gap = (2.0 * near * far / (far + near - z * (far - near)) - here) * length(ray) / here;
  if (u_depthRange.w > 0.5 && ray.y < -1e-6) gap = min(gap, (u_depthRange.z - v_positionWorld.y) / ray.y * length(ray));
  return max(gap, 0.0);
}
)";
    out += R"(bool hs_broken(float x) { return isnan(x) || isinf(x); }
bool hs_broken(vec3 x) { return any(isnan(x)) || any(isinf(x)); }
bool hs_outside(float x, float low, float high) { return x < low - 1e-4 || x > high + 1e-4; }
bool hs_outside(vec3 x, float low, float high) { return any(lessThan(x, vec3(low - 1e-4))) || any(greaterThan(x, vec3(high + 1e-4))); }
void main() {
  hs_Point p;
  float side = gl_FrontFacing ? 1.0 : -1.0;
  p.uv0 = v_uv0;
  p.uv1 = v_uv1;
  p.color = v_color;
  p.positionWorld = v_positionWorld;
  p.positionObject = v_positionObject;
  p.normalWorld = normalize(v_normalWorld) * side;
  p.normalObject = normalize(v_normalObject) * side;
  p.tangent = normalize(v_tangent) * side;
  p.bitangent = normalize(v_bitangent) * side;
  p.view = normalize(u_eye - v_positionWorld);
  p.screen = vec2(gl_FragCoord.x, u_pictureSize.y - gl_FragCoord.y) / u_pictureSize;
)";
    out += gap ? "  p.depthGap = hs_depthGap();\n" : "  p.depthGap = 1000.0;\n";
    out += "  hs_Outputs m = hs_material(p);\n  hs_Surface s;\n  s.position = v_positionWorld;\n  s.flags = u_flags | (gl_FrontFacing ? "
           "kFrontFace : 0u);\n"
           "  s.stretch = vec3(0.0);\n  s.angle = 0.0;\n";
    // A surface without channels shows one value: a wire on the mesh.
    const bool wire = p.output("tap") >= 0 && p.output("base_color") < 0;
    std::string broken = "false", outside = "false", rotation = "0.0";
    for (const ChannelDef& c : channels()) {
        if (c.key == "vertex_offset") continue;
        const std::string value =
            outputText(p, c.key, c.meaning == Meaning::Normal ? "p.normalWorld" : constantText(c.standard.v, c.width));
        if (c.key == "anisotropy_rotation") {
            rotation = value;
            continue;
        }
        out += fmt::format("  s.{} = {};\n", c.key, value);
        if (p.output(c.key) < 0) continue;
        broken += fmt::format(" || hs_broken(s.{})", c.key);
        outside += fmt::format(" || hs_outside(s.{}, {}, {})", c.key, numberText(c.low), numberText(c.high));
    }
    if (wire) {
        const int width = p.code[size_t(p.output("tap"))].width;
        const std::string value = outputText(p, "tap", "0.0");
        out += width == 1 ? fmt::format("  s.base_color = vec3({});\n", value)
                          : fmt::format("  s.base_color = vec3({}{});\n", value,
                                        width == 2   ? ", 0.0"
                                        : width == 4 ? ".xyz"
                                                     : "");
        broken += " || hs_broken(s.base_color)";
    }
    out += fmt::format("  if ({}) s.flags |= kBroken;\n  if ({}) s.flags |= kOutside;\n", broken, outside);
    out += "  s.emissive *= s.emissive_strength;\n";
    if (full && p.output("anisotropy") >= 0)
        out += fmt::format(R"(  float turn = {};
  vec3 along = p.tangent * cos(turn) + p.bitangent * sin(turn), b1, b2;
  hs_basis(normalize(s.normal), b1, b2);
  s.angle = fract(atan(dot(along, b2), dot(along, b1)) / 6.2831853);
)",
                           rotation);
    out += "  if (u_alphaCutoff >= 0.0 && s.alpha < u_alphaCutoff) discard;\n"
           "  if (u_peel > 0.5 && gl_FragCoord.z >= texelFetch(u_peeled, ivec2(gl_FragCoord.xy), 0).r) discard;\n"
           "  hs_write(s);\n}\n";
    return out;
}

std::string flatVertexStage() {
    return std::string(kVersion) +
           "void main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n";
}

std::string flatFragmentStage(const Program& p, const UniformLayout& layout, std::string_view output) {
    std::string out(kVersion);
    out += emitMaterial(p, layout);
    const int32_t value = p.output(output);
    const int width = value < 0 ? 1 : p.code[size_t(value)].width;
    static constexpr std::string_view rest[] = {", 0.0, 0.0, 1.0", ", 0.0, 1.0", ", 1.0", ""};
    out += fmt::format(R"(uniform vec2 u_size;
layout(location = 0) out vec4 o_value;
void main() {{
  vec2 uv = gl_FragCoord.xy / u_size;
  hs_Point p = hs_Point(uv, uv, vec4(1.0), vec3(uv.x, 1.0 - uv.y, 0.0), vec3(uv.x, 1.0 - uv.y, 0.0), vec3(0.0, 0.0, 1.0), vec3(0.0, 0.0, 1.0),
                        vec3(1.0, 0.0, 0.0), vec3(0.0, 1.0, 0.0), vec3(0.0, 0.0, 1.0), uv, 1000.0);
  hs_Outputs m = hs_material(p);
  o_value = vec4({}{});
}}
)",
                       outputText(p, output, "0.0"), rest[width - 1]);
    return out;
}

} // namespace hue
