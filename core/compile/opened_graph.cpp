#include "core/compile/opened_graph.h"

#include "core/nodes/port_makers.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr std::string_view kHandsOn = "assembly port";

NodeDef handing(PortDef in, PortDef out) {
    in.key = "in";
    out.key = "out";
    return {kHandsOn, "Port", {}, {}, {}, {in}, {out}, {}, [](Lowering& l) {
                if (l.bringsFinish("in")) l.outFinish("out", l.finish("in"));
                else l.out("out", l.in("in"));
            }};
}

/// What hands the value of an input in: of the input's width and meaning, reading what it reads while nothing is wired.
const NodeDef* handingIn(const PortDef& input) {
    struct Kind {
        int width;
        Meaning meaning;
        Unwired unwired;
        NodeDef def;
    };
    static const std::vector<Kind> kinds = [] {
        std::vector<Kind> out;
        const std::tuple<int, Meaning, Unwired> all[] = {{1, Meaning::Number, Unwired::Constant},
                                                         {2, Meaning::Vector, Unwired::Constant},
                                                         {3, Meaning::Vector, Unwired::Constant},
                                                         {3, Meaning::Color, Unwired::Constant},
                                                         {2, Meaning::Uv, Unwired::Uv},
                                                         {3, Meaning::Normal, Unwired::NormalWorld},
                                                         {3, Meaning::Position, Unwired::PositionObject}};
        for (const auto& [width, meaning, unwired] : all) {
            PortDef in{"in", width, meaning, {width, {}}, 0, 1, {}, {}, unwired};
            out.push_back({width, meaning, unwired, handing(in, PortDef{"out", width, meaning, {}, 0, 1, {}, {}})});
        }
        return out;
    }();
    for (const Kind& k : kinds)
        if (k.width == input.width && k.unwired == input.unwired && k.meaning == input.meaning) return &k.def;
    for (const Kind& k : kinds)
        if (k.width == input.width) return &k.def;
    return &kinds[0].def;
}

const NodeDef* handingOut() {
    static const NodeDef def = handing(withFinishes(anyIn("in", 0, {})), withFinishes(anyOut()));
    return &def;
}

/// What is decided when compiling: the number of its setting.
const NodeDef* handingFixed() {
    static const NodeDef def{kHandsOn, "Port", {}, {}, {}, {}, {numberOut()}, {{"value", {}, "0", {}}}, [](Lowering& l) {
                                 l.out("out", l.b.number(float(std::atoi(std::string(l.setting("value")).c_str()))));
                             }};
    return &def;
}

class Opener {
  public:
    Opener(const Project& project, const Master& board) : m_project(project), m_board(board) {}

    OpenedGraph run() {
        OpenedGraph out;
        const auto isCard = [](const auto& entry) { return isAssembly(*entry.second) || entry.second->kind == kFinishOfKind; };
        const bool any = std::any_of(m_board.graph.nodes.begin(), m_board.graph.nodes.end(), isCard);
        if (!any) return out;
        m_out = &out;
        auto graph = std::make_shared<Graph>();
        m_graph = graph.get();
        findOutputs({}, m_board, {});
        open({}, m_board.graph, nullptr, {});
        m_graph->channelConstants = m_board.graph.channelConstants;
        m_graph->mutedChannels = m_board.graph.mutedChannels;
        for (const auto& [channel, wire] : m_board.graph.channelWires) m_graph->channelWires[channel] = openedSource(out, {}, wire);
        out.opened = std::move(graph);
        return out;
    }

  private:
    /// What a card hands in to the parameters of what it stands for: its own wires (in the opened graph), values and maps.
    struct Call {
        Id way;                              ///< to the card
        std::map<std::string, Source> wires; ///< by code name of the parameter
        std::map<std::string, Value> values;
        std::map<std::string, Id> maps; ///< ids of maps
    };

    void fail(const Id& way, std::string code, std::string sentence) {
        Diagnostic d{Severity::Error, std::move(code), {{}, way, {}}, std::move(sentence), {}};
        m_out->failed.emplace(way, std::move(d));
    }

