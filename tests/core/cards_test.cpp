// Cards that are copied, replaced, led elsewhere, boxed in bays, found and exposed.
#include "core/check/check.h"
#include "core/document/bays.h"
#include "core/document/wires.h"
#include "core/nodes/board_differences.h"
#include "core/nodes/find_cards.h"
#include "core/project/cards_text.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "tests/random_edits.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

const Graph& graphOf(const Project& p) { return masterOf(p).graph; }

/// Noise, tinted by a parameter and a map, into base color; in a bay within a bay.
struct Small {
    Project p = bareProject();
    Id noise, tint, image, product;
    Small() {
        p = *edit::addMap(p, {"t1", "Planks", "maps/planks.png", MapKind::Color, Wrap::Repeat, "00112233aabbccdd", {}});
        Parameter amount;
        amount.id = "amount", amount.name = "Amount", amount.type = ParameterType::Color, amount.standard.value = Value::vec3(1, 0.5f, 0);
        p = *edit::addParameter(p, "m", amount);
        noise = add(p, "noise_2d", {{"scale", Value::number(4)}});
        tint = add(p, "parameter", {}, {{"parameter", "amount"}});
        image = add(p, "image", {}, {{"map", "t1"}});
        product = add(p, "multiply");
        wire(p, {noise, "out", ""}, product, "in1");
        wire(p, {tint, "out", "r"}, product, "in2");
        channel(p, {product, "out", ""}, "base_color");
        p = *edit::addBay(p, "m", "All", {noise, tint, product});
        p = *edit::addBay(p, "m", "Tinted", {tint, product});
    }
    std::vector<Id> all() const { return {noise, tint, image, product}; }
};

TEST(CopiedCards, ComeBackFromTheirTextAndGiveTheSamePicture) {
    const Small s;
    const CopiedCards copied = edit::copyCards(s.p, "m", s.all(), "/depot");
    EXPECT_EQ(copied.maps.at(0).path, "/depot/maps/planks.png") << "elsewhere the file is found as well";
    const std::string text = cardsText(copied);
    const auto read = parseCards(text);
    ASSERT_TRUE(read) << read.error().sentence;
    EXPECT_EQ(cardsText(*read), text);

    // Into an empty project: everything that the cards need is there.
    Project other = bareProject();
    std::map<Id, Id> made;
    other = *edit::pasteCards(other, "m", *read, {30, 40}, &made);
    ASSERT_EQ(graphOf(other).nodes.size(), 4u);
    EXPECT_EQ(masterOf(other).parameters.at(0).standard.value, Value::vec3(1, 0.5f, 0));
    ASSERT_EQ(other.maps.size(), 1u);
    EXPECT_EQ(other.maps[0]->name, "Planks");
    EXPECT_EQ(overSquare(other, {made.at(s.product), "out", ""}, 8), overSquare(s.p, {s.product, "out", ""}, 8));
    EXPECT_EQ(graphOf(other).find(made.at(s.noise))->position, (Point{30, 40}));
    // The bays stand as they stood.
    ASSERT_EQ(graphOf(other).bays.size(), 2u);
    const Bay* inner = bayOf(graphOf(other), made.at(s.tint));
    ASSERT_TRUE(inner);
    EXPECT_EQ(inner->name, "Tinted");
    ASSERT_TRUE(findBay(graphOf(other), inner->inside));
    EXPECT_EQ(findBay(graphOf(other), inner->inside)->name, "All");
    // Once more: parameter and map are shared, not made twice.
    other = *edit::pasteCards(other, "m", *read, {});
    EXPECT_EQ(masterOf(other).parameters.size(), 1u);
    EXPECT_EQ(other.maps.size(), 1u);
}

TEST(CopiedCards, KeepWiresFromOutsideOnTheirOwnBoardOnly) {
    const Small s;
    const CopiedCards copied = edit::copyCards(s.p, "m", {s.product});
    std::map<Id, Id> made;
    const Project here = *edit::pasteCards(s.p, "m", copied, {}, &made);
    EXPECT_EQ(graphOf(here).find(made.at(s.product))->wires.at("in1").node, s.noise);
    const Project there = *edit::pasteCards(bareProject(), "m", copied, {}, &made);
    EXPECT_TRUE(graphOf(there).find(made.at(s.product))->wires.empty());
    EXPECT_TRUE(graphOf(there).bays.empty()) << "a bay of which only a part was copied stays behind";
}

