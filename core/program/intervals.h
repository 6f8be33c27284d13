#pragma once
// Between which numbers the values of a Program lie, whatever finite values come from outside.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <functional>
#include <limits>
#include <optional>

namespace hue {

/// Of all components of a value; without bounds where nothing is known.
struct Interval {
    float low = -std::numeric_limits<float>::infinity();
    float high = std::numeric_limits<float>::infinity();
    bool within(float l, float h) const { return low >= l && high <= h; }
    bool operator==(const Interval&) const = default;
};

/// For each instruction. They hold for the numbers as the engines round them; a value that is not finite is in none.
/// Moore, "Interval Analysis", 1966.
std::vector<Interval> intervalsOf(const Program& program);
/// The same where more is known of what comes from outside: `known` gives the interval of an instruction, or nothing.
std::vector<Interval> intervalsOf(const Program& program, const std::function<std::optional<Interval>(const Instruction&)>& known);

} // namespace hue