    /// `opened`: what the card at the end of the way was opening to; null on the outermost board, which the compiler tells of.
    void tooLarge(const Id& way, const Master* opened) {
        m_out->cut = true;
        if (!opened) return;
        const bool assembly = m_project.assembly(opened->id);
        fail(way, assembly ? "assembly.too-large" : "finish.too-large",
             fmt::format("{} and what was opened before it have more than {} cards together. Bake a part of them to {}.", opened->name,
                         kMostCards, assembly ? "a map" : "maps"));
    }

    /// The assembly that a card opens to, or nothing when it cannot be.
    const Assembly* openable(const Id& way, const Node& card) {
        const Assembly* assembly = m_project.assembly(assemblyOf(card));
        const std::string name = !card.title.empty() ? card.title : assembly ? assembly->name : "This card";
        if (!assembly) {
            fail(way, "assembly.missing",
                 fmt::format("{} stands for an assembly that the project does not have. Bring it in from a file, or delete the card.",
                             name));
            return nullptr;
        }
        if (std::find(m_path.begin(), m_path.end(), assembly) != m_path.end() || assembly->id == m_board.id) {
            fail(way, "assembly.holds-itself",
                 fmt::format("{} contains itself, so it never ends. Open it, and delete the card of itself within.", name));
            return nullptr;
        }
        if (m_path.size() >= size_t(kDeepestAssembly)) {
            fail(way, "assembly.too-deep",
                 fmt::format("{} lies deeper than {} assemblies within each other. Unfold some of them.", name, kDeepestAssembly));
            return nullptr;
        }
        return assembly;
    }

    /// The master that a Finish of card opens to, or nothing when it cannot be.
    const Master* wearable(const Id& way, const Node& card, const Id& worn) {
        const Master* master = worn.empty() ? nullptr : m_project.masterOf(worn);
        const std::string name = card.title.empty() ? master ? master->name : "Finish of" : card.title;
        if (!master) {
            fail(way, "finish.missing",
                 worn.empty()
                     ? fmt::format("{} names no master or instance, and shows a plain grey. Choose one on the card.", name)
                     : fmt::format("{} names what the project does not have, and shows a plain grey. Choose another on the card.", name));
            return nullptr;
        }
        std::vector<std::string> chain;
        bool around = master->id == m_board.id;
        if (around) chain.push_back(m_board.name);
        for (const Master* outer : m_path) {
            around = around || outer->id == master->id;
            if (around) chain.push_back(outer->name);
        }
        if (around) {
            chain.push_back(master->name);
            fail(way, "finish.of-itself",
                 fmt::format("The finish of {} leads back to itself: {}. Choose another on the card, or cut the chain at one of these "
                             "masters.",
                             master->name, fmt::join(chain, ", which takes a finish of ")));
            return nullptr;
        }
        if (m_path.size() >= size_t(kDeepestAssembly)) {
            fail(way, "finish.too-deep", fmt::format("{} lies deeper than {} boards within each other.", name, kDeepestAssembly));
            return nullptr;
        }
        return master;
    }

    /// What a Finish of card takes: by itself, or by a parameter of its board as that is called.
    static Id wornBy(const Master& board, const Node& card, const Call& call) {
        if (const Parameter* p = finishParameter(board, card))
            if (const auto given = call.maps.find(p->codeName); given != call.maps.end()) return given->second;
        return finishOf(board, card);
    }

    /// Where the outputs of a board's assembly cards are, before wires are led there. Cards that cannot be opened have failed then.
    void findOutputs(const Id& path, const Master& board, const Call& call) {
        for (const auto& [id, node] : board.graph.nodes) {
            const Id way = within(path, id);
            if (node->kind == kFinishOfKind) wearable(way, *node, wornBy(board, *node, call));
            if (!isAssembly(*node)) continue;
            const Assembly* assembly = openable(way, *node);
            if (!assembly) continue;
            for (const AssemblyOutput& o : cardOf(*assembly).outputs) m_out->outputs[{way, o.key}] = within(way, o.card);
        }
    }

    Source led(const Id& path, const Source& wire) const { return openedSource(*m_out, path, wire); }

