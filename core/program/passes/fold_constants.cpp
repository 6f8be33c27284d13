#include "core/evaluate/evaluate_once.h"
#include "core/program/passes/passes.h"

#include <numeric>
#include <optional>

namespace hue {
namespace {

bool isNumber(const Program& p, int32_t id, float x) {
    const Instruction& i = p.code[id];
    if (i.op != Op::Constant) return false;
    for (int c = 0; c < i.width; ++c)
        if (p.constants[i.imm][c] != x) return false;
    return true;
}

/// The operand that an operation equals, where it changes nothing.
std::optional<int32_t> sameAsOperand(const Program& p, const Instruction& i) {
    auto keepsWidth = [&](int a) { return p.code[i.args[a]].width == i.width; };
    switch (i.op) {
    case Op::Add:
        if (isNumber(p, i.args[1], 0) && keepsWidth(0)) return i.args[0];
        if (isNumber(p, i.args[0], 0) && keepsWidth(1)) return i.args[1];
        break;
    case Op::Sub:
        if (isNumber(p, i.args[1], 0) && keepsWidth(0)) return i.args[0];
        break;
    case Op::Mul:
        if (isNumber(p, i.args[1], 1) && keepsWidth(0)) return i.args[0];
        if (isNumber(p, i.args[0], 1) && keepsWidth(1)) return i.args[1];
        break;
    case Op::Div:
        if (isNumber(p, i.args[1], 1) && keepsWidth(0)) return i.args[0];
        break;
    case Op::Mix:
        if (isNumber(p, i.args[2], 0) && keepsWidth(0)) return i.args[0];
        break;
    case Op::Swizzle:
        if (keepsWidth(0)) {
            uint32_t identity = 0;
            for (int c = 0; c < i.width; ++c) identity |= uint32_t(c) << (2 * c);
            if (i.imm == identity) return i.args[0];
        }
        break;
    default: break;
    }
    return {};
}

bool dependsOnlyOnOperands(Op op) { return !infoOf(op).is(kFromOutside | kNotConstant | kFetch); }

} // namespace

bool foldConstants(Program& p) {
    bool changed = false;
    std::vector<int32_t> now(p.code.size());
    std::iota(now.begin(), now.end(), 0);
    for (size_t n = 0; n < p.code.size(); ++n) {
        Instruction& i = p.code[n];
        bool allConstant = i.operands > 0;
        for (int a = 0; a < i.operands; ++a) {
            i.args[a] = now[i.args[a]];
            // A swizzle of a compose takes the composed number itself.
            allConstant = allConstant && p.code[i.args[a]].op == Op::Constant;
        }
        if (i.op == Op::Swizzle && i.width == 1 && p.code[i.args[0]].op == Op::Compose) {
            now[n] = p.code[i.args[0]].args[i.imm & 3];
            changed = true;
        } else if (auto same = sameAsOperand(p, i)) {
            now[n] = *same;
            changed = true;
        } else if (allConstant && dependsOnlyOnOperands(i.op)) {
            const auto value = evaluateOnce(p, i);
            p.constants.push_back(value);
            i.op = Op::Constant;
            i.operands = 0;
            i.imm = uint32_t(p.constants.size() - 1);
            changed = true;
        }
    }
    for (auto& o : p.outputs) o.value = now[o.value];
    return changed;
}

} // namespace hue
