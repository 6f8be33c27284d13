// Graphs used as nodes: what they compute, cost and are called, wherever they stand.
#include "core/assemblies/breaks.h"
#include "core/assemblies/equal_groups.h"
#include "core/assemblies/fold.h"
#include "core/assemblies/library.h"
#include "core/check/check.h"
#include "core/document/wires.h"
#include "core/maps/map_levels.h"
#include "core/nodes/add_line.h"
#include "core/nodes/assembly_card.h"
#include "core/program/program.h"
#include "core/project/assembly_file.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

constexpr int kSide = 8;

const Graph& graphOf(const Project& p) { return masterOf(p).graph; }
const Node& cardIn(const Project& p, const Id& id) { return *graphOf(p).find(id); }

Folded folded(const Project& p, const std::vector<Id>& cards, const std::string& name = "Part") {
    Result<Folded> out = foldCards(p, "m", cards, name);
    EXPECT_TRUE(out) << (out ? "" : out.error().sentence);
    return out ? std::move(*out) : Folded{p, {}, {}};
}

std::vector<float> channelOf(const Project& p, const std::string& key) { return overSquare(p, graphOf(p).channelWires.at(key), kSide); }

void expectSame(const std::vector<float>& a, const std::vector<float>& b, const std::string& what) {
    ASSERT_EQ(a.size(), b.size()) << what;
    for (size_t i = 0; i < a.size(); ++i) ASSERT_NEAR(a[i], b[i], 1e-5f * std::max(1.f, std::fabs(a[i]))) << what << ", value " << i;
}

/// Cards by chance, with those that lie between them.
std::vector<Id> someCards(const Graph& graph, std::mt19937& random, size_t count) {
    std::set<Id> chosen;
    for (size_t i = 0; i < count; ++i) chosen.insert(std::next(graph.nodes.begin(), long(random() % graph.nodes.size()))->first);
    const std::set<Id> before = cardsFeeding(graph, chosen), after = cardsFedBy(graph, chosen);
    for (const Id& id : before)
        if (after.contains(id)) chosen.insert(id);
    return {chosen.begin(), chosen.end()};
}

int operationsOf(const Project& p) {
    const auto program = compileSurface(p, masterOf(p)).program;
    int sum = 0;
    for (const Instruction& i : program->code) sum += costOf(i).operations;
    return sum;
}

/// noise * gain, with a parameter Gain that feeds the product.
struct Small {
    Project p = bareProject();
    Id noise = add(p, "noise_2d"), gain = add(p, "constant", {{"value", Value::number(0.5f)}}), product = add(p, "multiply");
    Small() {
        wire(p, {noise, "out", ""}, product, "in1");
        wire(p, {gain, "out", ""}, product, "in2");
        channel(p, {product, "out", ""}, "roughness");
    }
};

TEST(Assemblies, ShowAndCostWhatTheirCardsWouldHoweverTheyAreFolded) {
    int nested = 0;
    for (uint32_t seed = 1; seed <= 24; ++seed) {
        std::mt19937 random(seed);
        Project p = randomGraph(seed, 24);
        const std::vector<float> color = channelOf(p, "base_color"), rough = channelOf(p, "roughness");
        const int operations = operationsOf(p);
        for (int turn = 0; turn < 3; ++turn) {
            Result<Folded> next = foldCards(p, "m", someCards(graphOf(p), random, 3), "Part");
            if (!next) continue; // a wire of four components, or nothing but constants that lead nowhere
            p = std::move(next->project);
            const std::string what = "seed " + std::to_string(seed) + ", turn " + std::to_string(turn);
            expectSame(channelOf(p, "base_color"), color, what);
            expectSame(channelOf(p, "roughness"), rough, what);
            EXPECT_EQ(operationsOf(p), operations) << what;
            for (const AssemblyPtr& a : p.assemblies) nested += !assembliesOn(p, a->graph, false).empty();
        }
        // And apart again, in any order.
        for (bool any = true; any;) {
            any = false;
            for (const auto& [id, node] : graphOf(p).nodes) {
                if (!isAssembly(*node)) continue;
                Result<Unfolded> next = unfoldCard(p, "m", id);
                ASSERT_TRUE(next) << next.error().sentence;
                p = std::move(next->project);
                any = true;
                break;
            }
        }
        expectSame(channelOf(p, "base_color"), color, "unfolded, seed " + std::to_string(seed));
        expectSame(channelOf(p, "roughness"), rough, "unfolded, seed " + std::to_string(seed));
    }
    EXPECT_GT(nested, 5) << "assemblies within assemblies came up";
}

