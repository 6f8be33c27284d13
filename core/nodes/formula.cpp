// The formula card: a few lines of text that become the same operations as cards would.
#include "core/formula/formula.h"

#include "core/nodes/port_makers.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

namespace hue {
namespace {

constexpr std::string_view kPorts[] = {"a", "b", "c", "d"};
constexpr int kMostOperations = 4000; ///< of one card, so that functions of functions end
constexpr int kMostCalls = 20;        ///< within each other

/// A function of the language.
struct Function {
    std::string_view name;
    int least, most; ///< how much it takes
    std::string_view takes, help;
    Val (*lower)(Builder&, const std::vector<Val>&);
    /// What the operands have to be: Alike: of one width, numbers spread; Point: the first has two or three components; Three: all three.
    enum class Shape { Alike, Point, Three } shape = Shape::Alike;
};

/// What a formula reads without a port.
struct OutsideValue {
    std::string_view name;
    Val (*read)(Lowering&);
};
constexpr OutsideValue kOutside[] = {
    {"uv", [](Lowering& l) { return l.uv(0); }},
    {"uv1", [](Lowering& l) { return l.uv(1); }},
    {"position", [](Lowering& l) { return l.b.attribute(Attribute::PositionObject); }},
    {"world", [](Lowering& l) { return l.b.attribute(Attribute::PositionWorld); }},
    {"normal", [](Lowering& l) { return l.b.attribute(Attribute::NormalWorld); }},
    {"view", [](Lowering& l) { return l.b.attribute(Attribute::View); }},
    {"time", [](Lowering& l) { return l.b.time(); }},
    {"pi", [](Lowering& l) { return l.b.number(3.14159265f); }},
    {"e", [](Lowering& l) { return l.b.number(2.71828183f); }},
};

Val argument(Builder& b, const std::vector<Val>& a, size_t k, float otherwise) { return k < a.size() ? a[k] : b.number(otherwise); }
template <Op op> Val one(Builder& b, const std::vector<Val>& a) { return b.op(op, a[0]); }
template <Op op> Val two(Builder& b, const std::vector<Val>& a) { return b.op(op, a[0], a[1]); }
/// Both as wide as the wider.
std::pair<Val, Val> wide(Builder& b, Val p, Val q) {
    const int width = std::max(b.width(p), b.width(q));
    return {b.spread(p, width), b.spread(q, width)};
}

const std::vector<Function>& functions() {
    using Shape = Function::Shape;
    static const std::vector<Function> all = {
        {"abs", 1, 1, "x", "the value without its sign", one<Op::Abs>},
        {"sign", 1, 1, "x", "1 above 0, -1 below, 0 at 0", one<Op::Sign>},
        {"floor", 1, 1, "x", "the whole number at or below", one<Op::Floor>},
        {"ceil", 1, 1, "x", "the whole number at or above", one<Op::Ceil>},
        {"round", 1, 1, "x", "the nearest whole number",
         [](Builder& b, const auto& a) { return b.op(Op::Floor, b.add(a[0], b.number(0.5f))); }},
        {"fract", 1, 1, "x", "what lies above the whole number below", one<Op::Fract>},
        {"sqrt", 1, 1, "x", "the square root; 0 below 0", one<Op::Sqrt>},
        {"exp", 1, 1, "x", "e raised to x", one<Op::Exp>},
        {"log", 1, 1, "x", "the natural logarithm", one<Op::Log>},
        {"sin", 1, 1, "x", "sine of radians", one<Op::Sin>},
        {"cos", 1, 1, "x", "cosine of radians", one<Op::Cos>},
        {"atan", 1, 2, "y, x = 1", "the angle of y over x, -pi to pi",
         [](Builder& b, const auto& a) { return b.op(Op::Atan2, a[0], argument(b, a, 1, 1)); }},
        {"radians", 1, 1, "x", "degrees to radians", [](Builder& b, const auto& a) { return b.mul(a[0], b.number(0.0174532925f)); }},
        {"pow", 2, 2, "x, y", "x raised to y; an x below 0 counts as 0", two<Op::Power>},
        {"mod", 2, 2, "x, y", "what remains of x after whole steps of y", two<Op::Modulo>},
        {"min", 2, 2, "x, y", "the smaller", two<Op::Min>},
        {"max", 2, 2, "x, y", "the larger", two<Op::Max>},
        {"clamp", 1, 3, "x, low = 0, high = 1", "x, kept between low and high",
         [](Builder& b, const auto& a) { return b.op(Op::Clamp, a[0], argument(b, a, 1, 0), argument(b, a, 2, 1)); }},
        {"mix", 3, 3, "x, y, t", "from x (t 0) to y (t 1)", [](Builder& b, const auto& a) { return b.mix(a[0], a[1], a[2]); }},
        {"step", 2, 2, "edge, x", "0 below the edge, 1 from it on",
         [](Builder& b, const auto& a) { return b.oneMinus(b.op(Op::Less, a[1], a[0])); }},
        {"smoothstep", 3, 3, "low, high, x", "0 below low, 1 above high, an even rise between",
         [](Builder& b, const auto& a) { return b.op(Op::Smooth, a[2], a[0], a[1]); }},
        {"length", 1, 1, "v", "the length of a vector", [](Builder& b, const auto& a) { return b.magnitude(a[0]); }},
        {"normalize", 1, 1, "v", "the same direction with length 1", [](Builder& b, const auto& a) { return b.normalize(a[0]); }},
        {"distance", 2, 2, "v, w", "the length of the difference",
         [](Builder& b, const auto& a) { return b.magnitude(b.sub(a[0], a[1])); }},
        {"dot", 2, 2, "v, w", "how far two vectors point the same way",
         [](Builder& b, const auto& a) {
             const auto [v, w] = wide(b, a[0], a[1]);
             return b.dot(v, w);
         }},
        {"cross", 2, 2, "v, w", "at right angles to both", [](Builder& b, const auto& a) { return b.cross(a[0], a[1]); }, Shape::Three},
        {"luminance", 1, 1, "color", "the brightness of a linear color", [](Builder& b, const auto& a) { return b.luminance(a[0]); },
         Shape::Three},
        {"noise", 1, 1, "p", "gradient noise at two or three components, about -1 to 1",
         [](Builder& b, const auto& a) { return b.width(a[0]) == 2 ? b.noise2(a[0]) : b.noise3(a[0]); }, Shape::Point},
        {"cell", 1, 1, "p", "a random number, 0 to 1, for each unit cell",
         [](Builder& b, const auto& a) { return b.width(a[0]) == 2 ? b.cell2(a[0]) : b.cell3(a[0]); }, Shape::Point},
        {"worley", 1, 2, "p, jitter = 1", "the distance to the nearest scattered point",
         [](Builder& b, const auto& a) {
             const Val jitter = argument(b, a, 1, 1);
             return b.width(a[0]) == 2 ? b.worley2(a[0], jitter) : b.worley3(a[0], jitter);
         },
         Shape::Point},
    };
    return all;
}

class FormulaLowering {
  public:
    FormulaLowering(Lowering& l, const Formula& formula) : m_l(l), b(l.b), m_formula(formula) {}

