#include "core/surface/surface_stages.h"

#include "core/emit/emit_glsl.h"
#include "core/program/passes/vertex_split.h"
#include "core/program/uniform_layout.h"
#include "core/surface/channels.h"
#include "core/surface/surface_glsl.h"

#include <fmt/format.h>

namespace hue {

namespace {

std::string vertexStageOf(std::string_view declarations, std::string_view moved) {
    return fmt::format(R"({}layout(location = 0) in vec3 a_position;
layout(location = 1) in vec3 a_normal;
layout(location = 2) in vec4 a_tangent; // w: sign of the bitangent
layout(location = 3) in vec2 a_uv0;
layout(location = 4) in vec2 a_uv1;
layout(location = 5) in vec4 a_color;
layout(location = 12) in vec4 a_painted; // the color where the mesh has any, else 0
layout(location = 13) in vec4 a_paintedSecond;
uniform mat4 u_world;
uniform mat3 u_worldNormal;
uniform mat4 u_clip;
out vec3 v_positionWorld, v_positionObject, v_normalWorld, v_normalObject, v_tangent, v_bitangent;
out vec2 v_uv0, v_uv1;
out vec4 v_color, v_painted, v_paintedSecond;
{}void main() {{
{}  vec4 world = u_world * vec4(position, 1.0);
  v_positionWorld = world.xyz;
  v_normalWorld = u_worldNormal * a_normal;
  v_tangent = mat3(u_world) * a_tangent.xyz;
  v_bitangent = cross(v_normalWorld, v_tangent) * a_tangent.w;
  v_uv0 = a_uv0;
  v_uv1 = a_uv1;
  v_color = a_color;
  v_painted = a_painted;
  v_paintedSecond = a_paintedSecond;
  gl_Position = u_clip * world;
}}
)",
                       kGlslVersion, declarations, moved);
}

} // namespace

std::string vertexStage(bool carries) {
    std::string declarations = R"(layout(location = 6) in vec3 a_restPosition; // before an offset of the vertices
layout(location = 7) in vec3 a_restNormal;
)";
    std::string moved = R"(  v_positionObject = a_restPosition;
  v_normalObject = a_restNormal;
  vec3 position = a_position;
)";
    for (int v = 0; carries && v < kCarriedVectors; ++v) {
        declarations += fmt::format("layout(location = {}) in vec4 a_carried{};\nout vec4 v_carried{};\n", 8 + v, v, v);
        moved += fmt::format("  v_carried{0} = a_carried{0};\n", v);
    }
    return vertexStageOf(declarations, moved);
}

std::string vertexStage(const Program& vertices, const UniformLayout& layout) {
    std::string declarations = emitVertices(vertices, layout), carried;
    for (const auto& o : vertices.outputs) {
        if (o.name == "vertex_offset") continue;
        declarations += fmt::format("out vec4 v_{};\n", o.name);
        carried += fmt::format("  v_{} = {};\n", o.name, outputText(vertices, o.name, {}));
    }
    // What the triangles carry is that of the vertices where they have come to.
    if (!carried.empty() && vertices.output("vertex_offset") >= 0)
        carried = "  p.positionWorld = (u_world * vec4(position, 1.0)).xyz;\n  m = hs_material(p);\n" + carried;
    return vertexStageOf(declarations, fmt::format(R"(  v_positionObject = a_position;
  v_normalObject = a_normal;
  vec3 normal = u_worldNormal * a_normal, tangent = mat3(u_world) * a_tangent.xyz;
  // No eye and no picture: the view is the normal, the position in the picture its middle, and nothing lies behind.
  hs_Point p = hs_Point(a_uv0, a_uv1, a_color, (u_world * vec4(a_position, 1.0)).xyz, a_position, normal, a_normal, tangent,
                        cross(normal, tangent) * a_tangent.w, normal, vec2(0.5), 1000.0, 1.0{}{});
  hs_Outputs m = hs_material(p);
  vec3 position = a_position + {};
{})",
                                                   vertices.reads(Attribute::Painted) ? ", a_painted" : "",
                                                   vertices.reads(Attribute::PaintedSecond) ? ", a_paintedSecond" : "",
                                                   outputText(vertices, "vertex_offset", "vec3(0.0)"), carried));
}

PointGlsl pointFromVertices(const Program& p) {
    PointGlsl out;
    const bool gap = p.reads(Attribute::DepthGap);
    std::string carried;
    for (uint32_t a = 0; a < uint32_t(Attribute::Count); ++a) {
        if (!standsWhereRead(Attribute(a)) || !p.reads(Attribute(a))) continue;
        out.declarations += fmt::format("in vec4 v_{};\n", nameOf(Attribute(a)));
        carried += fmt::format("  p.{0} = v_{0};\n", nameOf(Attribute(a)));
    }
    out.declarations += R"(in vec3 v_positionWorld, v_positionObject, v_normalWorld, v_normalObject, v_tangent, v_bitangent;
in vec2 v_uv0, v_uv1;
in vec4 v_color;
uniform vec3 u_eye;
uniform vec2 u_pictureSize;
)";
    if (gap)
        out.declarations += R"(uniform sampler2D u_sceneDepth;
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
    out.lines = R"(  hs_Point p;
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
    out.lines += carried;
    out.lines += gap ? "  p.side = side;\n  p.depthGap = hs_depthGap();\n" : "  p.side = side;\n  p.depthGap = 1000.0;\n";
    return out;
}

std::string surfaceFragmentStage(const Program& p, const UniformLayout& layout, bool full) {
    std::string out(kGlslVersion);
    out += channelTargetsGlsl(full, true);
    out += emitMaterial(p, layout);
    const PointGlsl point = pointFromVertices(p);
    out += point.declarations;
    out += R"(uniform float u_alphaCutoff; // below 0: no mask
uniform uint u_flags;
uniform sampler2D u_peeled; // depth of the layer behind, which this one must lie in front of
uniform float u_peel;       // 1: draw only what lies in front of u_peeled
bool hs_broken(float x) { return isnan(x) || isinf(x); }
bool hs_broken(vec3 x) { return any(isnan(x)) || any(isinf(x)); }
bool hs_outside(float x, float low, float high) { return x < low - 1e-4 || x > high + 1e-4; }
bool hs_outside(vec3 x, float low, float high) { return any(lessThan(x, vec3(low - 1e-4))) || any(greaterThan(x, vec3(high + 1e-4))); }
void main() {
)";
    out += point.lines;
    out += "  hs_Outputs m = hs_material(p);\n  hs_Surface s = hs_plain();\n  s.position = v_positionWorld;\n  s.flags = u_flags | "
           "(gl_FrontFacing ? "
           "kFrontFace : 0u);\n";
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
    out += "  s.emissive *= s.emissive_strength;\n  s.sheen_color *= s.sheen;\n";
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

} // namespace hue
