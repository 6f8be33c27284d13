#include "core/program/uniform_layout.h"

namespace hue {

UniformLayout uniformLayout(const Program& p) {
    UniformLayout layout;
    layout.slots.assign(p.code.size(), -1);
    auto use = [&](int32_t n) {
        const Instruction& i = p.code[size_t(n)];
        if (!onceAFrame(i) || i.op == Op::Constant || layout.slots[size_t(n)] >= 0) return;
        layout.slots[size_t(n)] = int32_t(layout.instructions.size());
        layout.instructions.push_back(n);
    };
    for (const Instruction& i : p.code)
        if (!onceAFrame(i))
            for (int a = 0; a < i.operands; ++a) use(i.args[size_t(a)]);
    for (const auto& o : p.outputs) use(o.value);
    return layout;
}

} // namespace hue