TEST(Assemblies, TakeTheirPortsFromWhatTheWiresWere) {
    Small s;
    Parameter gain;
    gain.name = "Gain";
    gain.unit = "m";
    s.p = *edit::expose(s.p, "m", s.gain, "value", gain);
    const Folded f = folded(s.p, {s.noise, s.product, s.gain}, "Grime");
    const Assembly& a = *f.project.assembly(f.assembly);
    EXPECT_EQ(a.name, "Grime");
    ASSERT_EQ(a.parameters.size(), 1u) << "the parameter's card stays outside, and feeds an input";
    EXPECT_EQ(a.parameters[0].name, "Gain");
    EXPECT_EQ(a.parameters[0].unit, "m");
    EXPECT_TRUE(graphOf(f.project).find(s.gain));
    EXPECT_FALSE(graphOf(f.project).find(s.noise));
    const NodeDef& def = *nodeDefOf(f.project, cardIn(f.project, f.card));
    ASSERT_EQ(def.outputs.size(), 1u);
    EXPECT_EQ(graphOf(f.project).channelWires.at("roughness").node, f.card);
    EXPECT_EQ(graphOf(f.project).channelWires.at("roughness").port, def.outputs[0].key);
    EXPECT_EQ(cardTitle(f.project, masterOf(f.project), f.card), "Grime");
    EXPECT_EQ(usesOf(f.project, f.assembly).size(), 1u);
    // The cards of an assembly are told of as one, and it costs what they did.
    const Compilation compiled = compileSurface(f.project, masterOf(f.project));
    EXPECT_GT(compiled.cards.at(f.card).operations, 0);
    EXPECT_EQ(compiled.ports.at({f.card, std::string(def.outputs[0].key)}).width, 1);
}

TEST(Assemblies, RefuseWhatCannotBeFoldedInWords) {
    Small s;
    const Id half = add(s.p, "multiply", {{"in2", Value::number(0.5f)}}), sum = add(s.p, "add");
    wire(s.p, {s.noise, "out", ""}, half, "in1");
    wire(s.p, {half, "out", ""}, sum, "in1");
    wire(s.p, {s.product, "out", ""}, sum, "in2");
    const auto around = foldCards(s.p, "m", {s.noise, sum}, "Part");
    ASSERT_FALSE(around);
    EXPECT_EQ(around.error().code, "assembly.around");
    EXPECT_EQ(foldCards(s.p, "m", {}, "Part").error().code, "assembly.nothing-selected");
    const Id note = add(s.p, "note");
    EXPECT_EQ(foldCards(s.p, "m", {note}, "Part").error().code, "assembly.no-output");
    const Id four = add(s.p, "combine", {}, {{"components", "4"}}), reads = add(s.p, "separate");
    wire(s.p, {four, "out", ""}, reads, "in");
    EXPECT_EQ(foldCards(s.p, "m", {reads}, "Part").error().code, "assembly.four-components");
}

TEST(Assemblies, FollowWhenTheirPortsAreRenamed) {
    Small s;
    Folded f = folded(s.p, {s.noise, s.product});
    const std::vector<float> before = channelOf(f.project, "roughness");
    const Assembly* a = f.project.assembly(f.assembly);
    Parameter renamed = a->parameters[0];
    renamed.name = "How much";
    renamed.codeName = "how_much";
    Project p = *edit::changeParameter(f.project, f.assembly, renamed);
    p = *edit::renameNode(p, f.assembly, cardOf(*p.assembly(f.assembly)).outputs[0].card, "Dirt");
    EXPECT_TRUE(cardIn(p, f.card).wires.contains("how_much"));
    EXPECT_EQ(graphOf(p).channelWires.at("roughness").port, "dirt");
    expectSame(channelOf(p, "roughness"), before, "after renaming");
    // A value on the card follows as well.
    p = *edit::disconnect(p, "m", f.card, "how_much");
    p = *edit::setConstant(p, "m", f.card, "how_much", Value::number(0.25f));
    renamed.codeName = "share";
    p = *edit::changeParameter(p, f.assembly, renamed);
    EXPECT_EQ(cardIn(p, f.card).constants.at("share"), Value::number(0.25f));
}

TEST(Assemblies, ReadWhatTheyFollowWhileNothingIsWired) {
    // Three inputs that only hand on: what they read must be what the cards of that name give.
    Project p = bareProject();
    Assembly a;
    a.id = "a";
    a.name = "Read";
    const std::tuple<const char*, Follows, ParameterType> inputs[] = {{"uv", Follows::Uv, ParameterType::Vector2},
                                                                      {"normal", Follows::Normal, ParameterType::Vector3},
                                                                      {"position", Follows::Position, ParameterType::Vector3}};
    for (const auto& [name, follows, type] : inputs) {
        Parameter q;
        q.id = q.name = q.codeName = name;
        q.type = type;
        q.follows = follows;
        a.parameters.push_back(q);
        Node in = makeNode("parameter"), out = makeNode("output");
        in.settings["parameter"] = name;
        out.title = name;
        out.wires["in"] = {in.id, "out", ""};
        a.graph.nodes[in.id] = std::make_shared<Node>(in);
        a.graph.nodes[out.id] = std::make_shared<Node>(out);
    }
    p = *edit::addAssembly(p, a);
    const Node card = makeAssemblyNode("a");
    p = *edit::addNode(p, "m", card);
    const Id plain[] = {add(p, "texcoord"), add(p, "normal"), add(p, "position")};
    for (size_t i = 0; i < 3; ++i)
        expectSame(overSquare(p, {card.id, std::get<0>(inputs[i]), ""}, kSide), overSquare(p, {plain[i], "out", ""}, kSide),
                   std::get<0>(inputs[i]));
    EXPECT_TRUE(edit::exposablePorts(p, graphOf(p), card.id).empty()) << "none of them is better as one value";
    const Unfolded apart = *unfoldCard(p, "m", card.id);
    EXPECT_EQ(apart.cards.size(), 0u) << "nothing reads them, so nothing needs to stand there";
}

