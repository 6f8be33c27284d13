#include "preview/renderer.h"

#include "core/emit/emit_glsl.h"
#include "core/surface/surface_glsl.h"
#include "preview/gl_objects.h"
#include "preview/matrix.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>

namespace hue {

const std::vector<ViewDef>& views() {
    static const std::vector<ViewDef> all = {{"lit", "lit"},
                                             {"unlit", "unlit"},
                                             {"base_color", "base color"},
                                             {"metallic", "metallic"},
                                             {"roughness", "roughness"},
                                             {"normal", "normal"},
                                             {"occlusion", "occlusion"},
                                             {"emissive", "emissive"},
                                             {"alpha", "alpha"},
                                             {"invalid", "invalid pixels"}};
    return all;
}

int findView(std::string_view key) {
    std::string wanted(key);
    std::replace(wanted.begin(), wanted.end(), '-', '_');
    for (size_t i = 0; i < views().size(); ++i)
        if (views()[i].key == wanted) return int(i);
    return -1;
}

namespace {

constexpr int kShadowSize = 1024;
constexpr float kHalfAngle = 0.2493f; // tangent of 14 degrees: little perspective, as product pictures have

} // namespace

struct Renderer::Impl {
    std::map<std::string, std::shared_ptr<GlProgram>> programs; ///< by both stages
    std::map<MeshPtr, std::unique_ptr<GlMesh>> meshes;
    std::map<MapPtr, std::unique_ptr<GlMap>> maps;
    std::map<std::pair<int, int>, std::unique_ptr<GlTargets>> targets;
    std::map<std::string, GLuint> environments;
    GLuint splitSumTexture = 0, shadowTexture = 0, shadowBuffer = 0, emptyArray = 0;
    std::pair<const Mesh*, const LightDef*> shadowOf{};
    int links = 0;

    Result<GlProgram*> program(const std::string& vertexStage, const std::string& fragmentStage) {
        auto& entry = programs[fragmentStage];
        if (!entry) {
            Result<std::shared_ptr<GlProgram>> linked = GlProgram::link(vertexStage, fragmentStage);
            if (!linked) {
                programs.erase(fragmentStage);
                return linked.error();
            }
            ++links;
            entry = *linked;
        }
        return entry.get();
    }

    const GlMesh& mesh(const MeshPtr& m) {
        if (meshes.size() > 48) meshes.clear();
        auto& entry = meshes[m];
        if (!entry) entry = std::make_unique<GlMesh>(*m);
        return *entry;
    }

    void bindMap(const MapPtr& m, int unit) {
        auto& entry = maps[m];
        // Making a map binds it as well, so its unit comes first.
        glActiveTexture(GLenum(GL_TEXTURE0 + unit));
        if (!entry) entry = std::make_unique<GlMap>(*m);
        entry->bind(unit);
    }

    GlTargets& target(int width, int height) {
        auto& entry = targets[{width, height}];
        if (!entry) entry = std::make_unique<GlTargets>(width, height);
        return *entry;
    }

    GLuint environment(const LightDef& light) {
        GLuint& id = environments[light.id];
        if (id) return id;
        const auto filtered = prefiltered(light);
        glGenTextures(1, &id);
        glBindTexture(GL_TEXTURE_CUBE_MAP, id);
        for (int l = 0; l < PrefilteredLight::kLevels; ++l) {
            const int size = PrefilteredLight::kSize >> l;
            for (int f = 0; f < 6; ++f)
                glTexImage2D(GLenum(GL_TEXTURE_CUBE_MAP_POSITIVE_X + f), l, GL_RGB16F, size, size, 0, GL_RGB, GL_FLOAT,
                             &filtered->faces[size_t(l)][size_t(f * size * size) * 3]);
        }
        glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MAX_LEVEL, PrefilteredLight::kLevels - 1);
        glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
        glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
        glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
        return id;
    }

