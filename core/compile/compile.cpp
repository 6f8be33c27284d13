#include "core/compile/graph_compiler.h"

#include <atomic>

namespace hue {
namespace {

std::atomic<int> g_compilations = 0;

GraphCompiler counted(const Project& project, const Master& master, Constants constants) {
    ++g_compilations;
    return GraphCompiler(project, master, constants);
}

} // namespace

int compilationsDone() { return g_compilations; }

Compilation compileSurface(const Project& project, const Master& master, Constants constants, const PassOptions& passes) {
    GraphCompiler compiler = counted(project, master, constants);
    compiler.setPasses(passes);
    return compiler.surface();
}
Compilation compileTaps(const Project& project, const Master& master, Constants constants) {
    return counted(project, master, constants).taps();
}
Compilation compileTap(const Project& project, const Master& master, const Source& wire, Constants constants) {
    return counted(project, master, constants).tap(wire);
}
Compilation compileChannel(const Project& project, const Master& master, std::string_view channel, Constants constants) {
    return counted(project, master, constants).channel(channel);
}

} // namespace hue
