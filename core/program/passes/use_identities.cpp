#include "core/program/intervals.h"
#include "core/program/passes/passes.h"
#include "core/program/passes/vertex_split.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace hue {
namespace {

/// Writes a Program anew, instruction by instruction, each by what it equals.
class Rewriter {
  public:
    explicit Rewriter(Program& p) : m_p(p), m_intervals(intervalsOf(p)), m_now(p.code.size(), -1) { assignRates(m_p); }

    bool run() {
        for (size_t n = 0; n < m_p.code.size(); ++n) {
            Instruction i = m_p.code[n];
            for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = m_now[size_t(i.args[size_t(a)])];
            if (const auto same = equalTo(m_p.code[n], i)) {
                m_now[n] = *same;
                m_changed = true;
            } else {
                m_now[n] = put(i);
            }
        }
        m_p.code = std::move(m_code);
        for (auto& o : m_p.outputs) o.value = m_now[size_t(o.value)];
        return m_changed;
    }

  private:
    Program& m_p;
    const std::vector<Interval> m_intervals; ///< by old instruction
    std::vector<int32_t> m_now;              ///< by old instruction
    std::vector<Instruction> m_code;
    bool m_changed = false;

    int32_t put(const Instruction& i) {
        m_code.push_back(i);
        return int32_t(m_code.size()) - 1;
    }
    /// Another operation in the place of `i`.
    int32_t put(const Instruction& i, Op op, std::initializer_list<int32_t> args, int width = 0) {
        Instruction out;
        out.op = op;
        out.width = uint8_t(width ? width : i.width);
        out.origin = i.origin;
        out.rate = i.rate;
        for (const int32_t a : args) out.args[out.operands++] = a;
        return put(out);
    }
    int32_t constant(const Instruction& i, float x, int width) {
        Instruction out;
        out.op = Op::Constant;
        out.width = uint8_t(width);
        out.origin = i.origin;
        out.imm = uint32_t(m_p.constants.size());
        m_p.constants.push_back({x, x, x, x});
        return put(out);
    }
    /// The one number that a constant holds.
    std::optional<float> number(int32_t id) const {
        const Instruction& i = m_code[size_t(id)];
        if (i.op != Op::Constant) return {};
        const auto& v = m_p.constants[i.imm];
        for (int c = 1; c < i.width; ++c)
            if (v[size_t(c)] != v[0]) return {};
        return v[0];
    }
    bool is(int32_t id, float x) const { return number(id) == x; }
    /// `id` in the place of `i`, as wide as it was.
    std::optional<int32_t> as(const Instruction& i, int32_t id) {
        const int width = m_code[size_t(id)].width;
        if (width == i.width) return id;
        if (width != 1) return {};
        Instruction out;
        out.op = Op::Compose;
        out.width = i.width;
        out.origin = i.origin;
        for (int c = 0; c < i.width; ++c) out.args[out.operands++] = id;
        return put(out);
    }

    /// What an instruction equals; `old` has the operands of the old code, `i` those of the new.
    std::optional<int32_t> equalTo(const Instruction& old, const Instruction& i) {
        const auto arg = [&](int k) { return i.args[size_t(k)]; };
        const auto range = [&](int k) { return m_intervals[size_t(old.args[size_t(k)])]; };
        const auto opOf = [&](int k) { return m_code[size_t(arg(k))].op; };
        switch (i.op) {
        case Op::Mul:
            if (is(arg(0), 0) || is(arg(1), 0)) return constant(i, 0, i.width);
            break;
        case Op::Sub:
            if (arg(0) == arg(1)) return constant(i, 0, i.width);
            break;
        case Op::Min:
            if (arg(0) == arg(1) || range(0).high <= range(1).low) return as(i, arg(0));
            if (range(1).high <= range(0).low) return as(i, arg(1));
            break;
        case Op::Max:
            if (arg(0) == arg(1) || range(0).low >= range(1).high) return as(i, arg(0));
            if (range(1).low >= range(0).high) return as(i, arg(1));
            break;
        case Op::Clamp:
            if (range(0).low >= range(1).high && range(0).high <= range(2).low) return as(i, arg(0));
            break;
        case Op::Mix:
            if (arg(0) == arg(1)) return as(i, arg(0));
            if (is(arg(2), 1)) return as(i, arg(1));
            if (const auto shown = shownOnBothSides(i)) return as(i, *shown);
            break;
        case Op::Select:
            if (arg(1) == arg(2) || range(0).low > 0) return as(i, arg(1));
            if (range(0).high <= 0) return as(i, arg(2));
            break;
        case Op::WhereAbove0:
            // What costs nothing at a pixel may be seen everywhere: its readers do not look where the mask shows nothing.
            if (range(1).low > 0 || isAtHand(arg(0))) return as(i, arg(0));
            if (range(1).high <= 0) return constant(i, 0, i.width);
            break;
        case Op::WhereBelow1:
            if (range(1).high < 1 || isAtHand(arg(0))) return as(i, arg(0));
            if (range(1).low >= 1) return constant(i, 0, i.width);
            break;
        case Op::Abs:
            if (range(0).low >= 0) return arg(0);
            break;
        case Op::Floor:
        case Op::Ceil:
            if (opOf(0) == Op::Floor || opOf(0) == Op::Ceil) return arg(0);
            break;
        case Op::Power: return power(i, range(0));
        case Op::Normalize: {
            const Instruction& of = m_code[size_t(arg(0))];
            if (of.op == Op::Normalize) return arg(0);
            break;
        }
        case Op::PerVertex:
            if (isSpreadAlike(arg(0))) return arg(0);
            break;
        case Op::Swizzle: return swizzle(i);
        case Op::Compose: return compose(i);
        default: break;
        }
        return {};
    }

