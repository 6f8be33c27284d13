#pragma once
// Threads: any. Made once and never changed.
#include "core/nodes/node_def.h"

#include <span>

namespace hue {

/// All nodes, by family in the order of browsing.
const std::vector<NodeDef>& catalogue();
/// By file key; nullptr for an unknown one.
const NodeDef* findNodeDef(std::string_view key);

/// Nodes whose name or search words match what was typed, words in any order, best first. Where nothing does, those that are a slip of the
/// hand away. All of them for an empty text.
/// `uses`: how often a kind was taken before; of those that match alike the more used come first.
using Uses = std::function<int(std::string_view kind)>;
/// `more`: definitions of assemblies, ranked among the others; browsing, they come last.
std::vector<const NodeDef*> searchCatalogue(std::string_view typed, const Uses& uses = {}, const std::vector<const NodeDef*>& more = {});

/// Whether a card reads an input, as its choices are.
bool readsInput(const Node& node, const NodeDef& def, const PortDef& port);
/// Whether a card shows an input: it reads it, or something is wired there.
bool showsInput(const Node& node, const NodeDef& def, const PortDef& port);
/// What a formula reads without a card: uv, time, pi and the like.
std::span<const std::string_view> formulaValues();
/// The functions of the formula card, for its page.
std::string formulaFunctionsTable();
/// The text of a setting of a node: its own, or the definition's standard.
std::string_view settingOf(const Node& node, const NodeDef& def, std::string_view key);
/// Value of an unwired input: the node's constant, or the definition's standard.
Value constantOf(const Node& node, const PortDef& port);

/// What a card is called: its own title, the name of its parameter or assembly, or that of its definition.
std::string cardTitle(const Project& project, const Master& board, const Node& node);
/// The same by id; "a missing card" when there is none.
std::string cardTitle(const Project& project, const Master& board, const Id& node);
/// An error's sentence, with the card that it is about where one knows no more of it than its id.
std::string sentenceWithCard(const Project& project, const Error& error);

/// A node of that kind with nothing set and a new id.
Node makeNode(std::string_view kind, Point position = {});
/// The card that leads a parameter: a Parameter card, or a Finish of card.
Node parameterCard(const Parameter& p, Point position = {});

// One function a family; each appends its definitions.
void addInputNodes(std::vector<NodeDef>&);
void addMapNodes(std::vector<NodeDef>&);
void addUvNodes(std::vector<NodeDef>&);
void addTimeNodes(std::vector<NodeDef>&);
void addMathNodes(std::vector<NodeDef>&);
void addFormulaNode(std::vector<NodeDef>&);
void addRangeNodes(std::vector<NodeDef>&);
void addLogicNodes(std::vector<NodeDef>&);
void addVectorNodes(std::vector<NodeDef>&);
void addSpaceNodes(std::vector<NodeDef>&);
void addColorNodes(std::vector<NodeDef>&);
void addCompositingNodes(std::vector<NodeDef>&);
void addNoiseNodes(std::vector<NodeDef>&);
void addSolidNoiseNodes(std::vector<NodeDef>&);
void addViewNodes(std::vector<NodeDef>&);
void addNormalNodes(std::vector<NodeDef>&);
void addFinishNodes(std::vector<NodeDef>&);
void addDecalNodes(std::vector<NodeDef>&);
void addNoteNode(std::vector<NodeDef>&);

} // namespace hue
