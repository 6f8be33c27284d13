#pragma once
// Channels of what is worn -> maps, by the CPU evaluator: over the unit UV square, or over the UVs of the mesh that wears it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/evaluate/evaluator.h"
#include "core/image_files/picture_file.h"
#include "core/make/unwrapped_mesh.h"
#include "core/maps/map_levels.h"
#include "core/project/assets.h"

namespace hue {

struct BakedMap {
    std::string name; ///< "base_color", "occlusion_roughness_metallic", "normal", "emissive"
    Picture picture;
    PictureEncoding encoding = PictureEncoding::Linear;
    size_t invalid = 0; ///< values that were not finite and became 0
};

struct BakedSet {
    std::vector<BakedMap> maps;
    float emissiveStrength = 1; ///< what the emissive map must be multiplied with; above 1 where the surface glows
    SurfaceSettings surface;
    bool normalIsFlat = false, emissiveIsBlack = false;
    bool repeats = true;               ///< the surface is the same one UV unit further, as far as a look at it tells
    std::vector<std::string> cautions; ///< sentences on what a flat map cannot hold
    size_t invalid() const;            ///< values of all maps that were not finite and became 0
    /// What a material of them reads: base color, and where the surface is lit the others, but no flat normal and no black emission.
    std::vector<const BakedMap*> read() const;
};

struct BakeRequest {
    Id worn;
    int size = 1024; ///< pixels a side, 4..8192
    double time = 0;
    Work control;
    const UnwrappedMesh* mesh = nullptr; ///< what wears it, of as many texels a side; null: a flat square
    bool placed = false;                 ///< the mesh does not stand at the origin alone
    int height = 0;                      ///< of the flat square's maps, 4..8192; 0: as `size`
};

/// Whether maps of that side can be baked. Error: bake.size.
Outcome canBeBaked(int size);
/// Errors: bake.nothing, bake.size, bake.broken-graph, bake.cancelled.
Result<BakedSet> bake(const Project& project, Assets& assets, const BakeRequest& request);
/// Whether a channel of what is worn can be laid out as a flat map. Errors: bake.vertices (the vertex offset), bake.no-layer.
Outcome canBeFlat(const Project& project, const Id& worn, std::string_view channel);
/// One channel as it is, without encoding; its own width. `data` is width*height*channels.
Result<Picture> evaluateChannel(const Project& project, Assets& assets, const Id& worn, std::string_view channel, int size, double time,
                                const Work& control);

/// Writes each map as NAME.png into a folder, which is made when missing; the files written.
Result<std::vector<std::string>> writeBake(const BakedSet& set, const std::filesystem::path& folder);

} // namespace hue
