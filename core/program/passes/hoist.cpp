#include "core/program/passes/passes.h"

#include <cmath>

namespace hue {
namespace {

/// Rewrites chains of sums or products so that what is known once a frame or placement meets first, and leaves the pixels.
class Hoist {
  public:
    explicit Hoist(Program& p) : m_p(p), m_users(p.code.size(), 0), m_now(p.code.size()) {
        assignRates(m_p);
        for (const Instruction& i : m_p.code)
            for (int a = 0; a < i.operands; ++a) ++m_users[size_t(i.args[size_t(a)])];
        for (const auto& o : m_p.outputs) ++m_users[size_t(o.value)];
    }

    bool run() {
        const std::vector<Instruction> old = std::move(m_p.code);
        m_p.code.clear();
        m_old = &old;
        for (size_t n = 0; n < old.size(); ++n) {
            Instruction i = old[n];
            for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = m_now[size_t(i.args[size_t(a)])];
            if (i.op == Op::Add || i.op == Op::Mul) meet(old[n], i);
            m_now[n] = put(i);
        }
        for (auto& o : m_p.outputs) o.value = m_now[size_t(o.value)];
        return m_changed;
    }

  private:
    Program& m_p;
    const std::vector<Instruction>* m_old = nullptr;
    std::vector<int> m_users;   ///< of old instructions
    std::vector<int32_t> m_now; ///< by old instruction
    bool m_changed = false;

    int32_t put(const Instruction& i) {
        m_p.code.push_back(i);
        return int32_t(m_p.code.size()) - 1;
    }

    const Instruction& oldArg(const Instruction& i, int k) const { return (*m_old)[size_t(i.args[size_t(k)])]; }

    /// (x o f) o g, with f and g known once a frame: f o g is put before, and `i` becomes x o (f o g).
    void meet(const Instruction& old, Instruction& i) {
        for (int outer = 0; outer < 2; ++outer) {
            const Instruction& inner = oldArg(old, 1 - outer);
            if (!onceAFrame(oldArg(old, outer)) || inner.op != i.op || onceAFrame(inner) ||
                m_users[size_t(old.args[size_t(1 - outer)])] != 1)
                continue;
            for (int k = 0; k < 2; ++k) {
                if (!onceAFrame(oldArg(inner, k)) || onceAFrame(oldArg(inner, 1 - k))) continue;
                const int32_t f = m_now[size_t(inner.args[size_t(k)])], g = i.args[size_t(outer)];
                if (i.op == Op::Mul && !moderate(f) && !moderate(g)) continue;
                Instruction both;
                both.op = i.op;
                both.width = std::max(m_p.code[size_t(f)].width, m_p.code[size_t(g)].width);
                both.operands = 2;
                both.args[0] = f;
                both.args[1] = g;
                both.origin = i.origin;
                both.rate = std::max(oldArg(old, outer).rate, oldArg(inner, k).rate);
                i.args[size_t(outer)] = put(both);
                i.args[size_t(1 - outer)] = m_now[size_t(inner.args[size_t(1 - k)])];
                m_changed = true;
                return;
            }
        }
    }

    /// A constant that a product with cannot lead out of what numbers hold.
    bool moderate(int32_t n) const {
        const Instruction& i = m_p.code[size_t(n)];
        if (i.op != Op::Constant) return false;
        for (int c = 0; c < i.width; ++c) {
            const float x = std::fabs(m_p.constants[i.imm][size_t(c)]);
            if (!(x == 0 || (x >= 0x1p-20f && x <= 0x1p20f))) return false;
        }
        return true;
    }
};

} // namespace

bool hoist(Program& p) { return Hoist(p).run(); }

} // namespace hue
