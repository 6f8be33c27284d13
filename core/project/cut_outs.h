#pragma once
// Which maps cut their surfaces out: their smaller levels must cover as much as the largest, or a grille turns solid from afar.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"
#include "core/images/mips.h"

namespace hue {

struct CutOut {
    int channel = 0; ///< of the file, or kCoverageAlpha for its alpha
    float cutoff = 0.5f;
    bool operator==(const CutOut&) const = default;
};
/// How a map is used as alpha by a surface that is cut out by a mask: wired to alpha itself, or through a map parameter that a master
/// or an instance sets to it. Nothing when it is not. Of several uses the first.
std::optional<CutOut> cutOutBy(const Project& project, const Id& map);

} // namespace hue
