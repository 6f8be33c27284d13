// Edits of parameters, and what makes values parameters.
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/surface/channels.h"

namespace hue::edit {

namespace {

Outcome checkParameter(const Master& master, Parameter& p) {
    if (p.name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A parameter needs a name.");
    // The name of the setting that says which assembly a card stands for is taken.
    std::vector<std::string> names, codes{std::string(kAssemblySetting)};
    for (const Parameter& other : master.parameters)
        if (other.id != p.id) {
            names.push_back(other.name);
            codes.push_back(other.codeName);
        }
    if (contains(names, p.name))
        return refuse("name.taken", fmt::format("{} has a parameter {} already. Choose another name.", master.name, p.name));
    if (Outcome o = onlyFinite("The range of " + p.name, {p.softMin, p.softMax, p.hardMin, p.hardMax}, {master.id, {}, {}}); !o) return o;
    if (Outcome o = onlyFinite(p.name, p.standard.value, {master.id, {}, {}}); !o) return o;
    p.codeName = freeCodeName(codes, p.codeName.empty() ? codeNameFrom(p.name) : p.codeName);
    if (p.hardMin > p.hardMax) std::swap(p.hardMin, p.hardMax);
    if (p.softMin > p.softMax) std::swap(p.softMin, p.softMax);
    p.standard = limited(p, p.standard);
    return Done{};
}

std::string freeParameterName(const Master& master, const std::string& wanted) {
    std::vector<std::string> taken;
    for (const Parameter& p : master.parameters) taken.push_back(p.name);
    return freeName(taken, wanted);
}

/// What a value is called once it is a parameter: a constant after its title or what it feeds, another value after card and port.
std::string nameForExposed(const Project& project, const Master& master, const Id& id, const std::string& port) {
    const Node* node = master.graph.find(id);
    if (!node) return "Parameter";
    std::string name = node->title;
    if (node->kind != "constant") {
        name = cardTitle(project, master, *node) + " " + port;
    } else if (name.empty()) {
        for (const auto& [key, wire] : master.graph.channelWires)
            if (const ChannelDef* channel = wire.node == id ? findChannel(key) : nullptr) name = channel->name;
        for (const auto& [other, reader] : master.graph.nodes)
            for (const auto& [input, wire] : reader->wires)
                if (name.empty() && wire.node == id) name = input;
    }
    if (name.empty()) name = "Parameter";
    name[0] = char(std::toupper(static_cast<unsigned char>(name[0])));
    return freeParameterName(master, name);
}

/// The card that stands for a parameter.
Node parameterNode(const Id& id, const Id& parameter, Point position) {
    Node node;
    node.id = id;
    node.kind = "parameter";
    node.position = position;
    node.settings["parameter"] = parameter;
    return node;
}

} // namespace

Result<Project> addParameter(const Project& project, const Id& master, Parameter parameter) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        if (parameter.id.empty()) parameter.id = newId('p');
        if (Outcome o = checkParameter(m, parameter); !o) return o;
        m.parameters.push_back(parameter);
        return Done{};
    });
}

