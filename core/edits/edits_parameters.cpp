// Edits of parameters, and what makes values parameters.
#include "core/document/drawn.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <fmt/ranges.h>

namespace hue::edit {

namespace {

/// The options of a choice, and what its kind says about its range.
Outcome checkKind(Parameter& p, const Place& place) {
    if (p.type != ParameterType::Choice) p.options.clear();
    if (!p.isNamed()) p.build = false;
    if (p.type == ParameterType::Choice) {
        for (std::string& option : p.options) {
            const size_t first = option.find_first_not_of(' ');
            if (first == option.npos)
                return refuse("choice.no-name", fmt::format("{} has an option without a name. Give it one.", p.name), place);
            option = option.substr(first, option.find_last_not_of(' ') + 1 - first);
            if (std::count(p.options.begin(), p.options.end(), option) > 1)
                return refuse("choice.twice", fmt::format("{} has the option {} twice. Rename one of them.", p.name, option), place);
            if (option.find_first_of(",\"\t\n/") != option.npos)
                return refuse(
                    "choice.signs",
                    fmt::format("The option {} of {} holds a comma, a slash, quotes or a tab, which stand between options. Take it out.",
                                option, p.name),
                    place);
        }
        if (p.options.size() < 2 || p.options.size() > size_t(Parameter::kMostOptions))
            return refuse("choice.count",
                          fmt::format("{} has {} options; a choice has 2 to {}.", p.name, p.options.size(), Parameter::kMostOptions),
                          place);
    }
    if (p.isNamed()) {
        p.softMin = p.hardMin = 0;
        p.softMax = p.hardMax = p.type == ParameterType::OnOff ? 1.f : float(p.options.size() - 1);
        p.unit.clear();
        p.step = 0;
    }
    if (!(p.step >= 0) || !std::isfinite(p.step)) p.step = 0;
    if (p.slider == SliderCurve::Decades && !(std::min(p.softMin, p.softMax) > 0))
        return refuse(
            "slider.decades",
            fmt::format("The slider of {} begins at {:g}: one with equal factors begins above 0. Raise its low end, or choose another.",
                        p.name, p.softMin),
            place);
    return Done{};
}

/// `before`: the parameter as it was; null for a new one.
Outcome checkParameter(const Project& project, const Master& master, Parameter& p, const Parameter* before = nullptr) {
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
    if (Outcome o = checkKind(p, {master.id, {}, {}}); !o) return o;
    if (p.shownWhen.parameter == p.id) p.shownWhen = {};
    p.alpha = p.alpha && p.type == ParameterType::Color;
    p.strongest = p.type == ParameterType::Color && std::isfinite(p.strongest) ? std::clamp(p.strongest, 1.f, Parameter::kStrongest) : 1.f;
    const bool map = p.type == ParameterType::Map;
    p.mostPixels = map ? std::clamp(p.mostPixels, 0, kLargestSide) : 0;
    p.leastChannels = map ? std::clamp(p.leastChannels, 0, 4) : 0;
    if (const Parameter* set = map ? master.parameter(p.ofSet) : nullptr; !set || set->type != ParameterType::MapSet) p.ofSet.clear();
    if (p.ofSet.empty()) p.setRole.clear();
    else if (p.setRole.empty()) p.setRole = roleOf(p);
    if (p.width()) p.standard.map.clear();
    // One that has none yet begins with a plain one.
    if (p.type == ParameterType::Curve || p.type == ParameterType::Gradient) {
        const Drawn::Kind kind = p.type == ParameterType::Curve ? Drawn::Kind::Curve : Drawn::Kind::Gradient;
        if (!isDrawn(p.standard.map)) p.standard.map = textOf(plainDrawn(kind));
    }
    if (p.type == ParameterType::Finish && project.assembly(master.id))
        return refuse("finish.of-assembly",
                      fmt::format("{} is an assembly, and its inputs take no finishes. Make the parameter on the master.", master.name),
                      {master.id, {}, {}});
    if (p.type == ParameterType::MapSet && project.assembly(master.id))
        return refuse("set.of-assembly",
                      fmt::format("{} is an assembly, and its inputs are maps, not sets. Make the parameter on the master.", master.name),
                      {master.id, {}, {}});
    // A default that was lost before is no reason to refuse another change; a map may come later.
    if (p.type != ParameterType::Map && !(before && before->type == p.type && before->standard == p.standard))
        if (Outcome o = canHold(project, master, p, p.standard); !o) return o;
    p.standard = limited(p, p.standard);
    return Done{};
}

/// Where each option of `now` was among those of `before`: by its name, or by its place where it was renamed; -1 for a new one.
std::vector<int> formerPlaces(const Parameter& before, const Parameter& now) {
    const std::vector<std::string> old = optionsOf(before), fresh = optionsOf(now);
    std::vector<int> out;
    for (size_t k = 0; k < fresh.size(); ++k) {
        const auto same = std::find(old.begin(), old.end(), fresh[k]);
        const bool renamed = same == old.end() && k < old.size() && !contains(fresh, old[k]);
        out.push_back(same != old.end() ? int(same - old.begin()) : renamed ? int(k) : -1);
    }
    return out;
}

/// Whose values name an option that is gone, as "Bodywork/Line Ochre".
std::vector<std::string> usersOfGone(const Project& project, const Id& master, const Parameter& before, const std::vector<int>& was) {
    const auto gone = [&](const ParameterValue& v) { return std::find(was.begin(), was.end(), int(std::lround(v.value[0]))) == was.end(); };
    std::vector<std::string> out;
    if (gone(before.standard)) out.push_back(project.board(master)->name);
    for (const InstancePtr& i : project.instances)
        if (const auto own = i->own.find(before.id); own != i->own.end() && gone(own->second)) out.push_back(project.nameOf(i->id));
    return out;
}

/// What reads the places of options goes on reading the same options.
void followOptions(Master& m, const Parameter& p, const std::vector<int>& was) {
    const auto nowAt = [&](int before) { return int(std::find(was.begin(), was.end(), before) - was.begin()); };
    for (Parameter& other : m.parameters)
        if (other.shownWhen.parameter == p.id) {
            std::erase_if(other.shownWhen.is, [&](int at) { return nowAt(at) == int(was.size()); });
            for (int& at : other.shownWhen.is) at = nowAt(at);
        }
    for (auto& [id, node] : m.graph.nodes) {
        const auto which = node->wires.find("which");
        const Node* from = which == node->wires.end() ? nullptr : m.graph.find(which->second.node);
        const auto reads = from ? from->settings.find("parameter") : node->settings.end();
        if (node->kind != "choose" || !from || from->kind != "parameter" || reads == from->settings.end() || reads->second != p.id)
            continue;
        auto copy = std::make_shared<Node>(*node);
        copy->settings["values"] = fmt::format("{}", was.size());
        for (size_t k = 0; k < was.size(); ++k) {
            const std::string now = fmt::format("in{}", k + 1), before = fmt::format("in{}", was[k] + 1);
            copy->wires.erase(now);
            copy->constants.erase(now);
            if (const auto wire = node->wires.find(before); was[k] >= 0 && wire != node->wires.end()) copy->wires[now] = wire->second;
            if (const auto value = node->constants.find(before); was[k] >= 0 && value != node->constants.end())
                copy->constants[now] = value->second;
        }
        for (size_t k = was.size(); k < size_t(Parameter::kMostOptions); ++k) copy->wires.erase(fmt::format("in{}", k + 1));
        node = std::move(copy);
    }
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
        parameter.build = parameter.build && project.master(master);
        if (Outcome o = checkParameter(project, m, parameter); !o) return o;
        m.parameters.push_back(parameter);
        return Done{};
    });
}

