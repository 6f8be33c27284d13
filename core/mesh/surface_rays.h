#pragma once
// Where rays meet a mesh, and which of its points lies nearest. By Embree.
// Threads: any number may ask one at the same time.
#include "core/mesh/mesh.h"

#include <optional>

namespace hue {

struct Ray {
    std::array<float, 3> from{};
    std::array<float, 3> towards{0, 0, -1}; ///< of any length above 0
};

/// A point of a mesh's surface, in its own space.
struct MeshPoint {
    uint32_t triangle = 0;         ///< its corners are indices 3 * triangle and on
    std::array<float, 3> weights;  ///< of the corners, their sum 1
    std::array<float, 3> position; ///< metres
    std::array<float, 3> normal;   ///< of the face, unit length, as its winding has it; 0 where it has no area
    float distance = 0;            ///< metres from where was asked
};

class SurfaceRays {
  public:
    /// Triangles without an area, or with corners that are no numbers, are met by nothing.
    explicit SurfaceRays(MeshPtr mesh);
    ~SurfaceRays();
    SurfaceRays(const SurfaceRays&) = delete;
    SurfaceRays& operator=(const SurfaceRays&) = delete;

    const Mesh& mesh() const { return *m_mesh; }
    /// The first point along a ray, seen from either side.
    std::optional<MeshPoint> hit(const Ray& ray) const;
    /// Whether anything lies between `from` and `reach` metres along the direction, which has length 1.
    bool covered(const std::array<float, 3>& from, const std::array<float, 3>& direction, float reach) const;
    /// The point of the surface that lies nearest; with `facing` of length 1 only on faces that look less than 90 degrees away from it.
    /// Nothing where no such face is.
    std::optional<MeshPoint> nearest(const std::array<float, 3>& to, const std::array<float, 3>* facing = nullptr) const;

  private:
    MeshPoint pointOf(uint32_t triangle, float u, float v) const;

    struct Scene;
    MeshPtr m_mesh;
    std::unique_ptr<Scene> m_scene;
};

} // namespace hue
