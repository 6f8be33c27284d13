// From statements to a board.
#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/document/wires.h"
#include "core/edits/edits.h"
#include "core/master_text/board_private.h"
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
namespace {

using namespace lines;
using Is = Statement::Is;

bool alike(const Node& a, const Node& b) {
    return a.kind == b.kind && a.title == b.title && a.muted == b.muted && a.constants == b.constants && a.settings == b.settings &&
           a.wires == b.wires;
}

/// "moss_mask" -> "Moss mask"; empty where the name is the node's own, or that with a number.
std::string titleFrom(const std::string& name, std::string_view own) {
    const bool numbered = name.starts_with(own) && name.size() > own.size() + 1 && name[own.size()] == '_' &&
                          name.find_first_not_of("0123456789", own.size() + 1) == std::string::npos;
    if (name == own || numbered) return {};
    std::string title = name;
    std::replace(title.begin(), title.end(), '_', ' ');
    if (title[0] >= 'a' && title[0] <= 'z') title[0] = char(title[0] - 32);
    return title;
}

bool isTake(const std::string& take) {
    return take == "luma" || (!take.empty() && take.size() <= 4 &&
                              (take.find_first_not_of("rgba") == std::string::npos || take.find_first_not_of("xyzw") == std::string::npos));
}

/// Whether a token of what is reckoned is the name of something that is read: no take, no function.
bool isRead(const std::vector<Token>& tokens, size_t k) {
    return tokens[k].kind == Token::Kind::Name && !(k && tokens[k - 1].is(".")) && !(k + 1 < tokens.size() && tokens[k + 1].is("("));
}
bool isFormulaValue(const std::string& name) {
    const auto values = formulaValues();
    return std::find(values.begin(), values.end(), name) != values.end();
}

class Reader {
  public:
    Reader(const Project& project, const Id& board, const std::string& text, const BoardText& was, bool adds)
        : m_before(project), m_next(project), m_id(board), m_text(text), m_was(was), m_adds(adds) {}

    Point newAt{}; ///< where the first new card stands, of those that are added
    std::vector<Id> made;
    bool follows = false; ///< the board is what counts: nothing is removed, and cards without a line are read by their names

    ReadText run() {
        const Master* board = m_before.board(m_id);
        if (!board) return refused({}, "the board is not there any more");
        if (m_text.size() > kLongestText) return refused({}, fmt::format("a text has at most {} letters", kLongestText));
        m_parsed = parse(m_text);
        m_problems = std::move(m_parsed.problems);
        m_isAssembly = m_before.assembly(m_id) != nullptr;
        parameters();
        nameStatements();
        if (m_problems.empty()) build();
        if (!m_problems.empty()) return finish();
        removeParameters();
        return finish();
    }

  private:
    const Project& m_before;
    Project m_next;
    const Id m_id;
    const std::string& m_text;
    const BoardText& m_was;
    const bool m_adds; ///< lines beside what is there: nothing is removed
    Parsed m_parsed;
    std::vector<FormulaProblem> m_problems;
    bool m_isAssembly = false, m_changes = false;
    Graph m_graph;
    std::map<std::string, Id> m_cards; ///< by name, those that the text says
    std::map<std::string, Id> m_there; ///< names of cards that stood there before lines were added
    std::map<const Statement*, Id> m_ids;
    std::map<const Statement*, std::string> m_kinds; ///< of cards; with the assembly behind a slash
    std::set<Id> m_fresh;
    std::map<Id, const NodeDef*> m_defs; ///< of cards as the text says them
    std::map<std::string, Id> m_assemblies;
    std::map<Id, Id> m_parameterCards; ///< a card of each parameter
    std::vector<Id> m_parametersGone;

    void fail(TextPlace at, std::string sentence) { m_problems.push_back({at, std::move(sentence)}); }
    static ReadText refused(TextPlace at, std::string sentence) {
        ReadText out;
        out.problems.push_back({at, std::move(sentence)});
        return out;
    }
    const Master& board() const { return *m_next.board(m_id); }

