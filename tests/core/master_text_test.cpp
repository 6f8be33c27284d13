// A board as lines of text: what is written is what stands there, whichever side is edited.
#include "core/check/check.h"
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/master_text/master_text.h"
#include "core/nodes/assembly_card.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "tests/random_edits.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

const Project& depot() {
    static const Project project = [] {
        const Result<Loaded> read = loadProject(depotFile());
        EXPECT_TRUE(read);
        return read ? read->project : Project{};
    }();
    return project;
}

std::string told(const ReadText& r) {
    std::string out;
    for (const FormulaProblem& p : r.problems) out += describe(p) + "\n";
    return out;
}
/// The text is right; what it makes.
ReadText read(const Project& p, const Id& board, const std::string& text, const BoardText& was = {}) {
    ReadText r = readText(p, board, text, was);
    EXPECT_TRUE(r.project) << told(r) << "\n" << text;
    if (!r.project) r.project = p;
    return r;
}
Project with(const std::string& text) { return *read(bareProject(), "m", text).project; }
const Node& cardOf(const Project& p, const ReadText& r, const std::string& name) { return *masterOf(p).graph.find(r.cards.at(name)); }

/// What the channels of a master show, over the flat square.
std::map<std::string, std::vector<float>> shown(const Project& p, const Master& m) {
    const Compilation c = compileSurface(p, m);
    EXPECT_TRUE(c.ok) << m.name << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    const Evaluator e(c.program);
    std::map<std::string, std::vector<float>> out;
    FrameInputs inputs;
    inputs.time = 0.7;
    inputs.parameter = [&](const Id& id) { return m.parameter(id) ? m.parameter(id)->standard.value : Value{}; };
    for (const auto& o : c.program->outputs) out[o.name] = overSquare(e, inputs, o.name, c.program->code[size_t(o.value)].width, 12);
    return out;
}

TEST(MasterText, EveryBoardReadsAsItIsWrittenAndALineThatStaysTouchesNothing) {
    std::vector<Project> all{depot()};
    for (uint32_t seed = 1; seed <= 12; ++seed) all.push_back(randomGraph(seed, 40));
    all.push_back(towerOf(4, 2));
    for (const Project& p : all)
        for (const Master* m : p.boards()) {
            const BoardText text = boardText(p, *m);
            const ReadText again = readText(p, m->id, text.text, text), anew = readText(p, m->id, text.text, {{}, text.cards});
            ASSERT_TRUE(again.project) << m->name << "\n" << told(again) << text.text;
            EXPECT_FALSE(again.changes) << m->name;
            EXPECT_FALSE(anew.changes) << m->name << ": every line says what its card is";
            EXPECT_EQ(again.cards, text.cards) << m->name;
            for (const auto& [id, node] : m->graph.nodes)
                EXPECT_EQ(again.project->board(m->id)->graph.nodes.at(id), node) << "the very same card";
        }
}

// Written out and read onto an empty board, a master shows the same and costs the same.
TEST(MasterText, ATextAloneMakesTheSameMaster) {
    std::vector<Project> all{depot()};
    for (uint32_t seed = 20; seed < 32; ++seed) all.push_back(randomGraph(seed, 30));
    for (const Project& p : all)
        for (const MasterPtr& m : p.masters) {
            Master empty;
            empty.id = "fresh";
            empty.name = "Fresh";
            empty.surface = m->surface;
            const Project with = *edit::addMaster(p, empty);
            const std::string text = boardText(p, *m).text;
            const ReadText made = readText(with, "fresh", text, {});
            ASSERT_TRUE(made.project) << m->name << "\n" << told(made) << text;
            const Master& fresh = *made.project->master("fresh");
            EXPECT_EQ(shown(*made.project, fresh), shown(p, *m)) << m->name;
            const Cost a = costOf(*compileSurface(*made.project, fresh).program, nullptr, {}),
                       b = costOf(*compileSurface(p, *m).program, nullptr, {});
            EXPECT_EQ(a.operations, b.operations) << m->name;
            EXPECT_EQ(a.fetches, b.fetches) << m->name;
            EXPECT_EQ(fresh.parameters.size(), m->parameters.size());
            // No new card lies upon another.
            std::set<std::pair<float, float>> places;
            for (const auto& [id, node] : fresh.graph.nodes) EXPECT_TRUE(places.insert({node->position.x, node->position.y}).second);
        }
}

