#pragma once
// What a wire of a master gives at the vertices of a mesh.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/mesh/mesh.h"
#include "core/project/assets.h"

namespace hue {

/// The first component of a wire at each vertex, as the object stands at the origin; what vertices do not know is as vertex_limits.cpp
/// says. `worn`: a master or instance. Errors: paint.wire, when there is no such card, it carries a map, or something before it is broken.
Result<std::vector<float>> wireAtVertices(const Project& project, Assets& assets, const Id& worn, const Source& wire, const Mesh& mesh,
                                          double time);

struct WornWire {
    Id worn; ///< a master or instance
    Source wire;
};
/// A wire as it is typed, "CARD", "CARD.PORT" or "CARD.PORT.TAKE", by the id or the title of a card of what a specimen wears; the first
/// that has one. Error: paint.wire.
Result<WornWire> wornWire(const Project& project, const Specimen& specimen, const std::string& words);

} // namespace hue