TEST(CopiedCards, TakeAMapOfTheSameNameForAnotherWhereItsContentDiffers) {
    const Small s;
    Project other = bareProject();
    other = *edit::addMap(other, {"t1", "Rust", "rust.png", MapKind::Color, Wrap::Repeat, "ffffffffffffffff", {}});
    std::map<Id, Id> made;
    other = *edit::pasteCards(other, "m", edit::copyCards(s.p, "m", {s.image}), {}, &made);
    const std::string map = graphOf(other).find(made.at(s.image))->settings.at("map");
    ASSERT_NE(map, "t1") << "t1 is something else here";
    EXPECT_EQ(other.map(map)->name, "Planks");
}

TEST(CopiedCards, RefuseTextThatIsNone) {
    for (const char* text : {"", "{", "[1, 2]", R"({"kind": "huestack project", "format": 2})", R"({"kind": "huestack cards"})",
                             R"({"kind": "huestack cards", "format": 2, "cards": []})"}) {
        const auto read = parseCards(text);
        ASSERT_FALSE(read) << text;
        EXPECT_EQ(read.error().code, "cards.unreadable") << text;
    }
    EXPECT_FALSE(parseCards(std::string(200000, '[')));
    const auto odd = parseCards(R"({"kind": "huestack cards", "format": 2, "cards": [{"id": "a", "kind": "no such node"}]})");
    ASSERT_TRUE(odd);
    EXPECT_EQ(edit::pasteCards(bareProject(), "m", *odd, {}).error().code, "node.unknown");
}

TEST(ReplacingACard, KeepsWhatFits) {
    Small s;
    std::vector<std::string> lost;
    Project p = *edit::replaceNode(s.p, "m", s.product, makeNode("add"), &lost);
    EXPECT_TRUE(lost.empty());
    EXPECT_EQ(graphOf(p).find(s.product)->kind, "add");
    EXPECT_EQ(graphOf(p).find(s.product)->wires, graphOf(s.p).find(s.product)->wires);
    EXPECT_EQ(graphOf(p).channelWires.at("base_color").node, s.product);
    // Ports of other names take wires in order: the first stays the first.
    p = *edit::replaceNode(p, "m", s.product, makeNode("mix"), &lost);
    EXPECT_TRUE(lost.empty());
    const auto& wires = graphOf(p).find(s.product)->wires;
    EXPECT_EQ(wires.begin()->second.node == s.noise || wires.rbegin()->second.node == s.noise, true);
    EXPECT_EQ(wires.size(), 2u);
    // What has one input only keeps the first, and says what it lost.
    p = *edit::replaceNode(s.p, "m", s.product, makeNode("sine"), &lost);
    EXPECT_EQ(graphOf(p).find(s.product)->wires.at("in").node, s.noise);
    EXPECT_EQ(lost, (std::vector<std::string>{"input in2"}));
    // A scale that both have stays.
    p = *edit::replaceNode(s.p, "m", s.noise, makeNode("cell_noise"));
    EXPECT_EQ(graphOf(p).find(s.noise)->constants.at("scale"), Value::number(4));
    // Whatever takes its place, the graph can still be compiled.
    for (const NodeDef& def : catalogue()) {
        lost.clear();
        const auto next = edit::replaceNode(s.p, "m", s.noise, makeNode(def.key), &lost);
        ASSERT_TRUE(next) << def.key;
        for (const auto& [port, wire] : graphOf(*next).find(s.product)->wires)
            if (wire.node == s.noise) { EXPECT_TRUE(def.output(wire.port)) << def.key; }
    }
}

