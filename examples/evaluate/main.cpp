// Wires a graph, compiles it, and evaluates a channel of its surface on the CPU: the mean roughness of a ramp along U.
#include "core/compile/compile.h"
#include "core/edits/edits.h"
#include "core/edits/starting_points.h"
#include "core/evaluate/evaluator.h"
#include "core/nodes/catalogue.h"

#include <atomic>
#include <cstdio>

int main() {
    using namespace hue;
    // Every edit takes a state of the project and gives the next one, or says why not.
    Result<Project> project = makeProject("empty");
    const Id master = project->masters[0]->id;
    const Node uv = makeNode("texcoord");
    project = edit::addNode(*project, master, uv);
    if (project) project = edit::connectChannel(*project, master, {uv.id, "out", "x"}, "roughness");
    if (!project) {
        std::fprintf(stderr, "%s\n", project.error().sentence.c_str());
        return 1;
    }
    const Compilation compiled = compileSurface(*project, *project->master(master));
    for (const Diagnostic& d : compiled.diagnostics) std::fprintf(stderr, "%s\n", d.sentence.c_str());
    const Evaluator evaluator(compiled.program);
    constexpr int side = 256;
    std::atomic<double> sum = 0;
    evaluator.grid(evaluator.frame({}), {"roughness"}, side, side, FlatSquare(side, side),
                   [&](int, int, int columns, int rows, const float* const* planes) {
                       double here = 0;
                       for (int r = 0; r < rows; ++r)
                           for (int i = 0; i < columns; ++i) here += double(planes[0][r * kBlockColumns + i]);
                       for (double before = sum; !sum.compare_exchange_weak(before, before + here);) {}
                   },
                   {});
    std::printf("mean roughness %.3f over %d pixels\n", sum / (side * side), side * side);
    return compiled.ok ? 0 : 1;
}
