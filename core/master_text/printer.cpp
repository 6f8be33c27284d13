#include "core/document/parameter_kinds.h"
#include "core/master_text/master_text.h"
#include "core/master_text/names_private.h"
#include "core/master_text/statements_private.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace hue {
namespace lines {
namespace {

constexpr std::string_view kOperators[][2] = {{"add", "+"}, {"subtract", "-"}, {"multiply", "*"}, {"divide", "/"}};

std::string text(const Value& v) {
    if (v.width == 1) return fmt::format("{}", v[0]);
    return fmt::format("({})", fmt::join(v.v.begin(), v.v.begin() + v.width, ", "));
}

/// At a port that is as wide as it is, which takes no more: one number where all are the same.
std::string text(Value v, int width) {
    if (width > 0 && v.width != 1) v.width = width;
    const bool same = width > 1 && std::all_of(v.v.begin() + 1, v.v.begin() + v.width, [&](float x) { return x == v[0]; });
    return text(same ? Value::number(v[0]) : v);
}

/// A color by its figure, where that is exactly it.
std::string colorText(Value v, int width) {
    Value back;
    if (width > 0 && v.width != 1) v.width = width;
    const std::string figure = v.width == 3 ? hexFromColor(v) : std::string();
    return !figure.empty() && colorFromHex(figure, back) && std::equal(v.v.begin(), v.v.begin() + 3, back.v.begin()) ? figure
                                                                                                                     : text(v, width);
}

std::string quoted(std::string_view words) {
    std::string out = "\"";
    for (const char c : words) {
        if (c == '"' || c == '\\') out += '\\';
        if (c == '\n') out += "\\n";
        else out += c;
    }
    return out + "\"";
}

/// A choice as it stands in a call: bare where it is a name or a number.
std::string choice(std::string_view words) {
    const bool bare = !words.empty() && std::all_of(words.begin(), words.end(), [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) || c == '_';
    }) && !std::isdigit(static_cast<unsigned char>(words[0]));
    return bare ? std::string(words) : quoted(words);
}

} // namespace

std::string mapText(const Project& project, const Id& id) {
    const MapFile* map = project.map(id);
    if (!map) return id;
    const auto same = std::count_if(project.maps.begin(), project.maps.end(), [&](const auto& m) { return m->name == map->name; });
    return same == 1 && !map->name.empty() ? map->name : id;
}

std::string wornText(const Project& project, const Id& worn) {
    const std::string name = project.nameOf(worn);
    return !name.empty() && project.findByName(name) == worn ? name : worn;
}

Id mapCalled(const Project& project, const std::string& text) {
    if (project.map(text)) return text;
    const auto map = std::find_if(project.maps.begin(), project.maps.end(), [&](const auto& m) { return m->name == text; });
    return map == project.maps.end() ? Id{} : (*map)->id;
}

std::map<std::string, Id> assemblyNames(const Project& project) {
    std::map<std::string, Id> out;
    for (const AssemblyPtr& a : project.assemblies) {
        std::string name = nameFrom(a->name);
        for (int k = 2; findNodeDef(name) || out.contains(name); ++k) name = fmt::format("{}_{}", nameFrom(a->name), k);
        out[name] = a->id;
    }
    return out;
}

bool hasLine(const Node& node) { return node.kind != "parameter"; }

std::vector<Id> inOrder(const Graph& graph) {
    std::vector<Id> out;
    std::set<Id> seen;
    const auto follow = [&](const Id& root) {
        std::vector<std::pair<Id, bool>> open{{root, false}};
        while (!open.empty()) {
            const auto [id, done] = open.back();
            open.pop_back();
            const Node* node = graph.find(id);
            if (!node) continue;
            if (done) {
                if (hasLine(*node)) out.push_back(id);
                continue;
            }
            if (!seen.insert(id).second) continue;
            open.emplace_back(id, true);
            for (auto it = node->wires.rbegin(); it != node->wires.rend(); ++it) open.emplace_back(it->second.node, false);
        }
    };
    for (const std::string& key : railKeys())
        if (const auto wire = graph.channelWires.find(key); wire != graph.channelWires.end()) follow(wire->second.node);
    // The others from the top of the board down.
    std::vector<const Node*> rest;
    for (const auto& [id, node] : graph.nodes) rest.push_back(node.get());
    std::stable_sort(rest.begin(), rest.end(), [](const Node* a, const Node* b) { return a->position.y < b->position.y; });
    for (const Node* node : rest) follow(node->id);
    return out;
}