    ReadText finish() {
        ReadText out;
        std::stable_sort(m_problems.begin(), m_problems.end(), [](const auto& a, const auto& b) { return a.at.line < b.at.line; });
        out.problems = std::move(m_problems);
        if (!out.problems.empty()) return out;
        out.project = std::move(m_next);
        out.cards = std::move(m_cards);
        out.changes = m_changes;
        return out;
    }

    bool isChannel(const Statement& s) const { return s.is != Is::Parameter && isOnRail(s.name); }
    bool isCard(const Statement& s) const { return s.is != Is::Parameter && !isOnRail(s.name); }

    // Parameters

    static Parameter said(Parameter p, const Statement& s, const Project& project, std::string* problem) {
        p.codeName = s.name;
        p.type = s.type;
        if (s.type == ParameterType::Map) {
            p.mapKind = s.mapKind;
            p.standard.map = mapCalled(project, *s.map);
            if (!s.map->empty() && p.standard.map.empty()) *problem = fmt::format("there is no map {}", *s.map);
            return p;
        }
        if (s.type == ParameterType::Finish) {
            p.standard.map = project.masterOf(*s.map) ? Id(*s.map) : project.findByName(*s.map);
            if (!s.map->empty() && p.standard.map.empty()) *problem = fmt::format("there is no master or instance {}", *s.map);
            return p;
        }
        if (s.type == ParameterType::MapSet) {
            const std::vector<std::string> sets = project.mapSets();
            if (!s.map->empty() && std::find(sets.begin(), sets.end(), *s.map) == sets.end() && p.standard.map != *s.map)
                *problem = fmt::format("there is no map set {}", *s.map);
        }
        if (!p.width()) {
            if (p.standard.map != *s.map) p.standard.map = *s.map;
            return p;
        }
        // What is written as it was is what it was.
        p.alpha = s.type == ParameterType::Color && s.first.value.width == 4;
        const int width = p.width();
        const Value before{width, p.standard.value.v};
        if (written(before, width) != written(s.first.value, width)) p.standard.value = s.first.value;
        p.options = s.options;
        p.build = s.build;
        p.unit = s.unit;
        const auto range = s.range.value_or(std::pair{0.f, 1.f});
        if (kindOf(p.type).ranged) p.softMin = range.first, p.softMax = range.second;
        return p;
    }

    void parameters() {
        const std::vector<Parameter> old = board().parameters;
        std::set<Id> kept;
        std::set<std::string> named;
        std::vector<const Statement*> fresh;
        for (const Statement& s : m_parsed.statements) {
            if (s.is != Is::Parameter) continue;
            if (!named.insert(s.name).second) {
                fail(s.nameAt, fmt::format("{} is said twice", s.name));
                continue;
            }
            const auto it =
                std::find_if(old.begin(), old.end(), [&](const Parameter& p) { return p.codeName == s.name && p.type == s.type; });
            if (it == old.end()) fresh.push_back(&s);
            else kept.insert(it->id), change(*it, s);
        }
        for (const Statement* s : fresh) {
            // One that is gone, of the same type, was given another name.
            const auto renamed = std::find_if(old.begin(), old.end(), [&](const Parameter& p) {
                return !m_adds && !kept.contains(p.id) && !named.contains(p.codeName) && p.type == s->type;
            });
            if (renamed != old.end()) {
                kept.insert(renamed->id);
                Parameter p = *renamed;
                p.name = titleFrom(s->name, {});
                change(p, *s);
                continue;
            }
            Parameter p;
            p.id = newId('p');
            p.name = titleFrom(s->name, {});
            std::string problem;
            p = said(p, *s, m_next, &problem);
            if (!problem.empty()) fail(s->at, problem);
            else take(edit::addParameter(m_next, m_id, p), s->at);
        }
        for (const Parameter& p : old)
            if (!m_adds && !kept.contains(p.id)) m_parametersGone.push_back(p.id);
    }

