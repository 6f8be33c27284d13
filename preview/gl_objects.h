#pragma once
// Thin owners of OpenGL names.
#include "core/maps/map.h"
#include "core/mesh/mesh.h"
#include "core/result.h"

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
    void set(const char* name, float x) { glUniform1f(uniform(name), x); }
    void set(const char* name, int x) { glUniform1i(uniform(name), x); }
    void set3(const char* name, const float* v) { glUniform3fv(uniform(name), 1, v); }
    void setMatrix(const char* name, const float* m) { glUniformMatrix4fv(uniform(name), 1, GL_FALSE, m); }

  private:
    GLuint m_id = 0;
    std::map<std::string, GLint, std::less<>> m_uniforms;
};

class GlMesh {
  public:
    explicit GlMesh(const Mesh& mesh);
    ~GlMesh();
    void draw(uint32_t firstIndex, uint32_t count) const;

  private:
    GLuint m_array = 0, m_vertices = 0, m_indices = 0;
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

/// Float targets for the channels and their depth, and the finished picture.
class GlTargets {
  public:
    GlTargets(int width, int height);
    ~GlTargets();
    static constexpr int kChannels = 5;
    GLuint channelBuffer = 0, pictureBuffer = 0, picture = 0, depth = 0;
    GLuint channels[kChannels] = {};
};

} // namespace hue
