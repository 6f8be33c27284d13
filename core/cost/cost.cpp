#include "core/cost/cost.h"

#include <set>

namespace hue {

Cost costOf(const Program& p, const std::function<CardMap(const MapSlot&)>& map) {
    Cost cost;
    std::vector<char> afterFetch(p.code.size(), 0);
    std::set<uint32_t> slots;
    for (size_t n = 0; n < p.code.size(); ++n) {
        const Instruction& i = p.code[n];
        const OpInfo& info = infoOf(i.op);
        const int times = info.elementwise ? i.width : i.op == Op::Fractal2 ? int(i.imm) : 1;
        cost.operations[size_t(i.rate)] += info.cost * times;
        for (int a = 0; a < i.operands; ++a) afterFetch[n] |= afterFetch[size_t(i.args[size_t(a)])];
        if (isFetch(i.op)) {
            ++cost.fetches;
            cost.dependentFetches += afterFetch[n];
            afterFetch[n] = 1;
            slots.insert(i.imm);
        } else if (i.op == Op::Behind || i.op == Op::Around) {
            ++cost.fetches;
            cost.dependentFetches += afterFetch[n];
            afterFetch[n] = 1;
        }
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
