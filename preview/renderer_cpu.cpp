// Channels of the visible pixels from the CPU evaluator: a fixed stage rasterises what the mesh gives, the Program is
// evaluated for it, and the result goes where a linked build would have written.
#include "core/emit/emit_glsl.h"
#include "core/picture/software_picture.h"
#include "core/surface/surface_stages.h"
#include "preview/renderer_parts.h"

#include <cstring>
#include <span>

namespace hue {

/// What both stages share.
static constexpr std::string_view kPlaneOutputs = R"(#version 410 core
uniform float u_useRejected;
uniform sampler2D u_rejected; // depth of what a mask has cut away already
layout(location = 0) out vec4 o_0;
layout(location = 1) out vec4 o_1;
layout(location = 2) out vec4 o_2;
layout(location = 3) out vec4 o_3;
layout(location = 4) out vec4 o_4;
layout(location = 5) out vec4 o_5;
layout(location = 6) out vec4 o_6;
layout(location = 7) out vec4 o_7;
)";

std::string attributesFragmentStage() {
    return std::string(kPlaneOutputs) + R"(
in vec3 v_positionWorld, v_positionObject, v_normalWorld, v_normalObject, v_tangent, v_bitangent;
in vec2 v_uv0, v_uv1;
in vec4 v_color, v_paintedSecond;
uniform float u_slot; // plus 1
uniform int u_what; // 1: what was moved as it was before, in the planes of AttributePicture::rest; 2: the second vertex colors
void main() {
  float side = gl_FrontFacing ? 1.0 : -1.0;
  vec2 ux = dFdx(v_uv0), uy = dFdy(v_uv0);
  vec3 px = dFdx(v_positionWorld), py = dFdy(v_positionWorld);
  if (u_useRejected > 0.5 && gl_FragCoord.z <= texelFetch(u_rejected, ivec2(gl_FragCoord.xy), 0).r) discard;
  if (u_what == 1) {
    vec3 rx = dFdx(v_positionObject), ry = dFdy(v_positionObject);
    o_0 = vec4(v_positionObject, rx.x);
    o_1 = vec4(normalize(v_normalObject) * side, rx.y);
    o_2 = vec4(rx.z, ry);
    return;
  }
  if (u_what == 2) {
    o_0 = v_paintedSecond;
    return;
  }
  o_0 = vec4(v_positionWorld, u_slot * side);
  o_1 = vec4(normalize(v_normalWorld) * side, v_uv0.x);
  o_2 = vec4(normalize(v_tangent) * side, v_uv0.y);
  o_3 = vec4(normalize(v_bitangent) * side, gl_FragCoord.z);
  o_4 = vec4(v_uv1, ux);
  o_5 = v_color;
  o_6 = vec4(uy, px.xy);
  o_7 = vec4(px.z, py);
}
)";
}

std::string carriedFragmentStage() {
    return std::string(kPlaneOutputs) + R"(
in vec4 v_carried0, v_carried1, v_carried2, v_carried3;
uniform int u_what; // AttributePicture::carried from plane 0, or 1: from plane 8
void main() {
  vec4 x0 = dFdx(v_carried0), x1 = dFdx(v_carried1), x2 = dFdx(v_carried2), x3 = dFdx(v_carried3);
  vec4 y0 = dFdy(v_carried0), y1 = dFdy(v_carried1), y2 = dFdy(v_carried2), y3 = dFdy(v_carried3);
  if (u_useRejected > 0.5 && gl_FragCoord.z <= texelFetch(u_rejected, ivec2(gl_FragCoord.xy), 0).r) discard;
  bool up = u_what == 1;
  o_0 = up ? y0 : v_carried0;
  o_1 = up ? y1 : v_carried1;
  o_2 = up ? y2 : v_carried2;
  o_3 = up ? y3 : v_carried3;
  o_4 = x0;
  o_5 = x1;
  o_6 = x2;
  o_7 = x3;
}
)";
}