    void change(const Parameter& p, const Statement& s) {
        std::string problem;
        const Parameter now = said(p, s, m_next, &problem);
        if (!problem.empty()) return fail(s.at, problem);
        const Parameter* before = board().parameter(p.id);
        const bool same = before && now.codeName == before->codeName && now.standard == before->standard &&
                          now.mapKind == before->mapKind && now.softMin == before->softMin && now.softMax == before->softMax &&
                          now.unit == before->unit && now.options == before->options && now.build == before->build &&
                          now.alpha == before->alpha;
        if (!same) take(edit::changeParameter(m_next, m_id, now), s.at);
    }

    void take(Result<Project> next, TextPlace at) {
        if (!next) return fail(at, next.error().sentence);
        m_next = std::move(*next);
        m_changes = true;
    }

    void removeParameters() {
        for (const Id& id : m_parametersGone) take(edit::removeParameter(m_next, m_id, id), {});
    }

    // Which line is which card

    std::string kindWithAssembly(const Statement& s) {
        switch (s.is) {
        case Is::Value: return "constant";
        case Is::Read: return "dot";
        case Is::Formula: return "formula";
        case Is::Binary: return s.callee == "+" ? "add" : s.callee == "-" ? "subtract" : s.callee == "*" ? "multiply" : "divide";
        default: break;
        }
        if (const auto a = m_assemblies.find(s.callee); a != m_assemblies.end()) return std::string(kAssemblyKind) + "/" + a->second;
        const NodeDef* def = findNodeDef(s.callee);
        if (def && s.callee != "parameter" && s.callee != kAssemblyKind) return s.callee;
        std::string words = s.callee;
        std::replace(words.begin(), words.end(), '_', ' ');
        const auto near = searchCatalogue(words);
        fail(s.calleeAt, near.empty() ? fmt::format("there is no node {}", s.callee)
                                      : fmt::format("there is no node {}; {} is the nearest", s.callee, near[0]->key));
        return {};
    }
    static std::string kindWithAssembly(const Node& node) { return isAssembly(node) ? node.kind + "/" + assemblyOf(node) : node.kind; }

    void nameStatements() {
        m_assemblies = assemblyNames(m_before);
        const Graph& old = m_before.board(m_id)->graph;
        if (m_adds)
            for (const auto& [id, name] : nameCards(m_before, *m_before.board(m_id), {})) m_there[name] = id;
        std::set<std::string> named;
        for (const Statement& s : m_parsed.statements) {
            if (s.is == Is::Parameter) continue;
            if (isChannel(s) && m_isAssembly) fail(s.nameAt, fmt::format("an assembly has no surface, and no {}", s.name));
            if (!named.insert(s.name).second) fail(s.nameAt, fmt::format("{} is said twice", s.name));
            if (isCard(s)) m_kinds[&s] = kindWithAssembly(s);
        }
        for (const auto& [s, kind] : m_kinds)
            for (const Parameter& p : board().parameters)
                if (p.codeName == s->name && std::find(m_parametersGone.begin(), m_parametersGone.end(), p.id) == m_parametersGone.end())
                    fail(s->nameAt, fmt::format("{} is a parameter already", s->name));
        if (!m_problems.empty()) return;
        std::vector<std::pair<std::string, Id>> gone;
        for (const auto& [name, id] : m_was.cards)
            if (!named.contains(name) && old.find(id)) gone.emplace_back(name, id);
        for (const Statement& s : m_parsed.statements) {
            if (!isCard(s)) continue;
            const auto before = m_was.cards.find(s.name);
            if (before != m_was.cards.end() && old.find(before->second)) {
                name(s, before->second);
                continue;
            }
            // A card of the same kind whose line is gone was given another name.
            const auto renamed = std::find_if(gone.begin(), gone.end(),
                                              [&](const auto& g) { return kindWithAssembly(*old.find(g.second)) == m_kinds.at(&s); });
            if (renamed != gone.end()) {
                name(s, renamed->second);
                gone.erase(renamed);
                continue;
            }
            const Id id = newId('n');
            m_fresh.insert(id);
            made.push_back(id);
            name(s, id);
        }
        std::vector<Id> removed;
        for (const auto& [name, id] : gone) removed.push_back(id);
        if (!m_adds && !follows && !removed.empty()) take(edit::removeNodes(m_next, m_id, removed), {});
    }
    void name(const Statement& s, const Id& id) {
        m_ids[&s] = id;
        m_cards[s.name] = id;
    }

