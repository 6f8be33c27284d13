#pragma once
// Which painted channels a master reads, and what it calls them.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

struct ReadChannel {
    int channel = 0; ///< 0..3
    std::string name;
    Id board, card; ///< of a card that reads it: the master's board, or that of an assembly
};
/// By the titles of Painted channel cards, those within assemblies too; Geometric color reads what is wired of it. Each channel once, in
/// their order. Cards that reach no channel of the surface count as well: one paints before all is wired.
std::vector<ReadChannel> channelsRead(const Project& project, const Master& master);
/// By all that a specimen wears; where they call a channel differently, as the first does.
std::vector<ReadChannel> channelsRead(const Project& project, const Specimen& specimen);

} // namespace hue