TEST(Assemblies, LeaveNoWireOfACardThatIsGoneWhenTheyAreTakenApart) {
    Small s;
    const Folded f = folded(s.p, {s.noise, s.product}, "Grime");
    // Read at outputs that it has not, as after a newer version came in.
    Graph graph = graphOf(f.project);
    auto reader = std::make_shared<Node>(makeNode("add"));
    reader->wires["in1"] = {f.card, "gone", {}};
    reader->wires["in2"] = graph.channelWires.at("roughness");
    graph.nodes[reader->id] = reader;
    graph.channelWires["metallic"] = {f.card, "gone", {}};
    const Project p = *edit::setGraph(f.project, "m", graph);
    const Result<Unfolded> apart = unfoldCard(p, "m", f.card);
    ASSERT_TRUE(apart) << apart.error().sentence;
    const Graph& now = graphOf(apart->project);
    EXPECT_FALSE(now.channelWires.contains("metallic"));
    EXPECT_TRUE(now.channelWires.contains("roughness"));
    EXPECT_FALSE(now.find(reader->id)->wires.contains("in1"));
    EXPECT_TRUE(now.find(reader->id)->wires.contains("in2"));
    for (const auto& [id, node] : now.nodes)
        for (const auto& [port, wire] : node->wires) EXPECT_TRUE(now.find(wire.node)) << port;
}

TEST(Assemblies, HandMapsIn) {
    Project p = bareProject();
    const Id image = add(p, "image", {}, {{"map", "t1"}});
    channel(p, {image, "color", ""}, "base_color");
    for (const char* id : {"t1", "t2"}) {
        MapFile map;
        map.id = map.name = id;
        map.path = std::string(id) + ".png";
        p = *edit::addMap(p, map);
    }
    Parameter look;
    look.name = "Look";
    look.codeName = "look";
    look.id = "p";
    look.type = ParameterType::Map;
    look.standard.map = "t1";
    p = *edit::addParameter(p, "m", look);
    Node card = makeNode("parameter");
    card.settings["parameter"] = "p";
    p = *edit::addNode(p, "m", card);
    wire(p, {card.id, "out", ""}, image, "map");
    Folded f = folded(p, {image});
    const auto slot = [](const Project& q) { return compileSurface(q, masterOf(q)).program->maps.at(0); };
    EXPECT_EQ(slot(f.project).parameter, "p") << "through the wire";
    p = *edit::disconnect(f.project, "m", f.card, "look");
    EXPECT_EQ(slot(p).map, "t1") << "the default of the input";
    p = *edit::setSetting(p, "m", f.card, "look", "t2");
    EXPECT_EQ(slot(p).map, "t2") << "chosen on the card";
    EXPECT_EQ(edit::removeMap(p, "t2").error().code, "map.in-use");
    EXPECT_EQ(edit::removeMap(p, "t1").error().code, "map.in-use") << "an assembly reads it";
    Result<Unfolded> apart = unfoldCard(p, "m", f.card);
    ASSERT_TRUE(apart);
    EXPECT_EQ(slot(apart->project).map, "t2");
    // A map into numbers is an error of whoever uses the assembly as well.
    Node power = makeNode("power");
    Project wrong = *edit::addNode(p, f.assembly, power);
    const Assembly& a = *wrong.assembly(f.assembly);
    Id in;
    for (const auto& [id, node] : a.graph.nodes)
        if (node->kind == "parameter") in = id;
    wrong = *edit::connect(wrong, f.assembly, {in, "out", ""}, power.id, "in1");
    wrong = *edit::connect(wrong, f.assembly, {power.id, "out", ""}, cardOf(*wrong.assembly(f.assembly)).outputs[0].card, "in");
    EXPECT_FALSE(compileSurface(wrong, masterOf(wrong)).ok);
}

TEST(Assemblies, NeverContainThemselves) {
    Small s;
    Folded inner = folded(s.p, {s.noise, s.product}, "Inner");
    Folded outer = folded(inner.project, {inner.card}, "Outer");
    EXPECT_EQ(edit::addNode(outer.project, inner.assembly, makeAssemblyNode(outer.assembly)).error().code, "assembly.holds-itself");
    EXPECT_EQ(edit::addNode(outer.project, inner.assembly, makeAssemblyNode(inner.assembly)).error().code, "assembly.holds-itself");
    // Nor by making a card stand for something else.
    Id within;
    for (const auto& [id, node] : outer.project.assembly(outer.assembly)->graph.nodes)
        if (isAssembly(*node)) within = id;
    EXPECT_EQ(edit::setSetting(outer.project, outer.assembly, within, "assembly", outer.assembly).error().code, "assembly.holds-itself");
    EXPECT_EQ(edit::setSetting(outer.project, outer.assembly, within, "assembly", "nobody").error().code, "edit.no-assembly");
    const CopiedCards cards = edit::copyCards(outer.project, "m", {outer.card});
    EXPECT_EQ(edit::pasteCards(outer.project, inner.assembly, cards, {}).error().code, "assembly.holds-itself");
    // A file may say otherwise.
    Project p = outer.project;
    auto loop = std::make_shared<Assembly>(*p.assembly(inner.assembly));
    const Node card = makeAssemblyNode(outer.assembly);
    loop->graph.nodes[card.id] = std::make_shared<Node>(card);
    for (AssemblyPtr& slot : p.assemblies)
        if (slot->id == loop->id) slot = loop;
    const std::vector<std::string> codes = codesOf(checkProject(p));
    EXPECT_TRUE(holds(codes, "assembly.holds-itself"));
    EXPECT_FALSE(holds(codes, "wire.no-source")) << "one sentence is enough";
    for (const Proposal& o : propose(p, *p.board(inner.assembly), ""))
        EXPECT_NE(o.title, "Outer") << "none that holds the board is offered";
}