TEST(MasterText, ValuesOperatorsFormulasAndCallsAreWhatTheySayTheyAre) {
    const Project p = with(R"(// stones
number wear = 0.25, 0..2
color tint = #ff8000
grain = noise_2d(scale: 6)
twice = grain * 2
pale = (0.1, 0.2, 0.3)
soft = smoothstep(0.2, 0.8, grain) * wear + uv.x
own = formula(a: grain) {
  let t = a * 2
  t * t
}
muted quiet = invert(in: soft)

base_color = pale
roughness = soft
metallic = own
alpha = 0.5
)");
    const Graph& g = masterOf(p).graph;
    ASSERT_EQ(masterOf(p).parameters.size(), 2u);
    EXPECT_EQ(masterOf(p).parameters[0].softMax, 2);
    EXPECT_EQ(masterOf(p).parameters[0].name, "Wear");
    // As IEC 61966-2-1 decodes it.
    EXPECT_NEAR(masterOf(p).parameters[1].standard.value[1], 0.2158605f, 1e-5f);
    const auto all = shown(p, masterOf(p));
    const std::vector<float>&soft = all.at("roughness"), &own = all.at("metallic");
    // The same, reckoned here from what the noise gives.
    const Id grain = [&] {
        for (const auto& [id, node] : g.nodes)
            if (node->kind == "noise_2d") return id;
        return Id{};
    }();
    const std::vector<float> noise = overSquare(p, {grain, "out", ""}, 12);
    for (size_t i = 0; i < 144; ++i) {
        const float t = std::clamp((noise[i] - 0.2f) / 0.6f, 0.f, 1.f);
        EXPECT_NEAR(soft[i], t * t * (3 - 2 * t) * 0.25f + (float(i % 12) + 0.5f) / 12, 1e-5f);
        EXPECT_NEAR(own[i], 4 * noise[i] * noise[i], 1e-5f);
    }
    EXPECT_EQ(g.channelConstants.at("alpha")[0], 0.5f);
    int muted = 0;
    for (const auto& [id, node] : g.nodes) muted += node->muted;
    EXPECT_EQ(muted, 1);
}

