#include "core/budget/verdict.h"

#include "core/builds/builds.h"
#include "core/compile/compile.h"
#include "core/document/lineage.h"
#include "core/maps/drawn_map.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

const LimitDef* limitDef(std::string_view key) {
    for (const LimitDef& d : limitDefs())
        if (d.key == key) return &d;
    return nullptr;
}

std::vector<MapSlot> slotsOf(const Compilation& compiled) {
    std::vector<MapSlot> out;
    for (const auto& program : {compiled.program, compiled.offset})
        if (program) out.insert(out.end(), program->maps.begin(), program->maps.end());
    return out;
}

/// Ids of maps that slots hold with the values of what is worn.
std::set<Id> mapsIn(const std::vector<MapSlot>& slots, const Resolved& resolved) {
    std::set<Id> out;
    for (const MapSlot& slot : slots) {
        const auto value = resolved.values.find(slot.parameter);
        const Id map = slot.parameter.empty() || value == resolved.values.end() ? slot.map : value->second.value.map;
        if (!map.empty()) out.insert(map);
    }
    return out;
}

std::string number(double x) { return x == std::floor(x) ? fmt::format("{:.0f}", x) : fmt::format("{:.1f}", x); }

} // namespace

std::set<Id> mapsWornBy(const Project& project, const Id& worn) {
    const Resolved resolved = resolve(project, worn);
    return resolved.master ? mapsIn(slotsOf(compileSurface(project, *resolved.master)), resolved) : std::set<Id>{};
}

size_t bytesOfMap(const MapBytes& bytes, const Id& map) { return isDrawn(map) ? kDrawnBytes : bytes ? bytes(map) : 0; }

Verdict against(const Project& project, Verdict v, const Target& target) {
    v.badFormats.clear();
    v.limits.clear();
    for (const Id& id : v.maps) {
        const MapFile* map = project.map(id);
        const std::string format = !map ? std::string() : map->format;
        if (!format.empty() && !target.formats.empty() &&
            std::find(target.formats.begin(), target.formats.end(), format) == target.formats.end())
            v.badFormats.push_back(map->name);
    }
    const Cost& c = v.cost;
    const auto add = [&](std::string_view key, double figure) {
        const LimitDef* def = limitDef(key);
        v.limits.push_back({def, figure, double(target.limits.*def->limit)});
    };
    add("operations", c.operationsPerPixel());
    add("vertexOperations", c.operations[size_t(Rate::Vertex)]);
    add("fetches", c.fetches);
    add("dependentFetches", c.dependentFetches);
    add("samplers", c.samplers);
    add("carried", c.carried);
    add("registers", v.liveNumbers);
    add("mapMegabytes", double(c.mapBytes) / 1e6);
    return v;
}

std::vector<Id> shippedOf(const Project& project) {
    // All instances are gone through once, whatever the number of masters.
    std::map<const Master*, std::vector<Id>> users;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k]) users[masters[k]].push_back(project.instances[k]->id);
    const std::set<Id> bare = wornBare(project);
    std::vector<Id> out;
    for (const MasterPtr& m : project.masters) {
        const std::vector<Id>& its = users[m.get()];
        if (its.empty() || bare.contains(m->id)) out.push_back(m->id);
        out.insert(out.end(), its.begin(), its.end());
    }
    return out;
}

std::string Against::words() const {
    const std::string what = def->unit == "per pixel" || def->unit == "per vertex" ? fmt::format(" {}", def->unit) : "";
    std::string name(def->name);
    name[0] = char(name[0] | 32);
    const std::string unit = def->unit == "MB" ? " MB" : "";
    return limit > 0 ? fmt::format("{} of {}{} {}{}", number(figure), number(limit), unit, name, what)
                     : fmt::format("{}{} {}{}", number(figure), unit, name, what);
}

bool Verdict::fits() const {
    return badFormats.empty() && std::none_of(limits.begin(), limits.end(), [](const Against& a) { return a.over(); });
}

const Against* Verdict::worst() const {
    const auto most =
        std::max_element(limits.begin(), limits.end(), [](const Against& a, const Against& b) { return a.share() < b.share(); });
    return most == limits.end() || most->share() <= 0 ? nullptr : &*most;
}

bool ProjectVerdict::fits() const {
    return !memory.over() && std::all_of(worn.begin(), worn.end(), [](const Verdict& v) { return v.fits(); }) &&
           std::none_of(builds.begin(), builds.end(), [](const Against& a) { return a.over(); });
}

Verdict Verdicts::of(const Id& worn, const Target& target) {
    Verdict v;
    v.worn = worn;
    const Resolved resolved = resolve(m_project, worn);
    if (!resolved.master) return v;
    const auto [at, fresh] = m_builds.try_emplace({resolved.master->id, defaultsOf(*resolved.master)});
    Built& built = at->second;
    if (fresh) {
        const Compilation compiled = compileSurface(m_project, *resolved.master);
        built.cost = costOf(*compiled.program, compiled.offset.get(), {});
        built.liveNumbers = liveComponents(*stagesOf(compiled).pixels);
        built.slots = slotsOf(compiled);
    }
    v.cost = built.cost;
    v.liveNumbers = built.liveNumbers;
    v.maps = mapsIn(built.slots, resolved);
    v.cost.mapBytes = 0;
    for (const Id& id : v.maps) v.cost.mapBytes += bytesOfMap(m_bytes, id);
    return against(m_project, std::move(v), target);
}

Verdict verdictOf(const Project& project, const Id& worn, const Target& target, const MapBytes& bytes) {
    return Verdicts(project, bytes).of(worn, target);
}

ProjectVerdict verdictOf(Verdicts& verdicts, const Target& target, const std::vector<Id>& of) {
    const Project& project = verdicts.project();
    ProjectVerdict out;
    std::set<Id> maps;
    std::map<const Master*, std::set<Chosen>> builds;
    for (const Id& worn : of.empty() ? shippedOf(project) : of) {
        Verdict v = verdicts.of(worn, target);
        maps.insert(v.maps.begin(), v.maps.end());
        if (const Master* m = project.masterOf(worn); m && hasBuildChoices(*m)) {
            // Of those that are asked for alone, all builds that the master is in use with.
            if (of.empty()) builds[m].insert(defaultsOf(*resolve(project, worn).master));
            else if (!builds.contains(m))
                for (const Build& b : buildsOf(project, *m))
                    if (!b.users.empty()) builds[m].insert(b.chosen);
        }
        out.worn.push_back(std::move(v));
    }
    for (const MasterPtr& m : project.masters) {
        const auto its = builds.find(m.get());
        if (its == builds.end()) continue;
        out.builds.push_back({limitDef("builds"), double(its->second.size()), double(target.limits.builds)});
        out.masters.push_back(m->id);
    }
    double total = 0;
    for (const Id& id : maps) total += double(bytesOfMap(verdicts.bytes(), id));
    out.memory = {limitDef("projectMegabytes"), total / 1e6, double(target.limits.projectMegabytes)};
    return out;
}

ProjectVerdict verdictOf(const Project& project, const Target& target, const MapBytes& bytes, const std::vector<Id>& of) {
    Verdicts verdicts(project, bytes);
    return verdictOf(verdicts, target, of);
}

} // namespace hue