    // Cards

    void build() {
        m_graph = board().graph;
        std::map<std::string, const Statement*> old;
        const Parsed was = parse(m_was.text);
        for (const Statement& s : was.statements) old[s.name] = &s;
        const auto textOf = [](const std::string& text, const Statement& s) {
            return std::string_view(text).substr(s.begin, s.end - s.begin);
        };

        for (const auto& [id, node] : m_graph.nodes)
            if (node->kind == "parameter" && node->settings.contains("parameter"))
                m_parameterCards.emplace(node->settings.at("parameter"), id);
        std::map<const Statement*, Node> nodes = cardsOfLines();
        for (const auto& [s, node] : nodes) {
            m_defs[node.id] = nodeDefOf(m_next, node);
            if (wouldHoldItself(m_next, m_id, assemblyOf(node))) fail(s->calleeAt, fmt::format("{} would hold itself", s->callee));
        }
        if (!m_problems.empty()) return;
        for (const Statement& s : m_parsed.statements) {
            const auto earlier = old.find(s.name);
            const bool still = earlier != old.end() && textOf(m_text, s) == textOf(m_was.text, *earlier->second) && readsTheSame(s);
            if (isChannel(s)) {
                if (!still) channel(s);
                continue;
            }
            if (!isCard(s) || (still && m_graph.find(m_ids.at(&s)))) continue;
            Node& node = nodes.at(&s);
            fill(node, s);
            const Node* there = m_graph.find(node.id);
            if (there && alike(*there, node)) continue;
            const Id id = node.id;
            m_graph.nodes[id] = std::make_shared<Node>(std::move(node));
            m_changes = true;
        }
        if (!m_adds) dropUnsaidChannels();
        dropCardsOfGoneParameters();
        if (m_problems.empty())
            if (const auto loop = loopIn(m_graph, m_parsed.statements, m_cards)) m_problems.push_back(*loop);
        if (!m_problems.empty()) return;
        placeNewCards(m_graph, m_fresh, newAt);
        if (m_changes) take(edit::setGraph(m_next, m_id, m_graph), {});
    }

    /// The card of each line as it is called and what it is, not yet what it reads.
    std::map<const Statement*, Node> cardsOfLines() const {
        std::map<Id, std::string> names;
        for (const auto& [name, id] : m_was.cards) names[id] = name;
        std::map<const Statement*, Node> nodes;
        for (const Statement& s : m_parsed.statements) {
            if (!isCard(s)) continue;
            const std::string& kind = m_kinds.at(&s);
            const size_t slash = kind.find('/');
            const std::string key = kind.substr(0, slash);
            const Id& id = m_ids.at(&s);
            const Node* there = m_graph.find(id);
            Node node = there ? *there : makeNode(key);
            node.id = id;
            if (kindWithAssembly(node) != kind) {
                node.kind = key;
                node.settings.clear();
                node.constants.clear();
                node.wires.clear();
            }
            if (slash != std::string::npos) node.settings[std::string(kAssemblySetting)] = kind.substr(slash + 1);
            const auto knownAs = names.find(id);
            if (!there || knownAs == names.end() || knownAs->second != s.name)
                node.title = titleFrom(s.name, slash == std::string::npos ? key : s.callee);
            nodes.emplace(&s, std::move(node));
        }
        return nodes;
    }

    /// Channels that no line says show their defaults.
    void dropUnsaidChannels() {
        std::set<std::string> said;
        for (const Statement& s : m_parsed.statements)
            if (isChannel(s)) said.insert(s.name);
        for (const std::string& key : railKeys()) {
            if (said.contains(key)) continue;
            if (m_graph.channelWires.erase(key) + m_graph.channelConstants.erase(key) == 0) continue;
            std::erase(m_graph.mutedChannels, key);
            m_changes = true;
        }
    }

