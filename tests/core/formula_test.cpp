// The language of the formula card: against another program that reckons the same expressions, against cards, and by what it refuses.
#include "core/cost/cost.h"
#include "core/formula/formula.h"
#include "core/nodes/add_line.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

Project withFormula(const std::string& text, Id* card = nullptr) {
    Project p = bareProject();
    const Id id = add(p, "formula", {}, {{"formula", text}});
    if (card) *card = id;
    return p;
}
/// What a formula gives at the first pixel of a square of `size`.
std::vector<float> give(const std::string& text, int size = 1) {
    Id card;
    const Project p = withFormula(text, &card);
    return overSquare(p, {card, "out", ""}, size);
}
std::string problemOf(const std::string& text) {
    Id card;
    const Project p = withFormula(text, &card);
    const Compilation c = compileTap(p, masterOf(p), {card, "out", ""});
    for (const Diagnostic& d : c.diagnostics)
        if (d.code == "formula.problem") {
            EXPECT_EQ(d.place.node, card);
            return d.sentence.substr(d.sentence.find("line"));
        }
    return {};
}

/// An expression by chance, in words that awk understands as well: there a comparison stands in brackets, and -- takes one away.
std::string anyExpression(std::mt19937& random, int depth) {
    const auto upTo = [&](size_t n) { return random() % n; };
    const auto number = [&] { return fmt::format("{:.2f}", 0.1 + double(upTo(400)) / 100); };
    if (depth == 0 || upTo(6) == 0) return number();
    const auto part = [&] { return anyExpression(random, depth - 1); };
    static constexpr const char* compares[] = {"<", ">", "<=", ">="};
    const auto comparison = [&] { return "(" + part() + " " + compares[upTo(4)] + " " + part() + ")"; };
    switch (upTo(9)) {
    case 0: return "(" + part() + ")";
    case 1: return "- " + part();
    case 2: return fmt::format("{}({})", std::array{"sin", "cos", "exp"}[upTo(3)], part());
    case 3: return "(" + comparison() + " ? " + part() + " : " + part() + ")";
    case 4: return fmt::format("{}^{}", number(), upTo(4));
    case 5: return "(" + comparison() + (upTo(2) ? " && " : " || ") + "!" + comparison() + ")";
    case 6: return part() + " / " + number();
    default: return part() + std::array{" + ", " - ", " * "}[upTo(3)] + part();
    }
}

TEST(Formula, ReckonsAsAnotherProgramDoes) {
    std::mt19937 random(8);
    std::vector<std::string> expressions{
        "2^3^2", "-2^2", "2-3-4", "8/4/2", "1+2*3", "(1+2)*3", "(1<2) ? 3 : (4 < 5) ? 6 : 7", "-2*-3", "(1 < 2) || (1 < 0) && (0 > 1)"};
    while (expressions.size() < 600) expressions.push_back(anyExpression(random, 4));
    std::string script = "BEGIN {\n";
    for (const std::string& e : expressions) script += "printf \"%.9g\\n\", (" + e + ")\n";
    const auto folder = std::filesystem::temp_directory_path() / fmt::format("formula-{}", ::getpid());
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "all.awk") << script << "}\n";
    FILE* pipe = popen(("awk -f " + (folder / "all.awk").string() + " 2>&1").c_str(), "r");
    ASSERT_TRUE(pipe);
    std::vector<std::string> answers;
    std::array<char, 256> line;
    while (fgets(line.data(), line.size(), pipe)) answers.emplace_back(line.data());
    pclose(pipe);
    std::filesystem::remove_all(folder);
    ASSERT_EQ(answers.size(), expressions.size()) << (answers.empty() ? "" : answers.back());
    size_t compared = 0;
    for (size_t k = 0; k < expressions.size(); ++k) {
        const double wanted = std::strtod(answers[k].c_str(), nullptr);
        // Values near a threshold, or beyond single precision, are decided by the last bit.
        if (!std::isfinite(wanted) || std::fabs(wanted) > 1e6) continue;
        const float got = give(expressions[k]).at(0);
        ASSERT_NEAR(got, wanted, 2e-3 + std::fabs(wanted) * 1e-3) << expressions[k];
        ++compared;
    }
    EXPECT_GT(compared, 400u) << (answers.empty() ? "" : answers.back());
}

