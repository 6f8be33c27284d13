#pragma once
// Combinations of build choices: which there are, who needs them, what each costs.
// Threads: any. Nothing is kept between calls.
#include "core/cost/cost.h"
#include "core/document/project.h"

#include <set>

namespace hue {

/// What each build choice of a master is set to, by parameter: places among its options (0 off, 1 on), or what a finish is taken of.
using Chosen = std::map<Id, ParameterValue>;

/// Masters that are worn themselves: by slots, decals and cards, and as finishes.
std::set<Id> wornBare(const Project& project);

struct Build {
    Chosen chosen;
    std::vector<Id>
        users; ///< instances that have it, in the order of the project; the master where a slot, a decal or a card wears it bare
};

/// All builds of a master that are in use, and first that of its defaults, in use or not. One without build choices has that one alone.
std::vector<Build> buildsOf(const Project& project, const Master& master);
/// Builds in use of all masters together; a master that nobody wears is one as well.
size_t buildsInUse(const Project& project);
/// Whether it has any.
bool hasBuildChoices(const Master& master);
/// How many of them somebody uses.
size_t usedOf(const std::vector<Build>& builds);
/// "3 of 6 builds"; "3 builds" where finishes, which may be any, are among the choices.
std::string buildCountWords(const Master& master, size_t used);
/// How many combinations its build choices could be in; a large number where it would be more than fits. Finishes, which may be any, count
/// as one.
size_t possibleBuilds(const Master& master);
/// Beyond that many builds in use a caution is given: each is compiled, shipped and switched to on its own.
inline constexpr size_t kManyBuilds = 16;

/// "Livery stripes, Moss on, Paint of Lacquer/Red"; "one build" where a master has no choices.
std::string buildWords(const Project& project, const Master& master, const Chosen& chosen);
/// The choices of a master as they are by default.
Chosen defaultsOf(const Master& master);
/// The master with other defaults of its choices; what resolve() gives instances with these values.
std::shared_ptr<const Master> masterOfBuild(const Master& master, const Chosen& chosen);

/// The same with its choices left open, as if they were live parameters; finishes stay.
Master withoutChoices(Master master);

/// What a choice costs at each of its options, counted on what is compiled then, the others as they are by default; and what it would cost
/// as a live parameter, in one build.
struct ChoiceCosts {
    std::vector<Cost> options;
    Cost live;
};
ChoiceCosts choiceCosts(const Project& project, const Master& master, const Id& parameter);
/// "48 to 96 operations, 2 fetches in 2 builds; live 102 operations, 4 fetches in one", of a switch or a choice.
std::string choiceCostWords(const ChoiceCosts& costs);

/// Parameters that nothing of a build reads, and that another choice would wake. `master`: as resolve() gives it.
std::set<Id> idleParameters(const Project& project, const Master& master);

} // namespace hue