TEST(MasterText, OneLineChangesOneCardAndKeepsAllElse) {
    Project p = with("grain = noise_2d(scale: 6)\nsoft = clamp(in: grain)\nroughness = soft\n");
    const BoardText was = boardText(p, masterOf(p));
    p = *edit::moveNodes(p, "m", {{was.cards.at("soft"), {-700, 33}}});
    p = *edit::addBay(p, "m", "Stones", {was.cards.at("grain")});
    const auto change = [&](const std::string& from, const std::string& to) {
        std::string text = was.text;
        const size_t at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        text.replace(at, from.size(), to);
        return read(p, "m", text, was);
    };
    ReadText r = change("scale: 6", "scale: 9");
    EXPECT_TRUE(r.changes);
    EXPECT_EQ(cardOf(*r.project, r, "grain").constants.at("scale")[0], 9);
    EXPECT_EQ(masterOf(*r.project).graph.nodes.at(was.cards.at("soft")), masterOf(p).graph.nodes.at(was.cards.at("soft")));
    EXPECT_EQ(masterOf(*r.project).graph.bays.size(), 1u);
    // Another name for the same card; who reads it follows in the text.
    r = read(p, "m", "speckle = noise_2d(scale: 6)\nsoft = clamp(in: speckle)\nroughness = soft\n", was);
    EXPECT_EQ(r.cards.at("speckle"), was.cards.at("grain"));
    EXPECT_EQ(cardOf(*r.project, r, "speckle").title, "Speckle");
    EXPECT_EQ(masterOf(*r.project).graph.bays.size(), 1u) << "it lies where it lay";
    // Another node in its place keeps place and readers.
    r = change("noise_2d(scale: 6)", "cell_noise(scale: 4)");
    EXPECT_EQ(cardOf(*r.project, r, "grain").kind, "cell_noise");
    EXPECT_EQ(cardOf(*r.project, r, "soft").wires.at("in").node, was.cards.at("grain"));
    // A line that goes takes its card along, a new one brings one that lies upon no other.
    r = read(p, "m", "grain = noise_2d(scale: 6)\nother = invert(in: grain)\nroughness = other\n", was);
    EXPECT_FALSE(masterOf(*r.project).graph.find(was.cards.at("soft")));
    EXPECT_EQ(masterOf(*r.project).graph.nodes.size(), 2u);
    // Channels that are said no more show their default again.
    r = change("roughness = soft\n", "");
    EXPECT_TRUE(masterOf(*r.project).graph.channelWires.empty());
    // Parameters: a new name keeps the parameter, and what instances set.
    p = with("number wear = 0.5\ngrain = noise_2d(scale: wear)\nroughness = grain\n");
    const Id wear = masterOf(p).parameters[0].id;
    const BoardText text = boardText(p, masterOf(p));
    r = read(p, "m", "number rust = 0.75, 0..4\ngrain = noise_2d(scale: rust)\nroughness = grain\n", text);
    ASSERT_EQ(masterOf(*r.project).parameters.size(), 1u);
    EXPECT_EQ(masterOf(*r.project).parameters[0].id, wear);
    EXPECT_EQ(masterOf(*r.project).parameters[0].standard.value[0], 0.75f);
    // One that a formula still reads is missed there.
    const std::string reads = "number wear = 0.5\nsoft = wear * 2 + uv.x\nroughness = soft\n";
    const ReadText whole = read(p, "m", reads, text);
    EXPECT_FALSE(readText(*whole.project, "m", reads.substr(reads.find("soft")), {reads, whole.cards}).project);
    r = read(p, "m", "grain = noise_2d()\nroughness = grain\n", text);
    EXPECT_TRUE(masterOf(*r.project).parameters.empty());
    EXPECT_EQ(masterOf(*r.project).graph.nodes.size(), 1u) << "its card is of no use any more";
}

TEST(MasterText, WhatIsWrongIsSaidWithItsPlaceAndChangesNothing) {
    struct Wrong {
        const char* text;
        int line, column;
        const char* word;
    };
    const Wrong all[] = {
        {"grain = nois_2d()", 1, 9, "noise_2d"},
        {"grain = noise_2d(scal: 4)", 1, 18, "scale"},
        {"grain = noise_2d(scale: (1, 2, 3))", 1, 25, "of numbers"},
        {"x = 1\nroughness = y", 2, 13, "nothing is called y"},
        {"x = 1\nroughness = x.q", 2, 13, "no output or take q"},
        {"x = clamp(in: y)\ny = clamp(in: x)", 2, 1, "reads"},
        {"x = x * 2", 1, 1, "itself"},
        {"x = 1\nx = 2", 2, 1, "twice"},
        {"x = position(space: moon)", 1, 21, "object"},
        {"x = 1\n\ny = x * (2 + \n", 3, 0, "missing"},
        {"x = noise_2d(scale: 2 + 3)", 1, 23, "line of its own"},
        {"roughness = 0.2 * 3 + 1", 1, 1, "line of its own"},
        {"x = 1 $ 2", 1, 7, "$"},
        {"x = ", 1, 0, "missing"},
        {"hello there", 1, 1, "begins no line"},
        {"number wear = (1, 2)", 1, 8, "of numbers"},
        {"number wear = 1, 2..1", 1, 8, "range"},
        {"map bark = \"Nowhere\"", 1, 1, "no map Nowhere"},
        {"color tint = #12", 1, 14, "six"},
        {"x = 1e99", 1, 5, "too large"},
        {"x = formula(a: 1)", 1, 5, "braces"},
        {"x = formula() {\n  let t = \n  t\n}", 3, 0, ""},
        {"x = formula() {\n  1", 1, 15, "}"},
        {"x = \"words", 1, 5, "\""},
        {"x = 1\ny = x + uv.x * z", 2, 16, "nothing is called z"},
        {"number wear = 1\nwear = noise_2d()", 2, 1, "parameter already"},
        {"emissive = (1, 2)", 1, 12, "3 of numbers"},
        {"x = (1, 2, 3, 4, 5)", 1, 0, "four"},
        {"x = 1\nb2 = 2\nc2 = 3\nd2 = 4\ne2 = 5\ny = x + b2 * c2 - d2 / e2", 6, 24, "four cards"},
        {"x = image(map: \"Nowhere\")", 1, 16, "no map Nowhere"},
    };
    const Project p = bareProject();
    for (const Wrong& w : all) {
        const ReadText r = readText(p, "m", w.text, {});
        EXPECT_FALSE(r.project) << w.text;
        ASSERT_FALSE(r.problems.empty()) << w.text;
        EXPECT_EQ(r.problems[0].at.line, w.line) << w.text << ": " << told(r);
        if (w.column) { EXPECT_EQ(r.problems[0].at.column, w.column) << w.text << ": " << told(r); }
        EXPECT_NE(told(r).find(w.word), std::string::npos) << w.text << ": " << told(r);
    }
    // Each wrong line is told, not the first alone.
    EXPECT_EQ(readText(p, "m", "x = nois()\ny = 1\nz = sparkle()\n", {}).problems.size(), 2u);
    EXPECT_FALSE(readText(p, "m", std::string(kLongestText + 1, ' '), {}).project);
    EXPECT_FALSE(readText(p, "nobody", "x = 1", {}).project);
}

