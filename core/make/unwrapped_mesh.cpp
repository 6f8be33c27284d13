#include "core/make/unwrapped_mesh.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {

Result<UnwrappedMesh> UnwrappedMesh::of(MeshPtr mesh, const MeshSlot& slot, int size, int set) {
    if (set == 1 && !mesh->hasUv1)
        return Error{"bake.no-uvs", "The mesh has no second UV set. Unwrap it into one, or bake over the first.", {}};
    std::optional<UvLayout> layout = UvLayout::of(*mesh, slot, size, set);
    if (!layout)
        return Error{"bake.no-uvs",
                     fmt::format("No triangle of {} has room in the mesh's UVs, so nothing of it has a place on a map. Unwrap the mesh.",
                                 slot.name.empty() ? std::string("the mesh") : "the slot " + slot.name),
                     {}};
    return UnwrappedMesh(std::move(mesh), std::move(*layout), set);
}

float UnwrappedMesh::shared() const { return float(m_layout.covered().size()) / float(m_layout.held()); }

Rgb UnwrappedMesh::direction(const UvTexel& t, Attribute which) const {
    Rgb out;
    for (size_t c = 0; c < 3; ++c)
        out[c] = t.mixed(*m_mesh, [&](uint32_t at) {
            const Vertex& v = m_mesh->vertices[at];
            if (which == Attribute::NormalWorld) return v.normal[c];
            if (which == Attribute::TangentWorld) return v.tangent[c];
            const Rgb tangent{v.tangent[0], v.tangent[1], v.tangent[2]};
            return cross(v.normal, tangent)[c] * v.tangent[3];
        });
    const Vertex& first = m_mesh->vertices[m_mesh->indices[t.triangle]];
    return directionOf(out).value_or(which == Attribute::NormalWorld ? first.normal
                                                                     : Rgb{first.tangent[0], first.tangent[1], first.tangent[2]});
}

void UnwrappedMesh::fill(int x, int y, Attribute attribute, int component, float* lanes) const {
    const auto c = size_t(component);
    const int size = m_layout.size();
    const auto each = [&](const auto& value) {
        for (int r = 0; r < kBlockRows; ++r)
            for (int i = 0; i < kBlockColumns; ++i)
                lanes[r * kBlockColumns + i] = value(m_layout.at(std::min(x + i, size - 1), std::min(y + r, size - 1)), x + i, y + r);
    };
    const auto even = [&](float value) { std::fill_n(lanes, kBlockLanes, value); };
    const auto texel = 1 / float(size);
    switch (attribute) {
    case Attribute::Uv0:
    case Attribute::Uv1: {
        const int set = attribute == Attribute::Uv1;
        const float further = set == m_set ? texel : 0;
        return each([&](const UvTexel& t, int, int) {
            const auto of = [&](uint32_t v) { return (set ? m_mesh->vertices[v].uv1 : m_mesh->vertices[v].uv0)[c]; };
            return t.mixed(*m_mesh, of) + float(component == 0 ? t.right : t.down) * further;
        });
    }
    case Attribute::Color:
        return each([&](const UvTexel& t, int, int) { return t.mixed(*m_mesh, [&](uint32_t v) { return m_mesh->vertices[v].color[c]; }); });
    case Attribute::Painted:
        if (!m_mesh->hasColors) return even(0);
        return each([&](const UvTexel& t, int, int) { return t.mixed(*m_mesh, [&](uint32_t v) { return m_mesh->vertices[v].color[c]; }); });
    case Attribute::PaintedSecond:
        return each(
            [&](const UvTexel& t, int, int) { return t.mixed(*m_mesh, [&](uint32_t v) { return m_mesh->vertices[v].color1[c]; }); });
    case Attribute::PositionWorld:
    case Attribute::PositionObject:
        return each(
            [&](const UvTexel& t, int, int) { return t.mixed(*m_mesh, [&](uint32_t v) { return m_mesh->vertices[v].position[c]; }); });
    case Attribute::NormalWorld:
    case Attribute::NormalObject:
    case Attribute::View: return each([&](const UvTexel& t, int, int) { return direction(t, Attribute::NormalWorld)[c]; });
    case Attribute::TangentWorld:
    case Attribute::BitangentWorld: return each([&](const UvTexel& t, int, int) { return direction(t, attribute)[c]; });
    case Attribute::Screen: return each([&](const UvTexel&, int px, int py) { return (float(component == 0 ? px : py) + 0.5f) * texel; });
    case Attribute::DepthGap: return even(kNothingBehind);
    case Attribute::Side: return even(1);
    case Attribute::Carried0:
    case Attribute::Carried1:
    case Attribute::Carried2:
    case Attribute::Carried3:
    case Attribute::Count: return even(0);
    }
}

Rgb UnwrappedMesh::inFrame(int x, int y, const Rgb& d) const {
    const UvTexel& t = m_layout.at(x, y);
    const auto tangent = direction(t, Attribute::TangentWorld), bitangent = direction(t, Attribute::BitangentWorld),
               normal = direction(t, Attribute::NormalWorld);
    // What the three, scaled and added, give: they need not stand upright on each other.
    const auto across = cross(bitangent, normal);
    const float volume = dot(tangent, across);
    if (std::fabs(volume) < 1e-6f) return {0, 0, 1};
    return directionOf(scaled({dot(d, across), dot(d, cross(normal, tangent)), dot(d, cross(tangent, bitangent))}, 1 / volume))
        .value_or(Rgb{0, 0, 1});
}

} // namespace hue
