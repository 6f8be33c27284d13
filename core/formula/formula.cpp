#include "core/formula/formula.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

struct Token {
    enum class Kind { Number, Name, Sign, LineEnd, End };
    Kind kind = Kind::End;
    TextPlace at;
    std::string text;
    float number = 0;
};

bool isNameStart(char c) { return std::isalpha(static_cast<unsigned char>(c)) || c == '_'; }
bool isNamePart(char c) { return isNameStart(c) || std::isdigit(static_cast<unsigned char>(c)); }

class Parser {
  public:
    explicit Parser(std::string_view text) : m_text(text) {}

    ParsedFormula run() {
        if (m_text.size() > kLongestFormula) fail({}, fmt::format("a formula has at most {} letters", kLongestFormula));
        if (!m_problem) split();
        if (!m_problem) lines();
        if (m_problem) return {{}, m_problem};
        return {std::move(m_formula), {}};
    }

  private:
    using Kind = FormulaTerm::Kind;

    std::string_view m_text;
    std::vector<Token> m_tokens;
    size_t m_next = 0;
    int m_depth = 0;
    Formula m_formula;
    std::optional<FormulaProblem> m_problem;

    int fail(TextPlace at, std::string sentence) {
        if (!m_problem) m_problem = FormulaProblem{at, std::move(sentence)};
        return -1;
    }

    void split() {
        TextPlace at;
        int brackets = 0;
        for (size_t i = 0; i < m_text.size() && !m_problem;) {
            const char c = m_text[i];
            Token token;
            token.at = at;
            size_t length = 1;
            if (c == '\n' || c == ';') {
                // Within brackets a line goes on.
                if (!brackets || c == ';') token.kind = Token::Kind::LineEnd, m_tokens.push_back(token);
                ++i;
                if (c == '\n') ++at.line, at.column = 1;
                else ++at.column;
                continue;
            }
            if (c == '/' && m_text.substr(i).starts_with("//")) {
                length = std::min(m_text.find('\n', i), m_text.size()) - i;
            } else if (std::isspace(static_cast<unsigned char>(c))) {
            } else if (std::isdigit(static_cast<unsigned char>(c)) ||
                       (c == '.' && i + 1 < m_text.size() && std::isdigit(static_cast<unsigned char>(m_text[i + 1])))) {
                token.kind = Token::Kind::Number;
                const auto [end, bad] = std::from_chars(m_text.data() + i, m_text.data() + m_text.size(), token.number);
                length = size_t(end - (m_text.data() + i));
                if (bad != std::errc{} || !std::isfinite(token.number)) fail(at, "the number is too large");
                else if (i + length < m_text.size() && isNamePart(m_text[i + length])) fail(at, "a number and a name run into each other");
                m_tokens.push_back(token);
            } else if (isNameStart(c)) {
                token.kind = Token::Kind::Name;
                while (i + length < m_text.size() && isNamePart(m_text[i + length])) ++length;
                token.text = m_text.substr(i, length);
                m_tokens.push_back(token);
            } else {
                static constexpr std::array<std::string_view, 6> pairs{"<=", ">=", "==", "!=", "&&", "||"};
                const auto pair = std::find(pairs.begin(), pairs.end(), m_text.substr(i, 2));
                if (pair != pairs.end()) length = 2;
                else if (std::string_view("+-*/%^()<>?:,.=!").find(c) == std::string_view::npos)
                    fail(at, static_cast<unsigned char>(c) < 128 && std::isprint(static_cast<unsigned char>(c))
                                 ? fmt::format("{} means nothing here", c)
                                 : "a letter here is none of the language");
                token.kind = Token::Kind::Sign;
                token.text = m_text.substr(i, length);
                brackets += c == '(' ? 1 : c == ')' ? -1 : 0;
                m_tokens.push_back(token);
            }
            i += length;
            at.column += int(length);
        }
        Token end;
        end.at = at;
        m_tokens.push_back(end);
    }

    const Token& token() const { return m_tokens[m_next]; }
    bool at(std::string_view sign) const { return token().kind == Token::Kind::Sign && token().text == sign; }
    bool accept(std::string_view sign) {
        if (!at(sign)) return false;
        ++m_next;
        return true;
    }
    void skipLineEnds() {
        while (token().kind == Token::Kind::LineEnd) ++m_next;
    }
    std::string whatStands() const {
        switch (token().kind) {
        case Token::Kind::End: return "the formula ends";
        case Token::Kind::LineEnd: return "the line ends";
        case Token::Kind::Number: return fmt::format("{:g} stands", token().number);
        default: return fmt::format("{} stands", token().text);
        }
    }
    bool expect(std::string_view sign, std::string_view why) {
        if (m_problem) return false;
        if (accept(sign)) return true;
        fail(token().at, fmt::format("{} is missing {}; {} there", sign, why, whatStands()));
        return false;
    }
    bool takeName(std::string& name, std::string_view what) {
        if (m_problem) return false;
        if (token().kind != Token::Kind::Name) {
            fail(token().at, fmt::format("{} is missing; {} there", what, whatStands()));
            return false;
        }
        name = token().text;
        ++m_next;
        return true;
    }

