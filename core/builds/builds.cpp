#include "core/builds/builds.h"

#include "core/compile/compile.h"
#include "core/document/lineage.h"
#include "core/document/parameter_kinds.h"
#include "core/nodes/finish.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {
namespace {

Cost costOf(const Project& project, const Master& master) {
    const Compilation compiled = compileSurface(project, master);
    return costOf(*compiled.program, compiled.offset.get(), {});
}

std::set<Id> readBy(const Project& project, const Master& master) {
    const Compilation compiled = compileSurface(project, master);
    std::set<Id> out;
    for (const auto& program : {compiled.program, compiled.offset}) {
        if (!program) continue;
        out.insert(program->parameters.begin(), program->parameters.end());
        for (const MapSlot& slot : program->maps) out.insert(slot.parameter);
    }
    return out;
}

std::string figures(int least, int most, std::string_view one, std::string_view many) {
    const std::string range = least == most ? fmt::format("{}", least) : fmt::format("{} to {}", least, most);
    return fmt::format("{} {}", range, least == 1 && most == 1 ? one : many);
}

} // namespace

std::set<Id> wornBare(const Project& project) {
    std::set<Id> out;
    for (const Specimen& s : project.lineup.specimens) {
        out.insert(s.wears.begin(), s.wears.end());
        for (const Decal& d : s.decals) out.insert(d.wears);
    }
    for (const Master* board : project.boards())
        for (const auto& [id, node] : board->graph.nodes)
            if (const Id worn = finishOf(*board, *node); !worn.empty()) out.insert(worn);
    std::set<Id> finishes;
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters)
            if (p.type == ParameterType::Finish) finishes.insert(p.id);
    if (!finishes.empty())
        for (const InstancePtr& i : project.instances)
            for (const auto& [parameter, own] : i->own)
                if (finishes.contains(parameter)) out.insert(own.map);
    return out;
}

Chosen defaultsOf(const Master& master) {
    Chosen out;
    for (const Parameter& p : master.parameters)
        if (p.isBuildChoice()) out[p.id] = p.standard;
    return out;
}

namespace {

/// What an instance has, from the master's defaults: the nearest own value counts.
Chosen chosenBy(const Project& project, const Id& instance, Chosen defaults) {
    std::set<Id> set;
    if (!defaults.empty())
        for (const Instance* i : project.chainOf(instance))
            for (auto& [parameter, value] : defaults)
                if (const auto own = i->own.find(parameter); own != i->own.end() && set.insert(parameter).second) value = own->second;
    return defaults;
}

} // namespace

size_t buildsInUse(const Project& project) {
    const std::vector<const Master*> masters = mastersOfInstances(project);
    std::map<const Master*, std::pair<Chosen, std::set<Chosen>>> used;
    for (size_t k = 0; k < masters.size(); ++k) {
        if (!masters[k]) continue;
        const auto [at, fresh] = used.try_emplace(masters[k]);
        if (fresh) at->second.first = defaultsOf(*masters[k]);
        at->second.second.insert(chosenBy(project, project.instances[k]->id, at->second.first));
    }
    size_t out = 0;
    const std::set<Id> bare = wornBare(project);
    for (const MasterPtr& m : project.masters) {
        auto& its = used[m.get()];
        if (its.second.empty() || bare.contains(m->id)) its.second.insert(defaultsOf(*m));
        out += its.second.size();
    }
    return out;
}

std::vector<Build> buildsOf(const Project& project, const Master& master) {
    std::vector<Build> out{{defaultsOf(master), {}}};
    if (wornBare(project).contains(master.id)) out[0].users.push_back(master.id);
    const std::vector<const Master*> masters = mastersOfInstances(project);
    std::map<Chosen, size_t> known{{out[0].chosen, 0}};
    for (size_t k = 0; k < masters.size(); ++k) {
        if (!masters[k] || masters[k]->id != master.id) continue;
        const Chosen chosen = chosenBy(project, project.instances[k]->id, out[0].chosen);
        const auto [at, fresh] = known.emplace(chosen, out.size());
        if (fresh) out.push_back({chosen, {}});
        out[at->second].users.push_back(project.instances[k]->id);
    }
    return out;
}

