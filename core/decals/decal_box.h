#pragma once
// The box of a decal: its axes, where it is put on a mesh, and what of the mesh lies in it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/mesh/surface_rays.h"

#include <span>

namespace hue {

/// Object space, length 1, at right angles.
struct DecalAxes {
    std::array<float, 3> across{1, 0, 0}; ///< right of its picture
    std::array<float, 3> up{0, 1, 0};
    std::array<float, 3> out{0, 0, 1}; ///< out of the surface
};
/// Up is up, and on what lies flat away from a viewer at +Z, before the box is turned. Along Z where `facing` has no length.
DecalAxes decalAxes(const Decal& decal);

/// The four corners of its picture in the plane through the middle: lower left, lower right, upper right, upper left.
std::array<std::array<float, 3>, 4> decalCorners(const Decal& decal);

/// Put on a point of a mesh: its middle there, facing as the surface does where vertices have normals, else as the face does.
Decal placedOn(Decal decal, const Mesh& mesh, const MeshPoint& at);

/// As large as it takes for a corner to lie where a line of sight meets the plane of its picture; as it was where that looks past it.
Decal sizedTo(const Decal& decal, const Ray& sight);
/// Turned so that its up leads to where a line of sight meets the plane of its picture.
Decal turnedTo(const Decal& decal, const Ray& sight);
/// A line around its picture, closed, `points` a side: on the surface where that lies in the box, else in the plane of the picture.
std::vector<std::array<float, 3>> frameOn(const SurfaceRays& surface, const Decal& decal, int points = 12);

/// On the other side of the plane through the origin across X, Y or Z (0..2), as a mirror shows it; its picture stays readable unless
/// `reversed`.
Decal mirroredDecal(const Decal& decal, int axis, bool reversed = false);
/// `count` copies in all (2..256), each `step` metres along the box's right further than the last; the first is the
/// decal itself. Where a ray from outside meets the mesh the copy lies on it, elsewhere in line.
std::vector<Decal> arrayOf(const Decal& decal, const SurfaceRays& surface, int count, float step);

/// What of a mesh lies in a decal's box, on slots that it is not kept off, as triangles of their own: clipped by the box, `uv0` running
/// 0..1 across and down the picture, lifted along the normals.
struct CutDecal {
    Mesh mesh;           ///< one slot; may be empty
    float area = 0;      ///< square metres that are seen: looking less away than `fadeTo`
    float behind = 0;    ///< square metres in the box that look the other way
    float stretched = 0; ///< square metres that are seen where the picture is stretched more than 4:1
};
/// `lift`: metres.
CutDecal cutOut(const Mesh& mesh, const Decal& decal, float lift = 0);
struct CutDecals {
    Mesh mesh;                  ///< a slot for each decal that reaches something; vertices of its own
    std::vector<size_t> decals; ///< which one, for each slot
};
/// All that are not hidden, each lifted by `lift` more than the one before. Error: decal.nothing-to-cut.
Result<CutDecals> cutOutAll(const Mesh& mesh, std::span<const Decal> decals, float lift);

} // namespace hue