TEST(Assemblies, NestTwoHundredDeepAndSayWhenThereIsMore) {
    EXPECT_TRUE(compileSurface(towerOf(200, 1), masterOf(towerOf(200, 1))).ok);
    const Project deep = towerOf(201, 1);
    EXPECT_EQ(codesOf(compileSurface(deep, masterOf(deep)).diagnostics), std::vector<std::string>{"assembly.too-deep"});
    // Two of each, sixty levels deep, would be more than there are grains of sand.
    const Project wide = towerOf(60, 2);
    const Compilation compiled = compileSurface(wide, masterOf(wide));
    EXPECT_FALSE(compiled.ok);
    EXPECT_TRUE(holds(codesOf(compiled.diagnostics), "assembly.too-large"));
}

TEST(Assemblies, TellOfWhatIsWrongWhereItCanBeMended) {
    Small s;
    Folded f = folded(s.p, {s.noise, s.product});
    // An error within: told once, at the card within, though two cards stand for it.
    Project p = *edit::addNode(f.project, "m", makeAssemblyNode(f.assembly));
    Id product;
    for (const auto& [id, node] : p.assembly(f.assembly)->graph.nodes)
        if (node->kind == "multiply") product = id;
    p = *edit::setTake(p, f.assembly, product, "in1", "g");
    int told = 0;
    for (const Diagnostic& d : checkProject(p)) {
        if (d.code != "wire.take") continue;
        ++told;
        EXPECT_EQ(d.place.master, f.assembly);
        EXPECT_EQ(d.place.node, product);
    }
    EXPECT_EQ(told, 1);
    EXPECT_TRUE(compileSurface(p, masterOf(p)).atFault.contains(f.card)) << "the card is marked on the board that it stands on";
    // An output that is gone is told of where it was read.
    p = *edit::removeNodes(f.project, f.assembly, {cardOf(*f.project.assembly(f.assembly)).outputs[0].card});
    EXPECT_TRUE(holds(codesOf(compileSurface(p, masterOf(p)).diagnostics), "wire.no-port"));
    EXPECT_TRUE(holds(codesOf(checkProject(p)), "assembly.no-outputs"));
    // An input that is gone is told of where something is wired to it.
    p = *edit::removeParameter(f.project, f.assembly, f.project.assembly(f.assembly)->parameters[0].id);
    EXPECT_TRUE(holds(codesOf(checkProject(p)), "unknown.port"));
    // An assembly that is gone.
    p = f.project;
    p.assemblies.clear();
    EXPECT_EQ(codesOf(compileSurface(p, masterOf(p)).diagnostics), std::vector<std::string>{"assembly.missing"});
    // A wire of the wrong width into an input names the card and the input.
    const Id uv = add(f.project, "texcoord");
    const std::string port = f.project.assembly(f.assembly)->parameters[0].codeName;
    p = *edit::connect(f.project, "m", {uv, "out", ""}, f.card, port);
    for (const Diagnostic& d : compileSurface(p, masterOf(p)).diagnostics) {
        EXPECT_EQ(d.code, "wire.needs-take");
        EXPECT_EQ(d.place.node, f.card);
        EXPECT_EQ(d.place.port, port);
        ASSERT_FALSE(d.fixes.empty());
        const Result<Project> fixed = d.fixes[0].edit(p);
        ASSERT_TRUE(fixed);
        EXPECT_TRUE(compileSurface(*fixed, masterOf(*fixed)).ok) << "the fix fixes it";
    }
}

TEST(Assemblies, AreDraggedWithoutCompiling) {
    Small s;
    Folded inner = folded(s.p, {s.noise, s.product}, "Inner");
    Folded f = folded(inner.project, {inner.card}, "Outer");
    const std::string port = f.project.assembly(f.assembly)->parameters[0].codeName;
    const Project p = *edit::disconnect(f.project, "m", f.card, port);
    const auto value = [&](const Project& q, float gain) {
        Project next = *edit::setConstant(q, "m", f.card, port, Value::number(gain));
        EXPECT_EQ(structureKey(next, masterOf(next)),
                  structureKey(*edit::setConstant(q, "m", f.card, port, Value::number(0)), masterOf(q)));
        // The program as it was, with the value read anew.
        const Compilation live = compileChannel(q, masterOf(q), "roughness", Constants::Live);
        const Evaluator evaluator(live.program);
        FrameInputs inputs;
        inputs.parameter = [&](const Id& id) {
            Value v;
            EXPECT_TRUE(liveConstantValue(next, masterOf(next), id, v)) << id;
            return v;
        };
        float sum = 0;
        for (const float x : overSquare(evaluator, inputs, "roughness", 1, kSide)) sum += x;
        float folded = 0;
        for (const float x : overSquare(next, graphOf(next).channelWires.at("roughness"), kSide)) folded += x;
        EXPECT_NEAR(sum, folded, 1e-4f * std::max(1.f, std::fabs(folded)));
        return sum;
    };
    EXPECT_NEAR(value(p, 0.5f), 2 * value(p, 0.25f), 1e-3f);
    // A value within is live as well.
    const std::string before = structureKey(p, masterOf(p));
    Id noise;
    for (const auto& [id, node] : p.assembly(inner.assembly)->graph.nodes)
        if (node->kind == "noise_2d") noise = id;
    const Project changed = *edit::setConstant(p, inner.assembly, noise, "amplitude", Value::number(3));
    EXPECT_EQ(structureKey(changed, masterOf(changed)), before);
    Value v;
    EXPECT_TRUE(liveConstantValue(changed, masterOf(changed), "@" + f.card + "/" + inner.card + "/" + noise + "/amplitude", v));
    EXPECT_EQ(v, Value::number(3));
    // What is wired within is structure.
    EXPECT_NE(structureKey(*edit::muteNodes(p, inner.assembly, {noise}, true), masterOf(p)), before);
}

