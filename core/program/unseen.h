#pragma once
// What a pixel may leave out: operations whose results are looked at only where a mask shows them (WhereAbove0, WhereBelow1). Who draws or
// evaluates puts a branch around them; values are the same with and without, as what such an operation gives where nothing is seen is 0.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

namespace hue {

inline bool hidesOperand(Op op) { return op == Op::WhereAbove0 || op == Op::WhereBelow1; }

/// A branch: entered at a pixel where its mask says so.
struct Branch {
    int32_t mask = -1;   ///< instruction of one number, computed before the branch
    bool above = true;   ///< entered where the mask is above 0; else where it is below 1
    int32_t parent = -1; ///< branch that this one lies in, or -1
    int operations = 0;  ///< scalar operations within, with those of branches that lie in it
    int fetches = 0;     ///< likewise
};

struct Unseen {
    std::vector<Branch> branches; ///< each after the one that it lies in
    /// By instruction: the innermost branch that it is computed in, or -1.
    std::vector<int32_t> branchOf;

    /// Whether `inner` is `outer` or lies in it; -1 is around all.
    bool within(int32_t inner, int32_t outer) const;
};

/// Branches that are worth it: a fetch lies within, or at least kLeastBranch operations. What a map is read at never lies in one, as
/// derivatives need all neighbours; whoever reads it within takes them from before. Of operations once a frame none lies in a branch.
Unseen unseenOf(const Program&);
constexpr int kLeastBranch = 12;

/// Whether a WhereAbove0 or WhereBelow1 hands out what was computed in its branch: that is 0 already where the branch is not entered.
bool handsOut(const Unseen&, const Instruction&);

/// What is paid at a pixel for branches: a comparison each, and derivatives of what maps are read at within.
int operationsOfBranches(const Program&, const Unseen&);

/// What a pixel is spared where every mask is at one of its ends, and each in the way that spares most.
struct Spared {
    int operations = 0, fetches = 0;
};
Spared mostSpared(const Unseen&);

/// All branches, worth it or not, wherever their masks stand: what could be left out if it stood behind its mask.
Unseen everyBranch(const Program&);

} // namespace hue