std::string written(const Value& value, int width) { return text(value, width); }

std::string wantedName(const Project& project, const Node& node) {
    const Assembly* assembly = project.assembly(assemblyOf(node));
    return nameFrom(!node.title.empty() ? node.title : assembly ? assembly->name : node.kind);
}

std::map<Id, std::string> nameCards(const Project& project, const Master& board, const std::map<std::string, Id>& known) {
    std::set<std::string> taken;
    for (const Parameter& p : board.parameters) taken.insert(p.codeName);
    std::map<Id, std::string> out;
    for (const auto& [name, id] : known)
        if (const Node* node = board.graph.find(id); node && hasLine(*node) && !isReserved(name) && taken.insert(name).second)
            out.emplace(id, name);
    // How far the numbers behind a name have come, so that a thousand alike do not take a million looks.
    std::map<std::string, int> next;
    for (const Id& id : inOrder(board.graph)) {
        if (out.contains(id)) continue;
        const Node& node = *board.graph.find(id);
        const std::string wanted = wantedName(project, node);
        std::string name = wanted;
        int& k = next.emplace(wanted, 1).first->second;
        while (isReserved(name) || !taken.insert(name).second) name = fmt::format("{}_{}", wanted, ++k);
        out[id] = name;
    }
    return out;
}

Printer::Printer(const Project& project, const Master& board, std::map<Id, std::string> names)
    : m_project(project), m_board(board), m_names(std::move(names)) {
    for (const auto& [name, id] : assemblyNames(project)) m_assemblies[id] = name;
}

std::string Printer::source(const Source& wire) const {
    const Node* node = m_board.graph.find(wire.node);
    std::string out;
    if (const auto name = m_names.find(wire.node); name != m_names.end()) out = name->second;
    else if (const Parameter* p = node && node->kind == "parameter"
                                      ? m_board.parameter(node->settings.count("parameter") ? node->settings.at("parameter") : Id{})
                                      : nullptr)
        out = p->codeName;
    else return "missing_card";
    const NodeDef* def = node ? nodeDefOf(m_project, *node) : nullptr;
    const bool first = def && !def->outputs.empty() && def->outputs[0].key == wire.port;
    // A take that is called as an output is needs the output before it.
    if (!first || (def && !wire.take.empty() && called(def->outputs, wire.take))) out += "." + labelFrom(wire.port);
    if (!wire.take.empty()) out += "." + wire.take;
    return wire.perVertex ? out + "." + std::string(kPerVertex) : out;
}

std::string Printer::card(const Node& node) const {
    const auto name = m_names.find(node.id);
    const std::string head = fmt::format("{}{} = ", node.muted ? "muted " : "", name == m_names.end() ? "missing_card" : name->second);
    const NodeDef* def = nodeDefOf(m_project, node);
    const auto reads = [&](const PortDef& port) {
        const auto wire = node.wires.find(std::string(port.key));
        return wire != node.wires.end()         ? source(wire->second)
               : port.meaning == Meaning::Color ? colorText(constantOf(node, port), port.width)
                                                : text(constantOf(node, port), port.width);
    };
    if (!def) return head + node.kind + "()";
    if (node.kind == "constant" && node.wires.empty()) return head + text(constantOf(node, def->inputs[0]));
    if (node.kind == "dot" && node.wires.contains("in")) return head + reads(def->inputs[0]);
    for (const auto& [kind, sign] : kOperators)
        if (node.kind == kind) return fmt::format("{}{} {} {}", head, reads(*def->input("in1")), sign, reads(*def->input("in2")));
    std::vector<std::string> parts;
    for (const PortDef& port : def->inputs) {
        const std::string key(port.key);
        if (node.wires.contains(key) || (carriesNumbers(port.width) && node.constants.contains(key)))
            parts.push_back(fmt::format("{}: {}", labelFrom(key), reads(port)));
    }
    std::string block;
    for (const SettingDef& setting : def->settings) {
        const auto it = node.settings.find(std::string(setting.key));
        if (it == node.settings.end() || it->second == setting.standard || (isAssembly(node) && setting.key == kAssemblySetting)) continue;
        if (node.kind == "formula" && setting.key == "formula") continue;
        const MapFile* map = setting.key == "map" ? m_project.map(it->second) : nullptr;
        if (setting.key == "map" && node.wires.contains("map")) continue;
        const Parameter* filled = finishParameter(m_board, node);
        const std::string worn = filled ? filled->codeName : finishOf(node).empty() ? std::string() : wornText(m_project, it->second);
        parts.push_back(fmt::format("{}: {}", labelFrom(setting.key),
                                    !worn.empty()             ? quoted(worn)
                                    : map                     ? quoted(mapText(m_project, map->id))
                                    : setting.choices.empty() ? quoted(it->second)
                                                              : choice(it->second)));
    }
    if (node.kind == "formula") {
        const std::string lines(settingOf(node, *def, "formula"));
        block = " {\n";
        for (size_t at = 0; at <= lines.size();) {
            const size_t end = std::min(lines.find('\n', at), lines.size());
            block += "  " + lines.substr(at, end - at) + "\n";
            at = end + 1;
        }
        block += "}";
    }
    const auto assembly = m_assemblies.find(assemblyOf(node));
    std::string out = head + (assembly != m_assemblies.end() ? assembly->second : node.kind) + "(";
    size_t column = out.size();
    for (size_t k = 0; k < parts.size(); ++k) {
        if (k) out += ",", ++column;
        const bool wraps = k && column + parts[k].size() > 100;
        out += wraps ? "\n    " : k ? " " : "";
        column = wraps ? 4 : column + 1;
        out += parts[k];
        column += parts[k].size();
    }
    return out + ")" + block;
}

