// The surface function in other languages, held against their own validators where there are any.
#include "core/emit/source_lines.h"
#include "core/languages/languages.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <fmt/format.h>
#include <fstream>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

const std::string kDepot = depotFile();

Project depot() {
    auto read = loadProject(kDepot);
    EXPECT_TRUE(read);
    return read->project;
}

std::string written(const Project& p, const Master& m, Language language) {
    const Compilation compiled = compileSurface(p, m);
    const auto text = surfaceFunction(*compiled.program, p, m, language);
    EXPECT_TRUE(text) << m.name << ": " << (text ? "" : text.error().sentence);
    return text ? *text : std::string();
}

int run(const std::string& command) { return std::system((command + " > /dev/null 2>&1").c_str()); }

/// Instructions that stand in functions: what is executed, not what is declared.
int instructionsIn(const fs::path& spirv) {
    const fs::path text = spirv.string() + ".txt";
    EXPECT_EQ(run(fmt::format("spirv-dis --no-header {} -o {}", spirv.string(), text.string())), 0);
    std::ifstream in(text);
    int out = 0;
    bool inside = false;
    for (std::string line; std::getline(in, line);) {
        if (line.find("OpFunction ") != std::string::npos) inside = true;
        out += inside;
        if (line.find("OpFunctionEnd") != std::string::npos) inside = false;
    }
    return out;
}

class Languages : public InFolder {};

TEST_F(Languages, SpirvOfEveryMasterIsValidAndLean) {
    const Project p = depot();
    int before = 0, after = 0;
    for (const auto& m : p.masters) {
        const fs::path file = folder / "a.spv", smaller = folder / "b.spv";
        std::ofstream(file, std::ios::binary) << written(p, *m, Language::Spirv);
        EXPECT_EQ(run(fmt::format("spirv-val --target-env opengl4.5 {}", file.string())), 0) << m->name;
        ASSERT_EQ(run(fmt::format("spirv-opt -O {} -o {}", file.string(), smaller.string())), 0) << m->name;
        before += instructionsIn(file), after += instructionsIn(smaller);
    }
    EXPECT_GT(before, 1000);
    EXPECT_GE(after, before * 97 / 100) << "of " << before << " instructions the standard optimizer still finds " << before - after
                                        << " to drop";
}

TEST_F(Languages, EveryMasterIsInEveryOneAndNamesItsParameters) {
    const Project p = depot();
    for (const auto& m : p.masters)
        for (const LanguageDef& language : languages()) {
            if (!language.text) continue;
            const std::string text = written(p, *m, language.language);
            EXPECT_NE(text.find("hs_material"), std::string::npos) << m->name << " in " << language.name << " keeps its function";
            // Nothing of the preview's targets, and no value that the reader would have to compute.
            EXPECT_EQ(text.find("hs_write"), std::string::npos);
            EXPECT_EQ(text.find("u_values"), std::string::npos);
            const Compilation compiled = compileSurface(p, *m);
            for (const Id& id : compiled.program->parameters)
                EXPECT_NE(text.find("p_" + m->parameter(id)->codeName), std::string::npos)
                    << m->name << " in " << language.name << " does not name " << m->parameter(id)->name;
        }
}

TEST_F(Languages, ComputeWhatTheSurfaceDoes) {
    // Each text has what its language calls the same things.
    const Project p = depot();
    const Master& m = **std::find_if(p.masters.begin(), p.masters.end(), [](const auto& x) { return x->name == "Bodywork"; });
    EXPECT_NE(written(p, m, Language::Glsl).find("#version 450"), std::string::npos);
    EXPECT_NE(written(p, m, Language::GlslEs).find("#version 310 es"), std::string::npos);
    EXPECT_NE(written(p, m, Language::Hlsl).find("SV_Target0"), std::string::npos);
    EXPECT_NE(written(p, m, Language::Hlsl).find(".Sample("), std::string::npos);
    EXPECT_NE(written(p, m, Language::Msl).find("#include <metal_stdlib>"), std::string::npos);
    EXPECT_NE(written(p, m, Language::Msl).find("fragment "), std::string::npos);
    // GLSL ES is GLSL again: it compiles to valid SPIR-V.
    std::ofstream(folder / "es.frag") << written(p, m, Language::GlslEs);
    if (run("command -v glslangValidator") == 0) { EXPECT_EQ(run(fmt::format("glslangValidator {}", (folder / "es.frag").string())), 0); }
}

