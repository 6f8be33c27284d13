#pragma once
// Many instances at once, that vary some values within ranges.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/project.h"

#include <set>
#include <string_view>

namespace hue {

/// How one parameter varies: from one value to another by each component, or among some of them.
struct Varied {
    Id parameter;
    Value low, high;
    std::vector<Id> maps = {}; ///< of a map, curve, gradient or finish: ParameterValue::map of those that it takes
};

struct Variations {
    Id parent;                  ///< a master or an instance
    std::string name;           ///< of all, with numbers behind; empty: the parent's
    int count = 8;              ///< 1..kMostVariations
    bool gradual = false;       ///< from low to high in even steps, all parameters together; else each by chance
    uint32_t seed = 1;          ///< of the chance: the same gives the same
    std::vector<Varied> varied; ///< at least one
    std::set<int> without = {}; ///< places in the row, from 0, of those that are not made; the others are as they would be beside them
};
inline constexpr int kMostVariations = 1000;

/// "LOW..HIGH" with values as words (value_words.h); of a map parameter names with semicolons between them. Errors: vary.range,
/// value.words.
Result<Varied> variedFrom(const Project& project, const Parameter& parameter, std::string_view words);

/// The instances, as children of the parent. By chance each parameter takes one value out of each of `count` equal parts of its range, in
/// an order of its own, so that few instances show all of it. Limits hold. Errors: vary.count, vary.nothing, instance.no-parent,
/// edit.no-parameter.
Result<Project> withVariations(const Project& project, const Variations& variations, std::vector<Id>* made = nullptr);

/// A child of `parent` for each map set of the project that has a map for one of its master's parameters, called after the set, with the
/// set's maps as own values. Errors: instance.no-parent; vary.no-set, where no set fits.
Result<Project> withMapSets(const Project& project, const Id& parent, std::vector<Id>* made = nullptr);

} // namespace hue
