#pragma once
// The inside of compile.h: one graph on its way to a Program. Not for use elsewhere.
// Threads: an object belongs to one at a time.
#include "core/base/diagnostic.h"
#include "core/compile/compile.h"
#include "core/compile/opened_graph.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"
#include "core/program/passes/passes.h"
#include "core/program/passes/vertex_split.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cassert>
#include <fmt/format.h>
#include <optional>
#include <set>
#include <tuple>

namespace hue {

/// What a wire brings: a value of the Program, a map, or a finish.
struct Brought {
    Val value;
    int slot = -1;
    Meaning meaning = Meaning::Any;
    bool exists = false;
    std::shared_ptr<const Finish> finish = {};

    int width(const Builder& b) const { return finish ? kFinishPort : slot >= 0 ? kMapPort : b.width(value); }
};

inline std::string widthText(int width) {
    static constexpr std::string_view texts[] = {"a finish",     "a map",        "any width",   "one number",
                                                 "2 components", "3 components", "4 components"};
    return std::string(texts[std::clamp(width + 2, 0, 6)]);
}

class GraphCompiler {
  public:
    /// `path`: to the assembly whose cards are told of; empty for those of the board itself.
    GraphCompiler(const Project& project, const Master& master, Constants constants = Constants::Folded, Id path = {})
        : m_project(project),
          m_master(master),
          m_opened(openedGraph(project, master)),
          m_graph(m_opened.opened ? *m_opened.opened : master.graph),
          m_path(std::move(path)),
          m_constants(constants),
          m_program(std::make_shared<Program>()),
          m_builder(*m_program) {
        for (const auto& [way, node] : m_graph.nodes) {
            const std::optional<Id> card = shown(way);
            m_origins[way] = card ? int32_t(m_program->origins.size()) : -1;
            if (!card) continue;
            const auto home = m_opened.homes.find(way);
            if (home == m_opened.homes.end()) m_program->origins.push_back({*card, {}, {}});
            else m_program->origins.push_back({*card, home->second.first, home->second.second});
        }
        m_shifts.push_back({});
        if (m_master.graph.nodes.size() > kMostCards)
            report(Severity::Error, "graph.too-large", {},
                   fmt::format("{} has {} cards, and {} are the most. Bake parts of it to maps, or share the work among several masters.",
                               m_master.name, m_master.graph.nodes.size(), kMostCards));
        for (const auto& [way, why] : m_opened.failed) {
            m_broken[way] = true;
            report(why.severity, why.code, {{}, way, {}}, why.sentence);
        }
    }

    void setPasses(const PassOptions& passes) { m_passes = passes; }

    Compilation surface() {
        lowerInOrder(reachableFromChannels());
        for (const ChannelDef& channel : channels()) {
            // The offset belongs to the vertices; it has a Program of its own.
            if (!isCompiled(channel, m_master.surface) || channel.key == "vertex_offset") continue;
            Val value = channelValue(channel);
            m_program->outputs.push_back({std::string(channel.key), value.id});
        }
        tellOfLayers();
        return finish();
    }

    Compilation taps() {
        std::vector<Id> all;
        for (const auto& [id, node] : m_graph.nodes) all.push_back(id);
        lowerInOrder(all);
        eachShownOutput([&](const Id& card, const std::string& port, const Brought& brought) {
            // Of a finish its color is seen.
            if (const Val seen = brought.finish ? brought.finish->part("base_color") : brought.value)
                m_program->outputs.push_back({card + "." + port, seen.id});
        });
        for (const ChannelDef& channel : channels())
            if (m_path.empty() && isCompiled(channel, m_master.surface))
                m_program->outputs.push_back({"channel." + std::string(channel.key), channelValue(channel).id});
        return finish();
    }

    Compilation channel(std::string_view key) {
        const ChannelDef* def = findChannel(key);
        m_ofVertices = key == "vertex_offset";
        std::vector<Id> roots;
        const auto reads = [&](std::string_view wired) {
            if (auto it = m_graph.channelWires.find(std::string(wired)); it != m_graph.channelWires.end()) roots.push_back(it->second.node);
        };
        reads(key);
        if (!m_ofVertices) reads(kWholeSurface);
        lowerInOrder(roots);
        m_program->outputs.push_back({std::string(key), channelValue(*def).id});
        Compilation out = finish();
        if (m_ofVertices) limitVertices(out);
        return out;
    }

