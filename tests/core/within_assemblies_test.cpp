// What is told of cards within assemblies: the same as of cards that stand on the board.
#include "core/assemblies/fold.h"
#include "core/check/check.h"
#include "core/check/loop_advice.h"
#include "core/document/wires.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

const Graph& graphOf(const Project& p) { return masterOf(p).graph; }

const Diagnostic* told(const std::vector<Diagnostic>& list, std::string_view code) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const Diagnostic& d) { return d.code == code; });
    return it == list.end() ? nullptr : &*it;
}

/// A random graph whose roughness goes on through cards that ask for more than it gives, and through a wave that never comes back.
Project risky(uint32_t seed) {
    Project p = randomGraph(seed, 12);
    const Source base = graphOf(p).channelWires.at("roughness");
    const Id over = add(p, "divide"), root = add(p, "square_root"), power = add(p, "power", {{"in2", Value::number(2.2f)}}),
             mix = add(p, "mix"), wave = add(p, "wave", {{"frequency", Value::number(0.3f)}}), sum = add(p, "add"), both = add(p, "add");
    wire(p, base, over, "in1");
    wire(p, base, over, "in2");
    wire(p, base, root, "in");
    wire(p, base, power, "in1");
    wire(p, base, mix, "mix");
    wire(p, {wave, "out", ""}, mix, "fg");
    wire(p, {root, "out", ""}, sum, "in1");
    wire(p, {power, "out", ""}, sum, "in2");
    wire(p, {sum, "out", ""}, both, "in1");
    wire(p, {mix, "out", ""}, both, "in2");
    wire(p, {over, "out", ""}, mix, "bg");
    channel(p, {both, "out", ""}, "roughness");
    const Id one = add(p, "height_to_normal"), two = add(p, "height_to_normal"), mixed = add(p, "mix");
    wire(p, base, one, "in");
    wire(p, {one, "out", ""}, mixed, "bg");
    wire(p, {two, "out", ""}, mixed, "fg");
    return p;
}

/// What is told of values and meanings: the code and the kind of card, wherever that lies.
std::multiset<std::string> findings(const Project& p) {
    std::multiset<std::string> out;
    for (const Diagnostic& d : checkMaster(p, masterOf(p))) {
        const std::string_view about[] = {"divide.", "root.", "power.", "mix.", "channel.may", "normal.", "wire.not", "advice.no-return"};
        if (std::none_of(std::begin(about), std::end(about), [&](std::string_view a) { return d.code.starts_with(a); })) continue;
        const Master* board = p.board(d.place.master);
        const Node* card = board ? board->graph.find(d.place.node) : nullptr;
        out.insert(d.code + " " + (card ? card->kind : d.place.port));
    }
    return out;
}

TEST(WithinAssemblies, TheSameIsToldHoweverCardsAreFolded) {
    std::map<std::string, int> within;
    int folds = 0;
    for (uint32_t seed = 1; seed <= 30; ++seed) {
        std::mt19937 random(seed);
        Project p = risky(seed);
        const auto open = findings(p);
        for (int turn = 0; turn < 3; ++turn) {
            std::set<Id> chosen;
            for (int i = 0; i < 4; ++i) chosen.insert(std::next(graphOf(p).nodes.begin(), long(random() % graphOf(p).nodes.size()))->first);
            const std::set<Id> before = cardsFeeding(graphOf(p), chosen), after = cardsFedBy(graphOf(p), chosen);
            for (const Id& id : before)
                if (after.contains(id)) chosen.insert(id);
            Result<Folded> next = foldCards(p, "m", {chosen.begin(), chosen.end()}, "Part");
            if (!next) continue;
            p = std::move(next->project);
            ++folds;
            EXPECT_EQ(findings(p), open) << "seed " << seed << ", turn " << turn;
        }
        for (const Diagnostic& d : checkMaster(p, masterOf(p)))
            if (p.assembly(d.place.master)) ++within[d.code];
    }
    EXPECT_GT(folds, 60);
    for (const char* code :
         {"divide.may-be-zero", "root.may-be-negative", "power.may-be-negative", "mix.beyond", "advice.no-return", "normal.mixed-encoded"})
        EXPECT_GT(within[code], 2) << code << " came up within assemblies";
}

