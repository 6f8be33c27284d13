#include "core/instances/affected.h"

#include "core/document/parameter_kinds.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"

#include <algorithm>
#include <tuple>

namespace hue {
namespace {

bool sameNode(const NodePtr& a, const NodePtr& b) {
    return a == b || std::tie(a->kind, a->muted, a->constants, a->settings, a->wires) ==
                         std::tie(b->kind, b->muted, b->constants, b->settings, b->wires);
}

bool sameBoard(const Master& a, const Master& b) {
    if (!(a.surface == b.surface) || a.graph.channelWires != b.graph.channelWires || a.graph.channelConstants != b.graph.channelConstants ||
        a.graph.mutedChannels != b.graph.mutedChannels)
        return false;
    return std::equal(a.graph.nodes.begin(), a.graph.nodes.end(), b.graph.nodes.begin(), b.graph.nodes.end(),
                      [](const auto& x, const auto& y) { return x.first == y.first && sameNode(x.second, y.second); }) &&
           std::equal(a.parameters.begin(), a.parameters.end(), b.parameters.begin(), b.parameters.end(),
                      [](const Parameter& x, const Parameter& y) { return x.id == y.id && x.type == y.type && x.mapKind == y.mapKind; });
}

bool sameMap(const MapFile* a, const MapFile* b) {
    if (!a || !b) return a == b;
    return a == b || (std::tie(a->path, a->kind, a->wrap, a->hash, a->format) == std::tie(b->path, b->kind, b->wrap, b->hash, b->format) &&
                      a->origin.fingerprint == b->origin.fingerprint);
}

class Comparing {
  public:
    Comparing(const Project& before, const Project& after) : m_before(before), m_after(after) {}

    bool differs(const Id& worn) {
        const auto [known, fresh] = m_worn.try_emplace(worn, false); // a circle adds nothing of its own
        if (!fresh) return known->second;
        const bool out = differsNow(worn);
        return m_worn[worn] = out;
    }

  private:
    bool differsNow(const Id& worn) {
        const Resolved a = resolve(m_before, worn), b = resolve(m_after, worn);
        if (!a.master || !b.master) return a.master != b.master;
        if (a.master->id != b.master->id || !(a.surface == b.surface) || boardDiffers(a.master->id)) return true;
        for (const auto& [id, entry] : b.values) {
            const auto was = a.values.find(id);
            if (was == a.values.end() || !(was->second.value == entry.value)) return true;
            if (!entry.value.map.empty() && m_after.masterOf(entry.value.map) && differs(entry.value.map)) return true;
            if (!entry.value.map.empty() && !sameMap(m_before.map(entry.value.map), m_after.map(entry.value.map))) return true;
        }
        return false;
    }

    /// A board by itself, with all that its cards take in.
    bool boardDiffers(const Id& id) {
        const auto [known, fresh] = m_boards.try_emplace(id, false);
        if (!fresh) return known->second;
        const Master *a = m_before.board(id), *b = m_after.board(id);
        const bool out = !a || !b || (a != b && !sameBoard(*a, *b)) || takesInWhatDiffers(*b);
        return m_boards[id] = out;
    }

    bool takesInWhatDiffers(const Master& board) {
        for (const auto& [id, node] : board.graph.nodes) {
            if (const Id inner = assemblyOf(*node); !inner.empty() && (boardDiffers(inner) || defaultsDiffer(inner))) return true;
            if (const Id worn = finishOf(board, *node); !worn.empty() && differs(worn)) return true;
            for (const auto& [key, value] : node->settings)
                if (const MapFile* map = m_after.map(value); map && !sameMap(m_before.map(value), map)) return true;
        }
        return false;
    }

    /// Of an assembly: what its inputs are while nothing is wired to them.
    bool defaultsDiffer(const Id& assembly) const {
        const Master *a = m_before.board(assembly), *b = m_after.board(assembly);
        return !a || !b ||
               !std::equal(a->parameters.begin(), a->parameters.end(), b->parameters.begin(), b->parameters.end(),
                           [](const Parameter& x, const Parameter& y) {
                               return x.standard == y.standard && x.codeName == y.codeName && x.follows == y.follows;
                           });
    }

    const Project &m_before, &m_after;
    std::map<Id, bool> m_worn, m_boards;
};

} // namespace

std::vector<Id> affectedBy(const Project& before, const Project& after) {
    std::vector<Id> out;
    Comparing comparing(before, after);
    for (const MasterPtr& m : after.masters)
        if (before.master(m->id) && comparing.differs(m->id)) out.push_back(m->id);
    for (const InstancePtr& i : after.instances)
        if (before.instance(i->id) && comparing.differs(i->id)) out.push_back(i->id);
    return out;
}

} // namespace hue