    Compilation tap(const Source& there) {
        const Source wire = openedSource(m_opened, m_path, there);
        lowerInOrder({wire.node});
        Brought brought = follow(wire, {}, wire.node, wire.port);
        if (brought.finish) brought.value = brought.finish->part("base_color");
        m_program->outputs.push_back({"tap", (brought.value ? brought.value : m_builder.number(0)).id});
        return finish();
    }

  private:
    friend class NodeLowering;

    /// The card of the shown board that a card of the opened graph is, or lies in; nothing for one that lies elsewhere.
    std::optional<Id> shown(const Id& way) const {
        if (!m_opened.opened) return way;
        std::string_view rest = way;
        if (!m_path.empty()) {
            if (!rest.starts_with(m_path) || rest.size() <= m_path.size() || rest[m_path.size()] != '/') return std::nullopt;
            rest.remove_prefix(m_path.size() + 1);
        }
        return Id(rest.substr(0, rest.find('/')));
    }

    /// What the outputs of the shown board's cards bring.
    template <class Each> void eachShownOutput(Each each) const {
        const auto lies = [&](const Id& way) {
            const std::optional<Id> card = shown(way);
            return card && within(m_path, *card) == way ? card : std::nullopt;
        };
        for (const auto& [key, brought] : m_outputs) {
            const auto& [shift, way, port] = key;
            if (shift || (m_opened.handing.contains(way) && !m_opened.inputs.contains(way))) continue;
            if (const std::optional<Id> card = lies(way)) each(*card, port, brought);
        }
        for (const auto& [from, handing] : m_opened.outputs)
            if (const std::optional<Id> card = lies(from.first))
                if (const auto found = m_outputs.find({0, handing, "out"}); found != m_outputs.end())
                    each(*card, from.second, found->second);
    }

    void report(Severity severity, std::string code, Place place, std::string sentence, std::vector<Fix> fixes = {}) {
        place.master = m_master.id;
        // The same node may be lowered at several UVs; one report is enough.
        if (!m_reported.insert({code, place.node, place.port}).second) return;
        const std::optional<Id> card = shown(place.node);
        if (const auto home = m_opened.homes.find(place.node); home != m_opened.homes.end()) {
            // It is mended on the assembly's own board.
            const Master* board = m_project.board(home->second.first);
            place = {home->second.first, home->second.second, place.port};
            sentence = fmt::format("In {}: {}", board ? board->name : "an assembly", sentence);
            fixes.clear();
        }
        if (severity == Severity::Error) {
            m_out.ok = false;
            if (card && !card->empty()) m_out.atFault.emplace(*card, sentence);
        }
        m_out.diagnostics.push_back({severity, std::move(code), std::move(place), std::move(sentence), std::move(fixes)});
    }

    /// The board on which a card of the opened graph, or one that was opened, lies, and its id there.
    std::pair<const Master*, Id> homeOf(const Id& way) const {
        const auto home = m_opened.homes.find(way);
        if (home == m_opened.homes.end()) return {&m_master, way};
        return {m_project.board(home->second.first), home->second.second};
    }
    std::string titleOf(const Id& way) const {
        const auto [board, id] = homeOf(way);
        return cardTitle(m_project, *board, id);
    }
    /// Where an input of a card is for people: what hands values into an assembly is an input of the assembly's card.
    Place placeOf(const Id& way, const std::string& port) const {
        const auto input = m_opened.inputs.find(way);
        return input == m_opened.inputs.end() ? Place{{}, way, port} : Place{{}, input->second.first, input->second.second};
    }

    std::vector<Id> reachableFromChannels() const {
        std::vector<Id> roots;
        for (const auto& [channel, wire] : m_graph.channelWires)
            if (!isMuted(channel)) roots.push_back(wire.node);
        return roots;
    }