/// An assembly "Part" whose input leads to the divisor of a division, and two masters that hand it a constant each.
struct TwoCallers {
    Project p = bareProject();
    Id assembly, card;
    std::string input;
    TwoCallers() {
        const Id noise = add(p, "noise_2d", {{"amplitude", Value::number(1)}, {"pivot", Value::number(0)}}),
                 over = add(p, "divide", {{"in1", Value::number(1)}}), limited = add(p, "clamp");
        wire(p, {noise, "out", ""}, over, "in2");
        wire(p, {over, "out", ""}, limited, "in");
        channel(p, {limited, "out", ""}, "roughness");
        Folded f = *foldCards(p, "m", {over, limited}, "Part");
        p = f.project, assembly = f.assembly, card = f.card;
        input = p.assembly(assembly)->parameters[0].codeName;
    }
    Id cardOf(const char* kind) const {
        for (const auto& [id, node] : p.assembly(assembly)->graph.nodes)
            if (node->kind == kind) return id;
        return {};
    }
};

TEST(WithinAssemblies, AReportNamesTheAssemblyItsUserAndTheCard) {
    TwoCallers at;
    const auto list = checkMaster(at.p, masterOf(at.p));
    const Diagnostic* d = told(list, "divide.may-be-zero");
    ASSERT_TRUE(d);
    EXPECT_EQ(d->place, (Place{at.assembly, at.cardOf("divide"), "in2"}));
    EXPECT_TRUE(d->sentence.starts_with("In Part, as " + masterOf(at.p).name + " uses it: Divide divides by")) << d->sentence;
    EXPECT_NE(d->sentence.find("between -1 and 1"), std::string::npos) << d->sentence;
    // A user that hands in what never is 0 has nothing to mend.
    Project safe = at.p;
    const Id least = add(safe, "maximum", {{"in2", Value::number(0.5f)}});
    wire(safe, graphOf(safe).find(at.card)->wires.at(at.input), least, "in1");
    wire(safe, {least, "out", ""}, at.card, at.input);
    EXPECT_FALSE(told(checkMaster(safe, masterOf(safe)), "divide.may-be-zero"));
    // By itself the assembly goes by the limits of its inputs.
    EXPECT_TRUE(told(checkAssembly(safe, *safe.assembly(at.assembly)), "divide.may-be-zero"));
    Parameter narrow = at.p.assembly(at.assembly)->parameters[0];
    narrow.softMin = narrow.hardMin = 0.25f;
    safe = *edit::changeParameter(safe, at.assembly, narrow);
    EXPECT_FALSE(told(checkAssembly(safe, *safe.assembly(at.assembly)), "divide.may-be-zero"));
    // The whole project tells it once, though the assembly and a user could.
    int times = 0;
    for (const Diagnostic& each : checkProject(at.p)) {
        if (each.code != "divide.may-be-zero") continue;
        ++times;
        EXPECT_TRUE(each.sentence.starts_with("In Part: Divide divides by")) << each.sentence;
    }
    EXPECT_EQ(times, 1);
}

