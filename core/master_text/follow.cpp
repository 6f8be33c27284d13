// A text that follows its board: what did not change stays as it is written.
#include "core/master_text/master_text.h"
#include "core/master_text/names_private.h"
#include "core/master_text/statements_private.h"
#include "core/surface/channels.h"

#include <algorithm>
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

} // namespace

BoardText followed(const BoardText& text, const Project& before, const Project& after, const Id& id) {
    const Master *was = before.board(id), *is = after.board(id);
    if (!was || !is) return text;
    // A card that was given another title on the board gets the name that follows from it.
    std::map<std::string, Id> known;
    for (const auto& [name, card] : text.cards) {
        const Node *a = was->graph.find(card), *b = is->graph.find(card);
        if (b && (!a || a->title == b->title)) known.emplace(name, card);
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
            if (p == was->parameters.end()) continue;
            const Parameter* q = is->parameter(p->id);
            parametersSaid.insert(p->id);
            parametersEnd = changes.lineEnd(s.end);
            gone = !q;
            if (q) {
                Parameter sameName = *p;
                sameName.codeName = q->codeName;
                old = then.parameter(sameName), fresh = now.parameter(*q);
            }
        } else if (findChannel(s.name)) {
            channelsSaid.insert(s.name);
            firstChannel = std::min(firstChannel, s.begin);
            old = then.channel(s.name), fresh = now.channel(s.name);
            gone = fresh.empty();
        } else {
            const auto card = text.cards.find(s.name);
            if (card == text.cards.end()) continue;
            said.insert(card->second);
            cards.emplace_back(&s, card->second);
            const Node *a = was->graph.find(card->second), *b = is->graph.find(card->second);
            gone = !b;
            if (b) old = a ? then.card(*a) : std::string(), fresh = now.card(*b);
        }
        if (gone) {
            changes.drop(s);
            continue;
        }
        if (old != fresh) {
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
    for (const ChannelDef& c : channels())
        if (const std::string line = now.channel(std::string(c.key)); !line.empty() && !channelsSaid.contains(std::string(c.key)))
            changes.append(line);
    BoardText out;
    out.text = changes.apply();
    for (const auto& [card, name] : now.names()) out.cards[name] = card;
    return out;
}

int lineOfCard(const BoardText& text, const Id& card) {
    for (const Statement& s : parse(text.text).statements)
        if (const auto it = text.cards.find(s.name); s.is != Statement::Is::Parameter && it != text.cards.end() && it->second == card)
            return s.firstLine;
    return 0;
}

Id cardOnLine(const BoardText& text, int line) {
    for (const Statement& s : parse(text.text).statements)
        if (const auto it = text.cards.find(s.name);
            s.is != Statement::Is::Parameter && it != text.cards.end() && s.firstLine <= line && line <= s.lastLine)
            return it->second;
    return {};
}

} // namespace hue
