#include "core/document/project.h"
#include "core/document/lineage.h"

#include "core/document/parameter_kinds.h"

#include <algorithm>

#include <fmt/format.h>
#include <random>

namespace hue {
namespace {

template <class List> auto findIn(const List& list, const Id& id) -> decltype(list.front().get()) {
    for (const auto& entry : list)
        if (entry->id == id) return entry.get();
    return nullptr;
}

} // namespace

int Parameter::width() const { return type == ParameterType::Color && alpha ? 4 : kindOf(type).width; }

const Parameter* Master::parameter(const Id& parameterId) const {
    for (const Parameter& p : parameters)
        if (p.id == parameterId) return &p;
    return nullptr;
}

const Master* Project::master(const Id& id) const { return masterPlaces.find(masters, id); }
const Assembly* Project::assembly(const Id& id) const { return findIn(assemblies, id); }
const Master* Project::board(const Id& id) const {
    const Master* m = master(id);
    return m ? m : assembly(id);
}
std::vector<const Master*> Project::boards() const {
    std::vector<const Master*> out;
    for (const auto& m : masters) out.push_back(m.get());
    for (const auto& a : assemblies) out.push_back(a.get());
    return out;
}
const Instance* Project::instance(const Id& id) const { return instancePlaces.find(instances, id); }
const MapFile* Project::map(const Id& id) const { return id.empty() ? nullptr : mapPlaces.find(maps, id); }
const Packing* Project::packing(const Id& id) const {
    for (const auto& p : packings)
        if (p->id == id) return p.get();
    return nullptr;
}

const MapFile* Project::mapOfSet(const std::string& set, const std::string& role) const {
    for (const auto& m : maps)
        if (m->set == set && m->role == role) return m.get();
    return nullptr;
}

std::vector<std::string> Project::mapSets() const {
    std::vector<std::string> out;
    for (const auto& m : maps)
        if (!m->set.empty() && std::find(out.begin(), out.end(), m->set) == out.end()) out.push_back(m->set);
    return out;
}

const SharedParameter* Project::sharedParameter(const Id& id) const {
    const auto at = std::find_if(shared.begin(), shared.end(), [&](const SharedParameter& s) { return s.id == id; });
    return id.empty() || at == shared.end() ? nullptr : &*at;
}

const MeshFile* Project::mesh(const Id& id) const { return findIn(meshes, id); }
const LiveRules* Paintwork::liveOf(int channel) const {
    const auto at = std::find_if(live.begin(), live.end(), [&](const LiveRules& l) { return l.channel == channel; });
    return at == live.end() ? nullptr : &*at;
}
const Paintwork* Project::paintwork(const Id& id) const { return findIn(paintworks, id); }

const Master* Project::masterOf(const Id& worn) const {
    if (const Master* m = master(worn)) return m;
    const auto chain = chainOf(worn);
    return chain.empty() ? nullptr : master(chain.back()->parent);
}

std::vector<const Instance*> Project::chainOf(const Id& worn) const {
    std::vector<const Instance*> chain;
    // A chain that is longer than there are instances goes in a circle.
    for (const Id* at = &worn; chain.size() <= instances.size(); at = &chain.back()->parent) {
        if (master(*at)) return chain;
        const Instance* i = instance(*at);
        if (!i) break;
        chain.push_back(i);
    }
    return {};
}

std::string Project::nameOf(const Id& worn) const {
    if (const Master* m = master(worn)) return m->name;
    const Instance* i = instance(worn);
    if (!i) return {};
    const Master* m = masterOf(worn);
    return fmt::format("{}/{}", m ? m->name : "?", i->name);
}

Id Project::findByName(const std::string& wanted) const {
    for (const auto& m : masters)
        if (m->name == wanted) return m->id;
    const std::vector<const Master*> whose = mastersOfInstances(*this);
    for (size_t k = 0; k < whose.size(); ++k) {
        const Instance& i = *instances[k];
        if (wanted.ends_with(i.name) && wanted == fmt::format("{}/{}", whose[k] ? whose[k]->name : "?", i.name)) return i.id;
    }
    return {};
}

Id newId(char letter) {
    static thread_local std::mt19937_64 random{std::random_device{}()};
    static constexpr char digits[] = "0123456789abcdefghjkmnpqrstvwxyz";
    Id id(1, letter);
    for (int i = 0; i < 8; ++i) id += digits[random() % 32];
    return id;
}

Resolved resolve(const Project& project, const Id& worn) {
    Resolved out;
    out.master = project.masterOf(worn);
    if (!out.master) out.master = project.assembly(worn);
    if (!out.master) return out;
    out.surface = out.master->surface;
    for (const Parameter& p : out.master->parameters) {
        const SharedParameter* shared = project.sharedParameter(p.shared);
        if (shared && shared->type == p.type) out.values[p.id] = {limited(p, {shared->value, {}}), shared->id, {}};
        else out.values[p.id] = {p.standard, out.master->id, {}};
    }
    // Maps that are of a set, by its parameter.
    std::vector<std::pair<const Parameter*, const Parameter*>> ofSets;
    for (const Parameter& p : out.master->parameters)
        if (p.type == ParameterType::Map && !p.ofSet.empty())
            if (const Parameter* set = out.master->parameter(p.ofSet); set && set->type == ParameterType::MapSet)
                ofSets.push_back({&p, set});
    const auto dress = [&](const Id& level) {
        for (const auto& [map, set] : ofSets) {
            const Resolved::Entry& chosen = out.values[set->id];
            if (chosen.origin != level || chosen.value.map.empty()) continue;
            const MapFile* its = project.mapOfSet(chosen.value.map, map->setRole);
            // What the set lacks is neutral: a map of another set does not belong beside these.
            out.values[map->id] = {its ? ParameterValue{{}, its->id} : map->standard, level, set->id};
        }
    };
    dress(out.master->id);
    const std::vector<const Instance*> chain = project.chainOf(worn);
    for (auto it = chain.rbegin(); it != chain.rend(); ++it) {
        const Instance& i = **it;
        const auto own = [&](const Id& id, const ParameterValue& value) {
            if (auto found = out.values.find(id); found != out.values.end()) found->second = {value, i.id, {}};
        };
        if (!ofSets.empty()) {
            for (const auto& [map, set] : ofSets)
                if (const auto its = i.own.find(set->id); its != i.own.end()) own(its->first, its->second);
            dress(i.id);
        }
        for (const auto& [id, value] : i.own) own(id, value);
        if (i.alphaMode) out.surface.alphaMode = *i.alphaMode;
        if (i.alphaCutoff) out.surface.alphaCutoff = *i.alphaCutoff;
        if (i.doubleSided) out.surface.doubleSided = *i.doubleSided;
    }
    // Another build is the same master with other defaults of its build choices.
    for (size_t k = 0; k < out.master->parameters.size(); ++k) {
        const Parameter& p = out.master->parameters[k];
        if (!p.isBuildChoice() || out.values[p.id].value == p.standard) continue;
        auto built = std::make_shared<Master>(out.built ? *out.built : *out.master);
        built->parameters[k].standard = out.values[p.id].value;
        out.master = (out.built = std::move(built)).get();
    }
    return out;
}

std::vector<std::string> wearersOf(const Project& project, const Id& worn) {
    std::vector<std::string> out;
    for (size_t s = 0; s < project.lineup.specimens.size(); ++s) {
        const auto& wears = project.lineup.specimens[s].wears;
        for (size_t slot = 0; slot < wears.size(); ++slot)
            if (wears[slot] == worn) out.push_back(fmt::format("specimen {}, slot {}", s + 1, slot + 1));
    }
    return out;
}

} // namespace hue