Result<Project> changeParameter(const Project& project, const Id& master, const Parameter& wanted) {
    std::vector<int> was;
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        for (Parameter& p : m.parameters) {
            if (p.id != wanted.id) continue;
            Parameter changed = wanted;
            if ((p.type == ParameterType::MapSet) != (changed.type == ParameterType::MapSet))
                return refuse("set.own-kind",
                              fmt::format("{} is a map set or is to be one, which no other kind can hold. Make another parameter, and "
                                          "remove this one.",
                                          p.name),
                              {master, {}, {}});
            if ((p.type == ParameterType::Finish) != (changed.type == ParameterType::Finish))
                return refuse("finish.kind",
                              fmt::format("{} fills finishes, or takes their place: its cards would lead nowhere. Make another "
                                          "parameter, and remove this one.",
                                          p.name),
                              {master, {}, {}});
            changed.build = changed.build && project.master(master);
            if (p.isNamed() && changed.isNamed()) {
                was = formerPlaces(p, changed);
                const std::vector<std::string> users = usersOfGone(project, master, p, was);
                if (!users.empty())
                    return refuse(
                        "choice.in-use",
                        fmt::format("An option that goes is in use by {}. Give them another option first.", fmt::join(users, ", ")),
                        {master, {}, {}});
                // A default that was not changed means the same option as before.
                if (changed.standard == p.standard)
                    changed.standard.value[0] =
                        float(std::find(was.begin(), was.end(), int(std::lround(p.standard.value[0]))) - was.begin());
            }
            // A default that another kind had is none of this one.
            if (!changed.width() && changed.type != p.type && changed.standard == p.standard) changed.standard = {};
            if (Outcome o = checkParameter(project, m, changed, &p); !o) return o;
            p = changed;
            if (!was.empty()) followOptions(m, changed, was);
            return Done{};
        }
        return refuse("edit.no-parameter", "The parameter is not in the master any more.");
    });
    if (!next) return next;
    const Parameter& now = *next->board(master)->parameter(wanted.id);
    for (InstancePtr& slot : next->instances) {
        auto it = slot->own.find(wanted.id);
        if (it == slot->own.end()) continue;
        ParameterValue value = it->second;
        if (!was.empty()) value.value[0] = float(std::find(was.begin(), was.end(), int(std::lround(value.value[0]))) - was.begin());
        value = limited(now, value);
        // Words of another kind, such as a map where a curve is now, cannot be held: the value stays as it was, and the default counts.
        if (!now.width() && !canHold(*next, *next->board(master), now, value)) continue;
        if (value == it->second) continue;
        auto copy = std::make_shared<Instance>(*slot);
        copy->own[wanted.id] = value;
        slot = std::move(copy);
    }
    return next;
}

