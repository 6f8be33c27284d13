#pragma once
// What can stand around a specimen: behind it, inside of it, beneath it. Small meshes made by code.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/mesh/mesh.h"

namespace hue {

struct ThingKind {
    std::string_view key, name;
    std::string_view where; ///< "behind", "inside", "beneath", "beside"
    std::string_view help;
};
const std::vector<ThingKind>& thingKinds();

/// About 1 m across, centred (those beneath: top at 0). Base color and glow are in the vertex color (alpha: radiance),
/// metallic and roughness in UV1. Null for an unknown kind.
MeshPtr thingMesh(const std::string& kind);

/// Where a thing of this kind stands at first, and how large, for a specimen of these bounds.
struct ThingPlace {
    std::array<float, 3> position;
    float size;
};
ThingPlace placeFor(const std::string& kind, const Bounds& specimen);

} // namespace hue
