// A text that follows its board: what did not change stays as it is written.
#include "core/edits/edits.h"
#include "core/master_text/master_text.h"
#include "core/master_text/names_private.h"
#include "core/master_text/statements_private.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

using namespace lines;

/// Changes of a text, each said by the bytes that it replaces.
class Changes {
  public:
    explicit Changes(const std::string& text) : m_text(text) {}
    void replace(size_t begin, size_t end, std::string by) { m_all.push_back({begin, end, std::move(by)}); }
    /// All lines that a statement stands on, with the remark behind it.
    void drop(const Statement& s) { replace(lineBegin(s.begin), lineEnd(s.end), {}); }
    /// A line of its own before the one at this byte.
    void insert(size_t at, const std::string& line) { replace(lineBegin(at), lineBegin(at), line + "\n"); }
    void append(const std::string& line) { m_end += line + "\n"; }

    std::string apply() {
        std::stable_sort(m_all.begin(), m_all.end(), [](const Change& a, const Change& b) {
            return std::pair{a.begin, a.end} < std::pair{b.begin, b.end};
        });
        std::string out;
        size_t at = 0;
        for (const Change& c : m_all) {
            if (c.begin < at) continue;
            out.append(m_text, at, c.begin - at);
            out += c.by;
            at = c.end;
        }
        out.append(m_text, at, std::string::npos);
        if (!m_end.empty() && !out.empty() && out.back() != '\n') out += '\n';
        return out + m_end;
    }
    size_t lineEnd(size_t at) const { return std::min(m_text.find('\n', at), m_text.size() - 1) + 1; }

  private:
    struct Change {
        size_t begin, end;
        std::string by;
    };
    const std::string& m_text;
    std::vector<Change> m_all;
    std::string m_end;

    size_t lineBegin(size_t at) const {
        const size_t before = at ? m_text.rfind('\n', at - 1) : std::string::npos;
        return before == std::string::npos ? 0 : before + 1;
    }
};

/// Whether two lines say the same of a parameter.
bool sayTheSame(const Statement& a, const Statement& b) {
    const auto range = [](const Statement& s) { return s.range.value_or(std::pair{0.f, 1.f}); };
    return a.name == b.name && a.type == b.type && a.first.value == b.first.value && range(a) == range(b) && a.unit == b.unit &&
           a.map == b.map && a.mapKind == b.mapKind;
}

/// Whether a name in a text is that wanted for a card, but for capitals and a number behind.
bool follows(const std::string& name, const std::string& wanted) {
    const std::string plain = nameFrom(name);
    return plain == wanted ||
           (plain.starts_with(wanted + "_") && plain.find_first_not_of("0123456789", wanted.size() + 1) == std::string::npos);
}

