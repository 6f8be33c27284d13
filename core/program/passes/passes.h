#pragma once
// Passes over a Program. Each says whether it changed anything, keeps the Program valid, and can be run alone.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <functional>
#include <span>

namespace hue {

/// Evaluates what has only constant operands and drops operations that change nothing (x*1, x+0).
bool foldConstants(Program&);
/// Puts in the place of operations what they equal for all finite values: powers as products, clamps that cannot act, choices that are
/// known, takes of takes. Bounds come from intervalsOf().
bool useIdentities(Program&);
/// Lets what is known once a frame meet before it meets what differs per pixel: (x * f) * g becomes x * (f * g), and the same of sums.
/// Changes rounding, and nothing that is below 1e30.
bool hoist(Program&);
/// Lets equal operations stand once.
bool mergeCommon(Program&);
/// Removes what no output needs; also unused constants, parameters and map slots.
bool removeDead(Program&);
/// Puts operations into an order in which fewer values wait at a time. Dead ones go last.
bool order(Program&);
/// Has the triangles carry what changes evenly over them, where that is cheaper than to compute it at each pixel. Carrying what nobody
/// asked for never takes the room of what was asked for.
bool leaveToVertices(Program&);
/// Puts what a mask hides together, behind the mask; see unseen.h. What can be done outside comes first.
bool gatherUnseen(Program&);
/// The most components that wait at a time, apart from attributes and what is known once a frame.
int liveComponents(const Program&);
/// Gives every instruction its rate.
void assignRates(Program&);

struct PassDef {
    std::string_view name;
    std::string_view help;
    bool (*run)(Program&);
};
/// By name, in the order in which they first run; the last three run once, at the end.
std::span<const PassDef> passes();

struct PassOptions {
    std::vector<std::string> without; ///< names of passes that are left out
    /// After each pass: what stands then, and whether the pass changed anything.
    std::function<void(std::string_view pass, const Program&, bool changed)> log;
    bool toVertices = false; ///< leave-to-vertices runs as well: for what is to be drawn of triangles
};
/// All passes until nothing changes, then the rates.
void optimise(Program&, const PassOptions& options = {});

} // namespace hue
