#pragma once
// Groups of cards that stand more than once on a board, and one assembly in their place.
// Threads: any. Nothing is kept between calls.
#include "core/compile/compile.h"

namespace hue {

/// Cards that do the same to different things: the k-th card of every place is of one kind, with the same choices and values, and wired
/// alike within.
struct EqualGroup {
    std::vector<std::vector<Id>> places; ///< two at least, none with a card of another
    size_t size() const { return places.empty() ? 0 : places[0].size(); }
    /// Cards that an assembly would save.
    size_t saved() const { return places.empty() ? 0 : (size() - 1) * (places.size() - 1); }
};

/// The groups of three cards and more that stand twice and more, those that save most first; no card is in two of them. Cards for
/// parameters, outputs and notes are in none. Nothing on boards of more than kMostCompared cards.
/// `taps`: of the board, see compileTaps().
std::vector<EqualGroup> equalGroups(const Graph& graph, const Compilation& taps);
constexpr size_t kMostCompared = 2000;

/// An assembly of the first place, and a card for it in every place. Errors as of foldCards, and assembly.not-equal where the cards are not
/// equal any more.
Result<Project> foldEqual(const Project& project, const Id& board, const EqualGroup& group, const std::string& name,
                          Id* assembly = nullptr);

} // namespace hue