    GLuint splitSumMap() {
        if (splitSumTexture) return splitSumTexture;
        glGenTextures(1, &splitSumTexture);
        glBindTexture(GL_TEXTURE_2D, splitSumTexture);
        glTexImage2D(GL_TEXTURE_2D, 0, GL_RG32F, kSplitSumSize, kSplitSumSize, 0, GL_RG, GL_FLOAT, splitSumTable().data());
        for (GLenum p : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T}) glTexParameteri(GL_TEXTURE_2D, p, GL_CLAMP_TO_EDGE);
        for (GLenum p : {GL_TEXTURE_MIN_FILTER, GL_TEXTURE_MAG_FILTER}) glTexParameteri(GL_TEXTURE_2D, p, GL_LINEAR);
        return splitSumTexture;
    }

    /// Depth of the mesh from the sun; kept until mesh or light change.
    Outcome drawShadow(const MeshPtr& m, const LightDef& light, const Matrix4& toShadow) {
        if (!shadowTexture) {
            glGenTextures(1, &shadowTexture);
            glBindTexture(GL_TEXTURE_2D, shadowTexture);
            glTexImage2D(GL_TEXTURE_2D, 0, GL_DEPTH_COMPONENT24, kShadowSize, kShadowSize, 0, GL_DEPTH_COMPONENT, GL_UNSIGNED_INT, nullptr);
            glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
            for (GLenum p : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T}) glTexParameteri(GL_TEXTURE_2D, p, GL_CLAMP_TO_EDGE);
            for (GLenum p : {GL_TEXTURE_MIN_FILTER, GL_TEXTURE_MAG_FILTER}) glTexParameteri(GL_TEXTURE_2D, p, GL_LINEAR);
            glGenFramebuffers(1, &shadowBuffer);
            glBindFramebuffer(GL_FRAMEBUFFER, shadowBuffer);
            glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, shadowTexture, 0);
            glDrawBuffer(GL_NONE);
        }
        if (shadowOf == std::pair{m.get(), &light}) return Done{};
        const Result<GlProgram*> p = program("#version 410 core\nlayout(location = 0) in vec3 a_position;\nuniform mat4 u_clip;\nvoid "
                                             "main() { gl_Position = u_clip * vec4(a_position, 1.0); }\n",
                                             "#version 410 core\n// depth only\nvoid main() {}\n");
        if (!p) return p.error();
        glBindFramebuffer(GL_FRAMEBUFFER, shadowBuffer);
        glViewport(0, 0, kShadowSize, kShadowSize);
        glClear(GL_DEPTH_BUFFER_BIT);
        (*p)->use();
        (*p)->setMatrix("u_clip", toShadow.data());
        glDisable(GL_CULL_FACE);
        glEnable(GL_POLYGON_OFFSET_FILL);
        glPolygonOffset(2, 4);
        mesh(m).draw(0, uint32_t(m->indices.size()));
        glDisable(GL_POLYGON_OFFSET_FILL);
        shadowOf = {m.get(), &light};
        return Done{};
    }

    void setFrame(GlProgram& p, const Frame& frame) {
        if (!frame.uniforms.empty()) glUniform4fv(p.uniform("u_values"), GLsizei(frame.uniforms.size()), frame.uniforms.data()->data());
        p.set("u_time", float(frame.time));
        for (size_t s = 0; s < frame.maps.size(); ++s) {
            bindMap(frame.maps[s], int(s));
            p.set(fmt::format("u_map{}", s).c_str(), int(s));
        }
    }

    /// Maps that have not been drawn for a while leave the graphics card.
    void trimMaps() {
        if (maps.size() > 256) std::erase_if(maps, [](const auto& entry) { return entry.first.use_count() <= 1; });
    }
};

Renderer::Renderer() : m(std::make_unique<Impl>()) { glGenVertexArrays(1, &m->emptyArray); }

Renderer::~Renderer() = default;

int Renderer::links() const { return m->links; }
std::string Renderer::driver() const { return reinterpret_cast<const char*>(glGetString(GL_RENDERER)); }

