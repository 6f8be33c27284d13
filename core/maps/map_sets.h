#pragma once
// Maps that belong together: found by name, and where names do not tell, by the structure of the pixels.
// Threads: any. Nothing is kept between calls.
#include "core/maps/statistics.h"

namespace hue {

struct SetCandidate {
    std::string name;          ///< file name
    Guess guess;               ///< role empty when unknown
    std::vector<float> sketch; ///< of MapFacts; empty: only the name is looked at
};

struct FoundSet {
    std::string name;
    struct Member {
        size_t candidate;
        Role role;
        bool byContent = false; ///< the name did not tell; the pixels did
    };
    std::vector<Member> members; ///< at most one of a role
};

/// Sets of two maps or more. A normal map without a set joins the color map whose edges lie where its slopes are, when one
/// stands out clearly.
std::vector<FoundSet> findSets(const std::vector<SetCandidate>& candidates);

/// "Setts_Normal_2k.png" -> "setts 2k": the name without its words for roles, in lower case.
std::string setNameOf(const std::string& fileName);
/// Correlation of two sketches, -1..1.
float sketchLikeness(const std::vector<float>& a, const std::vector<float>& b);

} // namespace hue