void Renderer::Impl::ensureAttributes(int width, int height) {
    if (attributeSize == std::pair{width, height}) return;
    if (attributeBuffer) {
        glDeleteFramebuffers(1, &attributeBuffer);
        glDeleteTextures(AttributePicture::kPlanes, attributes);
        glDeleteTextures(1, &attributeDepth);
        glDeleteTextures(1, &rejected);
    }
    attributeSize = {width, height};
    glGenFramebuffers(1, &attributeBuffer);
    for (GLuint& a : attributes) a = plainTexture(GL_RGBA32F, width, height);
    attributeDepth = plainTexture(GL_DEPTH_COMPONENT32F, width, height);
    rejected = plainTexture(GL_R32F, width, height);
    glBindFramebuffer(GL_FRAMEBUFFER, attributeBuffer);
    GLenum buffers[AttributePicture::kPlanes];
    for (int i = 0; i < AttributePicture::kPlanes; ++i) {
        buffers[i] = GLenum(GL_COLOR_ATTACHMENT0 + i);
        glFramebufferTexture2D(GL_FRAMEBUFFER, buffers[i], GL_TEXTURE_2D, attributes[i], 0);
    }
    glDrawBuffers(AttributePicture::kPlanes, buffers);
}

Result<AttributePicture> Renderer::Impl::rasterise(const DressedSpecimen& specimen, const View& view, GLuint depth, const Region& region,
                                                   bool useRejected, bool seeThrough) {
    const bool carries = !specimen.mesh->carried.empty();
    const Result<GlProgram*> linked = program(vertexStage(), attributesFragmentStage());
    if (!linked) return linked.error();
    const Result<GlProgram*> withCarried = carries ? program(vertexStage(true), carriedFragmentStage()) : linked;
    if (!withCarried) return withCarried.error();
    glBindFramebuffer(GL_FRAMEBUFFER, attributeBuffer);
    glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, depth, 0);
    glViewport(0, 0, view.width, view.height);
    glScissor(region.x, region.y, region.width, region.height);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_LESS);
    glDepthMask(GL_TRUE);
    glDisable(GL_BLEND);
    glClearColor(0, 0, 0, 0);
    glClearDepth(1);
    glActiveTexture(GL_TEXTURE11);
    glBindTexture(GL_TEXTURE_2D, rejected);
    const auto use = [&](GlProgram& p) {
        p.use();
        p.setMatrix("u_world", Matrix4(1));
        const float normals[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
        glUniformMatrix3fv(p.uniform("u_worldNormal"), 1, GL_FALSE, normals);
        p.setMatrix("u_clip", view.clip);
        p.set("u_useRejected", useRejected ? 1.f : 0.f);
        p.set("u_rejected", 11);
    };
    AttributePicture out;
    out.painted = specimen.mesh->hasColors;
    using PlaneOfPixels = std::vector<std::array<float, 4>>;
    const auto draw = [&](GlProgram& p, int what, std::span<PlaneOfPixels> planes) {
        glEnable(GL_SCISSOR_TEST);
        glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
        p.set("u_what", what);
        for (size_t i = 0; i < specimen.slots.size(); ++i) {
            if (specimen.slots[i].seeThrough() && !seeThrough) continue;
            if (specimen.slots[i].surface.doubleSided) glDisable(GL_CULL_FACE);
            else glEnable(GL_CULL_FACE), glCullFace(GL_BACK);
            p.set("u_slot", float(i + 1));
            mesh(specimen.mesh, specimen.lineage).draw(specimen.mesh->slots[i].firstIndex, specimen.mesh->slots[i].indexCount);
        }
        glDisable(GL_SCISSOR_TEST);
        glPixelStorei(GL_PACK_ALIGNMENT, 1);
        for (size_t i = 0; i < planes.size(); ++i) {
            planes[i].resize(size_t(region.width) * size_t(region.height));
            glReadBuffer(GLenum(GL_COLOR_ATTACHMENT0 + i));
            glReadPixels(region.x, region.y, region.width, region.height, GL_RGBA, GL_FLOAT, planes[i].data());
        }
    };
    out.width = region.width;
    out.height = region.height;
    out.originX = region.x;
    out.originY = region.y;
    out.wholeWidth = view.width;
    out.wholeHeight = view.height;
    use(**linked);
    draw(**linked, 0, out.planes);
    const auto sticks = [](const DressedSlot& slot) {
        const Program& program = slot.look->evaluator->program();
        return program.reads(Attribute::PositionObject) || program.reads(Attribute::NormalObject);
    };
    if (!specimen.mesh->rest.empty() && std::any_of(specimen.slots.begin(), specimen.slots.end(), sticks)) draw(**linked, 1, out.rest);
    if (specimen.mesh->hasColors1) draw(**linked, 2, {&out.second, 1});
    if (carries) {
        const std::span<PlaneOfPixels> carried = out.carried;
        use(**withCarried);
        draw(**withCarried, 0, carried.first(AttributePicture::kPlanes));
        draw(**withCarried, 1, carried.subspan(AttributePicture::kPlanes));
    }
    return out;
}

