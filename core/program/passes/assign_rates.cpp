#include "core/program/passes/passes.h"

#include <algorithm>

namespace hue {
namespace {

/// What pixels never ask for, because it only leads to what triangles carry, is computed at the vertices at most.
void sparePixels(Program& p) {
    std::vector<char> pixels(p.code.size(), 0), vertices(p.code.size(), 0);
    for (const auto& o : p.outputs) pixels[size_t(o.value)] = 1;
    for (size_t n = p.code.size(); n-- > 0;) {
        Instruction& i = p.code[n];
        if (vertices[n] && !pixels[n]) i.rate = std::min(i.rate, Rate::Vertex);
        for (int a = 0; a < i.operands; ++a) {
            const auto from = size_t(i.args[size_t(a)]);
            if (i.op == Op::PerVertex) vertices[from] |= vertices[n] | pixels[n];
            else pixels[from] |= pixels[n], vertices[from] |= vertices[n];
        }
    }
}

} // namespace

void assignRates(Program& p) {
    bool carries = false;
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
        if (i.op == Op::PerVertex) i.rate = std::min(i.rate, Rate::Vertex), carries = true;
    }
    if (carries) sparePixels(p);
}

} // namespace hue