    /// Whether all names of a line stand for the same cards as before.
    bool readsTheSame(const Statement& s) const {
        const auto same = [&](const std::string& name) {
            const auto now = m_cards.find(name), then = m_was.cards.find(name);
            if (now == m_cards.end() || then == m_was.cards.end())
                return now == m_cards.end() && then == m_was.cards.end() && (parameterCalled(name) || !name.size());
            return now->second == then->second && !changedKind(now->second);
        };
        for (const Atom* a : {&s.first, &s.second})
            if (a->kind == Atom::Kind::Read && !a->name.empty() && !same(a->name)) return false;
        for (const Argument& a : s.arguments)
            if (a.atom.kind == Atom::Kind::Read &&
                (m_cards.contains(a.atom.name) || m_was.cards.contains(a.atom.name) || !settingOnly(s, a)) && !same(a.atom.name))
                return false;
        for (size_t k = 0; k < s.tokens.size(); ++k)
            if (isRead(s.tokens, k) && !(isFormulaValue(s.tokens[k].text) && cardCalled(s.tokens[k].text).empty()) &&
                !same(s.tokens[k].text))
                return false;
        return true;
    }
    bool settingOnly(const Statement& s, const Argument& a) const {
        const auto id = m_ids.find(&s);
        const NodeDef* def = id == m_ids.end() ? nullptr : m_defs.at(id->second);
        return def && !called(def->inputs, a.label);
    }
    /// Outputs may be called otherwise then.
    bool changedKind(const Id& id) const {
        const Node* there = m_graph.find(id);
        const auto def = m_defs.find(id);
        return there && def != m_defs.end() && def->second != nodeDefOf(m_next, *there);
    }

    const Parameter* parameterCalled(const std::string& name) const {
        for (const Parameter& p : board().parameters)
            if (p.codeName == name && std::find(m_parametersGone.begin(), m_parametersGone.end(), p.id) == m_parametersGone.end())
                return &p;
        return nullptr;
    }

    Id cardCalled(const std::string& name) const {
        if (const auto it = m_cards.find(name); it != m_cards.end()) return it->second;
        if (const auto it = m_there.find(name); it != m_there.end()) return it->second;
        if (const auto it = m_was.cards.find(name); follows && it != m_was.cards.end() && m_graph.find(it->second)) return it->second;
        return {};
    }
    const NodeDef* defOf(const Id& id) const {
        if (const auto it = m_defs.find(id); it != m_defs.end()) return it->second;
        const Node* node = m_graph.find(id);
        return node ? nodeDefOf(m_next, *node) : nullptr;
    }

    /// A card of a parameter: the one that was read there, any other, or a new one.
    Id parameterCard(const Parameter& p, const Source* before) {
        const auto stands = [&](const Node* n) {
            return n && n->kind == "parameter" && n->settings.contains("parameter") && n->settings.at("parameter") == p.id;
        };
        if (before && stands(m_graph.find(before->node))) return before->node;
        if (const auto it = m_parameterCards.find(p.id); it != m_parameterCards.end()) return it->second;
        Node node = makeNode("parameter");
        node.settings["parameter"] = p.id;
        const Id id = node.id;
        m_graph.nodes[id] = std::make_shared<Node>(std::move(node));
        m_fresh.insert(id);
        made.push_back(id);
        m_parameterCards.emplace(p.id, id);
        m_changes = true;
        return id;
    }

