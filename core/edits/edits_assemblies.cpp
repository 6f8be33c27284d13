// Edits of assemblies as a whole, and what follows for the cards that stand for them.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"

namespace hue::edit {

namespace {

std::vector<std::string> assemblyNames(const Project& project, const Id& except = {}) {
    std::vector<std::string> names;
    for (const AssemblyPtr& a : project.assemblies)
        if (a->id != except) names.push_back(a->name);
    return names;
}

Outcome checkName(const std::string& name) {
    if (name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A name needs at least one letter.");
    return Done{};
}

template <class Change> Result<Project> withAssembly(const Project& project, const Id& id, Change change) {
    if (!project.assembly(id)) return refuse("edit.no-assembly", "The assembly is not in the project any more.", {id, {}, {}});
    return withMaster(project, id, [&](Master& m) -> Outcome {
        change(static_cast<Assembly&>(m));
        return Done{};
    });
}

/// Old key -> new one, of ports that are called otherwise now; what is gone is not in it.
std::map<std::string, std::string> renamed(const std::vector<std::pair<Id, std::string>>& before,
                                           const std::vector<std::pair<Id, std::string>>& after) {
    std::map<std::string, std::string> out;
    for (const auto& [id, was] : before)
        for (const auto& [other, is] : after)
            if (id == other && was != is) out[was] = is;
    return out;
}

template <class Map> void rename(Map& entries, const std::map<std::string, std::string>& names) {
    Map next;
    for (auto& [key, entry] : entries) {
        const auto now = names.find(key);
        next[now == names.end() ? key : now->second] = std::move(entry);
    }
    entries = std::move(next);
}

} // namespace

void followPorts(Project& project, const Assembly& before, const Assembly& after) {
    const auto inputs = [](const Assembly& a) {
        std::vector<std::pair<Id, std::string>> out;
        for (const Parameter& p : a.parameters) out.emplace_back(p.id, p.codeName);
        return out;
    };
    const auto outputs = [](const Assembly& a) {
        std::vector<std::pair<Id, std::string>> out;
        for (const AssemblyOutput& o : cardOf(a).outputs) out.emplace_back(o.card, o.key);
        return out;
    };
    const auto in = renamed(inputs(before), inputs(after)), out = renamed(outputs(before), outputs(after));
    if (in.empty() && out.empty()) return;
    const std::string kind(kAssemblySetting);
    changeBoards(project, [&](Master& board) {
        std::vector<Id> cards;
        for (const auto& [id, node] : board.graph.nodes)
            if (assemblyOf(*node) == after.id) cards.push_back(id);
        if (cards.empty()) return false;
        const auto follow = [&](std::map<std::string, Source>& wires) {
            bool any = false;
            for (auto& [port, wire] : wires) {
                const auto now = contains(cards, wire.node) ? out.find(wire.port) : out.end();
                if (now == out.end()) continue;
                wire.port = now->second;
                any = true;
            }
            return any;
        };
        for (auto& [id, node] : board.graph.nodes) {
            auto copy = std::make_shared<Node>(*node);
            bool any = follow(copy->wires);
            if (contains(cards, id)) {
                any = true;
                rename(copy->wires, in);
                rename(copy->constants, in);
                rename(copy->settings, in);
            }
            if (any) node = std::move(copy);
        }
        follow(board.graph.channelWires);
        return true;
    });
}

Result<Project> addAssembly(const Project& project, Assembly assembly) {
    if (Outcome o = checkName(assembly.name); !o) return o.error();
    if (assembly.id.empty() || project.board(assembly.id)) assembly.id = newId('a');
    assembly.name = freeName(assemblyNames(project), assembly.name);
    Project next = project;
    next.assemblies.push_back(std::make_shared<Assembly>(std::move(assembly)));
    return next;
}

Result<Project> renameAssembly(const Project& project, const Id& id, const std::string& name) {
    if (Outcome o = checkName(name); !o) return o.error();
    if (contains(assemblyNames(project, id), name))
        return refuse("name.taken", fmt::format("There is an assembly {} already. Choose another name.", name));
    return withAssembly(project, id, [&](Assembly& a) { a.name = name; });
}

Result<Project> describeAssembly(const Project& project, const Id& id, const std::string& description) {
    return withAssembly(project, id, [&](Assembly& a) { a.description = description; });
}

Result<Project> raiseVersion(const Project& project, const Id& id) {
    return withAssembly(project, id, [](Assembly& a) { ++a.version; });
}

Result<Project> removeAssembly(const Project& project, const Id& id) {
    const Assembly* assembly = project.assembly(id);
    if (!assembly) return refuse("edit.no-assembly", "The assembly is not in the project any more.", {id, {}, {}});
    const std::vector<AssemblyUse> uses = usesOf(project, id);
    if (!uses.empty())
        return refuse("assembly.in-use",
                      fmt::format("{} stands on the board of {}{}. Delete or unfold its cards first.", assembly->name,
                                  project.board(uses[0].board)->name,
                                  uses.size() > 1 ? fmt::format(" and in {} more places", uses.size() - 1) : ""),
                      {uses[0].board, uses[0].card, {}});
    Project next = project;
    std::erase_if(next.assemblies, [&](const AssemblyPtr& a) { return a->id == id; });
    return next;
}

} // namespace hue::edit
