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
    kHeld,                                                   // Carried0
    kHeld,                                                   // Carried1
    kHeld,                                                   // Carried2
    kHeld,                                                   // Carried3
    {"the direction to the eye", "the vertex's normal"},     // View
    {"the position in the picture", "the picture's middle"}, // Screen
    {"the depth gap", "1000 m, as with nothing behind"},     // DepthGap
    {"the side of a face that is seen", "the front"},        // Side
    kHeld,                                                   // Painted
    kHeld,                                                   // PaintedSecond
};
static_assert(std::size(kAttributes) == size_t(Attribute::Count), "say what vertices have of a new attribute");
constexpr VertexLimit kCameraLimit{"where the camera stands", "one that looks along -Z"};
constexpr VertexLimit kSceneLimit{"what was drawn behind or around the surface", "an even grey"};

VertexLimit limitOf(const Instruction& i) {
    return i.op == Op::Attribute      ? kAttributes[i.imm]
           : infoOf(i.op).is(kScene)  ? kSceneLimit
           : infoOf(i.op).is(kCamera) ? kCameraLimit
                                      : kHeld;
}

/// The version of a card that vertices can compute.
struct Instead {
    std::string_view kind, by, label;
};
constexpr Instead kInstead[] = {
    {"view_direction", "normal", "Take the normal of the mesh in its place"},
    {"screen_position", "texcoord", "Take the UV in its place"},
    {"depth_gap", "constant", "Put 1000 m in its place"},
};

/// A fix for a card of a board that reads what vertices do not know, if there is one.
std::vector<Fix> insteadOf(const Master& board, const Id& id) {
    const Node* node = board.graph.find(id);
    if (!node) return {};
    for (const Instead& its : kInstead)
        if (node->kind == its.kind)
            return {{std::string(its.label), [master = board.id, id, by = its.by](const Project& p) {
                         Node other = makeNode(by);
                         if (by == "constant") other.constants["value"] = Value::number(1000);
                         return edit::replaceNode(p, master, id, other);
                     }}};
    if (node->kind == "front_or_back")
        return {{"Mute it: the front stays", [master = board.id, id](const Project& p) { return edit::muteNodes(p, master, {id}, true); }}};
    return {};
}

} // namespace

void GraphCompiler::limitCarried(Val value, const Source& wire, const Place& place) {
    walk(value, [&](const Instruction& i) {
        const VertexLimit limit = limitOf(i);
        if (limit.what.empty()) return true;
        const auto [board, id] = homeOf(place.node);
        report(Severity::Caution, "wire.per-vertex", place,
               fmt::format("The wire from {} is computed per vertex and reads {}, which is not known there: at the vertices it is {}. "
                           "Compute it per pixel.",
                           titleOf(wire.node), limit.what, limit.instead),
               {{"Compute it per pixel", [master = board->id, node = id, port = place.port](const Project& p) {
                     return edit::setPerVertex(p, master, node, port, false);
                 }}});
        return false;
    });
}

void GraphCompiler::limitRoom() {
    for (const int32_t left : withoutRoom(*m_program)) {
        const int32_t origin = m_program->code[size_t(left)].origin;
        const Id node = origin >= 0 ? m_program->origins[size_t(origin)].card : Id{};
        report(Severity::Caution, "wire.per-vertex-full", {{}, within(m_path, node), {}},
               fmt::format("Triangles carry {} numbers for a material, by fours, and what {} gives finds no room any more: it is computed "
                           "per pixel. Compute other wires per pixel, or combine several numbers before.",
                           4 * kCarriedVectors, node.empty() ? "a card" : titleOf(within(m_path, node))));
    }
}

void GraphCompiler::limitVertices(Compilation& out) const {
    std::set<Id> told;
    for (const Instruction& i : out.program->code) {
        const VertexLimit limit = limitOf(i);
        if (limit.what.empty()) continue;
        const Id node = i.origin >= 0 ? out.program->origins[size_t(i.origin)].card : Id{};
        const Place place{m_master.id, node, {}};
        if (!told.insert(node).second) continue;
        Diagnostic d{Severity::Caution, "offset.limit", place, {}, {}};
        d.sentence = fmt::format("{} gives {}, which is not known when vertices are moved: in the vertex offset it is {}. Move them by "
                                 "something else, or use it in a channel of the surface.",
                                 node.empty() ? "Vertex offset" : titleOf(within(m_path, node)), limit.what, limit.instead);
        if (m_path.empty()) d.fixes = insteadOf(m_master, node);
        out.diagnostics.push_back(std::move(d));
    }
}

} // namespace hue