TEST(MasterText, RemarksAndArrangementStayWhenTheBoardIsEdited) {
    Project p = bareProject();
    const std::string written =
        "// the ground\ngrain   = noise_2d( scale: 6 )   // fine\n\n// what is seen\nsoft = clamp(in: grain)\nroughness = soft // matt\n";
    const ReadText r = read(p, "m", written);
    p = *r.project;
    BoardText text{written, r.cards};
    // A value of one card: its line alone, and the remark behind it stays.
    Project next = *edit::setConstant(p, "m", text.cards.at("soft"), "low", Value::number(0.25f));
    text = followed(text, next, "m");
    EXPECT_EQ(text.text, "// the ground\ngrain   = noise_2d( scale: 6 )   // fine\n\n// what is seen\nsoft = clamp(in: grain, low: "
                         "0.25)\nroughness = soft // matt\n");
    p = next;
    // Another title: the name follows wherever it stands, and nothing else moves.
    next = *edit::renameNode(p, "m", text.cards.at("grain"), "Moss mask");
    text = followed(text, next, "m");
    EXPECT_NE(text.text.find("moss_mask   = noise_2d( scale: 6 )   // fine"), std::string::npos) << text.text;
    EXPECT_NE(text.text.find("clamp(in: moss_mask, low"), std::string::npos) << text.text;
    p = next;
    // A card that comes stands before the line that reads it; one that goes takes its line along.
    const Id added = add(next, "invert");
    wire(next, {text.cards.at("moss_mask"), "out", ""}, added, "in");
    wire(next, {added, "out", ""}, text.cards.at("soft"), "in");
    text = followed(text, next, "m");
    EXPECT_LT(text.text.find("invert(in: moss_mask)"), text.text.find("soft = ")) << text.text;
    EXPECT_EQ(linesOfCards(text).at(added), 5);
    EXPECT_EQ(cardOnLine(text, 5), added);
    EXPECT_EQ(cardOnLine(text, 1), "");
    p = next;
    next = *edit::removeNodes(p, "m", {added});
    text = followed(text, next, "m");
    EXPECT_EQ(text.text.find("invert"), std::string::npos);
    for (const char* remark : {"// the ground", "// fine", "// what is seen", "// matt"})
        EXPECT_NE(text.text.find(remark), std::string::npos) << remark;
}

