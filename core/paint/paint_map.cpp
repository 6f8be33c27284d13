#include "core/paint/paint_map.h"

#include <algorithm>
#include <cmath>

namespace hue {
namespace {

constexpr float kEmpty = -1;

/// Each empty texel gets the value of the nearest filled one: rings grow from all filled ones at once, over the edges of the square.
void fillAround(Plane& plane) {
    const int size = plane.width;
    std::vector<uint32_t> ring, next;
    for (uint32_t i = 0; i < plane.values.size(); ++i)
        if (plane.values[i] != kEmpty) ring.push_back(i);
    while (!ring.empty()) {
        next.clear();
        for (const uint32_t at : ring) {
            const int x = int(at) % size, y = int(at) / size;
            constexpr int steps[8][2] = {{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {-1, 1}, {1, -1}, {-1, -1}};
            for (const auto& [dx, dy] : steps) {
                float& there = plane.values[size_t((y + dy + size) % size) * size_t(size) + size_t((x + dx + size) % size)];
                if (there != kEmpty) continue;
                there = plane.values[at];
                next.push_back(uint32_t(&there - plane.values.data()));
            }
        }
        ring.swap(next);
    }
}

} // namespace

Result<PaintMap> mapOfPaint(const Mesh& mesh, const PaintChannel& channel, int size) {
    PaintMap out;
    out.values = Plane(size, size);
    std::fill(out.values.values.begin(), out.values.values.end(), kEmpty);
    std::vector<bool> twice(out.values.values.size());
    constexpr float kSame = 1.f / 255;
    for (size_t t = 0; t + 2 < mesh.indices.size(); t += 3) {
        double u[3], v[3], value[3];
        for (size_t k = 0; k < 3; ++k) {
            const Vertex& corner = mesh.vertices[mesh.indices[t + k]];
            u[k] = double(corner.uv0[0]) * size - 0.5, v[k] = double(corner.uv0[1]) * size - 0.5;
            value[k] = double(channel[mesh.indices[t + k]]);
        }
        const double area = (u[1] - u[0]) * (v[2] - v[0]) - (u[2] - u[0]) * (v[1] - v[0]);
        const double width = *std::max_element(u, u + 3) - *std::min_element(u, u + 3),
                     height = *std::max_element(v, v + 3) - *std::min_element(v, v + 3);
        // What spans more than the square repeats on itself.
        if (area == 0 || !std::isfinite(area) || width > size || height > size) continue;
        for (int y = int(std::ceil(*std::min_element(v, v + 3))); y <= int(std::floor(*std::max_element(v, v + 3))); ++y)
            for (int x = int(std::ceil(*std::min_element(u, u + 3))); x <= int(std::floor(*std::max_element(u, u + 3))); ++x) {
                const double w1 = ((x - u[0]) * (v[2] - v[0]) - (u[2] - u[0]) * (y - v[0])) / area;
                const double w2 = ((u[1] - u[0]) * (y - v[0]) - (x - u[0]) * (v[1] - v[0])) / area, w0 = 1 - w1 - w2;
                if (w0 < -1e-9 || w1 < -1e-9 || w2 < -1e-9) continue;
                const auto wrapped = [&](int c) { return size_t(((c % size) + size) % size); };
                const size_t at = wrapped(y) * size_t(size) + wrapped(x);
                const auto here = float(w0 * value[0] + w1 * value[1] + w2 * value[2]);
                float& there = out.values.values[at];
                if (there != kEmpty && std::fabs(there - here) > kSame) twice[at] = true;
                there = std::clamp(here, 0.f, 1.f);
            }
    }
    const auto covered = size_t(std::count_if(out.values.values.begin(), out.values.values.end(), [](float x) { return x != kEmpty; }));
    if (!covered)
        return Error{
            "paint.no-uvs", "No triangle of the mesh has room in its UVs, so its paint has no place on a map. Unwrap the mesh.", {}};
    out.covered = float(covered) / float(out.values.values.size());
    out.ambiguous = float(std::count(twice.begin(), twice.end(), true)) / float(covered);
    fillAround(out.values);
    return out;
}

} // namespace hue
