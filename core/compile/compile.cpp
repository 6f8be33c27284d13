#include "core/compile/graph_compiler.h"

namespace hue {

Compilation compileSurface(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).surface();
}
Compilation compileTaps(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).taps();
}
Compilation compileTap(const Project& project, const Master& master, const Source& wire, Constants constants) {
    return GraphCompiler(project, master, constants).tap(wire);
}
Compilation compileChannel(const Project& project, const Master& master, std::string_view channel, Constants constants) {
    return GraphCompiler(project, master, constants).channel(channel);
}

} // namespace hue
