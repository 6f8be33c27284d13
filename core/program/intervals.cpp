#include "core/program/intervals.h"

#include <algorithm>
#include <cmath>

namespace hue {
namespace {

constexpr float kEndless = std::numeric_limits<float>::infinity();

/// The hull of some results; without bounds as soon as one is no number, such as nought times endless.
Interval hullOf(std::initializer_list<float> results) {
    Interval out{kEndless, -kEndless};
    for (const float r : results) {
        if (std::isnan(r)) return {};
        out = {std::min(out.low, r), std::max(out.high, r)};
    }
    return out;
}

Interval product(Interval a, Interval b) { return hullOf({a.low * b.low, a.low * b.high, a.high * b.low, a.high * b.high}); }
Interval sum(Interval a, Interval b) { return hullOf({a.low + b.low, a.high + b.high}); }
Interval difference(Interval a, Interval b) { return hullOf({a.low - b.high, a.high - b.low}); }
Interval both(Interval a, Interval b) { return {std::min(a.low, b.low), std::max(a.high, b.high)}; }
/// A little wider, for results that are rounded on the way.
Interval rounded(Interval a) {
    constexpr float slack = 4e-7f;
    return {a.low - std::fabs(a.low) * slack, a.high + std::fabs(a.high) * slack};
}

Interval of(const Program& p, const Instruction& i, const std::vector<Interval>& known) {
    const auto operand = [&](int k) { return known[size_t(i.args[size_t(k)])]; };
    const auto isSame = [&](int a, int b) { return i.args[size_t(a)] == i.args[size_t(b)]; };
    switch (i.op) {
    case Op::Constant: {
        Interval out{kEndless, -kEndless};
        for (int c = 0; c < i.width; ++c) {
            const float x = p.constants[i.imm][size_t(c)];
            if (std::isnan(x)) return {};
            out = {std::min(out.low, x), std::max(out.high, x)};
        }
        return out;
    }
    case Op::PlacementRandom:
    case Op::Less:
    case Op::Fract:
    case Op::Phase:
    case Op::Smooth:
    case Op::Cell2:
    case Op::Cell2Seamless:
    case Op::Cell3: return {0, 1};
    case Op::Sin:
    case Op::Cos: return {-1.000001f, 1.000001f};
    case Op::Sign: return {-1, 1};
    case Op::CameraToWorld: return i.imm < 3 ? Interval{-1.000001f, 1.000001f} : Interval{};
    case Op::CameraScale: return {0, kEndless};
    case Op::Atan2: return {-3.1415930f, 3.1415930f};
    case Op::Exp:
    case Op::Magnitude:
    case Op::Worley2:
    case Op::Worley2Seamless:
    case Op::Worley2Moving:
    case Op::Worley2MovingSeamless:
    case Op::Worley3:
    case Op::Worley3Moving:
    case Op::TexelSize: return {0, kEndless};
    case Op::Normalize: return {-1.000001f, 1.000001f};
    case Op::Power: {
        // Of what lies in 0..1, to a power that is not negative.
        const bool shrinks = operand(0).within(-kEndless, 1) && operand(1).low >= 0;
        return {0, shrinks ? 1.000001f : kEndless};
    }
    case Op::Add: return sum(operand(0), operand(1));
    case Op::Sub: return isSame(0, 1) ? Interval{0, 0} : difference(operand(0), operand(1));
    case Op::Mul: {
        const Interval out = product(operand(0), operand(1));
        return isSame(0, 1) ? Interval{std::max(0.f, out.low), out.high} : out;
    }
    case Op::Div: {
        // What can be divided by nought can be anything.
        const Interval by = operand(1);
        if (by.low <= 0 && by.high >= 0) return {};
        return rounded(hullOf({operand(0).low / by.low, operand(0).low / by.high, operand(0).high / by.low, operand(0).high / by.high}));
    }
    case Op::MulAdd: return rounded(sum(product(operand(0), operand(1)), operand(2)));
    case Op::Dot: return isSame(0, 1) ? Interval{0, kEndless} : Interval{};
    case Op::Min: return {std::min(operand(0).low, operand(1).low), std::min(operand(0).high, operand(1).high)};
    case Op::Max: return {std::max(operand(0).low, operand(1).low), std::max(operand(0).high, operand(1).high)};
    case Op::Clamp: {
        const Interval x = operand(0), low = operand(1), high = operand(2);
        const Interval raised{std::max(x.low, low.low), std::max(x.high, low.high)};
        return {std::min(raised.low, high.low), std::min(raised.high, high.high)};
    }
    case Op::Mix: return operand(2).within(0, 1) ? rounded(both(operand(0), operand(1))) : Interval{};
    case Op::Select: return both(operand(1), operand(2));
    case Op::WhereAbove0:
    case Op::WhereBelow1: return both(operand(0), {0, 0});
    case Op::Abs: {
        const Interval x = operand(0);
        const float most = std::max(std::fabs(x.low), std::fabs(x.high));
        return {x.low > 0 ? x.low : x.high < 0 ? -x.high : 0, most};
    }
    case Op::Sqrt: return rounded({std::sqrt(std::max(0.f, operand(0).low)), std::sqrt(std::max(0.f, operand(0).high))});
    case Op::Floor: return {std::floor(operand(0).low), std::floor(operand(0).high)};
    case Op::Ceil: return {std::ceil(operand(0).low), std::ceil(operand(0).high)};
    case Op::Swizzle: return operand(0);
    case Op::PerVertex: return rounded(operand(0));
    case Op::Compose: {
        Interval out = operand(0);
        for (int k = 1; k < i.operands; ++k) out = both(out, operand(k));
        return out;
    }
    default: return {};
    }
}

} // namespace

std::vector<Interval> intervalsOf(const Program& program) { return intervalsOf(program, {}); }

std::vector<Interval> intervalsOf(const Program& program, const std::function<std::optional<Interval>(const Instruction&)>& known) {
    std::vector<Interval> out;
    out.reserve(program.code.size());
    for (const Instruction& i : program.code) {
        const std::optional<Interval> told = known ? known(i) : std::nullopt;
        out.push_back(told ? *told : of(program, i, out));
    }
    return out;
}

} // namespace hue