    std::optional<Source> source(const std::string& name, const std::vector<std::string>& path, TextPlace at, const Source* before) {
        Source out;
        out.node = cardCalled(name);
        const NodeDef* def = nullptr;
        if (!out.node.empty()) {
            def = defOf(out.node);
        } else if (const Parameter* p = parameterCalled(name)) {
            out.node = parameterCard(*p, before);
            def = findNodeDef("parameter");
        } else {
            fail(at, fmt::format("nothing is called {}", name));
            return {};
        }
        if (!def || def->outputs.empty()) {
            fail(at, fmt::format("{} gives nothing that could be read", name));
            return {};
        }
        size_t next = 0, end = path.size();
        if (end && path[end - 1] == kPerVertex) out.perVertex = true, --end;
        out.port = def->outputs[0].key;
        if (const PortDef* port = end ? called(def->outputs, path[0]) : nullptr) out.port = port->key, next = 1;
        if (next < end) out.take = path[next++];
        if (next < end || (!out.take.empty() && !isTake(out.take))) {
            std::vector<std::string> outputs;
            for (const PortDef& o : def->outputs) outputs.push_back(labelFrom(o.key));
            fail(at, fmt::format("{} has no output or take {}; its outputs are {}", name, path[next < end ? next : end - 1],
                                 fmt::join(outputs, ", ")));
            return {};
        }
        // What is said of the wire elsewhere stays.
        if (before && before->node == out.node && before->port == out.port && before->take == out.take) {
            const bool perVertex = std::exchange(out, *before).perVertex;
            out.perVertex = perVertex;
        }
        return out;
    }

    void input(Node& node, const PortDef& port, const Atom& atom, const Node& was) {
        const std::string key(port.key);
        if (atom.kind == Atom::Kind::Read) {
            // The value or map that comes back when the wire goes.
            if (const auto beneath = was.settings.find(key); beneath != was.settings.end()) node.settings[key] = beneath->second;
            if (const auto beneath = was.constants.find(key); beneath != was.constants.end()) node.constants[key] = beneath->second;
            const auto before = was.wires.find(key);
            if (const auto wire = source(atom.name, atom.path, atom.at, before == was.wires.end() ? nullptr : &before->second))
                node.wires[key] = *wire;
            return;
        }
        if (atom.kind == Atom::Kind::Word) return fail(atom.at, fmt::format("{} takes what a card gives, or a value", key));
        if (port.width == kFinishPort) return fail(atom.at, fmt::format("{} takes a finish: the name of a card that gives one", key));
        if (port.width == kMapPort)
            return fail(atom.at, fmt::format("{} takes a map: the name of a parameter, or the map's name between quotes", key));
        Value v = atom.value;
        if (port.width > 0 && v.width != port.width) {
            if (v.width != 1) return fail(atom.at, fmt::format("{} takes {} of numbers, and {} stand there", key, port.width, v.width));
            v = {port.width, {v[0], v[0], v[0], v[0]}};
        }
        Node plain;
        plain.kind = node.kind;
        // What was written in another way and says the same stays.
        const auto before = was.constants.find(key);
        if (before != was.constants.end() && written(before->second, port.width) == written(v, port.width))
            node.constants[key] = before->second;
        else if (!(v == constantOf(plain, port))) node.constants[key] = v;
    }

    void setting(Node& node, const SettingDef& def, const Atom& atom, const Node& was) {
        const std::string key(def.key);
        std::string said = atom.kind == Atom::Kind::Word                        ? atom.word
                           : atom.kind == Atom::Kind::Read && atom.path.empty() ? atom.name
                           : atom.value.width == 1                              ? fmt::format("{}", atom.value[0])
                                                                                : std::string();
        if (!def.choices.empty() && std::find(def.choices.begin(), def.choices.end(), said) == def.choices.end())
            return fail(atom.at, fmt::format("{} is one of {}", key, fmt::join(def.choices, ", ")));
        if (key == "map" && !said.empty()) {
            const Id map = mapCalled(m_next, said);
            if (map.empty()) return fail(atom.at, fmt::format("there is no map {}", said));
            said = map;
        }
        if (node.kind == kFinishOfKind && !said.empty()) {
            Id worn = m_next.masterOf(said) ? said : m_next.findByName(said);
            for (const Parameter& p : board().parameters)
                if (worn.empty() && p.type == ParameterType::Finish && (p.codeName == said || p.id == said)) worn = p.id;
            // What is not there any more stays named as it was.
            const auto before = was.settings.find(key);
            if (worn.empty() && (before == was.settings.end() || before->second != said))
                return fail(atom.at, fmt::format("there is no master or instance {}", said));
            if (!worn.empty()) said = worn;
        }
        if (said != def.standard || was.settings.contains(key)) node.settings[key] = said;
    }

