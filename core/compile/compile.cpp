#include "core/compile/graph_compiler.h"

namespace hue {

Compilation compileSurface(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).surface();
}
Compilation compileTaps(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).taps();
}
Compilation compileTap(const Project& project, const Master& master, const Source& wire) {
    return GraphCompiler(project, master).tap(wire);
}

} // namespace hue
