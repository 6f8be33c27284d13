#pragma once
// How the channels of a pixel lie in the render targets, on the CPU: what the evaluator computed is uploaded in this form
// and lit by the same stages as a linked build. The layout stands in targets.def.
// Threads: any. Nothing is kept between calls.
#include "core/surface/channels.h"

#include <glm/vec3.hpp>

namespace hue {

/// Targets of four 32-bit words each; those of the core come first. OpenGL promises no more than eight.
constexpr int kCoreTargets = 5, kAllTargets = 8;
constexpr size_t kCoreWords = kCoreTargets * 4, kAllWords = kAllTargets * 4;

/// Bits of the flags. The slot's index stands in bits 8 to 15.
enum PixelFlag : uint32_t {
    kCovered = 1,
    kUnlit = 2,
    kFrontFace = 4,
    kSimpleDiffuse = 8,
    kSolid = 16, ///< light that passes through bends and is absorbed
    kHighlightsStay = 32,
    kBlend = 64,         ///< alpha is coverage
    kBroken = 1u << 16,  ///< a channel is NaN or infinite
    kOutside = 1u << 17, ///< a channel is outside of its range
};

/// What a pixel carries; units as in channels.h, position and directions in world space.
struct PixelSurface {
    using vec3 = glm::vec3;
#define HUE_FIELD(type, name, standard) type name = type(standard);
#include "core/surface/targets.def"
    uint32_t flags = 0;
};

using PackedPixel = std::array<uint32_t, kAllWords>;
PackedPixel packPixel(const PixelSurface& surface);
PixelSurface unpackPixel(const PackedPixel& words);
/// What of a pixel holds nothing yet, in pieces of 16 bits.
int freeHalves();

/// What a pixel brings besides its channels.
struct PixelGeometry {
    std::array<float, 3> position, normal, tangent, bitangent; ///< world space, turned to the side that is seen
    bool front = true;
};

class SurfacePacker {
  public:
    SurfacePacker(const SurfaceSettings& settings, int slot);
    /// `values` holds the components of each channel, in the order of channels().
    PixelSurface surface(const PixelGeometry& geometry, const std::vector<std::array<float, 4>>& values) const;
    PackedPixel pack(const PixelGeometry& geometry, const std::vector<std::array<float, 4>>& values) const {
        return packPixel(surface(geometry, values));
    }

  private:
    SurfaceSettings m_settings;
    uint32_t m_flags;
};

uint32_t settingFlags(const SurfaceSettings& settings, int slot);

/// Two directions across a unit normal, the same on both sides of the fence (Duff and others, "Building an Orthonormal Basis, Revisited",
/// 2017). A stretch's angle counts from the first to the second.
std::pair<glm::vec3, glm::vec3> basisOf(const glm::vec3& normal);

} // namespace hue
