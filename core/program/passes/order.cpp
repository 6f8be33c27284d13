// The order in which a Program computes, so that few values wait at a time: what needs most registers comes first (after Sethi and
// Ullman, "The Generation of Optimal Code for Arithmetic Expressions", 1970; for values with several readers it is only a good guess,
// so the order that is better of the two stays).
#include "core/program/passes/passes.h"

#include <algorithm>
#include <numeric>

namespace hue {
namespace {

/// Constants and what is known once a frame lie in tables and wait for nobody; names of attributes do not either.
bool waits(const Instruction& i) { return !onceAFrame(i) && i.op != Op::Attribute; }

/// Registers that the value of an instruction takes while it is made.
std::vector<int> needs(const Program& p) {
    std::vector<int> out(p.code.size());
    for (size_t n = 0; n < p.code.size(); ++n) {
        const Instruction& i = p.code[n];
        if (!waits(i)) continue;
        std::array<std::pair<int, int>, kMostOperands> of; // need, what stays
        int count = 0;
        for (int a = 0; a < i.operands; ++a) {
            const auto at = size_t(i.args[size_t(a)]);
            if (waits(p.code[at])) of[size_t(count++)] = {out[at], p.code[at].width};
        }
        std::sort(of.begin(), of.begin() + count, [](auto x, auto y) { return x.first - x.second > y.first - y.second; });
        int held = 0, most = i.width;
        for (int k = 0; k < count; ++k) {
            most = std::max(most, held + of[size_t(k)].first);
            held += of[size_t(k)].second;
        }
        out[n] = std::max(most, held);
    }
    return out;
}

} // namespace

int liveComponents(const Program& p) {
    std::vector<int32_t> last(p.code.size(), -1);
    for (size_t n = 0; n < p.code.size(); ++n)
        for (int a = 0; a < p.code[n].operands; ++a) last[size_t(p.code[n].args[size_t(a)])] = int32_t(n);
    for (const auto& o : p.outputs) last[size_t(o.value)] = int32_t(p.code.size());
    std::vector<int> freed(p.code.size() + 1, 0);
    int live = 0, most = 0;
    for (size_t n = 0; n < p.code.size(); ++n) {
        live -= freed[n];
        if (!waits(p.code[n]) || last[n] < 0) continue;
        most = std::max(most, live += p.code[n].width);
        freed[size_t(last[n])] += p.code[n].width;
    }
    return most;
}

bool order(Program& p) {
    assignRates(p);
    const std::vector<int> need = needs(p);
    std::vector<int32_t> sequence, now(p.code.size(), -1);
    sequence.reserve(p.code.size());
    const auto visit = [&](int32_t root) {
        std::vector<std::pair<int32_t, bool>> stack{{root, false}};
        while (!stack.empty()) {
            const auto [n, operandsDone] = stack.back();
            stack.pop_back();
            if (now[size_t(n)] >= 0) continue;
            const Instruction& i = p.code[size_t(n)];
            if (operandsDone) {
                now[size_t(n)] = int32_t(sequence.size());
                sequence.push_back(n);
                continue;
            }
            stack.emplace_back(n, true);
            std::array<int32_t, kMostOperands> args = i.args;
            // The last that is pushed comes first.
            std::stable_sort(args.begin(), args.begin() + i.operands, [&](int32_t a, int32_t b) {
                return need[size_t(a)] - p.code[size_t(a)].width < need[size_t(b)] - p.code[size_t(b)].width;
            });
            for (int a = 0; a < i.operands; ++a) stack.emplace_back(args[size_t(a)], false);
        }
    };
    std::vector<size_t> outputs(p.outputs.size());
    std::iota(outputs.begin(), outputs.end(), size_t{0});
    const auto needOf = [&](size_t k) { return need[size_t(p.outputs[k].value)] - p.code[size_t(p.outputs[k].value)].width; };
    std::stable_sort(outputs.begin(), outputs.end(), [&](size_t a, size_t b) { return needOf(a) > needOf(b); });
    for (const size_t k : outputs) visit(p.outputs[k].value);
    for (size_t n = 0; n < p.code.size(); ++n) visit(int32_t(n)); // what is dead stays where other passes find it
    Program again = p;
    again.code.clear();
    for (const int32_t n : sequence) {
        Instruction i = p.code[size_t(n)];
        for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = now[size_t(i.args[size_t(a)])];
        again.code.push_back(i);
    }
    for (auto& o : again.outputs) o.value = now[size_t(o.value)];
    if (liveComponents(again) >= liveComponents(p)) return false;
    p = std::move(again);
    return true;
}

} // namespace hue
