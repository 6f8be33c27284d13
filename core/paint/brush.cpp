#include "core/paint/brush.h"

#include "core/base/vectors.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace hue {
namespace {

constexpr uint32_t kNone = UINT32_MAX;

Rgb mirrored(Rgb v, int axis) {
    v[size_t(axis)] = -v[size_t(axis)];
    return v;
}

Rgb between(const Rgb& a, const Rgb& b, float t) { return sum(scaled(a, 1 - t), scaled(b, t)); }

} // namespace

float brushProfile(float distance, float softEdge) {
    if (!(distance < 1)) return 0;
    const float inner = 1 - std::clamp(softEdge, 0.f, 1.f);
    if (distance <= inner) return 1;
    const float t = (1 - distance) / (1 - inner);
    return t * t * (3 - 2 * t);
}

PaintSurface::PaintSurface(MeshPtr mesh)
    : m_mesh(std::move(mesh)), m_bounds(boundsOf(*m_mesh)), m_rays(m_mesh), m_neighbours(*m_mesh), m_grid(m_neighbours, m_bounds) {
    const size_t places = m_neighbours.places(), vertices = m_mesh->vertices.size();
    m_normals.assign(places, Rgb{});
    m_firstVertex.assign(places + 1, 0);
    for (uint32_t v = 0; v < vertices; ++v) {
        const uint32_t place = m_neighbours.placeOf(v);
        ++m_firstVertex[place + 1];
        m_normals[place] = sum(m_normals[place], m_mesh->vertices[v].normal);
    }
    for (Rgb& n : m_normals) n = directionOf(n).value_or(Rgb{});
    for (size_t p = 0; p < places; ++p) m_firstVertex[p + 1] += m_firstVertex[p];
    m_vertices.resize(vertices);
    std::vector<uint32_t> next(m_firstVertex.begin(), m_firstVertex.end() - 1);
    for (uint32_t v = 0; v < vertices; ++v) m_vertices[next[m_neighbours.placeOf(v)]++] = v;
    m_slots.assign(vertices, 0);
    for (size_t s = 0; s < m_mesh->slots.size(); ++s)
        for (uint32_t i = 0; i < m_mesh->slots[s].indexCount; ++i)
            m_slots[m_mesh->indices[m_mesh->slots[s].firstIndex + i]] |= uint64_t(1) << std::min<size_t>(s, 63);
}

void PaintSurface::touched(const Rgb& middle, uint32_t triangle, const Rgb& towardsViewer, const Brush& brush,
                           std::vector<Touched>& out) const {
    static thread_local std::vector<PlaceGrid::Near> near;
    near.clear();
    if (brush.connected) {
        uint32_t corners[3];
        for (size_t k = 0; k < 3; ++k) corners[k] = m_neighbours.placeOf(m_mesh->indices[3 * size_t(triangle) + k]);
        m_grid.connected(corners, middle, brush.radius, near);
    } else {
        m_grid.within(middle, brush.radius, near);
    }
    out.clear();
    const float inner = (1 - brush.softEdge) * brush.radius;
    for (const PlaceGrid::Near& n : near) {
        const float share = n.square <= inner * inner ? 1.f : brushProfile(std::sqrt(n.square) / brush.radius, brush.softEdge);
        if (share > 0 && (!brush.facing || dot(m_normals[n.place], towardsViewer) > 0)) out.push_back({n.place, share});
    }
}

bool PaintSurface::allows(const Brush& brush, const PaintData& paint, uint32_t vertex) const {
    if (brush.slot >= 0 && !isOfSlot(vertex, brush.slot)) return false;
    if (brush.maskChannel < 0) return true;
    // A step of the paint is the least that can be meant.
    const float slack = 0.5f / 255, value = paint.value(brush.maskChannel, vertex);
    return value >= brush.maskLow - slack && value <= brush.maskHigh + slack;
}

