#pragma once
// Threads: any. Nothing is kept between calls.
#include "core/make/bake_specimen.h"
#include "core/make/decal_atlas.h"

namespace hue {

struct DispatchReport {
    std::vector<std::string> lines; ///< what was written, with sizes
    std::vector<std::string> cautions;
    size_t invalid = 0; ///< values that were not finite and became 0
};

/// A mesh with the baked maps of what is worn embedded, as one GLB: factors, alpha mode, double sided, unlit and glow.
/// All slots get the material. Errors: those of bake(), mesh.cannot-use, file.cannot-write.
Result<DispatchReport> dispatchGlb(const Project& project, Assets& assets, const BakeRequest& request, const Id& mesh,
                                   const std::filesystem::path& file);

/// A specimen as it stands, with its paint and its decals baked in: a material for each slot. Errors: those of bakeSpecimen(),
/// dispatch.suffix, file.cannot-write.
Result<DispatchReport> dispatchSpecimen(const Project& project, Assets& assets, const Specimen& specimen,
                                        const SpecimenBakeRequest& request, const std::filesystem::path& file);

/// Whether a file can be dispatched under that name. Error: dispatch.suffix.
Outcome canBeDispatched(const std::filesystem::path& file);

/// The decals of a specimen alone, cut out of its mesh, with one material for all. Errors: dispatch.suffix, file.cannot-write.
Result<DispatchReport> dispatchDecals(const Project& project, const DecalAtlas& atlas, const std::filesystem::path& file);
/// What an atlas holds and what that saves, in sentences.
std::vector<std::string> linesOf(const Project& project, const DecalAtlas& atlas);

} // namespace hue
