#include "preview/renderer.h"

#include "core/emit/emit_glsl.h"
#include "core/surface/channels.h"
#include "core/surface/surface_glsl.h"
#include "preview/renderer_parts.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>

namespace hue {

Renderer::Renderer(BuildService* builds) : m(std::make_unique<Impl>()) {
    m->builds = builds;
    glGenVertexArrays(1, &m->emptyArray);
    glGenQueries(1, &m->query);
}

Renderer::~Renderer() = default;

size_t Renderer::meshBytesSent() const { return m->meshBytes; }
int Renderer::links() const { return m->links + (m->builds ? m->builds->links() : 0); }
std::string Renderer::driver() const { return reinterpret_cast<const char*>(glGetString(GL_RENDERER)); }
void Renderer::setEvaluatorOnly(bool on) { m->evaluatorOnly = on; }

namespace {

/// Limits clearing and drawing to the part of the picture where something can stand.
class Within {
  public:
    explicit Within(const View& v) {
        glEnable(GL_SCISSOR_TEST);
        glScissor(v.left, v.bottom, v.across, v.tall);
    }
    ~Within() { glDisable(GL_SCISSOR_TEST); }
};

/// One picture on its way: the passes in their order.
class Drawing {
  public:
    Drawing(Renderer::Impl& impl, const DressedSpecimen& specimen, const RenderSettings& settings, int width, int height)
        : m(impl),
          m_specimen(specimen),
          m_settings(settings),
          m_view(viewOf(specimen, settings, width, height)),
          m_targets(m.target(width, height)),
          m_def(views()[size_t(settings.view)]) {
        for (const DressedSlot& slot : specimen.slots) m_full = m_full || slot.look->layers != 0;
    }

    Result<RenderedPicture> run();
    GlTargets& targets() { return m_targets; }

  private:
    Renderer::Impl& m;
    const DressedSpecimen& m_specimen;
    const RenderSettings& m_settings;
    const View m_view;
    GlTargets& m_targets;
    const ViewDef& m_def;
    bool m_full = false, m_hasLocal = false;
    GLuint m_behind = 0;  ///< copy of what is drawn so far, with mips; 0 when nothing looks at it
    int m_layerDepth = 0; ///< depth target of the layer that is drawn; 0 while the opaque is

    bool lit() const { return m_def.kind == ViewDef::Kind::Light; }