size_t PaintSurface::reached(const MeshPoint& at, const Rgb& towardsViewer, const Brush& brush, const PaintData& paint) const {
    static thread_local std::vector<Touched> found;
    touched(at.position, at.triangle, towardsViewer, brush, found);
    size_t count = 0;
    for (const Touched& t : found)
        for (const uint32_t v : verticesOf(t.place)) count += allows(brush, paint, v);
    return count;
}

PaintStroke::PaintStroke(const PaintSurface& surface, const PaintData& paint, int channel, const Brush& brush)
    : m_surface(surface), m_before(paint), m_channel(channel), m_brush(brush), m_entryOf(paint.vertices(), kNone) {}

float PaintStroke::value(uint32_t vertex) const {
    const uint32_t entry = m_entryOf[vertex];
    return entry == kNone ? m_before.value(m_channel, vertex) : m_entries[entry].now;
}

float PaintStroke::placeValue(uint32_t place) const {
    const auto vertices = m_surface.verticesOf(place);
    float all = 0;
    for (const uint32_t v : vertices) all += value(v);
    return vertices.empty() ? 0 : all / float(vertices.size());
}

PaintStroke::Entry& PaintStroke::entryOf(uint32_t vertex) {
    uint32_t& at = m_entryOf[vertex];
    if (at == kNone) {
        at = uint32_t(m_entries.size());
        const float before = m_before.value(m_channel, vertex);
        m_entries.push_back({vertex, before, before});
    }
    return m_entries[at];
}

void PaintStroke::moveTo(const Ray& sight) {
    const auto met = [&](const Ray& ray) { return m_surface.rays().hit(ray); };
    const auto towardsViewer = [](const Ray& ray) { return scaled(directionOf(ray.towards).value_or(Rgb{0, 0, -1}), -1); };
    const float spacing = std::max(m_brush.radius / 5, std::numeric_limits<float>::min());
    const auto putDown = [&](const MeshPoint& at, const Ray& ray) {
        touch(at.position, at.triangle, towardsViewer(ray));
        m_left = spacing;
    };
    if (!m_last) {
        m_last = sight;
        m_at = met(sight);
        if (m_at) putDown(*m_at, sight);
        return;
    }
    const Ray from = *m_last;
    const std::optional<MeshPoint> end = met(sight);
    // Steps of no more than a touch; where the surface ends on the way, as many as find where.
    constexpr int kMostSteps = 512, kLooking = 64;
    int steps = kLooking;
    if (m_at && end) {
        const float far = lengthOf(difference(end->position, m_at->position)) / spacing;
        steps = far < float(kMostSteps) ? std::max(1, int(std::ceil(far))) : kMostSteps;
    }
    for (int k = 1; k <= steps; ++k) {
        const float t = float(k) / float(steps);
        const Ray ray = k == steps ? sight : Ray{between(from.from, sight.from, t), between(from.towards, sight.towards, t)};
        const std::optional<MeshPoint> here = k == steps ? end : met(ray);
        if (!here) {
            m_at.reset();
            continue;
        }
        const float length = m_at ? lengthOf(difference(here->position, m_at->position)) : 0;
        // What lies behind an edge is no way along the surface.
        constexpr float kJump = 8;
        if (!m_at || length > kJump * spacing) {
            m_lastTouched.reset();
            putDown(*here, ray);
        } else {
            float gone = 0;
            while (m_left <= length - gone) {
                gone += m_left;
                touch(between(m_at->position, here->position, length > 0 ? gone / length : 1), here->triangle, towardsViewer(ray));
                m_left = spacing;
            }
            m_left -= length - gone;
        }
        m_at = here;
    }
    m_last = sight;
}

