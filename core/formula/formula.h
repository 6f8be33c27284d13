#pragma once
// The text of a formula card, taken apart. What it means in operations is said in core/nodes/formula.cpp.
//
//   // lines, each a name for a value or a function of one's own, and one expression at the end
//   let stripes = fract(uv.x * 8)
//   fn soft(x) = x * x * (3 - 2 * x)
//   soft(stripes) > 0.5 ? a : mix(a, b, c)
//
// Binds from loose to tight:  ?:   ||   &&   < > <= >= == !=   + -   * / %   - ! (before a value)   ^   .take   Brackets with commas
// make vectors: (1, 0, 0). A line ends where it ends, except within brackets and after an operator.
// Threads: any. Nothing is kept between calls.
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace hue {

/// Where something stands in a text, both from 1; columns count bytes.
struct TextPlace {
    int line = 1, column = 1;
};

/// What is wrong with a formula, as a sentence without the place.
struct FormulaProblem {
    TextPlace at;
    std::string sentence;
};
/// "line 2, column 7: ..."
std::string describe(const FormulaProblem& problem);

struct FormulaTerm {
    enum class Kind {
        Number, ///< `number`
        Name,   ///< `text`
        Vector, ///< two to four parts
        Call,   ///< `text` of the parts
        Take,   ///< `text` of the part: "xy"
        Minus,
        Not,
        Binary, ///< `text` between two parts
        Choice  ///< by the first part, the second or the third
    };
    Kind kind = Kind::Number;
    TextPlace at;
    float number = 0;
    std::string text;
    std::vector<int> parts; ///< indices of earlier terms
};

struct Formula {
    struct Line {
        TextPlace at;
        std::string name;
        bool function = false;
        std::vector<std::string> parameters; ///< of a function
        int value = -1;                      ///< a term
    };
    std::vector<FormulaTerm> terms;
    std::vector<Line> lines; ///< each knows what stands above it
    int result = -1;         ///< a term
};

constexpr size_t kLongestFormula = 16384; ///< bytes
constexpr int kDeepestFormula = 100;      ///< brackets within brackets

/// The formula, or the first problem of its text.
struct ParsedFormula {
    Formula formula;
    std::optional<FormulaProblem> problem;
};
ParsedFormula parseFormula(std::string_view text);

/// Names that a formula reads and does not define, each once, in their order: ports, and values such as uv and pi.
std::vector<std::string> namesRead(const Formula& formula);

} // namespace hue
