// Views of the mesh itself and counts of work: drawn by fixed stages, whatever is worn.
#include "core/emit/emit_glsl.h"
#include "core/surface/surface_stages.h"
#include "preview/renderer_parts.h"

namespace hue {
namespace {

constexpr const char* kMeshView = R"(#version 410 core
in vec3 v_positionWorld, v_normalWorld, v_tangent, v_bitangent;
in vec2 v_uv0, v_uv1;
in vec4 v_color;
uniform int u_view;
uniform vec3 u_eye;
uniform float u_count;
layout(location = 0) out vec4 o_color;
float shade() { return 0.35 + 0.65 * abs(dot(normalize(v_normalWorld), normalize(u_eye - v_positionWorld))); }
vec3 grid(vec2 uv) {
  // Eighths as checks, whole units as lines; the first unit is lighter, and its left edge and top have thick borders.
  vec2 cell = floor(uv * 8.0), wide = max(fwidth(uv), vec2(1e-6));
  float check = mod(cell.x + cell.y, 2.0);
  vec2 edge = abs(fract(uv + 0.5) - 0.5) / wide;
  float unit = 1.0 - smoothstep(1.0, 2.0, min(edge.x, edge.y));
  bool first = all(greaterThanEqual(uv, vec2(0.0))) && all(lessThan(uv, vec2(1.0)));
  float grey = first ? mix(0.78, 0.95, check) : mix(0.42, 0.55, check);
  vec2 in_ = fract(uv * 8.0);
  float dot_ = first ? smoothstep(0.10, 0.08, length(in_ - 0.5)) * step(0.5, mod(cell.y, 2.0)) : 0.0;
  return vec3(mix(mix(grey, 0.15, dot_), 0.08, unit) * (0.75 + 0.25 * shade()));
}
void main() {
  vec3 shown = vec3(0.0);
  if (u_view == 0) shown = normalize(v_normalWorld) * (gl_FrontFacing ? 1.0 : -1.0) * 0.5 + 0.5;
  else if (u_view == 1) {
    if (gl_FrontFacing) shown = vec3(0.55 + 0.4 * shade());
    else shown = mod(floor((gl_FragCoord.x - gl_FragCoord.y) / 4.0), 2.0) < 0.5 ? vec3(0.05) : vec3(0.4);
  }
  else if (u_view == 2) shown = grid(v_uv0);
  else if (u_view == 3) shown = grid(v_uv1);
  else if (u_view == 4) {
    vec3 c = clamp(v_color.rgb, 0.0, 1.0);
    shown = mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));
  }
  else if (u_view == 5) shown = vec3(0.82 * shade());
  else if (u_view == 6) shown = vec3(0.08);   // lines
  else shown = vec3(u_count);                 // counting
  o_color = vec4(shown, 1.0);
}
)";

} // namespace

Outcome Renderer::Impl::drawMeshView(const DressedSpecimen& specimen, const RenderSettings& settings, const View& view, GlTargets& to,
                                     float* peak) {
    const Result<GlProgram*> linked = program(vertexStage(), kMeshView);
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    const ViewDef& def = views()[size_t(settings.view)];
    const bool counts = def.kind == ViewDef::Kind::Count;
    glBindFramebuffer(GL_FRAMEBUFFER, to.sceneBuffer);
    glViewport(0, 0, view.width, view.height);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_LESS);
    glDepthMask(GL_TRUE);
    glClearDepth(1);
    const float back = counts ? 0 : settings.surround[0];
    glClearColor(back, back, back, 1);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    p.use();
    p.setMatrix("u_world", Matrix4(1));
    const float normals[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
    glUniformMatrix3fv(p.uniform("u_worldNormal"), 1, GL_FALSE, normals);
    p.setMatrix("u_clip", view.clip);
    p.set3("u_eye", view.eye.data());
    p.set("u_view", counts ? 7 : def.number);
    const GlMesh& drawn = mesh(specimen.mesh, specimen.lineage);
    auto draw = [&](bool seeThrough) {
        for (size_t i = 0; i < specimen.slots.size(); ++i) {
            const DressedSlot& slot = specimen.slots[i];
            if (counts && slot.seeThrough() != seeThrough) continue;
            // Orientation shows both sides; other views what is really drawn.
            if (slot.surface.doubleSided || (def.kind == ViewDef::Kind::Mesh && def.number == 1)) glDisable(GL_CULL_FACE);
            else glEnable(GL_CULL_FACE), glCullFace(GL_BACK);
            if (counts) p.set("u_count", def.number == 0 ? 1.f : float(slot.operations));
            drawn.draw(specimen.mesh->slots[i].firstIndex, specimen.mesh->slots[i].indexCount);
        }
    };
    if (!counts) {
        const bool wires = def.number == 5;
        if (wires) {
            glEnable(GL_POLYGON_OFFSET_FILL);
            glPolygonOffset(1, 1);
        }
        draw(false);
        if (wires) {
            glDisable(GL_POLYGON_OFFSET_FILL);
            glDepthFunc(GL_LEQUAL);
            glPolygonMode(GL_FRONT_AND_BACK, GL_LINE);
            p.set("u_view", 6);
            draw(false);
            glPolygonMode(GL_FRONT_AND_BACK, GL_FILL);
            glDepthFunc(GL_LESS);
        }
        return Done{};
    }
    // Every pixel that is computed adds its count, also those that something drawn later hides.
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
    draw(false);
    glDepthMask(GL_FALSE);
    draw(true);
    glDepthMask(GL_TRUE);
    glDisable(GL_BLEND);
    std::vector<float> values(size_t(view.width) * size_t(view.height) * 4);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, view.width, view.height, GL_RGBA, GL_FLOAT, values.data());
    float most = 0;
    for (size_t i = 0; i < values.size(); i += 4) most = std::max(most, values[i]);
    *peak = most;
    // White is the highest count, unless a range is set; uncovered pixels show the surround.
    const bool ranged = settings.viewLow != 0 || settings.viewHigh != 1;
    const float low = ranged ? settings.viewLow : 0, high = ranged ? settings.viewHigh : std::max(most, 1.f);
    for (size_t i = 0; i < values.size(); i += 4) {
        const float shown = values[i] > 0 ? std::clamp((values[i] - low) / (high - low), 0.f, 1.f) * 0.92f + 0.08f : settings.surround[0];
        values[i] = values[i + 1] = values[i + 2] = shown;
        values[i + 3] = 1;
    }
    glBindTexture(GL_TEXTURE_2D, to.scene);
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    glTexSubImage2D(GL_TEXTURE_2D, 0, 0, 0, view.width, view.height, GL_RGBA, GL_FLOAT, values.data());
    return Done{};
}

} // namespace hue
