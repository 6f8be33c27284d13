#include "preview/gl_objects.h"

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
    return Error{"gl.shader", fmt::format("The driver refuses the shader: {}", log), {}};
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
    return Error{"gl.shader", fmt::format("The driver cannot link the shader: {}", log), {}};
}

GlProgram::~GlProgram() { glDeleteProgram(m_id); }

GLint GlProgram::uniform(const char* name) {
    auto it = m_uniforms.find(name);
    if (it == m_uniforms.end()) it = m_uniforms.emplace(name, glGetUniformLocation(m_id, name)).first;
    return it->second;
}

GlMesh::GlMesh(const Mesh& mesh) {
    glGenVertexArrays(1, &m_array);
    glBindVertexArray(m_array);
    glGenBuffers(1, &m_vertices);
    glBindBuffer(GL_ARRAY_BUFFER, m_vertices);
    glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(mesh.vertices.size() * sizeof(Vertex)), mesh.vertices.data(), GL_STATIC_DRAW);
    glGenBuffers(1, &m_indices);
    glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, m_indices);
    glBufferData(GL_ELEMENT_ARRAY_BUFFER, GLsizeiptr(mesh.indices.size() * sizeof(uint32_t)), mesh.indices.data(), GL_STATIC_DRAW);
    auto attribute = [](GLuint index, GLint components, size_t offset) {
        glEnableVertexAttribArray(index);
        glVertexAttribPointer(index, components, GL_FLOAT, GL_FALSE, sizeof(Vertex), reinterpret_cast<const void*>(offset));
    };
    attribute(0, 3, offsetof(Vertex, position));
    attribute(1, 3, offsetof(Vertex, normal));
    attribute(2, 4, offsetof(Vertex, tangent));
    attribute(3, 2, offsetof(Vertex, uv0));
    attribute(4, 2, offsetof(Vertex, uv1));
    attribute(5, 4, offsetof(Vertex, color));
}

GlMesh::~GlMesh() {
    glDeleteVertexArrays(1, &m_array);
    glDeleteBuffers(1, &m_vertices);
    glDeleteBuffers(1, &m_indices);
}

void GlMesh::draw(uint32_t firstIndex, uint32_t count) const {
    glBindVertexArray(m_array);
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

static GLuint target(GLenum internal, int width, int height) {
    GLuint id = 0;
    glGenTextures(1, &id);
    glBindTexture(GL_TEXTURE_2D, id);
    const bool depth = internal == GL_DEPTH_COMPONENT24;
    glTexImage2D(GL_TEXTURE_2D, 0, GLint(internal), width, height, 0, depth ? GL_DEPTH_COMPONENT : GL_RGBA,
                 depth ? GL_UNSIGNED_INT : GL_FLOAT, nullptr);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
    return id;
}

GlTargets::GlTargets(int width, int height) {
    glGenFramebuffers(1, &channelBuffer);
    glBindFramebuffer(GL_FRAMEBUFFER, channelBuffer);
    GLenum buffers[kChannels];
    for (int i = 0; i < kChannels; ++i) {
        // The last one holds flags; the others must show values outside of 0..1, NaN and infinity as they are.
        channels[i] = target(i + 1 < kChannels ? GL_RGBA32F : GL_RGBA8, width, height);
        buffers[i] = GLenum(GL_COLOR_ATTACHMENT0 + i);
        glFramebufferTexture2D(GL_FRAMEBUFFER, buffers[i], GL_TEXTURE_2D, channels[i], 0);
    }
    glDrawBuffers(kChannels, buffers);
    depth = target(GL_DEPTH_COMPONENT24, width, height);
    glFramebufferTexture2D(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, depth, 0);
    glGenFramebuffers(1, &pictureBuffer);
    glBindFramebuffer(GL_FRAMEBUFFER, pictureBuffer);
    picture = target(GL_RGBA8, width, height);
    glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, picture, 0);
}

GlTargets::~GlTargets() {
    glDeleteFramebuffers(1, &channelBuffer);
    glDeleteFramebuffers(1, &pictureBuffer);
    glDeleteTextures(kChannels, channels);
    glDeleteTextures(1, &depth);
    glDeleteTextures(1, &picture);
}

} // namespace hue