    std::optional<FormulaProblem> run() {
        m_visible = m_formula.lines.size();
        const Val result = term(m_formula.result);
        if (m_problem) return m_problem;
        m_l.out("out", result);
        return {};
    }

  private:
    using Kind = FormulaTerm::Kind;
    Lowering& m_l;
    Builder& b;
    const Formula& m_formula;
    std::optional<FormulaProblem> m_problem;
    std::map<size_t, Val> m_values;            ///< of lines, computed once
    const std::map<std::string, Val>* m_own{}; ///< what the function that is being computed was given
    size_t m_visible = 0;                      ///< lines above the one that is being computed
    int m_operations = 0, m_calls = 0;

    Val fail(TextPlace at, std::string sentence) {
        if (!m_problem) m_problem = FormulaProblem{at, std::move(sentence)};
        return b.number(0);
    }

    static std::string components(int width) { return width == 1 ? "a number" : fmt::format("{} components", width); }

    /// Whether the widths go together; says what does not.
    bool alike(TextPlace at, std::string_view what, const std::vector<Val>& values) {
        int width = 1;
        for (const Val v : values) {
            const int w = b.width(v);
            if (w > 1 && width > 1 && w != width) {
                fail(at, fmt::format("{} gets {} and {}; take as many of both", what, components(width), components(w)));
                return false;
            }
            width = std::max(width, w);
        }
        return true;
    }