    void fill(Node& node, const Statement& s) {
        const NodeDef& def = *m_defs.at(node.id);
        node.muted = s.muted;
        const Node was = node;
        // What a line can say is what it says; the rest stays.
        for (const PortDef& port : def.inputs) node.wires.erase(std::string(port.key)), node.constants.erase(std::string(port.key));
        for (const SettingDef& setting : def.settings)
            if (setting.key != kAssemblySetting && settingOf(was, def, setting.key) != setting.standard)
                node.settings.erase(std::string(setting.key));
        switch (s.is) {
        case Is::Value: {
            const auto before = was.constants.find("value");
            const bool same = before != was.constants.end() && written(before->second, 0) == written(s.first.value, 0);
            node.constants["value"] = same ? before->second : s.first.value;
            return;
        }
        case Is::Read: return input(node, def.inputs[0], s.first, was);
        case Is::Binary: input(node, *def.input("in1"), s.first, was); return input(node, *def.input("in2"), s.second, was);
        case Is::Formula: return formula(node, s, was.wires);
        default: break;
        }
        for (const Argument& a : s.arguments) {
            const PortDef* port = called(def.inputs, a.label);
            const SettingDef* choice = called(def.settings, a.label);
            if (choice && choice->key == kAssemblySetting) choice = nullptr;
            if (choice && (!port || a.atom.kind == Atom::Kind::Word)) setting(node, *choice, a.atom, was);
            else if (port) input(node, *port, a.atom, was);
            else {
                std::vector<std::string> there;
                for (const PortDef& p : def.inputs) there.push_back(labelFrom(p.key));
                for (const SettingDef& c : def.settings)
                    if (c.key != kAssemblySetting && c.key != "formula") there.push_back(labelFrom(c.key));
                fail(a.at, there.empty() ? fmt::format("{} has nothing that could be set", s.callee)
                                         : fmt::format("{} has no {}; there are {}", s.callee, a.label, fmt::join(there, ", ")));
            }
        }
        if (node.kind == "formula") {
            if (!s.block) return fail(s.calleeAt, "a formula needs its lines, between braces");
            node.settings["formula"] = unindented(*s.block);
            checkFormula(node.settings["formula"], {s.blockAt.line + 1, 1});
        } else if (s.block) {
            fail(s.blockAt, "only a formula has lines between braces");
        }
    }

    void checkFormula(const std::string& text, TextPlace origin) {
        const ParsedFormula parsed = parseFormula(text);
        if (!parsed.problem) return;
        const TextPlace& at = parsed.problem->at;
        fail({origin.line + at.line - 1, at.line == 1 ? origin.column + at.column - 1 : at.column}, parsed.problem->sentence);
    }

    void formula(Node& node, const Statement& s, const std::map<std::string, Source>& wires) {
        const std::string written = m_text.substr(s.valueBegin, s.end - s.valueBegin);
        const size_t told = m_problems.size();
        checkFormula(written, s.tokens[0].at);
        if (m_problems.size() > told) return;
        std::vector<Source> read;
        std::string text;
        size_t at = s.valueBegin;
        for (size_t k = 0; k < s.tokens.size(); ++k) {
            const Token& t = s.tokens[k];
            if (!isRead(s.tokens, k)) continue;
            const Id card = cardCalled(t.text);
            if (card.empty() && !parameterCalled(t.text) && isFormulaValue(t.text)) continue;
            // An output that is chosen belongs to what is read; a take is the formula's own.
            std::vector<std::string> path;
            size_t end = t.end;
            if (const NodeDef* def = card.empty() ? nullptr : defOf(card))
                if (k + 2 < s.tokens.size() && s.tokens[k + 1].is(".") && called(def->outputs, s.tokens[k + 2].text))
                    path = {s.tokens[k + 2].text}, end = s.tokens[k + 2].end;
            const auto wire = source(t.text, path, t.at, nullptr);
            if (!wire) return;
            size_t port = size_t(std::find(read.begin(), read.end(), *wire) - read.begin());
            if (port == read.size()) read.push_back(*wire);
            if (read.size() > 4) return fail(t.at, "this reads more than four cards; give a part of it a line of its own");
            text += m_text.substr(at, t.begin - at) + "abcd"[port];
            at = end;
        }
        text += m_text.substr(at, s.end - at);
        node.settings["formula"] = text;
        for (size_t k = 0; k < read.size(); ++k) {
            const std::string key(1, "abcd"[k]);
            const auto before = wires.find(key);
            const bool same = before != wires.end() && before->second.node == read[k].node && before->second.port == read[k].port &&
                              before->second.take.empty();
            node.wires[key] = same ? before->second : read[k];
        }
    }

