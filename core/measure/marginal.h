#pragma once
// What a card costs where it stands: the material measured again with the card's results replaced by their means.
// Threads: any. Nothing is kept between calls.
#include "core/evaluate/evaluator.h"
#include "core/measure/measurements.h"

namespace hue {

/// The mean of each instruction over the flat unit square (16 pixels a side), as the material stands with these inputs; not finite values
/// count as 0.
std::vector<std::array<float, 4>> meansOf(const Program& program, const FrameInputs& inputs);

/// The Program with the mean in the place of what a card of the board hands to others, optimised; what only the card needs is gone.
std::shared_ptr<const Program> withoutCard(const Program& program, const Id& card, const std::vector<std::array<float, 4>>& means);

struct Marginal {
    Id card;
    Result<Reading> without;
};
/// Of every card of the board that leaves something per pixel, in the order of the Program. Errors stand with the cards.
std::vector<Marginal> marginalsOf(Measurements& measurements, const Compilation& compiled, AlphaMode alpha, const FrameInputs& inputs,
                                  const Family& family, const Work& work = {});

} // namespace hue
