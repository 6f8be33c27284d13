#include "core/mesh/uv_layout.h"

#include "core/images/sheet.h"

#include <algorithm>
#include <cmath>

namespace hue {

std::optional<UvLayout> UvLayout::of(const Mesh& mesh, const MeshSlot& slot, int size, int set) {
    UvLayout out(size);
    out.lay(mesh, slot, set);
    if (!out.m_held) return {};
    out.continueAround();
    return out;
}

void UvLayout::lay(const Mesh& mesh, const MeshSlot& slot, int set) {
    const int size = m_size;
    std::vector<bool> taken(m_texels.size());
    for (uint32_t t = slot.firstIndex; t + 2 < slot.firstIndex + slot.indexCount; t += 3) {
        double u[3], v[3];
        for (uint32_t k = 0; k < 3; ++k) {
            const Vertex& corner = mesh.vertices[mesh.indices[t + k]];
            const auto& uv = set == 1 ? corner.uv1 : corner.uv0;
            u[k] = double(uv[0]) * size - 0.5, v[k] = double(uv[1]) * size - 0.5;
        }
        const auto [left, right] = std::minmax({u[0], u[1], u[2]});
        const auto [top, bottom] = std::minmax({v[0], v[1], v[2]});
        const double area = (u[1] - u[0]) * (v[2] - v[0]) - (u[2] - u[0]) * (v[1] - v[0]);
        // What spans more than the square repeats on itself.
        if (area == 0 || !std::isfinite(area) || right - left > size || bottom - top > size) continue;
        for (int y = int(std::ceil(top)); y <= int(std::floor(bottom)); ++y)
            for (int x = int(std::ceil(left)); x <= int(std::floor(right)); ++x) {
                const double second = ((x - u[0]) * (v[2] - v[0]) - (u[2] - u[0]) * (y - v[0])) / area;
                const double third = ((u[1] - u[0]) * (y - v[0]) - (x - u[0]) * (v[1] - v[0])) / area, first = 1 - second - third;
                constexpr double edge = 1e-9;
                if (first < -edge || second < -edge || third < -edge) continue;
                const auto wrapped = [&](int c) { return size_t(((c % size) + size) % size); };
                const size_t place = wrapped(y) * size_t(size) + wrapped(x);
                UvTexel& texel = m_texels[place];
                // Triangles that share an edge may both hold what lies on it.
                const bool inside = first > 1e-6 && second > 1e-6 && third > 1e-6;
                if (texel.triangle == UvTexel::kNone) ++m_held;
                else if (inside && !taken[place]) {
                    taken[place] = true;
                    m_covered.emplace_back(uint32_t(place), texel);
                }
                texel = {t, float(second), float(third), 0, 0};
            }
    }
}

void UvLayout::continueAround() {
    std::vector<bool> held(m_texels.size());
    for (size_t i = 0; i < m_texels.size(); ++i) held[i] = m_texels[i].triangle != UvTexel::kNone;
    const std::vector<uint32_t> from = nearestSeen(held, m_size, m_size, true);
    // By the shorter way around the square.
    const auto apart = [&](int to, int other) {
        const int d = to - other, half = m_size / 2;
        return int16_t(d > half ? d - m_size : d < -half ? d + m_size : d);
    };
    for (uint32_t i = 0; i < m_texels.size(); ++i) {
        if (held[i]) continue;
        m_texels[i] = m_texels[from[i]];
        m_texels[i].right = apart(int(i) % m_size, int(from[i]) % m_size);
        m_texels[i].down = apart(int(i) / m_size, int(from[i]) / m_size);
    }
}

} // namespace hue
