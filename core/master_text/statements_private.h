#pragma once
// A text taken apart into statements; what names stand for is not known here. Not for use elsewhere.
// Threads: any. Nothing is kept between calls.
#include "core/base/value.h"
#include "core/document/project.h"
#include "core/formula/formula.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace hue::lines {

struct Token {
    enum class Kind { Name, Number, Color, String, Sign, Block, LineEnd, End };
    Kind kind = Kind::End;
    TextPlace at;
    size_t begin = 0, end = 0; ///< bytes of the text
    std::string text;          ///< of a string what it says, of a block what lies between the braces
    float number = 0;
    Value color{};
    bool is(std::string_view sign) const { return kind == Kind::Sign && text == sign; }
};

/// What an input reads, or a value.
/// Behind a name and all that it takes: computed at the vertices.
inline constexpr std::string_view kPerVertex = "per_vertex";

struct Atom {
    enum class Kind { Read, Value, Word };
    Kind kind = Kind::Value;
    TextPlace at;
    std::string name;              ///< Read
    std::vector<std::string> path; ///< Read: behind the name, at most three
    hue::Value value{};            ///< Value
    std::string word;              ///< Word: what was between quotes
};

struct Argument {
    std::string label;
    TextPlace at;
    Atom atom;
};

struct Statement {
    enum class Is { Parameter, Read, Value, Binary, Call, Formula };
    Is is = Is::Value;
    TextPlace at;
    size_t begin = 0, end = 0; ///< bytes of the text, without remarks
    int firstLine = 1, lastLine = 1;
    bool muted = false;
    std::string name;
    TextPlace nameAt;
    Atom first, second; ///< Read, Value: the first
    std::string callee; ///< Call; Binary: the operator
    TextPlace calleeAt;
    std::vector<Argument> arguments;
    std::optional<std::string> block;
    TextPlace blockAt;
    std::vector<Token> tokens; ///< of what stands right of =, for Formula
    size_t valueBegin = 0;     ///< of the text

    // Parameter
    ParameterType type = ParameterType::Number;
    std::optional<std::string> map; ///< by name; empty for none
    MapKind mapKind = MapKind::Color;
    std::optional<std::pair<float, float>> range;
    std::string unit;
    std::vector<std::string> options = {};
    bool build = false;
};

struct Parsed {
    std::vector<Token> tokens;
    std::vector<Statement> statements;
    std::vector<FormulaProblem> problems;
};
Parsed parse(std::string_view text);

/// The lines of a block, without what moves all of them to the right.
std::string unindented(const std::string& block);
/// "Wear reach" -> "wear_reach": what can be a name in a text.
std::string nameFrom(std::string_view title);
/// Names that no card can have on a board: channels, words of the language, values of formulas.
bool isReserved(std::string_view name);

} // namespace hue::lines