TEST(LeadingWires, MovesAllOfThemAndRefusesALoop) {
    Small s;
    Project p = s.p;
    const Id other = add(p, "worley_noise"), reader = add(p, "add");
    wire(p, {s.noise, "out", ""}, reader, "in1");
    channel(p, {s.noise, "out", ""}, "roughness");
    p = *edit::moveWires(p, "m", {s.noise, "out", ""}, {other, "out", ""});
    EXPECT_EQ(graphOf(p).find(s.product)->wires.at("in1").node, other);
    EXPECT_EQ(graphOf(p).find(reader)->wires.at("in1").node, other);
    EXPECT_EQ(graphOf(p).channelWires.at("roughness").node, other);
    EXPECT_TRUE(cardsFedBy(graphOf(p), {s.noise}).empty());
    // The product reads what would now come from it.
    const auto loop = edit::moveWires(p, "m", {other, "out", ""}, {s.product, "out", ""});
    ASSERT_FALSE(loop);
    EXPECT_EQ(loop.error().code, "graph.cycle");
    // A take that a number cannot give is left out.
    p = *edit::moveWires(s.p, "m", {s.tint, "out", ""}, {s.noise, "out", ""});
    EXPECT_EQ(graphOf(p).find(s.product)->wires.at("in2"), (Source{s.noise, "out", "r"}));
    const Id map = add(p, "parameter", {}, {{"parameter", "none"}});
    EXPECT_FALSE(edit::moveWires(p, "m", {s.image, "color", ""}, {"nobody", "out", ""}));
    EXPECT_TRUE(edit::moveWires(p, "m", {s.image, "color", ""}, {map, "out", ""}));
}

TEST(SwappingInputs, IsItsOwnInverseAndComputesTheOther) {
    Project p = bareProject();
    const Id three = add(p, "constant", {{"value", Value::number(3)}});
    const Id minus = add(p, "subtract", {{"in2", Value::number(1)}});
    wire(p, {three, "out", ""}, minus, "in1");
    EXPECT_FLOAT_EQ(overSquare(p, {minus, "out", ""}, 1)[0], 2);
    const Project swapped = *edit::swapInputs(p, "m", minus, "in1", "in2");
    EXPECT_FLOAT_EQ(overSquare(swapped, {minus, "out", ""}, 1)[0], -2);
    const Project back = *edit::swapInputs(swapped, "m", minus, "in1", "in2");
    EXPECT_EQ(graphOf(back).find(minus)->wires, graphOf(p).find(minus)->wires);
    EXPECT_FLOAT_EQ(overSquare(back, {minus, "out", ""}, 1)[0], 2);
}

TEST(Bays, NestAsTheirCardsDo) {
    const Small s;
    const Bay* inner = bayOf(graphOf(s.p), s.tint);
    const Bay* outer = bayOf(graphOf(s.p), s.noise);
    ASSERT_TRUE(inner && outer);
    EXPECT_EQ(inner->inside, outer->id) << "made within the other";
    EXPECT_EQ(cardsWithin(graphOf(s.p), outer->id).size(), 3u);
    // Around a whole bay and a card beside it: the bay goes in as it is.
    Project p = *edit::addBay(s.p, "m", "Around", {s.noise, s.tint, s.product, s.image});
    ASSERT_TRUE(bayOf(graphOf(p), s.image));
    const Id around = bayOf(graphOf(p), s.image)->id;
    EXPECT_EQ(bayOf(graphOf(p), s.noise)->name, "All");
    EXPECT_EQ(bayOf(graphOf(p), s.noise)->inside, around);
    // Taken away, what it held lies where it lay.
    p = *edit::removeBay(p, "m", bayOf(graphOf(p), s.noise)->id);
    EXPECT_EQ(bayOf(graphOf(p), s.noise)->id, around);
    EXPECT_EQ(bayOf(graphOf(p), s.tint)->inside, around);
    // A card is in one bay at most, and a bay without cards is gone.
    p = *edit::putInBay(p, "m", around, {s.tint, s.product});
    EXPECT_EQ(bayOf(graphOf(p), s.tint)->id, around);
    EXPECT_EQ(graphOf(p).bays.size(), 1u);
    p = *edit::putInBay(p, "m", {}, {s.noise, s.tint, s.product, s.image});
    EXPECT_TRUE(graphOf(p).bays.empty());
}