    void lines() {
        skipLineEnds();
        while (!m_problem && token().kind == Token::Kind::Name && (token().text == "let" || token().text == "fn")) {
            Formula::Line line;
            line.function = token().text == "fn";
            ++m_next;
            line.at = token().at;
            if (!takeName(line.name, line.function ? "the name of the function" : "the name of the value")) return;
            if (line.function) {
                if (!expect("(", "after the name of a function")) return;
                do {
                    std::string parameter;
                    if (!takeName(parameter, "the name of what the function takes")) return;
                    line.parameters.push_back(parameter);
                } while (accept(","));
                if (!expect(")", "after what the function takes")) return;
            }
            if (!expect("=", "before the value")) return;
            skipLineEnds();
            line.value = expression();
            if (m_problem) return;
            if (token().kind != Token::Kind::LineEnd && token().kind != Token::Kind::End) {
                fail(token().at, fmt::format("an operator or the end of the line is missing; {} there", whatStands()));
                return;
            }
            m_formula.lines.push_back(std::move(line));
            skipLineEnds();
        }
        if (m_problem) return;
        if (token().kind == Token::Kind::End) {
            fail(token().at, "the last line has to be an expression: what the card gives");
            return;
        }
        m_formula.result = expression();
        skipLineEnds();
        if (!m_problem && token().kind != Token::Kind::End)
            fail(token().at, fmt::format("an operator is missing; {} there. Lines before the last one start with let or fn", whatStands()));
    }

    int put(FormulaTerm term) {
        m_formula.terms.push_back(std::move(term));
        return int(m_formula.terms.size()) - 1;
    }
    int put(Kind kind, TextPlace place, std::string text, std::vector<int> parts) {
        if (m_problem) return -1;
        return put({kind, place, 0, std::move(text), std::move(parts)});
    }

    int expression() {
        if (++m_depth > kDeepestFormula) return fail(token().at, "this nests too deep; give parts of it a name with let");
        int value = binary(0);
        const TextPlace place = token().at;
        if (!m_problem && accept("?")) {
            skipLineEnds();
            const int yes = expression();
            skipLineEnds();
            if (expect(":", "between the two values of ?")) {
                skipLineEnds();
                const int no = expression();
                value = put(Kind::Choice, place, {}, {value, yes, no});
            }
        }
        --m_depth;
        return m_problem ? -1 : value;
    }

    /// Operators that bind as loosely as `level`, and all tighter ones.
    int binary(size_t level) {
        static const std::array<std::vector<std::string_view>, 5> levels{
            {{"||"}, {"&&"}, {"<", ">", "<=", ">=", "==", "!="}, {"+", "-"}, {"*", "/", "%"}}};
        if (level == levels.size()) return prefixed();
        int value = binary(level + 1);
        while (!m_problem && token().kind == Token::Kind::Sign &&
               std::find(levels[level].begin(), levels[level].end(), token().text) != levels[level].end()) {
            const Token op = token();
            ++m_next;
            skipLineEnds();
            const int right = binary(level + 1);
            value = put(Kind::Binary, op.at, op.text, {value, right});
        }
        return value;
    }

    int prefixed() {
        const TextPlace place = token().at;
        if (at("-") || at("!")) {
            if (++m_depth > kDeepestFormula) return fail(place, "this nests too deep; give parts of it a name with let");
            const Kind kind = at("-") ? Kind::Minus : Kind::Not;
            ++m_next;
            const int value = prefixed();
            --m_depth;
            return put(kind, place, {}, {value});
        }
        const int base = taken();
        const TextPlace sign = token().at;
        if (m_problem || !accept("^")) return base;
        skipLineEnds();
        if (++m_depth > kDeepestFormula) return fail(sign, "this nests too deep; give parts of it a name with let");
        const int exponent = prefixed();
        --m_depth;
        return put(Kind::Binary, sign, "^", {base, exponent});
    }

    int taken() {
        int value = primary();
        while (!m_problem && accept(".")) {
            const TextPlace place = token().at;
            std::string take;
            if (!takeName(take, "what is taken, such as x or rgb,")) return -1;
            value = put(Kind::Take, place, take, {value});
        }
        return value;
    }

    int primary() {
        if (m_problem) return -1;
        const Token here = token();
        if (here.kind == Token::Kind::Number) {
            ++m_next;
            return put({Kind::Number, here.at, here.number, {}, {}});
        }
        if (here.kind == Token::Kind::Name) {
            if (here.text == "let" || here.text == "fn") return fail(here.at, fmt::format("{} begins a line of its own", here.text));
            ++m_next;
            if (!accept("(")) return put(Kind::Name, here.at, here.text, {});
            std::vector<int> parts;
            if (!at(")")) parts = list();
            if (!expect(")", fmt::format("after what {} takes", here.text))) return -1;
            return put(Kind::Call, here.at, here.text, std::move(parts));
        }
        if (accept("(")) {
            std::vector<int> parts = list();
            if (!expect(")", "at the end of the brackets")) return -1;
            if (parts.size() == 1) return parts[0];
            if (parts.size() > 4) return fail(here.at, "a vector has at most four components");
            return put(Kind::Vector, here.at, {}, std::move(parts));
        }
        return fail(here.at, fmt::format("a value is missing; {} there", whatStands()));
    }

    std::vector<int> list() {
        std::vector<int> parts;
        do parts.push_back(expression());
        while (!m_problem && accept(","));
        return parts;
    }
};

} // namespace

std::string describe(const FormulaProblem& problem) {
    return fmt::format("line {}, column {}: {}", problem.at.line, problem.at.column, problem.sentence);
}

ParsedFormula parseFormula(std::string_view text) { return Parser(text).run(); }

std::vector<std::string> namesRead(const Formula& formula) {
    std::set<std::string> defined;
    for (const Formula::Line& line : formula.lines) {
        defined.insert(line.name);
        defined.insert(line.parameters.begin(), line.parameters.end());
    }
    std::vector<std::string> out;
    for (const FormulaTerm& term : formula.terms)
        if (term.kind == FormulaTerm::Kind::Name && !defined.contains(term.text) &&
            std::find(out.begin(), out.end(), term.text) == out.end())
            out.push_back(term.text);
    return out;
}

} // namespace hue
