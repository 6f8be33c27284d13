#pragma once
// The Program: a typed list of small operations in static single assignment form. Every reader (GLSL, CPU evaluator,
// cost, bake) works from the same optimised Program.
#include "core/base/result.h"
#include "core/base/value.h"
#include "core/images/map_kind.h"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace hue {

enum class Op : uint8_t {
    Constant,        ///< imm: index into Program::constants
    Parameter,       ///< imm: index into Program::parameters
    Time,            ///< seconds
    TexelSize,       ///< imm: map slot; width 2: one texel in UV units
    PlacementRandom, ///< 0..1, one number for each placement
    Attribute,       ///< imm: an Attribute
#define HUE_ELEMENTWISE(name, operands, cost, glsl, cpu) name,
#include "core/program/ops.def"
#undef HUE_ELEMENTWISE
    Phase,   ///< fract(time * a), from time in double precision when a does not vary per pixel
    Swizzle, ///< imm: two bits per component of the result
    Compose, ///< one number per operand
    Dot,
    Magnitude,
    Normalize, ///< a zero vector stays zero
    Cross,
    Noise2,          ///< gradient noise at a UV, about -1..1
    Cell2,           ///< random number 0..1 of the unit cell at a UV
    Worley2,         ///< (uv, jitter): distance to the nearest feature point
    Fractal2,        ///< (uv, lacunarity, diminish): sum of imm octaves of Noise2
    Noise2Seamless,  ///< (uv, period): Noise2 that repeats after whole cells
    Cell2Seamless,   ///< (uv, period)
    Worley2Seamless, ///< (uv, jitter, period)
    Sample,          ///< (uv); imm: map slot; width 4, filtered
    SampleLevel,     ///< (uv, level): at a given level, 0 the largest
    SampleGuided,    ///< (uv, guide): at the level that reading at `guide` would have; for UVs that jump
    Behind,          ///< (offset on screen, blur 0..1): radiance of what was drawn before; width 3
    Around,          ///< (direction, roughness): radiance of the environment; width 3
    Count
};

enum class Rate : uint8_t { Frame, Placement, Vertex, Pixel };
std::string_view nameOf(Rate);
/// Reads a map; imm is its slot.
constexpr bool isFetch(Op op) { return op == Op::Sample || op == Op::SampleLevel || op == Op::SampleGuided; }

/// What a mesh gives at a point of its surface. World space unless it says object; normals and tangents unit length.
enum class Attribute : uint32_t {
    Uv0,
    Uv1,
    Color,
    PositionWorld,
    PositionObject,
    NormalWorld,
    NormalObject,
    TangentWorld,
    BitangentWorld,
    View,
    Screen,   ///< position in the picture, 0..1 from the top left
    DepthGap, ///< metres along the line of sight to what lies behind
    Count
};
int widthOf(Attribute);
std::string_view nameOf(Attribute);

constexpr int kMostOperands = 4;

struct Instruction {
    Op op = Op::Constant;
    uint8_t width = 1; ///< 1..4 components
    Rate rate = Rate::Frame;
    uint8_t operands = 0;
    uint32_t imm = 0;
    std::array<int32_t, kMostOperands> args{}; ///< indices of earlier instructions; a width of 1 spreads
    int32_t origin = -1;                       ///< index into Program::origins
};

/// Computed at most once a frame or placement, never per vertex or pixel.
inline bool onceAFrame(const Instruction& i) { return i.rate <= Rate::Placement; }

/// A map that a Program reads: of a parameter, or fixed.
struct MapSlot {
    Id parameter;
    Id map;
    MapKind kind = MapKind::Color;
    bool operator==(const MapSlot&) const = default;
};

struct Program {
    struct Output {
        std::string name;
        int32_t value;
    };
    std::vector<Instruction> code;
    std::vector<std::array<float, 4>> constants;
    std::vector<Id> parameters;
    std::vector<MapSlot> maps;
    std::vector<Output> outputs;
    std::vector<Id> origins; ///< nodes that instructions come from

    int32_t output(std::string_view name) const; ///< -1 when absent
    bool reads(Attribute) const;
    bool readsTime() const;
};

struct OpInfo {
    std::string_view name;
    int operands;
    int cost; ///< scalar operations per component of the result (whole for operations with a fixed shape)
    std::string_view glsl;
    bool elementwise;
};
const OpInfo& infoOf(Op);

/// A text for each instruction, for tests and bug reports.
std::string describe(const Program&);

/// Empty when the Program is well formed: operands come before their users, widths fit, indices are in range.
std::string validate(const Program&);

} // namespace hue