    Val yes(Val v) { return b.greater(v, b.number(0.5f)); }

    Val term(int index) {
        const FormulaTerm& t = m_formula.terms[size_t(index)];
        if (m_problem) return b.number(0);
        if (++m_operations > kMostOperations)
            return fail(t.at, fmt::format("this comes to more than {} operations; functions of functions multiply", kMostOperations));
        switch (t.kind) {
        case Kind::Number: return b.number(t.number);
        case Kind::Name: return name(t);
        case Kind::Vector: return vector(t);
        case Kind::Call: return call(t);
        case Kind::Take: return take(t);
        case Kind::Minus: return b.sub(b.number(0), term(t.parts[0]));
        case Kind::Not: return b.oneMinus(yes(term(t.parts[0])));
        case Kind::Binary: return binary(t);
        case Kind::Choice: {
            const Val which = term(t.parts[0]), first = term(t.parts[1]), second = term(t.parts[2]);
            if (m_problem || !alike(t.at, "the choice", {which, first, second})) return b.number(0);
            return b.op(Op::Select, yes(which), first, second);
        }
        }
        return b.number(0);
    }

    /// The last line above that defines a name.
    std::optional<size_t> lineOf(std::string_view wanted, bool function) const {
        for (size_t k = m_visible; k-- > 0;)
            if (m_formula.lines[k].name == wanted && m_formula.lines[k].function == function) return k;
        return {};
    }

    Val name(const FormulaTerm& t) {
        if (m_own)
            if (const auto it = m_own->find(t.text); it != m_own->end()) return it->second;
        if (const auto line = lineOf(t.text, false)) return valueOf(*line);
        if (std::find(std::begin(kPorts), std::end(kPorts), t.text) != std::end(kPorts)) return m_l.in(t.text);
        for (const OutsideValue& v : kOutside)
            if (v.name == t.text) return v.read(m_l);
        const auto isFunction = [&](const Function& f) { return f.name == t.text; };
        if (lineOf(t.text, true) || std::any_of(functions().begin(), functions().end(), isFunction))
            return fail(t.at, fmt::format("{} is a function and takes its values in brackets", t.text));
        return fail(
            t.at,
            fmt::format("nothing is called {}. There are a, b, c and d, uv, uv1, position, world, normal, view, time, pi and e", t.text));
    }

    Val valueOf(size_t line) {
        if (const auto it = m_values.find(line); it != m_values.end()) return it->second;
        // A line knows the lines above it, and nothing that a function was given.
        const auto* own = std::exchange(m_own, nullptr);
        const size_t visible = std::exchange(m_visible, line);
        const Val value = term(m_formula.lines[line].value);
        m_own = own;
        m_visible = visible;
        return m_values[line] = value;
    }

    Val vector(const FormulaTerm& t) {
        std::vector<Val> numbers;
        for (const int part : t.parts) {
            const Val v = term(part);
            for (int c = 0; c < b.width(v); ++c) numbers.push_back(b.component(v, c));
        }
        if (m_problem) return b.number(0);
        switch (numbers.size()) {
        case 2: return b.compose({numbers[0], numbers[1]});
        case 3: return b.compose({numbers[0], numbers[1], numbers[2]});
        case 4: return b.compose({numbers[0], numbers[1], numbers[2], numbers[3]});
        default: return fail(t.at, fmt::format("this makes a vector of {} components, and four are the most", numbers.size()));
        }
    }

