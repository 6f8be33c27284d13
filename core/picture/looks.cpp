#include "core/picture/looks.h"

#include "core/cost/cost.h"
#include "core/decals/decalled.h"
#include "core/document/shared_parameters.h"
#include "core/emit/emit_glsl.h"
#include "core/make/bake.h"
#include "core/nodes/finish.h"
#include "core/program/passes/vertex_split.h"
#include "core/project/frame_inputs.h"
#include "core/surface/at_vertices.h"
#include "core/surface/channels.h"
#include "core/surface/surface_stages.h"

#include <cstring>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {
namespace {

std::shared_ptr<Look> lookOf(Compilation compiled) {
    auto look = std::make_shared<Look>();
    const VertexSplit split = splitAtVertices(compiled.program);
    look->evaluator = std::make_shared<Evaluator>(split.surface);
    if (split.vertices) look->vertices = std::make_shared<Evaluator>(split.vertices);
    if (compiled.offset) look->offset = std::make_shared<Evaluator>(compiled.offset);
    for (int full = 0; full < 2; ++full) look->stage[full] = surfaceFragmentStage(*split.surface, look->evaluator->layout(), full != 0);
    look->ok = compiled.ok;
    look->diagnostics = std::move(compiled.diagnostics);
    return look;
}

const Master& plainMaster() {
    static const Master plain = [] {
        Master m;
        m.name = "Nothing";
        return m;
    }();
    return plain;
}

/// Shows zero: what an unwired vertex offset is.
const Master& unmovedMaster() {
    static const Master unmoved = [] {
        Master m;
        m.name = "Unmoved";
        m.graph.channelConstants["base_color"] = Value::vec3(0, 0, 0);
        return m;
    }();
    return unmoved;
}

} // namespace

LookPtr LookCache::keep(const std::string& key, LookPtr look) {
    const std::lock_guard lock(m_mutex);
    ++m_compiles;
    // Old structures are only worth keeping for undo; a bound keeps long sessions small. What is drawn was asked for just now.
    constexpr size_t kMost = 128;
    if (m_looks.size() >= kMost) std::erase_if(m_looks, [&](const auto& entry) { return entry.second.wanted + kMost < m_asked; });
    if (m_looks.size() >= 2 * kMost) m_looks.clear();
    return (m_looks[key] = {std::move(look), ++m_asked}).look;
}

LookPtr LookCache::found(const std::string& key) const {
    const std::lock_guard lock(m_mutex);
    auto it = m_looks.find(key);
    if (it == m_looks.end()) return nullptr;
    it->second.wanted = ++m_asked;
    return it->second.look;
}

LookPtr LookCache::get(const Project& project, const Master& master) {
    const std::string key = structureKey(project, master) + (movesVertices(master) ? "moves" : "");
    if (LookPtr kept = found(key)) return kept;
    const std::lock_guard alone(m_compiling);
    if (LookPtr kept = found(key)) return kept;
    const auto look = lookOf(compileSurface(project, master, Constants::Live));
    look->layers = master.surface.layers;
    return keep(key, look);
}

LookPtr LookCache::wire(const Project& project, const Master& master, const Source& wire) {
    const std::string key = "wire\x1f" + wire.node + '\x1f' + wire.port + '\x1f' + wire.take + (wire.perVertex ? "\x1f.\x1f" : "\x1f") +
                            structureKey(project, master);
    if (LookPtr kept = found(key)) return kept;
    const std::lock_guard alone(m_compiling);
    if (LookPtr kept = found(key)) return kept;
    Compilation compiled = compileTap(project, master, wire, Constants::Live);
    const auto port = compiled.ports.find({wire.node, wire.port});
    const bool color =
        port != compiled.ports.end() && port->second.meaning == Meaning::Color && wire.take.size() != 1 && wire.take != "luma";
    const auto look = lookOf(std::move(compiled));
    look->valueIsColor = color;
    return keep(key, look);
}

int LookCache::compiles() const {
    const std::lock_guard lock(m_mutex);
    return m_compiles;
}

MeshPtr LookCache::refined(const MeshPtr& mesh, int times, std::string* problem) {
    if (times <= 0) return mesh;
    {
        const std::lock_guard lock(m_mutex);
        if (auto it = m_refined.find({mesh, times}); it != m_refined.end()) return it->second;
    }
    Result<Mesh> made = subdivided(*mesh, times);
    if (!made) {
        if (problem) *problem = made.error().sentence;
        return mesh;
    }
    const std::lock_guard lock(m_mutex);
    if (m_refined.size() > 8) m_refined.clear();
    return m_refined[{mesh, times}] = std::make_shared<Mesh>(std::move(*made));
}