Result<RenderedPicture> Renderer::render(const DressedSpecimen& specimen, const RenderSettings& s) {
    const LightDef* light = findLight(s.light);
    if (!light) return Error{"light.unknown", fmt::format("There is no light {}.", s.light), {}};
    if (s.width < 1 || s.height < 1 || s.width > 8192 || s.height > 8192)
        return Error{
            "render.size", fmt::format("A picture of {} x {} pixels cannot be rendered; at most 8192 a side.", s.width, s.height), {}};
    const int width = s.width * s.supersampling, height = s.height * s.supersampling;
    const Bounds bounds = boundsOf(*specimen.mesh);
    const Rgb centre = bounds.centre();
    const float radius = std::max(bounds.radius(), 1e-4f);

    constexpr float degree = 3.14159265f / 180;
    const float yaw = s.camera.yaw * degree, pitch = s.camera.pitch * degree;
    const float aspect = float(width) / float(height);
    // The cylinder that the mesh sweeps when it turns, seen from this height: turning does not change the distance.
    const float halfHeight = (bounds.high[1] - bounds.low[1]) / 2;
    const float sweep = std::hypot(bounds.high[0] - bounds.low[0], bounds.high[2] - bounds.low[2]) / 2;
    const float tall = halfHeight * std::cos(pitch) + sweep * std::fabs(std::sin(pitch));
    const float distance = (std::max(tall / kHalfAngle, sweep / (kHalfAngle * aspect)) * 1.05f + 0.55f * sweep) * s.camera.standOff;
    const Rgb eye = {centre[0] + distance * std::cos(pitch) * std::sin(yaw), centre[1] + distance * std::sin(pitch),
                     centre[2] + distance * std::cos(pitch) * std::cos(yaw)};
    const Matrix4 clip = perspective(kHalfAngle, aspect, std::max(distance - 1.5f * radius, distance * 0.02f), distance + 1.5f * radius) *
                         lookAt(eye, centre);
    const Matrix4 fromClip = inverse4(clip);

    const float reach = radius * 2.2f;
    const Rgb& sun = light->sun.direction;
    const Matrix4 toShadow =
        orthographic(reach, 0.1f * radius, 8 * radius) *
        lookAt({centre[0] + sun[0] * 4 * radius, centre[1] + sun[1] * 4 * radius, centre[2] + sun[2] * 4 * radius}, centre);
    glDisable(GL_BLEND);
    glEnable(GL_DEPTH_TEST);
    glDepthMask(GL_TRUE);
    if (Outcome o = m->drawShadow(specimen.mesh, *light, toShadow); !o) return o.error();

    // Old sizes go before any are taken, since all that are taken stay in use until the end.
    if (m->targets.size() > 12) m->targets.clear();
    GlTargets& targets = m->target(width, height);
    const GlMesh& mesh = m->mesh(specimen.mesh);
    const Matrix4 world = identity4();
    const float worldNormal[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};

    auto drawSlot = [&](size_t index) -> Outcome {
        const DressedSlot& slot = specimen.slots[index];
        const Result<GlProgram*> linked = m->program(vertexStage(), slot.look->fragmentStage);
        if (!linked) return linked.error();
        GlProgram& p = **linked;
        p.use();
        p.setMatrix("u_world", world.data());
        glUniformMatrix3fv(p.uniform("u_worldNormal"), 1, GL_FALSE, worldNormal);
        p.setMatrix("u_clip", clip.data());
        p.set3("u_eye", eye.data());
        p.set("u_alphaCutoff", slot.surface.alphaMode == AlphaMode::Mask ? slot.surface.alphaCutoff : -1.f);
        p.set("u_blend", slot.surface.alphaMode == AlphaMode::Blend ? 1.f : 0.f);
        p.set("u_unlit", slot.surface.unlit ? 1.f : 0.f);
        m->setFrame(p, slot.frame);
        mesh.draw(specimen.mesh->slots[index].firstIndex, specimen.mesh->slots[index].indexCount);
        return Done{};
    };
    auto light2D = [&](int layer) -> Outcome {
        const Result<GlProgram*> linked = m->program(flatVertexStage(), lightingFragmentStage());
        if (!linked) return linked.error();
        GlProgram& p = **linked;
        glBindFramebuffer(GL_FRAMEBUFFER, targets.pictureBuffer);
        glViewport(0, 0, width, height);
        p.use();
        static constexpr const char* names[] = {"u_base", "u_normal", "u_emissive", "u_point", "u_flags"};
        for (int i = 0; i < GlTargets::kChannels; ++i) {
            glActiveTexture(GLenum(GL_TEXTURE0 + i));
            glBindTexture(GL_TEXTURE_2D, targets.channels[i]);
            p.set(names[i], i);
        }
        glActiveTexture(GL_TEXTURE5);
        glBindTexture(GL_TEXTURE_CUBE_MAP, m->environment(*light));
        p.set("u_environment", 5);
        glActiveTexture(GL_TEXTURE6);
        glBindTexture(GL_TEXTURE_2D, m->splitSumMap());
        p.set("u_splitSum", 6);
        glActiveTexture(GL_TEXTURE7);
        glBindTexture(GL_TEXTURE_2D, m->shadowTexture);
        p.set("u_shadow", 7);
        glUniform3fv(p.uniform("u_harmonics"), 9, prefiltered(*light)->harmonics.data()->data());
        p.set3("u_eye", eye.data());
        p.set3("u_sunDirection", sun.data());
        p.set3("u_sunRadiance", light->sun.radiance.data());
        p.setMatrix("u_toShadow", toShadow.data());
        p.setMatrix("u_fromClip", fromClip.data());
        glUniform2f(p.uniform("u_size"), float(width), float(height));
        p.set("u_exposure", std::exp2(s.exposure));
        p.set("u_levels", float(PrefilteredLight::kLevels - 1));
        p.set("u_view", s.view);
        p.set("u_floorHeight", bounds.low[1]);
        p.set("u_floorRadius", radius);
        p.set3("u_floorCentre", centre.data());
        p.set3("u_surround", s.surround.data());
        p.set("u_layer", layer);
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_CULL_FACE);
        if (layer) {
            glEnable(GL_BLEND);
            glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
        } else {
            glDisable(GL_BLEND);
        }
        glBindVertexArray(m->emptyArray);
        glDrawArrays(GL_TRIANGLES, 0, 3);
        glDisable(GL_BLEND);
        glEnable(GL_DEPTH_TEST);
        return Done{};
    };
    auto beginChannels = [&](GLbitfield clear) {
        glBindFramebuffer(GL_FRAMEBUFFER, targets.channelBuffer);
        glViewport(0, 0, width, height);
        glClearColor(0, 0, 0, 0);
        glClear(clear);
    };
    auto cull = [](GLenum face) {
        if (face == GL_NONE) glDisable(GL_CULL_FACE);
        else glEnable(GL_CULL_FACE), glCullFace(face);
    };

    beginChannels(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    for (size_t i = 0; i < specimen.slots.size(); ++i) {
        const SurfaceSettings& surface = specimen.slots[i].surface;
        if (surface.alphaMode == AlphaMode::Blend) continue;
        cull(surface.doubleSided ? GL_NONE : GL_BACK);
        if (Outcome o = drawSlot(i); !o) return o.error();
    }
    if (Outcome o = light2D(0); !o) return o.error();
    // See-through slots, each as one layer of its back faces and one of its front faces.
    for (size_t i = 0; i < specimen.slots.size(); ++i) {
        const SurfaceSettings& surface = specimen.slots[i].surface;
        if (surface.alphaMode != AlphaMode::Blend) continue;
        for (GLenum hidden : {GL_FRONT, GL_BACK}) {
            if (hidden == GL_FRONT && !surface.doubleSided) continue;
            beginChannels(GL_COLOR_BUFFER_BIT);
            cull(hidden);
            // Back faces must not hide the front ones of the same slot.
            glDepthMask(hidden == GL_BACK ? GL_TRUE : GL_FALSE);
            const Outcome drawn = drawSlot(i);
            glDepthMask(GL_TRUE);
            if (!drawn) return drawn.error();
            if (Outcome o = light2D(1); !o) return o.error();
        }
    }

    GLuint from = targets.pictureBuffer;
    if (s.supersampling > 1) {
        GlTargets& small = m->target(s.width, s.height);
        glBindFramebuffer(GL_READ_FRAMEBUFFER, targets.pictureBuffer);
        glBindFramebuffer(GL_DRAW_FRAMEBUFFER, small.pictureBuffer);
        glBlitFramebuffer(0, 0, width, height, 0, 0, s.width, s.height, GL_COLOR_BUFFER_BIT, GL_LINEAR);
        from = small.pictureBuffer;
    }
    glBindFramebuffer(GL_FRAMEBUFFER, from);
    RenderedPicture out{s.width, s.height, std::vector<uint8_t>(size_t(s.width) * size_t(s.height) * 4)};
    std::vector<uint8_t> rows(out.rgba.size());
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, s.width, s.height, GL_RGBA, GL_UNSIGNED_BYTE, rows.data());
    const size_t stride = size_t(s.width) * 4;
    for (size_t y = 0; y < size_t(s.height); ++y) std::memcpy(&out.rgba[y * stride], &rows[(size_t(s.height) - 1 - y) * stride], stride);
    // What lies under a see-through layer is the ground, so the picture itself is never see-through.
    for (size_t i = 3; i < out.rgba.size(); i += 4) out.rgba[i] = 255;
    m->trimMaps();
    return out;
}

Result<Picture> Renderer::evaluateFlat(const Evaluator& evaluator, const Frame& frame, std::string_view output, int size) {
    const int32_t value = evaluator.program().output(output);
    if (value < 0) return Error{"render.no-output", fmt::format("There is no output {}.", output), {}};
    const int width = evaluator.program().code[size_t(value)].width;
    const Result<GlProgram*> linked = m->program(flatVertexStage(), flatFragmentStage(evaluator.program(), evaluator.layout(), output));
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    GlTargets& targets = m->target(size, size);
    // The first channel target has float precision and is all that is written here.
    glBindFramebuffer(GL_FRAMEBUFFER, targets.channelBuffer);
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
    Picture out{size, size, width, std::vector<float>(size_t(size) * size_t(size) * size_t(width))};
    for (size_t i = 0; i < size_t(size) * size_t(size); ++i)
        for (size_t c = 0; c < size_t(width); ++c) out.values[i * size_t(width) + c] = rgba[i * 4 + c];
    return out;
}

} // namespace hue