TEST(Formula, KnowsVectorsTakesAndPorts) {
    EXPECT_EQ(give("(1, 2, 3).zyx"), (std::vector<float>{3, 2, 1}));
    EXPECT_EQ(give("(1, (2, 3), 4)"), (std::vector<float>{1, 2, 3, 4}));
    EXPECT_EQ(give("(1, 2) * 3 + 0.5"), (std::vector<float>{3.5f, 6.5f}));
    EXPECT_EQ(give("(1, 2) < (2, 1)"), (std::vector<float>{1, 0}));
    EXPECT_EQ(give("dot((1, 2, 3), (4, 5, 6))"), (std::vector<float>{32}));
    EXPECT_EQ(give("cross((1, 0, 0), (0, 1, 0))"), (std::vector<float>{0, 0, 1}));
    EXPECT_NEAR(give("(0.5, 0.25, 1).luma").at(0), 0.2126 * 0.5 + 0.7152 * 0.25 + 0.0722, 1e-6);
    EXPECT_EQ(give("(-3)^3"), (std::vector<float>{-27})) << "a whole power is a product";
    // uv runs as on the card Texcoord.
    EXPECT_EQ(give("uv", 2), (std::vector<float>{0.25f, 0.25f, 0.75f, 0.25f, 0.25f, 0.75f, 0.75f, 0.75f}));
    // Ports have widths of their own.
    Id card;
    Project p = withFormula("(a.x + b, a.y, d)", &card);
    wire(p, {add(p, "constant", {{"value", Value::vec2(0.5f, 0.75f)}}), "out", ""}, card, "a");
    wire(p, {add(p, "constant", {{"value", Value::number(2)}}), "out", ""}, card, "b");
    p = *edit::setConstant(p, "m", card, "d", Value::number(7));
    EXPECT_EQ(overSquare(p, {card, "out", ""}, 1), (std::vector<float>{2.5f, 0.75f, 7}));
}

TEST(Formula, HasLinesAndFunctionsThatKnowWhatStandsAbove) {
    EXPECT_EQ(give("let x = 2\nlet y = x * 3 // six\n\nx + y"), (std::vector<float>{8}));
    EXPECT_EQ(give("let x = 2; let x = x + 1; x"), (std::vector<float>{3})) << "a name is that of the last line above";
    EXPECT_EQ(give("fn twice(v) = v * 2\nfn far(v, w) = twice(v) + twice(w)\nfar(3, 4).x"), (std::vector<float>{14}));
    EXPECT_EQ(give("let a1 = 5\nfn f(x) = x + a1\nlet x = 100\nf(1)"), (std::vector<float>{6}));
    EXPECT_EQ(give("1 +\n2 +\n(3\n+ 4)"), (std::vector<float>{10})) << "goes on after an operator and in brackets";
    EXPECT_EQ(problemOf("fn f(x) = f(x)\nf(1)"), "line 1, column 11: there is no function f.") << "none comes back to itself";
    EXPECT_EQ(problemOf("fn f(x) = g(x)\nfn g(x) = x\nf(1)"), "line 1, column 11: there is no function g.");
}

TEST(Formula, IsTheSameProgramAsItsCards) {
    Id card;
    Project text = withFormula("clamp(mix(a, b, noise(uv * 8) * 0.5 + 0.5))", &card);
    Project cards = bareProject();
    const Id noise = add(cards, "noise_2d"), mixed = add(cards, "mix"), clamped = add(cards, "clamp");
    wire(cards, {noise, "out", ""}, mixed, "mix");
    wire(cards, {mixed, "out", ""}, clamped, "in");
    const auto feed = [](Project& p, const Id& to, const char* first, const char* second) {
        const Id uv = add(p, "texcoord");
        wire(p, {uv, "out", "x"}, to, first);
        wire(p, {uv, "out", "y"}, to, second);
    };
    feed(text, card, "a", "b");
    feed(cards, mixed, "bg", "fg");
    EXPECT_EQ(overSquare(text, {card, "out", ""}, 32), overSquare(cards, {clamped, "out", ""}, 32));
    const auto operations = [](const Project& p, const Id& at) {
        const auto program = compileTap(p, masterOf(p), {at, "out", ""}).program;
        int sum = 0;
        for (const Instruction& i : program->code) sum += costOf(i).operations;
        return sum;
    };
    EXPECT_EQ(operations(text, card), operations(cards, clamped)) << "and costs the same";
}

