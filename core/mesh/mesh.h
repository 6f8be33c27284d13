#pragma once
// Triangle meshes. Right-handed, Y up, metres; UV with V downward, as glTF has it.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/base/result.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace hue {

struct Vertex {
    std::array<float, 3> position{};
    std::array<float, 3> normal{0, 1, 0};
    std::array<float, 4> tangent{1, 0, 0, 1}; ///< w: sign of the bitangent, cross(normal, tangent) * w
    std::array<float, 2> uv0{};
    std::array<float, 2> uv1{};
    std::array<float, 4> color{1, 1, 1, 1};
    std::array<float, 4> color1{}; ///< a second set, as what is painted has it; 0 where there is none
};

/// A part of a mesh that one material goes on.
struct MeshSlot {
    std::string name;
    uint32_t firstIndex = 0, indexCount = 0;
};

/// Where a vertex was before something moved it, in object space.
struct RestVertex {
    std::array<float, 3> position{}, normal{0, 1, 0};
};

/// What else a vertex has for a material that computes it there: vectors of four, as vertex_split.h counts them.
using CarriedValues = std::array<float, 16>;

struct Mesh {
    std::vector<Vertex> vertices;
    std::vector<CarriedValues> carried; ///< of each vertex; empty where no material wants any
    std::vector<RestVertex> rest;       ///< of each vertex, for what sticks to the object; empty where nothing moved them
    std::vector<uint32_t> indices;      ///< three a triangle, counter-clockwise seen from outside
    std::vector<MeshSlot> slots;        ///< at least one, covering all indices
    bool hasColors = false, hasColors1 = false, hasUv1 = false;
};
using MeshPtr = std::shared_ptr<const Mesh>;

struct Bounds {
    std::array<float, 3> low{}, high{};
    std::array<float, 3> centre() const { return {(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2}; }
    float radius() const; ///< of the sphere around the box
};
Bounds boundsOf(const Mesh& mesh);

// Plain shapes, about 2 m across, centred, with tangents. `detail` scales the number of segments.
Mesh makeSphere(int detail = 64);
Mesh makePlane(int detail = 32); ///< in XZ, looking up
Mesh makeCube(int detail = 16);
Mesh makeCylinder(int detail = 64);
Mesh makeTorus(int detail = 64);
Mesh makeSheet(int detail = 96); ///< a square cloth that hangs in folds over a round table

/// One of shapes(), with "/1" to "/5" for its density (3 when nothing is said); null for anything else.
MeshPtr shapeById(const std::string& id);
const std::vector<std::pair<std::string, std::string>>& shapes(); ///< id and name

/// Tangents from UV0 as MikkTSpace defines them; any direction in the surface where triangles have no area in UV.
/// Splits vertices whose corners disagree.
void makeTangents(Mesh& mesh);
/// Area-weighted normals.
void makeNormals(Mesh& mesh);

/// Makes four triangles of one, `times` times over; attributes are interpolated. Errors: mesh.too-many, above 8 million
/// triangles.
Result<Mesh> subdivided(const Mesh& mesh, int times);

/// How large the UVs lie on the mesh: UV units per metre, over the area; 0 where there are no UVs.
struct UvDensity {
    float lowest = 0, median = 0, highest = 0; ///< the 5th, 50th and 95th part of a hundred
};
UvDensity uvDensity(const Mesh& mesh, int set);

/// Reads glTF or GLB: all static meshes of the scene with their transforms, a slot for each material.
/// Errors: mesh.missing, mesh.unreadable, mesh.empty.
Result<Mesh> readMesh(const std::filesystem::path& file);
/// Writes a GLB with the mesh alone: slots as materials, vertex colors and second UVs where the mesh has them.
Outcome writeMesh(const std::filesystem::path& file, const Mesh& mesh);

} // namespace hue
