#include "core/program/unseen.h"

#include <algorithm>
#include <map>
#include <tuple>

namespace hue {
namespace {

bool isPixelWork(const Instruction& i) { return !onceAFrame(i) && i.op != Op::Attribute && i.op != Op::Constant; }

/// Whether an operand tells a map's level by its neighbours, which must all have it.
bool isDerived(const Instruction& i, int operand) {
    return (i.op == Op::Sample && operand == 0) || (i.op == Op::SampleGuided && operand == 1);
}
/// Derivatives that are taken within its function, out of reach.
bool staysOutside(Op op) { return op == Op::SampleFramed; }

/// Finds branches by who reads what: an instruction lies in the innermost branch that all its readers lie in.
class Finder {
  public:
    explicit Finder(const Program& p) : m_p(p) {}

    /// All branches, worth it or not, whatever the order of instructions.
    Unseen all() {
        m_out.branchOf.assign(m_p.code.size(), kNobody);
        for (const auto& o : m_p.outputs) m_out.branchOf[size_t(o.value)] = -1;
        for (size_t n = m_p.code.size(); n-- > 0;) {
            const Instruction& i = m_p.code[n];
            int32_t& at = m_out.branchOf[n];
            if (at == kNobody || staysOutside(i.op)) at = -1;
            for (int a = 0; a < i.operands; ++a) {
                const int32_t from = staysOutside(i.op) || isDerived(i, a) ? -1 : hidesOperand(i.op) && a == 0 ? branchIn(at, i) : at;
                int32_t& to = m_out.branchOf[size_t(i.args[size_t(a)])];
                to = to == kNobody ? from : common(to, from);
            }
        }
        for (size_t n = 0; n < m_p.code.size(); ++n)
            if (!isPixelWork(m_p.code[n])) m_out.branchOf[n] = -1;
        return std::move(m_out);
    }

  private:
    static constexpr int32_t kNobody = -2; ///< no reader seen yet
    const Program& m_p;
    Unseen m_out;
    std::map<std::tuple<int32_t, int32_t, bool>, int32_t> m_known;

    /// The branch of a hiding operation that itself lies in `parent`.
    int32_t branchIn(int32_t parent, const Instruction& i) {
        const int32_t mask = i.args[1];
        const bool above = i.op == Op::WhereAbove0;
        for (int32_t b = parent; b >= 0; b = m_out.branches[size_t(b)].parent)
            if (m_out.branches[size_t(b)].mask == mask && m_out.branches[size_t(b)].above == above) return parent;
        const auto [it, fresh] = m_known.try_emplace({parent, mask, above}, int32_t(m_out.branches.size()));
        if (fresh) m_out.branches.push_back({mask, above, parent});
        return it->second;
    }

    int32_t common(int32_t a, int32_t b) const {
        while (a != b) {
            // Branches stand after those they lie in.
            if (a > b) a = m_out.branches[size_t(a)].parent;
            else b = m_out.branches[size_t(b)].parent;
        }
        return a;
    }
};

} // namespace

bool Unseen::within(int32_t inner, int32_t outer) const {
    while (inner > outer) inner = branches[size_t(inner)].parent;
    return inner == outer;
}

Unseen everyBranch(const Program& p) {
    if (std::any_of(p.code.begin(), p.code.end(), [](const Instruction& i) { return hidesOperand(i.op); })) return Finder(p).all();
    return {{}, std::vector<int32_t>(p.code.size(), -1)};
}

Unseen unseenOf(const Program& p) {
    Unseen found = everyBranch(p);
    if (found.branches.empty()) return found;
    // What comes before its mask is computed in any case.
    for (size_t n = 0; n < p.code.size(); ++n)
        for (int32_t b = found.branchOf[n]; b >= 0; b = found.branches[size_t(b)].parent)
            if (found.branches[size_t(b)].mask >= int32_t(n)) found.branchOf[n] = found.branches[size_t(b)].parent;
    for (size_t n = 0; n < p.code.size(); ++n) {
        const OpCost cost = costOf(p.code[n]);
        for (int32_t b = found.branchOf[n]; b >= 0; b = found.branches[size_t(b)].parent) {
            found.branches[size_t(b)].operations += cost.operations;
            found.branches[size_t(b)].fetches += cost.fetches;
        }
    }
    // What is not worth a branch lies in the one around it.
    Unseen out;
    std::vector<int32_t> now(found.branches.size());
    for (size_t b = 0; b < found.branches.size(); ++b) {
        Branch branch = found.branches[b];
        const int32_t parent = branch.parent < 0 ? -1 : now[size_t(branch.parent)];
        now[b] = parent;
        if (branch.fetches == 0 && branch.operations < kLeastBranch) continue;
        branch.parent = parent;
        now[b] = int32_t(out.branches.size());
        out.branches.push_back(branch);
    }
    for (const int32_t b : found.branchOf) out.branchOf.push_back(b < 0 ? -1 : now[size_t(b)]);
    return out;
}

bool handsOut(const Unseen& unseen, const Instruction& i) {
    if (!hidesOperand(i.op)) return false;
    const int32_t from = unseen.branchOf[size_t(i.args[0])];
    if (from < 0) return false;
    const Branch& branch = unseen.branches[size_t(from)];
    return branch.mask == i.args[1] && branch.above == (i.op == Op::WhereAbove0);
}

int operationsOfBranches(const Program& p, const Unseen& unseen) {
    int operations = int(unseen.branches.size());
    std::vector<int32_t> derived;
    for (size_t n = 0; n < p.code.size(); ++n) {
        const Instruction& i = p.code[n];
        if (unseen.branchOf[n] < 0) continue;
        for (int a = 0; a < i.operands; ++a)
            if (isDerived(i, a) && std::find(derived.begin(), derived.end(), i.args[size_t(a)]) == derived.end()) {
                derived.push_back(i.args[size_t(a)]);
                operations += 2 * p.code[size_t(i.args[size_t(a)])].width; // along x and along y
            }
    }
    return operations;
}

Spared mostSpared(const Unseen& unseen) {
    // From the innermost outwards. A mask has two ends; at each, one of its branches is left out, and what lies in the other may spare
    // something still.
    struct Side {
        bool there = false;
        Spared whole, inner; ///< when it is left out, and when it is entered
    };
    std::vector<std::map<int32_t, std::array<Side, 2>>> masksIn(unseen.branches.size() + 1); // by parent + 1, by mask
    const auto add = [](Spared a, Spared b) { return Spared{a.operations + b.operations, a.fetches + b.fetches}; };
    const auto more = [](Spared a, Spared b) {
        // A fetch weighs as much as a branch that is worth it for operations alone.
        return a.operations + kLeastBranch * a.fetches >= b.operations + kLeastBranch * b.fetches ? a : b;
    };
    const auto within = [&](size_t parent) {
        Spared sum;
        for (const auto& [mask, sides] : masksIn[parent]) {
            Spared best{};
            for (int out = 0; out < 2; ++out)
                if (sides[size_t(out)].there) best = more(best, add(sides[size_t(out)].whole, sides[size_t(1 - out)].inner));
            sum = add(sum, best);
        }
        return sum;
    };
    for (size_t b = unseen.branches.size(); b-- > 0;) {
        const Branch& branch = unseen.branches[b];
        masksIn[size_t(branch.parent + 1)][branch.mask][branch.above ? 0 : 1] = {true, {branch.operations, branch.fetches}, within(b + 1)};
    }
    return within(0);
}

} // namespace hue
