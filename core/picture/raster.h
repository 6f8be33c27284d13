#pragma once
// Triangles to pixels on the CPU, as a graphics card would do it: for pictures before a driver is ready, and as a second opinion on it.
// Conventions are OpenGL's: rows from the bottom, pixel centres at a half, depth 0 at the near plane and 1 at the far one, faces that
// are seen counter-clockwise look at the eye.
// Threads: any. Nothing is kept between calls.
#include "core/base/matrix.h"
#include "core/mesh/mesh.h"
#include "core/surface/picture_channels.h"

#include <span>

namespace hue {

/// A range of a mesh's triangles.
struct RasterPart {
    const Mesh* mesh = nullptr;
    uint32_t firstIndex = 0, indexCount = 0;
    int slot = 0;          ///< is written into the attributes
    bool twoSided = false; ///< else faces that are seen from behind are left out
    Matrix4 world{1};      ///< moves and scales evenly
};

/// A part of the whole picture, in pixels from the bottom left.
struct RasterRegion {
    int x = 0, y = 0, width = 0, height = 0;
};

/// Which of the surfaces behind each other a pixel shows.
enum class Sheet {
    Nearest, ///< the nearest one behind `limit`
    Furthest ///< the furthest one before `limit`
};

/// Attributes of what is seen through `clip` in a picture of `width` x `height`, of the region only. `limit` holds a depth for each pixel
/// of the region; null where there is none. The depth of a pixel stands in the planes; where nothing is the slot is -1.
AttributePicture rasterise(const Matrix4& clip, int width, int height, const RasterRegion& region, std::span<const RasterPart> parts,
                           Sheet sheet = Sheet::Nearest, const std::vector<float>* limit = nullptr);

/// Depth alone, 1 where nothing is, of both sides of all faces; moved away by `slopes` of the surface's slope and `steps` of 2^-24, so
/// that a surface casts no shadow on itself.
std::vector<float> rasteriseDepth(const Matrix4& clip, int size, std::span<const RasterPart> parts, float slopes, float steps);

} // namespace hue
