#pragma once
// Cards on their way from one board to another: what the clipboard holds, as text (core/project/cards_text.h) or not.
// Threads: plain values; each thread has its own.
#include "core/document/project.h"

namespace hue {

/// Wires keep the ids of where they start, also where that card was not copied: on the same board they are led there again.
struct CopiedCards {
    std::map<Id, NodePtr> nodes;
    std::vector<Bay> bays; ///< of which every card was copied
    std::vector<Parameter> parameters;
    std::vector<AssemblyPtr> assemblies; ///< and those within them
    std::vector<MapFile> maps;           ///< with absolute paths, for projects elsewhere
};

} // namespace hue