Result<Project> changeParameter(const Project& project, const Id& master, const Parameter& wanted) {
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        for (Parameter& p : m.parameters) {
            if (p.id != wanted.id) continue;
            Parameter changed = wanted;
            if (Outcome o = checkParameter(m, changed); !o) return o;
            p = changed;
            return Done{};
        }
        return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    });
    if (!next) return next;
    const Parameter& now = *next->board(master)->parameter(wanted.id);
    for (InstancePtr& slot : next->instances) {
        auto it = slot->own.find(wanted.id);
        if (it == slot->own.end() || limited(now, it->second) == it->second) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own[wanted.id] = limited(now, it->second);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> removeParameter(const Project& project, const Id& master, const Id& id) {
    std::vector<Id> mapCards;
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        const Parameter* p = m.parameter(id);
        if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        const bool isMap = p->type == ParameterType::Map;
        for (auto& [nodeId, node] : m.graph.nodes) {
            const auto it = node->settings.find("parameter");
            if (node->kind != "parameter" || it == node->settings.end() || it->second != id) continue;
            if (isMap) {
                mapCards.push_back(nodeId);
                continue;
            }
            Node constant;
            constant.id = nodeId;
            constant.kind = "constant";
            constant.position = node->position;
            constant.title = node->title;
            constant.extra = node->extra;
            constant.constants["value"] = p->standard.value;
            node = std::make_shared<Node>(std::move(constant));
        }
        // What read a map from the parameter now has the map itself.
        for (auto& [nodeId, node] : m.graph.nodes) {
            const auto wire = node->wires.find("map");
            if (wire == node->wires.end() || !contains(mapCards, wire->second.node)) continue;
            auto copy = std::make_shared<Node>(*node);
            copy->wires.erase("map");
            copy->settings["map"] = p->standard.map;
            node = std::move(copy);
        }
        std::erase_if(m.parameters, [&](const Parameter& other) { return other.id == id; });
        return Done{};
    });
    if (next) next = removeNodes(*next, master, mapCards);
    if (!next) return next;
    for (InstancePtr& slot : next->instances) {
        if (!slot->own.contains(id)) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own.erase(id);
        slot = std::move(copy);
    }
    return next;
}

Result<Project> moveParameter(const Project& project, const Id& master, const Id& id, size_t index, const std::string& group) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = std::find_if(m.parameters.begin(), m.parameters.end(), [&](const Parameter& p) { return p.id == id; });
        if (it == m.parameters.end()) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        Parameter moved = *it;
        moved.group = group;
        m.parameters.erase(it);
        m.parameters.insert(m.parameters.begin() + long(std::min(index, m.parameters.size())), moved);
        return Done{};
    });
}

Result<Project> expose(const Project& project, const Id& master, const Id& nodeId, const std::string& port, Parameter parameter) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = m.graph.nodes.find(nodeId);
        if (it == m.graph.nodes.end()) return refuse("edit.no-card", "The card is not on the board any more.", {master, nodeId, port});
        const NodeDef* def = nodeDefOf(project, *it->second);
        const bool isConstant = it->second->kind == "constant";
        const PortDef* portDef = def ? def->input(isConstant ? "value" : port) : nullptr;
        if (!portDef || !carriesNumbers(portDef->width))
            return refuse("expose.no-constant", "Only a constant, or an unwired value of a card, can be exposed.", {master, nodeId, port});
        // One value for all pixels would take the place of what differs from pixel to pixel.
        if (portDef->unwired != Unwired::Constant)
            return refuse("expose.follows-mesh",
                          fmt::format("{} follows the mesh while nothing is wired to it; one value for all of it would flatten the card. "
                                      "Choose another value, or wire a card that changes it.",
                                      port),
                          {master, nodeId, port});
        if (parameter.id.empty()) parameter.id = newId('p');
        const Value value = constantOf(*it->second, *portDef);
        if (value.width > 3)
            return refuse("expose.four-numbers",
                          "A parameter holds up to three numbers, and this value has four. Split it into a color and a number first.",
                          {master, nodeId, port});
        parameter.standard.value = value;
        if (parameter.unit.empty()) parameter.unit = portDef->unit;
        if (parameter.description.empty() && !isConstant) parameter.description = portDef->help;
        const bool color = portDef->meaning == Meaning::Color || (portDef->meaning == Meaning::Any && value.width >= 3);
        parameter.type = parameterTypeFor(value.width, color);
        if (!color) {
            // As far as the card's own value is dragged; and limits that catch a slip of the keyboard and leave room for intent.
            if (portDef->low < portDef->high && parameter.softMin == 0 && parameter.softMax == 1)
                parameter.softMin = portDef->low, parameter.softMax = portDef->high;
            for (int c = 0; c < value.width; ++c) {
                parameter.softMin = std::min(parameter.softMin, value[c]);
                parameter.softMax = std::max(parameter.softMax, value[c]);
            }
            if (parameter.hardMin == Parameter{}.hardMin && parameter.hardMax == Parameter{}.hardMax) {
                const float room = 100 * std::max(parameter.softMax - parameter.softMin, 0.01f);
                parameter.hardMin = !isConstant && parameter.softMin >= 0 ? 0 : parameter.softMin - room;
                parameter.hardMax = parameter.softMax + room;
            }
        }
        if (Outcome o = checkParameter(m, parameter); !o) return o;
        m.parameters.push_back(parameter);
        if (isConstant) {
            Node node = parameterNode(nodeId, parameter.id, it->second->position);
            node.muted = it->second->muted;
            node.extra = it->second->extra;
            it->second = std::make_shared<Node>(std::move(node));
            return Done{};
        }
        const Id made = newId('n');
        auto copy = std::make_shared<Node>(*it->second);
        copy->wires[port] = {made, "out", {}};
        const Point at{copy->position.x - 190, copy->position.y};
        it->second = std::move(copy);
        m.graph.nodes[made] = std::make_shared<Node>(parameterNode(made, parameter.id, at));
        return Done{};
    });
}