/// The text after its board became another one. Lines of `stale` are written anew.
BoardText followed(const BoardText& text, const Project& before, const Project& after, const Id& id, const std::set<int>& stale) {
    const Master *was = before.board(id), *is = after.board(id);
    if (!was || !is) return text;
    // A card that was given another title on the board gets the name that follows from it.
    std::map<std::string, Id> known;
    for (const auto& [name, card] : text.cards) {
        const Node* node = is->graph.find(card);
        if (node && hasLine(*node) && follows(name, wantedName(after, *node))) known.emplace(name, card);
    }
    const Printer now(after, *is, nameCards(after, *is, known));
    std::map<Id, std::string> thenNames = now.names();
    std::map<std::string, std::string> renamed;
    for (const auto& [name, card] : text.cards) {
        const auto [it, gone] = thenNames.emplace(card, name);
        if (!gone && it->second != name) renamed[name] = it->second;
    }
    // What was a parameter's card was read by the parameter's name.
    std::erase_if(thenNames, [&](const auto& entry) {
        const Node* node = was->graph.find(entry.first);
        return node && !hasLine(*node);
    });
    // With the names of today, so that a line differs only where its card does.
    const Printer then(before, *was, thenNames);
    const auto parameterOf = [](const Master& m, const Id& wanted) { return m.parameter(wanted); };
    for (const Parameter& p : was->parameters)
        if (const Parameter* q = parameterOf(*is, p.id); q && q->codeName != p.codeName) renamed[p.codeName] = q->codeName;

    const Parsed parsed = parse(text.text);
    Changes changes(text.text);
    std::set<Id> said;
    std::set<std::string> channelsSaid;
    std::set<Id> parametersSaid;
    size_t parametersEnd = 0, firstChannel = std::string::npos;
    std::vector<std::pair<const Statement*, Id>> cards;
    for (const Statement& s : parsed.statements) {
        std::string old, fresh;
        bool gone = false;
        if (s.is == Statement::Is::Parameter) {
            const auto p =
                std::find_if(was->parameters.begin(), was->parameters.end(), [&](const Parameter& q) { return q.codeName == s.name; });
            if (p == was->parameters.end()) {
                parametersEnd = changes.lineEnd(s.end); // what comes instead stands there
                changes.drop(s);
                continue;
            }
            const Parameter* q = is->parameter(p->id);
            parametersSaid.insert(p->id);
            parametersEnd = changes.lineEnd(s.end);
            gone = !q;
            // What a parameter cannot be is not what it is: the line itself is compared.
            if (q) {
                fresh = now.parameter(*q);
                const Parsed itself = parse(fresh);
                Statement named = s;
                named.name = q->codeName;
                if (itself.statements.size() == 1 && sayTheSame(named, itself.statements[0])) old = fresh;
            }
        } else if (isOnRail(s.name)) {
            channelsSaid.insert(s.name);
            firstChannel = std::min(firstChannel, s.begin);
            old = then.channel(s.name), fresh = now.channel(s.name);
            gone = fresh.empty();
        } else {
            const auto card = text.cards.find(s.name);
            if (card == text.cards.end()) {
                changes.drop(s);
                continue;
            }
            said.insert(card->second);
            cards.emplace_back(&s, card->second);
            const Node *a = was->graph.find(card->second), *b = is->graph.find(card->second);
            gone = !b || !hasLine(*b);
            if (!gone) old = a ? then.card(*a) : std::string(), fresh = now.card(*b);
        }
        if (gone) {
            changes.drop(s);
            continue;
        }
        if (old != fresh || stale.contains(s.firstLine)) {
            changes.replace(s.begin, s.end, fresh);
            continue;
        }
        if (renamed.empty()) continue;
        const auto first =
            std::lower_bound(parsed.tokens.begin(), parsed.tokens.end(), s.begin, [](const Token& t, size_t at) { return t.begin < at; });
        for (size_t k = size_t(first - parsed.tokens.begin()); k < parsed.tokens.size() && parsed.tokens[k].end <= s.end; ++k) {
            const Token& t = parsed.tokens[k];
            if (t.kind != Token::Kind::Name || (k && parsed.tokens[k - 1].is("."))) continue;
            if (k + 1 < parsed.tokens.size() && (parsed.tokens[k + 1].is("(") || parsed.tokens[k + 1].is(":"))) continue;
            if (const auto to = renamed.find(t.text); to != renamed.end()) changes.replace(t.begin, t.end, to->second);
        }
    }
    // What came: a card before the first line that reads it.
    std::map<Id, size_t> anchors;
    const auto anchor = [&](const Id& card, size_t at) {
        const auto [it, fresh] = anchors.emplace(card, at);
        if (!fresh) it->second = std::min(it->second, at);
    };
    for (const auto& [s, card] : cards)
        if (const Node* node = is->graph.find(card))
            for (const auto& [port, wire] : node->wires) anchor(wire.node, s->begin);
    for (const Statement& s : parsed.statements)
        if (const auto wire = is->graph.channelWires.find(s.name); s.is != Statement::Is::Parameter && wire != is->graph.channelWires.end())
            anchor(wire->second.node, s.begin);
    const std::vector<Id> order = inOrder(is->graph);
    for (auto it = order.rbegin(); it != order.rend(); ++it) {
        if (said.contains(*it)) continue;
        anchor(*it, firstChannel);
        for (const auto& [port, wire] : is->graph.find(*it)->wires) anchor(wire.node, anchors.at(*it));
    }
    for (const Id& card : order) {
        if (said.contains(card)) continue;
        const std::string line = now.card(*is->graph.find(card));
        if (anchors.at(card) == std::string::npos) changes.append(line);
        else changes.insert(anchors.at(card), line);
    }
    for (const Parameter& p : is->parameters)
        if (!parametersSaid.contains(p.id)) {
            const bool open = parametersEnd && text.text[parametersEnd - 1] != '\n';
            changes.replace(parametersEnd, parametersEnd, (open ? "\n" : "") + now.parameter(p) + "\n");
        }
    for (const std::string& key : railKeys())
        if (const std::string line = now.channel(key); !line.empty() && !channelsSaid.contains(key)) changes.append(line);
    BoardText out;
    out.text = changes.apply();
    for (const auto& [card, name] : now.names()) out.cards[name] = card;
    return out;
}

/// The text without some of its lines; every other one stays where it is.
std::string blanked(std::string text, const std::vector<Statement>& statements, const std::set<int>& lines) {
    for (const Statement& s : statements)
        if (lines.contains(s.firstLine))
            for (size_t k = s.begin; k < s.end; ++k)
                if (text[k] != '\n') text[k] = ' ';
    return text;
}

} // namespace

BoardText followed(const BoardText& text, const Project& project, const Id& id) {
    const Master* board = project.board(id);
    if (!board) return text;
    if (text.text.empty()) return boardText(project, *board, text.cards);
    // Lines that say what is not there any more are written anew; each look finds some, until none is left.
    const Parsed parsed = parse(text.text);
    std::set<int> stale;
    for (std::string good = text.text; parsed.problems.empty(); good = blanked(text.text, parsed.statements, stale)) {
        const ReadText said = readToFollow(project, id, good, text.cards);
        if (said.project) return followed(text, *said.project, project, id, stale);
        const size_t before = stale.size();
        for (const FormulaProblem& p : said.problems)
            for (const Statement& s : parsed.statements)
                if (s.firstLine <= p.at.line && p.at.line <= s.lastLine) stale.insert(s.firstLine);
        if (stale.size() == before) break;
    }
    return boardText(project, *board, text.cards);
}

Result<Project> applyText(const Project& project, const Id& board, const std::string& text, const BoardText& was) {
    return applyText(readText(project, board, text, was), board, text);
}

Result<Project> applyText(const ReadText& read, const Id& board, const std::string& text) {
    if (!read.project)
        return Error{"text.wrong", fmt::format("The text is not understood: {}.", describe(read.problems.at(0))), {board, {}, {}}};
    Graph graph = read.project->board(board)->graph;
    graph.lines = {text, read.cards};
    return edit::setGraph(*read.project, board, std::move(graph));
}

std::map<Id, int> linesOfCards(const BoardText& text) {
    std::map<Id, int> out;
    for (const Statement& s : parse(text.text).statements)
        if (const auto it = text.cards.find(s.name); s.is != Statement::Is::Parameter && it != text.cards.end())
            out.emplace(it->second, s.firstLine);
    return out;
}

Id cardOnLine(const BoardText& text, int line) {
    for (const Statement& s : parse(text.text).statements)
        if (const auto it = text.cards.find(s.name);
            s.is != Statement::Is::Parameter && it != text.cards.end() && s.firstLine <= line && line <= s.lastLine)
            return it->second;
    return {};
}

} // namespace hue
