#include "core/program/passes/vertex_split.h"

#include "core/program/passes/passes.h"

#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace hue {
namespace {

constexpr uint32_t kCarried0 = uint32_t(Attribute::Carried0);
static_assert(uint32_t(Attribute::Carried3) - kCarried0 + 1 == kCarriedVectors);

/// The PerVertex operations that pixels need, in order; not those that lie before another.
std::vector<CarriedWish> neededByPixels(const Program& p) {
    std::vector<char> wanted(p.code.size(), 0);
    for (const auto& o : p.outputs) wanted[size_t(o.value)] = 1;
    std::vector<CarriedWish> out;
    for (size_t n = p.code.size(); n-- > 0;) {
        if (!wanted[n]) continue;
        const Instruction& i = p.code[n];
        if (i.op == Op::PerVertex) out.push_back({int32_t(n), i.width, i.imm != kCarriedUnasked});
        else
            for (int a = 0; a < i.operands; ++a) wanted[size_t(i.args[size_t(a)])] = 1;
    }
    std::reverse(out.begin(), out.end());
    return out;
}

/// The value itself.
void passOn(Instruction& i) {
    i.op = Op::Swizzle;
    i.imm = 0u | 1u << 2 | 2u << 4 | 3u << 6;
    i.imm &= (1u << (2 * i.width)) - 1;
}

/// The Program of the vertices: what is carried, put together by fours.
std::shared_ptr<const Program> verticesOf(const Program& p, const VertexSplit& split) {
    auto out = std::make_shared<Program>(p);
    out->outputs.clear();
    const auto append = [&](Instruction i) {
        out->code.push_back(i);
        return int32_t(out->code.size()) - 1;
    };
    for (int v = 0; v < kCarriedVectors; ++v) {
        Instruction all;
        all.op = Op::Compose;
        all.width = all.operands = 4;
        bool any = false;
        for (int c = 0; c < 4; ++c) {
            const auto its = std::find_if(split.carried.begin(), split.carried.end(),
                                          [&](const Carried& x) { return x.vector == v && c >= x.first && c < x.first + x.width; });
            Instruction part;
            if (its == split.carried.end()) {
                part.op = Op::Constant;
                part.imm = uint32_t(out->constants.size());
                out->constants.push_back({});
            } else {
                any = true;
                part.op = Op::Swizzle;
                part.operands = 1;
                part.args[0] = p.code[size_t(its->at)].args[0];
                part.imm = uint32_t(c - its->first);
                part.origin = p.code[size_t(its->at)].origin;
            }
            all.args[size_t(c)] = append(part);
        }
        if (any) out->outputs.push_back({fmt::format("carried{}", v), append(all)});
    }
    // Among vertices there is nothing to carry.
    for (Instruction& i : out->code)
        if (i.op == Op::PerVertex) passOn(i);
    optimise(*out);
    return out;
}

std::shared_ptr<const Program> surfaceOf(const Program& p, const VertexSplit& split) {
    auto out = std::make_shared<Program>();
    *out = p;
    out->code.clear();
    std::vector<int32_t> now(p.code.size());
    for (size_t n = 0; n < p.code.size(); ++n) {
        Instruction i = p.code[n];
        for (int a = 0; a < i.operands; ++a) i.args[size_t(a)] = now[size_t(i.args[size_t(a)])];
        const auto its = std::find_if(split.carried.begin(), split.carried.end(), [&](const Carried& c) { return c.at == int32_t(n); });
        if (its != split.carried.end()) {
            Instruction from;
            from.op = Op::Attribute;
            from.width = 4;
            from.imm = kCarried0 + uint32_t(its->vector);
            from.origin = i.origin;
            out->code.push_back(from);
            i.op = Op::Swizzle;
            i.imm = 0;
            for (int c = 0; c < i.width; ++c) i.imm |= uint32_t(its->first + c) << (2 * c);
            i.args[0] = int32_t(out->code.size()) - 1;
        } else if (i.op == Op::PerVertex && i.imm == kCarriedUnasked) {
            passOn(i);
        }
        now[n] = int32_t(out->code.size());
        out->code.push_back(i);
    }
    for (auto& o : out->outputs) o.value = now[size_t(o.value)];
    optimise(*out);
    return out;
}

} // namespace

bool changesEvenly(Attribute a) {
    return a == Attribute::Uv0 || a == Attribute::Uv1 || a == Attribute::Color || isPainted(a) || a == Attribute::PositionWorld ||
           a == Attribute::PositionObject;
}

std::vector<Carried> findRoom(std::vector<CarriedWish> wishes) {
    std::stable_sort(wishes.begin(), wishes.end(),
                     [](const CarriedWish& a, const CarriedWish& b) { return a.asked != b.asked ? a.asked : a.width > b.width; });
    int used[kCarriedVectors] = {};
    std::vector<Carried> out;
    for (const CarriedWish& wish : wishes) {
        const auto room = std::find_if(std::begin(used), std::end(used), [&](int u) { return u + wish.width <= 4; });
        if (room == std::end(used)) {
            out.push_back({wish.at, -1, 0, wish.width});
            continue;
        }
        out.push_back({wish.at, int(room - std::begin(used)), *room, wish.width});
        *room += wish.width;
    }
    return out;
}

VertexSplit splitAtVertices(const std::shared_ptr<const Program>& program, Carry carry) {
    VertexSplit out;
    std::vector<CarriedWish> values = neededByPixels(*program);
    if (values.empty()) {
        out.surface = program;
        return out;
    }
    if (carry == Carry::Asked) std::erase_if(values, [](const CarriedWish& w) { return !w.asked; });
    out.carried = findRoom(std::move(values));
    std::erase_if(out.carried, [](const Carried& c) { return c.vector < 0; });
    out.surface = surfaceOf(*program, out);
    if (!out.carried.empty()) out.vertices = verticesOf(*program, out);
    return out;
}

std::vector<int32_t> withoutRoom(const Program& program) {
    std::vector<int32_t> out;
    for (const Carried& c : findRoom(neededByPixels(program)))
        if (c.vector < 0 && program.code[size_t(c.at)].imm != kCarriedUnasked) out.push_back(c.at);
    return out;
}

std::shared_ptr<const Program> joined(const Program& a, const Program& b) {
    auto out = std::make_shared<Program>(a);
    const auto first = int32_t(a.code.size()), firstOrigin = int32_t(a.origins.size());
    const auto firstConstant = uint32_t(a.constants.size());
    const auto indexIn = [](auto& list, const auto& entry) {
        const auto it = std::find(list.begin(), list.end(), entry);
        const auto index = uint32_t(it - list.begin());
        if (it == list.end()) list.push_back(entry);
        return index;
    };
    out->constants.insert(out->constants.end(), b.constants.begin(), b.constants.end());
    out->origins.insert(out->origins.end(), b.origins.begin(), b.origins.end());
    for (Instruction i : b.code) {
        for (int k = 0; k < i.operands; ++k) i.args[size_t(k)] += first;
        if (i.origin >= 0) i.origin += firstOrigin;
        if (i.op == Op::Constant) i.imm += firstConstant;
        if (i.op == Op::Parameter) i.imm = indexIn(out->parameters, b.parameters[i.imm]);
        if (infoOf(i.op).is(kMap)) i.imm = indexIn(out->maps, b.maps[i.imm]);
        out->code.push_back(i);
    }
    for (const auto& o : b.outputs) out->outputs.push_back({o.name, o.value + first});
    optimise(*out);
    return out;
}

} // namespace hue
