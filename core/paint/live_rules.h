#pragma once
// Rules that stay live below what the hand has painted.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/base/work.h"
#include "core/document/project.h"
#include "core/paint/fill_rules.h"
#include "core/project/assets.h"

namespace hue {

/// What the hand has painted, over what the rules gave and over what they give now: it has taken a value some share of the way to 1 or to
/// 0, and does so again. What it has not touched follows the rules, what it has made 0 or 1 stays. All 0..1.
float handOver(float painted, float was, float is);

/// What rules give that have not been reckoned for what they read now.
struct ReckonedRules {
    Id paintwork;
    int channel = 0;
    PaintChannel values;
    std::string read; ///< a hash of what they read
};
/// Why some could not be reckoned; what they gave last stays.
struct UnreckonedRules {
    Id paintwork;
    int channel = 0;
    Error error;
};
struct LivePaint {
    std::vector<ReckonedRules> channels;
    std::vector<UnreckonedRules> failures;
    bool stopped = false;
    /// What went wrong with one channel's.
    std::optional<Error> failureOf(const Id& paintwork, int channel) const;
};
/// Reckons those rules whose fingerprint is no more that of what lies under the hand's paint, of the shape they are on and of the wires
/// they read, at time 0, of what the first specimen wears that wears the paintwork. Of the paint, a wire sees channels without rules, and
/// those below the one that is filled; so nothing goes in circles. Errors that are told: those of fillRuleFromText() and fillByRules(),
/// paint.wire.
LivePaint reckonLive(const Project& project, Assets& assets, const Work& work);
/// Rules that would give something else by now, or could not be reckoned: paint.stale, and the errors that are told above. The window
/// reckons by itself; this is for who only reads.
std::vector<Diagnostic> livePaintProblems(const Project& project, Assets& assets, const Work& work = {});
/// The project with that below the hand's paint; what it no longer has is passed over.
Project withLive(const Project& project, const LivePaint& live);

} // namespace hue
