#pragma once
// Painting by rule: a channel of a mesh's vertices is filled from what the mesh is like, one rule upon the other.
// Threads: any. Nothing is kept between calls.
#include "core/mesh/mesh.h"

#include <functional>
#include <span>
#include <string_view>

namespace hue {

/// One value a vertex, 0..1.
using PaintChannel = std::vector<float>;

struct FillRule {
    enum class Kind { Constant, Direction, Height, Edges, Cavities, Occlusion, Border, Noise, Wire, Blur, Invert, Levels };
    /// How what the rule gives meets what is there.
    enum class Join { Replace, Add, Subtract, Multiply, Largest, Smallest };
    Kind kind = Kind::Constant;
    Join join = Join::Replace;
    float weight = 1;       ///< 0..1: how much of the outcome takes the place of what was there
    float from = 0, to = 1; ///< where the ramp is 0 and where it is 1; `from` may be the larger
    float amount = 1;       ///< the constant, 0..1; the size of the noise's cells, the reach of the blur or of occlusion, metres
    std::array<float, 3> direction{0, 1, 0}; ///< of object space, of length 1
    std::string wire{};                      ///< CARD.PORT or CARD.PORT.TAKE
};

struct FillRuleDef {
    FillRule::Kind kind;
    std::string_view key;
    std::string_view takes; ///< as it is typed behind the key
    std::string_view help;
};
std::span<const FillRuleDef> fillRules();

/// A rule as it is typed: the kind, what it takes, how it meets what is there, and its weight, such as "height 0..1.2",
/// "direction up 60..30 multiply" or "noise 0.2 add weight 0.5". Errors: paint.rule, with what was not understood or out of range.
Result<FillRule> fillRuleFromText(std::string_view text);

/// Gives the value of a wire at each vertex. The error says why it can't.
using WireValues = std::function<Result<PaintChannel>(const std::string& wire)>;

/// Fills a channel by rules, the first below the others. `channel`: one value a vertex. Values stay within 0..1; what is no number counts
/// as 0. Errors: paint.rule (a wire where none can be read), paint.no-border, paint.blur-too-wide, and those of `wires`; the channel is
/// as it was then.
Outcome fillByRules(const Mesh& mesh, std::span<const FillRule> rules, PaintChannel& channel, const WireValues& wires = {});

/// What a channel holds.
struct PaintShare {
    float least = 0, mean = 0, most = 0;
    float painted = 0; ///< share of the vertices that are above 0
};
PaintShare shareOf(const PaintChannel& channel);

} // namespace hue
