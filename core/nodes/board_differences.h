#pragma once
// What differs between two states of a board, card by card. Where cards lie and how wires are drawn does not count.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

struct BoardDifference {
    enum class How { Added, Removed, Changed };
    How how = How::Changed;
    Id card;                       ///< empty for a channel of the surface
    std::string channel;           ///< its key, then
    std::vector<std::string> what; ///< of what changed: "scale 4, was 2", "wire into mix from Noise, was Wear"
};

/// From one state to the other: cards that came, went and changed, in the order of their ids, then channels. Cards are the same that have
/// the same id, as in copies of a master.
std::vector<BoardDifference> boardDifferences(const Project& before, const Master& was, const Project& after, const Master& is);

} // namespace hue