TEST(Assemblies, AreSeenFromWithinWithTheValuesOfTheirCaller) {
    Small s;
    Folded inner = folded(s.p, {s.noise, s.product}, "Inner");
    Folded f = folded(inner.project, {inner.card}, "Outer");
    const Project& p = f.project;
    const Compilation within = compileTaps(p, masterOf(p), Constants::Folded, f.card + "/" + inner.card);
    Id product;
    for (const auto& [id, node] : p.assembly(inner.assembly)->graph.nodes)
        if (node->kind == "multiply") product = id;
    ASSERT_GE(within.program->output(product + ".out"), 0) << "by its id on its own board";
    EXPECT_LT(within.program->output(f.card + ".out"), 0) << "what lies outside is not told of";
    const Compilation tap = compileTap(p, masterOf(p), {product, "out", ""}, Constants::Folded, f.card + "/" + inner.card);
    const Evaluator evaluator(tap.program);
    const std::vector<float> seen = overSquare(evaluator, {}, "tap", 1, kSide);
    expectSame(seen, overSquare(s.p, {s.product, "out", ""}, kSide), "with the gain of outside");
    EXPECT_GT(compileSurface(p, masterOf(p), Constants::Folded, {}, f.card + "/" + inner.card).cards.at(product).operations, 0);
}

TEST(Assemblies, HandOverTheirFirstWireWhileMuted) {
    Small s;
    Folded f = folded(s.p, {s.noise, s.product});
    const Project p = *edit::muteNodes(f.project, "m", {f.card}, true);
    expectSame(channelOf(p, "roughness"), overSquare(p, {s.gain, "out", ""}, kSide), "the gain alone");
    EXPECT_EQ(unfoldCard(p, "m", f.card).error().code, "assembly.muted");
}

TEST(Assemblies, ComeAlongWhenCardsAreCopiedToAnotherProject) {
    Small s;
    Folded inner = folded(s.p, {s.noise, s.product}, "Inner");
    Folded f = folded(inner.project, {inner.card}, "Outer");
    const CopiedCards cards = edit::copyCards(f.project, "m", {f.card, s.gain});
    EXPECT_EQ(cards.assemblies.size(), 2u) << "with the one within";
    std::map<Id, Id> made;
    Result<Project> there = edit::pasteCards(bareProject(), "m", cards, {}, &made);
    ASSERT_TRUE(there) << there.error().sentence;
    Project p = *there;
    const std::string port(nodeDefOf(p, cardIn(p, made.at(f.card)))->outputs[0].key);
    channel(p, {made.at(f.card), port, ""}, "roughness");
    expectSame(channelOf(p, "roughness"), channelOf(s.p, "roughness"), "in the other project");
    // Once more is the same assembly again.
    EXPECT_EQ(edit::pasteCards(p, "m", cards, {})->assemblies.size(), 2u);
}

TEST(Assemblies, AreInTheFileAsTheyAreInTheProject) {
    Small s;
    Folded f = folded(s.p, {s.noise, s.product}, "Grime");
    Project p = *edit::describeAssembly(f.project, f.assembly, "Dirt where rain does not come.");
    const Result<Loaded> read = parseProject(projectText(p), "there");
    ASSERT_TRUE(read);
    EXPECT_TRUE(read->report.empty());
    EXPECT_EQ(projectText(read->project), projectText(p));
    expectSame(channelOf(read->project, "roughness"), channelOf(p, "roughness"), "read again");
    EXPECT_EQ(edit::removeAssembly(p, f.assembly).error().code, "assembly.in-use");
    p = *edit::removeNodes(p, "m", {f.card});
    EXPECT_TRUE(edit::removeAssembly(p, f.assembly)->assemblies.empty());
}

TEST(Assemblies, AreFoundByTypingTheirName) {
    Small s;
    const Folded f = folded(s.p, {s.noise, s.product}, "Rain streaks");
    const auto titles = [&](std::string_view typed) {
        std::vector<std::string> out;
        for (const Proposal& o : propose(f.project, masterOf(f.project), typed)) out.push_back(o.title);
        return out;
    };
    EXPECT_EQ(titles("rain").at(0), "Rain streaks");
    EXPECT_TRUE(holds(titles(""), "Rain streaks")) << "when browsing";
    EXPECT_FALSE(holds(titles("output"), "Output")) << "which counts only within an assembly";
    EXPECT_EQ(propose(f.project, *f.project.board(f.assembly), "output").at(0).title, "Output");
}