    void channel(const Statement& s) {
        const ChannelDef* def = findChannel(s.name);
        const bool wasMuted = std::find(m_graph.mutedChannels.begin(), m_graph.mutedChannels.end(), s.name) != m_graph.mutedChannels.end();
        if (wasMuted != s.muted) {
            std::erase(m_graph.mutedChannels, s.name);
            if (s.muted) m_graph.mutedChannels.push_back(s.name);
            m_changes = true;
        }
        if (s.is == Is::Read) {
            const auto before = m_graph.channelWires.find(s.name);
            const auto wire =
                source(s.first.name, s.first.path, s.first.at, before == m_graph.channelWires.end() ? nullptr : &before->second);
            if (!wire || (before != m_graph.channelWires.end() && before->second == *wire)) return;
            m_graph.channelWires[s.name] = *wire;
        } else if (!def) {
            return fail(s.nameAt, fmt::format("{} is the whole surface, and takes what one card gives", s.name));
        } else if (s.is == Is::Value) {
            Value v = s.first.value;
            if (v.width == 1 && def->width > 1) v = {def->width, {v[0], v[0], v[0], v[0]}};
            if (v.width != def->width)
                return fail(s.first.at, fmt::format("{} has {} of numbers, and {} stand there", s.name, def->width, v.width));
            const auto before = m_graph.channelConstants.find(s.name);
            const bool wired = m_graph.channelWires.erase(s.name) > 0;
            if (!wired && before != m_graph.channelConstants.end() &&
                std::equal(v.v.begin(), v.v.begin() + def->width, before->second.v.begin()))
                return;
            m_graph.channelConstants[s.name] = v;
        } else {
            return fail(
                s.nameAt,
                fmt::format("{} takes what one card gives, or a value; give what is reckoned a line of its own, and read that", s.name));
        }
        m_changes = true;
    }

    void dropCardsOfGoneParameters() {
        std::set<Id> read;
        const auto note = [&](const std::map<std::string, Source>& wires) {
            for (const auto& [port, wire] : wires) read.insert(wire.node);
        };
        for (const auto& [id, node] : m_graph.nodes) note(node->wires);
        note(m_graph.channelWires);
        std::erase_if(m_graph.nodes, [&](const auto& entry) {
            const Node& n = *entry.second;
            return n.kind == "parameter" && n.settings.contains("parameter") && !read.contains(n.id) &&
                   std::find(m_parametersGone.begin(), m_parametersGone.end(), n.settings.at("parameter")) != m_parametersGone.end();
        });
    }
};

} // namespace

ReadText readText(const Project& project, const Id& board, const std::string& text, const BoardText& was) {
    return Reader(project, board, text, was, false).run();
}

ReadText lines::readToFollow(const Project& project, const Id& board, const std::string& text, const std::map<std::string, Id>& cards) {
    const BoardText was{{}, cards};
    Reader reader(project, board, text, was, false);
    reader.follows = true;
    return reader.run();
}

ReadText addLines(const Project& project, const Id& board, const std::string& text, Point at, std::vector<Id>* made) {
    static const BoardText none;
    Reader reader(project, board, text, none, true);
    reader.newAt = at;
    ReadText out = reader.run();
    if (made && out.project) *made = reader.made;
    return out;
}

bool looksLikeLines(const std::string& text) {
    if (text.size() > kLongestText) return false;
    return !lines::parse(text).statements.empty();
}

} // namespace hue
