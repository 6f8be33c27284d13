#include "core/program/program.h"

#include <fmt/format.h>

namespace hue {

std::string_view nameOf(Rate rate) {
    static constexpr std::string_view names[] = {"frame", "placement", "vertex", "pixel"};
    return names[int(rate)];
}

int widthOf(Attribute a) {
    switch (a) {
    case Attribute::Uv0:
    case Attribute::Uv1:
    case Attribute::Screen: return 2;
    case Attribute::DepthGap:
    case Attribute::Side: return 1;
    case Attribute::Color:
    case Attribute::Painted:
    case Attribute::PaintedSecond:
    case Attribute::Carried0:
    case Attribute::Carried1:
    case Attribute::Carried2:
    case Attribute::Carried3: return 4;
    default: return 3;
    }
}

std::string_view nameOf(Attribute a) {
    static constexpr std::string_view names[] = {"uv0",         "uv1",          "color",    "positionWorld", "positionObject",
                                                 "normalWorld", "normalObject", "tangent",  "bitangent",     "carried0",
                                                 "carried1",    "carried2",     "carried3", "view",          "screen",
                                                 "depthGap",    "side",         "painted",  "paintedSecond"};
    return names[int(a)];
}

const OpInfo& infoOf(Op op) {
    static constexpr OpInfo table[] = {
#define HUE_OPERATION(name, text, operands, cost, glsl, flags) {text, operands, cost, glsl, flags},
#define HUE_ELEMENTWISE(name, operands, cost, glsl, cpu) {#name, operands, cost, glsl, kElementwise},
#include "core/program/ops.def"
    };
    static_assert(std::size(table) == size_t(Op::Count));
    return table[int(op)];
}

OpCost costOf(const Instruction& i) {
    const OpInfo& info = infoOf(i.op);
    const int times = info.is(kElementwise) ? i.width : info.is(kTimesImm) ? int(i.imm) : 1;
    return {info.cost * times, info.is(kFetch)};
}

int32_t Program::output(std::string_view name) const {
    for (const Output& o : outputs)
        if (o.name == name) return o.value;
    return -1;
}

bool Program::reads(Attribute a) const {
    for (const Instruction& i : code)
        if (i.op == Op::Attribute && i.imm == uint32_t(a)) return true;
    return false;
}

bool Program::readsTime() const {
    for (const Instruction& i : code)
        if (infoOf(i.op).is(kTime)) return true;
    return false;
}

std::string describe(const Program& program) {
    std::string out;
    for (size_t n = 0; n < program.code.size(); ++n) {
        const Instruction& i = program.code[n];
        out += fmt::format("{:4} {:9} vec{} {}", n, nameOf(i.rate), i.width, infoOf(i.op).name);
        if (i.op == Op::Constant) {
            for (int c = 0; c < i.width; ++c) out += fmt::format(" {:g}", program.constants[i.imm][c]);
        } else if (i.imm || !i.operands) {
            out += fmt::format(" #{}", i.imm);
        }
        for (int a = 0; a < i.operands; ++a) out += fmt::format(" %{}", i.args[a]);
        out += '\n';
    }
    for (const auto& o : program.outputs) out += fmt::format("out {} = %{}\n", o.name, o.value);
    return out;
}

std::string validate(const Program& program) {
    const int count = int(program.code.size());
    for (int n = 0; n < count; ++n) {
        const Instruction& i = program.code[n];
        auto bad = [&](std::string_view why) { return fmt::format("instruction {} ({}): {}", n, infoOf(i.op).name, why); };
        if (i.width < 1 || i.width > 4) return bad("width is not 1 to 4");
        const int wanted = infoOf(i.op).operands;
        if (wanted >= 0 && wanted != i.operands) return bad("wrong number of operands");
        for (int a = 0; a < i.operands; ++a) {
            if (i.args[a] < 0 || i.args[a] >= n) return bad("operand does not come before its user");
            const int width = program.code[i.args[a]].width;
            if (infoOf(i.op).is(kElementwise) && width != 1 && width != i.width) return bad("operand width does not fit");
            if (i.op == Op::Compose && width != 1) return bad("composed of something wider than a number");
        }
        if (i.op == Op::Constant && i.imm >= program.constants.size()) return bad("no such constant");
        if (i.op == Op::Parameter && i.imm >= program.parameters.size()) return bad("no such parameter");
        if (infoOf(i.op).is(kMap) && i.imm >= program.maps.size()) return bad("no such map");
        if (i.op == Op::Attribute && i.imm >= uint32_t(Attribute::Count)) return bad("no such attribute");
        if (i.op == Op::Swizzle)
            for (int c = 0; c < i.width; ++c)
                if (int((i.imm >> (2 * c)) & 3) >= program.code[i.args[0]].width) return bad("takes a component that is not there");
    }
    for (const auto& o : program.outputs)
        if (o.value < 0 || o.value >= count) return fmt::format("output {}: no such instruction", o.name);
    return {};
}

} // namespace hue
