#pragma once
// Which maps cut their surfaces out: their smaller levels must cover as much as the largest, or a grille turns solid from afar.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/document/project.h"
#include "core/images/mips.h"

#include <map>
#include <mutex>
#include <optional>

namespace hue {

struct CutOut {
    int channel = 0; ///< of the file, or kCoverageAlpha for its alpha
    float cutoff = 0.5f;
    bool operator==(const CutOut&) const = default;
};
/// A map that a surface with mask or blend reads its alpha from: wired to alpha itself, or through a map parameter that a master or an
/// instance sets to it.
struct AlphaUse {
    Id worn, map; ///< worn: a master or an instance
    AlphaMode mode = AlphaMode::Mask;
    CutOut cut;
};
std::vector<AlphaUse> alphaUsesOf(const Project& project);
/// By map: how it is used by a surface that is cut out by a mask. Of several uses the first.
std::map<Id, CutOut> cutOutsOf(const Project& project);

/// The cut-outs of the last project that was asked for. Every map of every picture asks; only another master or instance changes what
/// they are.
class CutOuts {
  public:
    std::optional<CutOut> of(const Project& project, const Id& map);

  private:
    std::mutex m_mutex;
    std::vector<MasterPtr> m_masters;
    std::vector<InstancePtr> m_instances;
    std::map<Id, CutOut> m_known;
};

} // namespace hue
