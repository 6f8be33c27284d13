#pragma once
// Which painted channels a master reads, and what it calls them.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

#include <optional>

namespace hue {

struct ReadChannel {
    int channel = 0; ///< 0..7
    std::string name;
    Id board, card; ///< of a card that reads it: the master's board, or that of an assembly
    /// The finish that lies where it is painted: of what joins finishes by it, the first that it leads to. The card as it is in the opened
    /// graph (core/compile/opened_graph.h). None where it only weighs values.
    std::optional<Source> finish = {};
    std::string finishName = {}; ///< the title of that card, or what a Finish of card names
    Id worn = {};                ///< of a specimen: what it wears that reads the channel
};
/// By the titles of Painted channel cards, those within assemblies too; Geometric color reads what is wired of it. Each channel once, in
/// their order. Cards that reach no channel of the surface count as well: one paints before all is wired.
std::vector<ReadChannel> channelsRead(const Project& project, const Master& master);
/// By all that a specimen wears; where they call a channel differently, as the first does.
std::vector<ReadChannel> channelsRead(const Project& project, const Specimen& specimen);

} // namespace hue