    /// Lowers the roots and all that they depend on, sources first and without recursion. Finds cycles.
    void lowerInOrder(const std::vector<Id>& roots) {
        enum class State { Open, Done };
        std::map<Id, State> states;
        for (const Id& root : roots) {
            std::vector<std::pair<Id, bool>> stack{{root, false}};
            while (!stack.empty()) {
                auto [id, sourcesDone] = stack.back();
                stack.pop_back();
                const Node* node = m_graph.find(id);
                if (!node) continue;
                if (sourcesDone) {
                    states[id] = State::Done;
                    lowerNode(*node, 0);
                    continue;
                }
                if (states.contains(id)) continue;
                states[id] = State::Open;
                stack.emplace_back(id, true);
                for (const Source* unseen : unseenSources(*node))
                    if (!states.contains(unseen->node)) stack.emplace_back(unseen->node, false);
                for (const auto& [port, wire] : node->wires) {
                    auto it = states.find(wire.node);
                    if (it == states.end()) {
                        stack.emplace_back(wire.node, false);
                    } else if (it->second == State::Open && leadsTo(m_graph, id, wire.node)) {
                        const Id master = m_master.id;
                        report(Severity::Error, "graph.cycle", {{}, id, port},
                               fmt::format("{} depends on itself through its input {}. Cut one wire of the loop.", titleOf(id), port),
                               {{"Cut this wire",
                                 [master, id = id, port = port](const Project& p) { return edit::disconnect(p, master, id, port); }}});
                    }
                }
            }
        }
    }

    /// The inputs of a surface: the board's own, or those of a master that a Finish of card stands for.
    struct Rail {
        const std::map<std::string, Source>& wires;
        const Graph& graph; ///< whose values and mutes count
        Id way;             ///< to the card; empty for the board's own

        bool isMuted(std::string_view channel) const {
            return std::find(graph.mutedChannels.begin(), graph.mutedChannels.end(), channel) != graph.mutedChannels.end();
        }
        /// Null where nothing is wired, and where it is muted.
        const Source* wire(std::string_view channel) const {
            const auto it = wires.find(std::string(channel));
            return it == wires.end() || isMuted(channel) ? nullptr : &it->second;
        }
    };
    Rail railOfBoard() const { return {m_graph.channelWires, m_graph, {}}; }
    static Rail railOf(const Id& way, const OpenedSurface& surface) { return {surface.wires, surface.master->graph, way}; }
    /// What a card depends on without a wire of its own being drawn.
    std::vector<const Source*> unseenSources(const Node& node);
    /// The wire of the normal channel, for a Normal card that asks for it as mapped; that of the whole surface where the channel has none.
    /// Null where it needs the card itself, which is reported.
    const Source* mappedNormalOf(const Node& node);
    /// What a channel shows: its own wire, the finish of the whole, its value, or its default.
    Val railValue(const Rail& rail, const ChannelDef& channel, int shift);
    Val fittedToChannel(const Source& wire, const Brought& brought, const ChannelDef& channel);
    /// What comes in at a rail as a whole; null where nothing does.
    std::shared_ptr<const Finish> wholeFinish(const Rail& rail, int shift);
    /// A master as a finish.
    Finish finishOfSurface(const Id& way, const OpenedSurface& surface, int shift);
    /// Layers that a finish brings and the surface does not have.
    void tellOfLayers();
    /// A map or a finish where numbers are wanted.
    void reportNoNumbers(const Place& place, const std::string& receiver, const ChannelDef& wanted, const Brought& brought,
                         const Source& wire);
    /// Numbers or a map where a finish is wanted.
    void reportNoFinish(const Place& place, const std::string& receiver, const Source& wire);
    std::function<Result<Project>(const Project&)> putBetween(std::string_view kind, const Source& wire, const std::string& in,
                                                              const std::string& out, const Place& to) const;
    bool isMuted(std::string_view channel) const {
        return std::find(m_graph.mutedChannels.begin(), m_graph.mutedChannels.end(), channel) != m_graph.mutedChannels.end();
    }

    /// Goes through what a value is computed from, until `visit` says no.
    void walk(Val value, const std::function<bool(const Instruction&)>& visit) const {
        std::vector<int32_t> open{value.id};
        std::set<int32_t> seen;
        while (!open.empty()) {
            const int32_t at = open.back();
            open.pop_back();
            if (!seen.insert(at).second) continue;
            const Instruction& i = m_program->code[size_t(at)];
            if (!visit(i)) return;
            for (int a = 0; a < i.operands; ++a) open.push_back(i.args[a]);
        }
    }

    const Brought* outputOf(const Id& node, const std::string& port, int shift) {
        auto it = m_outputs.find({shift, node, port});
        return it == m_outputs.end() ? nullptr : &it->second;
    }

