#include "preview/gl_objects.h"

#include "core/surface/channel_targets.h"

#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace hue {

static Result<GLuint> compileStage(GLenum type, const std::string& text) {
    const GLuint id = glCreateShader(type);
    const char* source = text.c_str();
    glShaderSource(id, 1, &source, nullptr);
    glCompileShader(id);
    GLint ok = 0;
    glGetShaderiv(id, GL_COMPILE_STATUS, &ok);
    if (ok) return id;
    char log[1024] = {};
    glGetShaderInfoLog(id, sizeof log, nullptr, log);
    glDeleteShader(id);
    return Error{"gl.shader", fmt::format("The driver refuses the shader:\n{}", log), {}};
}

Result<std::shared_ptr<GlProgram>> GlProgram::link(const std::string& vertexStage, const std::string& fragmentStage) {
    const Result<GLuint> vertex = compileStage(GL_VERTEX_SHADER, vertexStage);
    if (!vertex) return vertex.error();
    const Result<GLuint> fragment = compileStage(GL_FRAGMENT_SHADER, fragmentStage);
    if (!fragment) {
        glDeleteShader(*vertex);
        return fragment.error();
    }
    auto out = std::make_shared<GlProgram>();
    out->m_id = glCreateProgram();
    glAttachShader(out->m_id, *vertex);
    glAttachShader(out->m_id, *fragment);
    glLinkProgram(out->m_id);
    glDeleteShader(*vertex);
    glDeleteShader(*fragment);
    GLint ok = 0;
    glGetProgramiv(out->m_id, GL_LINK_STATUS, &ok);
    if (ok) return out;
    char log[1024] = {};
    glGetProgramInfoLog(out->m_id, sizeof log, nullptr, log);
    return Error{"gl.shader", fmt::format("The driver cannot link the shader:\n{}", log), {}};
}

GlProgram::~GlProgram() { glDeleteProgram(m_id); }

GLint GlProgram::uniform(const char* name) {
    auto it = m_uniforms.find(name);
    if (it == m_uniforms.end()) it = m_uniforms.emplace(name, glGetUniformLocation(m_id, name)).first;
    return it->second;
}

namespace {

/// Calls `send(first, count)` for each run of elements that differs; runs are of whole blocks, so that calls stay few.
template <class T, class Send> void eachRun(const std::vector<T>& from, const std::vector<T>& to, Send send) {
    constexpr size_t kBlock = 256;
    for (size_t at = 0; at < to.size();) {
        const auto differs = [&](size_t first) {
            const size_t count = std::min(kBlock, to.size() - first);
            return std::memcmp(&from[first], &to[first], count * sizeof(T)) != 0;
        };
        const size_t first = at;
        while (at < to.size() && differs(at)) at += kBlock;
        if (at > first) send(first, std::min(at, to.size()) - first);
        at += kBlock;
    }
}

template <class T> size_t bytesIn(const std::vector<T>& values) { return values.size() * sizeof(T); }

template <class T> size_t sendBetween(GLuint buffer, const std::vector<T>& from, const std::vector<T>& to) {
    size_t out = 0;
    glBindBuffer(GL_ARRAY_BUFFER, buffer);
    eachRun(from, to, [&](size_t first, size_t count) {
        glBufferSubData(GL_ARRAY_BUFFER, GLintptr(first * sizeof(T)), GLsizeiptr(count * sizeof(T)), &to[first]);
        out += count * sizeof(T);
    });
    return out;
}

} // namespace

bool GlMesh::canFollow(const Mesh& before, const Mesh& mesh) {
    return before.vertices.size() == mesh.vertices.size() && before.carried.size() == mesh.carried.size() &&
           before.rest.size() == mesh.rest.size() && before.hasColors == mesh.hasColors && before.hasColors1 == mesh.hasColors1 &&
           before.indices == mesh.indices;
}

size_t GlMesh::follow(const Mesh& before, const Mesh& mesh) {
    size_t sent = sendBetween(m_vertices, before.vertices, mesh.vertices);
    if (m_carried) sent += sendBetween(m_carried, before.carried, mesh.carried);
    if (m_rest) sent += sendBetween(m_rest, before.rest, mesh.rest);
    return sent;
}