TEST(WithinAssemblies, AFixMendsTheAssembly) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"amplitude", Value::number(1)}, {"pivot", Value::number(0)}}),
             mix = add(p, "mix", {{"fg", Value::number(1)}});
    wire(p, {noise, "out", ""}, mix, "mix");
    channel(p, {mix, "out", ""}, "metallic");
    const Folded f = *foldCards(p, "m", {noise, mix}, "Part");
    const auto list = checkMaster(f.project, masterOf(f.project));
    const Diagnostic* d = told(list, "mix.beyond");
    ASSERT_TRUE(d);
    ASSERT_EQ(d->fixes.size(), 2u);
    const Result<Project> mended = d->fixes[0].edit(f.project);
    ASSERT_TRUE(mended) << mended.error().sentence;
    EXPECT_FALSE(told(checkMaster(*mended, masterOf(*mended)), "mix.beyond"));
    EXPECT_EQ(mended->assembly(f.assembly)->graph.nodes.size(), f.project.assembly(f.assembly)->graph.nodes.size() + 1);
    const Project silent = *d->fixes[1].edit(f.project);
    EXPECT_FALSE(told(checkMaster(silent, masterOf(silent)), "mix.beyond")) << "silenced for the master that uses it";
}

TEST(WithinAssemblies, ARateIsMendedWhereSomebodyChoseIt) {
    const auto only = [](const Project& p) {
        const auto list = loopAdvice(p, masterOf(p));
        EXPECT_EQ(list.size(), 1u);
        return list.empty() ? Diagnostic{} : list[0];
    };
    // On the card within.
    Project p = bareProject();
    const Id wave = add(p, "wave", {{"frequency", Value::number(0.3f)}}), half = add(p, "multiply", {{"in2", Value::number(0.5f)}});
    wire(p, {wave, "out", ""}, half, "in1");
    channel(p, {half, "out", ""}, "roughness");
    Folded f = *foldCards(p, "m", {wave, half}, "Pulse");
    Diagnostic d = only(f.project);
    EXPECT_EQ(d.sentence,
              "In Pulse, as " + masterOf(p).name + " uses it: Frequency of Wave does not return after the loop of 8 s; 0.25 does.");
    EXPECT_EQ(d.place.master, f.assembly);
    const Project steady = *d.fixes[0].edit(f.project);
    EXPECT_TRUE(loopAdvice(steady, masterOf(steady)).empty());

    // Handed in: on the caller's card, through one assembly within another.
    Project q = bareProject();
    const Id slow = add(q, "constant", {{"value", Value::number(0.3f)}}), fast = add(q, "wave"), two = add(q, "multiply");
    wire(q, {slow, "out", ""}, fast, "frequency");
    wire(q, {fast, "out", ""}, two, "in1");
    channel(q, {two, "out", ""}, "roughness");
    Folded inner = *foldCards(q, "m", {fast}, "Inner"), outer = *foldCards(inner.project, "m", {inner.card, two}, "Outer");
    EXPECT_TRUE(loopAdvice(outer.project, masterOf(outer.project)).empty()) << "a Constant card is no rate that was typed here";
    const std::string port = outer.project.assembly(outer.assembly)->parameters[0].codeName;
    Project typed = *edit::disconnect(outer.project, "m", outer.card, port);
    typed = *edit::setConstant(typed, "m", outer.card, port, Value::number(0.3f));
    d = only(typed);
    EXPECT_EQ(d.place.master, inner.assembly) << "told at the card that moves";
    const Project mended = *d.fixes[0].edit(typed);
    EXPECT_EQ(graphOf(mended).find(outer.card)->constants.at(port)[0], 0.25f) << "and mended where it was typed";
    EXPECT_TRUE(loopAdvice(mended, masterOf(mended)).empty());

    // By a parameter of the master.
    Parameter pace;
    pace.id = "pace", pace.name = "Pace", pace.standard.value = Value::number(0.3f);
    Project r = *edit::addParameter(outer.project, "m", pace);
    wire(r, {add(r, "parameter", {}, {{"parameter", "pace"}}), "out", ""}, outer.card, port);
    d = only(r);
    EXPECT_NE(d.sentence.find(": Pace does not return"), std::string::npos) << d.sentence;
    EXPECT_EQ(masterOf(*d.fixes[0].edit(r)).parameter("pace")->standard.value[0], 0.25f);
}

} // namespace
} // namespace hue
