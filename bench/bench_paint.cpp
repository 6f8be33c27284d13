// The brush on a mesh of a million vertices, rays to it, occlusion beside bare Embree in the same run, and what a step of paint costs on
// the way into a picture.
#include "bench/hills.h"
#include "bench/timing.h"
#include "core/base/vectors.h"
#include "core/mesh/surface_rays.h"
#include "core/paint/brush.h"
#include "core/paint/carry_over.h"
#include "core/paint/occlusion.h"
#include "core/picture/looks.h"

#include <algorithm>
#include <cmath>
#include <embree3/rtcore.h>
#include <fmt/format.h>
#include <random>
#include <tbb/global_control.h>

namespace {

using namespace hue;

/// Rays a second from each vertex, without anything of ours around them: the same directions, the same reach.
double bareEmbree(const Mesh& mesh, float reach, double& rays) {
    RTCDevice device = rtcNewDevice("threads=1,set_affinity=0");
    RTCScene scene = rtcNewScene(device);
    rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
    RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* places =
        static_cast<float*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, mesh.vertices.size()));
    for (size_t v = 0; v < mesh.vertices.size(); ++v) std::copy_n(mesh.vertices[v].position.begin(), 3, places + 3 * v);
    auto* corners =
        static_cast<uint32_t*>(rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, mesh.indices.size() / 3));
    std::copy(mesh.indices.begin(), mesh.indices.end(), corners);
    rtcCommitGeometry(geometry);
    rtcAttachGeometry(scene, geometry);
    rtcReleaseGeometry(geometry);
    rtcCommitScene(scene);
    // The directions of occlusionAt(), about Y.
    std::array<Rgb, 256> directions;
    for (uint32_t k = 0; k < directions.size(); ++k) {
        uint32_t bits = k, turned = 0;
        for (int i = 0; i < 32; ++i, bits >>= 1) turned = turned << 1 | (bits & 1);
        const float square = (float(k) + 0.5f) / 256, radius = std::sqrt(square), angle = 6.2831853f * float(turned) / 4294967296.f;
        directions[k] = {radius * std::cos(angle), std::sqrt(1 - square), radius * std::sin(angle)};
    }
    const double start = now();
    size_t covered = 0;
    for (const Vertex& v : mesh.vertices)
        for (const Rgb& d : directions) {
            RTCIntersectContext context;
            rtcInitIntersectContext(&context);
            RTCRay r{};
            r.org_x = v.position[0], r.org_y = v.position[1] + 1e-4f, r.org_z = v.position[2];
            r.dir_x = d[0], r.dir_y = d[1], r.dir_z = d[2];
            r.tfar = reach, r.mask = ~0u;
            rtcOccluded1(scene, &context, &r);
            covered += r.tfar < 0;
        }
    const double seconds = now() - start;
    rays = double(mesh.vertices.size()) * 256;
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
    return covered ? seconds : seconds + 1e-12;
}

} // namespace

int main() {
    const MeshPtr million = hills(1000);
    double start = now();
    const PaintSurface surface(million);
    fmt::print("{} vertices; made ready for painting in {:.2f} s\n", million->vertices.size(), now() - start);
    const PaintData bare(million);
    std::mt19937 random(1);
    std::uniform_real_distribution<float> at(-0.8f, 0.8f);

    int met = 0;
    tell("ray to surface", times(2000, [&](int) {
             const Ray ray{{at(random), 3, at(random)}, {0.1f, -1, 0.05f}};
             met += surface.rays().hit(ray).has_value();
         }));
    fmt::print("{} of 2000 rays met it\n", met);
    Brush brush;
    brush.radius = std::sqrt(0.05f * 4 / 3.14159f); // a twentieth of the square
    {
        const auto hit = surface.rays().hit({{0, 3, 0}, {0, -1, 0}});
        fmt::print("a touch reaches {} vertices\n", surface.reached(*hit, {0, 1, 0}, brush, bare));
    }
    // From the event to changed data: the ray, the touch, and what has changed. A new stroke each, as the first touch is the dearest.
    std::vector<double> first, next;
    for (int k = 0; k < 60; ++k) {
        PaintStroke stroke(surface, bare, 0, brush);
        double begun = now();
        stroke.moveTo({{at(random) / 2, 3, at(random) / 2}, {0, -1, 0}});
        stroke.takeChanged();
        first.push_back(now() - begun);
        const float x = at(random) / 2, z = at(random) / 2;
        PaintStroke moving(surface, bare, 0, brush);
        moving.moveTo({{x, 3, z}, {0, -1, 0}});
        begun = now();
        moving.moveTo({{x + brush.radius / 4.9f, 3, z}, {0, -1, 0}}); // one touch further
        moving.takeChanged();
        next.push_back(now() - begun);
    }
    tell("first touch of a stroke", first);
    tell("each touch after it", next);
    PaintStroke stroke(surface, bare, 0, brush);
    stroke.moveTo({{0, 3, 0}, {0, -1, 0}});
    tell("the paint after a touch as a value", times(60, [&](int) { stroke.done(); }));
    LookCache looks;
    tell("its mesh for a picture", times(10, [&](int) { looks.paintedMeshes().get(million, std::make_shared<PaintData>(stroke.done())); }));

    // One core for both.
    const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
    const MeshPtr smaller = hills(220);
    const MeshNeighbours neighbours(*smaller);
    double bestOurs = 1e9, bestBare = 1e9, rays = 0;
    for (int k = 0; k < 4; ++k) {
        bestBare = std::min(bestBare, bareEmbree(*smaller, 0.5f, rays));
        start = now();
        occlusionAt(*smaller, neighbours, 0.5f);
        bestOurs = std::min(bestOurs, now() - start);
    }
    fmt::print("occlusion: {:.2f} million rays a second, {:.2f} of bare Embree's {:.2f}\n", rays / bestOurs / 1e6, bestBare / bestOurs,
               rays / bestBare / 1e6);
    start = now();
    const CarriedPaint carried = carriedOver(stroke.done(), hills(700));
    fmt::print("carrying a million vertices over to {}: {:.2f} s\n", carried.paint.vertices(), now() - start);
}