/// A card of the library's assembly on an empty board.
struct FromLibrary {
    Project p = bareProject();
    Id card;
    explicit FromLibrary(const std::string& id, std::map<std::string, Value> values = {}) {
        for (const AssemblyPtr& a : assemblyLibrary())
            if (a->id == id) p = *edit::addAssembly(p, *a);
        Node node = makeAssemblyNode(id);
        node.constants = std::move(values);
        p = *edit::addNode(p, "m", node);
        card = node.id;
    }
    std::vector<float> output(const std::string& port, double time = 0, int side = 32) {
        return overSquare(p, {card, port, ""}, side, neutralMap(MapKind::Normal), time);
    }
};

float meanOf(const std::vector<float>& v) {
    double sum = 0;
    for (const float x : v) sum += double(x);
    return float(sum / double(v.size()));
}

TEST(AssemblyLibrary, HoldsWhatAMasterNeedsEachWithoutAFault) {
    std::set<std::string> ids, names;
    for (const AssemblyPtr& a : assemblyLibrary()) {
        SCOPED_TRACE(a->name);
        EXPECT_TRUE(ids.insert(a->id).second);
        EXPECT_TRUE(names.insert(a->name).second);
        EXPECT_FALSE(a->description.empty());
        FromLibrary at(a->id);
        for (const Diagnostic& d : checkAssembly(at.p, *at.p.assembly(a->id))) ADD_FAILURE() << d.code << ": " << d.sentence;
        EXPECT_FALSE(cardOf(*a).outputs.empty());
        for (const Parameter& p : a->parameters) EXPECT_FALSE(p.description.empty()) << p.name;
        for (const AssemblyOutput& o : cardOf(*a).outputs)
            for (const float x : at.output(o.key, 1.3)) EXPECT_TRUE(std::isfinite(x)) << o.key;
        // No two cards lie on each other.
        const auto apart = [](const Point& x, const Point& y) { return std::fabs(x.x - y.x) >= 166 || std::fabs(x.y - y.y) >= 70; };
        for (const auto& [id, node] : a->graph.nodes)
            for (const auto& [other, second] : a->graph.nodes) EXPECT_TRUE(id >= other || apart(node->position, second->position));
    }
    EXPECT_EQ(ids.size(), 9u);
}

TEST(AssemblyLibrary, EdgeGlowIsThePowerOfWhatFacesAway) {
    FromLibrary at("lib-edge-glow",
                   {{"falloff", Value::number(2)}, {"strength", Value::number(3)}, {"color", Value::vec3(1, 0.5f, 0.25f)}});
    const Id facing = add(at.p, "facing_ratio");
    const std::vector<float> mask = at.output("mask"), light = at.output("light"), face = overSquare(at.p, {facing, "out", ""}, 32);
    for (size_t i = 0; i < mask.size(); ++i) {
        ASSERT_NEAR(mask[i], (1 - face[i]) * (1 - face[i]), 1e-5f);
        ASSERT_NEAR(light[3 * i + 1], 1.5f * mask[i], 1e-5f);
    }
}

TEST(AssemblyLibrary, MovingBandsAreOnAsMuchAsTheirShareAndComeAround) {
    for (const float share : {0.2f, 0.5f, 0.9f}) {
        FromLibrary at("lib-moving-bands", {{"share", Value::number(share)},
                                            {"soft_edge", Value::number(0.01f)},
                                            {"bands", Value::number(4)},
                                            {"speed", Value::number(0.5f)}});
        EXPECT_NEAR(meanOf(at.output("mask", 0, 256)), share, 0.01f);
        // Two seconds move them by one band, so all looks as it did.
        expectSame(at.output("mask", 2), at.output("mask"), "after two seconds");
    }
}

TEST(AssemblyLibrary, BordersGiveEitherSideAtTheirEnds) {
    const auto color = [](float mask) {
        FromLibrary at("lib-height-border",
                       {{"mask", Value::number(mask)}, {"first_color", Value::vec3(1, 0, 0)}, {"second_color", Value::vec3(0, 1, 0)}});
        return at.output("color");
    };
    EXPECT_NEAR(color(0)[0], 1, 1e-4f);
    EXPECT_NEAR(color(1)[1], 1, 1e-4f);
    // Nothing lies behind the flat square, so nothing fades.
    FromLibrary soft("lib-soft-border", {{"alpha", Value::number(0.7f)}});
    EXPECT_NEAR(meanOf(soft.output("alpha")), 0.7f, 1e-4f);
    EXPECT_EQ(meanOf(FromLibrary("lib-grime", {{"height", Value::number(100)}}).output("mask")), 1);
    EXPECT_EQ(meanOf(FromLibrary("lib-grime", {{"height", Value::number(-100)}}).output("mask")), 0);
}

TEST(AssemblyLibrary, SlowSwellStaysWithinItsHeightAndReachesIt) {
    float most = 0;
    for (double time = 0; time < 4; time += 0.1) {
        FromLibrary at("lib-slow-swell", {{"height", Value::number(0.25f)}});
        for (const float x : at.output("offset", time, 4)) most = std::max(most, std::fabs(x));
    }
    EXPECT_LE(most, 0.25f + 1e-5f);
    EXPECT_GT(most, 0.2f);
}

