#pragma once
// Assemblies as nodes: how one looks from outside.
// Threads: any.
#include "core/nodes/catalogue.h"

namespace hue {

/// The kind of a card that stands for an assembly, and its setting that says for which.
inline constexpr std::string_view kAssemblyKind = "assembly", kAssemblySetting = "assembly";
/// The kind of a card that is an output of the assembly on whose board it lies.
inline constexpr std::string_view kOutputKind = "output";

inline bool isAssembly(const Node& node) { return node.kind == kAssemblyKind; }

struct AssemblyOutput {
    Id card;          ///< the Output card within
    std::string key;  ///< of the port
    std::string name; ///< for people
};
/// By the places of their cards: from the top, then from the left. Keys are made from the cards' titles, each of its own.
std::vector<AssemblyOutput> outputsOf(const Assembly& assembly);

/// A parameter as a port; it points to the parameter's texts.
PortDef portOf(const Parameter& parameter);

/// The definition of an assembly's cards, with the texts that it points to. Its ports are the assembly's parameters and outputs.
struct AssemblyCard {
    NodeDef def;
    std::vector<AssemblyOutput> outputs;
};
/// Made once for each state of an assembly, and lives as long as that: of one that is still being written, ask outputsOf().
const AssemblyCard& cardOf(const Assembly& assembly);

/// Id of the assembly that a card stands for; empty for other cards.
Id assemblyOf(const Node& node);
/// The definition of any card: that of the catalogue, or of the assembly that it stands for, which lives as long as the project's state.
/// nullptr for a kind that is not known, and an assembly that the project does not have.
const NodeDef* nodeDefOf(const Project& project, const Node& node);
/// A card for an assembly.
Node makeAssemblyNode(const Id& assembly, Point position = {});

/// Assemblies that stand on a board, each once; `deep`: also those within them.
std::vector<Id> assembliesOn(const Project& project, const Graph& graph, bool deep);
/// Whether a card for `inner` on the board of `outer` would make an assembly contain itself.
bool wouldHoldItself(const Project& project, const Id& outer, const Id& inner);

/// Where the cards of an assembly stand, in the order of the boards.
struct AssemblyUse {
    Id board;
    Id card;
};
std::vector<AssemblyUse> usesOf(const Project& project, const Id& assembly);

} // namespace hue