TEST(Bays, FoldWhatLiesInThem) {
    const Small s;
    const Id inner = bayOf(graphOf(s.p), s.tint)->id, outer = bayOf(graphOf(s.p), s.noise)->id;
    const Project one = *edit::foldBay(s.p, "m", inner, true);
    EXPECT_EQ(foldedAway(graphOf(one)), (std::map<Id, Id>{{s.tint, inner}, {s.product, inner}}));
    const Project both = *edit::foldBay(one, "m", outer, true);
    EXPECT_EQ(foldedAway(graphOf(both)).at(s.tint), outer) << "the outermost is what one sees";
    EXPECT_EQ(foldedAway(graphOf(both)).size(), 3u);
}

TEST(Bays, OfScratchNagNothingUntilWhatIsInThemIsWorn) {
    Project p = bareProject();
    const Id half = add(p, "divide", {{"in2", Value::number(0)}}), loose = add(p, "sine");
    Parameter tried;
    tried.id = "t", tried.name = "Tried";
    p = *edit::addParameter(p, "m", tried);
    const Id card = add(p, "parameter", {}, {{"parameter", "t"}});
    const auto before = codesOf(checkMaster(p, masterOf(p)));
    EXPECT_TRUE(holds(before, "divide.by-zero"));
    EXPECT_TRUE(holds(before, "graph.dead-end"));
    EXPECT_TRUE(holds(before, "parameter.no-effect"));
    p = *edit::addBay(p, "m", "Scratch", {half, loose, card});
    p = *edit::setScratch(p, "m", graphOf(p).bays[0].id, true);
    EXPECT_EQ(codesOf(checkMaster(p, masterOf(p))), std::vector<std::string>{});
    channel(p, {half, "out", ""}, "roughness");
    EXPECT_TRUE(holds(codesOf(checkMaster(p, masterOf(p))), "divide.by-zero")) << "now it is worn";
}

TEST(Notes, SayWhatTheySayAndNagNothing) {
    Project p = bareProject();
    add(p, "note", {}, {{"text", "Rust grows from the lower edge"}});
    EXPECT_EQ(codesOf(checkMaster(p, masterOf(p))), std::vector<std::string>{});
    const auto back = parseProject(projectText(p), "a");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->project.masters[0]->graph.nodes.begin()->second->settings.at("text"), "Rust grows from the lower edge");
}

TEST(Underpasses, AreKeptAndChangeNothingButTheDrawing) {
    const Small s;
    const Project p = *edit::setUnderpass(s.p, "m", s.product, "in1", "dirt");
    EXPECT_EQ(graphOf(p).find(s.product)->wires.at("in1").underpass, "dirt");
    EXPECT_EQ(parseProject(projectText(p), "a")->project.masters[0]->graph.find(s.product)->wires.at("in1").underpass, "dirt");
    EXPECT_EQ(structureKey(p, masterOf(p)), structureKey(s.p, masterOf(s.p)));
    EXPECT_EQ(edit::setUnderpass(s.p, "m", s.product, "in7", "dirt").error().code, "edit.no-wire");
}

TEST(WhatFeedsWhom, IsWhatFollowingWiresByHandFinds) {
    std::mt19937 random(7);
    for (uint32_t seed = 0; seed < 20; ++seed) {
        const Project p = randomGraph(seed, 14);
        const Graph& g = graphOf(p);
        for (const auto& [a, node] : g.nodes) {
            const std::set<Id> behind = cardsFeeding(g, {a}), ahead = cardsFedBy(g, {a});
            for (const auto& [b, other] : g.nodes) {
                EXPECT_EQ(behind.contains(b), a != b && leadsTo(g, b, a));
                EXPECT_EQ(ahead.contains(b), a != b && leadsTo(g, a, b));
            }
        }
    }
}