    /// What a wire brings to a port, after its take. `exists` is false, and reported, when it brings nothing usable.
    Brought follow(const Source& wire, const Id& toNode, const Id& placeNode, const std::string& placePort, int shift = 0) {
        const Place place{{}, toNode.empty() ? Id{} : placeNode, placePort};
        const Node* source = m_graph.find(wire.node);
        if (!source) {
            if (m_opened.cut || m_opened.failed.contains(wire.node)) return {};
            const auto [board, id] = homeOf(wire.node);
            if (board->graph.find(id)) {
                reportNoPort(wire, place);
                return {};
            }
            report(Severity::Error, "wire.no-source", place,
                   fmt::format("The wire into {} starts at a card that is not there. Wire it anew.", placePort));
            return {};
        }
        if (shift && !m_lowered.contains({shift, wire.node})) lowerNode(*source, shift);
        const Brought* found = outputOf(wire.node, wire.port, shift);
        if (!found) {
            // A card that has already been reported needs no second sentence.
            if (!m_broken.contains(wire.node) && m_lowered.contains({shift, wire.node})) reportNoPort(wire, place);
            return {};
        }
        Brought brought = *found;
        brought.exists = true;
        if (brought.finish && !wire.take.empty())
            report(Severity::Error, "wire.take", place,
                   fmt::format("The take .{} of the wire into {} asks for a component, and {} gives a finish, which has channels. Take one "
                               "with a Separate finish card.",
                               wire.take, place.port, titleOf(wire.node)));
        if (brought.slot >= 0 || brought.finish) return brought;
        if (!take(brought, wire, place)) return brought;
        // Among vertices there is nothing to carry.
        if (wire.perVertex && !m_ofVertices) {
            limitCarried(brought.value, wire, place);
            brought.value = m_builder.perVertex(brought.value);
            m_program->code.back().origin = m_origins.at(wire.node);
        }
        return brought;
    }

    /// Puts what a wire takes in the place of all. False, and reported, where there is no such component.
    bool take(Brought& brought, const Source& wire, const Place& place) {
        if (wire.take.empty()) return true;
        const int width = m_builder.width(brought.value);
        if (!widthOfTake(wire.take, width)) {
            report(Severity::Error, "wire.take", place,
                   fmt::format("The take .{} of the wire into {} asks for a component that {} ({}) does not have.", wire.take, place.port,
                               titleOf(wire.node), widthText(width)));
            brought = {};
            return false;
        }
        if (wire.take == "luma") {
            brought.value = m_builder.luminance(brought.value);
        } else {
            Val parts[4];
            int n = 0;
            for (char c : wire.take) parts[n++] = m_builder.component(brought.value, int(std::string_view("rgbaxyzw").find(c) % 4));
            if (n == 1) brought.value = parts[0];
            else if (n == 2) brought.value = m_builder.compose({parts[0], parts[1]});
            else if (n == 3) brought.value = m_builder.compose({parts[0], parts[1], parts[2]});
            else brought.value = m_builder.compose({parts[0], parts[1], parts[2], parts[3]});
        }
        if (wire.take.size() == 1 || wire.take == "luma") brought.meaning = Meaning::Number;
        return true;
    }

    void reportNoPort(const Source& wire, const Place& place) {
        report(Severity::Error, "wire.no-port", place,
               fmt::format("{} has no output {} here, which the wire into {} wants. Choose another output.", titleOf(wire.node), wire.port,
                           place.port));
    }

    std::vector<Fix> takeFixes(const Id& node, const std::string& port, int from) {
        std::vector<Fix> fixes;
        const Id master = m_master.id;
        for (const std::string& take : singleTakes(from))
            fixes.push_back({"Take ." + take, [=](const Project& p) { return edit::setTake(p, master, node, port, take); }});
        return fixes;
    }

    /// Fits a value to a width, or reports and returns nothing.
    Val fit(Val value, int width, const Id& node, const std::string& port, const std::string& receiver) {
        const int from = m_builder.width(value);
        if (from == width) return value;
        if (from == 1) return m_builder.spread(value, width);
        const Place place{{}, node, port};
        if (width == 1) {
            report(Severity::Error, "wire.needs-take", place,
                   fmt::format("{} takes one number and the wire brings {}. Choose a component, or .luma for its brightness.", receiver,
                               widthText(from)),
                   takeFixes(node, port, from));
        } else {
            std::vector<Fix> fixes;
            if (from > width) {
                const std::string take = *fittingTake(from, width);
                const Id master = m_master.id;
                fixes.push_back({"Take ." + take, [=](const Project& p) { return edit::setTake(p, master, node, port, take); }});
            }
            report(Severity::Error, "wire.width", place,
                   fmt::format("{} takes {} and the wire brings {}. Take the components that are wanted, or combine the missing ones.",
                               receiver, widthText(width), widthText(from)),
                   std::move(fixes));
        }
        return {};
    }