namespace {

/// Maps that were of a set are own ones, the same as before.
void keepMapsOfSet(Project& project, const Id& master, const Id& set) {
    const std::shared_ptr<const Project> before = std::make_shared<Project>(project);
    const Master& was = *before->board(master);
    std::vector<const Parameter*> maps;
    for (const Parameter& p : was.parameters)
        if (p.type == ParameterType::Map && p.ofSet == set) maps.push_back(&p);
    for (InstancePtr& slot : project.instances) {
        if (!slot->own.contains(set) || before->masterOf(slot->id) != &was) continue;
        const Resolved shown = resolve(*before, slot->id);
        auto copy = std::make_shared<Instance>(*slot);
        for (const Parameter* p : maps) copy->own.emplace(p->id, shown.values.at(p->id).value);
        slot = std::move(copy);
    }
    const Resolved shown = resolve(*before, master);
    changeBoards(project, [&](Master& m) {
        if (m.id != master) return false;
        for (Parameter& p : m.parameters)
            if (p.type == ParameterType::Map && p.ofSet == set) {
                p.standard = shown.values.at(p.id).value;
                p.ofSet.clear(), p.setRole.clear();
            }
        return true;
    });
}

} // namespace

Result<Project> removeParameter(const Project& given, const Id& master, const Id& id) {
    std::vector<Id> mapCards;
    Project project = given;
    if (const Master* m = given.board(master); m && m->parameter(id) && m->parameter(id)->type == ParameterType::MapSet)
        keepMapsOfSet(project, master, id);
    Result<Project> next = withMaster(project, master, [&](Master& m) -> Outcome {
        const Parameter* p = m.parameter(id);
        if (!p) return refuse("edit.no-parameter", "The parameter is not in the master any more.");
        const bool isMap = p->leadsMap();
        for (auto& [nodeId, node] : m.graph.nodes) {
            if (finishParameter(m, *node) == p) {
                auto copy = std::make_shared<Node>(*node);
                copy->settings[std::string(kFinishOfSetting)] = p->standard.map;
                node = std::move(copy);
                continue;
            }
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
        for (Parameter& other : m.parameters)
            if (other.shownWhen.parameter == id) other.shownWhen = {};
        return Done{};
    });
    // Own values of instances stay until they are dropped (strays.h): nothing that was tuned is lost with it.
    return next ? removeNodes(*next, master, mapCards) : next;
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
        const bool fourth = value.width == 4;
        parameter.standard.value = value;
        if (parameter.unit.empty()) parameter.unit = portDef->unit;
        if (parameter.description.empty() && !isConstant) parameter.description = portDef->help;
        const bool color = portDef->meaning == Meaning::Color || (portDef->meaning == Meaning::Any && value.width >= 3);
        parameter.type = fourth ? ParameterType::Color : parameterTypeFor(value.width, color);
        parameter.alpha = fourth;
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
        if (Outcome o = checkParameter(project, m, parameter); !o) return o;
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
        if (Outcome o = checkParameter(project, m, p); !o) return o;
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
