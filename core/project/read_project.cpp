#include "core/base/diagnostic.h"
#include "core/base/json_depth.h"
#include "core/document/lineage.h"
#include "core/project/project_fields_private.h"
#include "core/project/store.h"
#include "core/project/upgrade_private.h"

#include <set>
#include <unordered_map>

namespace hue {
namespace {

Error refuse(std::string code, std::string sentence) { return {std::move(code), std::move(sentence), {}}; }

/// An id stands for one thing of its kind, and for one that can be worn: later ones with the same get a new one. References stay with the
/// first.
void tellIdsApart(Project& p, std::vector<Diagnostic>& report) {
    const auto each = [&](std::set<Id>& seen, auto& list, char letter, std::string_view what) {
        for (auto& slot : list) {
            if (seen.insert(slot->id).second) continue;
            auto copy = std::make_shared<std::remove_const_t<std::remove_reference_t<decltype(*slot)>>>(*slot);
            copy->id = newId(letter);
            std::string name;
            if constexpr (requires { copy->name; }) name = copy->name;
            else name = copy->recipe.name;
            report.push_back(
                {Severity::Caution,
                 "project.same-id",
                 {},
                 fmt::format("The {} {} has the id {} of something else and got a new one; what asks for that id gets the other. "
                             "Look where it was used.",
                             what, name, slot->id),
                 {}});
            seen.insert(copy->id);
            slot = std::move(copy);
        }
    };
    std::set<Id> worn, maps, meshes, packings, paintworks;
    each(worn, p.masters, 'm', "master");
    each(worn, p.assemblies, 'a', "assembly");
    each(worn, p.instances, 'i', "instance");
    each(maps, p.maps, 't', "map");
    each(meshes, p.meshes, 'g', "mesh");
    each(packings, p.packings, 'k', "packing");
    each(paintworks, p.paintworks, 'w', "paintwork");
    std::set<Id> decals;
    for (Specimen& s : p.lineup.specimens)
        for (Decal& d : s.decals) {
            if (decals.insert(d.id).second) continue;
            report.push_back({Severity::Caution,
                              "project.same-id",
                              {},
                              fmt::format("The decal {} has the id {} of another decal and got a new one.", d.name, d.id),
                              {}});
            d.id = newId('d');
            decals.insert(d.id);
        }
}

/// Parents that lead in a circle would never end.
void breakLoops(Project& p, std::vector<Diagnostic>& report) {
    std::unordered_map<std::string_view, size_t> at;
    for (size_t i = 0; i < p.instances.size(); ++i) at[p.instances[i]->id] = i;
    enum class State : char { New, Open, Done };
    std::vector<State> states(p.instances.size(), State::New);
    for (size_t first = 0; first < p.instances.size(); ++first) {
        std::vector<size_t> chain;
        size_t i = first;
        while (states[i] == State::New) {
            states[i] = State::Open;
            chain.push_back(i);
            const auto parent = at.find(p.instances[i]->parent);
            if (parent == at.end()) break;
            i = parent->second;
            if (states[i] != State::Open) continue;
            // The circle is closed by the last of the chain.
            auto copy = std::make_shared<Instance>(*p.instances[chain.back()]);
            copy->parent = p.masters.empty() ? Id{} : p.masters[0]->id;
            report.push_back({Severity::Error,
                              "instance.loop",
                              {},
                              fmt::format("The instance {} was its own ancestor; it now hangs on {}.", copy->name,
                                          p.masters.empty() ? "nothing" : p.masters[0]->name),
                              {}});
            p.instances[chain.back()] = std::move(copy);
            break;
        }
        for (size_t k : chain) states[k] = State::Done;
    }
}

/// True when a number was out of the parameter's hard limits.
bool bringInside(const Parameter& p, Value& value) {
    if (!p.width()) return false;
    const int given = value.width;
    const Value before = value;
    value = limited(p, {value, {}}).value;
    value.width = given;
    bool moved = false;
    for (int c = 0; c < given; ++c) moved = moved || value[c] != before[c];
    return moved;
}

/// Limits that are never left are not left by files either.
void keepLimits(Project& project, std::vector<Diagnostic>& report) {
    const auto tell = [&](const Id& where, const std::string& name, const Parameter& p, const ParameterValue& was) {
        report.push_back({Severity::Caution,
                          "parameter.out-of-limits",
                          {where, {}, {}},
                          fmt::format("{} of {} was {:g} and is {:g} to {:g} by its limits; it was brought inside.", p.name, name,
                                      was.value[0], p.hardMin, p.hardMax),
                          {}});
    };
    const auto defaults = [&]<class T>(std::vector<std::shared_ptr<const T>>& boards) {
        for (std::shared_ptr<const T>& board : boards) {
            std::shared_ptr<T> changed;
            for (size_t i = 0; i < board->parameters.size(); ++i) {
                const Parameter& p = board->parameters[i];
                ParameterValue inside = p.standard;
                if (!bringInside(p, inside.value)) continue;
                tell(board->id, board->name, p, p.standard);
                if (!changed) changed = std::make_shared<T>(*board);
                changed->parameters[i].standard = inside;
            }
            if (changed) board = changed;
        }
    };
    defaults(project.masters);
    defaults(project.assemblies);
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < project.instances.size(); ++k) {
        InstancePtr& instance = project.instances[k];
        const Master* master = masters[k];
        std::shared_ptr<Instance> changed;
        for (const auto& [id, own] : instance->own) {
            const Parameter* p = master ? master->parameter(id) : nullptr;
            if (!p) continue;
            ParameterValue inside = own;
            if (!bringInside(*p, inside.value)) continue;
            tell(instance->id, instance->name, *p, own);
            if (!changed) changed = std::make_shared<Instance>(*instance);
            changed->own[id] = inside;
        }
        if (changed) instance = changed;
    }
}

} // namespace

