// What stands around the surface: light, shadow, things, and the objects on the graphics card.
#include "core/emit/driver_log.h"
#include "core/emit/emit_glsl.h"
#include "core/mesh/things.h"
#include "core/surface/surface_glsl.h"
#include "core/surface/surface_stages.h"
#include "preview/renderer_parts.h"

#include <fmt/format.h>

namespace hue {

Result<GlProgram*> Renderer::Impl::program(const std::string& vertexStage, const std::string& fragmentStage) {
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

namespace {

/// A stage that the driver refused, in one sentence, with the card that it is about.
Error refused(const Look& look, const std::string& stage, const std::string& log) {
    const DriverComplaint its = complaintOf(look.evaluator->program(), stage, log);
    Error out{"gl.shader", its.line ? fmt::format("The driver refuses line {} of the surface: {}", its.line, its.says) : its.says, {}};
    out.place.node = its.card;
    return out;
}

} // namespace

Result<GlProgram*> Renderer::Impl::surfaceProgram(const LookPtr& look, bool full) {
    const std::string& stage = look->stage[full];
    const bool carries = look->vertices != nullptr;
    if (!builds) {
        const Result<GlProgram*> linked = program(vertexStage(carries), stage);
        return linked ? linked : refused(*look, stage, linked.error().sentence);
    }
    if (auto it = programs.find(stage); it != programs.end()) return it->second.get();
    std::shared_ptr<GlProgram> linked;
    std::string problem;
    switch (builds->want(vertexStage(carries), stage, full, &linked, &problem)) {
    case BuildService::State::Ready: return (programs[stage] = linked).get();
    case BuildService::State::Failed: return refused(*look, stage, problem);
    default: return static_cast<GlProgram*>(nullptr);
    }
}

const GlMesh& Renderer::Impl::mesh(const MeshPtr& m, const std::string& lineage) {
    MeshPtr* last = lineage.empty() ? nullptr : &lastOf[lineage];
    const MeshPtr before = last ? std::exchange(*last, m) : nullptr;
    if (const auto it = meshes.find(m); it != meshes.end()) return *it->second;
    if (const auto it = meshes.find(before); it != meshes.end() && GlMesh::canFollow(*before, *m)) {
        auto entry = meshes.extract(it);
        meshBytes += entry.mapped()->follow(*before, *m);
        entry.key() = m;
        return *meshes.insert(std::move(entry)).position->second;
    }
    GlMesh& made = *(meshes[m] = std::make_unique<GlMesh>(*m));
    meshBytes += made.bytes();
    return made;
}

void Renderer::Impl::bindMap(const MapPtr& m, int unit) {
    auto& entry = maps[m];
    // Making a map binds it as well, so its unit comes first.
    glActiveTexture(GLenum(GL_TEXTURE0 + unit));
    if (!entry) entry = std::make_unique<GlMap>(*m);
    entry->bind(unit);
}

GlTargets& Renderer::Impl::target(int width, int height) {
    auto& entry = targets[{width, height}];
    if (!entry) entry = std::make_unique<GlTargets>(width, height);
    return *entry;
}

GLuint Renderer::Impl::environment(const ReadyLight& light) {
    if (environments.size() > 16) {
        for (auto& [key, old] : environments) glDeleteTextures(1, &old);
        environments.clear();
    }
    GLuint& id = environments[light.key];
    if (id) return id;
    glGenTextures(1, &id);
    glBindTexture(GL_TEXTURE_CUBE_MAP, id);
    for (int l = 0; l < PrefilteredLight::kLevels; ++l) {
        const int size = PrefilteredLight::kSize >> l;
        for (int f = 0; f < 6; ++f)
            glTexImage2D(GLenum(GL_TEXTURE_CUBE_MAP_POSITIVE_X + f), l, GL_RGB16F, size, size, 0, GL_RGB, GL_FLOAT,
                         &light.filtered->faces[size_t(l)][size_t(f * size * size) * 3]);
    }
    glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MAX_LEVEL, PrefilteredLight::kLevels - 1);
    glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
    glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    return id;
}

GLuint Renderer::Impl::splitSumMap() {
    if (splitSumTexture) return splitSumTexture;
    glGenTextures(1, &splitSumTexture);
    glBindTexture(GL_TEXTURE_2D, splitSumTexture);
    glTexImage2D(GL_TEXTURE_2D, 0, GL_RGBA32F, kSplitSumSize, kSplitSumSize, 0, GL_RGBA, GL_FLOAT, splitSumTable().data());
    for (GLenum p : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T}) glTexParameteri(GL_TEXTURE_2D, p, GL_CLAMP_TO_EDGE);
    for (GLenum p : {GL_TEXTURE_MIN_FILTER, GL_TEXTURE_MAG_FILTER}) glTexParameteri(GL_TEXTURE_2D, p, GL_LINEAR);
    return splitSumTexture;
}

