#include "core/mesh/paint_data.h"

#include "core/base/hash.h"

#include <algorithm>
#include <cmath>

namespace hue {

PaintData::PaintData(MeshPtr surface, int bits)
    : m_surface(std::move(surface)),
      m_vertices(m_surface->vertices.size()),
      m_bits(bits == 16 ? 16 : 8),
      m_fingerprint(std::make_shared<Fingerprint>()),
      m_shape(std::make_shared<Fingerprint>()) {
    for (auto& blocks : m_blocks) blocks.resize((m_vertices + kBlock - 1) / kBlock);
}

uint16_t PaintData::stepOf(float value) const {
    const float inside = value > 0 ? std::min(value, 1.f) : 0.f; // what is no number is not above 0
    return m_bits == 16 ? uint16_t(std::lround(inside * 65535)) : uint16_t(std::lround(inside * 255) * 257);
}

float PaintData::value(int channel, size_t vertex) const {
    const auto& block = m_blocks[size_t(channel)][vertex / kBlock];
    return block ? float((*block)[vertex % kBlock]) / 65535.f : 0.f;
}

std::vector<float> PaintData::channel(int channel) const {
    std::vector<float> out(m_vertices);
    const auto& blocks = m_blocks[size_t(channel)];
    for (size_t b = 0; b < blocks.size(); ++b) {
        if (!blocks[b]) continue;
        const size_t first = b * kBlock, count = std::min(kBlock, m_vertices - first);
        for (size_t i = 0; i < count; ++i) out[first + i] = float((*blocks[b])[i]) / 65535.f;
    }
    return out;
}

bool PaintData::isPainted(int channel) const {
    const auto above = [](uint16_t step) { return step > 0; };
    return std::any_of(m_blocks[size_t(channel)].begin(), m_blocks[size_t(channel)].end(),
                       [&](const auto& block) { return block && std::any_of(block->begin(), block->end(), above); });
}

PaintData PaintData::with(int channel, std::span<const float> values) const {
    PaintData out = *this;
    out.m_fingerprint = std::make_shared<Fingerprint>();
    auto& blocks = out.m_blocks[size_t(channel)];
    for (size_t b = 0; b < blocks.size(); ++b) {
        const size_t first = b * kBlock, count = std::min({kBlock, m_vertices - first, values.size() - std::min(first, values.size())});
        auto next = blocks[b] ? std::make_shared<Block>(*blocks[b]) : std::make_shared<Block>(Block{});
        for (size_t i = 0; i < count; ++i) (*next)[i] = stepOf(values[first + i]);
        if (!blocks[b] ? *next != Block{} : *next != *blocks[b]) blocks[b] = std::move(next);
    }
    return out;
}

PaintData PaintData::with(int channel, std::span<const uint32_t> vertices, std::span<const float> values) const {
    PaintData out = *this;
    out.m_fingerprint = std::make_shared<Fingerprint>();
    auto& blocks = out.m_blocks[size_t(channel)];
    std::vector<Block*> mine(blocks.size()); // that were copied already
    for (size_t k = 0; k < vertices.size() && k < values.size(); ++k) {
        const size_t b = vertices[k] / kBlock;
        if (vertices[k] >= m_vertices) continue;
        if (!mine[b]) {
            auto next = blocks[b] ? std::make_shared<Block>(*blocks[b]) : std::make_shared<Block>(Block{});
            mine[b] = next.get();
            blocks[b] = std::move(next);
        }
        (*mine[b])[vertices[k] % kBlock] = stepOf(values[k]);
    }
    return out;
}

std::vector<std::pair<size_t, size_t>> PaintData::changedFrom(const PaintData& other) const {
    std::vector<std::pair<size_t, size_t>> out;
    for (size_t b = 0; b < m_blocks[0].size(); ++b) {
        const auto differs = [&](int c) { return m_blocks[size_t(c)][b] != other.m_blocks[size_t(c)][b]; };
        bool any = false;
        for (int c = 0; c < kChannels && !any; ++c) any = differs(c);
        const size_t first = b * kBlock, end = std::min(first + kBlock, m_vertices);
        if (any && !out.empty() && out.back().second == first) out.back().second = end;
        else if (any) out.emplace_back(first, end);
    }
    return out;
}

PaintData PaintData::without(int channel) const {
    PaintData out = *this;
    out.m_fingerprint = std::make_shared<Fingerprint>();
    for (auto& block : out.m_blocks[size_t(channel)]) block = nullptr;
    return out;
}

PaintData PaintData::withBits(int bits) const {
    PaintData out(m_surface, bits);
    for (int c = 0; c < kPlanes; ++c)
        if (isPainted(c)) out = out.with(c, channel(c));
    return out;
}

PaintData PaintData::withSurface(MeshPtr surface) const {
    PaintData out = *this;
    out.m_surface = std::move(surface);
    out.m_fingerprint = std::make_shared<Fingerprint>();
    out.m_shape = std::make_shared<Fingerprint>();
    return out;
}

const std::string& PaintData::shape() const {
    std::call_once(m_shape->once, [this] { m_shape->text = shapeHash(*m_surface); });
    return m_shape->text;
}

const std::string& PaintData::fingerprint() const {
    std::call_once(m_fingerprint->once, [this] {
        Hash hash;
        hash.add(shape());
        hash.number(m_bits);
        static const Block nothing{};
        for (int c = 0; c < kPlanes; ++c) {
            if (c >= kChannels && !isPainted(c)) continue;
            for (const auto& block : m_blocks[size_t(c)]) {
                const Block& its = block ? *block : nothing;
                hash.add(its.data(), sizeof(Block));
            }
            if (c >= kChannels) hash.number(c);
        }
        m_fingerprint->text = hash.text();
    });
    return m_fingerprint->text;
}

std::string shapeHash(const Mesh& mesh) {
    Hash hash;
    hash.number(mesh.vertices.size());
    for (const Vertex& v : mesh.vertices)
        for (const float x : v.position) hash.number(x + 0.f); // a zero has no sign
    hash.add(mesh.indices.data(), mesh.indices.size() * sizeof(uint32_t));
    for (const MeshSlot& slot : mesh.slots) hash.number(slot.firstIndex), hash.number(slot.indexCount);
    return hash.text();
}

bool fits(const PaintData& paint, const MeshPtr& mesh) {
    return paint.surface() == mesh || (paint.vertices() == mesh->vertices.size() && paint.shape() == shapeHash(*mesh));
}

std::string fingerprintOf(const Paintwork& w) { return w.paint ? w.paint->fingerprint() : w.fingerprint; }

namespace {

bool hasSecondSet(const PaintData& paint) {
    for (int c = 4; c < PaintData::kChannels; ++c)
        if (paint.isPainted(c)) return true;
    return false;
}

/// Puts paint on vertices from the first to before the last.
void putOn(Mesh& mesh, const PaintData& paint, size_t first, size_t end) {
    for (size_t v = first; v < std::min(end, mesh.vertices.size()); ++v) {
        Vertex& to = mesh.vertices[v];
        for (int c = 0; c < 4; ++c) to.color[size_t(c)] = paint.value(c, v), to.color1[size_t(c)] = paint.value(4 + c, v);
    }
}

} // namespace

Mesh painted(const Mesh& mesh, const PaintData& paint) {
    Mesh out = mesh;
    out.hasColors = true;
    out.hasColors1 = hasSecondSet(paint);
    putOn(out, paint, 0, paint.vertices());
    return out;
}

void repaint(Mesh& mesh, const PaintData& was, const PaintData& paint) {
    mesh.hasColors1 = hasSecondSet(paint);
    for (const auto& [first, end] : paint.changedFrom(was)) putOn(mesh, paint, first, end);
}

} // namespace hue