Result<Loaded> parseProject(const std::string& text, const std::string& name) {
    if (text.find_first_not_of(" \t\r\n") == std::string::npos)
        return refuse("project.truncated", fmt::format("{} is empty. Bring back an earlier version of the file.", name));
    if (depthOfJson(text) > kDeepestJson)
        return refuse("project.not-json", fmt::format("{} is not a project file: it nests more than {} levels deep.", name, kDeepestJson));
    Json json;
    try {
        json = Json::parse(text);
    } catch (const Json::parse_error& e) {
        const auto line = 1 + std::count(text.begin(), text.begin() + std::min<long>(long(e.byte), long(text.size())), '\n');
        const std::string end = text.substr(text.find_last_not_of(" \t\r\n"), 1);
        if (e.byte >= text.size() || (text[text.find_first_not_of(" \t\r\n")] == '{' && end != "}"))
            return refuse("project.truncated",
                          fmt::format("{} ends in the middle, at line {}. Bring back an earlier version of the file.", name, line));
        return refuse("project.not-json", fmt::format("{} is not a project file: line {} is not JSON.", name, line));
    } catch (const Json::exception&) {
        // Such as a number that no computer can hold.
        return refuse("project.not-json", fmt::format("{} is not a project file: it holds a number out of range.", name));
    }
    if (!json.is_object() || json.value("kind", Json()) != "huestack project")
        return refuse("project.not-a-project", fmt::format("{} is JSON but not a Hue Stack project.", name));
    const Json format = json.value("format", Json());
    if (!format.is_number_integer() || format.get<int64_t>() < 1)
        return refuse("project.not-a-project", fmt::format("{} does not say which format it has.", name));
    if (format.get<int64_t>() > kFormat)
        return refuse("project.newer-format",
                      fmt::format("{} was saved by a newer version (format {}; this one reads up to {}). Open it with that version.", name,
                                  format.get<int64_t>(), kFormat));
    Loaded out;
    FieldReader reader(json, "the project", out.report, [](char letter) { return newId(letter); });
    reader.ignore({"kind", "format", "$schema"});
    describe(reader, out.project);
    tellIdsApart(out.project, out.report);
    breakLoops(out.project, out.report);
    keepLimits(out.project, out.report);
    upgrade(out.project, int(format.get<int64_t>()));
    return out;
}

} // namespace hue