TEST(Formula, SaysWhereAMistakeIs) {
    EXPECT_EQ(problemOf("a +"), "line 1, column 4: a value is missing; the formula ends there.");
    EXPECT_EQ(problemOf("let x = 2\nx * * 3"), "line 2, column 5: a value is missing; * stands there.");
    EXPECT_EQ(problemOf("(a, b"), "line 1, column 6: ) is missing at the end of the brackets; the formula ends there.");
    EXPECT_EQ(problemOf("a b"),
              "line 1, column 3: an operator is missing; b stands there. Lines before the last one start with let or fn.");
    EXPECT_EQ(
        problemOf("colour * 2"),
        "line 1, column 1: nothing is called colour. There are a, b, c and d, uv, uv1, position, world, normal, view, time, pi and e.");
    EXPECT_EQ(problemOf("(1, 2) + (1, 2, 3)"), "line 1, column 8: + gets 2 components and 3 components; take as many of both.");
    EXPECT_EQ(problemOf("uv.z"), "line 1, column 4: .z takes z of 2 components.");
    EXPECT_EQ(problemOf("mix(1, 2)"), "line 1, column 1: mix takes 3, and gets 2.");
    EXPECT_EQ(problemOf("noise(3)"), "line 1, column 1: noise is read at two or three components, and gets a number.");
    EXPECT_EQ(problemOf("sin + 1"), "line 1, column 1: sin is a function and takes its values in brackets.");
    EXPECT_EQ(problemOf("1 $ 2"), "line 1, column 3: $ means nothing here.");
    EXPECT_EQ(problemOf("1e99"), "line 1, column 1: the number is too large.");
    EXPECT_EQ(problemOf("let x = 1"), "line 1, column 10: the last line has to be an expression: what the card gives.");
    EXPECT_EQ(problemOf("fractal(uv, a)"), "line 1, column 13: the octaves of fractal are a whole number from 1 to 8.");
    EXPECT_EQ(problemOf("1 + 2"), "");
}

TEST(Formula, EndsSoonWhateverItIsGiven) {
    EXPECT_NE(problemOf(std::string(5000, '(')).find("nests too deep"), std::string::npos);
    EXPECT_NE(problemOf(std::string(5000, '-') + "1").find("nests too deep"), std::string::npos);
    EXPECT_NE(problemOf(std::string(kLongestFormula + 1, ' ')).find("at most"), std::string::npos);
    // Functions that call the one above twice double with every line.
    std::string doubling = "fn f0(x) = x + 1\n";
    for (int k = 1; k < 18; ++k) doubling += fmt::format("fn f{}(x) = f{}(x) + f{}(x)\n", k, k - 1, k - 1);
    EXPECT_NE(problemOf(doubling + "f17(1)").find("operations"), std::string::npos);
    std::string chain = "fn f0(x) = x + 1\n";
    for (int k = 1; k < 40; ++k) chain += fmt::format("fn f{}(x) = f{}(x)\n", k, k - 1);
    EXPECT_NE(problemOf(chain + "f39(1)").find("deep within each other"), std::string::npos);
    // Values are computed once, however often they are named.
    std::string values = "let v0 = a\n";
    for (int k = 1; k < 60; ++k) values += fmt::format("let v{} = v{} + v{}\n", k, k - 1, k - 1);
    EXPECT_EQ(problemOf(values + "v59"), "");
}

TEST(Formula, ShowsThePortsThatItReads) {
    const NodeDef& def = *findNodeDef("formula");
    const auto shown = [&](const std::string& text) {
        Node card = makeNode("formula");
        card.settings["formula"] = text;
        std::string out;
        for (const PortDef& port : def.inputs)
            if (showsInput(card, def, port)) out += port.key;
        return out;
    };
    EXPECT_EQ(shown("a*0.5+b"), "ab");
    EXPECT_EQ(shown("uv.x"), "");
    EXPECT_EQ(shown("let c = d\nc"), "d") << "what a line names is no port";
    EXPECT_EQ(shown("a +"), "abcd") << "a mistake takes no wire away";
    Node wired = makeNode("formula");
    wired.settings["formula"] = "a";
    wired.wires["d"] = {"n", "out", ""};
    EXPECT_TRUE(showsInput(wired, def, *def.input("d"))) << "what is wired is seen";
}

TEST(Formula, IsTypedInTheAddLine) {
    const Project p = bareProject();
    const auto typed = [&](const char* text) { return propose(p, masterOf(p), text).at(0); };
    EXPECT_EQ(typed("=a*0.5+b").node.settings.at("formula"), "a*0.5+b");
    EXPECT_EQ(typed("=a*0.5+b").detail, "a formula of a, b");
    EXPECT_EQ(typed("= time").detail, "a formula without inputs");
    EXPECT_EQ(typed("=a*").detail, "line 1, column 3: a value is missing; the formula ends there");
    EXPECT_EQ(typed("=").node.kind, "formula");
}

TEST(Formula, RunsInTheVertexOffset) {
    Id card;
    Project p = withFormula("normal * (0.01 * sin(time))", &card);
    channel(p, {card, "out", ""}, "vertex_offset");
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    ASSERT_TRUE(c.offset);
    EXPECT_TRUE(c.offset->readsTime());
}

} // namespace
} // namespace hue