Outcome Renderer::Impl::channelsByEvaluator(const DressedSpecimen& specimen, const View& view, GlTargets& to, bool full) {
    ensureAttributes(view.width, view.height);
    const Region region{view.left, view.bottom, view.across, view.tall};
    if (!region.width || !region.height) return Done{};
    const auto seen = [&](const std::vector<float>* cut) {
        if (cut) {
            glBindTexture(GL_TEXTURE_2D, rejected);
            glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
            glTexSubImage2D(GL_TEXTURE_2D, 0, region.x, region.y, region.width, region.height, GL_RED, GL_FLOAT, cut->data());
        }
        return rasterise(specimen, view, to.depth(0), region, cut != nullptr, false);
    };
    const Result<ChannelPicture> channels = opaqueChannels(specimen, view, seen);
    if (!channels) return channels.error();
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    for (int t = 0; t < (full ? kAllTargets : kCoreTargets); ++t) {
        glBindTexture(GL_TEXTURE_2D, to.channel(t));
        glTexSubImage2D(GL_TEXTURE_2D, 0, region.x, region.y, region.width, region.height, GL_RGBA_INTEGER, GL_UNSIGNED_INT,
                        channels->targets[size_t(t)].data());
    }
    return Done{};
}

Probe Renderer::probe(const DressedSpecimen& specimen, const RenderSettings& settings, int x, int y) {
    Probe out;
    const View view = viewOf(specimen, settings, settings.width, settings.height);
    m->ensureAttributes(view.width, view.height);
    // The 2 x 2 pixels that hold the one, so that maps are read at the same level as in the picture.
    const int row = view.height - 1 - y, left = x & ~1, low = row & ~1;
    const Impl::Region region{left, low, std::min(2, view.width - left), std::min(2, view.height - low)};
    const Result<AttributePicture> a = m->rasterise(specimen, view, m->attributeDepth, region, false, true);
    if (!a) return out;
    const auto at = size_t((row - low) * region.width + (x - left));
    const int slot = a->slot(at);
    if (slot < 0 || size_t(slot) >= specimen.slots.size()) return out;
    out.hit = true;
    out.slot = slot % int(specimen.slotsEach);
    out.placement = slot / int(specimen.slotsEach);
    const auto& p = a->planes;
    for (size_t c = 0; c < 3; ++c) {
        out.position[c] = p[0][at][c];
        out.normal[c] = p[1][at][c];
    }
    out.uv0 = {p[1][at][3], p[2][at][3]};
    out.uv1 = {p[4][at][0], p[4][at][1]};
    out.color = p[5][at];
    std::vector<uint32_t> pixels;
    for (uint32_t i = 0; i < uint32_t(region.width * region.height); ++i)
        if (a->slot(i) == slot) pixels.push_back(i);
    const size_t mine = size_t(std::find(pixels.begin(), pixels.end(), uint32_t(at)) - pixels.begin());
    const DressedSlot& dressed = specimen.slots[size_t(slot)];
    Frame frame = seenFrame(dressed, view);
    frame.light = std::make_shared<TurnedLight>(view.light.filtered, settings.rotation);
    const PixelEvaluation evaluation(*a, pixels, view.eye);
    const Program& program = dressed.look->evaluator->program();
    for (const Program::Output& o : program.outputs) {
        Value v;
        v.width = program.code[size_t(o.value)].width;
        v.v = evaluation.output(*dressed.look->evaluator, frame, o.name)[mine];
        out.values.emplace_back(o.name, v);
    }
    return out;
}

} // namespace hue
