#pragma once
// What a specimen shows with its decals.
// Threads: any. Nothing is kept between calls.
#include "core/cost/cost.h"
#include "core/document/project.h"
#include "core/mesh/mesh.h"

namespace hue {

/// So many are projected on a slot at most; those above are left out, which is told.
constexpr size_t kMostDecals = 32;

/// Decals that are projected on a slot, the lowest first: neither hidden nor kept off it, of a size, and wearing what can lie on what is
/// worn there.
std::vector<Decal> decalsOn(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot);

/// The project as such a slot shows it: with the decals laid over what it wears, by cards on the board of its master. Moving a decal
/// changes values of theirs alone. Nothing where no decal lies there.
std::optional<Project> decalled(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot);

/// What the decals of a slot add per pixel of it when they are projected: within their boxes, and beside them, where what they show is
/// skipped.
struct DecalCost {
    int operations = 0, fetches = 0;
    int operationsBeside = 0, fetchesBeside = 0;
};
DecalCost decalCost(const Project& project, const Specimen& specimen, const Id& worn, std::string_view slot);

/// Of one decal by itself, on the first slot where it is seen.
DecalCost decalCost(const Project& project, const Specimen& specimen, const Decal& decal, const Mesh& mesh);

} // namespace hue
