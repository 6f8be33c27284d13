#pragma once
// Ways to make a material cheaper, each tried on a copy before it is proposed.
// Threads: any. Nothing is kept between calls.
#include "core/base/work.h"
#include "core/budget/verdict.h"
#include "core/edits/edits.h"
#include "core/evaluate/evaluator.h"
#include "core/suggest/tried_maps.h"

namespace hue {

/// What a card's results are replaced with, and the like: found by a rule, not yet tried.
struct Proposed {
    std::string code;  ///< of the rule and what it is about, such as "per-vertex:card.port": names it where it is silenced
    std::string title; ///< what is done: "Compute Dust at the vertices"
    std::string why;   ///< one sentence
    Id card;           ///< on the master's board, where it is about one
    edit::Edit change;
    double area = 0; ///< square metres of a specimen on which a decal is computed no more
};

struct RuleDef {
    std::string_view key;  ///< what codes begin with
    std::string_view help; ///< one sentence, for docs
};
std::span<const RuleDef> suggestionRules();

/// Everything that the rules find for the master of what is worn, but what is silenced on it. `inputs` gives values and maps, for rules
/// that need means. `maps` makes those that some rules need, and is asked again by their edits; null: nothing of these. Most are of no use;
/// see suggestionsFor().
std::vector<Proposed> proposed(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs,
                               TriedMaps* maps = nullptr);

/// A master, where it is worn itself or nobody derives from it, and its instances: whoever a change of it is seen on.
std::vector<Id> usersOf(const Project& project, const Id& master);

/// On whom a change of what is worn is looked for: itself, then others of its master that ship, those that specimens wear first.
std::vector<Id> lookedAt(const Project& project, const Id& worn, size_t most = 4);

/// What maps take in a state of the project: their formats are the state's.
using BytesIn = std::function<MapBytes(const Project& state)>;

/// One that was applied to a copy, compiled and counted.
struct Suggestion {
    Proposed what;
    std::shared_ptr<const Project> after;
    Verdict before, then;                                                                  ///< of what is worn
    double operations = 0, vertexOperations = 0, fetches = 0, samplers = 0, megabytes = 0; ///< that are saved; below 0: more
    bool fitsMore = false; ///< a limit of the target that was not met is met then
    /// One figure to sort by: the largest saving as a share of what is spent, or of the target's limit where there is one.
    double worth = 0;
};
/// Those that save something, the most worth first; none changes a card that is locked. `progress` and stopping by `work`.
std::vector<Suggestion> suggestionsFor(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                                       const FrameInputs& inputs, const Work& work = {}, TriedMaps* maps = nullptr);
/// To order them by once it is known how much is seen of them (CIEDE2000): the higher, the sooner it is proposed.
double rankOf(const Suggestion& suggestion, double seen);
/// "12 operations, 1 fetch, 1.2 MB"; what becomes more stands behind "for".
std::string savingWords(const Suggestion& suggestion);

/// A way down: suggestions that are applied one after the other, the least seen for what it saves first, until the target is met or nothing
/// is left that helps.
struct FitStep {
    std::string title, code;
    std::shared_ptr<const Project> state;
    Verdict verdict;
    double difference = 0; ///< from the beginning, as `difference` tells
};
struct Fit {
    std::vector<FitStep> steps; ///< the first is where it began
    bool fits = false;
    int tried = 0;       ///< states that were looked at
    std::string problem; ///< why a state that was looked at has no picture; such states are not taken
};
/// `difference` tells how far a state's look of `worn` lies from the beginning's, 0 for none, or why it has none; it may take long.
/// `locked`: ids of cards that stay as they are, beside those that are locked on the board. Stops when asked, with what there is.
Fit fitToTarget(const Project& project, const Id& worn, const Target& target, const BytesIn& bytes,
                const std::function<FrameInputs(const Project&, const Resolved&)>& inputs,
                const std::function<Result<double>(const Project& state)>& difference, const std::set<Id>& locked = {},
                const Work& work = {}, TriedMaps* maps = nullptr);

} // namespace hue
