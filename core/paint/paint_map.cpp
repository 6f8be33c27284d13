#include "core/paint/paint_map.h"

#include "core/mesh/uv_layout.h"

#include <algorithm>
#include <cmath>

namespace hue {
Result<PaintMap> mapOfPaint(const Mesh& mesh, const PaintChannel& channel, int size) {
    const std::optional<UvLayout> layout = UvLayout::of(mesh, {{}, 0, uint32_t(mesh.indices.size())}, size);
    if (!layout)
        return Error{
            "paint.no-uvs", "No triangle of the mesh has room in its UVs, so its paint has no place on a map. Unwrap the mesh.", {}};
    const auto value = [&](const UvTexel& t) {
        return std::clamp(t.mixed(mesh, [&](uint32_t vertex) { return channel[vertex]; }), 0.f, 1.f);
    };
    PaintMap out;
    out.values = Plane(size, size);
    std::transform(layout->texels().begin(), layout->texels().end(), out.values.values.begin(), value);
    out.covered = float(layout->held()) / float(layout->texels().size());
    // What several triangles hold is told where they differ.
    constexpr float kSame = 1.f / 255;
    const auto differing = std::count_if(layout->covered().begin(), layout->covered().end(),
                                         [&](const auto& c) { return std::fabs(value(c.second) - out.values.values[c.first]) > kSame; });
    out.ambiguous = float(differing) / float(layout->held());
    return out;
}

} // namespace hue
