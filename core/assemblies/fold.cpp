#include "core/assemblies/fold.h"

#include "core/base/diagnostic.h"
#include "core/compile/compile.h"
#include "core/document/bays.h"
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"

#include <algorithm>
#include <cctype>
#include <set>

namespace hue {
namespace {

constexpr float kColumn = 220; ///< between columns of cards

Error refuse(const char* code, std::string sentence, Place place = {}) { return {code, std::move(sentence), std::move(place)}; }

std::string capital(std::string text) {
    std::replace(text.begin(), text.end(), '_', ' ');
    if (!text.empty()) text[0] = char(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

class Fold {
  public:
    Fold(const Project& project, const Master& board, const std::vector<Id>& cards)
        : m_project(project), m_board(board), m_taps(compileTaps(project, board)) {
        for (const Id& id : cards)
            // What stands for a parameter of the master, or for an output of the board, has a meaning here alone.
            if (const Node* node = board.graph.find(id); node && node->kind != "parameter" && node->kind != kOutputKind) m_cards.insert(id);
    }

    Result<Folded> run(const std::string& name) {
        if (m_cards.empty())
            return refuse("assembly.nothing-selected",
                          "None of these cards can become an assembly. Select cards that compute something; parameters stay outside.",
                          {m_board.id, {}, {}});
        if (const std::optional<Error> around = cardAround()) return *around;
        measure();
        m_assembly.id = newId('a');
        std::vector<std::string> taken;
        for (const AssemblyPtr& a : m_project.assemblies) taken.push_back(a->name);
        m_assembly.name = freeName(taken, name.empty() ? "Assembly" : name);
        m_card = makeAssemblyNode(m_assembly.id, {(m_low.x + m_high.x) / 2, (m_low.y + m_high.y) / 2});
        m_outer = m_board.graph;
        for (const Id& id : m_cards) {
            auto copy = std::make_shared<Node>(*m_board.graph.find(id));
            for (auto& [port, wire] : copy->wires) {
                if (m_cards.contains(wire.node)) continue;
                const Result<Id> input = inputFor(*copy, port, wire);
                if (!input) return input.error();
                wire = {*input, "out", {}};
            }
            m_assembly.graph.nodes[id] = std::move(copy);
        }
        readers();
        if (m_outputs.empty()) ends();
        if (m_outputs.empty())
            return refuse("assembly.no-output", "None of these cards gives anything, so nothing could be read of the assembly.",
                          {m_board.id, {}, {}});
        bays();
        for (const Id& id : m_cards) m_outer.nodes.erase(id);
        m_outer.nodes[m_card.id] = std::make_shared<Node>(m_card);
        return placed();
    }

  private:
    /// A card that reads some of them and feeds others would become a part of a loop.
    std::optional<Error> cardAround() const {
        const std::set<Id> before = cardsFeeding(m_board.graph, m_cards), after = cardsFedBy(m_board.graph, m_cards);
        for (const auto& [id, node] : m_board.graph.nodes)
            if (!m_cards.contains(id) && before.contains(id) && after.contains(id))
                return refuse("assembly.around",
                              fmt::format("{} reads some of these cards and feeds others, so it would lead from the assembly back into it. "
                                          "Select it as well, or leave out what it feeds.",
                                          cardTitle(m_project, m_board, *node)),
                              {m_board.id, id, {}});
        return {};
    }

    void measure() {
        m_low = m_high = m_board.graph.find(*m_cards.begin())->position;
        for (const Id& id : m_cards) {
            const Point at = m_board.graph.find(id)->position;
            m_low = {std::min(m_low.x, at.x), std::min(m_low.y, at.y)};
            m_high = {std::max(m_high.x, at.x), std::max(m_high.y, at.y)};
        }
    }

    /// The parameter card within that brings what a wire from outside brings.
    Result<Id> inputFor(const Node& reader, const std::string& port, const Source& wire) {
        const auto key = std::tuple(wire.node, wire.port, wire.take, wire.perVertex);
        if (const auto known = m_inputs.find(key); known != m_inputs.end()) return known->second;
        const auto info = m_taps.ports.find({wire.node, wire.port});
        const NodeDef* def = nodeDefOf(m_project, reader);
        const PortDef* into = def ? def->input(port) : nullptr;
        const Node* from = m_board.graph.find(wire.node);
        const int whole = info != m_taps.ports.end() ? info->second.width : into && into->width > 0 ? into->width : 1;
        if (whole == kFinishPort)
            return refuse(
                "assembly.takes-finish",
                fmt::format("The wire from {} into {} brings a finish, and no input of an assembly takes one. Select that card as "
                            "well, or leave {} out.",
                            cardTitle(m_project, m_board, wire.node), cardTitle(m_project, m_board, reader),
                            cardTitle(m_project, m_board, reader)),
                {m_board.id, reader.id, port});
        const int width = whole == kMapPort ? kMapPort : widthOfTake(wire.take, whole);
        if (width > 3)
            return refuse("assembly.four-components",
                          fmt::format("The wire from {} into {} brings four components, and an input has three at most. Take what is "
                                      "wanted of them, or select that card as well.",
                                      cardTitle(m_project, m_board, wire.node), cardTitle(m_project, m_board, reader)),
                          {m_board.id, reader.id, port});
        Parameter p;
        const Parameter* whose = nullptr;
        if (from && from->kind == "parameter")
            if (const auto setting = from->settings.find("parameter"); setting != from->settings.end())
                whose = m_board.parameter(setting->second);
        if (whose && wire.take.empty()) p = *whose;
        p.id = newId('p');
        p.group.clear();
        if (!whose || !wire.take.empty()) {
            const Meaning meaning = info != m_taps.ports.end() && wire.take.empty() ? info->second.meaning : Meaning::Any;
            if (width == kMapPort) p.type = ParameterType::Map, p.mapKind = mapKindOf(wire);
            else p.type = parameterTypeFor(width, meaning == Meaning::Color || (into && into->meaning == Meaning::Color));
            if (into && width != kMapPort) describe(p, *into, reader);
        }
        std::vector<std::string> names, codes;
        for (const Parameter& other : m_assembly.parameters) names.push_back(other.name), codes.push_back(other.codeName);
        p.name = freeName(names, nameOf(wire, port, whose));
        p.codeName = codeNameFrom(p.name);
        while (std::find(codes.begin(), codes.end(), p.codeName) != codes.end() || p.codeName == kAssemblySetting) p.codeName += "_2";
        Node card = makeNode("parameter", {m_low.x - kColumn, reader.position.y + 40 * float(m_assembly.parameters.size() % 2)});
        card.settings["parameter"] = p.id;
        m_card.wires[p.codeName] = wire;
        m_assembly.parameters.push_back(std::move(p));
        const Id id = card.id;
        m_assembly.graph.nodes[id] = std::make_shared<Node>(std::move(card));
        return m_inputs[key] = id;
    }

    MapKind mapKindOf(const Source& wire) const {
        const Node* from = m_board.graph.find(wire.node);
        const auto setting = from ? from->settings.find("parameter") : std::map<std::string, std::string>::const_iterator{};
        const Parameter* p = from && setting != from->settings.end() ? m_board.parameter(setting->second) : nullptr;
        return p ? p->mapKind : MapKind::Color;
    }

    /// Range, unit, help and default of where an input goes.
    static void describe(Parameter& p, const PortDef& into, const Node& reader) {
        if (into.low < into.high) p.softMin = into.low, p.softMax = into.high;
        p.unit = into.unit;
        p.description = into.help;
        const Value value = constantOf(reader, into);
        for (int c = 0; c < p.width(); ++c) p.standard.value[c] = value.width == 1 ? value[0] : value[c];
        p.standard.value.width = p.width();
        if (into.unwired == Unwired::Uv && p.width() == 2) p.follows = Follows::Uv;
        if (into.unwired == Unwired::NormalWorld && p.width() == 3) p.follows = Follows::Normal;
        if (into.unwired == Unwired::PositionObject && p.width() == 3) p.follows = Follows::Position;
    }

    std::string nameOf(const Source& wire, const std::string& port, const Parameter* whose) const {
        if (whose) return whose->name;
        static constexpr std::string_view plain[] = {"in",     "in1", "in2", "bg", "fg", "value", "value1",
                                                     "value2", "a",   "b",   "x",  "y",  "z",     "w"};
        if (std::find(std::begin(plain), std::end(plain), port) == std::end(plain)) return capital(port);
        const Node* from = m_board.graph.find(wire.node);
        return from ? capital(cardTitle(m_project, m_board, *from)) : "Input";
    }

    /// The Output card within that gives what a card within gives.
    Id outputFor(const Source& wire) {
        const auto key = std::pair(wire.node, wire.port);
        if (const auto known = m_outputs.find(key); known != m_outputs.end()) return known->second;
        const Node* from = m_board.graph.find(wire.node);
        std::string title = capital(cardTitle(m_project, m_board, *from));
        if (wire.port != "out") title += " " + wire.port;
        Node card = makeNode(kOutputKind, {m_high.x + kColumn, from->position.y + 40 * float(m_outputs.size() % 2)});
        std::vector<std::string> titles;
        for (const auto& [id, node] : m_assembly.graph.nodes)
            if (node->kind == kOutputKind) titles.push_back(node->title);
        card.title = freeName(titles, title);
        card.wires["in"] = {wire.node, wire.port, {}};
        const Id id = card.id;
        m_assembly.graph.nodes[id] = std::make_shared<Node>(std::move(card));
        return m_outputs[key] = id;
    }

    /// What reads them from outside reads the assembly's card.
    void readers() {
        for (const auto& [id, node] : m_outer.nodes)
            for (const auto& [port, wire] : node->wires)
                if (!m_cards.contains(id) && m_cards.contains(wire.node)) outputFor(wire);
        for (const auto& [channel, wire] : m_outer.channelWires)
            if (m_cards.contains(wire.node)) outputFor(wire);
        // What the ports are called is known once all are there.
        std::map<Id, std::string> keys;
        for (const AssemblyOutput& o : outputsOf(m_assembly)) keys[o.card] = o.key;
        const auto lead = [&](Source& wire) {
            if (!m_cards.contains(wire.node)) return;
            wire.port = keys[outputFor(wire)];
            wire.node = m_card.id;
        };
        for (auto& [id, node] : m_outer.nodes) {
            if (m_cards.contains(id)) continue;
            auto copy = std::make_shared<Node>(*node);
            bool any = false;
            for (auto& [port, wire] : copy->wires) {
                any = any || m_cards.contains(wire.node);
                lead(wire);
            }
            if (any) node = std::move(copy);
        }
        for (auto& [channel, wire] : m_outer.channelWires) lead(wire);
    }

    /// Where nobody reads them yet: what ends within.
    void ends() {
        std::set<std::pair<Id, std::string>> read;
        for (const Id& id : m_cards)
            for (const auto& [port, wire] : m_board.graph.find(id)->wires) read.insert({wire.node, wire.port});
        for (const Id& id : m_cards)
            if (const NodeDef* def = nodeDefOf(m_project, *m_board.graph.find(id)))
                for (const PortDef& port : def->outputs)
                    if (const std::string key(port.key); port.width != kMapPort && !read.contains({id, key})) outputFor({id, key, {}});
    }

    /// Bays of which all cards go along go along; from others the cards are taken.
    void bays() {
        std::set<Id> whole;
        for (const Bay& bay : m_board.graph.bays) {
            const std::vector<Id> held = cardsWithin(m_board.graph, bay.id);
            if (!held.empty() && std::all_of(held.begin(), held.end(), [&](const Id& id) { return m_cards.contains(id); }))
                whole.insert(bay.id);
        }
        Id home;
        for (const Bay& bay : m_board.graph.bays)
            if (!whole.contains(bay.id) &&
                std::any_of(bay.nodes.begin(), bay.nodes.end(), [&](const Id& n) { return m_cards.contains(n); }))
                home = home.empty() ? bay.id : home;
        m_outer.bays.clear();
        for (Bay bay : m_board.graph.bays) {
            if (whole.contains(bay.id)) {
                if (!whole.contains(bay.inside)) bay.inside.clear();
                m_assembly.graph.bays.push_back(std::move(bay));
                continue;
            }
            std::erase_if(bay.nodes, [&](const Id& n) { return m_cards.contains(n); });
            if (bay.id == home) bay.nodes.push_back(m_card.id);
            m_outer.bays.push_back(std::move(bay));
        }
    }

    Result<Folded> placed() {
        Result<Project> next = edit::setGraph(m_project, m_board.id, std::move(m_outer));
        if (!next) return next.error();
        Folded out{std::move(*next), m_assembly.id, m_card.id};
        out.project.assemblies.push_back(std::make_shared<Assembly>(std::move(m_assembly)));
        return out;
    }

    const Project& m_project;
    const Master& m_board;
    const Compilation m_taps;
    std::set<Id> m_cards;
    Point m_low, m_high;
    Assembly m_assembly;
    Node m_card;
    Graph m_outer;
    std::map<std::tuple<Id, std::string, std::string, bool>, Id> m_inputs;
    std::map<std::pair<Id, std::string>, Id> m_outputs;
};

class Unfold {
  public:
    Unfold(const Project& project, const Master& board, const Node& card, const Assembly& assembly)
        : m_project(project), m_board(board), m_card(card), m_assembly(assembly), m_taps(compileTaps(project, board)) {}

    Result<Unfolded> run() {
        m_graph = m_board.graph;
        Point low, high;
        bool first = true;
        for (const auto& [id, node] : m_assembly.graph.nodes) {
            if (node->kind == "parameter" || node->kind == kOutputKind) continue;
            m_now[id] = newId('n');
            const Point at = node->position;
            low = first ? at : Point{std::min(low.x, at.x), std::min(low.y, at.y)};
            high = first ? at : Point{std::max(high.x, at.x), std::max(high.y, at.y)};
            first = false;
        }
        m_offset = {m_card.position.x - (low.x + high.x) / 2, m_card.position.y - (low.y + high.y) / 2};
        for (const auto& [was, now] : m_now) {
            auto copy = std::make_shared<Node>(*m_assembly.graph.find(was));
            copy->id = now;
            copy->position = {copy->position.x + m_offset.x, copy->position.y + m_offset.y};
            const NodeDef* def = nodeDefOf(m_project, *copy);
            for (auto wire = copy->wires.begin(); wire != copy->wires.end();) {
                const std::optional<Source> from = sourceOf(wire->second, def ? def->input(wire->first) : nullptr, copy.get(), wire->first);
                if (from) wire->second = *from, ++wire;
                else wire = copy->wires.erase(wire);
            }
            m_graph.nodes[now] = std::move(copy);
        }
        readers();
        bays();
        m_graph.nodes.erase(m_card.id);
        return placed();
    }

  private:
    const Parameter* inputBehind(const Source& wire) const {
        const Node* from = m_assembly.graph.find(wire.node);
        if (!from || from->kind != "parameter") return nullptr;
        const auto setting = from->settings.find("parameter");
        return setting == from->settings.end() ? nullptr : m_assembly.parameter(setting->second);
    }

    Id put(Node node) {
        const Id id = node.id;
        m_graph.nodes[id] = std::make_shared<Node>(std::move(node));
        m_made.push_back(id);
        return id;
    }
    Point besides() { return {m_card.position.x - kColumn, m_card.position.y + 60 * float(m_made.size())}; }

    /// What a take of a take takes, computed where either of the two was. A brightness of some components needs a card between.
    Source taken(Source wire, const Source& reads) {
        wire.perVertex = wire.perVertex || reads.perVertex;
        const std::string& take = reads.take;
        if (take.empty()) return wire;
        if (wire.take.empty()) {
            wire.take = take;
        } else if (take == "luma") {
            Node dot = makeNode("dot", besides());
            dot.wires["in"] = wire;
            const bool perVertex = std::exchange(dot.wires["in"].perVertex, false);
            wire = {put(std::move(dot)), "out", take};
            wire.perVertex = perVertex;
        } else if (wire.take != "luma") {
            std::string both;
            for (char c : take)
                if (const size_t at = std::string_view("rgbaxyzw").find(c) % 4; at < wire.take.size()) both += wire.take[at];
            wire.take = both;
        }
        return wire;
    }

    /// The source on the board of a wire within; nothing where it became a value or a map of `reader`.
    std::optional<Source> sourceOf(const Source& wire, const PortDef* into, Node* reader, const std::string& port) {
        const Parameter* p = inputBehind(wire);
        if (!p) {
            Source out = wire;
            const auto now = m_now.find(wire.node);
            if (now != m_now.end()) out.node = now->second;
            return out;
        }
        const PortDef& input = *cardOf(m_assembly).def.input(p->codeName);
        const auto outer = m_card.wires.find(p->codeName);
        if (p->leadsMap()) {
            if (outer != m_card.wires.end()) return outer->second;
            const auto chosen = m_card.settings.find(p->codeName);
            if (reader) reader->settings[port] = chosen != m_card.settings.end() ? chosen->second : p->standard.map;
            return {};
        }
        if (outer == m_card.wires.end() && input.unwired == Unwired::Constant) {
            // A value stays a value where it can.
            Value value = constantOf(m_card, input);
            if (value.width == 1) value = {p->width(), {value[0], value[0], value[0], value[0]}};
            const bool fits = into && into->unwired == Unwired::Constant && wire.take.empty() &&
                              (into->width == p->width() || (into->width == kAnyWidth && !into->apart));
            if (fits && reader) {
                reader->constants[port] = value;
                return {};
            }
            return taken({constantCard(*p, value), "out", {}}, wire);
        }
        if (outer == m_card.wires.end()) return taken({meshCard(*p, input.unwired), "out", {}}, wire);
        const auto info = m_taps.ports.find({outer->second.node, outer->second.port});
        const int width = info == m_taps.ports.end() ? p->width() : widthOfTake(outer->second.take, info->second.width);
        if (width == 1 && p->width() > 1) return taken({spreadCard(*p, outer->second), "out", {}}, wire);
        return taken(outer->second, wire);
    }

    template <class Make> Id cardFor(const Parameter& p, Make make) {
        const auto known = m_cards.find(p.id);
        return known != m_cards.end() ? known->second : m_cards[p.id] = put(make());
    }
    Id constantCard(const Parameter& p, const Value& value) {
        return cardFor(p, [&] {
            Node node = makeNode("constant", besides());
            node.title = p.name;
            node.constants["value"] = value;
            return node;
        });
    }
    Id meshCard(const Parameter& p, Unwired what) {
        return cardFor(p, [&] {
            return makeNode(what == Unwired::Uv ? "texcoord" : what == Unwired::NormalWorld ? "normal" : "position", besides());
        });
    }
    /// A number where several components were wanted.
    Id spreadCard(const Parameter& p, const Source& number) {
        return cardFor(p, [&] {
            Node node = makeNode("combine", besides());
            node.title = p.name;
            node.settings["components"] = std::to_string(p.width());
            for (int c = 0; c < p.width(); ++c) node.wires[std::string(1, "rgba"[c])] = number;
            return node;
        });
    }

    void readers() {
        std::map<std::string, const Node*> outputs;
        for (const AssemblyOutput& o : cardOf(m_assembly).outputs) outputs[o.key] = m_assembly.graph.find(o.card);
        const auto follow = [&](std::map<std::string, Source>& wires) {
            bool any = false;
            for (auto& [port, wire] : wires) {
                if (wire.node != m_card.id) continue;
                any = true;
                const auto output = outputs.find(wire.port);
                if (output == outputs.end()) continue; // it led nowhere before
                const auto inner = output->second->wires.find("in");
                if (inner != output->second->wires.end()) {
                    if (const std::optional<Source> from = sourceOf(inner->second, nullptr, nullptr, {})) wire = taken(*from, wire);
                } else {
                    Node node = makeNode("constant", besides());
                    node.constants["value"] = constantOf(*output->second, *findNodeDef(kOutputKind)->input("in"));
                    wire = taken({put(std::move(node)), "out", {}}, wire);
                }
            }
            // What led nowhere, on the board or within, has no card any more that it could lead from.
            std::erase_if(wires, [&](const auto& w) { return w.second.node == m_card.id; });
            return any;
        };
        std::vector<NodePtr> changed;
        for (const auto& [id, node] : Graph(m_graph).nodes) {
            auto copy = std::make_shared<Node>(*node);
            if (follow(copy->wires)) changed.push_back(std::move(copy));
        }
        for (const NodePtr& node : changed) m_graph.nodes[node->id] = node;
        follow(m_graph.channelWires);
    }

    void bays() {
        std::map<Id, Id> now;
        for (const Bay& bay : m_assembly.graph.bays) now[bay.id] = newId('b');
        const Bay* around = bayOf(m_board.graph, m_card.id);
        const Id home = around ? around->id : Id{};
        std::set<Id> held;
        for (Bay bay : m_assembly.graph.bays) {
            bay.id = now[bay.id];
            bay.inside = now.contains(bay.inside) ? now[bay.inside] : home;
            std::vector<Id> cards;
            for (const Id& n : bay.nodes)
                if (m_now.contains(n)) cards.push_back(m_now[n]);
            held.insert(cards.begin(), cards.end());
            bay.nodes = std::move(cards);
            m_graph.bays.push_back(std::move(bay));
        }
        for (Bay& bay : m_graph.bays) {
            if (bay.id != home) continue;
            std::erase(bay.nodes, m_card.id);
            for (const auto& [was, is] : m_now)
                if (!held.contains(is)) bay.nodes.push_back(is);
            bay.nodes.insert(bay.nodes.end(), m_made.begin(), m_made.end());
        }
    }

    Result<Unfolded> placed() {
        Result<Project> next = edit::setGraph(m_project, m_board.id, std::move(m_graph));
        if (!next) return next.error();
        Unfolded out{std::move(*next), m_made};
        for (const auto& [was, is] : m_now) out.cards.push_back(is);
        return out;
    }

    const Project& m_project;
    const Master& m_board;
    const Node& m_card;
    const Assembly& m_assembly;
    const Compilation m_taps;
    Graph m_graph;
    Point m_offset;
    std::map<Id, Id> m_now;   ///< card within -> card on the board
    std::map<Id, Id> m_cards; ///< of inputs that need one, by parameter
    std::vector<Id> m_made;
};

} // namespace

Result<Folded> foldCards(const Project& project, const Id& board, const std::vector<Id>& cards, const std::string& name) {
    const Master* master = project.board(board);
    if (!master) return refuse("edit.no-master", "The master is not in the project.", {board, {}, {}});
    return Fold(project, *master, cards).run(name);
}

Result<Unfolded> unfoldCard(const Project& project, const Id& board, const Id& id) {
    const Master* master = project.board(board);
    if (!master) return refuse("edit.no-master", "The master is not in the project.", {board, {}, {}});
    const Node* card = master->graph.find(id);
    if (!card) return refuse("edit.no-card", "The card is not on the board any more.", {board, id, {}});
    const Assembly* assembly = project.assembly(assemblyOf(*card));
    if (!assembly)
        return refuse(
            "assembly.missing",
            fmt::format("{} stands for no assembly of the project, so there is nothing to unfold.", cardTitle(project, *master, id)),
            {board, id, {}});
    if (card->muted)
        return refuse(
            "assembly.muted",
            fmt::format("{} is muted, and shows something else than its cards would. Unmute it first.", cardTitle(project, *master, id)),
            {board, id, {}});
    return Unfold(project, *master, *card, *assembly).run();
}

} // namespace hue
