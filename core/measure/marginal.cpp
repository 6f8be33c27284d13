#include "core/measure/marginal.h"

#include <cmath>
#include <set>

namespace hue {

std::vector<std::array<float, 4>> meansOf(const Program& program, const FrameInputs& inputs) {
    constexpr int kSide = 16;
    auto asked = std::make_shared<Program>(program);
    asked->outputs.clear();
    std::vector<std::string> names;
    for (size_t n = 0; n < program.code.size(); ++n) {
        names.push_back(std::to_string(n));
        asked->outputs.push_back({names.back(), int32_t(n)});
    }
    std::vector<std::array<double, 4>> sums(program.code.size());
    std::mutex adding;
    const Evaluator evaluator(asked);
    evaluator.grid(evaluator.frame(inputs), names, kSide, kSide, FlatSquare(kSide, kSide),
                   [&](int, int, int columns, int rows, const float* const* planes) {
                       const std::lock_guard lock(adding);
                       size_t plane = 0;
                       for (size_t n = 0; n < program.code.size(); ++n)
                           for (int c = 0; c < program.code[n].width; ++c, ++plane)
                               for (int r = 0; r < rows; ++r)
                                   for (int i = 0; i < columns; ++i)
                                       if (const float x = planes[plane][r * kBlockColumns + i]; std::isfinite(x))
                                           sums[n][size_t(c)] += double(x);
                   },
                   {});
    std::vector<std::array<float, 4>> out(program.code.size());
    for (size_t n = 0; n < out.size(); ++n)
        for (size_t c = 0; c < 4; ++c) out[n][c] = float(sums[n][c] / (kSide * kSide));
    return out;
}

std::shared_ptr<const Program> withoutCard(const Program& program, const Id& card, const std::vector<std::array<float, 4>>& means) {
    auto out = std::make_shared<Program>(program);
    const auto isIts = [&](size_t n) {
        const int32_t origin = program.code[n].origin;
        return origin >= 0 && program.origins[size_t(origin)].card == card && program.code[n].op != Op::Constant;
    };
    std::set<size_t> handed;
    for (size_t n = 0; n < program.code.size(); ++n)
        for (int a = 0; a < program.code[n].operands && !isIts(n); ++a)
            if (const size_t from = size_t(program.code[n].args[size_t(a)]); isIts(from)) handed.insert(from);
    for (const Program::Output& o : program.outputs)
        if (isIts(size_t(o.value))) handed.insert(size_t(o.value));
    for (const size_t n : handed) {
        Instruction& i = out->code[n];
        i.op = Op::Constant;
        i.operands = 0;
        i.imm = uint32_t(out->constants.size());
        i.args = {};
        out->constants.push_back(means[n]);
    }
    optimise(*out);
    return out;
}

std::vector<Marginal> marginalsOf(Measurements& measurements, const Compilation& compiled, AlphaMode alpha, const FrameInputs& inputs,
                                  const Family& family, const Work& work) {
    std::vector<Id> cards;
    std::set<Id> seen;
    for (const Instruction& i : compiled.program->code)
        if (i.rate == Rate::Pixel && i.origin >= 0)
            if (const Id& card = compiled.program->origins[size_t(i.origin)].card; !card.empty() && seen.insert(card).second)
                cards.push_back(card);
    const std::vector<std::array<float, 4>> means = meansOf(*compiled.program, inputs);
    std::vector<Material> materials(cards.size());
    inBands(cards.size(), 1, work.threads, [&](size_t first, size_t last) {
        for (size_t k = first; k < last && !work.stopped(); ++k) {
            materials[k] = {compiled, alpha};
            materials[k].compiled.program = withoutCard(*compiled.program, cards[k], means);
        }
    });
    std::vector<Result<Reading>> readings = readingsOf(measurements, materials, family, work);
    std::vector<Marginal> out;
    for (size_t k = 0; k < cards.size(); ++k) out.push_back({cards[k], std::move(readings[k])});
    return out;
}

} // namespace hue
