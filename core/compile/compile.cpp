#include "core/compile/graph_compiler.h"

#include <atomic>
#include <set>
#include <tuple>

namespace hue {
namespace {

std::atomic<int> g_compilations = 0;

GraphCompiler counted(const Project& project, const Master& master, Constants constants, const Id& path = {}) {
    ++g_compilations;
    return GraphCompiler(project, master, constants, path);
}

} // namespace

Stages stagesOf(const Compilation& compiled, Carry carry) {
    const VertexSplit split = splitAtVertices(compiled.program, carry);
    if (!split.vertices || !compiled.offset) return {split.surface, split.vertices ? split.vertices : compiled.offset};
    return {split.surface, joined(*compiled.offset, *split.vertices)};
}

int compilationsDone() { return g_compilations; }

bool movesVertices(const Master& master) {
    const Graph& g = master.graph;
    if (std::find(g.mutedChannels.begin(), g.mutedChannels.end(), "vertex_offset") != g.mutedChannels.end()) return false;
    if (g.channelWires.contains("vertex_offset")) return true;
    const auto it = g.channelConstants.find("vertex_offset");
    return it != g.channelConstants.end() && it->second != Value::vec3(0, 0, 0);
}

Compilation compileSurface(const Project& project, const Master& master, Constants constants, const PassOptions& passes, const Id& path) {
    GraphCompiler compiler = counted(project, master, constants, path);
    PassOptions ofPixels = passes;
    ofPixels.toVertices = constants == Constants::Folded; // open constants may be anything: what is cheaper is not known yet
    compiler.setPasses(ofPixels);
    Compilation out = compiler.surface();
    if (!movesVertices(master)) return out;
    GraphCompiler vertices(project, master, constants, path);
    vertices.setPasses(passes);
    Compilation offset = vertices.channel("vertex_offset");
    out.offset = std::move(offset.program);
    out.ok = out.ok && offset.ok;
    std::set<std::tuple<std::string, Id, std::string>> told;
    for (const Diagnostic& d : out.diagnostics) told.emplace(d.code, d.place.node, d.place.port);
    for (Diagnostic& d : offset.diagnostics)
        if (told.emplace(d.code, d.place.node, d.place.port).second) out.diagnostics.push_back(std::move(d));
    for (auto& [id, card] : offset.cards) {
        card.rate = std::min(card.rate, Rate::Vertex);
        out.cards.emplace(id, card); // what a card costs per pixel weighs more
    }
    out.atFault.merge(offset.atFault);
    for (auto& [key, port] : offset.ports) {
        port.rate = std::min(port.rate, Rate::Vertex);
        out.ports.emplace(key, port);
    }
    return out;
}
Compilation compileTaps(const Project& project, const Master& master, Constants constants, const Id& path) {
    return counted(project, master, constants, path).taps();
}
Compilation compileTap(const Project& project, const Master& master, const Source& wire, Constants constants, const Id& path) {
    return counted(project, master, constants, path).tap(wire);
}
Compilation compileChannel(const Project& project, const Master& master, std::string_view channel, Constants constants) {
    return counted(project, master, constants).channel(channel);
}

} // namespace hue