Result<Project> exposeChannel(const Project& project, const Id& master, const std::string& key, Point at) {
    return withSurface(project, master, [&](Master& m) -> Outcome {
        const ChannelDef* channel = findChannel(key);
        const Place place{master, {}, key};
        if (!channel) return refuse("edit.no-channel", fmt::format("The surface has no channel {}.", key), place);
        if (m.graph.channelWires.contains(std::string(channel->key)))
            return refuse(
                "expose.channel-wired",
                fmt::format("{} is wired. Take the wire off first, or expose a value of the card that it comes from.", channel->name),
                place);
        if (channel->meaning == Meaning::Normal)
            return refuse("expose.follows-mesh",
                          fmt::format("{} follows the mesh while nothing is wired to it; one value for all of it would flatten the "
                                      "surface. Wire a card that changes it.",
                                      channel->name),
                          place);
        // Name, range, limits, unit and help are those of the channel.
        Parameter p;
        p.id = newId('p');
        p.name = freeParameterName(m, std::string(channel->name));
        p.type = parameterTypeFor(channel->width, channel->meaning == Meaning::Color);
        p.standard.value = channelConstant(m.graph, channel->key);
        p.standard.value.width = channel->width;
        p.unit = channel->unit;
        p.description = channel->help;
        p.hardMin = channel->low, p.hardMax = channel->high;
        p.softMin = channel->low, p.softMax = channel->comfortable > 0 ? channel->comfortable : channel->high;
        if (channel->comfortable > 0 && channel->low < 0) p.softMin = -channel->comfortable;
        if (Outcome o = checkParameter(m, p); !o) return o;
        const Id card = newId('n');
        m.graph.channelWires[std::string(channel->key)] = {card, "out", {}};
        m.graph.nodes[card] = std::make_shared<Node>(parameterNode(card, p.id, at));
        m.parameters.push_back(std::move(p));
        return Done{};
    });
}

std::vector<std::string> exposablePorts(const Project& project, const Graph& graph, const Id& id) {
    const Node* node = graph.find(id);
    const NodeDef* def = node ? nodeDefOf(project, *node) : nullptr;
    std::vector<std::string> out;
    if (!def) return out;
    if (node->kind == "constant") return {"value"};
    for (const PortDef& port : def->inputs)
        if (carriesNumbers(port.width) && port.unwired == Unwired::Constant && !node->wires.contains(std::string(port.key)) &&
            readsInput(*node, *def, port) && constantOf(*node, port).width <= 3)
            out.emplace_back(port.key);
    return out;
}

Result<Project> exposeSeveral(const Project& project, const Id& master, const std::vector<std::pair<Id, std::string>>& values) {
    Result<Project> at = project;
    if (values.empty())
        return refuse("expose.nothing", "None of these cards has an unwired value of its own. Select another.", {master, {}, {}});
    for (const auto& [id, port] : values) {
        const Master* m = at->board(master);
        if (!m) return refuse("edit.no-master", "The master is not in the project.", {master, {}, {}});
        Parameter p;
        p.name = nameForExposed(*at, *m, id, port);
        at = expose(*at, master, id, port, p);
        if (!at) return at;
    }
    return at;
}

} // namespace hue::edit