void Renderer::Impl::setFrame(GlProgram& p, const Frame& frame) {
    if (!frame.uniforms.empty()) glUniform4fv(p.uniform("u_values"), GLsizei(frame.uniforms.size()), frame.uniforms.data()->data());
    p.set("u_time", float(frame.time));
    for (size_t s = 0; s < frame.maps.size(); ++s) {
        bindMap(frame.maps[s], int(s));
        p.set(fmt::format("u_map{}", s).c_str(), int(s));
    }
    // Without a scene, until told otherwise. Samplers of the scene stand apart from the maps' even then: two kinds of sampler on one unit
    // make a draw fail.
    if (p.has("u_behindMapLevels")) p.set("u_behindMapLevels", -1.f);
    if (p.has("u_aroundLevels")) p.set("u_aroundLevels", -1.f);
    if (p.has("u_sceneDepth")) p.set("u_sceneDepth", 12);
    if (p.has("u_behindMap")) p.set("u_behindMap", 13);
    if (p.has("u_aroundMap")) p.set("u_aroundMap", 14);
}

void Renderer::Impl::trim() {
    // Displaced meshes are new in every frame, and maps go with their project; once nobody else holds them they are of no use.
    std::erase_if(meshes, [this](const auto& entry) {
        // Those of lastOf are named there once more.
        const auto named = std::count_if(lastOf.begin(), lastOf.end(), [&](const auto& last) { return last.second == entry.first; });
        return entry.first.use_count() <= 1 + named;
    });
    std::erase_if(lastOf, [this](const auto& entry) { return !meshes.contains(entry.second); });
    std::erase_if(maps, [](const auto& entry) { return entry.first.use_count() <= 1; });
    if (programs.size() > 160) programs.clear();
}

void Renderer::Impl::fullScreen() {
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    glBindVertexArray(emptyArray);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glEnable(GL_DEPTH_TEST);
}

Outcome Renderer::Impl::drawShadow(const DressedSpecimen& specimen, const View& view) {
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
    Surrounded now{specimen.mesh, specimen.things, view.sun.direction, {}, {}, 0};
    for (size_t i = 0; i < specimen.slots.size(); ++i)
        if (specimen.castsShadow && !specimen.slots[i].seeThrough()) now.casting |= 1u << (i & 31);
    if (shadowOf == now) return Done{};
    const Result<GlProgram*> p = program("#version 410 core\nlayout(location = 0) in vec3 a_position;\nuniform mat4 u_world, u_clip;\nvoid "
                                         "main() { gl_Position = u_clip * (u_world * vec4(a_position, 1.0)); }\n",
                                         "#version 410 core\n// depth only\nvoid main() {}\n");
    if (!p) return p.error();
    glBindFramebuffer(GL_FRAMEBUFFER, shadowBuffer);
    glViewport(0, 0, kShadowSize, kShadowSize);
    glDepthMask(GL_TRUE);
    glDepthFunc(GL_LESS);
    glClearDepth(1);
    glClear(GL_DEPTH_BUFFER_BIT);
    (*p)->use();
    (*p)->setMatrix("u_clip", view.toShadow);
    glDisable(GL_CULL_FACE);
    glEnable(GL_POLYGON_OFFSET_FILL);
    glPolygonOffset(2, 4);
    (*p)->setMatrix("u_world", Matrix4(1));
    // What lets light through casts none: a shadow as from stone would be the greater lie.
    if (specimen.castsShadow)
        for (size_t i = 0; i < specimen.slots.size(); ++i)
            if (!specimen.slots[i].seeThrough())
                mesh(specimen.mesh, specimen.lineage).draw(specimen.mesh->slots[i].firstIndex, specimen.mesh->slots[i].indexCount);
    for (const Thing& t : specimen.things) {
        const MeshPtr thing = thingMesh(t.kind);
        if (!thing || !t.castsShadow) continue;
        (*p)->setMatrix("u_world", placed(t.position, t.size));
        mesh(thing).draw(0, uint32_t(thing->indices.size()));
    }
    glDisable(GL_POLYGON_OFFSET_FILL);
    shadowOf = std::move(now);
    return Done{};
}

