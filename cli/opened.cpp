#include "cli/opened.h"

#include "core/nodes/assembly_card.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {

Result<std::shared_ptr<Opened>> open(const Options& o) {
    Result<Loaded> loaded = loadProject(o.project);
    if (!loaded) return loaded.error();
    auto out = std::make_shared<Opened>();
    out->project = std::move(loaded->project);
    out->report = std::move(loaded->report);
    out->hash = std::move(loaded->hash);
    out->assets.setFolder(std::filesystem::absolute(o.project).parent_path());
    return out;
}

Result<Id> find(const Project& p, const std::string& name) {
    Id id = p.findByName(name);
    // An id is no name, and says the same.
    if (id.empty() && (p.master(name) || p.instance(name))) id = name;
    if (!id.empty() && !p.masterOf(id))
        return Error{"instance.no-parent",
                     fmt::format("The parents of {} lead to no master of {}; hsk check tells where they end.", name, p.name),
                     {}};
    if (!id.empty()) return id;
    std::vector<std::string> names;
    for (const auto& m : p.masters) names.push_back(m->name);
    for (const auto& i : p.instances) names.push_back(p.nameOf(i->id));
    return Error{"name.unknown", fmt::format("There is no {} in {}. There are: {}.", name, p.name, fmt::join(names, ", ")), {}};
}

Result<Specimen> findSpecimen(const Project& p, int number) {
    const auto& all = p.lineup.specimens;
    if (number >= 1 && size_t(number) <= all.size()) return all[size_t(number) - 1];
    return Error{"name.unknown", fmt::format("There is no specimen {}; the lineup has {}.", number, all.size()), {}};
}

/// By name or id, or a shape's name.
Result<Id> findMesh(const Project& p, const std::string& name) {
    std::vector<std::string> names;
    const size_t slash = name.find('/');
    const std::string plain = name.substr(0, slash), density = slash == std::string::npos ? "" : name.substr(slash);
    for (const auto& [id, shape] : shapes()) {
        std::string lower = shape;
        lower[0] = char(std::tolower(lower[0]));
        if ((plain == lower || plain == shape || plain == id) && shapeById(id + density)) return id + density;
        names.push_back(lower);
    }
    for (const auto& m : p.meshes) {
        if (m->name == name || m->id == name) return m->id;
        names.push_back(m->name);
    }
    return Error{"name.unknown", fmt::format("There is no mesh {}. There are: {}.", name, fmt::join(names, ", ")), {}};
}

Result<Source> wireOf(const Project& project, const Master& master, const std::string& text) {
    const size_t first = text.find('.'), second = first == std::string::npos ? first : text.find('.', first + 1);
    Source s{text.substr(0, first), first == std::string::npos ? "out" : text.substr(first + 1, second - first - 1),
             second == std::string::npos ? "" : text.substr(second + 1)};
    const Node* node = master.graph.find(s.node);
    if (!node) return Error{"wire.unknown", fmt::format("{} has no card {}. hsk list gives the ids of cards.", master.name, s.node), {}};
    const NodeDef* def = nodeDefOf(project, *node);
    if (!def || !def->output(s.port)) {
        std::vector<std::string_view> ports;
        if (def)
            for (const PortDef& p : def->outputs) ports.push_back(p.key);
        return Error{
            "wire.unknown", fmt::format("The card {} has no output {}. There are: {}.", s.node, s.port, fmt::join(ports, ", ")), {}};
    }
    return s;
}

} // namespace hue::cli