    /// Programs of all slots; null where the driver still works.
    Result<std::vector<GlProgram*>> programs();
    Outcome backdrop();
    Outcome drawSlot(size_t index, GlProgram& p, bool peel, GLuint peeled);
    Outcome opaque(const std::vector<GlProgram*>& programs, bool byEvaluator);
    Outcome layers(const std::vector<GlProgram*>& programs);
    /// Lights what lies in the channel targets, over what is in the scene.
    Outcome light();
    Outcome toScreen();
    static void clearChannels(float depth, bool full);
};

// Integer targets have a clear of their own.
void Drawing::clearChannels(float depth, bool full) {
    glDepthMask(GL_TRUE);
    static constexpr GLuint none[4] = {};
    for (int i = 0; i < (full ? kAllTargets : kCoreTargets); ++i) glClearBufferuiv(GL_COLOR, i, none);
    glClearBufferfv(GL_DEPTH, 0, &depth);
}

Result<std::vector<GlProgram*>> Drawing::programs() {
    std::vector<GlProgram*> out;
    for (const DressedSlot& slot : m_specimen.slots) {
        const Result<GlProgram*> p = m.surfaceProgram(slot.look, m_full);
        if (!p) return p.error();
        out.push_back(*p);
    }
    return out;
}

Outcome Drawing::backdrop() {
    const Result<GlProgram*> linked = m.program(flatVertexStage(), backdropFragmentStage());
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    glBindFramebuffer(GL_FRAMEBUFFER, m_targets.sceneBuffer);
    glViewport(0, 0, m_view.width, m_view.height);
    p.use();
    m.setScene(p, m_view, m_settings);
    p.set("u_backdrop", lit() ? int(m_settings.backdrop) : 3);
    // Views that are already what the screen shows take the surround as it is.
    const float grey = lit() ? m_view.surround : m_settings.surround[0];
    const float surround[3] = {grey, grey, grey};
    p.set3("u_surround", surround);
    p.set("u_wall", m_view.radius * 2.6f);
    glDisable(GL_BLEND);
    m.fullScreen();
    return Done{};
}

Outcome Drawing::drawSlot(size_t index, GlProgram& p, bool peel, GLuint peeled) {
    const DressedSlot& slot = m_specimen.slots[index];
    p.use();
    p.setMatrix("u_world", Matrix4(1));
    static constexpr float normals[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
    glUniformMatrix3fv(p.uniform("u_worldNormal"), 1, GL_FALSE, normals);
    p.setMatrix("u_clip", m_view.clip);
    p.set3("u_eye", m_view.eye.data());
    p.set2("u_pictureSize", float(m_view.width), float(m_view.height));
    p.set("u_alphaCutoff", slot.surface.alphaMode == AlphaMode::Mask ? slot.surface.alphaCutoff : -1.f);
    p.setFlags("u_flags", settingFlags(slot.surface, int(index)));
    m.setFrame(p, seenFrame(slot, m_view));
    p.set("u_peel", peel ? 1.f : 0.f);
    auto texture = [&](const char* name, int unit, GLenum kind, GLuint id) {
        glActiveTexture(GLenum(GL_TEXTURE0 + unit));
        glBindTexture(kind, id);
        p.set(name, unit);
    };
    texture("u_peeled", 11, GL_TEXTURE_2D, peeled);
    if (p.has("u_sceneDepth")) {
        texture("u_sceneDepth", 12, GL_TEXTURE_2D, m_targets.depth(0));
        glUniform4f(p.uniform("u_depthRange"), m_view.near, m_view.far, m_view.floor,
                    m_settings.backdrop == Backdrop::Environment ? 0.f : 1.f);
    }
    if (p.has("u_behindMap") && peel) {
        texture("u_behindMap", 13, GL_TEXTURE_2D, m_behind);
        p.set("u_behindMapLevels", float(m_targets.behindLevels()));
        p.set2("u_behindSize", float(m_view.width), float(m_view.height));
    }
    if (p.has("u_aroundMap")) {
        texture("u_aroundMap", 14, GL_TEXTURE_CUBE_MAP, m.environment(m_view.light));
        p.set("u_aroundLevels", float(PrefilteredLight::kLevels - 1));
        p.set2("u_aroundTurn", m_view.turn[0], m_view.turn[1]);
    }
    if (slot.surface.doubleSided) glDisable(GL_CULL_FACE);
    else glEnable(GL_CULL_FACE), glCullFace(GL_BACK);
    m.mesh(m_specimen.mesh, m_specimen.lineage).draw(m_specimen.mesh->slots[index].firstIndex, m_specimen.mesh->slots[index].indexCount);
    return Done{};
}

Outcome Drawing::opaque(const std::vector<GlProgram*>& programs, bool byEvaluator) {
    if (byEvaluator)
        if (Outcome o = m.channelsByEvaluator(m_specimen, m_view, m_targets, m_full); !o) return o;
    const Within part(m_view);
    glBindFramebuffer(GL_FRAMEBUFFER, m_targets.channelBuffer(m_full, 0));
    glViewport(0, 0, m_view.width, m_view.height);
    glDepthFunc(GL_LESS);
    if (!byEvaluator) {
        clearChannels(1, m_full);
        for (size_t i = 0; i < m_specimen.slots.size(); ++i)
            if (!m_specimen.slots[i].seeThrough())
                if (Outcome o = drawSlot(i, *programs[i], false, m_targets.depth(1)); !o) return o;
    }
    if (Outcome o =
            m.drawThings(m_specimen, m_view, m_view.clip, m_view.eye, m_full ? ThingsTo::AllChannels : ThingsTo::CoreChannels, m_settings);
        !o)
        return o;
    return light();
}

// Layer by layer from behind: the furthest fragment that lies in front of the layer before (Everitt's depth peeling,
// turned around). So the order is right for every pixel, also where surfaces pass through each other.
Outcome Drawing::layers(const std::vector<GlProgram*>& programs) {
    const Within part(m_view);
    // Some surface looks at what is behind it: by transmission in light, or by a card.
    bool looksBehind = false;
    for (size_t i = 0; i < m_specimen.slots.size(); ++i)
        looksBehind = looksBehind || (m_specimen.slots[i].seeThrough() &&
                                      ((lit() && m_specimen.slots[i].surface.has(Layer::Transmission)) || programs[i]->has("u_behindMap")));
    GLuint before = m_targets.depth(0);
    for (int layer = 0; layer < kMostLayers; ++layer) {
        m_layerDepth = 1 + layer % 2;
        if (looksBehind) m_behind = m_targets.behind();
        glBindFramebuffer(GL_FRAMEBUFFER, m_targets.channelBuffer(m_full, m_layerDepth));
        glViewport(0, 0, m_view.width, m_view.height);
        clearChannels(0, m_full);
        glDepthFunc(GL_GREATER);
        glBeginQuery(GL_ANY_SAMPLES_PASSED, m.query);
        Outcome drawn = Done{};
        for (size_t i = 0; i < m_specimen.slots.size() && drawn; ++i)
            if (m_specimen.slots[i].seeThrough()) drawn = drawSlot(i, *programs[i], true, before);
        glEndQuery(GL_ANY_SAMPLES_PASSED);
        glDepthFunc(GL_LESS);
        if (!drawn) return drawn;
        GLuint any = 0;
        glGetQueryObjectuiv(m.query, GL_QUERY_RESULT, &any);
        if (!any) break;
        if (Outcome o = light(); !o) return o;
        before = m_targets.depth(m_layerDepth);
    }
    return Done{};
}

Outcome Drawing::light() {
    const Result<GlProgram*> linked = m.program(flatVertexStage(), lit() ? lightingFragmentStage(m_full) : viewFragmentStage(m_full));
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    glBindFramebuffer(GL_FRAMEBUFFER, m_targets.sceneBuffer);
    glViewport(0, 0, m_view.width, m_view.height);
    p.use();
    for (int i = 0; i < (m_full ? kAllTargets : kCoreTargets); ++i) {
        glActiveTexture(GLenum(GL_TEXTURE0 + i));
        glBindTexture(GL_TEXTURE_2D, m_targets.channel(i));
        p.set(targetSampler(i).c_str(), i);
    }
    m.setScene(p, m_view, m_settings);
    glActiveTexture(GL_TEXTURE11);
    glBindTexture(GL_TEXTURE_CUBE_MAP, m_hasLocal ? m.localTexture : m.environment(m_view.light));
    p.set("u_local", 11);
    p.set("u_hasLocal", m_hasLocal ? 1.f : 0.f);
    p.set("u_localLevels", 5.f);
    glActiveTexture(GL_TEXTURE12);
    glBindTexture(GL_TEXTURE_2D, m_behind);
    p.set("u_behind", 12);
    p.set("u_behindLevels", float(m_targets.behindLevels()));
    p.set("u_lightOnly", m_def.kind == ViewDef::Kind::Light ? m_def.number : 0);
    int number = m_def.number;
    if (m_def.key == "wire")
        for (const DressedSlot& s : m_specimen.slots)
            if (s.look->valueIsColor) number = 0;
    p.set("u_view", number);
    p.set2("u_stretch", m_settings.viewLow, m_settings.viewHigh);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    m.fullScreen();
    glDisable(GL_BLEND);
    return Done{};
}

Outcome Drawing::toScreen() {
    const bool glares = lit() && m_settings.glare > 0;
    GLuint glare = 0;
    if (glares) {
        const Result<GlProgram*> linked = m.program(flatVertexStage(), glareFragmentStage());
        if (!linked) return linked.error();
        GLuint buffer = 0;
        glare = m_targets.glare(&buffer);
        glBindFramebuffer(GL_FRAMEBUFFER, buffer);
        const int w = std::max(1, m_view.width / 2), h = std::max(1, m_view.height / 2);
        glViewport(0, 0, w, h);
        (*linked)->use();
        glActiveTexture(GL_TEXTURE0);
        glBindTexture(GL_TEXTURE_2D, m_targets.scene);
        (*linked)->set("u_picture", 0);
        (*linked)->set2("u_size", float(w), float(h));
        (*linked)->set("u_exposure", std::exp2(m_settings.exposure));
        m.fullScreen();
        glBindTexture(GL_TEXTURE_2D, glare);
        glGenerateMipmap(GL_TEXTURE_2D);
    }
    const Result<GlProgram*> linked = m.program(flatVertexStage(), screenFragmentStage());
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    glBindFramebuffer(GL_FRAMEBUFFER, m_targets.pictureBuffer);
    glViewport(0, 0, m_view.width, m_view.height);
    p.use();
    glActiveTexture(GL_TEXTURE0);
    glBindTexture(GL_TEXTURE_2D, m_targets.scene);
    p.set("u_picture", 0);
    glActiveTexture(GL_TEXTURE1);
    glBindTexture(GL_TEXTURE_2D, glare);
    p.set("u_glareMap", 1);
    p.set2("u_size", float(m_view.width), float(m_view.height));
    p.set("u_exposure", std::exp2(m_settings.exposure));
    p.set("u_glare", glares ? m_settings.glare : 0.f);
    p.set("u_glareLevels", std::min(6.f, float(m_targets.behindLevels() - 1)));
    p.set("u_tone", lit() ? int(m_settings.tone) : 3);
    m.fullScreen();
    return Done{};
}

Result<RenderedPicture> Drawing::run() {
    RenderedPicture out;
    glDisable(GL_BLEND);
    glEnable(GL_DEPTH_TEST);
    glDepthMask(GL_TRUE);
    if (m_def.kind == ViewDef::Kind::Mesh || m_def.kind == ViewDef::Kind::Count) {
        if (Outcome o = m.drawMeshView(m_specimen, m_settings, m_view, m_targets, &out.peak); !o) return o.error();
        if (Outcome o = toScreen(); !o) return o.error();
        return out;
    }
    Result<std::vector<GlProgram*>> linked = programs();
    if (!linked) return linked.error();
    bool seeThrough = false;
    for (size_t i = 0; i < m_specimen.slots.size(); ++i) {
        const bool waits = !(*linked)[i];
        seeThrough = seeThrough || m_specimen.slots[i].seeThrough();
        if (waits && m_specimen.slots[i].seeThrough())
            return Error{"render.not-yet", "The driver is still linking a see-through surface.", {}};
        out.fromEvaluator = out.fromEvaluator || waits;
    }
    out.fromEvaluator = out.fromEvaluator || (m.evaluatorOnly && !seeThrough);
    if (lit()) {
        if (Outcome o = m.drawShadow(m_specimen, m_view); !o) return o.error();
        const Result<bool> local = m.captureLocal(m_specimen, m_view, m_settings);
        if (!local) return local.error();
        m_hasLocal = *local;
    } else if (!m.shadowTexture) {
        if (Outcome o = m.drawShadow(m_specimen, m_view); !o) return o.error();
    }
    if (Outcome o = backdrop(); !o) return o.error();
    if (Outcome o = opaque(*linked, out.fromEvaluator); !o) return o.error();
    if (seeThrough)
        if (Outcome o = layers(*linked); !o) return o.error();
    if (Outcome o = toScreen(); !o) return o.error();
    return out;
}

} // namespace

Result<RenderedPicture> Renderer::render(const DressedSpecimen& specimen, const RenderSettings& s) {
    if (Outcome o = drawable(s); !o) return o.error();
    // Old sizes go before any are taken, since all that are taken stay in use until the end.
    if (m->targets.size() > 12) m->targets.clear();
    Drawing drawing(*m, specimen, s, s.width * s.supersampling, s.height * s.supersampling);
    Result<RenderedPicture> drawn = drawing.run();
    if (!drawn) return drawn.error();
    RenderedPicture& out = *drawn;
    GLuint from = drawing.targets().pictureBuffer;
    if (s.supersampling > 1) {
        GlTargets& small = m->target(s.width, s.height);
        glBindFramebuffer(GL_READ_FRAMEBUFFER, from);
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, small.pictureBuffer);
        glBlitFramebuffer(0, 0, drawing.targets().width(), drawing.targets().height(), 0, 0, s.width, s.height, GL_COLOR_BUFFER_BIT,
                          GL_LINEAR);
        from = small.pictureBuffer;
    }
    glBindFramebuffer(GL_FRAMEBUFFER, from);
    out.width = s.width;
    out.height = s.height;
    out.rgba.resize(size_t(s.width) * size_t(s.height) * 4);
    std::vector<uint8_t> rows(out.rgba.size());
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, s.width, s.height, GL_RGBA, GL_UNSIGNED_BYTE, rows.data());
    const size_t stride = size_t(s.width) * 4;
    for (size_t y = 0; y < size_t(s.height); ++y) std::memcpy(&out.rgba[y * stride], &rows[(size_t(s.height) - 1 - y) * stride], stride);
    m->trim();
    if (Outcome o = heardFromDriver("a picture"); !o) return o.error();
    return drawn;
}