    Val channelValue(const ChannelDef& channel) {
        m_builder.setOrigin(-1);
        return railValue(railOfBoard(), channel, 0);
    }
    void checkNormalChannel(const std::string& key, const Source& wire, const Brought& brought) {
        if (brought.meaning == Meaning::Normal || m_builder.width(brought.value) != 3) return;
        report(Severity::Caution, "normal.not-a-normal", {{}, {}, key},
               fmt::format("The normal channel takes a world-space normal and {} gives a {}. Put a Normal map card between.",
                           titleOf(wire.node), nameOf(brought.meaning)),
               {{"Put a Normal map between", putBetween("normal_map", wire, "in", "out", {{}, {}, key})}});
    }

    /// Says what a Program of the vertices reads that vertices do not have.
    void limitVertices(Compilation& out) const;
    /// The same of what a wire is computed from.
    void limitCarried(Val value, const Source& wire, const Place& place);
    /// Says what triangles have no room for.
    void limitRoom();
    void lowerNode(const Node& node, int shift);
    int addShift(int base, Val offset);

    /// As the ledger counts: what pixels and vertices both compute is paid for by both.
    void countCards() {
        const VertexSplit split = splitAtVertices(m_program);
        const auto count = [&](const Program& p, Rate most) {
            for (const Instruction& i : p.code) {
                if (i.origin < 0) continue;
                CardCost& cost = m_out.cards[p.origins[size_t(i.origin)].card];
                const OpCost its = costOf(i);
                cost.operations += its.operations;
                cost.fetches += its.fetches;
                cost.rate = std::max(cost.rate, std::min(i.rate, most));
            }
        };
        count(*split.surface, Rate::Pixel);
        if (split.vertices) count(*split.vertices, Rate::Vertex);
        for (const Carried& c : split.carried) {
            const Instruction& carry = m_program->code[size_t(c.at)];
            if (carry.origin >= 0) m_out.cards[m_program->origins[size_t(carry.origin)].card].operations += costOf(carry).operations;
        }
    }

    /// That of the part that changes most often.
    Rate rateOf(const Finish& of) const {
        Rate out = Rate::Frame;
        for (const auto& [key, part] : of.parts) out = std::max(out, m_program->code[size_t(part.id)].rate);
        return out;
    }

    Compilation finish() {
        // Rates of ports are read before anything is folded, so that they speak of the graph as drawn. That all are asked for here does
        // not have pixels compute them; what a channel asks for does.
        std::vector<Program::Output> outputs = m_program->outputs;
        if (std::any_of(outputs.begin(), outputs.end(), [](const auto& o) { return o.name.starts_with("channel."); }))
            std::erase_if(m_program->outputs, [](const auto& o) { return !o.name.starts_with("channel."); });
        assignRates(*m_program);
        m_program->outputs = std::move(outputs);
        eachShownOutput([&](const Id& card, const std::string& port, const Brought& brought) {
            PortInfo info;
            info.meaning = brought.meaning;
            info.width = brought.width(m_builder);
            if (brought.finish) info.rate = rateOf(*brought.finish);
            if (brought.value) info.rate = m_program->code[size_t(brought.value.id)].rate;
            m_out.ports[{card, port}] = info;
        });
        for (const Id& way : m_opened.mapInputs)
            if (const std::optional<Id> card = shown(way); card && within(m_path, *card) == way)
                m_out.ports[{*card, "out"}].width = kMapPort;
        optimise(*m_program, m_passes);
        assert(validate(*m_program).empty());
        limitRoom();
        countCards();
        m_out.program = m_program;
        return std::move(m_out);
    }

    const Project& m_project;
    const Master& m_master;
    const OpenedGraph m_opened;
    const Graph& m_graph;
    const Id m_path;
    const Constants m_constants;
    std::shared_ptr<Program> m_program;
    Builder m_builder;
    Compilation m_out;
    std::map<Id, int32_t> m_origins;
    std::map<std::tuple<int, Id, std::string>, Brought> m_outputs;
    std::map<std::pair<int, Id>, bool> m_lowered;
    std::map<Id, bool> m_broken;
    std::set<std::tuple<std::string, Id, std::string>> m_reported;
    std::vector<Val> m_shifts; ///< UV offset in force; 0 is none
    bool m_ofVertices = false; ///< all of it is computed at the vertices
    int m_depth = 0;
    PassOptions m_passes;
};

} // namespace hue
