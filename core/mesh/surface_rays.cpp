#include "core/mesh/surface_rays.h"

#include "core/base/vectors.h"

#include <cmath>
#include <embree3/rtcore.h>
#include <limits>

namespace hue {

/// A device of its own, so that nothing is shared between meshes and nothing outlives one.
struct SurfaceRays::Scene {
    RTCDevice device;
    RTCScene scene;
    explicit Scene(const Mesh& mesh) : device(rtcNewDevice("threads=1,set_affinity=0")), scene(rtcNewScene(device)) {
        // Rays that graze an edge between two triangles meet one of them.
        rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
        RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
        auto* places = static_cast<float*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                                                   3 * sizeof(float), std::max<size_t>(1, mesh.vertices.size())));
        for (size_t v = 0; v < mesh.vertices.size(); ++v)
            for (size_t c = 0; c < 3; ++c) places[3 * v + c] = mesh.vertices[v].position[c];
        auto* corners = static_cast<uint32_t*>(
            rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(uint32_t), mesh.indices.size() / 3));
        std::copy_n(mesh.indices.begin(), mesh.indices.size() / 3 * 3, corners);
        rtcCommitGeometry(geometry);
        rtcAttachGeometry(scene, geometry);
        rtcReleaseGeometry(geometry);
        rtcCommitScene(scene);
    }
    ~Scene() {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
};

SurfaceRays::SurfaceRays(MeshPtr mesh) : m_mesh(std::move(mesh)), m_scene(std::make_unique<Scene>(*m_mesh)) {}
SurfaceRays::~SurfaceRays() = default;

MeshPoint SurfaceRays::pointOf(uint32_t triangle, float u, float v) const {
    Rgb corner[3];
    for (size_t k = 0; k < 3; ++k) corner[k] = m_mesh->vertices[m_mesh->indices[3 * size_t(triangle) + k]].position;
    MeshPoint out;
    out.triangle = triangle;
    out.weights = {1 - u - v, u, v};
    out.position = sum(sum(scaled(corner[0], out.weights[0]), scaled(corner[1], u)), scaled(corner[2], v));
    out.normal = directionOf(cross(difference(corner[1], corner[0]), difference(corner[2], corner[0]))).value_or(Rgb{});
    return out;
}

std::optional<MeshPoint> SurfaceRays::hit(const Ray& ray) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit h{};
    h.ray.org_x = ray.from[0], h.ray.org_y = ray.from[1], h.ray.org_z = ray.from[2];
    h.ray.dir_x = ray.towards[0], h.ray.dir_y = ray.towards[1], h.ray.dir_z = ray.towards[2];
    h.ray.tfar = std::numeric_limits<float>::infinity();
    h.ray.mask = ~0u;
    h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(m_scene->scene, &context, &h);
    if (h.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    MeshPoint out = pointOf(h.hit.primID, h.hit.u, h.hit.v);
    out.distance = h.ray.tfar * lengthOf(ray.towards);
    return out;
}

bool SurfaceRays::covered(const Rgb& from, const Rgb& direction, float reach) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay r{};
    r.org_x = from[0], r.org_y = from[1], r.org_z = from[2];
    r.dir_x = direction[0], r.dir_y = direction[1], r.dir_z = direction[2];
    r.tfar = reach;
    r.mask = ~0u;
    rtcOccluded1(m_scene->scene, &context, &r);
    return r.tfar < 0; // as Embree marks it
}

namespace {

/// Weights of the corners of the point of a triangle that lies nearest to `p`: Ericson, "Real-Time Collision Detection", 2005, 5.1.5.
std::array<float, 2> nearestWeights(const glm::vec3& p, const glm::vec3& a, const glm::vec3& b, const glm::vec3& c) {
    const glm::vec3 ab = b - a, ac = c - a, ap = p - a;
    const float d1 = glm::dot(ab, ap), d2 = glm::dot(ac, ap);
    if (d1 <= 0 && d2 <= 0) return {0, 0};
    const glm::vec3 bp = p - b;
    const float d3 = glm::dot(ab, bp), d4 = glm::dot(ac, bp);
    if (d3 >= 0 && d4 <= d3) return {1, 0};
    const float vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return {d1 / (d1 - d3), 0};
    const glm::vec3 cp = p - c;
    const float d5 = glm::dot(ab, cp), d6 = glm::dot(ac, cp);
    if (d6 >= 0 && d5 <= d6) return {0, 1};
    const float vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return {0, d2 / (d2 - d6)};
    const float va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const float w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return {1 - w, w};
    }
    const float whole = va + vb + vc;
    return {vb / whole, vc / whole};
}

struct NearestSearch {
    const Mesh* mesh;
    glm::vec3 to;
    const Rgb* facing;
    bool found = false;
    uint32_t triangle = 0;
    std::array<float, 2> weights{};
    float distance = std::numeric_limits<float>::infinity();
};

bool considerTriangle(RTCPointQueryFunctionArguments* asked) {
    auto& search = *static_cast<NearestSearch*>(asked->userPtr);
    glm::vec3 corner[3];
    for (size_t k = 0; k < 3; ++k)
        corner[k] = vectorOf(search.mesh->vertices[search.mesh->indices[3 * size_t(asked->primID) + k]].position);
    const glm::vec3 across = glm::cross(corner[1] - corner[0], corner[2] - corner[0]);
    const float area = glm::length(across);
    if (!(area > 0)) return false;
    if (search.facing && glm::dot(across, vectorOf(*search.facing)) <= 0) return false;
    const auto [u, v] = nearestWeights(search.to, corner[0], corner[1], corner[2]);
    const float distance = glm::distance(search.to, corner[0] * (1 - u - v) + corner[1] * u + corner[2] * v);
    if (!(distance < search.distance)) return false;
    search.found = true, search.triangle = asked->primID, search.weights = {u, v}, search.distance = distance;
    asked->query->radius = distance;
    return true; // the radius has changed
}

} // namespace

std::optional<MeshPoint> SurfaceRays::nearest(const Rgb& to, const Rgb* facing) const {
    RTCPointQueryContext context;
    rtcInitPointQueryContext(&context);
    RTCPointQuery query{};
    query.x = to[0], query.y = to[1], query.z = to[2];
    query.radius = std::numeric_limits<float>::infinity();
    NearestSearch search{m_mesh.get(), vectorOf(to), facing};
    rtcPointQuery(m_scene->scene, &query, &context, considerTriangle, &search);
    if (!search.found) return {};
    MeshPoint out = pointOf(search.triangle, search.weights[0], search.weights[1]);
    out.distance = search.distance;
    return out;
}

} // namespace hue