GlMesh::GlMesh(const Mesh& mesh) : m_bytes(bytesIn(mesh.vertices) + bytesIn(mesh.carried) + bytesIn(mesh.rest) + bytesIn(mesh.indices)) {
    glGenVertexArrays(1, &m_array);
    glBindVertexArray(m_array);
    glGenBuffers(1, &m_vertices);
    glBindBuffer(GL_ARRAY_BUFFER, m_vertices);
    glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(mesh.vertices.size() * sizeof(Vertex)), mesh.vertices.data(), GL_STATIC_DRAW);
    glGenBuffers(1, &m_indices);
    glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, m_indices);
    glBufferData(GL_ELEMENT_ARRAY_BUFFER, GLsizeiptr(mesh.indices.size() * sizeof(uint32_t)), mesh.indices.data(), GL_STATIC_DRAW);
    auto attribute = [](GLuint index, GLint components, size_t offset, size_t stride = sizeof(Vertex)) {
        glEnableVertexAttribArray(index);
        glVertexAttribPointer(index, components, GL_FLOAT, GL_FALSE, GLsizei(stride), reinterpret_cast<const void*>(offset));
    };
    attribute(0, 3, offsetof(Vertex, position));
    attribute(1, 3, offsetof(Vertex, normal));
    attribute(2, 4, offsetof(Vertex, tangent));
    attribute(3, 2, offsetof(Vertex, uv0));
    attribute(4, 2, offsetof(Vertex, uv1));
    attribute(5, 4, offsetof(Vertex, color));
    m_painted = mesh.hasColors;
    if (m_painted) attribute(12, 4, offsetof(Vertex, color));
    m_paintedSecond = mesh.hasColors1;
    if (m_paintedSecond) attribute(13, 4, offsetof(Vertex, color1));
    if (!mesh.carried.empty()) {
        glGenBuffers(1, &m_carried);
        glBindBuffer(GL_ARRAY_BUFFER, m_carried);
        glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(mesh.carried.size() * sizeof(CarriedValues)), mesh.carried.data(), GL_STATIC_DRAW);
        for (GLuint v = 0; v < 4; ++v) attribute(8 + v, 4, v * 4 * sizeof(float), sizeof(CarriedValues));
        glBindBuffer(GL_ARRAY_BUFFER, m_vertices);
    }
    if (mesh.rest.empty()) {
        attribute(6, 3, offsetof(Vertex, position));
        attribute(7, 3, offsetof(Vertex, normal));
        return;
    }
    glGenBuffers(1, &m_rest);
    glBindBuffer(GL_ARRAY_BUFFER, m_rest);
    glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(mesh.rest.size() * sizeof(RestVertex)), mesh.rest.data(), GL_STATIC_DRAW);
    attribute(6, 3, offsetof(RestVertex, position), sizeof(RestVertex));
    attribute(7, 3, offsetof(RestVertex, normal), sizeof(RestVertex));
}

GlMesh::~GlMesh() {
    glDeleteVertexArrays(1, &m_array);
    glDeleteBuffers(1, &m_vertices);
    glDeleteBuffers(1, &m_indices);
    if (m_rest) glDeleteBuffers(1, &m_rest);
    if (m_carried) glDeleteBuffers(1, &m_carried);
}

void GlMesh::draw(uint32_t firstIndex, uint32_t count) const {
    glBindVertexArray(m_array);
    if (!m_painted) glVertexAttrib4f(12, 0, 0, 0, 0);
    if (!m_paintedSecond) glVertexAttrib4f(13, 0, 0, 0, 0);
    glDrawElements(GL_TRIANGLES, GLsizei(count), GL_UNSIGNED_INT, reinterpret_cast<const void*>(size_t(firstIndex) * sizeof(uint32_t)));
}

GlMap::GlMap(const Map& map) {
    glGenTextures(1, &m_id);
    glBindTexture(GL_TEXTURE_2D, m_id);
    GLenum internal = GL_RGBA32F, type = GL_FLOAT;
    if (map.format() == TexelFormat::U8) internal = map.encoded() ? GL_SRGB8_ALPHA8 : GL_RGBA8, type = GL_UNSIGNED_BYTE;
    else if (map.format() == TexelFormat::U16) internal = GL_RGBA16, type = GL_UNSIGNED_SHORT;
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    for (int l = 0; l < map.levels(); ++l)
        glTexImage2D(GL_TEXTURE_2D, l, GLint(internal), map.level(l).width, map.level(l).height, 0, GL_RGBA, type,
                     map.level(l).texels.data());
    const GLint wrap = map.wrap() == Wrap::Clamp ? GL_CLAMP_TO_EDGE : map.wrap() == Wrap::Mirror ? GL_MIRRORED_REPEAT : GL_REPEAT;
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_S, wrap);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_T, wrap);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAX_LEVEL, map.levels() - 1);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, map.levels() > 1 ? GL_LINEAR_MIPMAP_LINEAR : GL_LINEAR);
}

GlMap::~GlMap() { glDeleteTextures(1, &m_id); }

void GlMap::bind(int unit) const {
    glActiveTexture(GLenum(GL_TEXTURE0 + unit));
    glBindTexture(GL_TEXTURE_2D, m_id);
}