void Renderer::Impl::setScene(GlProgram& p, const View& v, const RenderSettings&) {
    glActiveTexture(GL_TEXTURE8);
    glBindTexture(GL_TEXTURE_CUBE_MAP, environment(v.light));
    p.set("u_environment", 8);
    glActiveTexture(GL_TEXTURE9);
    glBindTexture(GL_TEXTURE_2D, splitSumMap());
    p.set("u_splitSum", 9);
    glActiveTexture(GL_TEXTURE10);
    glBindTexture(GL_TEXTURE_2D, shadowTexture);
    p.set("u_shadow", 10);
    glUniform3fv(p.uniform("u_harmonics"), 9, v.light.filtered->harmonics.data()->data());
    p.set2("u_rotation", v.turn[0], v.turn[1]);
    p.set3("u_eye", v.eye.data());
    p.set3("u_sunDirection", v.sun.direction.data());
    p.set3("u_sunRadiance", v.sun.radiance.data());
    p.setMatrix("u_toShadow", v.toShadow);
    p.setMatrix("u_fromClip", v.fromClip);
    p.setMatrix("u_toClip", v.clip);
    p.set2("u_size", float(v.width), float(v.height));
    p.set("u_levels", float(PrefilteredLight::kLevels - 1));
    p.set("u_sunSoft", kSunSoft);
    p.set("u_floorHeight", v.floor);
    p.set("u_floorRadius", v.radius);
    p.set3("u_floorCentre", v.centre.data());
}

// A thing's vertex color is its base color, alpha its radiance; UV1 holds metallic and roughness.
std::string thingsFragmentStage(ThingsTo to) {
    if (to != ThingsTo::Radiance)
        return "#version 410 core\n" + channelTargetsGlsl(to == ThingsTo::AllChannels, true) + R"(
in vec3 v_positionWorld, v_normalWorld;
in vec2 v_uv1;
in vec4 v_color;
void main() {
  hs_Surface s = hs_plain();
  s.base_color = v_color.rgb;
  s.metallic = v_uv1.x; s.roughness = v_uv1.y;
  s.normal = normalize(v_normalWorld); s.emissive = v_color.rgb * v_color.a;
  s.position = v_positionWorld; s.flags = kCovered | kFrontFace | (255u << 8);
  hs_write(s);
}
)";
    return R"(#version 410 core
in vec3 v_positionWorld, v_normalWorld;
in vec4 v_color;
uniform samplerCube u_environment;
uniform vec3 u_harmonics[9];
uniform vec2 u_rotation;
uniform vec3 u_sunDirection, u_sunRadiance;
layout(location = 0) out vec4 o_color;
void main() {
  vec3 n = normalize(v_normalWorld), d = vec3(u_rotation.x * n.x + u_rotation.y * n.z, n.y, u_rotation.x * n.z - u_rotation.y * n.x);
  vec3 light = max(u_harmonics[0] * 0.282095 + (u_harmonics[1] * d.y + u_harmonics[2] * d.z + u_harmonics[3] * d.x) * 0.488603, 0.0);
  o_color = vec4(v_color.rgb * (light + u_sunRadiance * max(dot(n, u_sunDirection), 0.0) / 3.14159265 + v_color.a), 1.0);
}
)";
}