bool hasBuildChoices(const Master& master) {
    return std::any_of(master.parameters.begin(), master.parameters.end(), [](const Parameter& p) { return p.isBuildChoice(); });
}

size_t usedOf(const std::vector<Build>& builds) {
    return size_t(std::count_if(builds.begin(), builds.end(), [](const Build& b) { return !b.users.empty(); }));
}

std::string buildCountWords(const Master& master, size_t used) {
    const bool open =
        std::any_of(master.parameters.begin(), master.parameters.end(), [](const Parameter& p) { return p.type == ParameterType::Finish; });
    return open ? fmt::format("{} {}", used, used == 1 ? "build" : "builds") : fmt::format("{} of {} builds", used, possibleBuilds(master));
}

size_t possibleBuilds(const Master& master) {
    constexpr size_t kMost = size_t(1) << 40;
    size_t out = 1;
    for (const Parameter& p : master.parameters)
        if (p.isBuildChoice() && p.isNamed()) out = std::min(kMost, out * std::max<size_t>(1, optionsOf(p).size()));
    return out;
}

std::string buildWords(const Project& project, const Master& master, const Chosen& chosen) {
    std::vector<std::string> words;
    for (const Parameter& p : master.parameters)
        if (const auto at = chosen.find(p.id); at != chosen.end())
            words.push_back(p.isNamed()
                                ? fmt::format("{} {}", p.name, optionOf(p, at->second.value))
                                : fmt::format("{} of {}", p.name, at->second.map.empty() ? "nothing" : project.nameOf(at->second.map)));
    return words.empty() ? "one build" : fmt::format("{}", fmt::join(words, ", "));
}

std::shared_ptr<const Master> masterOfBuild(const Master& master, const Chosen& chosen) {
    auto out = std::make_shared<Master>(master);
    for (Parameter& p : out->parameters)
        if (const auto at = chosen.find(p.id); at != chosen.end()) p.standard = limited(p, at->second);
    return out;
}

Master withoutChoices(Master master) {
    for (Parameter& p : master.parameters) p.build = false;
    return master;
}

ChoiceCosts choiceCosts(const Project& project, const Master& master, const Id& parameter) {
    ChoiceCosts out;
    Master seen = master;
    const auto p = std::find_if(seen.parameters.begin(), seen.parameters.end(), [&](const Parameter& q) { return q.id == parameter; });
    if (p == seen.parameters.end() || !p->isNamed()) return out;
    p->build = false;
    out.live = costOf(project, seen);
    p->build = true;
    for (size_t k = 0; k < optionsOf(*p).size(); ++k) {
        p->standard.value = Value::number(float(k));
        out.options.push_back(costOf(project, seen));
    }
    return out;
}

std::string choiceCostWords(const ChoiceCosts& costs) {
    if (costs.options.empty()) return {};
    const auto range = [&](auto of) {
        const auto [least, most] =
            std::minmax_element(costs.options.begin(), costs.options.end(), [&](const Cost& a, const Cost& b) { return of(a) < of(b); });
        return std::pair(of(*least), of(*most));
    };
    const auto operations = [](const Cost& c) { return c.operationsPerPixel(); };
    const auto fetches = [](const Cost& c) { return c.fetches; };
    const auto [leastOps, mostOps] = range(operations);
    const auto [leastFetches, mostFetches] = range(fetches);
    return fmt::format("{}, {} in {} builds; live {}, {} in one", figures(leastOps, mostOps, "operation", "operations"),
                       figures(leastFetches, mostFetches, "fetch", "fetches"), costs.options.size(),
                       figures(operations(costs.live), operations(costs.live), "operation", "operations"),
                       figures(fetches(costs.live), fetches(costs.live), "fetch", "fetches"));
}

std::set<Id> idleParameters(const Project& project, const Master& master) {
    if (possibleBuilds(master) < 2) return {};
    std::set<Id> out = readBy(project, withoutChoices(master));
    for (const Id& read : readBy(project, master)) out.erase(read);
    // The choices themselves are compiled in.
    std::erase_if(out, [&](const Id& id) {
        const Parameter* p = master.parameter(id);
        return !p || p->isBuildChoice();
    });
    return out;
}

} // namespace hue
