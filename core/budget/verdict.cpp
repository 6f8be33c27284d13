#include "core/budget/verdict.h"

#include "core/builds/builds.h"
#include "core/compile/compile.h"

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

struct Counted {
    Verdict verdict;
    std::set<Id> maps;
};

Counted counted(const Project& project, const Id& worn, const Target& target, const MapBytes& bytes) {
    Counted out;
    Verdict& v = out.verdict;
    v.worn = worn;
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return out;
    const Compilation compiled = compileSurface(project, *resolved.master);
    v.cost = costOf(*compiled.program, compiled.offset.get(), {});
    out.maps = mapsRead(compiled, resolved);
    v.cost.mapBytes = 0;
    for (const Id& id : out.maps) {
        v.cost.mapBytes += bytes ? bytes(id) : 0;
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
    add("mapMegabytes", double(c.mapBytes) / 1e6);
    return out;
}

/// What ships: everything that is worn, and else all instances of a master, or the master itself.
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

} // namespace

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
    return counted(project, worn, target, bytes).verdict;
}

ProjectVerdict verdictOf(const Project& project, const Target& target, const MapBytes& bytes, const std::vector<Id>& of) {
    ProjectVerdict out;
    std::set<Id> maps;
    std::set<const Master*> masters;
    for (const Id& worn : of.empty() ? shippedOf(project) : of) {
        Counted c = counted(project, worn, target, bytes);
        maps.merge(c.maps);
        masters.insert(project.masterOf(worn));
        out.worn.push_back(std::move(c.verdict));
    }
    for (const MasterPtr& m : project.masters) {
        if (!masters.contains(m.get()) || possibleBuilds(*m) < 2) continue;
        const std::vector<Build> all = buildsOf(project, *m);
        const auto used = std::count_if(all.begin(), all.end(), [](const Build& b) { return !b.users.empty(); });
        out.builds.push_back({limitDef("builds"), double(used), double(target.limits.builds)});
        out.masters.push_back(m->id);
    }
    double total = 0;
    for (const Id& id : maps) total += bytes ? double(bytes(id)) : 0;
    out.memory = {limitDef("projectMegabytes"), total / 1e6, double(target.limits.projectMegabytes)};
    return out;
}

} // namespace hue