Result<Picture> Renderer::evaluateFlat(const Evaluator& evaluator, const Frame& frame, std::string_view output, int size) {
    const int32_t value = evaluator.program().output(output);
    if (value < 0) return Error{"render.no-output", fmt::format("There is no output {}.", output), {}};
    const int width = evaluator.program().code[size_t(value)].width;
    const Result<GlProgram*> linked = m->program(flatVertexStage(), flatFragmentStage(evaluator.program(), evaluator.layout(), output));
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    const GLuint floats = plainTexture(GL_RGBA32F, size, size);
    GLuint buffer = 0;
    glGenFramebuffers(1, &buffer);
    glBindFramebuffer(GL_FRAMEBUFFER, buffer);
    glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, floats, 0);
    glViewport(0, 0, size, size);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    glDisable(GL_BLEND);
    p.use();
    m->setFrame(p, frame);
    glUniform2f(p.uniform("u_size"), float(size), float(size));
    glBindVertexArray(m->emptyArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    std::vector<float> rgba(size_t(size) * size_t(size) * 4);
    glReadPixels(0, 0, size, size, GL_RGBA, GL_FLOAT, rgba.data());
    glDeleteFramebuffers(1, &buffer);
    glDeleteTextures(1, &floats);
    if (Outcome o = heardFromDriver("evaluating a channel"); !o) return o.error();
    Picture out{size, size, width, std::vector<float>(size_t(size) * size_t(size) * size_t(width))};
    for (size_t i = 0; i < size_t(size) * size_t(size); ++i)
        for (size_t c = 0; c < size_t(width); ++c) out.values[i * size_t(width) + c] = rgba[i * 4 + c];
    return out;
}

} // namespace hue
