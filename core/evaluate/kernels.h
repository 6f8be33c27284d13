#pragma once
// The operations of a Program on the CPU, over planes of lanes. One table for each instruction set, chosen at run time;
// all give the same bits.
// Threads: any. Made once and never changed.
#include "core/program/program.h"

#include <cstddef>

namespace hue {

class Map;

/// Lanes of a block: two rows of kBlockColumns pixels, so that neighbours in both directions are at hand for derivatives.
constexpr int kBlockColumns = 256;
constexpr int kBlockRows = 2;
constexpr int kBlockLanes = kBlockColumns * kBlockRows;
/// Planes are padded to this many lanes; the widest vector of any instruction set.
constexpr int kLanePadding = 16;

/// Gives the radiance of the environment to the operation Around.
class SurroundingLight {
  public:
    virtual ~SurroundingLight() = default;
    /// `direction` of any length; roughness 0..1.
    virtual void around(const float direction[3], float roughness, float rgb[3]) const = 0;
};

/// What Behind and Around give where there is no scene, as in a bake.
constexpr float kNoSceneRadiance = 0.5f;
/// What the attribute DepthGap gives where nothing lies behind, in metres.
constexpr float kNothingBehind = 1000;

struct KernelContext {
    double time = 0;                 ///< seconds
    const Map* const* maps{};        ///< by map slot, never null
    const SurroundingLight* light{}; ///< null: no scene
    bool derivatives = true;         ///< false: lanes are no neighbours, maps are read at level 0
};

/// `in`: planes, or single numbers where the kernel's splat mask has the operand's bit. `lanes`: a multiple of
/// kLanePadding, except for Sample (whole blocks only).
using Kernel = void (*)(const float* const* in, float* const* out, size_t lanes, uint32_t imm, const KernelContext& context);

constexpr int kSplatMasks = 8;
/// Pairs of elementwise operations in one pass: second(first(a, b), c), or second(c, first(a, b)) for Sub.
enum class FusedFirst { Add, Sub, Mul, Count };
enum class FusedSecond { Add, Sub, SubFrom, Mul, Min, Max, Count };

struct KernelTable {
    Kernel elementwise[int(Op::Count)][kSplatMasks]; ///< by operation and mask; null where there is none
    Kernel fused[int(FusedFirst::Count)][int(FusedSecond::Count)][kSplatMasks];
    Kernel inverseRoot;           ///< 1/sqrt, and 0 for 0
    Kernel noise[int(Op::Count)]; ///< in: the components of the operands, one after the other; imm: as ops.def says
    Kernel sample;                ///< in: u, v; out: r, g, b, a; imm: map slot
    Kernel sampleLevel;           ///< in: u, v, level
    Kernel sampleGuided;          ///< in: u, v, and u, v that tell the level
    Kernel sampleFramed;          ///< in: u, v in frames, corner, frames across and down
    Kernel behind;                ///< in: x, y, blur; out: r, g, b
    Kernel around;                ///< in: x, y, z, roughness; out: r, g, b
};
const KernelTable& kernels();

} // namespace hue
