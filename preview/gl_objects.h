#pragma once
// Thin owners of OpenGL names.
#include "core/base/matrix.h"
#include "core/base/result.h"
#include "core/images/map.h"
#include "core/mesh/mesh.h"
#include "core/surface/channel_targets.h"

#include <epoxy/gl.h>
#include <map>
#include <string>
#include <vector>

namespace hue {

/// A linked program and its uniforms by name.
class GlProgram {
  public:
    static Result<std::shared_ptr<GlProgram>> link(const std::string& vertexStage, const std::string& fragmentStage);
    ~GlProgram();
    void use() const { glUseProgram(m_id); }
    GLint uniform(const char* name);
    bool has(const char* name) { return uniform(name) >= 0; }
    void set(const char* name, float x) { glUniform1f(uniform(name), x); }
    void set(const char* name, int x) { glUniform1i(uniform(name), x); }
    void setFlags(const char* name, uint32_t x) { glUniform1ui(uniform(name), x); }
    void set2(const char* name, float x, float y) { glUniform2f(uniform(name), x, y); }
    void set3(const char* name, const float* v) { glUniform3fv(uniform(name), 1, v); }
    void setMatrix(const char* name, const Matrix4& m) { glUniformMatrix4fv(uniform(name), 1, GL_FALSE, glm::value_ptr(m)); }

  private:
    GLuint m_id = 0;
    std::map<std::string, GLint, std::less<>> m_uniforms;
};

class GlMesh {
  public:
    explicit GlMesh(const Mesh& mesh);
    ~GlMesh();
    void draw(uint32_t firstIndex, uint32_t count) const;
    size_t bytes() const { return m_bytes; }

    /// Whether one can be made of the other in place: as many vertices, the same triangles.
    static bool canFollow(const Mesh& before, const Mesh& mesh);
    /// Sends what differs, and says how many bytes that were.
    size_t follow(const Mesh& before, const Mesh& mesh);

  private:
    GLuint m_array = 0, m_vertices = 0, m_indices = 0, m_rest = 0, m_carried = 0;
    size_t m_bytes = 0;                              ///< of all buffers
    bool m_painted = false, m_paintedSecond = false; ///< its colors are its own
};

/// A map with its mips, formats kept small: 8 and 16 bit stay, color is decoded by the sampler.
class GlMap {
  public:
    explicit GlMap(const Map& map);
    ~GlMap();
    void bind(int unit) const;

  private:
    GLuint m_id = 0;
};

/// What a picture is drawn into, all of one size: channels, radiance, and the finished picture.
class GlTargets {
  public:
    GlTargets(int width, int height);
    ~GlTargets();
    GlTargets(const GlTargets&) = delete;

    /// Framebuffers over the channel targets, each with a depth of its own: 0 for what is opaque, 1 and 2 take turns for
    /// the layers of what is not. `full` has all targets, else those of the core.
    GLuint channelBuffer(bool full, int depthIndex) const { return m_channelBuffers[full][depthIndex]; }
    GLuint channel(int index) const { return m_channels[index]; }
    GLuint depth(int index) const { return m_depths[index]; }

    GLuint sceneBuffer = 0, scene = 0;     ///< linear radiance, 16-bit floats; the opaque depth is attached
    GLuint pictureBuffer = 0, picture = 0; ///< 8 bits, as the screen shows it
    /// A copy of the radiance with mips, made when asked for.
    GLuint behind();
    int behindLevels() const;
    /// Half-size targets for glare, with mips.
    GLuint glare(GLuint* buffer);
    int width() const { return m_width; }
    int height() const { return m_height; }

  private:
    int m_width, m_height;
    GLuint m_channels[kAllTargets] = {}, m_depths[3] = {}, m_channelBuffers[2][3] = {};
    GLuint m_behind = 0, m_behindBuffer = 0, m_glare = 0, m_glareBuffer = 0;
};

/// Whether the driver has refused something since the last call. Error: gl.failed, with its code and what was being done.
Outcome heardFromDriver(std::string_view doing);

/// A texture of one level, neither filtered nor repeated.
GLuint plainTexture(GLenum internal, int width, int height);

} // namespace hue
