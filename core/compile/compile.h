#pragma once
// Graph -> Program.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/wires.h"
#include "core/nodes/catalogue.h"
#include "core/program/passes/passes.h"
#include "core/program/passes/vertex_split.h"
#include "core/program/program.h"

namespace hue {

struct PortInfo {
    int width = 0; ///< kMapPort for a map
    Meaning meaning = Meaning::Any;
    Rate rate = Rate::Frame;
};

struct CardCost {
    int operations = 0;
    int fetches = 0;
    Rate rate = Rate::Frame; ///< the highest of what remains of the node
};

struct Compilation {
    std::shared_ptr<const Program> program;               ///< always valid; where something is wrong a neutral value stands in
    std::shared_ptr<const Program> offset;                ///< of the vertices, beside a surface; null when nothing moves them
    std::vector<Diagnostic> diagnostics;                  ///< in the order of the graph
    bool ok = true;                                       ///< no diagnostic is an error
    std::map<Id, CardCost> cards;                         ///< of nodes that leave something in the Program
    std::map<std::pair<Id, std::string>, PortInfo> ports; ///< outputs by node and port
    std::map<Id, std::string> atFault;                    ///< cards with an error, or with one within, and its sentence
};

/// The Programs of the two stages: what pixels compute, and what is computed at the vertices: outputs vertex_offset, carried0 and on
/// (core/program/passes/vertex_split.h); null where nothing is.
struct Stages {
    std::shared_ptr<const Program> pixels, vertices;
};
Stages stagesOf(const Compilation& compiled, Carry carry = Carry::All);

/// Whether the values of unwired ports are folded in, or stay open so that changing them needs no compile.
enum class Constants { Folded, Live };

/// Live constants are parameters of the Program with names of this form; `node` is empty for a channel.
Id liveConstantName(const Id& node, std::string_view port);
/// The value behind a live constant's name; false for the id of a real parameter. Within assemblies the node is a way: "card/card".
bool liveConstantValue(const Project& project, const Master& master, const Id& name, Value& value);
/// Equal for two states of a master exactly when compiling them with live constants gives the same Program. Holds the assemblies as well.
std::string structureKey(const Project& project, const Master& master);

/// How often a graph was compiled since the program started; turning the camera must not change it.
int compilationsDone();

/// Something is wired to the vertex offset, or set, and it is not muted.
bool movesVertices(const Master& master);
// Assemblies are compiled as if their cards stood on the board. What is told of cards (costs, ports, names of outputs) is told of those of
// the board; with a `path` ("card/card", see core/compile/opened_graph.h) of those of the assembly that it leads to, with the values that
// it gets there.

/// The surface: one output for each channel that is wired, set, or has a default; named by the channel's key. The offset of the vertices
/// is a Program of its own, whose diagnostics and cards stand with the others; its cards cost per vertex.
Compilation compileSurface(const Project& project, const Master& master, Constants constants = Constants::Folded,
                           const PassOptions& passes = {}, const Id& path = {});
/// Every numeric output of every node, named "node.port"; for swatches, widths and rates of the whole board.
Compilation compileTaps(const Project& project, const Master& master, Constants constants = Constants::Folded, const Id& path = {});
/// One wire, as the output "tap".
Compilation compileTap(const Project& project, const Master& master, const Source& wire, Constants constants = Constants::Folded,
                       const Id& path = {});
/// One channel alone, named by its key.
Compilation compileChannel(const Project& project, const Master& master, std::string_view channel, Constants constants = Constants::Folded);

} // namespace hue
