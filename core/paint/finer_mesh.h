#pragma once
// A mesh with room for finer paint.
// Threads: any. Nothing is kept between calls.
#include "core/project/assets.h"

namespace hue {

struct FinerMesh {
    Project project;
    std::string file; ///< that was written, relative to the project's folder; empty for a shape, which is made by the program
    size_t vertices = 0;
};
/// A specimen's mesh with four triangles for each: a shape of the next density, or a new file beside the old one, which stays. Its
/// paintwork is carried over, and goes along on every specimen that wears it. Errors: lineup.no-specimen, paint.finest (a shape has no
/// finer density), mesh.cannot-use, mesh.too-many, file.cannot-write.
Result<FinerMesh> finerMesh(const Project& project, Assets& assets, size_t specimen);

} // namespace hue
