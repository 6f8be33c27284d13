#include "core/make/flat_limits.h"

#include "core/program/passes/vertex_split.h"

#include <algorithm>

namespace hue {
namespace {

constexpr FlatLimit kHeld{};
constexpr FlatLimit kNormal{"the mesh's normal", "as on a flat square that faces the eye"};
constexpr FlatLimit kPosition{"the position on the mesh", "as on a flat square of one metre"};
constexpr FlatLimit kSecondUv{"the second UV set", "as if it were the first"};
constexpr FlatLimit kColors{"the mesh's vertex colors", "as for white ones"};
constexpr FlatLimit kPaint{"what is painted on the mesh", "as where nothing is"};
/// What a mesh has of its own.
constexpr FlatLimit kOfTheMesh[] = {kNormal, kPosition, kSecondUv, kColors, kPaint};

/// By Attribute.
constexpr FlatLimit kAttributes[] = {
    kHeld,                                                      // Uv0
    kSecondUv,                                                  // Uv1
    kColors,                                                    // Color
    kPosition,                                                  // PositionWorld
    kPosition,                                                  // PositionObject
    kNormal,                                                    // NormalWorld
    kNormal,                                                    // NormalObject
    kNormal,                                                    // TangentWorld
    kNormal,                                                    // BitangentWorld
    kHeld,                                                      // Carried0
    kHeld,                                                      // Carried1
    kHeld,                                                      // Carried2
    kHeld,                                                      // Carried3
    {"the view", "as seen from straight above"},                // View
    {"the position in the picture", "as if the map filled it"}, // Screen
    {"the depth gap", "as with nothing behind"},                // DepthGap
    {"the side of a face", "as for its front"},                 // Side
    kPaint,                                                     // Painted
    kPaint,                                                     // PaintedSecond
};
static_assert(std::size(kAttributes) == size_t(Attribute::Count), "say what a flat map holds of a new attribute");

constexpr FlatLimit kPlacementLimit{"the random number of each placement", "for one of 0.5"};
constexpr FlatLimit kPlaceLimit{"where the mesh is placed", "as at the origin"};
constexpr FlatLimit kCameraLimit{"the camera", "as with one straight above the map"};
constexpr FlatLimit kVertexLimit{"the mesh's vertices, where a part of it is computed", "as on a mesh with a vertex at each texel"};
constexpr FlatLimit kSceneLimit{"what stands behind or around it", "as in an empty scene"};

bool isFrame(Attribute a) { return a == Attribute::NormalWorld || a == Attribute::TangentWorld || a == Attribute::BitangentWorld; }

} // namespace

static std::vector<FlatLimit> limitsOf(const Program& p, const std::vector<std::string>& outputs, bool onMesh, bool placed) {
    std::vector<FlatLimit> out;
    const auto add = [&](const FlatLimit& limit) {
        if (onMesh && limit == kPlaceLimit && !placed) return;
        if (onMesh && std::find(std::begin(kOfTheMesh), std::end(kOfTheMesh), limit) != std::end(kOfTheMesh)) return;
        if (limit != kHeld && std::find(out.begin(), out.end(), limit) == out.end()) out.push_back(limit);
    };
    for (const std::string& name : outputs) {
        const int32_t end = p.output(name);
        if (end < 0) continue;
        const bool normal = name == "normal" || name == "clearcoat_normal";
        std::vector<int32_t> open{end};
        std::vector<char> seen(p.code.size(), 0);
        while (!open.empty()) {
            const int32_t at = open.back();
            open.pop_back();
            if (std::exchange(seen[size_t(at)], 1)) continue;
            const Instruction& i = p.code[size_t(at)];
            const OpInfo& info = infoOf(i.op);
            if (i.op == Op::Attribute && !(normal && isFrame(Attribute(i.imm)))) add(kAttributes[i.imm]);
            if (info.is(kPlacement)) add(i.op == Op::ObjectToWorld ? kPlaceLimit : kPlacementLimit);
            if (i.op == Op::PerVertex && i.imm != kCarriedUnasked) add(kVertexLimit);
            if (info.is(kCamera)) add(kCameraLimit);
            if (info.is(kScene)) add(kSceneLimit);
            for (int a = 0; a < i.operands; ++a) {
                const Instruction& from = p.code[size_t(i.args[a])];
                // Turning an encoded normal into the frame of the mesh scales the frame's directions and adds them; whatever else is done
                // with one makes something of the mesh's own normal.
                const bool turns = i.op == Op::Mul || i.op == Op::MulAdd || i.op == Op::Add || i.op == Op::Normalize;
                if (normal && from.op == Op::Attribute && isFrame(Attribute(from.imm)) && !turns) add(kNormal);
                open.push_back(i.args[a]);
            }
        }
    }
    return out;
}

std::vector<FlatLimit> flatLimits(const Program& p, const std::vector<std::string>& outputs) { return limitsOf(p, outputs, false, true); }
std::vector<FlatLimit> meshLimits(const Program& p, const std::vector<std::string>& outputs, bool placed) {
    return limitsOf(p, outputs, true, placed);
}

} // namespace hue
