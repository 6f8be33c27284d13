#include "core/paint/painted_meshes.h"

#include "core/paint/carry_over.h"

#include <algorithm>
#include <iterator>
#include <utility>

namespace hue {

MeshPtr PaintedMeshes::get(const MeshPtr& mesh, const PaintDataPtr& paint) {
    constexpr size_t kMost = 8;
    Kept newest;
    std::vector<Kept> old; // let go outside the lock
    {
        const std::lock_guard lock(m_mutex);
        const auto known = std::find_if(m_kept.begin(), m_kept.end(), [&](const Kept& k) { return k.mesh == mesh && k.paint == paint; });
        if (known != m_kept.end()) {
            std::rotate(known, known + 1, m_kept.end());
            return m_kept.back().made;
        }
        const auto last = std::find_if(m_kept.rbegin(), m_kept.rend(), [&](const Kept& k) { return k.mesh == mesh; });
        if (last != m_kept.rend()) newest = *last;
        // What somebody looks at stays, such as another specimen of the mesh with a paintwork of its own.
        const auto gone = std::stable_partition(
            m_kept.begin(), m_kept.end(), [&](const Kept& k) { return k.mesh != mesh || k.made == newest.made || k.made.use_count() > 1; });
        std::move(gone, m_kept.end(), std::back_inserter(old));
        m_kept.erase(gone, m_kept.end());
        if (m_kept.size() >= kMost) {
            old.push_back(std::move(m_kept.front()));
            m_kept.erase(m_kept.begin());
        }
    }
    old.clear();

    const PaintDataPtr on = paintOn(mesh, paint);
    Spare from = takeSpare(mesh);
    std::unique_ptr<Mesh> made;
    if (from.made) {
        // The same arrays, in another mesh: what a mesh was seen to be is known by where it lies.
        made = std::make_unique<Mesh>(std::move(*from.made));
        repaint(*made, *from.on, *on);
    } else if (newest.made) {
        made = std::make_unique<Mesh>(*newest.made);
        repaint(*made, *newest.on, *on);
    } else {
        made = std::make_unique<Mesh>(painted(*mesh, *on));
    }
    MeshPtr out = shared(mesh, on, std::move(made));
    const std::lock_guard lock(m_mutex);
    m_kept.push_back({mesh, paint, on, out});
    return out;
}

MeshPtr PaintedMeshes::shared(const MeshPtr& mesh, const PaintDataPtr& on, std::unique_ptr<Mesh> made) const {
    return {made.release(), [spares = std::weak_ptr(m_spares), mesh, on](Mesh* let) {
                Spare spare{mesh, on, std::unique_ptr<Mesh>(let)};
                const auto to = spares.lock();
                if (!to) return;
                const std::lock_guard lock(to->mutex);
                std::swap(to->last, spare);
            }};
}

PaintedMeshes::Spare PaintedMeshes::takeSpare(const MeshPtr& mesh) {
    const std::lock_guard lock(m_spares->mutex);
    return m_spares->last.mesh == mesh ? std::exchange(m_spares->last, {}) : Spare{};
}

} // namespace hue
