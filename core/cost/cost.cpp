#include "core/cost/cost.h"

#include <set>

namespace hue {

Cost costOf(const Program& p, const std::function<CardMap(const MapSlot&)>& map) {
    Cost cost;
    std::vector<char> afterFetch(p.code.size(), 0);
    std::set<uint32_t> slots;
    for (size_t n = 0; n < p.code.size(); ++n) {
        const Instruction& i = p.code[n];
        const OpCost its = costOf(i);
        cost.operations[size_t(i.rate)] += its.operations;
        for (int a = 0; a < i.operands; ++a) afterFetch[n] |= afterFetch[size_t(i.args[size_t(a)])];
        if (!its.fetches) continue;
        ++cost.fetches;
        cost.dependentFetches += afterFetch[n];
        afterFetch[n] = 1;
        if (isFetch(i.op)) slots.insert(i.imm);
    }
    cost.samplers = int(slots.size());
    std::set<const void*> counted;
    for (uint32_t slot : slots) {
        const CardMap m = map ? map(p.maps[slot]) : CardMap{};
        if (m.identity && counted.insert(m.identity).second) cost.mapBytes += m.bytes;
    }
    return cost;
}

} // namespace hue
