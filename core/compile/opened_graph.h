#pragma once
// A board with its assemblies, and the masters that it takes finishes of, opened: one graph in which every card of theirs stands by itself.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"

#include <optional>

namespace hue {

/// Cards within are called by the way to them: "outer card/inner card/its id".
inline Id within(const Id& path, const Id& card) { return path.empty() ? card : path + "/" + card; }

/// What a Finish of card stands for: the rail of a master, with its wires led into the opened graph.
struct OpenedSurface {
    const Master* master = nullptr;
    Id worn;                             ///< the master, or an instance of it
    std::map<std::string, Source> wires; ///< by channel, and kWholeSurface
    std::optional<Source> uv;            ///< what its cards read instead of the mesh's first UVs; none: those
};

struct OpenedGraph {
    std::shared_ptr<const Graph> opened; ///< null where nothing had to be opened: the board's own graph serves
    /// Inputs of assemblies, which hand on what comes from outside, and parameters of masters that a finish is taken of, which hand on what
    /// these have: the way to the card, and its port.
    std::map<Id, std::pair<Id, std::string>> inputs;
    /// The definitions of cards that stand in no catalogue: what hands values in and out.
    std::map<Id, const NodeDef*> handing;
    /// Map inputs have no card here; by the way to where their card would be.
    std::vector<Id> mapInputs;
    /// Outputs of an assembly's card: (way to the card, port) -> the card within that hands it out.
    std::map<std::pair<Id, std::string>, Id> outputs;
    /// By the way to them: the assembly or master on whose board a card lies, and its id there.
    std::map<Id, std::pair<Id, Id>> homes;
    /// By the way to their cards.
    std::map<Id, OpenedSurface> surfaces;
    /// Cards of assemblies and Finish of cards that could not be opened, with what was wrong.
    std::map<Id, Diagnostic> failed;
    bool cut = false; ///< there were too many; wires may lead to what is not there
};

constexpr int kDeepestAssembly = 200;
constexpr size_t kMostCards = 5000; ///< of a board, with those within its assemblies

/// The surface that a card belongs to; null for cards that no Finish of card brings.
const OpenedSurface* surfaceAround(const OpenedGraph& graph, const Id& way);

/// `board`: whose graph it is. Too deep, too many, missing and self-containing assemblies are in `failed`; the rest stands.
OpenedGraph openedGraph(const Project& project, const Master& board);

/// A source on the board of the assembly that is reached by `path` (empty: the outermost), as it is in the opened graph.
Source openedSource(const OpenedGraph& graph, const Id& path, Source source);

} // namespace hue
