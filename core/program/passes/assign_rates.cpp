#include "core/program/passes/passes.h"

namespace hue {

void assignRates(Program& p) {
    for (Instruction& i : p.code) {
        i.rate = Rate::Frame;
        if (infoOf(i.op).is(kPlacement)) i.rate = Rate::Placement;
        // The eye and what lies behind are known per pixel; the other attributes come from the vertices.
        if (i.op == Op::Attribute) i.rate = i.imm >= uint32_t(Attribute::View) ? Rate::Pixel : Rate::Vertex;
        if (infoOf(i.op).is(kFetch)) i.rate = Rate::Pixel;
        for (int a = 0; a < i.operands; ++a) {
            Rate from = p.code[i.args[a]].rate;
            if (from == Rate::Vertex && !infoOf(i.op).is(kKeepsRate)) from = Rate::Pixel;
            i.rate = std::max(i.rate, from);
        }
    }
}

} // namespace hue
