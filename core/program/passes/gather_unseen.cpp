#include "core/program/passes/passes.h"
#include "core/program/unseen.h"

#include <algorithm>
#include <queue>

namespace hue {

bool gatherUnseen(Program& p) {
    if (std::none_of(p.code.begin(), p.code.end(), [](const Instruction& i) { return hidesOperand(i.op); })) return false;
    assignRates(p);
    const Unseen unseen = everyBranch(p);
    const std::vector<int32_t>& lies = unseen.branchOf;
    // Each waits for its operands and for the masks of its branches. What is ready goes on in the branch that is open, else further out,
    // so that a branch is entered when nothing else can be done.
    std::vector<int> waits(p.code.size(), 0);
    std::vector<std::vector<int32_t>> releases(p.code.size());
    const auto after = [&](size_t n, int32_t first) {
        ++waits[n];
        releases[size_t(first)].push_back(int32_t(n));
    };
    for (size_t n = 0; n < p.code.size(); ++n) {
        for (int a = 0; a < p.code[n].operands; ++a) after(n, p.code[n].args[size_t(a)]);
        for (int32_t b = lies[n]; b >= 0; b = unseen.branches[size_t(b)].parent) after(n, unseen.branches[size_t(b)].mask);
    }
    using Ready = std::priority_queue<int32_t, std::vector<int32_t>, std::greater<>>;
    std::vector<Ready> ready(unseen.branches.size() + 1); // by branch + 1, in the old order
    const auto put = [&](int32_t n) { ready[size_t(lies[size_t(n)] + 1)].push(n); };
    for (size_t n = 0; n < p.code.size(); ++n)
        if (!waits[n]) put(int32_t(n));
    std::vector<int32_t> sequence;
    int32_t open = -1;
    while (sequence.size() < p.code.size()) {
        if (ready[size_t(open + 1)].empty()) {
            // Into a branch that lies in this one, by what comes first there; else out of it.
            int32_t next = -1, least = INT32_MAX;
            for (size_t b = 0; b < unseen.branches.size(); ++b)
                if (!ready[b + 1].empty() && unseen.within(int32_t(b), open) && ready[b + 1].top() < least)
                    next = int32_t(b), least = ready[b + 1].top();
            // What cannot be put behind its masks stays as it is; unseenOf() sees that.
            if (next < 0 && open < 0) return false;
            open = next >= 0 ? next : unseen.branches[size_t(open)].parent;
            continue;
        }
        const int32_t n = ready[size_t(open + 1)].top();
        ready[size_t(open + 1)].pop();
        sequence.push_back(n);
        for (const int32_t m : releases[size_t(n)])
            if (!--waits[size_t(m)]) put(m);
    }
    if (std::is_sorted(sequence.begin(), sequence.end())) return false;
    std::vector<int32_t> now(p.code.size());
    std::vector<Instruction> code;
    code.reserve(p.code.size());
    for (const int32_t n : sequence) {
        Instruction i = p.code[size_t(n)];
        for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = now[size_t(i.args[size_t(a)])];
        now[size_t(n)] = int32_t(code.size());
        code.push_back(i);
    }
    p.code = std::move(code);
    for (auto& o : p.outputs) o.value = now[size_t(o.value)];
    return true;
}

} // namespace hue
