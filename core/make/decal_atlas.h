#pragma once
// The decals of a specimen, cut out of its mesh, with the pictures of all of them in one set of maps.
// Threads: any. Nothing is kept between calls.
#include "core/images/sheet.h"
#include "core/make/bake.h"

namespace hue {

/// Pixels around each picture that go on as its edge is. With these, and with pictures that begin at multiples of them, levels of up to
/// this many pixels of the first hold no other picture, wherever a filter reads.
constexpr int kAtlasPadding = 8;

struct AtlasPicture {
    Id worn;
    SheetPlace place; ///< pixels, without what lies around it
};

struct DecalAtlas {
    Mesh mesh;    ///< one slot, the lowest decal first; `uv0` in the maps
    BakedSet set; ///< for all; alpha blended unless all of them are cut out or opaque
    std::vector<AtlasPicture> pictures;
    size_t decals = 0;                                           ///< in the mesh; several may show one picture
    float perMetre = 0;                                          ///< pixels on a decal that fills its picture
    int cleanLevels = 0;                                         ///< smaller levels in which no picture reaches into another
    size_t mapsApart = 0;                                        ///< that what the decals wear reads, each once
    size_t bytesApart = 0, bytesTogether = 0, bytesInBlocks = 0; ///< on a graphics card with mips: those, as they are compressed; the
                                                                 ///< atlas as plain pixels, and as BC7
};

struct AtlasRequest {
    int size = 1024;     ///< pixels that the maps are wide, and high at most, 4..8192
    float lift = 0.001f; ///< metres above the surface, and each above the one before
    double time = 0;
    Work control{};
};

/// What lies under no paint takes the values of the nearest that does, so that no filter brings in a color that is not seen. Pictures are
/// as large as there is room for, all at as many pixels per metre of the largest decal that shows them. Errors: decal.nothing-to-cut,
/// decal.atlas-full, mesh.cannot-use, and those of bake().
Result<DecalAtlas> decalAtlas(const Project& project, Assets& assets, const Specimen& specimen, const AtlasRequest& request);

} // namespace hue
