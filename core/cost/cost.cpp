#include "core/cost/cost.h"

#include "core/program/passes/vertex_split.h"

#include <algorithm>
#include <set>

namespace hue {

Cost costOf(const Program& surface, const Program* offset, const std::function<CardMap(const MapSlot&)>& map) {
    Cost cost;
    std::vector<MapSlot> slots;
    const auto count = [&](const Program& p, bool vertices) {
        std::vector<char> afterFetch(p.code.size(), 0);
        // A vertex skips nothing.
        const Unseen unseen = vertices ? Unseen{} : unseenOf(p);
        if (!vertices) {
            cost.operations[size_t(Rate::Pixel)] += operationsOfBranches(p, unseen);
            cost.spared = mostSpared(unseen);
        }
        for (size_t n = 0; n < p.code.size(); ++n) {
            const Instruction& i = p.code[n];
            OpCost its = costOf(i);
            if (!vertices && handsOut(unseen, i)) its.operations = 0;
            cost.operations[size_t(vertices ? std::min(i.rate, Rate::Vertex) : i.rate)] += its.operations;
            for (int a = 0; a < i.operands; ++a) afterFetch[n] |= afterFetch[size_t(i.args[size_t(a)])];
            if (!its.fetches) continue;
            if (vertices) ++cost.vertexFetches;
            else ++cost.fetches, cost.dependentFetches += afterFetch[n];
            afterFetch[n] = 1;
            if (isFetch(i.op) && std::find(slots.begin(), slots.end(), p.maps[i.imm]) == slots.end()) slots.push_back(p.maps[i.imm]);
        }
    };
    const VertexSplit split = splitAtVertices(std::shared_ptr<const Program>(std::shared_ptr<void>(), &surface));
    count(*split.surface, false);
    if (split.vertices) count(*split.vertices, true);
    for (const Carried& c : split.carried) {
        cost.carried += c.width;
        cost.operations[size_t(Rate::Pixel)] += costOf(surface.code[size_t(c.at)]).operations;
    }
    if (offset) count(*offset, true);
    cost.samplers = int(slots.size());
    std::set<const void*> counted;
    for (const MapSlot& slot : slots) {
        const CardMap m = map ? map(slot) : CardMap{};
        if (m.identity && counted.insert(m.identity).second) cost.mapBytes += m.bytes;
    }
    return cost;
}

} // namespace hue