Outcome Renderer::Impl::drawThings(const DressedSpecimen& specimen, const View& view, const Matrix4& clip, const Rgb& eye, ThingsTo to,
                                   const RenderSettings& settings) {
    if (specimen.things.empty()) return Done{};
    const Result<GlProgram*> linked = program(vertexStage(), thingsFragmentStage(to));
    if (!linked) return linked.error();
    GlProgram& p = **linked;
    p.use();
    p.setMatrix("u_clip", clip);
    const float normals[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
    glUniformMatrix3fv(p.uniform("u_worldNormal"), 1, GL_FALSE, normals);
    if (to == ThingsTo::Radiance) setScene(p, view, settings);
    p.set3("u_eye", eye.data());
    glDisable(GL_CULL_FACE);
    for (const Thing& t : specimen.things) {
        const MeshPtr thing = thingMesh(t.kind);
        if (!thing) continue;
        p.setMatrix("u_world", placed(t.position, t.size));
        mesh(thing).draw(0, uint32_t(thing->indices.size()));
    }
    return Done{};
}

Result<bool> Renderer::Impl::captureLocal(const DressedSpecimen& specimen, const View& view, const RenderSettings& settings) {
    if (specimen.things.empty()) return false;
    const Surrounded now{specimen.mesh, specimen.things, view.sun.direction, view.sun.radiance, view.light.key, 0};
    if (localOf == now) return true;
    constexpr int size = 64;
    if (!localTexture) {
        glGenTextures(1, &localTexture);
        glBindTexture(GL_TEXTURE_CUBE_MAP, localTexture);
        for (int f = 0; f < 6; ++f)
            glTexImage2D(GLenum(GL_TEXTURE_CUBE_MAP_POSITIVE_X + f), 0, GL_RGBA16F, size, size, 0, GL_RGBA, GL_FLOAT, nullptr);
        glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
        glTexParameteri(GL_TEXTURE_CUBE_MAP, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
        glGenRenderbuffers(1, &localDepth);
        glBindRenderbuffer(GL_RENDERBUFFER, localDepth);
        glRenderbufferStorage(GL_RENDERBUFFER, GL_DEPTH_COMPONENT24, size, size);
        glGenFramebuffers(1, &localBuffer);
    }
    glBindFramebuffer(GL_FRAMEBUFFER, localBuffer);
    glFramebufferRenderbuffer(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_RENDERBUFFER, localDepth);
    glViewport(0, 0, size, size);
    glEnable(GL_DEPTH_TEST);
    glDepthFunc(GL_LESS);
    glDepthMask(GL_TRUE);
    glClearDepth(1);
    // Cube map faces as OpenGL wants them: the image's rows run against Y.
    static constexpr float ahead[6][3] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    static constexpr float above[6][3] = {{0, -1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}, {0, -1, 0}, {0, -1, 0}};
    for (int f = 0; f < 6; ++f) {
        glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GLenum(GL_TEXTURE_CUBE_MAP_POSITIVE_X + f), localTexture, 0);
        glClearColor(0, 0, 0, 0);
        glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
        const glm::vec3 from = vectorOf(view.centre);
        const Matrix4 look = glm::lookAt(from, from + glm::make_vec3(ahead[f]), glm::make_vec3(above[f]));
        const Matrix4 clip = perspective(1, 1, view.radius * 0.05f, view.far * 2) * look;
        if (Outcome o = drawThings(specimen, view, clip, view.centre, ThingsTo::Radiance, settings); !o) return o.error();
    }
    glBindTexture(GL_TEXTURE_CUBE_MAP, localTexture);
    glGenerateMipmap(GL_TEXTURE_CUBE_MAP);
    localOf = now;
    return true;
}

} // namespace hue