TEST_F(Languages, TakeNamesThatTheyWouldMistake) {
    Project p = bareProject();
    for (const char* code : {"float", "half__way", "sampler", "Ångström", "half__way_"}) {
        Parameter q;
        q.id = code, q.name = std::string("Name of ") + code, q.codeName = code;
        q.standard.value = Value::number(0.5f);
        p = *edit::addParameter(p, "m", q);
    }
    Id sum;
    const std::vector<Parameter> parameters = masterOf(p).parameters; // the master is another after each edit
    for (const Parameter& q : parameters) {
        const Id card = add(p, "parameter", {}, {{"parameter", q.id}}), next = add(p, "add");
        wire(p, {card, "out", ""}, next, "in1");
        if (!sum.empty()) wire(p, {sum, "out", ""}, next, "in2");
        sum = next;
    }
    channel(p, {sum, "out", ""}, "roughness");
    for (const LanguageDef& language : languages()) EXPECT_FALSE(written(p, masterOf(p), language.language).empty()) << language.name;
    EXPECT_EQ(written(p, masterOf(p), Language::Glsl).find("__"), std::string::npos) << "two underscores belong to the language";
}

TEST_F(Languages, OfEveryNodeAreValid) {
    int tried = 0;
    for (const NodeDef& def : catalogue()) {
        if (def.outputs.empty() || def.outputs[0].width == kMapPort || def.key == "parameter") continue;
        Project p = bareProject();
        const Id node = feedNode(p, def, {}, 1);
        for (const PortDef& out : def.outputs)
            if (out.width != kMapPort)
                channel(p, {node, std::string(out.key), out.width > 1 || out.width == kAnyWidth ? "" : ""}, "base_color");
        const fs::path file = folder / "n.spv";
        std::ofstream(file, std::ios::binary) << written(p, masterOf(p), Language::Spirv);
        EXPECT_EQ(run(fmt::format("spirv-val --target-env opengl4.5 {}", file.string())), 0) << def.key;
        EXPECT_FALSE(written(p, masterOf(p), Language::Hlsl).empty()) << def.key;
        EXPECT_FALSE(written(p, masterOf(p), Language::Msl).empty()) << def.key;
        ++tried;
    }
    EXPECT_GT(tried, 100);
}

TEST_F(Languages, EveryLineOfTheSurfaceKnowsItsCard) {
    const Project p = depot();
    for (const auto& m : p.masters) {
        const Compilation compiled = compileSurface(p, *m);
        std::map<Id, int> first;
        for (const LanguageDef& language : languages()) {
            if (!language.text) continue;
            std::map<Id, int> lines;
            const std::string text = written(p, *m, language.language);
            std::string again;
            for (const SourceLine& line : sourceLines(*compiled.program, text)) {
                again += line.text + "\n";
                if (!line.card.empty()) ++lines[line.card];
            }
            EXPECT_EQ(again.substr(0, text.size()), text) << "nothing of the text is lost";
            for (const auto& [card, count] : lines) EXPECT_TRUE(m->graph.find(card)) << card;
            // The cards that cost something have lines, in every language the same ones.
            if (language.language == Language::Glsl) first = lines;
            EXPECT_EQ(lines, first) << m->name << " in " << language.name;
        }
        int costly = 0, lit = 0;
        for (const auto& [card, cost] : compiled.cards)
            if (cost.rate == Rate::Pixel && cost.operations > 0) ++costly, lit += first.contains(card);
        EXPECT_EQ(lit, costly) << m->name;
    }
}

TEST_F(Languages, ComeFromTheCommandLineToo) {
    const std::string file = (folder / "setts.spv").string();
    EXPECT_EQ(runHsk("shader " + kDepot + " --of Setts --language spirv --out " + file).code, 0);
    EXPECT_EQ(run("spirv-val --target-env opengl4.5 " + file), 0);
    const auto printed = runHsk("shader " + kDepot + " --of Setts --language hlsl");
    EXPECT_EQ(printed.code, 0);
    EXPECT_NE(printed.output.find("SV_Target0"), std::string::npos);
    const auto refused = runHsk("shader " + kDepot + " --of Setts --language spirv");
    EXPECT_EQ(refused.code, 2);
    EXPECT_NE(refused.output.find("--out"), std::string::npos) << refused.output;
    EXPECT_EQ(runHsk("shader " + kDepot + " --of Setts --language hlsl --out /nowhere/a.hlsl").code, 2);
}

} // namespace
} // namespace hue