    bool isAtHand(int32_t id) const {
        const Instruction* i = &m_code[size_t(id)];
        if (i->op == Op::Swizzle) i = &m_code[size_t(i->args[0])];
        return onceAFrame(*i) || i->op == Op::Attribute;
    }
    /// The value of a mix whose two sides are the same one, each where the mask shows it.
    std::optional<int32_t> shownOnBothSides(const Instruction& mix) const {
        const Instruction &back = m_code[size_t(mix.args[0])], &front = m_code[size_t(mix.args[1])];
        const bool same = back.op == Op::WhereBelow1 && front.op == Op::WhereAbove0 && back.args[0] == front.args[0] &&
                          back.args[1] == mix.args[2] && front.args[1] == mix.args[2];
        return same ? std::optional(back.args[0]) : std::nullopt;
    }
    /// What is the same all over a triangle, or changes evenly over it, is the same whether the triangle carries it or not.
    bool isSpreadAlike(int32_t id) const {
        const Instruction* i = &m_code[size_t(id)];
        if (i->op == Op::Swizzle) i = &m_code[size_t(i->args[0])];
        return i->op == Op::PerVertex || onceAFrame(*i) || (i->op == Op::Attribute && changesEvenly(Attribute(i->imm)));
    }
    /// Small powers are products and roots; a base below 0 counts as 0.
    std::optional<int32_t> power(const Instruction& i, Interval base) {
        const auto exponent = number(i.args[1]);
        if (!exponent) return {};
        if (*exponent == 0) return constant(i, 1, i.width);
        const bool small = *exponent == 1 || *exponent == 2 || *exponent == 3 || *exponent == 4;
        if (!small && *exponent != 0.5f) return {};
        if (m_code[size_t(i.args[0])].width != i.width) return {};
        if (*exponent == 0.5f) return put(i, Op::Sqrt, {i.args[0]});
        const int32_t x = base.low >= 0 ? i.args[0] : put(i, Op::Max, {i.args[0], constant(i, 0, 1)});
        if (*exponent == 1) return x;
        const int32_t square = put(i, Op::Mul, {x, x});
        if (*exponent == 2) return square;
        return put(i, Op::Mul, {square, *exponent == 3 ? x : square});
    }

    /// Takes of takes, and of what was put together.
    std::optional<int32_t> swizzle(const Instruction& i) {
        const Instruction of = m_code[size_t(i.args[0])];
        const auto picked = [&](int c) { return int((i.imm >> (2 * c)) & 3); };
        if (of.op == Op::Swizzle) {
            Instruction out = i;
            out.args[0] = of.args[0];
            out.imm = 0;
            for (int c = 0; c < i.width; ++c) out.imm |= ((of.imm >> (2 * picked(c))) & 3) << (2 * c);
            return put(out);
        }
        if (of.op == Op::Compose && i.width > 1) {
            Instruction out;
            out.op = Op::Compose;
            out.width = i.width;
            out.origin = i.origin;
            for (int c = 0; c < i.width; ++c) out.args[out.operands++] = of.args[size_t(picked(c))];
            return put(out);
        }
        return {};
    }

    /// All components of one value, put together again.
    std::optional<int32_t> compose(const Instruction& i) {
        int32_t from = -1;
        uint32_t imm = 0;
        for (int k = 0; k < i.operands; ++k) {
            const Instruction& part = m_code[size_t(i.args[size_t(k)])];
            if (part.op != Op::Swizzle || part.width != 1 || (from >= 0 && part.args[0] != from)) return {};
            from = part.args[0];
            imm |= (part.imm & 3) << (2 * k);
        }
        if (m_code[size_t(from)].width == 1) return {};
        Instruction out;
        out.op = Op::Swizzle;
        out.width = i.width;
        out.origin = i.origin;
        out.operands = 1;
        out.args[0] = from;
        out.imm = imm;
        return put(out);
    }
};

} // namespace

bool useIdentities(Program& p) { return Rewriter(p).run(); }

} // namespace hue
