#include "preview/looks.h"

#include "core/bake/bake.h"
#include "core/emit/emit_glsl.h"

namespace hue {

LookPtr LookCache::get(const Project& project, const Master& master) {
    const std::string key = structureKey(project, master);
    {
        const std::lock_guard lock(m_mutex);
        if (auto it = m_looks.find(key); it != m_looks.end()) return it->second;
    }
    Compilation compiled = compileSurface(project, master, Constants::Live);
    auto look = std::make_shared<Look>();
    look->evaluator = std::make_shared<Evaluator>(compiled.program);
    look->fragmentStage = surfaceFragmentStage(*compiled.program, look->evaluator->layout());
    look->ok = compiled.ok;
    look->diagnostics = std::move(compiled.diagnostics);
    const std::lock_guard lock(m_mutex);
    ++m_compiles;
    // Old structures are only worth keeping for undo; a bound keeps long sessions small.
    if (m_looks.size() > 64) m_looks.clear();
    m_looks[key] = look;
    return look;
}

int LookCache::compiles() const {
    const std::lock_guard lock(m_mutex);
    return m_compiles;
}

DressedSpecimen dress(const Project& project, Assets& assets, LookCache& looks, const Specimen& specimen, double time,
                      float placementRandom) {
    static const Master plain = [] {
        Master m;
        m.name = "Nothing";
        return m;
    }();
    DressedSpecimen out;
    out.mesh = assets.mesh(project, specimen.mesh, &out.problem);
    for (size_t s = 0; s < out.mesh->slots.size(); ++s) {
        const Id worn = specimen.wears.empty() ? Id{} : specimen.wears[std::min(s, specimen.wears.size() - 1)];
        Resolved resolved = resolve(project, worn);
        if (!resolved.master) {
            resolved = {};
            resolved.master = &plain;
        }
        DressedSlot slot;
        slot.look = looks.get(project, *resolved.master);
        FrameInputs inputs = frameInputs(project, assets, resolved, time);
        inputs.placementRandom = placementRandom;
        slot.frame = slot.look->evaluator->frame(inputs);
        slot.surface = resolved.surface;
        out.slots.push_back(std::move(slot));
    }
    return out;
}

} // namespace hue
