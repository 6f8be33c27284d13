#pragma once
// What a specimen shows -> maps of its own: what its slots wear, what is painted on it and the decals that lie on it, over its UVs.
// Threads: any. Nothing is kept between calls.
#include "core/make/bake.h"

namespace hue {

struct BakedSlot {
    std::string name; ///< of the slot
    Id worn;
    BakedSet set;
};

struct BakedSpecimen {
    MeshPtr mesh;  ///< as it stands there: with its paint
    int uvSet = 0; ///< that the maps lie by
    std::vector<BakedSlot> slots;
    size_t invalid() const;
    std::vector<std::string> cautions() const; ///< of all slots, each once
};

struct SpecimenBakeRequest {
    int size = 1024; ///< pixels a side, 4..8192
    double time = 0;
    int uvSet = 0; ///< 0 or 1: which UVs lay the mesh out
    Work control;
};

/// Maps for each slot. Errors: bake.size, bake.no-uvs, mesh.cannot-use, and those of bake().
Result<BakedSpecimen> bakeSpecimen(const Project& project, Assets& assets, const Specimen& specimen, const SpecimenBakeRequest& request);

/// Writes the maps of each slot into a folder of its name; of a single slot into the folder itself. The files written.
Result<std::vector<std::string>> writeBake(const BakedSpecimen& baked, const std::filesystem::path& folder);

} // namespace hue
