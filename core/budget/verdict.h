#pragma once
// What is worn against a target.
// Threads: any. Nothing is kept between calls.
#include "core/budget/target.h"
#include "core/cost/cost.h"
#include "core/document/project.h"

#include <optional>

namespace hue {

/// One limit and what stands against it.
struct Against {
    const LimitDef* def = nullptr;
    double figure = 0, limit = 0; ///< a limit of 0: none
    bool over() const { return limit > 0 && figure > limit; }
    /// Share of the limit that is used; 0 where there is none.
    double share() const { return limit > 0 ? figure / limit : 0; }
    /// "151 of 160 operations per pixel"; "12.5 of 10 MB map memory".
    std::string words() const;
};

/// A master or an instance against a target.
struct Verdict {
    Id worn;
    Cost cost;
    std::vector<Against> limits;         ///< those of one surface, in the order of limitDefs()
    std::vector<std::string> badFormats; ///< names of maps that are worn in a block format that the target does not read
    bool fits() const;
    /// The limit of which most is used; null where there are none.
    const Against* worst() const;
};
/// `bytes` gives the memory of a map by its id on the graphics card, with its levels; 0 where it cannot be read.
using MapBytes = std::function<size_t(const Id& map)>;
Verdict verdictOf(const Project& project, const Id& worn, const Target& target, const MapBytes& bytes);

struct ProjectVerdict {
    std::vector<Verdict> worn;   ///< all that is worn by slots, decals and cards; of masters that nobody wears all instances, or themselves
    std::vector<Against> builds; ///< of each master that has choices, with `masters` naming them
    std::vector<Id> masters;
    Against memory; ///< of all maps together
    bool fits() const;
};
/// `of`: these alone; empty: everything that the project ships.
ProjectVerdict verdictOf(const Project& project, const Target& target, const MapBytes& bytes, const std::vector<Id>& of = {});

} // namespace hue
