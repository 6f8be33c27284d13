#pragma once
// How the channels of a pixel lie in the render targets, on the CPU: what the evaluator computed is uploaded in this form
// and lit by the same stages as a linked build.
#include "core/surface/channels.h"

namespace hue {

/// The first four targets hold four floats, the others four words each:
///   0  base color, alpha        1  normal, roughness       2  emissive with its strength, metallic
///   3  world position, occlusion
///   4  flags; thickness (float bits); ior | dispersion; specular | transmission
///   5  specular color r | g; b | clearcoat; clearcoat roughness | sheen roughness; clearcoat normal (octahedral)
///   6  sheen color r | g; b | iridescence; film index | film thickness; anisotropy | direction's angle
///   7  attenuation color r | g; b; attenuation distance (float bits); emissive strength (float bits)
constexpr int kFloatTargets = 4, kCoreTargets = 5, kAllTargets = 8;

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

/// What a pixel brings besides its channels.
struct PixelGeometry {
    std::array<float, 3> position, normal, tangent, bitangent; ///< world space, turned to the side that is seen
    bool front = true;
};

struct PackedPixel {
    std::array<float, 16> floats;
    std::array<uint32_t, 16> words;
};

/// `values` holds, in the order of channels(), pointers to the components of each channel or null for its default.
class SurfacePacker {
  public:
    SurfacePacker(const SurfaceSettings& settings, int slot);
    PackedPixel pack(const PixelGeometry& geometry, const std::vector<std::array<float, 4>>& values) const;

  private:
    SurfaceSettings m_settings;
    uint32_t m_flags;
};

uint32_t settingFlags(const SurfaceSettings& settings, int slot);

} // namespace hue
