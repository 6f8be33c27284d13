#include "core/paint/wire_values.h"

#include "core/compile/compile.h"
#include "core/project/frame_inputs.h"
#include "core/surface/at_vertices.h"

#include <fmt/format.h>

namespace hue {

Result<std::vector<float>> wireAtVertices(const Project& project, Assets& assets, const Id& worn, const Source& wire, const Mesh& mesh,
                                          double time) {
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master || !resolved.master->graph.find(wire.node))
        return Error{"paint.wire", fmt::format("There is no card {} to paint by. Choose a wire of the master.", wire.node), {}};
    const Place place{resolved.master->id, wire.node, wire.port};
    const Compilation compiled = compileTap(project, *resolved.master, wire);
    for (const Diagnostic& d : compiled.diagnostics)
        if (d.severity == Severity::Error)
            return Error{"paint.wire", fmt::format("Nothing can be painted by {}: {}", resolved.master->name, d.sentence), d.place};
    if (compiled.program->output("tap") < 0)
        return Error{"paint.wire",
                     fmt::format("{}.{} carries a map, not numbers. Paint by a wire behind a card that reads it.", wire.node, wire.port),
                     place};
    const Evaluator evaluator(compiled.program);
    const Frame frame = evaluator.frame(frameInputs(project, assets, resolved, time));
    std::vector<float> out(mesh.vertices.size(), 0);
    for (const MeshSlot& slot : mesh.slots)
        atVertices(evaluator, frame, mesh, slot, {"tap"}, kWorld,
                   [&](uint32_t v, const float* const* planes, size_t lane) { out[v] = planes[0][lane]; });
    return out;
}

Result<WornWire> wornWire(const Project& project, const Specimen& specimen, const std::string& words) {
    std::vector<std::string> parts{""};
    for (const char c : words)
        if (c == '.' && parts.size() < 3) parts.emplace_back();
        else parts.back() += c;
    parts.resize(3);
    for (const Id& worn : specimen.wears) {
        const Master* master = project.masterOf(worn);
        if (!master) continue;
        for (const auto& [id, node] : master->graph.nodes)
            if (id == parts[0] || node->title == parts[0]) return WornWire{worn, {id, parts[1].empty() ? "out" : parts[1], parts[2]}};
    }
    return Error{
        "paint.wire", fmt::format("Nothing that the specimen wears has a card {}. Take the title of a card from the board.", parts[0]), {}};
}

} // namespace hue