TEST(AssemblyLibrary, PackedMapTellsItsChannelsApart) {
    FromLibrary at("lib-packed-map", {{"roughness_from", Value::number(0.5f)}, {"occlusion_strength", Value::number(0.5f)}});
    MapFile file;
    file.id = file.name = "t";
    file.path = "t.png";
    file.kind = MapKind::Data;
    at.p = *edit::addMap(at.p, file);
    at.p = *edit::setSetting(at.p, "m", at.card, "map", "t");
    std::vector<Plane> planes(4, Plane(4, 4));
    for (size_t c = 0; c < 4; ++c)
        for (int k = 0; k < 16; ++k) planes[c].at(k % 4, k / 4) = 0.2f * float(c + 1);
    const MapPtr map = std::make_shared<Map>(mapOf(imageOf(planes, SampleType::U16), MapKind::Data, Wrap::Repeat));
    const auto value = [&](const char* port) { return overSquare(at.p, {at.card, port, ""}, 4, map)[0]; };
    EXPECT_NEAR(value("occlusion"), 0.5f * 1 + 0.5f * 0.2f, 0.005f);
    EXPECT_NEAR(value("roughness"), 0.5f + 0.5f * 0.4f, 0.005f);
    EXPECT_NEAR(value("metallic"), 0.6f, 0.005f);
    EXPECT_NEAR(value("mask"), 0.8f, 0.005f);
}

TEST(EqualGroups, AreFoundWhereverTheyStandAndOneAssemblyShowsTheSame) {
    int found = 0;
    for (uint32_t seed = 1; seed <= 16; ++seed) {
        std::mt19937 random(seed);
        Project p = randomGraph(seed, 16);
        // A group that is put there two and three times, each copy behind a value of its own.
        const Id root = graphOf(p).channelWires.at("roughness").node;
        const std::set<Id> cone = cardsFeeding(graphOf(p), {root});
        std::vector<Id> group{root};
        for (const Id& id : cone)
            if (group.size() < 5) group.push_back(id);
        const std::set<Id> before = cardsFeeding(graphOf(p), {group.begin(), group.end()}),
                           after = cardsFedBy(graphOf(p), {group.begin(), group.end()});
        for (const Id& id : before)
            if (after.contains(id) && std::find(group.begin(), group.end(), id) == group.end()) group.push_back(id);
        if (group.size() < 3) continue;
        Id sum = root;
        for (int copies = 0; copies < int(1 + seed % 2); ++copies) {
            std::map<Id, Id> made;
            p = *edit::duplicateNodes(p, "m", group, {300, 0}, &made);
            const Id add2 = add(p, "add");
            wire(p, {sum, graphOf(p).channelWires.at("roughness").port, graphOf(p).channelWires.at("roughness").take}, add2, "in1");
            wire(p, {made.at(root), graphOf(p).channelWires.at("roughness").port, graphOf(p).channelWires.at("roughness").take}, add2,
                 "in2");
            sum = add2;
        }
        p = *edit::connectChannel(p, "m", {sum, "out", ""}, "roughness");
        if (!compileSurface(p, masterOf(p)).ok) continue;
        const std::vector<float> rough = channelOf(p, "roughness"), color = channelOf(p, "base_color");
        for (int turn = 0; turn < 4; ++turn) {
            const std::vector<EqualGroup> groups = equalGroups(graphOf(p), compileTaps(p, masterOf(p)));
            if (groups.empty()) break;
            std::set<Id> all;
            for (const EqualGroup& g : groups)
                for (const auto& place : g.places) {
                    EXPECT_EQ(place.size(), g.size());
                    for (const Id& id : place) EXPECT_TRUE(all.insert(id).second) << "no card is in two places";
                }
            const size_t cards = graphOf(p).nodes.size();
            const Result<Project> next = foldEqual(p, "m", groups[0], "Same");
            if (!next) {
                EXPECT_EQ(next.error().code, "assembly.four-components") << next.error().sentence;
                break;
            }
            ++found;
            p = *next;
            EXPECT_EQ(graphOf(p).nodes.size(), cards - groups[0].places.size() * (groups[0].size() - 1));
            expectSame(channelOf(p, "roughness"), rough, "seed " + std::to_string(seed));
            expectSame(channelOf(p, "base_color"), color, "seed " + std::to_string(seed));
        }
    }
    EXPECT_GT(found, 8) << "or this says nothing";
}

