#include "core/program/passes/passes.h"

#include <algorithm>
#include <cassert>

namespace hue {

std::span<const PassDef> passes() {
    static constexpr PassDef all[] = {
        {"remove-dead", "drops what no output needs", removeDead},
        {"fold-constants", "evaluates what has only constant operands", foldConstants},
        {"use-identities", "puts cheaper operations in the place of what equals them", useIdentities},
        {"hoist", "lets what is known once a frame meet before it meets what differs per pixel", hoist},
        {"merge-common", "lets equal operations stand once", mergeCommon},
        {"order", "puts what needs most registers first", order},
        {"leave-to-vertices", "has triangles carry what changes evenly, where that is cheaper", leaveToVertices},
        {"gather-unseen", "puts what a mask hides together, behind the mask", gatherUnseen},
    };
    return all;
}

void optimise(Program& p, const PassOptions& options) {
    const auto run = [&](const PassDef& pass) {
        if (std::find(options.without.begin(), options.without.end(), pass.name) != options.without.end()) return false;
        const bool changed = pass.run(p);
        assert(validate(p).empty());
        if (options.log) options.log(pass.name, p, changed);
        return changed;
    };
    run(passes()[0]);
    // What is dead is dropped once more after each round; that alone is no reason for another.
    for (bool changed = true; changed;) {
        changed = run(passes()[1]);
        changed = run(passes()[2]) || changed;
        changed = run(passes()[3]) || changed;
        changed = run(passes()[4]) || changed;
        changed = run(passes()[0]) && changed;
    }
    run(passes()[5]);
    if (options.toVertices) run(passes()[6]);
    run(passes()[7]);
    assignRates(p);
}

} // namespace hue