    /// `home`: whose board it is; null for the outermost. `call`: the card that stands for it.
    void open(const Id& path, const Graph& graph, const Master* home, const Call& call) {
        const auto mapInput = [&](const Source& wire) -> const Parameter* {
            const Node* from = home ? graph.find(wire.node) : nullptr;
            const Parameter* p = from && from->kind == "parameter" ? parameterOf(*home, *from) : nullptr;
            return p && p->leadsMap() ? p : nullptr;
        };
        for (const auto& [id, node] : graph.nodes) {
            const Id way = within(path, id);
            if (home) m_out->homes[way] = {home->id, id};
            if (isAssembly(*node)) {
                if (!m_out->failed.contains(way)) enter(path, way, *node, mapInput, call);
                continue;
            }
            if (++m_cards > kMostCards) return tooLarge(call.way, home);
            auto copy = std::make_shared<Node>(*node);
            copy->id = way;
            if (node->kind == kFinishOfKind && !node->muted && !m_out->failed.contains(way))
                wear(path, way, *copy, wornBy(home ? *home : m_board, *node, call));
            if (home && (node->kind == "parameter" || node->kind == kOutputKind)) copy->muted = false;
            if (home && node->kind == "parameter") {
                const Parameter* p = parameterOf(*home, *node);
                if (p && p->leadsMap()) {
                    m_out->mapInputs.push_back(way);
                    continue;
                }
                if (p && p->isBuildChoice() && m_project.master(home->id)) {
                    copy->kind = kHandsOn;
                    const auto value = call.values.find(p->codeName);
                    const Value& chosen = value == call.values.end() ? p->standard.value : value->second;
                    copy->settings = {{"value", fmt::format("{}", std::lround(chosen[0]))}};
                    m_out->handing[way] = handingFixed();
                    m_graph->nodes[way] = std::move(copy);
                    continue;
                }
                if (p) {
                    const PortDef port = portOf(*p);
                    copy->kind = kHandsOn;
                    const auto value = call.values.find(p->codeName);
                    copy->constants = {{"in", value == call.values.end() ? p->standard.value : value->second}};
                    copy->settings.clear();
                    copy->wires.clear();
                    if (const auto wire = call.wires.find(p->codeName); wire != call.wires.end()) copy->wires["in"] = wire->second;
                    m_out->handing[way] = handingIn(port);
                    m_out->inputs[way] = {call.way, p->codeName};
                    m_graph->nodes[way] = std::move(copy);
                    continue;
                }
            }
            if (home && node->kind == kOutputKind) {
                copy->kind = kHandsOn;
                m_out->handing[way] = handingOut();
            }
            const NodeDef* def = findNodeDef(node->kind);
            for (auto wire = copy->wires.begin(); wire != copy->wires.end();) {
                // A map into numbers is led to where nothing is, which is told.
                const PortDef* into = def ? def->input(wire->first) : nullptr;
                const Parameter* map = into && into->width == kMapPort ? mapInput(wire->second) : nullptr;
                if (!map) {
                    wire->second = led(path, wire->second);
                    ++wire;
                    continue;
                }
                // The map comes from outside: through the wire there, or as chosen there.
                if (const auto outer = call.wires.find(map->codeName); outer != call.wires.end()) {
                    wire->second = outer->second;
                    ++wire;
                } else {
                    const auto chosen = call.maps.find(map->codeName);
                    copy->settings[wire->first] = chosen != call.maps.end() ? chosen->second : map->standard.map;
                    wire = copy->wires.erase(wire);
                }
            }
            m_graph->nodes[way] = std::move(copy);
        }
    }

    template <class MapInput> void enter(const Id& path, const Id& way, const Node& node, const MapInput& mapInput, const Call& outer) {
        const Assembly& assembly = *m_project.assembly(assemblyOf(node));
        if (++m_cards > kMostCards) return tooLarge(way, &assembly);
        Call call{way, {}, {}, {}};
        for (const PortDef& port : cardOf(assembly).def.inputs) {
            const std::string key(port.key);
            if (carriesNumbers(port.width)) call.values[key] = constantOf(node, port);
            if (const auto wire = node.wires.find(key); wire != node.wires.end()) {
                const Parameter* map = port.width == kMapPort ? mapInput(wire->second) : nullptr;
                if (!map) call.wires[key] = led(path, wire->second);
                else if (const auto further = outer.wires.find(map->codeName); further != outer.wires.end())
                    call.wires[key] = further->second;
                else if (const auto chosen = outer.maps.find(map->codeName); chosen != outer.maps.end()) call.maps[key] = chosen->second;
                else call.maps[key] = map->standard.map;
            } else if (port.width == kMapPort) {
                if (const auto chosen = node.settings.find(key); chosen != node.settings.end()) call.maps[key] = chosen->second;
            }
        }
        if (node.muted) return handOver(way, assembly, call);
        m_path.push_back(&assembly);
        findOutputs(way, assembly, call);
        open(way, assembly.graph, &assembly, call);
        m_path.pop_back();
    }