Outcome heardFromDriver(std::string_view doing) {
    const GLenum first = glGetError();
    if (first == GL_NO_ERROR) return Done{};
    // Further ones follow from it.
    for (int i = 0; i < 16 && glGetError() != GL_NO_ERROR; ++i) {}
    return Error{
        "gl.failed",
        fmt::format("The driver refused a step of {} (OpenGL error 0x{:04X}). What it would have drawn is not shown.", doing, first),
        {}};
}

GLuint plainTexture(GLenum internal, int width, int height) {
    GLuint id = 0;
    glGenTextures(1, &id);
    glBindTexture(GL_TEXTURE_2D, id);
    GLenum format = GL_RGBA, type = GL_FLOAT;
    if (internal == GL_DEPTH_COMPONENT32F) format = GL_DEPTH_COMPONENT;
    else if (internal == GL_RGBA32UI) format = GL_RGBA_INTEGER, type = GL_UNSIGNED_INT;
    else if (internal == GL_R32F) format = GL_RED;
    glTexImage2D(GL_TEXTURE_2D, 0, GLint(internal), width, height, 0, format, type, nullptr);
    for (GLenum p : {GL_TEXTURE_MAG_FILTER, GL_TEXTURE_MIN_FILTER}) glTexParameteri(GL_TEXTURE_2D, p, GL_NEAREST);
    for (GLenum p : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T}) glTexParameteri(GL_TEXTURE_2D, p, GL_CLAMP_TO_EDGE);
    return id;
}

static GLuint bufferOf(const GLuint* colors, int count, GLuint depth) {
    GLuint id = 0;
    glGenFramebuffers(1, &id);
    glBindFramebuffer(GL_FRAMEBUFFER, id);
    GLenum buffers[kAllTargets];
    for (int i = 0; i < count; ++i) {
        buffers[i] = GLenum(GL_COLOR_ATTACHMENT0 + i);
        glFramebufferTexture2D(GL_FRAMEBUFFER, buffers[i], GL_TEXTURE_2D, colors[i], 0);
    }
    glDrawBuffers(count, buffers);
    if (depth) glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, depth, 0);
    return id;
}

GlTargets::GlTargets(int width, int height) : m_width(width), m_height(height) {
    for (GLuint& c : m_channels) c = plainTexture(GL_RGBA32UI, width, height);
    for (GLuint& d : m_depths) d = plainTexture(GL_DEPTH_COMPONENT32F, width, height);
    for (int full = 0; full < 2; ++full)
        for (int d = 0; d < 3; ++d) m_channelBuffers[full][d] = bufferOf(m_channels, full ? kAllTargets : kCoreTargets, m_depths[d]);
    scene = plainTexture(GL_RGBA16F, width, height);
    sceneBuffer = bufferOf(&scene, 1, m_depths[0]);
    picture = plainTexture(GL_RGBA8, width, height);
    pictureBuffer = bufferOf(&picture, 1, 0);
}

GlTargets::~GlTargets() {
    for (auto& buffers : m_channelBuffers) glDeleteFramebuffers(3, buffers);
    for (GLuint buffer : {sceneBuffer, pictureBuffer, m_behindBuffer, m_glareBuffer}) glDeleteFramebuffers(1, &buffer);
    glDeleteTextures(GLsizei(std::size(m_channels)), m_channels);
    glDeleteTextures(3, m_depths);
    for (GLuint texture : {scene, picture, m_behind, m_glare}) glDeleteTextures(1, &texture);
}

static int levelsFor(int width, int height) { return std::max(1, int(std::log2(float(std::max(width, height)))) - 1); }

static GLuint mipTarget(int width, int height, GLuint* buffer) {
    const GLuint id = plainTexture(GL_RGBA16F, width, height);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAX_LEVEL, levelsFor(width, height));
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_LINEAR);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    *buffer = bufferOf(&id, 1, 0);
    return id;
}

int GlTargets::behindLevels() const { return levelsFor(m_width, m_height); }

GLuint GlTargets::behind() {
    if (!m_behind) m_behind = mipTarget(m_width, m_height, &m_behindBuffer);
    const GLboolean part = glIsEnabled(GL_SCISSOR_TEST);
    glDisable(GL_SCISSOR_TEST);
    glBindFramebuffer(GL_READ_FRAMEBUFFER, sceneBuffer);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, m_behindBuffer);
    glBlitFramebuffer(0, 0, m_width, m_height, 0, 0, m_width, m_height, GL_COLOR_BUFFER_BIT, GL_NEAREST);
    glBindTexture(GL_TEXTURE_2D, m_behind);
    glGenerateMipmap(GL_TEXTURE_2D);
    if (part) glEnable(GL_SCISSOR_TEST);
    return m_behind;
}

GLuint GlTargets::glare(GLuint* buffer) {
    if (!m_glare) m_glare = mipTarget(std::max(1, m_width / 2), std::max(1, m_height / 2), &m_glareBuffer);
    *buffer = m_glareBuffer;
    return m_glare;
}

} // namespace hue