MeshPtr LookCache::placed(const MeshPtr& mesh, const std::vector<Placement>& placements, std::string* problem) {
    if (placements.size() <= 1) return mesh;
    {
        const std::lock_guard lock(m_mutex);
        for (const Placed& p : m_placed)
            if (p.mesh == mesh && p.placements == placements) return p.made;
    }
    Result<Mesh> made = repeated(std::vector<MeshPtr>(placements.size(), mesh), placements);
    if (!made) {
        if (problem) *problem = made.error().sentence;
        return nullptr;
    }
    const std::lock_guard lock(m_mutex);
    if (m_placed.size() > 8) m_placed.clear();
    m_placed.push_back({mesh, placements, std::make_shared<Mesh>(std::move(*made))});
    return m_placed.back().made;
}

std::shared_ptr<const Displacer> LookCache::displacer(const MeshPtr& mesh) {
    {
        const std::lock_guard lock(m_mutex);
        if (auto it = m_displacers.find(mesh); it != m_displacers.end()) return it->second;
    }
    auto made = std::make_shared<Displacer>(mesh);
    const std::lock_guard lock(m_mutex);
    if (m_displacers.size() > 8) m_displacers.clear();
    return m_displacers[mesh] = std::move(made);
}

MeshPtr LookCache::carrying(const MeshPtr& mesh, std::vector<CarriedValues> carried) {
    {
        const std::lock_guard lock(m_mutex);
        // What is not a number equals nothing, not even itself; bits do.
        if (const auto it = m_carrying.find(mesh);
            it != m_carrying.end() && std::memcmp(it->second->carried.data(), carried.data(), carried.size() * sizeof carried[0]) == 0)
            return it->second;
    }
    auto made = std::make_shared<Mesh>(*mesh);
    made->carried = std::move(carried);
    const std::lock_guard lock(m_mutex);
    if (m_carrying.size() > 8) m_carrying.clear();
    return m_carrying[mesh] = std::move(made);
}

UvDensity LookCache::density(const MeshPtr& mesh, int set) {
    {
        const std::lock_guard lock(m_mutex);
        if (auto it = m_densities.find({mesh, set}); it != m_densities.end()) return it->second;
    }
    const UvDensity measured = uvDensity(*mesh, set);
    const std::lock_guard lock(m_mutex);
    if (m_densities.size() > 8) m_densities.clear();
    return m_densities[{mesh, set}] = measured;
}

std::string DressedSpecimen::error() const {
    for (const DressedSlot& slot : slots)
        if (!slot.look->ok)
            for (const Diagnostic& d : slot.look->diagnostics)
                if (d.severity == Severity::Error) return d.sentence;
    return {};
}

bool DressedSpecimen::moves() const {
    for (const DressedSlot& s : slots)
        if (s.follows || s.look->evaluator->program().readsTime() || (s.look->offset && s.look->offset->program().readsTime()) ||
            (s.look->vertices && s.look->vertices->program().readsTime()))
            return true;
    return false;
}

namespace {

/// A specimen's mesh where each of its placements stands, with what the vertices of each have.
class Standing {
  public:
    Standing(LookCache& looks, MeshPtr one, std::vector<Placement> placements)
        : m_looks(looks), m_one(std::move(one)), m_placements(std::move(placements)), m_offsets(m_placements.size()) {}

    size_t count() const { return m_placements.size(); }
    /// The inputs of a frame for one of the placements.
    FrameInputs at(size_t k, FrameInputs inputs) const {
        inputs.placementRandom = m_placements[k].random;
        inputs.placement = columnsOf(m_placements[k]);
        return inputs;
    }

    void offset(const Evaluator& evaluator, size_t slot, const FrameInputs& inputs) {
        for (size_t k = 0; k < count(); ++k) {
            const FrameInputs here = at(k, inputs);
            m_offsets[k].resize(m_one->vertices.size());
            evaluateOffset(evaluator, evaluator.frame(here), *m_one, m_one->slots[slot], m_offsets[k], here.placement);
        }
    }
    void carry(LookPtr look, size_t slot, const FrameInputs& inputs) {
        Carrying c{std::move(look), slot, {}};
        for (size_t k = 0; k < count(); ++k) c.frames.push_back(c.look->vertices->frame(at(k, inputs)));
        m_carrying.push_back(std::move(c));
    }

    bool moves() const { return !m_offsets[0].empty(); }
    /// Moved and with what its triangles carry; null where nothing is done to it.
    MeshPtr made() const {
        if (!moves() && m_carrying.empty()) return nullptr;
        std::vector<MeshPtr> each(count(), m_one);
        for (size_t k = 0; k < count(); ++k) {
            if (moves()) each[k] = m_looks.displacer(m_one)->displaced(m_offsets[k]);
            if (m_carrying.empty()) continue;
            std::vector<CarriedValues> carried(m_one->vertices.size());
            const Columns placement = columnsOf(m_placements[k]);
            for (const Carrying& c : m_carrying)
                evaluateCarried(*c.look->vertices, c.frames[k], *each[k], m_one->slots[c.slot], carried, placement);
            each[k] = m_looks.carrying(each[k], std::move(carried));
        }
        if (count() == 1) return each[0];
        Result<Mesh> all = repeated(each, m_placements);
        return all ? std::make_shared<Mesh>(std::move(*all)) : each[0];
    }

