#include "core/document/parameter_kinds.h"
#include "core/master_text/statements_private.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <limits>

namespace hue::lines {
namespace {

bool isNameStart(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isNamePart(char c) { return isNameStart(c) || isDigit(c); }

class Splitter {
  public:
    Splitter(std::string_view text, Parsed& out) : m_text(text), m_out(out) {}

    void run() {
        while (m_at < m_text.size()) one();
        put(Token::Kind::End, 0);
    }

  private:
    std::string_view m_text;
    Parsed& m_out;
    size_t m_at = 0, m_lineStart = 0;
    int m_line = 1, m_brackets = 0;

    TextPlace place() const { return {m_line, int(m_at - m_lineStart) + 1}; }
    void fail(TextPlace at, std::string sentence) { m_out.problems.push_back({at, std::move(sentence)}); }
    Token& put(Token::Kind kind, size_t length) {
        Token token;
        token.kind = kind;
        token.at = place();
        token.begin = m_at;
        token.end = m_at + length;
        token.text = m_text.substr(m_at, length);
        m_out.tokens.push_back(std::move(token));
        return m_out.tokens.back();
    }
    void newLine() {
        ++m_line;
        m_lineStart = m_at + 1;
    }

    void one() {
        const char c = m_text[m_at];
        size_t length = 1;
        if (c == '\n') {
            // Within brackets a line goes on; a bracket that is never closed ends where a line begins anew at the margin.
            const bool margin = m_at + 1 < m_text.size() && isNameStart(m_text[m_at + 1]);
            if (margin) m_brackets = 0;
            if (!m_brackets) put(Token::Kind::LineEnd, 1);
            newLine();
        } else if (c == ' ' || c == '\t' || c == '\r') {
        } else if (m_text.substr(m_at, 2) == "//") {
            length = std::min(m_text.find('\n', m_at), m_text.size()) - m_at;
        } else if (isNameStart(c)) {
            while (m_at + length < m_text.size() && isNamePart(m_text[m_at + length])) ++length;
            put(Token::Kind::Name, length);
        } else if (isDigit(c) || (c == '.' && m_at + 1 < m_text.size() && isDigit(m_text[m_at + 1]))) {
            length = number();
        } else if (c == '#') {
            while (m_at + length < m_text.size() && isNamePart(m_text[m_at + length])) ++length;
            Token& token = put(Token::Kind::Color, length);
            if (!colorFromHex(token.text, token.color))
                fail(token.at, fmt::format("{} is no color; write six hexadecimal digits", token.text));
        } else if (c == '"') {
            length = string();
        } else if (c == '{') {
            length = block();
        } else {
            static constexpr std::string_view pairs[] = {"..", "<=", ">=", "==", "!=", "&&", "||"};
            if (std::find(std::begin(pairs), std::end(pairs), m_text.substr(m_at, 2)) != std::end(pairs)) length = 2;
            else if (std::string_view("+-*/%^()<>?:,.=!").find(c) == std::string_view::npos) {
                fail(place(), static_cast<unsigned char>(c) > 32 && static_cast<unsigned char>(c) < 127
                                  ? fmt::format("{} means nothing here", c)
                                  : "a letter here is none of the language");
                // What belongs to the same letter is told once.
                while (m_at + length < m_text.size() && static_cast<unsigned char>(m_text[m_at + length]) > 127) ++length;
            }
            m_brackets = std::max(0, m_brackets + (c == '(' ? 1 : c == ')' ? -1 : 0));
            put(Token::Kind::Sign, length);
        }
        m_at += length;
    }

    size_t number() {
        // "0..1" is two numbers with the sign of a range between them.
        size_t length = 0;
        const auto digits = [&] {
            while (m_at + length < m_text.size() && isDigit(m_text[m_at + length])) ++length;
        };
        digits();
        if (m_at + length < m_text.size() && m_text[m_at + length] == '.' && m_text.substr(m_at + length, 2) != "..") ++length, digits();
        if (m_at + length < m_text.size() && (m_text[m_at + length] | 32) == 'e') {
            size_t behind = length + 1;
            if (m_at + behind < m_text.size() && (m_text[m_at + behind] == '-' || m_text[m_at + behind] == '+')) ++behind;
            if (m_at + behind < m_text.size() && isDigit(m_text[m_at + behind])) length = behind, digits();
        }
        Token& token = put(Token::Kind::Number, length);
        double x = 0;
        const auto [end, bad] = std::from_chars(m_text.data() + m_at, m_text.data() + m_at + length, x);
        // What is too small to be told from 0 is 0.
        const bool small = bad != std::errc{} && (token.text.find("e-") != std::string::npos ||
                                                  token.text.find("E-") != std::string::npos || token.text.find_first_of(".") < 300);
        if ((bad != std::errc{} && !small) || std::fabs(x) > double(std::numeric_limits<float>::max()))
            fail(token.at, "the number is too large");
        else token.number = float(small ? 0 : x);
        if (m_at + length < m_text.size() && isNameStart(m_text[m_at + length])) fail(token.at, "a number and a name run into each other");
        return length;
    }

    size_t string() {
        std::string said;
        size_t k = m_at + 1;
        for (; k < m_text.size() && m_text[k] != '"' && m_text[k] != '\n'; ++k) {
            if (m_text[k] == '\\' && k + 1 < m_text.size() && m_text[k + 1] != '\n') {
                ++k;
                said += m_text[k] == 'n' ? '\n' : m_text[k];
            } else {
                said += m_text[k];
            }
        }
        if (k >= m_text.size() || m_text[k] != '"') fail(place(), "the \" at the end of these words is missing");
        else ++k;
        put(Token::Kind::String, k - m_at).text = std::move(said);
        return k - m_at;
    }

    size_t block() {
        const size_t end = m_text.find('}', m_at);
        if (end == std::string_view::npos) fail(place(), "the } of these lines is missing");
        const size_t length = end == std::string_view::npos ? 1 : end + 1 - m_at;
        Token& token = put(Token::Kind::Block, length);
        token.text = length > 1 ? m_text.substr(m_at + 1, length - 2) : std::string_view{};
        for (size_t k = m_at; k < m_at + length; ++k)
            if (m_text[k] == '\n') ++m_line, m_lineStart = k + 1;
        return length;
    }
};

constexpr std::string_view kBuild = "build";

class Parser {
  public:
    Parser(std::string_view text, Parsed& out) : m_text(text), m_out(out) {}

    void run() {
        const auto& tokens = m_out.tokens;
        for (size_t first = 0; first < tokens.size();) {
            size_t last = first;
            while (tokens[last].kind != Token::Kind::LineEnd && tokens[last].kind != Token::Kind::End) ++last;
            if (last > first) statement(first, last);
            first = last + 1;
        }
    }

  private:
    std::string_view m_text;
    Parsed& m_out;
    size_t m_next = 0, m_last = 0;
    bool m_failed = false;

    const Token& token() const { return m_out.tokens[std::min(m_next, m_last)]; }
    bool ended() const { return m_next >= m_last; }
    bool fail(TextPlace at, std::string sentence) {
        if (!m_failed) m_out.problems.push_back({at, std::move(sentence)});
        m_failed = true;
        return false;
    }
    std::string stands() const {
        if (ended()) return "the line ends";
        return token().kind == Token::Kind::String  ? "words stand"
               : token().kind == Token::Kind::Block ? "lines in braces stand"
                                                    : token().text + " stands";
    }
    bool accept(std::string_view sign) {
        if (ended() || !token().is(sign)) return false;
        ++m_next;
        return true;
    }
    bool expect(std::string_view sign, std::string_view why) {
        return accept(sign) || fail(token().at, fmt::format("{} is missing {}; {} there", sign, why, stands()));
    }

    void statement(size_t first, size_t last) {
        m_next = first;
        m_last = last;
        m_failed = false;
        const auto& tokens = m_out.tokens;
        Statement s;
        s.at = tokens[first].at;
        s.begin = tokens[first].begin;
        s.end = tokens[last - 1].end;
        s.firstLine = tokens[first].at.line;
        s.lastLine = s.firstLine + int(std::count(m_text.begin() + long(s.begin), m_text.begin() + long(s.end), '\n'));
        const auto nameAt = [&](size_t k) { return k < last && tokens[k].kind == Token::Kind::Name; };
        const ParameterKind* type = nullptr;
        if (nameAt(first) && nameAt(first + 1) && tokens[first].text == kBuild) {
            const TextPlace at = tokens[first].at;
            m_next = ++first;
            if (nameAt(first) && nameAt(first + 1))
                for (const ParameterKind& kind : parameterKinds())
                    if (kind.key == tokens[first].text && (kind.type == ParameterType::OnOff || kind.type == ParameterType::Choice))
                        s.build = true, type = &kind;
            if (!type) {
                fail(at, "build stands before on_off or choice alone");
                return;
            }
        }
        if (nameAt(first) && nameAt(first + 1)) {
            for (const ParameterKind& kind : parameterKinds())
                if (kind.key == tokens[first].text) type = &kind;
            if (!type && tokens[first].text != "muted") {
                fail(tokens[first].at, fmt::format("{} begins no line; a line is a name, = and what it is", tokens[first].text));
                return;
            }
            s.muted = !type;
            ++m_next;
        }
        if (!nameAt(m_next)) {
            fail(token().at, fmt::format("a line begins with a name; {} there", stands()));
            return;
        }
        s.name = token().text;
        s.nameAt = token().at;
        ++m_next;
        if (!expect("=", "behind the name")) return;
        if (ended()) {
            fail(token().at, "what it is, behind the =, is missing");
            return;
        }
        s.valueBegin = token().begin;
        const bool good = type ? parameter(s, *type) : value(s);
        if (good && !m_failed) m_out.statements.push_back(std::move(s));
    }

    std::optional<float> signedNumber() {
        const bool minus = accept("-");
        if (ended() || token().kind != Token::Kind::Number) {
            fail(token().at, fmt::format("a number is missing; {} there", stands()));
            return {};
        }
        const float x = token().number;
        ++m_next;
        return minus ? -x : x;
    }

    std::optional<Value> literal() {
        if (!ended() && token().kind == Token::Kind::Color) return m_out.tokens[m_next++].color;
        if (!accept("(")) {
            const auto x = signedNumber();
            return x ? std::optional(Value::number(*x)) : std::nullopt;
        }
        Value v;
        v.width = 0;
        do {
            if (v.width == 4) {
                fail(token().at, "a vector has at most four components");
                return {};
            }
            const auto x = signedNumber();
            if (!x) return {};
            v[v.width++] = *x;
        } while (accept(","));
        if (!expect(")", "at the end of the numbers")) return {};
        return v;
    }

    bool parameter(Statement& s, const ParameterKind& kind) {
        s.is = Statement::Is::Parameter;
        s.type = kind.type;
        if (kind.type == ParameterType::Map) {
            if (token().kind == Token::Kind::String) s.map = token().text;
            else if (token().kind == Token::Kind::Name && token().text == "none") s.map = std::string();
            else return fail(token().at, fmt::format("a map's name between quotes, or none, is missing; {} there", stands()));
            ++m_next;
            if (accept(",")) {
                bool found = false;
                for (const MapKind k : {MapKind::Color, MapKind::Data, MapKind::Normal, MapKind::Height})
                    if (!ended() && token().text == nameOf(k)) s.mapKind = k, found = true;
                if (!found) return fail(token().at, "a map's kind is color, data, normal or height");
                ++m_next;
            }
        } else if (!kind.width) {
            if (ended() || token().kind != Token::Kind::String)
                return fail(token().at, fmt::format("{} between quotes is missing; {} there",
                                                    kind.type == ParameterType::Finish   ? "the name of a master or instance"
                                                    : kind.type == ParameterType::MapSet ? "the name of a map set"
                                                                                         : "points",
                                                    stands()));
            s.map = token().text;
            ++m_next;
        } else if (kind.type == ParameterType::OnOff) {
            if (ended() || (token().text != "on" && token().text != "off"))
                return fail(token().at, fmt::format("on or off is missing; {} there", stands()));
            s.first.value = Value::number(token().text == "on" ? 1 : 0);
            ++m_next;
        } else if (kind.type == ParameterType::Choice) {
            const auto option = [&] {
                if (ended() || token().kind != Token::Kind::String)
                    return fail(token().at, fmt::format("an option between quotes is missing; {} there", stands()));
                s.options.push_back(token().text);
                ++m_next;
                return true;
            };
            if (!option()) return false;
            const std::string chosen = s.options[0];
            s.options.clear();
            if (ended() || token().text != "of") return fail(token().at, fmt::format("of and the options are missing; {} there", stands()));
            ++m_next;
            do
                if (!option()) return false;
            while (accept(","));
            const auto at = std::find(s.options.begin(), s.options.end(), chosen);
            if (at == s.options.end()) return fail(s.nameAt, fmt::format("{} is none of the options", chosen));
            s.first.value = Value::number(float(at - s.options.begin()));
        } else {
            const auto v = literal();
            if (!v) return false;
            s.first.value = *v;
            if (v->width != kind.width && !(kind.type == ParameterType::Color && v->width == 4)) {
                if (v->width != 1)
                    return fail(s.nameAt, fmt::format("a {} has {} of numbers, and {} stand there", kind.key, kind.width, v->width));
                s.first.value = {kind.width, {(*v)[0], (*v)[0], (*v)[0], (*v)[0]}};
            }
            if (!ended() && token().kind == Token::Kind::String) s.unit = m_out.tokens[m_next++].text;
            if (accept(",")) {
                const auto low = signedNumber();
                if (!low || !expect("..", "between the ends of the range")) return false;
                const auto high = signedNumber();
                if (!high) return false;
                if (!(*high > *low)) return fail(s.nameAt, "the range ends where it begins, or before");
                s.range = {*low, *high};
            }
        }
        return ended() || fail(token().at, fmt::format("the line should end here; {} there", stands()));
    }

    /// A name with what is behind it, or a value.
    std::optional<Atom> atom() {
        Atom out;
        out.at = token().at;
        if (!ended() && token().kind == Token::Kind::Name) {
            out.kind = Atom::Kind::Read;
            out.name = token().text;
            ++m_next;
            while (accept(".")) {
                if (ended() || token().kind != Token::Kind::Name || out.path.size() == 3) {
                    fail(token().at, fmt::format("an output or a take, such as r or xy, is missing; {} there", stands()));
                    return {};
                }
                out.path.push_back(token().text);
                ++m_next;
            }
            return out;
        }
        const auto v = literal();
        if (!v) return {};
        out.value = *v;
        return out;
    }

    /// The line as an atom, or two of them with an operator between; nothing where it is something else, which is no mistake yet.
    bool simple(Statement& s) {
        const size_t start = m_next, told = m_out.problems.size();
        const auto first = atom();
        if (first && ended()) {
            s.first = *first;
            s.is = first->kind == Atom::Kind::Read ? Statement::Is::Read : Statement::Is::Value;
            return true;
        }
        if (first && !ended() && token().kind == Token::Kind::Sign &&
            std::string_view("+-*/").find(token().text) != std::string_view::npos) {
            s.callee = token().text;
            s.calleeAt = token().at;
            ++m_next;
            const auto second = atom();
            if (second && ended()) {
                s.is = Statement::Is::Binary;
                s.first = *first;
                s.second = *second;
                return true;
            }
        }
        m_next = start;
        m_failed = false;
        m_out.problems.resize(told);
        return false;
    }

    bool value(Statement& s) {
        const auto& tokens = m_out.tokens;
        // A call whose inputs are named is a card's; anything else is reckoned.
        const size_t k = m_next;
        const bool named = k + 2 < m_last && tokens[k].kind == Token::Kind::Name && tokens[k + 1].is("(") &&
                           (tokens[k + 2].is(")") || (k + 3 < m_last && tokens[k + 2].kind == Token::Kind::Name && tokens[k + 3].is(":")));
        if (named) return call(s);
        if (simple(s)) return true;
        s.is = Statement::Is::Formula;
        s.tokens.assign(tokens.begin() + long(m_next), tokens.begin() + long(m_last));
        for (const Token& t : s.tokens)
            if (t.kind == Token::Kind::String || t.kind == Token::Kind::Block || t.kind == Token::Kind::Color)
                return fail(t.at, "this cannot be reckoned with");
        return true;
    }

    bool call(Statement& s) {
        s.is = Statement::Is::Call;
        s.callee = token().text;
        s.calleeAt = token().at;
        m_next += 2;
        if (!accept(")")) {
            do {
                Argument a;
                if (ended() || token().kind != Token::Kind::Name)
                    return fail(token().at, fmt::format("the name of an input is missing; {} there", stands()));
                a.label = token().text;
                a.at = token().at;
                ++m_next;
                if (!expect(":", "behind the name of the input")) return false;
                if (!ended() && token().kind == Token::Kind::String) {
                    a.atom.kind = Atom::Kind::Word;
                    a.atom.at = token().at;
                    a.atom.word = token().text;
                    ++m_next;
                } else {
                    const auto got = atom();
                    if (!got) return false;
                    a.atom = *got;
                }
                for (const Argument& other : s.arguments)
                    if (other.label == a.label) return fail(a.at, fmt::format("{} is said twice", a.label));
                s.arguments.push_back(std::move(a));
                if (!ended() && !token().is(",") && !token().is(")"))
                    return fail(token().at, fmt::format("{} there; give what is reckoned a line of its own, and read that", stands()));
            } while (accept(","));
            if (!expect(")", "at the end of the inputs")) return false;
        }
        if (!ended() && token().kind == Token::Kind::Block) {
            s.block = token().text;
            s.blockAt = token().at;
            ++m_next;
        }
        return ended() || fail(token().at, fmt::format("the line should end here; {} there", stands()));
    }
};

} // namespace

Parsed parse(std::string_view text) {
    Parsed out;
    Splitter(text, out).run();
    Parser(text, out).run();
    std::stable_sort(out.problems.begin(), out.problems.end(),
                     [](const FormulaProblem& a, const FormulaProblem& b) { return a.at.line < b.at.line; });
    return out;
}

std::string unindented(const std::string& block) {
    std::vector<std::string> all;
    for (size_t at = 0; at <= block.size();) {
        const size_t end = std::min(block.find('\n', at), block.size());
        std::string line = block.substr(at, end - at);
        line.erase(line.find_last_not_of(" \t\r") + 1);
        all.push_back(std::move(line));
        at = end + 1;
    }
    size_t indent = std::string::npos;
    for (const std::string& line : all)
        if (!line.empty()) indent = std::min(indent, line.find_first_not_of(' '));
    while (!all.empty() && all.front().empty()) all.erase(all.begin());
    while (!all.empty() && all.back().empty()) all.pop_back();
    for (std::string& line : all) line.erase(0, line.empty() ? 0 : indent);
    return fmt::to_string(fmt::join(all, "\n"));
}

std::string nameFrom(std::string_view title) {
    std::string out;
    for (const char c : title) {
        const char small = c >= 'A' && c <= 'Z' ? char(c + 32) : c;
        if (isNamePart(small)) out += small;
        else if (!out.empty() && out.back() != '_') out += '_';
    }
    while (!out.empty() && out.back() == '_') out.pop_back();
    return out.empty() || isDigit(out[0]) ? "card_" + out : out;
}

bool isReserved(std::string_view name) {
    static constexpr std::string_view words[] = {"muted", "none", "build", "let", "fn", "a", "b", "c", "d"};
    if (std::find(std::begin(words), std::end(words), name) != std::end(words) || isOnRail(name)) return true;
    for (const ParameterKind& kind : parameterKinds())
        if (kind.key == name) return true;
    const auto values = formulaValues();
    return std::find(values.begin(), values.end(), name) != values.end();
}

} // namespace hue::lines
