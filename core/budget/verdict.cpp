#include "core/budget/verdict.h"

#include "core/builds/builds.h"
#include "core/compile/compile.h"
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

/// Ids of maps that a compiled surface reads with the values of what is worn.
std::set<Id> mapsRead(const Compilation& compiled, const Resolved& resolved) {
    std::set<Id> out;
    for (const auto& program : {compiled.program, compiled.offset}) {
        if (!program) continue;
        for (const MapSlot& slot : program->maps) {
            const auto value = resolved.values.find(slot.parameter);
            const Id map = slot.parameter.empty() || value == resolved.values.end() ? slot.map : value->second.value.map;
            if (!map.empty()) out.insert(map);
        }
    }
    return out;
}

std::string number(double x) { return x == std::floor(x) ? fmt::format("{:.0f}", x) : fmt::format("{:.1f}", x); }

} // namespace

std::set<Id> mapsWornBy(const Project& project, const Id& worn) {
    const Resolved resolved = resolve(project, worn);
    return resolved.master ? mapsRead(compileSurface(project, *resolved.master), resolved) : std::set<Id>{};
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
    std::vector<Id> out;
    for (const MasterPtr& m : project.masters)
        for (const Build& b : buildsOf(project, *m))
            for (const Id& user : b.users) out.push_back(user);
    std::set<const Master*> used;
    for (const Id& id : out) used.insert(project.masterOf(id));
    for (const MasterPtr& m : project.masters)
        if (!used.contains(m.get())) out.push_back(m->id);
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

Verdict verdictOf(const Project& project, const Id& worn, const Target& target, const MapBytes& bytes) {
    Verdict v;
    v.worn = worn;
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return v;
    const Compilation compiled = compileSurface(project, *resolved.master);
    v.cost = costOf(*compiled.program, compiled.offset.get(), {});
    v.liveNumbers = liveComponents(*stagesOf(compiled).pixels);
    v.maps = mapsRead(compiled, resolved);
    v.cost.mapBytes = 0;
    for (const Id& id : v.maps) v.cost.mapBytes += bytesOfMap(bytes, id);
    return against(project, std::move(v), target);
}

ProjectVerdict verdictOf(const Project& project, const Target& target, const MapBytes& bytes, const std::vector<Id>& of) {
    ProjectVerdict out;
    std::set<Id> maps;
    std::set<const Master*> masters;
    for (const Id& worn : of.empty() ? shippedOf(project) : of) {
        Verdict v = verdictOf(project, worn, target, bytes);
        maps.insert(v.maps.begin(), v.maps.end());
        masters.insert(project.masterOf(worn));
        out.worn.push_back(std::move(v));
    }
    for (const MasterPtr& m : project.masters) {
        if (!masters.contains(m.get()) || !hasBuildChoices(*m)) continue;
        out.builds.push_back({limitDef("builds"), double(usedOf(buildsOf(project, *m))), double(target.limits.builds)});
        out.masters.push_back(m->id);
    }
    double total = 0;
    for (const Id& id : maps) total += double(bytesOfMap(bytes, id));
    out.memory = {limitDef("projectMegabytes"), total / 1e6, double(target.limits.projectMegabytes)};
    return out;
}

} // namespace hue