  private:
    struct Carrying {
        LookPtr look;
        size_t slot;
        std::vector<Frame> frames; ///< by placement
    };
    LookCache& m_looks;
    const MeshPtr m_one;
    const std::vector<Placement> m_placements;
    std::vector<std::vector<std::array<float, 3>>> m_offsets; ///< of each placement; empty where nothing moves
    std::vector<Carrying> m_carrying;
};

/// A wire alone; what leads a finish as a surface that takes it as a whole.
LookPtr wireLook(LookCache& looks, const Project& project, const Master& master, const Source& wire) {
    if (!leadsFinish(project, master.graph, wire)) return looks.wire(project, master, wire);
    Master shown = master;
    shown.graph.channelWires = {{std::string(kWholeSurface), wire}};
    shown.graph.mutedChannels.clear();
    return looks.get(project, shown);
}

} // namespace

DressedSpecimen dress(const Project& still, Assets& assets, LookCache& looks, const Specimen& specimen, double time,
                      const DressOptions& options) {
    const std::optional<Project> moved = sharedAt(still, time);
    const Project& bareProject = moved ? *moved : still;
    DressedSpecimen out;
    out.lineage = fmt::format("{}|{}|{}", specimen.mesh, specimen.paintwork, fmt::join(specimen.wears, ","));
    MeshPtr bare = assets.mesh(bareProject, specimen.mesh, &out.problem);
    if (const Paintwork* paintwork = bareProject.paintwork(specimen.paintwork); paintwork && paintwork->paint)
        bare = looks.paintedMeshes().get(bare, paintwork->paint);
    const MeshPtr one = looks.refined(bare, specimen.subdivisions, &out.problem);
    std::vector<Placement> placements = placementsOf(specimen.placements, boundsOf(*one));
    out.mesh = looks.placed(one, placements, &out.problem);
    if (!out.mesh) {
        out.mesh = one;
        placements = {Placement{}};
    }
    out.bounds = boundsOf(*out.mesh);
    out.things = specimen.things;
    out.castsShadow = specimen.castsShadow;
    out.slotsEach = one->slots.size();
    out.slots.resize(one->slots.size() * placements.size());
    Standing standing(looks, one, placements);
    for (size_t s = 0; s < one->slots.size(); ++s) {
        const Id worn = specimen.wears.empty() ? Id{} : specimen.wears[std::min(s, specimen.wears.size() - 1)];
        const std::optional<Project> withDecals = decalled(bareProject, specimen, worn, one->slots[s].name);
        const Project& project = withDecals ? *withDecals : bareProject;
        Resolved resolved = resolve(project, worn);
        if (!resolved.master) {
            resolved = {};
            resolved.master = &plainMaster();
        }
        const FrameInputs inputs = frameInputs(project, assets, resolved, time, options.maps);
        DressedSlot slot;
        slot.surface = resolved.surface;
        slot.follows = moved && followsMoving(project, resolved);
        slot.look = looks.get(project, *resolved.master);
        if (slot.look->offset) standing.offset(*slot.look->offset, s, inputs);
        if (options.wire) {
            const bool shows = resolved.master->id == options.wireMaster;
            slot.look = shows ? wireLook(looks, project, *resolved.master, *options.wire) : looks.get(project, plainMaster());
            if (!shows) slot.surface = {};
        }
        if (options.offsetView) {
            const auto& wires = resolved.master->graph.channelWires;
            auto wire = wires.find("vertex_offset");
            if (wire != wires.end()) {
                slot.look = looks.wire(project, *resolved.master, wire->second);
            } else {
                slot.look = looks.get(project, unmovedMaster());
                resolved.master = &unmovedMaster();
            }
            slot.surface.layers = 0;
        }
        if (options.countCost) {
            const Compilation folded = compileSurface(project, *resolved.master);
            const Cost cost = costOf(*folded.program, nullptr, {});
            slot.operations = int(cost.operations[size_t(Rate::Pixel)]) + cost.fetches;
        }
        if (slot.look->vertices) standing.carry(slot.look, s, inputs);
        for (size_t k = 0; k < standing.count(); ++k) {
            slot.frame = slot.look->evaluator->frame(standing.at(k, inputs));
            out.slots[k * out.slotsEach + s] = slot;
        }
    }
    out.drawnBounds = out.bounds;
    if (MeshPtr made = standing.made()) out.mesh = std::move(made);
    if (standing.moves()) out.drawnBounds = boundsOf(*out.mesh);
    return out;
}

} // namespace hue
