#include "core/surface/at_vertices.h"

#include "core/program/passes/vertex_split.h"

#include <fmt/format.h>

namespace hue {
namespace {

/// Vertices as points, 512 to a block.
class VertexPoints final : public PointSource {
  public:
    VertexPoints(const Mesh& mesh, const std::vector<uint32_t>& vertices, const Columns& placement)
        : m_mesh(mesh), m_vertices(vertices), m_placement(placement), m_size(lengthOf(placement[0])) {}

    bool neighbours() const override { return false; }
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        for (int r = 0; r < kBlockRows; ++r)
            for (int c = 0; c < kBlockColumns; ++c) {
                const size_t index = std::min(size_t(y + r) * kBlockColumns + size_t(x + c), m_vertices.size() - 1);
                lanes[r * kBlockColumns + c] = at(m_vertices[index], attribute, size_t(component));
            }
    }

  private:
    const Mesh& m_mesh;
    const std::vector<uint32_t>& m_vertices;
    const Columns& m_placement;
    const float m_size;

    float inWorld(const Rgb& direction, size_t c) const { return turned(m_placement, direction)[c] / m_size; }

    float at(uint32_t index, Attribute attribute, size_t c) const {
        const Vertex& v = m_mesh.vertices[index];
        switch (attribute) {
        case Attribute::Uv0: return v.uv0[c];
        case Attribute::Uv1: return v.uv1[c];
        case Attribute::Color: return v.color[c];
        case Attribute::Painted: return m_mesh.hasColors ? v.color[c] : 0.f;
        case Attribute::PaintedSecond: return v.color1[c];
        case Attribute::PositionWorld: return placed(m_placement, v.position)[c];
        case Attribute::PositionObject: return m_mesh.rest.empty() ? v.position[c] : m_mesh.rest[index].position[c];
        case Attribute::NormalObject: return m_mesh.rest.empty() ? v.normal[c] : m_mesh.rest[index].normal[c];
        case Attribute::NormalWorld:
        case Attribute::View: return inWorld(v.normal, c);
        case Attribute::TangentWorld: return inWorld({v.tangent[0], v.tangent[1], v.tangent[2]}, c);
        case Attribute::BitangentWorld:
            return inWorld(scaled(cross(v.normal, {v.tangent[0], v.tangent[1], v.tangent[2]}), v.tangent[3]), c);
        case Attribute::Screen: return 0.5f;
        case Attribute::DepthGap: return kNothingBehind;
        case Attribute::Side: return 1;
        case Attribute::Carried0:
        case Attribute::Carried1:
        case Attribute::Carried2:
        case Attribute::Carried3:
        case Attribute::Count: break; // nothing is carried to where it comes from
        }
        return 0;
    }
};

} // namespace

void atVertices(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot,
                const std::vector<std::string>& outputs, const Columns& placement, const AtVertex& at) {
    std::vector<uint32_t> vertices;
    std::vector<char> seen(mesh.vertices.size(), 0);
    for (uint32_t i = slot.firstIndex; i < slot.firstIndex + slot.indexCount; ++i)
        if (!std::exchange(seen[mesh.indices[i]], 1)) vertices.push_back(mesh.indices[i]);
    if (vertices.empty()) return;
    const int rows = int((vertices.size() + kBlockColumns - 1) / kBlockColumns);
    evaluator.grid(frame, outputs, kBlockColumns, rows, VertexPoints(mesh, vertices, placement),
                   [&](int, int y, int columns, int height, const float* const* planes) {
                       for (int r = 0; r < height; ++r)
                           for (int c = 0; c < columns; ++c) {
                               const size_t index = size_t(y + r) * kBlockColumns + size_t(c);
                               if (index >= vertices.size()) return;
                               at(vertices[index], planes, size_t(r * kBlockColumns + c));
                           }
                   },
                   {});
}

void evaluateCarried(const Evaluator& evaluator, const Frame& frame, const Mesh& mesh, const MeshSlot& slot,
                     std::vector<CarriedValues>& carried, const Columns& placement) {
    std::vector<std::string> outputs;
    std::vector<size_t> first;
    for (int v = 0; v < kCarriedVectors; ++v)
        if (std::string name = fmt::format("carried{}", v); evaluator.program().output(name) >= 0) {
            outputs.push_back(std::move(name));
            first.push_back(size_t(v) * 4);
        }
    atVertices(evaluator, frame, mesh, slot, outputs, placement, [&](uint32_t vertex, const float* const* planes, size_t lane) {
        for (size_t k = 0; k < first.size() * 4; ++k) carried[vertex][first[k / 4] + k % 4] = planes[k][lane];
    });
}

} // namespace hue