/// Some wire or input of the board leads to what is not there.
bool dangles(const Project& p, const Master& m) {
    const auto missing = [&](const Source& s) {
        const Node* node = m.graph.find(s.node);
        const NodeDef* def = node ? nodeDefOf(p, *node) : nullptr;
        return !def || !def->output(s.port);
    };
    for (const auto& [key, s] : m.graph.channelWires)
        if (missing(s)) return true;
    for (const auto& [id, node] : m.graph.nodes)
        for (const auto& [port, s] : node->wires)
            if (missing(s)) return true;
    return false;
}

std::string firstDifference(const std::string& a, const std::string& b) {
    const size_t at = size_t(std::mismatch(a.begin(), a.end(), b.begin(), b.end()).first - a.begin());
    const size_t from = at < 300 ? 0 : at - 300;
    return "\nbefore: " + a.substr(from, 400) + "\nafter: " + b.substr(from, 400);
}

// Whatever is done to a project, the text that followed is right, stands for the board as it is, and keeps its remarks.
TEST(MasterText, ATextThatFollowsAnyEditStandsForTheBoard) {
    std::mt19937 random(5);
    Project p = depot();
    std::map<Id, BoardText> texts;
    for (const Master* m : p.boards()) {
        texts[m->id] = boardText(p, *m);
        texts[m->id].text = "// first\n" + texts[m->id].text + "// last\n";
    }
    int changed = 0, tried = 0;
    while (tried < 700) {
        const AnyEdit edit = anyEdit(p, random);
        if (!edit.next) continue;
        ++tried;
        for (auto it = texts.begin(); it != texts.end();) {
            const Master *was = p.board(it->first), *is = edit.next->board(it->first);
            if (!is) {
                it = texts.erase(it);
                continue;
            }
            BoardText& text = it->second;
            ++it;
            if (was == is && p.assemblies == edit.next->assemblies && p.maps == edit.next->maps) continue;
            text = followed(text, *edit.next, is->id);
            // Every line read anew, none passed over because it is as it was.
            const ReadText again = readText(*edit.next, is->id, text.text, {{}, text.cards});
            // A wire may start at an output that is not there any more; the line says so, as the board does.
            if (!again.project && dangles(*edit.next, *is)) continue;
            ASSERT_TRUE(again.project) << edit.name << "\n" << told(again) << text.text;
            ASSERT_FALSE(again.changes) << edit.name << firstDifference(projectText(*edit.next), projectText(*again.project));
            EXPECT_EQ(again.cards, text.cards) << edit.name;
            ASSERT_TRUE(text.text.starts_with("// first\n")) << edit.name << "\n" << text.text.substr(0, 200);
            ASSERT_NE(text.text.find("// last\n"), std::string::npos) << edit.name;
            ++changed;
        }
        p = *edit.next;
    }
    EXPECT_GT(changed, 150) << "else little was tried";
}

TEST(MasterText, LinesBecomeCardsBesideThoseThatStandThere) {
    Project p = with("grain = noise_2d(scale: 6)\nroughness = grain\n");
    std::vector<Id> made;
    const ReadText r = addLines(p, "m", "soft = clamp(in: grain)\nsum = soft + 0.5", {400, 300}, &made);
    ASSERT_TRUE(r.project) << told(r);
    const Graph& g = masterOf(*r.project).graph;
    EXPECT_EQ(g.nodes.size(), 3u);
    EXPECT_EQ(made.size(), 2u);
    EXPECT_EQ(g.find(r.cards.at("soft"))->wires.at("in").node, masterOf(p).graph.channelWires.at("roughness").node);
    EXPECT_TRUE(g.channelWires.contains("roughness")) << "nothing is removed";
    EXPECT_TRUE(looksLikeLines("x = 1"));
    EXPECT_FALSE(looksLikeLines("Dear Ms Ember,\nthe tram is late."));
    EXPECT_FALSE(looksLikeLines("{\"cards\": []}"));
    // And back: lines of some cards alone.
    EXPECT_EQ(linesOf(*r.project, masterOf(*r.project), {r.cards.at("sum")}), "sum = soft + 0.5\n");
}

} // namespace
} // namespace hue