void PaintStroke::touch(const Rgb& middle, uint32_t triangle, const Rgb& towardsViewer) {
    const Rgb moved = m_lastTouched ? difference(middle, *m_lastTouched) : Rgb{};
    m_lastTouched = middle;
    touchSide(middle, triangle, towardsViewer, moved);
    if (m_brush.mirror < 0 || m_brush.mirror > 2) return;
    const Rgb other = mirrored(middle, m_brush.mirror);
    const std::optional<MeshPoint> there = m_surface.rays().nearest(other);
    if (there && there->distance < m_brush.radius)
        touchSide(other, there->triangle, mirrored(towardsViewer, m_brush.mirror), mirrored(moved, m_brush.mirror));
}

void PaintStroke::touchSide(const Rgb& middle, uint32_t triangle, const Rgb& towardsViewer, const Rgb& moved) {
    m_surface.touched(middle, triangle, towardsViewer, m_brush, m_touched);
    const MeshNeighbours& neighbours = m_surface.neighbours();
    // Those that read what lies around them read it as it was before the touch.
    const bool reads = m_brush.does == Brush::Does::Smooth || m_brush.does == Brush::Does::Smear;
    m_next.clear();
    if (reads)
        for (const PaintSurface::Touched& t : m_touched) {
            float all = 0, weights = 0;
            for (const uint32_t n : neighbours.around(t.place)) {
                const Rgb way = difference(neighbours.position(n), neighbours.position(t.place));
                const float far = lengthOf(way), along = far > 0 ? -dot(way, moved) / far : 0;
                // A mean of all around; or of those that the brush comes from, each as far as it lies in that direction.
                const float weight = m_brush.does == Brush::Does::Smooth ? 1 : std::max(0.f, along);
                const float step = m_brush.does == Brush::Does::Smooth ? 1 : far;
                if (!(weight > 0) || !(step > 0)) continue;
                all += weight * placeValue(n);
                weights += weight;
            }
            m_next.push_back(weights > 0 ? all / weights : placeValue(t.place));
        }
    // Smearing goes as far as the brush did: all of the way to what lies around where that is as near as the brush has moved.
    const float edge = std::sqrt(neighbours.meanSquareEdge()), gone = edge > 0 ? std::min(1.f, lengthOf(moved) / edge) : 0;
    const float buildUp = std::clamp(m_brush.buildUp, 0.f, 1.f);
    const bool anywhere = m_brush.slot < 0 && m_brush.maskChannel < 0;
    for (size_t k = 0; k < m_touched.size(); ++k) {
        const PaintSurface::Touched& t = m_touched[k];
        const float share = t.share * m_brush.weight;
        if (!(share > 0)) continue;
        for (const uint32_t v : m_surface.verticesOf(t.place)) {
            if (!anywhere && !m_surface.allows(m_brush, m_before, v)) continue;
            Entry& e = entryOf(v);
            const float was = e.now;
            const float most = std::max(e.cover, share), together = 1 - (1 - e.cover) * (1 - share);
            e.cover = most + buildUp * (together - most);
            switch (m_brush.does) {
            case Brush::Does::Add: e.now = std::min(1.f, e.before + e.cover * m_brush.target); break;
            case Brush::Does::TakeAway: e.now = std::max(0.f, e.before - e.cover * m_brush.target); break;
            case Brush::Does::Set: e.now = e.before + e.cover * (m_brush.target - e.before); break;
            case Brush::Does::Smooth: e.now = was + share * (m_next[k] - was); break;
            case Brush::Does::Smear: e.now = was + share * gone * (m_next[k] - was); break;
            }
            if (e.now == was || std::exchange(e.told, true)) continue;
            m_changed.push_back(v);
        }
    }
}

std::vector<uint32_t> PaintStroke::takeChanged() {
    for (const uint32_t v : m_changed) m_entries[m_entryOf[v]].told = false;
    return std::exchange(m_changed, {});
}

PaintData PaintStroke::done() const {
    std::vector<uint32_t> vertices;
    std::vector<float> values;
    for (const Entry& e : m_entries) {
        if (e.now == e.before) continue;
        vertices.push_back(e.vertex);
        values.push_back(e.now);
    }
    return m_before.with(m_channel, vertices, values);
}

} // namespace hue
