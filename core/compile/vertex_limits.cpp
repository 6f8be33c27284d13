// What vertices do not have of what a Program may read. One table over attributes and one rule over operations, so that a new one cannot be
// forgotten.
#include "core/compile/graph_compiler.h"

#include <set>

namespace hue {
namespace {

struct VertexLimit {
    std::string_view what, instead;
};
constexpr VertexLimit kHeld{};

/// By Attribute; the second as vertex_offset.cpp and the vertex stage give it.
constexpr VertexLimit kAttributes[] = {
    kHeld,                                                   // Uv0
    kHeld,                                                   // Uv1
    kHeld,                                                   // Color
    kHeld,                                                   // PositionWorld
    kHeld,                                                   // PositionObject
    kHeld,                                                   // NormalWorld
    kHeld,                                                   // NormalObject
    kHeld,                                                   // TangentWorld
    kHeld,                                                   // BitangentWorld
    {"the direction to the eye", "the vertex's normal"},     // View
    {"the position in the picture", "the picture's middle"}, // Screen
    {"the depth gap", "1000 m, as with nothing behind"},     // DepthGap
    {"the side of a face that is seen", "the front"},        // Side
};
static_assert(std::size(kAttributes) == size_t(Attribute::Count), "say what vertices have of a new attribute");
constexpr VertexLimit kCameraLimit{"where the camera stands", "one that looks along -Z"};
constexpr VertexLimit kSceneLimit{"what was drawn behind or around the surface", "an even grey"};

} // namespace

void GraphCompiler::limitVertices(Compilation& out) const {
    std::set<Id> told;
    for (const Instruction& i : out.program->code) {
        const VertexLimit limit = i.op == Op::Attribute      ? kAttributes[i.imm]
                                  : infoOf(i.op).is(kScene)  ? kSceneLimit
                                  : infoOf(i.op).is(kCamera) ? kCameraLimit
                                                             : kHeld;
        if (limit.what.empty()) continue;
        const Id node = i.origin >= 0 ? out.program->origins[size_t(i.origin)] : Id{};
        const Place place{m_master.id, node, {}};
        if (!told.insert(node).second) continue;
        out.diagnostics.push_back(
            {Severity::Caution,
             "offset.limit",
             place,
             fmt::format("{} gives {}, which is not known when vertices are moved: in the vertex offset it is {}. Move "
                         "them by something else, or use it in a channel of the surface.",
                         node.empty() ? "Vertex offset" : titleOf(within(m_path, node)), limit.what, limit.instead),
             {}});
    }
}

} // namespace hue
