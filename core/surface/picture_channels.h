#pragma once
// Channels of the visible pixels of a picture, by the CPU evaluator: from rasterised attributes to packed channels.
// Threads: any. Nothing is kept between calls.
#include "core/evaluate/evaluator.h"
#include "core/program/passes/vertex_split.h"
#include "core/surface/channel_targets.h"

#include <cmath>

namespace hue {

/// What a fixed stage rasterises of a mesh; rows from the bottom, as OpenGL has them. Four floats a pixel and plane:
///   0  world position; slot + 1, negative where the back of a face is seen, 0 where nothing is
///   1  world normal, turned to the eye; u of UV0      2  tangent; v of UV0       3  bitangent; depth 0..1
///   4  UV1; change of UV0 along x                     5  vertex color
///   6  change of UV0 along y; of the position along x (x, y)
///   7  change of the position along x (z); along y
struct AttributePicture {
    static constexpr int kPlanes = 8;
    int width = 0, height = 0;
    int originX = 0, originY = 0, wholeWidth = 0, wholeHeight = 0; ///< where in the whole picture this lies
    std::array<std::vector<std::array<float, 4>>, kPlanes> planes;
    bool painted = false;                     ///< the mesh has vertex colors of its own; else those in the planes are white
    std::vector<std::array<float, 4>> second; ///< the second set of vertex colors; empty where nothing reads it
    /// Of vertices that were moved, where they were before; empty where nothing moved:
    ///   0  object position; its change along x (x)    1  object normal, turned to the eye; change along x (y)
    ///   2  change along x (z); along y
    static constexpr int kRestPlanes = 3;
    std::array<std::vector<std::array<float, 4>>, kRestPlanes> rest;

    /// What the triangles carry (Mesh::carried); empty where they carry nothing: each vector, then the change of each along x, then along
    /// y.
    static constexpr int kCarriedPlanes = 3 * kCarriedVectors;
    std::array<std::vector<std::array<float, 4>>, kCarriedPlanes> carried;

    /// Of a pixel: -1 where nothing is.
    int slot(size_t pixel) const { return int(std::lround(std::fabs(planes[0][pixel][3]))) - 1; }
};

/// Packed channels in the layout of channel_targets.h, rows as in the attributes.
struct ChannelPicture {
    int width = 0, height = 0;
    std::array<std::vector<std::array<uint32_t, 4>>, kAllTargets> targets;
    std::vector<float> alpha; ///< as it was computed, for what a mask cuts away
    void resize(int w, int h);
    PixelSurface at(size_t pixel) const;
};

/// Values of a Program at chosen pixels. Lanes are arranged in blocks of 2 x 2 pixels so that maps are read at the level
/// that a graphics card would choose; where neighbours belong to another part of the mesh they are extrapolated.
class PixelEvaluation {
  public:
    /// `pixels` are indices into the attributes, ascending; all of one slot.
    PixelEvaluation(const AttributePicture& attributes, std::vector<uint32_t> pixels, const std::array<float, 3>& eye);

    /// Writes the packed channels of the pixels. False when cancelled.
    bool channels(const Evaluator& evaluator, const Frame& frame, const SurfaceSettings& settings, int slot, ChannelPicture& to,
                  const Work& control = {}) const;
    /// The value of one output at each pixel, in their order.
    std::vector<std::array<float, 4>> output(const Evaluator& evaluator, const Frame& frame, std::string_view output) const;

  private:
    struct Block {
        std::array<int32_t, 4> pixel{-1, -1, -1, -1}; ///< that a lane stands for; -1: helps only
        uint32_t from = 0;                            ///< pixel that helping lanes are extrapolated from
        bool whole = false;                           ///< all four are pixels of one patch
    };
    class Points;
    using Lane = std::function<void(uint32_t pixel, const float* const* planes, size_t lane)>;
    bool run(const Evaluator& evaluator, const Frame& frame, const std::vector<std::string>& outputs, const Lane& lane,
             const Work& control) const;

    const AttributePicture& m_attributes;
    std::array<float, 3> m_eye;
    std::vector<Block> m_blocks;
};

} // namespace hue
