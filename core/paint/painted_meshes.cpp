#include "core/paint/painted_meshes.h"

#include "core/paint/carry_over.h"

#include <algorithm>

namespace hue {

MeshPtr PaintedMeshes::get(const MeshPtr& mesh, const PaintDataPtr& paint) {
    constexpr size_t kOfEach = 2, kMost = 8;
    Kept newest;
    std::vector<Kept> old; // let go outside the lock
    {
        const std::lock_guard lock(m_mutex);
        size_t ofThis = 0;
        for (const Kept& k : m_kept) {
            if (k.mesh != mesh) continue;
            if (k.paint == paint) return k.made;
            newest = k;
            ++ofThis;
        }
        const auto leave = [&](auto which) {
            const auto it = std::find_if(m_kept.begin(), m_kept.end(), which);
            old.push_back(std::move(*it));
            m_kept.erase(it);
        };
        // Room for the one that is to come.
        for (; ofThis >= kOfEach; --ofThis) leave([&](const Kept& k) { return k.mesh == mesh; });
        while (m_kept.size() >= kMost) leave([](const Kept&) { return true; });
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
