#include "core/program/builder.h"

#include <algorithm>

namespace hue {

Val Builder::append(Op op, int width, std::initializer_list<Val> args, uint32_t imm) {
    Instruction i;
    i.op = op;
    i.width = uint8_t(width);
    i.imm = imm;
    i.origin = m_origin;
    for (Val a : args) i.args[i.operands++] = a.id;
    m_program.code.push_back(i);
    return {int32_t(m_program.code.size()) - 1};
}

Val Builder::constant(const Value& value) {
    m_program.constants.push_back(value.v);
    return leaf(Op::Constant, value.width, uint32_t(m_program.constants.size() - 1));
}

std::optional<Value> Builder::constantValue(Val v) const {
    const Instruction& i = m_program.code[size_t(v.id)];
    return i.op == Op::Constant ? std::optional(Value{i.width, m_program.constants[i.imm]}) : std::nullopt;
}

bool Builder::isAttribute(Val v, Attribute a) const {
    const Instruction& i = m_program.code[size_t(v.id)];
    return i.op == Op::Attribute && Attribute(i.imm) == a;
}

Val Builder::attribute(Attribute a) { return leaf(Op::Attribute, widthOf(a), uint32_t(a)); }

namespace {
template <class List, class Entry> int indexOf(List& list, const Entry& entry) {
    auto it = std::find(list.begin(), list.end(), entry);
    if (it == list.end()) it = list.insert(it, entry);
    return int(it - list.begin());
}
} // namespace

Val Builder::parameter(const Id& id, int width) { return leaf(Op::Parameter, width, uint32_t(indexOf(m_program.parameters, id))); }

int Builder::mapSlot(const MapSlot& slot) { return indexOf(m_program.maps, slot); }

Val Builder::op(Op op, Val a) { return append(op, width(a), {a}); }
Val Builder::op(Op op, Val a, Val b) { return append(op, std::max(width(a), width(b)), {a, b}); }
Val Builder::op(Op op, Val a, Val b, Val c) { return append(op, std::max({width(a), width(b), width(c)}), {a, b, c}); }

Val Builder::component(Val v, int index) { return width(v) == 1 ? v : swizzle(v, {index}); }

Val Builder::swizzle(Val v, std::initializer_list<int> components) {
    uint32_t imm = 0;
    int n = 0;
    for (int c : components) imm |= uint32_t(c) << (2 * n++);
    return append(Op::Swizzle, n, {v}, imm);
}

Val Builder::compose(std::initializer_list<Val> numbers) { return append(Op::Compose, int(numbers.size()), numbers); }

Val Builder::spread(Val v, int w) {
    if (width(v) != 1 || w == 1) return v;
    if (w == 2) return compose({v, v});
    if (w == 3) return compose({v, v, v});
    return compose({v, v, v, v});
}

// Rec. 709 luminance weights, as the MaterialX standard library gives them for linear Rec. 709.
Val Builder::luminance(Val color) {
    if (width(color) == 1) return color;
    if (width(color) == 2) return component(color, 0);
    const Val rgb = width(color) == 4 ? swizzle(color, {0, 1, 2}) : color;
    return dot(rgb, constant(Value::vec3(0.2126f, 0.7152f, 0.0722f)));
}

Val Builder::tangentToWorld(Val v) {
    const Val t = mul(attribute(Attribute::TangentWorld), component(v, 0));
    const Val b = mul(attribute(Attribute::BitangentWorld), component(v, 1));
    const Val n = mul(attribute(Attribute::NormalWorld), component(v, 2));
    return normalize(add(add(t, b), n));
}

} // namespace hue
