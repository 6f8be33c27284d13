// Facts that hold for whatever is thrown at the document and its file.
#include "core/check/check.h"
#include "core/emit/emit_glsl.h"
#include "core/program/uniform_layout.h"
#include "core/project/store.h"
#include "core/surface/surface_stages.h"
#include "tests/test_graphs.h"

#include <fstream>
#include <gtest/gtest.h>
#include <map>
#include <rapidcheck/gtest.h>
#include <sstream>

namespace hue {
namespace {

using namespace test;

/// One random edit; it may be refused.
Result<Project> randomEdit(const Project& p, std::mt19937& random) {
    auto upTo = [&](size_t n) { return n ? random() % n : 0; };
    const Graph& g = masterOf(p).graph;
    auto anyNode = [&]() -> Id {
        if (g.nodes.empty()) return "nobody";
        return std::next(g.nodes.begin(), long(upTo(g.nodes.size())))->first;
    };
    auto anyInput = [&](const Id& id) -> std::string {
        const Node* n = g.find(id);
        const NodeDef* def = n ? findNodeDef(n->kind) : nullptr;
        return def && !def->inputs.empty() ? std::string(def->inputs[upTo(def->inputs.size())].key) : "in";
    };
    auto anyOutput = [&](const Id& id) -> std::string {
        const Node* n = g.find(id);
        const NodeDef* def = n ? findNodeDef(n->kind) : nullptr;
        return def && !def->outputs.empty() ? std::string(def->outputs[upTo(def->outputs.size())].key) : "out";
    };
    static constexpr const char* takes[] = {"", "", "", "r", "xy", "luma", "a", "bogus"};
    const Id a = anyNode(), b = anyNode();
    switch (upTo(16)) {
    case 0:
    case 1:
    case 2:
    case 3: return edit::addNode(p, "m", makeNode(catalogue()[upTo(catalogue().size())].key));
    case 4:
    case 5:
    case 6:
    case 7: return edit::connect(p, "m", {a, anyOutput(a), takes[upTo(8)]}, b, anyInput(b));
    case 8: return edit::connectChannel(p, "m", {a, anyOutput(a), takes[upTo(8)]}, upTo(2) ? "base_color" : "roughness");
    case 9: return edit::setConstant(p, "m", a, anyInput(a), Value{1 + int(upTo(4)), {0.5f, -2, 7, 1e6f}});
    case 10: return edit::removeNodes(p, "m", {a});
    case 11: return edit::duplicateNodes(p, "m", {a, b}, {5, 5});
    case 12: return edit::muteNodes(p, "m", {a}, upTo(2) != 0);
    case 13: {
        Parameter parameter;
        parameter.name = "P" + std::to_string(upTo(1000000));
        return edit::expose(p, "m", a, anyInput(a), parameter);
    }
    case 14:
        return masterOf(p).parameters.empty()
                   ? Result<Project>(p)
                   : edit::removeParameter(p, "m", masterOf(p).parameters[upTo(masterOf(p).parameters.size())].id);
    default: return edit::addBay(p, "m", "bay", {a});
    }
}

RC_GTEST_PROP(AnyRowOfEdits, LeavesAProjectThatCompilesOrSaysWhyAndKeepsItsWiresWhole, ()) {
    std::mt19937 random(*rc::gen::arbitrary<uint32_t>());
    Project p = bareProject();
    const int steps = *rc::gen::inRange(1, 120);
    for (int i = 0; i < steps; ++i) {
        const Result<Project> next = randomEdit(p, random);
        if (next) p = *next;
        else RC_ASSERT(!next.error().sentence.empty());
    }
    const Graph& g = masterOf(p).graph;
    for (const auto& [id, node] : g.nodes)
        for (const auto& [port, wire] : node->wires) {
            RC_ASSERT(g.find(wire.node));
            RC_ASSERT(!leadsTo(g, id, wire.node));
        }
    for (const Compilation& c :
         {compileSurface(p, masterOf(p)), compileTaps(p, masterOf(p)), compileSurface(p, masterOf(p), Constants::Live)}) {
        RC_ASSERT(validate(*c.program).empty());
        for (const Diagnostic& d : c.diagnostics) {
            RC_ASSERT(!d.sentence.empty());
            // Every offered fix can be made.
            for (const Fix& fix : d.fixes) RC_ASSERT(bool(fix.edit(p)));
        }
    }
    const std::string text = projectText(p);
    const Result<Loaded> back = parseProject(text, "x");
    RC_ASSERT(bool(back));
    RC_ASSERT(back->report.empty());
    RC_ASSERT(projectText(back->project) == text);
}

RC_GTEST_PROP(DamagedText, IsRefusedOrReadWithoutACrash, ()) {
    static const std::string whole = [] {
        std::ostringstream out;
        out << std::ifstream(depotFile()).rdbuf();
        return out.str();
    }();
    std::mt19937 random(*rc::gen::arbitrary<uint32_t>());
    std::string text = whole;
    static constexpr std::string_view pieces[] = {"null",     "-1e40", "1e999", "[]", "{}", "\"\"", "true", "99999999999999999999",
                                                  "\"luma\"", ",",     "}"};
    for (int i = 0; i < 6; ++i) {
        const size_t at = random() % text.size();
        if (random() % 2) text.replace(at, random() % 12, pieces[random() % std::size(pieces)]);
        else text[at] = char(32 + random() % 95);
    }
    const Result<Loaded> loaded = parseProject(text, "x");
    if (!loaded) RC_ASSERT(!loaded.error().sentence.empty());
    else {
        // Whatever was read can be checked, compiled and written.
        checkProject(loaded->project);
        for (const auto& i : loaded->project.instances) resolve(loaded->project, i->id);
        RC_ASSERT(bool(parseProject(projectText(loaded->project), "x")));
    }
}

/// Replaces one value of the JSON by another kind of value, which keeps it well formed.
TEST(OddValues, InAnyFieldNeverCrash) {
    const std::string depot = depotFile();
    std::ostringstream out;
    out << std::ifstream(depot).rdbuf();
    const std::string whole = out.str();
    int opened = 0;
    std::map<std::string, int> seen;
    for (size_t at = whole.find("\": "); at != std::string::npos; at = whole.find("\": ", at + 3)) {
        const size_t start = at + 3, end = whole.find_first_of(",\n", start), name = whole.rfind('"', at - 1) + 1;
        if (whole[start] == '[' || whole[start] == '{') continue;
        // Every kind of field, in a few places.
        if (++seen[whole.substr(name, at - name)] > 3) continue;
        for (const char* odd : {"null", "[1, \"x\"]", "{\"a\": 1}", "-5", "\"odd\""}) {
            std::string text = whole;
            text.replace(start, end - start, odd);
            const Result<Loaded> loaded = parseProject(text, "x");
            if (!loaded) continue;
            ++opened;
            checkProject(loaded->project);
        }
    }
    EXPECT_GT(opened, 100);
}

TEST(Sources, OfTheDemoAreWhatTheShadersReadAndTheUniformsFit) {
    const Result<Loaded> depot = loadProject(depotFile());
    for (const auto& master : depot->project.masters) {
        const auto program = compileSurface(depot->project, *master).program;
        const UniformLayout layout = uniformLayout(*program);
        const std::string text = surfaceFragmentStage(*program, layout);
        // OpenGL 4.1 promises 1024 components of uniforms to a fragment stage.
        EXPECT_LE(layout.instructions.size() * 4, 1024u) << master->name;
        for (size_t slot = 0; slot < program->maps.size(); ++slot)
            EXPECT_NE(text.find("(u_map" + std::to_string(slot) + ","), std::string::npos);
        // Only the functions that are called are written.
        const bool calls =
            std::any_of(program->code.begin(), program->code.end(), [](const Instruction& i) { return i.op == Op::Worley2; });
        EXPECT_EQ(text.find("hs_worley2") != std::string::npos, calls) << master->name;
    }
}

} // namespace
} // namespace hue