TEST(FindingCards, ByWhatPeopleRemember) {
    Small s;
    Project p = *edit::renameNode(s.p, "m", s.noise, "Wet streaks");
    const Id note = add(p, "note", {}, {{"text", "Ask Ines about the rivets"}}),
             formula = add(p, "formula", {}, {{"formula", "sin(a * 12)"}});
    p = *edit::moveNodes(
        p, "m",
        {{s.noise, {0, 50}}, {s.tint, {0, 0}}, {s.image, {400, 0}}, {s.product, {200, 0}}, {note, {600, 0}}, {formula, {600, 200}}});
    const auto found = [&](std::string_view typed) { return findCards(p, masterOf(p), typed); };
    EXPECT_EQ(found("streaks wet"), (std::vector<Id>{s.noise})) << "by title, words in any order";
    EXPECT_EQ(found("NOISE"), (std::vector<Id>{s.noise})) << "by kind, though it is called otherwise";
    EXPECT_EQ(found("amount"), (std::vector<Id>{s.tint})) << "by parameter";
    EXPECT_EQ(found("planks.png"), (std::vector<Id>{s.image})) << "by map";
    EXPECT_EQ(found("rivets"), (std::vector<Id>{note}));
    EXPECT_EQ(found("a * 12"), (std::vector<Id>{formula}));
    EXPECT_EQ(found("tinted"), (std::vector<Id>{s.tint, s.product})) << "by bay, as one reads";
    EXPECT_EQ(found("e").size(), 5u) << "in every name but the formula's";
    EXPECT_TRUE(found("").empty());
    EXPECT_TRUE(found("rivets noise").empty()) << "every word must be there";
}

TEST(Exposing, SeveralValuesAtOnceNamesEach) {
    Project p = bareProject();
    const Id noise = add(p, "worley_noise"), number = add(p, "constant", {{"value", Value::number(0.3f)}});
    channel(p, {number, "out", ""}, "roughness");
    std::vector<std::pair<Id, std::string>> wanted{{number, "value"}};
    for (const std::string& port : edit::exposablePorts(p, graphOf(p), noise)) wanted.emplace_back(noise, port);
    EXPECT_FALSE(holds(edit::exposablePorts(p, graphOf(p), noise), "uv")) << "that follows the mesh";
    ASSERT_GE(wanted.size(), 3u);
    p = *edit::exposeSeveral(p, "m", wanted);
    ASSERT_EQ(masterOf(p).parameters.size(), wanted.size());
    EXPECT_EQ(masterOf(p).parameters[0].name, "Roughness") << "after what it feeds";
    std::set<std::string> names;
    for (const Parameter& q : masterOf(p).parameters) names.insert(q.name);
    EXPECT_EQ(names.size(), wanted.size());
    const PortDef* scale = findNodeDef("worley_noise")->input("scale");
    const auto its = std::find_if(masterOf(p).parameters.begin(), masterOf(p).parameters.end(),
                                  [](const Parameter& q) { return q.name == "Worley noise scale"; });
    ASSERT_NE(its, masterOf(p).parameters.end());
    EXPECT_EQ(its->description, scale->help);
    EXPECT_TRUE(edit::exposablePorts(p, graphOf(p), noise).empty()) << "all are wired now";
}

TEST(Exposing, AChannelTakesItsWordsAndLimits) {
    for (const ChannelDef& channel : channels()) {
        const auto exposed = edit::exposeChannel(bareProject(), "m", std::string(channel.key), {10, 20});
        if (channel.meaning == Meaning::Normal) {
            EXPECT_EQ(exposed.error().code, "expose.follows-mesh") << channel.key;
            continue;
        }
        ASSERT_TRUE(exposed) << channel.key << ": " << exposed.error().sentence;
        const Parameter& p = masterOf(*exposed).parameters.at(0);
        EXPECT_EQ(p.name, channel.name);
        EXPECT_EQ(p.unit, channel.unit);
        EXPECT_EQ(p.description, channel.help);
        EXPECT_EQ(p.hardMin, channel.low) << channel.key;
        EXPECT_EQ(p.hardMax, channel.high) << channel.key;
        EXPECT_LE(p.softMin, p.softMax);
        EXPECT_EQ(p.standard.value, channelConstant(graphOf(bareProject()), channel.key)) << channel.key << ": nothing changes at first";
        EXPECT_EQ(graphOf(*exposed).nodes.size(), 1u);
        EXPECT_EQ(graphOf(*exposed).channelWires.at(std::string(channel.key)).node, graphOf(*exposed).nodes.begin()->first);
    }
}

