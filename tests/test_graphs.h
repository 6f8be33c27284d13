#pragma once
// Graphs for tests: one node with all inputs fed, and random ones.
#include "core/compile/compile.h"
#include "core/edits/edits.h"
#include "core/evaluate/evaluator.h"
#include "tests/places.h"

#include <random>

namespace hue::test {

/// A project with one master "M" (id "m").
Project bareProject();
const Master& masterOf(const Project& project);

/// Adds a card and returns its id; fails the test run when it is refused.
Id add(Project& project, std::string_view kind, std::map<std::string, Value> constants = {},
       std::map<std::string, std::string> settings = {});
void wire(Project& project, const Source& from, const Id& node, const std::string& port);
void channel(Project& project, const Source& from, const std::string& key);

/// A graph around one node whose inputs get smooth, well-conditioned functions of UV. `width` is that of its ports of
/// any width. Returns the node's id.
Id feedNode(Project& project, const NodeDef& def, const std::map<std::string, std::string>& settings, int width);
/// All combinations of a definition's choices.
std::vector<std::map<std::string, std::string>> settingsOf(const NodeDef& def);

/// A random graph of continuous nodes, each limited to -4..4, that ends in base color and roughness.
Project randomGraph(uint32_t seed, int nodes);

/// A project with assemblies "a1", "a2" ... in which each holds `copies` of the next; the last holds a noise. A card for the first leads to
/// roughness.
Project towerOf(int levels, int copies);

/// What a wire carries over the flat square, `size` pixels a side, by the CPU: interleaved, of the wire's width. Fails the test run
/// when the graph has errors. `codes` receives those of all diagnostics.
std::vector<float> overSquare(const Project& project, const Source& wire, int size, const MapPtr& map = nullptr, double time = 0,
                              std::vector<std::string>* codes = nullptr);

/// The same of an output of a Program, of `width` components.
std::vector<float> overSquare(const Evaluator& evaluator, const FrameInputs& inputs, const std::string& output, int width, int size);

/// The codes of diagnostics.
std::vector<std::string> codesOf(const std::vector<Diagnostic>& list);
bool holds(const std::vector<std::string>& list, const std::string& entry);

} // namespace hue::test