std::string Printer::parameter(const Parameter& p) const {
    const ParameterKind& kind = kindOf(p.type);
    std::string out = fmt::format("{}{} {} = ", p.isBuildChoice() && p.isNamed() ? "build " : "", kind.key, p.codeName);
    if (p.type == ParameterType::OnOff) return out + optionOf(p, p.standard.value);
    if (p.type == ParameterType::Choice) {
        out += quoted(optionOf(p, p.standard.value)) + " of ";
        for (size_t k = 0; k < p.options.size(); ++k) out += (k ? ", " : "") + quoted(p.options[k]);
        return out;
    }
    if (p.type == ParameterType::Map) {
        const MapFile* map = m_project.map(p.standard.map);
        return out + (map ? quoted(mapText(m_project, map->id)) : "none") + ", " + std::string(nameOf(p.mapKind));
    }
    if (p.type == ParameterType::Finish) return out + quoted(p.standard.map.empty() ? std::string() : wornText(m_project, p.standard.map));
    if (!kind.width) return out + quoted(p.standard.map);
    Value v = p.standard.value;
    v.width = p.width();
    out += p.type == ParameterType::Color && !p.alpha ? colorText(v, 3) : text(v);
    if (!p.unit.empty()) out += " " + quoted(p.unit);
    if (kind.ranged && (p.softMin != 0 || p.softMax != 1)) out += fmt::format(", {}..{}", p.softMin, p.softMax);
    return out;
}

std::string Printer::channel(const std::string& key) const {
    const Graph& g = m_board.graph;
    const bool muted = std::find(g.mutedChannels.begin(), g.mutedChannels.end(), key) != g.mutedChannels.end();
    const std::string head = fmt::format("{}{} = ", muted ? "muted " : "", key);
    if (const auto wire = g.channelWires.find(key); wire != g.channelWires.end()) return head + source(wire->second);
    const auto value = g.channelConstants.find(key);
    const ChannelDef* def = findChannel(key);
    if (value == g.channelConstants.end() || !def) return {};
    return head + text({def->width, value->second.v});
}

} // namespace lines

BoardText boardText(const Project& project, const Master& board, const std::map<std::string, Id>& known) {
    const lines::Printer print(project, board, lines::nameCards(project, board, known));
    BoardText out;
    for (const auto& [id, name] : print.names()) out.cards[name] = id;
    for (const Parameter& p : board.parameters) out.text += print.parameter(p) + "\n";
    if (!board.parameters.empty()) out.text += "\n";
    const std::vector<Id> order = lines::inOrder(board.graph);
    for (const Id& id : order) out.text += print.card(*board.graph.find(id)) + "\n";
    std::string surface;
    for (const std::string& key : railKeys())
        if (const std::string line = print.channel(key); !line.empty()) surface += line + "\n";
    if (!surface.empty() && !order.empty()) out.text += "\n";
    out.text += surface;
    return out;
}

std::string linesOf(const Project& project, const Master& board, const std::vector<Id>& cards, const std::map<std::string, Id>& known) {
    const lines::Printer print(project, board, lines::nameCards(project, board, known));
    std::string out;
    for (const Id& id : lines::inOrder(board.graph))
        if (std::find(cards.begin(), cards.end(), id) != cards.end()) out += print.card(*board.graph.find(id)) + "\n";
    return out;
}

} // namespace hue