TEST(EqualGroups, NeedTheSameChoicesValuesAndWiring) {
    // Two chains of three on different noises.
    Project p = bareProject();
    std::vector<std::vector<Id>> chains;
    for (int k = 0; k < 2; ++k) {
        const Id from = add(p, "noise_2d", {{"pivot", Value::number(0.1f * float(k))}});
        std::vector<Id> chain{add(p, "invert"), add(p, "power", {{"in2", Value::number(2)}}), add(p, "sine"), add(p, "clamp"),
                              add(p, "cosine")};
        wire(p, {from, "out", ""}, chain[0], "in");
        wire(p, {chain[0], "out", ""}, chain[1], "in1");
        for (size_t i = 2; i < chain.size(); ++i) wire(p, {chain[i - 1], "out", ""}, chain[i], "in");
        channel(p, {chain.back(), "out", ""}, k ? "roughness" : "metallic");
        chains.push_back(chain);
    }
    const auto groups = [&](const Project& q) { return equalGroups(graphOf(q), compileTaps(q, masterOf(q))); };
    ASSERT_EQ(groups(p).size(), 1u);
    EXPECT_EQ(groups(p)[0].size(), 5u) << "the noises differ";
    EXPECT_TRUE(holds(codesOf(checkProject(p)), "graph.equal-groups"));
    // A value that differs parts them.
    EXPECT_TRUE(groups(*edit::muteNodes(p, "m", {chains[1][2]}, true)).empty()) << "what is left on either side is two cards";
    const Project power = *edit::setConstant(p, "m", chains[1][1], "in2", Value::number(3));
    ASSERT_EQ(groups(power).size(), 1u);
    EXPECT_EQ(groups(power)[0].size(), 3u) << "behind the power they are still the same";
    // The advice's fix makes them one, and is gone then.
    for (const Diagnostic& d : checkProject(p))
        if (d.code == "graph.equal-groups") {
            const Project next = *d.fixes.at(0).edit(p);
            EXPECT_EQ(next.assemblies.size(), 1u);
            EXPECT_EQ(usesOf(next, next.assemblies[0]->id).size(), 2u);
            EXPECT_FALSE(holds(codesOf(checkProject(next)), "graph.equal-groups"));
            EXPECT_EQ(foldEqual(next, "m", groups(p)[0], "Again").error().code, "assembly.not-equal");
        }
}

TEST(Breaks, AreWhatIsWiredSetOrReadAndIsGone) {
    Small s;
    Folded f = folded(s.p, {s.noise, s.product}, "Dust");
    const Assembly& now = *f.project.assembly(f.assembly);
    EXPECT_TRUE(whatBreaks(f.project, now).empty()) << "nothing breaks as it is";
    Assembly changed = now;
    const std::string input = changed.parameters[0].codeName, output = cardOf(now).outputs[0].key;
    changed.parameters[0].type = ParameterType::Color;
    ASSERT_EQ(whatBreaks(f.project, changed).size(), 1u);
    EXPECT_NE(whatBreaks(f.project, changed)[0].sentence.find(input), std::string::npos);
    changed.parameters.clear();
    changed.graph.nodes.erase(cardOf(now).outputs[0].card);
    const std::vector<Break> both = whatBreaks(f.project, changed);
    ASSERT_EQ(both.size(), 2u);
    EXPECT_EQ(both[1].board, "m");
    EXPECT_EQ(both[1].card, f.card);
    EXPECT_NE(both[1].sentence.find(output), std::string::npos) << both[1].sentence;
}

TEST(AssemblyFile, HoldsTheAssemblyWithThoseWithinItAndComesBack) {
    Small s;
    Folded inner = folded(s.p, {s.noise, s.product}, "Inner");
    Folded f = folded(inner.project, {inner.card}, "Outer");
    const std::string text = assemblyText(f.project, f.assembly);
    const Result<SharedAssembly> shared = parseAssembly(text, "there");
    ASSERT_TRUE(shared);
    EXPECT_EQ(shared->assembly->id, f.assembly);
    ASSERT_EQ(shared->within.size(), 1u);
    const Project there = *withAssembly(bareProject(), *shared);
    EXPECT_EQ(assemblyText(there, f.assembly), text) << "brought in and shared again it is the same";
    // A newer version takes the place of the older, and its cards follow ports that were renamed.
    Project here = *withAssembly(f.project, *shared);
    expectSame(channelOf(here, "roughness"), channelOf(f.project, "roughness"), "brought in over itself");
    Project newer = *edit::renameNode(f.project, f.assembly, cardOf(*f.project.assembly(f.assembly)).outputs[0].card, "Dirt");
    here = *withAssembly(here, *parseAssembly(assemblyText(newer, f.assembly), "newer"));
    EXPECT_EQ(graphOf(here).channelWires.at("roughness").port, "dirt");
    expectSame(channelOf(here, "roughness"), channelOf(f.project, "roughness"), "the newer version");
    // One that would come to hold itself is refused: elsewhere the inner one holds the outer.
    SharedAssembly loop = *shared;
    auto turned = std::make_shared<Assembly>(*f.project.assembly(inner.assembly));
    const Node self = makeAssemblyNode(f.assembly);
    turned->graph.nodes[self.id] = std::make_shared<Node>(self);
    loop.assembly = turned;
    loop.within.clear();
    EXPECT_EQ(withAssembly(f.project, loop).error().code, "assembly.holds-itself");
    for (size_t cut = 0; cut < text.size(); cut += 97) EXPECT_FALSE(parseAssembly(text.substr(0, cut), "cut")) << cut;
}

TEST(AssemblyList, NamesPortsAndPlaces) {
    const Ran ran = runHsk("list " + depotFile());
    ASSERT_EQ(ran.code, 0) << ran.output;
    for (const char* line :
         {"assembly Grime by height: version 1", "used 2 times", "  input soft_edge (Soft edge)", "  output mask (Mask)"})
        EXPECT_NE(ran.output.find(line), std::string::npos) << line;
}

} // namespace
} // namespace hue
