// What a file says that nobody here knows is named, with the nearest that is known, and kept; limits hold for files as well.
#include "core/base/words.h"
#include "core/check/check.h"
#include "core/check/unknown_words.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// The sentence of a code; empty when it was not said.
std::string saidOf(const Project& p, const std::string& code) {
    for (const Diagnostic& d : checkProject(p))
        if (d.code == code) return d.sentence;
    return {};
}

Project changed(const std::function<void(Project&, Master&)>& change) {
    Project p = bareProject();
    auto master = std::make_shared<Master>(*p.masters[0]);
    change(p, *master);
    p.masters[0] = master;
    return p;
}

TEST(UnknownWords, AreNamedWithTheNearestThatIsKnown) {
    const auto with = [](const std::string& code, const std::string& word, const std::string& nearest,
                         const std::function<void(Project&, Master&)>& change) {
        const Project p = changed(change);
        const std::string said = saidOf(p, code);
        EXPECT_NE(said.find(word), std::string::npos) << code << ": " << said;
        EXPECT_NE(said.find("The nearest is " + nearest), std::string::npos) << code << ": " << said;
        // Kept: the file has it again.
        EXPECT_NE(projectText(parseProject(projectText(p), "p")->project).find(word), std::string::npos) << code;
    };
    with("unknown.channel", "roughnes", "roughness", [](Project&, Master& m) { m.graph.channelConstants["roughnes"] = Value::number(1); });
    const auto card = [](Master& m, const std::function<void(Node&)>& change) {
        auto node = std::make_shared<Node>(makeNode("wave"));
        node->id = "n";
        change(*node);
        m.graph.nodes["n"] = node;
    };
    with("unknown.port", "freqency", "frequency",
         [&](Project&, Master& m) { card(m, [](Node& n) { n.constants["freqency"] = Value::number(2); }); });
    with("unknown.setting", "shap", "shape", [&](Project&, Master& m) { card(m, [](Node& n) { n.settings["shap"] = "sine"; }); });
    with("unknown.choice", "triangel", "triangle",
         [&](Project&, Master& m) { card(m, [](Node& n) { n.settings["shape"] = "triangel"; }); });
    with("unknown.mesh", "shape:spere", "shape:sphere", [](Project& p, Master&) { p.lineup.specimens[0].mesh = "shape:spere"; });
    with("unknown.paintwork", "sid", "side", [](Project& p, Master&) {
        p.paintworks.push_back(std::make_shared<Paintwork>(Paintwork{"side", "Side", "shape:sphere", {}, {}}));
        p.lineup.specimens[0].paintwork = "sid";
    });
    with("unknown.mesh", "shape:cub", "shape:cube", [](Project& p, Master&) {
        p.paintworks.push_back(std::make_shared<Paintwork>(Paintwork{"side", "Side", "shape:cub", {}, {}}));
    });
    with("unknown.light", "grey-bx", "grey-box", [](Project& p, Master&) { p.lineup.light = "grey-bx"; });
    with("unknown.tone", "filmc", "filmic", [](Project& p, Master&) { p.lineup.tone = "filmc"; });
    with("unknown.backdrop", "depo", "depot", [](Project& p, Master&) { p.lineup.backdrop = "depo"; });
    with("unknown.layer", "seen", "sheen", [](Project&, Master& m) { m.otherLayers.push_back("seen"); });
    with("unknown.view", "lite", "lit", [](Project& p, Master&) { p.lineup.view = "lite"; });
    with("unknown.thing", "sign", "signs", [](Project& p, Master&) { p.lineup.specimens[0].things.push_back({"sign", {}, 1, true}); });
}

// Whatever a newer version writes comes back as it was, figures to the last digit that they had.
TEST(UnknownWords, UnknownFieldsAreToldAndKept) {
    const std::string text =
        R"({"kind": "huestack project", "format": 2, "far": 1e300, "none": -0.0, "fine": 0.1234567890123456, "plain": 0.1,
        "masters": [{"id": "m", "name": "Ground", "alphaMod": "mask", "layers": ["sheen", "felt"]}]})";
    const auto first = parseProject(text, "p");
    ASSERT_TRUE(first) << first.error().sentence;
    std::vector<std::string> said;
    for (const Diagnostic& d : first->report)
        if (d.code == "unknown.field") said.push_back(d.sentence);
    ASSERT_EQ(said.size(), 5u);
    EXPECT_TRUE(std::any_of(said.begin(), said.end(), [](const std::string& s) {
        return s.find("the master Ground") != std::string::npos && s.find("The nearest is alphaMode") != std::string::npos;
    }));
    const std::string written = projectText(first->project);
    for (const char* kept : {"1e+300", "\"none\": -0.0,", "0.1234567890123456", "\"plain\": 0.1\n", "\"alphaMod\": \"mask\"", "\"felt\""})
        EXPECT_NE(written.find(kept), std::string::npos) << kept;
    const auto again = parseProject(written, "p");
    ASSERT_TRUE(again) << again.error().sentence;
    EXPECT_EQ(projectText(again->project), written);
    EXPECT_EQ(again->project.masters[0]->surface.layers, uint32_t(Layer::Sheen));
}

TEST(UnknownWords, AreNotFoundInTheDemo) {
    const auto demo = loadProject(depotFile());
    ASSERT_TRUE(demo);
    EXPECT_TRUE(demo->report.empty()) << demo->report[0].sentence;
    const auto found = unknownWords(demo->project);
    EXPECT_TRUE(found.empty()) << found[0].sentence;
}

TEST(UnknownWords, TheNearestIsTheOneThatTakesTheFewestChanges) {
    const std::vector<std::string_view> known{"metallic", "roughness", "normal", "alpha"};
    EXPECT_EQ(nearestWord("metalic", known), "metallic");
    EXPECT_EQ(nearestWord("normals", known), "normal");
    EXPECT_EQ(nearestWord("alfa", known), "alpha");
    EXPECT_EQ(nearestWord("alpha", known), "alpha");
    EXPECT_EQ(nearestWord("zzzzzzzzz", known), "") << "another word altogether";
    EXPECT_EQ(nearestWord("x", {}), "");
}

TEST(Limits, AreNotLeftByFiles) {
    const Project p = changed([](Project& all, Master& m) {
        Parameter k;
        k.id = "k";
        k.name = "Wear";
        k.hardMin = 0;
        k.hardMax = 1;
        k.standard.value = Value::number(7);
        m.parameters.push_back(k);
        Instance i;
        i.id = "i";
        i.name = "Old";
        i.parent = "m";
        i.own["k"] = {Value::number(-3), {}};
        all.instances.push_back(std::make_shared<Instance>(i));
    });
    const auto read = parseProject(projectText(p), "p");
    ASSERT_TRUE(read);
    EXPECT_FLOAT_EQ(read->project.masters[0]->parameters[0].standard.value[0], 1);
    EXPECT_FLOAT_EQ(read->project.instances[0]->own.at("k").value[0], 0);
    const auto codes = codesOf(read->report);
    EXPECT_EQ(std::count(codes.begin(), codes.end(), "parameter.out-of-limits"), 2) << "each is told";
    // What is inside is left alone, without a word.
    const auto again = parseProject(projectText(read->project), "p");
    EXPECT_TRUE(again->report.empty());
}

} // namespace
} // namespace hue