    Val take(const FormulaTerm& t) {
        const Val v = term(t.parts[0]);
        if (m_problem) return v;
        if (t.text == "luma") return b.luminance(v);
        if (t.text.size() > 4) return fail(t.at, fmt::format(".{} takes more than four components", t.text));
        uint32_t picked[4] = {};
        for (size_t k = 0; k < t.text.size(); ++k) {
            size_t c = std::string_view("xyzw").find(t.text[k]);
            if (c == std::string_view::npos) c = std::string_view("rgba").find(t.text[k]);
            if (c == std::string_view::npos)
                return fail(t.at, fmt::format(".{} takes {}, which is none of x y z w or r g b a", t.text, t.text[k]));
            if (int(c) >= b.width(v)) return fail(t.at, fmt::format(".{} takes {} of {}", t.text, t.text[k], components(b.width(v))));
            picked[k] = uint32_t(c);
        }
        const auto at = [&](size_t k) { return b.component(v, int(picked[k])); };
        switch (t.text.size()) {
        case 1: return at(0);
        case 2: return b.compose({at(0), at(1)});
        case 3: return b.compose({at(0), at(1), at(2)});
        default: return b.compose({at(0), at(1), at(2), at(3)});
        }
    }

    /// A small whole power is a product, of numbers below 0 as well.
    std::optional<int> wholePower(const FormulaTerm& exponent) const {
        if (exponent.kind != Kind::Number || exponent.number != std::floor(exponent.number)) return {};
        return exponent.number >= 0 && exponent.number <= 4 ? std::optional(int(exponent.number)) : std::nullopt;
    }

    Val binary(const FormulaTerm& t) {
        const Val x = term(t.parts[0]);
        if (t.text == "^")
            if (const auto power = wholePower(m_formula.terms[size_t(t.parts[1])])) {
                if (*power == 0) return b.spread(b.number(1), b.width(x));
                Val product = x;
                for (int k = 1; k < *power; ++k) product = b.mul(product, x);
                return product;
            }
        const Val y = term(t.parts[1]);
        if (m_problem || !alike(t.at, t.text, {x, y})) return b.number(0);
        const auto less = [&](Val p, Val q) { return b.op(Op::Less, p, q); };
        if (t.text == "+") return b.add(x, y);
        if (t.text == "-") return b.sub(x, y);
        if (t.text == "*") return b.mul(x, y);
        if (t.text == "/") return b.op(Op::Div, x, y);
        if (t.text == "%") return b.op(Op::Modulo, x, y);
        if (t.text == "^") return b.op(Op::Power, x, y);
        if (t.text == "<") return less(x, y);
        if (t.text == ">") return less(y, x);
        if (t.text == "<=") return b.oneMinus(less(y, x));
        if (t.text == ">=") return b.oneMinus(less(x, y));
        if (t.text == "&&") return b.mul(yes(x), yes(y));
        if (t.text == "||") return b.op(Op::Max, yes(x), yes(y));
        const Val differ = b.op(Op::Max, less(x, y), less(y, x));
        return t.text == "!=" ? differ : b.oneMinus(differ);
    }

    bool takesAsMany(const FormulaTerm& t, int least, int most) {
        const int given = int(t.parts.size());
        if (given >= least && given <= most) return true;
        fail(t.at, fmt::format("{} takes {}, and gets {}", t.text,
                               least == most ? std::to_string(least) : fmt::format("{} to {}", least, most), given));
        return false;
    }

    Val call(const FormulaTerm& t) {
        if (const auto line = lineOf(t.text, true)) return callOwn(t, *line);
        if (t.text == "fractal") return fractal(t);
        const auto f = std::find_if(functions().begin(), functions().end(), [&](const Function& g) { return g.name == t.text; });
        if (f == functions().end()) return fail(t.at, fmt::format("there is no function {}", t.text));
        if (!takesAsMany(t, f->least, f->most)) return b.number(0);
        std::vector<Val> values;
        for (const int part : t.parts) values.push_back(term(part));
        if (m_problem) return b.number(0);
        if (f->shape == Function::Shape::Alike && !alike(t.at, t.text, values)) return b.number(0);
        if (f->shape == Function::Shape::Point) {
            if (!isPoint(t, values[0])) return b.number(0);
            if (values.size() > 1 && b.width(values[1]) != 1) return fail(t.at, fmt::format("the second value of {} is a number", t.text));
        }
        if (f->shape == Function::Shape::Three)
            for (const Val v : values)
                if (b.width(v) != 3)
                    return fail(t.at, fmt::format("{} takes three components, and gets {}", t.text, components(b.width(v))));
        return f->lower(b, values);
    }