TEST(SearchingChannels, FindsThemByTheWordsOfTheTrade) {
    const auto first = [](std::string_view typed, uint32_t layers = 0) {
        SurfaceSettings s;
        s.layers = layers;
        const auto found = searchChannels(typed, s);
        return found.empty() ? std::string() : std::string(found[0]->key);
    };
    EXPECT_EQ(first("opacity"), "alpha");
    EXPECT_EQ(first("albedo"), "base_color");
    EXPECT_EQ(first("rough"), "roughness");
    EXPECT_EQ(first("Emis"), "emissive");
    EXPECT_EQ(first("displa"), "vertex_offset");
    EXPECT_EQ(first("varnish"), "") << "this surface has no coat";
    EXPECT_EQ(first("varnish", uint32_t(Layer::Coat)), "clearcoat");
    EXPECT_EQ(first("a"), "") << "one letter says nothing";
}

TEST(BoardDifferences, AreWhatAnEditDidAndNothingElse) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d"), mix = add(p, "mix"), image = add(p, "image");
    wire(p, {noise, "out", ""}, mix, "mix");
    channel(p, {mix, "out", ""}, "base_color");
    const auto told = [&](const Project& q) {
        std::string out;
        for (const BoardDifference& d : boardDifferences(p, masterOf(p), q, masterOf(q))) {
            out += std::string(1, "+-*"[int(d.how)]) + (d.card.empty()
                                                            ? d.channel
                                                            : cardTitle(d.how == BoardDifference::How::Removed ? p : q,
                                                                        masterOf(d.how == BoardDifference::How::Removed ? p : q), d.card));
            for (const std::string& what : d.what) out += "|" + what;
            out += ";";
        }
        return out;
    };
    EXPECT_EQ(told(p), "");
    EXPECT_EQ(told(*edit::moveNodes(p, "m", {{noise, {500, 500}}})), "") << "where a card lies is no difference";
    EXPECT_EQ(told(*edit::setConstant(p, "m", noise, "amplitude", Value::number(0.25f))),
              "*" + cardTitle(p, masterOf(p), noise) + "|amplitude 0.25, was as it comes;");
    EXPECT_EQ(told(*edit::disconnect(p, "m", mix, "mix")),
              "*Mix|wire into mix is gone, was from " + cardTitle(p, masterOf(p), noise) + ";");
    EXPECT_EQ(told(*edit::renameNode(p, "m", mix, "Blend")), "*Blend|called Blend, was Mix;");
    EXPECT_EQ(told(*edit::muteNodes(p, "m", {image}, true)), "*Image|muted;");
    EXPECT_EQ(told(*edit::replaceNode(p, "m", image, makeNode("texcoord"))), "*Texcoord|Texcoord, was Image;");
    EXPECT_EQ(told(*edit::connectChannel(p, "m", {image, "color", ""}, "base_color")), "*base_color|wire from Image color, was from Mix;");
    EXPECT_EQ(told(*edit::setChannelConstant(p, "m", "metallic", Value::number(1))), "*metallic|1, was as it comes;");
    const std::string gone = told(*edit::removeNodes(p, "m", {image}));
    EXPECT_EQ(gone, "-Image;");
    // Whatever is done by chance: told exactly when more than places and drawing differ.
    for (uint32_t seed = 0; seed < 6; ++seed) {
        std::mt19937 random(seed);
        Project at = randomGraph(seed, 12);
        for (int k = 0; k < 40; ++k) {
            const AnyEdit e = anyEdit(at, random);
            if (!e.next) continue;
            const Master *was = at.master("m"), *is = e.next->master("m");
            if (!was || !is) break;
            const auto list = boardDifferences(at, *was, *e.next, *is);
            for (const BoardDifference& d : list)
                EXPECT_TRUE(d.card.empty() || d.how == BoardDifference::How::Removed || is->graph.find(d.card)) << e.name;
            // With the cards of the one that are told put into the other, nothing is told any more.
            auto copy = std::make_shared<Master>(*is);
            for (const BoardDifference& d : list) {
                if (d.card.empty()) continue;
                if (const auto old = was->graph.nodes.find(d.card); old != was->graph.nodes.end()) copy->graph.nodes[d.card] = old->second;
                else copy->graph.nodes.erase(d.card);
            }
            copy->graph.channelWires = was->graph.channelWires;
            copy->graph.channelConstants = was->graph.channelConstants;
            copy->graph.mutedChannels = was->graph.mutedChannels;
            EXPECT_TRUE(boardDifferences(at, *was, *e.next, *copy).empty()) << e.name;
            at = *e.next;
        }
    }
}

} // namespace
} // namespace hue
