#include "core/paint/carry_over.h"

#include "core/base/vectors.h"
#include "core/base/work.h"
#include "core/mesh/surface_rays.h"

#include <algorithm>

namespace hue {

CarriedPaint carriedOver(const PaintData& from, const MeshPtr& to) {
    const SurfaceRays old(from.surface());
    std::vector<int> painted;
    std::vector<std::vector<float>> before, after;
    for (int c = 0; c < PaintData::kPlanes; ++c)
        if (from.isPainted(c)) {
            painted.push_back(c);
            before.push_back(from.channel(c));
            after.emplace_back(to->vertices.size());
        }
    std::vector<float> distances(to->vertices.size());
    forEach(to->vertices.size(), [&](size_t v) {
        const Rgb& at = to->vertices[v].position;
        const auto facing = directionOf(to->vertices[v].normal);
        std::optional<MeshPoint> point = facing ? old.nearest(at, &*facing) : std::nullopt;
        if (!point) point = old.nearest(at);
        if (!point) return; // the old mesh had no surface
        distances[v] = point->distance;
        for (size_t k = 0; k < painted.size(); ++k)
            for (size_t corner = 0; corner < 3; ++corner)
                after[k][v] += point->weights[corner] * before[k][from.surface()->indices[3 * size_t(point->triangle) + corner]];
    });
    PaintData paint(to, from.bits());
    for (size_t k = 0; k < painted.size(); ++k) paint = paint.with(painted[k], after[k]);
    return {std::move(paint), distances.empty() ? 0 : *std::max_element(distances.begin(), distances.end())};
}

PaintDataPtr paintOn(const MeshPtr& mesh, const PaintDataPtr& paint) {
    if (!paint) return std::make_shared<PaintData>(mesh);
    if (paint->surface() == mesh) return paint;
    return std::make_shared<PaintData>(fits(*paint, mesh) ? paint->withSurface(mesh) : carriedOver(*paint, mesh).paint);
}

} // namespace hue