    /// Opens the master that a Finish of card stands for, with the values of what it names. `card`: the card in the opened graph.
    void wear(const Id& path, const Id& way, Node& card, const Id& worn) {
        const Resolved resolved = resolve(m_project, worn);
        const Master& master = *m_project.masterOf(worn);
        if (m_cards >= kMostCards) return tooLarge(way, &master);
        Call call{way, {}, {}, {}};
        for (const Parameter& p : master.parameters) {
            const auto entry = resolved.values.find(p.id);
            const ParameterValue& value = entry == resolved.values.end() ? p.standard : entry->second.value;
            call.values[p.codeName] = value.value;
            call.maps[p.codeName] = value.map;
        }
        OpenedSurface surface{&master, worn, {}, {}};
        if (const auto uv = card.wires.find("uv"); uv != card.wires.end()) surface.uv = led(path, uv->second);
        else if (const OpenedSurface* around = surfaceAround(*m_out, way)) surface.uv = around->uv;
        OpenedSurface& kept = m_out->surfaces[way] = std::move(surface);
        m_path.push_back(&master);
        findOutputs(way, master, call);
        open(way, master.graph, &master, call);
        m_path.pop_back();
        for (const auto& [channel, wire] : master.graph.channelWires) kept.wires[channel] = led(way, wire);
    }

    /// A muted card hands on its first input, a wired one before values.
    void handOver(const Id& way, const Assembly& assembly, const Call& call) {
        const PortDef* first = nullptr;
        for (const PortDef& port : cardOf(assembly).def.inputs)
            if (port.width != kMapPort &&
                (!first || (!call.wires.contains(std::string(first->key)) && call.wires.contains(std::string(port.key)))))
                first = &port;
        for (const AssemblyOutput& o : cardOf(assembly).outputs) {
            auto hands = std::make_shared<Node>();
            hands->id = within(way, o.card);
            hands->kind = kHandsOn;
            m_out->handing[hands->id] = handingOut();
            if (first) {
                const std::string key(first->key);
                if (const auto wire = call.wires.find(key); wire != call.wires.end()) hands->wires["in"] = wire->second;
                else hands->constants["in"] = call.values.at(key);
            }
            m_graph->nodes[hands->id] = std::move(hands);
        }
    }

    static const Parameter* parameterOf(const Master& board, const Node& node) {
        const auto setting = node.settings.find("parameter");
        return setting == node.settings.end() ? nullptr : board.parameter(setting->second);
    }

    const Project& m_project;
    const Master& m_board;
    OpenedGraph* m_out = nullptr;
    Graph* m_graph = nullptr;
    std::vector<const Master*> m_path; ///< boards that are being opened, the outermost first
    size_t m_cards = 0;
};

} // namespace

Source openedSource(const OpenedGraph& graph, const Id& path, Source source) {
    const Id way = within(path, source.node);
    const auto output = graph.outputs.find({way, source.port});
    if (output == graph.outputs.end()) {
        source.node = way;
    } else {
        source.node = output->second;
        source.port = "out";
    }
    return source;
}

const OpenedSurface* surfaceAround(const OpenedGraph& graph, const Id& way) {
    if (graph.surfaces.empty()) return nullptr;
    for (size_t end = way.rfind('/'); end != Id::npos && end > 0; end = way.rfind('/', end - 1))
        if (const auto at = graph.surfaces.find(way.substr(0, end)); at != graph.surfaces.end()) return &at->second;
    return nullptr;
}

OpenedGraph openedGraph(const Project& project, const Master& board) { return Opener(project, board).run(); }

} // namespace hue