    bool isPoint(const FormulaTerm& t, Val p) {
        const int width = b.width(p);
        if (width == 2 || width == 3) return true;
        fail(t.at, fmt::format("{} is read at two or three components, and gets {}", t.text, components(width)));
        return false;
    }

    Val fractal(const FormulaTerm& t) {
        if (!takesAsMany(t, 1, 2)) return b.number(0);
        const Val p = term(t.parts[0]);
        if (m_problem || !isPoint(t, p)) return b.number(0);
        int octaves = 4;
        if (t.parts.size() > 1) {
            const FormulaTerm& count = m_formula.terms[size_t(t.parts[1])];
            if (count.kind != Kind::Number || count.number != std::floor(count.number) || count.number < 1 || count.number > 8)
                return fail(count.at, "the octaves of fractal are a whole number from 1 to 8");
            octaves = int(count.number);
        }
        const Val lacunarity = b.number(2), diminish = b.number(0.5f);
        return b.width(p) == 2 ? b.fractal2(p, lacunarity, diminish, octaves) : b.fractal3(p, lacunarity, diminish, octaves);
    }

    Val callOwn(const FormulaTerm& t, size_t index) {
        const Formula::Line& line = m_formula.lines[index];
        const int count = int(line.parameters.size());
        if (!takesAsMany(t, count, count)) return b.number(0);
        if (++m_calls > kMostCalls) return fail(t.at, fmt::format("functions lie more than {} deep within each other", kMostCalls));
        std::map<std::string, Val> given;
        for (size_t k = 0; k < line.parameters.size(); ++k) given[line.parameters[k]] = term(t.parts[k]);
        // A function knows what stands above it, so none can come back to itself.
        const auto* own = std::exchange(m_own, &given);
        const size_t visible = std::exchange(m_visible, index);
        const Val value = m_problem ? b.number(0) : term(line.value);
        m_own = own;
        m_visible = visible;
        --m_calls;
        return value;
    }
};

bool readsPort(const Node& node, std::string_view port) {
    const auto text = node.settings.find("formula");
    if (text == node.settings.end()) return port == "a";
    const ParsedFormula parsed = parseFormula(text->second);
    if (parsed.problem) return true;
    const auto names = namesRead(parsed.formula);
    return std::find(names.begin(), names.end(), port) != names.end();
}

} // namespace

std::span<const std::string_view> formulaValues() {
    static const std::vector<std::string_view> names = [] {
        std::vector<std::string_view> out;
        for (const OutsideValue& v : kOutside) out.push_back(v.name);
        return out;
    }();
    return names;
}

std::string formulaFunctionsTable() {
    std::string out = "| function | |\n|---|---|\n";
    for (const Function& f : functions()) out += fmt::format("| `{}({})` | {} |\n", f.name, f.takes, f.help);
    out += "| `fractal(p, octaves = 4)` | octaves of noise on top of each other; a whole number of them, 1 to 8 |\n";
    return out;
}

void addFormulaNode(std::vector<NodeDef>& list) {
    std::vector<PortDef> ports;
    for (const std::string_view key : kPorts) {
        PortDef port = anyIn(key, 0, "A value that the formula reads by this name", -2, 2);
        port.apart = true;
        ports.push_back(port);
    }
    list.push_back({"formula",
                    "Formula",
                    "Math",
                    "expression code script text equation custom function",
                    "A few lines of text: arithmetic, vectors, functions and conditions over the ports a to d. Costs what its cards would.",
                    std::move(ports),
                    {anyOut()},
                    {{"formula", {}, "a", "The text"}},
                    [](Lowering& l) {
                        const ParsedFormula parsed = parseFormula(l.setting("formula"));
                        std::optional<FormulaProblem> problem = parsed.problem;
                        if (!problem) problem = FormulaLowering(l, parsed.formula).run();
                        if (problem) l.fail("formula.problem", "out", fmt::format("has a mistake in {}.", describe(*problem)));
                    },
                    readsPort});
}

} // namespace hue
