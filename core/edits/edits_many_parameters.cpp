// Edits of parameters that concern several of them at once.
#include "core/document/names.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"

namespace hue::edit {
namespace {

constexpr std::string_view kColorParts[] = {"red", "green", "blue", "alpha"}, kVectorParts[] = {"x", "y", "z", "w"};

std::vector<Parameter> partsOf(const Master& m, const Parameter& p, const Value& standard) {
    std::vector<std::string> names, codes;
    for (const Parameter& other : m.parameters)
        if (other.id != p.id) names.push_back(other.name), codes.push_back(other.codeName);
    std::vector<Parameter> out;
    const bool color = p.type == ParameterType::Color;
    for (int c = 0; c < p.width(); ++c) {
        const std::string part =
            size_t(c) < p.components.size() ? p.components[size_t(c)] : std::string((color ? kColorParts : kVectorParts)[c]);
        Parameter one = p;
        one.id = newId('p');
        one.type = ParameterType::Number;
        one.name = freeName(names, p.name + " " + part);
        one.codeName = freeCodeName(codes, codeNameFrom(p.codeName + " " + part));
        names.push_back(one.name), codes.push_back(one.codeName);
        one.components.clear();
        one.alpha = false, one.strongest = 1;
        one.shared.clear();
        one.extra.clear();
        one.standard = {Value::number(standard[c]), {}};
        if (color) one.softMin = 0, one.softMax = c < 3 ? p.strongest : 1, one.hardMin = std::max(0.f, p.hardMin);
        if (color && c == 3) one.hardMax = 1;
        out.push_back(std::move(one));
    }
    return out;
}

/// The values of a vector as those of its parts.
void takeApart(std::map<Id, ParameterValue>& values, const Parameter& p, const std::vector<Parameter>& parts) {
    const auto own = values.find(p.id);
    if (own == values.end()) return;
    const Value v = limited(p, own->second).value;
    values.erase(own);
    for (size_t c = 0; c < parts.size(); ++c) values[parts[c].id] = limited(parts[c], {Value::number(v[int(c)]), {}});
}

} // namespace

Result<Project> splitParameter(const Project& project, const Id& master, const Id& id) {
    const Master* before = project.master(master);
    if (!before)
        return refuse("split.assembly", "An input of an assembly is wired to by its cards. Wire Separate behind it instead.",
                      {master, {}, {}});
    const Parameter* found = before->parameter(id);
    if (!found) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    const Parameter p = *found;
    if (p.width() < 2) return refuse("split.one-number", fmt::format("{} is not made of several numbers.", p.name), {master, {}, {}});
    const Resolved now = resolve(project, master);
    const std::vector<Parameter> parts = partsOf(*before, p, now.values.at(id).value.value);
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        const auto at = std::find_if(m.parameters.begin(), m.parameters.end(), [&](const Parameter& q) { return q.id == id; });
        m.parameters.insert(m.parameters.erase(at), parts.begin(), parts.end());
        for (Preset& preset : m.presets) takeApart(preset.values, p, parts);
        // The card keeps its id, so that all wires stay; those of the parts stand left of it.
        const std::map<Id, NodePtr> nodes = m.graph.nodes;
        for (const auto& [nodeId, node] : nodes) {
            const auto named = node->settings.find("parameter");
            if (node->kind != "parameter" || named == node->settings.end() || named->second != id) continue;
            Node whole = makeNode("combine", node->position);
            whole.id = nodeId;
            whole.title = node->title.empty() ? p.name : node->title;
            whole.extra = node->extra;
            whole.settings["components"] = fmt::format("{}", parts.size());
            for (size_t c = 0; c < parts.size(); ++c) {
                Node card = makeNode("parameter", {node->position.x - 200, node->position.y + float(c) * 64});
                card.settings["parameter"] = parts[c].id;
                whole.wires[std::string(1, "rgba"[c])] = {card.id, "out", {}};
                for (Bay& bay : m.graph.bays)
                    if (contains(bay.nodes, nodeId)) bay.nodes.push_back(card.id);
                m.graph.nodes[card.id] = std::make_shared<Node>(card);
            }
            m.graph.nodes[nodeId] = std::make_shared<Node>(std::move(whole));
        }
        return Done{};
    });
    if (!next) return next;
    for (InstancePtr& slot : next->instances) {
        if (!slot->own.contains(id)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        takeApart(copy->own, p, parts);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> mergeParameters(const Project& project, const Id& master, const Id& kept, const Id& gone) {
    const Master* before = project.board(master);
    const Parameter *a = before ? before->parameter(kept) : nullptr, *b = before ? before->parameter(gone) : nullptr;
    if (!a || !b || kept == gone) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    if (!project.master(master))
        return refuse("split.assembly", "An input of an assembly is wired to by its cards. Wire one of them to both instead.",
                      {master, {}, {}});
    if (a->type != b->type || a->width() != b->width() || a->options != b->options ||
        (a->type == ParameterType::Map && a->mapKind != b->mapKind) || a->build != b->build)
        return refuse("merge.kinds",
                      fmt::format("{} and {} are of different kinds. Give them one kind{} first.", a->name, b->name,
                                  a->type == ParameterType::Choice ? " and the same options" : ""),
                      {master, {}, {}});
    const Parameter into = *a;
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        for (auto& [nodeId, node] : m.graph.nodes) {
            const bool finish = finishOf(*node) == gone;
            const auto named = node->settings.find("parameter");
            if (!finish && (node->kind != "parameter" || named == node->settings.end() || named->second != gone)) continue;
            auto copy = std::make_shared<Node>(*node);
            copy->settings[finish ? std::string(kFinishOfSetting) : "parameter"] = kept;
            node = std::move(copy);
        }
        for (Parameter& other : m.parameters)
            if (other.ofSet == gone && other.type == ParameterType::Map) other.ofSet = kept;
        for (Parameter& other : m.parameters)
            if (other.shownWhen.parameter == gone) other.shownWhen.parameter = other.id == kept ? Id{} : kept;
        for (Preset& preset : m.presets)
            if (const auto value = preset.values.find(gone); value != preset.values.end()) {
                preset.values.emplace(kept, limited(into, value->second));
                preset.values.erase(gone);
            }
        std::erase_if(m.parameters, [&](const Parameter& p) { return p.id == gone; });
        return Done{};
    });
    if (!next) return next;
    for (InstancePtr& slot : next->instances) {
        const auto value = slot->own.find(gone);
        if (value == slot->own.end() || slot->own.contains(kept)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own[kept] = limited(into, value->second);
        copy->own.erase(gone);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> setLimits(const Project& project, const Id& master, const std::vector<Id>& parameters,
                          const std::optional<std::pair<float, float>>& slider, const std::optional<std::pair<float, float>>& hard) {
    Result<Project> next = project;
    for (const Id& id : parameters) {
        const Parameter* p = next->board(master) ? next->board(master)->parameter(id) : nullptr;
        if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        if (!kindOf(p->type).ranged) continue;
        Parameter changed = *p;
        if (slider) std::tie(changed.softMin, changed.softMax) = *slider;
        if (hard) std::tie(changed.hardMin, changed.hardMax) = *hard;
        next = changeParameter(*next, master, changed);
        if (!next) return next;
    }
    return next;
}

Result<Project> exposeFinish(const Project& project, const Id& master, const Id& nodeId) {
    const Master* board = project.master(master);
    const Node* node = board ? board->graph.find(nodeId) : nullptr;
    if (!node || node->kind != kFinishOfKind || finishParameter(*board, *node))
        return refuse("expose.no-constant", "Only a Finish of card that names a master or instance can be exposed so.",
                      {master, nodeId, {}});
    Parameter p;
    p.id = newId('p');
    p.type = ParameterType::Finish;
    std::vector<std::string> names;
    for (const Parameter& other : board->parameters) names.push_back(other.name);
    p.name = freeName(names, node->title.empty() ? "Finish" : node->title);
    p.standard.map = finishOf(*node);
    return chain(project, {[&](const Project& q) { return addParameter(q, master, p); },
                           [&](const Project& q) { return setSetting(q, master, nodeId, std::string(kFinishOfSetting), p.id); }});
}

} // namespace hue::edit
