#pragma once
// The Program: a typed list of small operations in static single assignment form. Every reader (GLSL, CPU evaluator,
// cost, bake) works from the same optimised Program.
// Threads: many may read one that nobody writes.
#include "core/base/result.h"
#include "core/base/value.h"
#include "core/images/map_kind.h"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace hue {

/// See ops.def for what each does.
enum class Op : uint8_t {
#define HUE_OPERATION(name, text, operands, cost, glsl, flags) name,
#define HUE_ELEMENTWISE(name, operands, cost, glsl, cpu) name,
#include "core/program/ops.def"
    Count
};

/// What passes and readers need to know of an operation.
enum OpFlag : uint16_t {
    kElementwise = 1 << 0, ///< component by component; a number spreads
    kFromOutside = 1 << 1, ///< has no operands: comes from outside
    kTime = 1 << 2,        ///< depends on time
    kNotConstant = 1 << 3, ///< not even with constant operands
    kPlacement = 1 << 4,   ///< differs between placements
    kMap = 1 << 5,         ///< imm is a map slot
    kFetch = 1 << 6,       ///< reads a map or a picture of the scene: once a pixel
    kScene = 1 << 7,       ///< reads what was drawn, or the environment
    kKeepsRate = 1 << 8,   ///< only puts components together: what is interpolated stays so
    kTimesImm = 1 << 9,    ///< costs as many times as imm says
    kNoise = 1 << 10,      ///< one number from the components of its operands
    kCamera = 1 << 11,     ///< differs between cameras
};

enum class Rate : uint8_t { Frame, Placement, Vertex, Pixel };
std::string_view nameOf(Rate);

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
    Carried0, ///< what is computed per vertex, as the triangle carries it; see vertex_split.h
    Carried1,
    Carried2,
    Carried3,
    View,
    Screen,        ///< position in the picture, 0..1 from the top left
    DepthGap,      ///< metres along the line of sight to what lies behind
    Side,          ///< 1 where the front of a face is seen, -1 where its back is
    Painted,       ///< the vertex colors as four painted channels: 0 on a mesh that has none
    PaintedSecond, ///< the second set of vertex colors, as four more
    Count
};
inline bool isCarried(Attribute a) { return a >= Attribute::Carried0 && a <= Attribute::Carried3; }
/// Whether it stands in the source only where it is read; all others do always.
inline bool isPainted(Attribute a) { return a == Attribute::Painted || a == Attribute::PaintedSecond; }
inline bool standsWhereRead(Attribute a) { return isCarried(a) || isPainted(a); }
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
    int32_t origin = -1;                       ///< index into Program::origins; -1 for none
};

/// Computed at most once a frame or placement, never per vertex or pixel.
inline bool onceAFrame(const Instruction& i) { return i.rate <= Rate::Placement; }

/// The card that an instruction comes from.
struct Origin {
    Id card;        ///< of the board that is told of
    Id board, home; ///< where it lies within an assembly: the board of that assembly, and its id there; else empty
    bool operator==(const Origin&) const = default;
};

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
    std::vector<Origin> origins;

    int32_t output(std::string_view name) const; ///< -1 when absent
    bool reads(Attribute) const;
    bool readsTime() const;
};

struct OpInfo {
    std::string_view name;
    int operands;
    int cost; ///< scalar operations per component of the result (whole for operations with a fixed shape)
    std::string_view glsl;
    uint16_t flags; ///< of OpFlag
    bool is(uint16_t any) const { return (flags & any) != 0; }
};
const OpInfo& infoOf(Op);
/// Reads a map; imm is its slot.
inline bool isFetch(Op op) { return infoOf(op).is(kMap) && infoOf(op).is(kFetch); }

/// What an instruction costs on the machine it is made for: scalar operations, and whether it fetches (a map, or a picture of the scene).
struct OpCost {
    int operations = 0;
    bool fetches = false;
};
OpCost costOf(const Instruction&);

/// A text for each instruction, for tests and bug reports.
std::string describe(const Program&);

/// Empty when the Program is well formed: operands come before their users, widths fit, indices are in range.
std::string validate(const Program&);

} // namespace hue
