#pragma once
// Who has which share of a cost: cards, and channels. All shares of a kind add up to the whole that costOf() tells.
// Threads: any. Nothing is kept between calls.
#include "core/cost/cost.h"

namespace hue {

/// Scalar operations by Rate and fetches; fractions where several share.
struct Share {
    std::array<double, 4> operations{};
    double fetches = 0, vertexFetches = 0;
    double pixel() const { return operations[size_t(Rate::Pixel)]; }
    double vertex() const { return operations[size_t(Rate::Vertex)]; }
    Share& operator+=(const Share& o);
};

struct SharePart {
    Origin origin; ///< with an empty card: what no card stands for, such as branches around what is unseen
    Share share;
};

struct Shares {
    std::vector<SharePart> parts;          ///< by card, those within assemblies and finishes apart; in the order of the Program
    std::map<std::string, Share> channels; ///< by output; what several read is shared evenly among them
    Share whole;
    /// Of the cards of the board that is told of, with all within them.
    std::map<Id, Share> byCard() const;
    /// Of whole boards within: by id of the assembly or master, with the cards that lie directly on it.
    std::map<Id, Share> byBoard() const;
};
/// As costOf() takes them.
Shares sharesOf(const Program& surface, const Program* offset);

/// How a card's units take operations: most at full rate; reciprocals and roots at a quarter; sines, powers and the like through the unit
/// for such functions. Per pixel, of what costOf() counts; they add up to it but for branches and what triangles carry.
struct OperationKinds {
    int full = 0, quarter = 0, transcendental = 0;
};
OperationKinds operationKinds(const Program& surface);

} // namespace hue
