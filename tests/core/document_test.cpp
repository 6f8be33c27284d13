#include "core/base/diagnostic.h"
#include "core/check/check.h"
#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/edits/starting_points.h"
#include "core/edits/strays.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

Parameter number(const Id& id, float standard) {
    Parameter p;
    p.id = id;
    p.name = "Parameter " + id;
    p.standard.value = Value::number(standard);
    p.hardMin = 0;
    p.hardMax = 10;
    return p;
}

/// Master m with parameters a and b; instances parent -> child.
Project family() {
    Project p = bareProject();
    p = *edit::addParameter(p, "m", number("a", 1));
    p = *edit::addParameter(p, "m", number("b", 2));
    Instance parent;
    parent.id = "parent";
    parent.name = "Parent";
    parent.parent = "m";
    p = *edit::addInstance(p, parent);
    Instance child;
    child.id = "child";
    child.name = "Child";
    child.parent = "parent";
    return *edit::addInstance(p, child);
}

float valueOf(const Project& p, const Id& worn, const Id& parameter) { return resolve(p, worn).values.at(parameter).value.value[0]; }

// Families by chance, some of whose parents are missing, lead in a circle or bear a name twice: one pass says what each chain says.
TEST(Families, HaveTheMastersThatTheirChainsLeadTo) {
    std::mt19937 random(5);
    size_t found = 0, lost = 0;
    for (int round = 0; round < 300; ++round) {
        Project p = bareProject();
        auto other = std::make_shared<Master>(*p.masters[0]);
        other->id = "m2";
        p.masters.push_back(other);
        const size_t n = 1 + random() % 30;
        for (size_t k = 0; k < n; ++k) {
            auto i = std::make_shared<Instance>();
            i->id = random() % 20 == 0 ? (random() % 2 ? "i0" : "m") : "i" + std::to_string(k);
            i->parent = random() % 4 == 0 ? (random() % 2 ? "m" : "m2") : random() % 20 == 0 ? "gone" : "i" + std::to_string(random() % n);
            p.instances.push_back(i);
        }
        const std::vector<const Master*> masters = mastersOfInstances(p);
        ASSERT_EQ(masters.size(), n);
        for (size_t k = 0; k < n; ++k) {
            // Of several with one id the first is meant.
            ASSERT_EQ(masters[k], p.masterOf(p.instances[k]->id)) << "round " << round << ", instance " << k;
            (masters[k] ? found : lost) += 1;
        }
    }
    EXPECT_GT(found, 1000u);
    EXPECT_GT(lost, 1000u);
}

TEST(Edits, LeaveTheSnapshotTheyStartFromUntouched) {
    Project before = bareProject();
    const Id card = add(before, "mix");
    const NodePtr old = masterOf(before).graph.nodes.at(card);
    const Project after = *edit::setConstant(before, "m", card, "mix", Value::number(0.9f));
    EXPECT_EQ(masterOf(before).graph.nodes.at(card), old);
    EXPECT_TRUE(old->constants.empty());
    EXPECT_FLOAT_EQ(masterOf(after).graph.nodes.at(card)->constants.at("mix")[0], 0.9f);
}

TEST(Edits, ShareWhatTheyDoNotTouch) {
    Project p = bareProject();
    const Id a = add(p, "mix"), b = add(p, "add");
    const Project after = *edit::renameNode(p, "m", a, "Other");
    EXPECT_EQ(masterOf(p).graph.nodes.at(b), masterOf(after).graph.nodes.at(b));
}

TEST(Edits, RefuseAWireThatWouldCloseALoopAndSayWhy) {
    Project p = bareProject();
    const Id a = add(p, "add"), b = add(p, "add"), c = add(p, "add");
    wire(p, {a, "out", ""}, b, "in1");
    wire(p, {b, "out", ""}, c, "in1");
    const Result<Project> loop = edit::connect(p, "m", {c, "out", ""}, a, "in1");
    ASSERT_FALSE(loop);
    EXPECT_EQ(loop.error().code, "graph.cycle");
    EXPECT_EQ(loop.error().place.node, a);
    EXPECT_FALSE(edit::connect(p, "m", {a, "out", ""}, a, "in2"));
}

TEST(Edits, DeletingACardTakesItsWiresWithIt) {
    Project p = bareProject();
    const Id a = add(p, "constant"), b = add(p, "add");
    wire(p, {a, "out", ""}, b, "in1");
    channel(p, {a, "out", ""}, "roughness");
    p = *edit::addBay(p, "m", "bay", {a});
    p = *edit::removeNodes(p, "m", {a});
    EXPECT_TRUE(masterOf(p).graph.find(b)->wires.empty());
    EXPECT_TRUE(masterOf(p).graph.channelWires.empty());
    EXPECT_TRUE(masterOf(p).graph.bays.empty());
}

TEST(Edits, DuplicatesKeepTheWiresAmongThemselves) {
    Project p = bareProject();
    const Id a = add(p, "constant"), b = add(p, "add");
    wire(p, {a, "out", ""}, b, "in1");
    std::map<Id, Id> made;
    p = *edit::duplicateNodes(p, "m", {a, b}, {10, 10}, &made);
    EXPECT_EQ(masterOf(p).graph.find(made[b])->wires.at("in1").node, made[a]);
}

TEST(Instances, InheritUntilTheyHaveAnOwnValueAndGiveItBack) {
    Project p = family();
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 1);
    p = *edit::setOwn(p, "parent", "a", {Value::number(5), {}});
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 5);
    EXPECT_EQ(resolve(p, "child").values.at("a").origin, "parent");
    p = *edit::setOwn(p, "child", "a", {Value::number(7), {}});
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 7);
    EXPECT_FLOAT_EQ(valueOf(p, "parent", "a"), 5);
    p = *edit::clearOwn(p, "child", "a");
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 5);
}

TEST(Instances, FollowAChangeOfTheMastersDefault) {
    Project p = family();
    p = *edit::setOwn(p, "m", "b", {Value::number(9), {}});
    EXPECT_FLOAT_EQ(valueOf(p, "child", "b"), 9);
}

TEST(Instances, InheritAndOwnSurfaceSettings) {
    Project p = family();
    p = *edit::setOwnSurface(p, "parent", {AlphaMode::Mask, 0.25f, true});
    const SurfaceSettings child = resolve(p, "child").surface;
    EXPECT_EQ(child.alphaMode, AlphaMode::Mask);
    EXPECT_FLOAT_EQ(child.alphaCutoff, 0.25f);
    EXPECT_TRUE(child.doubleSided);
    EXPECT_EQ(resolve(p, "m").surface.alphaMode, AlphaMode::Opaque);
}

TEST(Instances, ChildrenOfARemovedOneKeepTheirLook) {
    Project p = family();
    p = *edit::setOwn(p, "parent", "a", {Value::number(5), {}});
    p.lineup.specimens[0].wears = {"parent"};
    p = *edit::removeInstance(p, "parent");
    EXPECT_EQ(p.instance("child")->parent, "m");
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 5);
    EXPECT_EQ(p.lineup.specimens[0].wears[0], "m");
}

TEST(Instances, ShowWhoWearsThem) {
    Project p = family();
    p = *edit::wear(p, 0, 1, "child");
    EXPECT_EQ(wearersOf(p, "child"), std::vector<std::string>{"specimen 1, slot 2"});
    EXPECT_FALSE(edit::wear(p, 0, 0, "nobody"));
}

TEST(Parameters, NeverLeaveTheirHardLimits) {
    Project p = family();
    p = *edit::setOwn(p, "child", "a", {Value::number(1000), {}});
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 10);
    EXPECT_FALSE(edit::setOwn(p, "child", "a", {Value::number(std::numeric_limits<float>::quiet_NaN()), {}}));
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 10);
    Parameter narrow = *masterOf(p).parameter("a");
    narrow.hardMax = 3;
    p = *edit::setOwn(p, "child", "a", {Value::number(8), {}});
    p = *edit::changeParameter(p, "m", narrow);
    EXPECT_FLOAT_EQ(valueOf(p, "child", "a"), 3);
}

TEST(Parameters, ExposingAConstantKeepsWhatItFeeds) {
    Project p = bareProject();
    const Id c = add(p, "constant", {{"value", Value::number(0.7f)}});
    channel(p, {c, "out", ""}, "roughness");
    Parameter named;
    named.name = "Grout width";
    p = *edit::expose(p, "m", c, "value", named);
    ASSERT_EQ(masterOf(p).parameters.size(), 1u);
    EXPECT_EQ(masterOf(p).parameters[0].codeName, "grout_width");
    EXPECT_FLOAT_EQ(masterOf(p).parameters[0].standard.value[0], 0.7f);
    EXPECT_EQ(masterOf(p).graph.find(c)->kind, "parameter");
    EXPECT_EQ(masterOf(p).graph.channelWires.at("roughness").node, c);
    const Project back = *edit::removeParameter(p, "m", masterOf(p).parameters[0].id);
    EXPECT_EQ(masterOf(back).graph.find(c)->kind, "constant");
    EXPECT_FLOAT_EQ(masterOf(back).graph.find(c)->constants.at("value")[0], 0.7f);
}

TEST(Parameters, ExposingAnUnwiredPortPlacesACardThatFeedsIt) {
    Project p = bareProject();
    const Id mix = add(p, "mix", {{"mix", Value::number(0.3f)}});
    Parameter named;
    named.name = "Amount";
    p = *edit::expose(p, "m", mix, "mix", named);
    const Source from = masterOf(p).graph.find(mix)->wires.at("mix");
    EXPECT_EQ(masterOf(p).graph.find(from.node)->kind, "parameter");
}

TEST(Parameters, RemovingAMapParameterGivesItsMapToEveryReaderAndTouchesNoOther) {
    Project p = bareProject();
    Parameter map = number("t", 0);
    map.type = ParameterType::Map;
    map.standard.map = "bricks";
    p = *edit::addParameter(p, "m", map);
    const Id card = add(p, "parameter", {}, {{"parameter", "t"}}), first = add(p, "image"), second = add(p, "image"),
             other = add(p, "image", {}, {{"map", "bricks"}});
    wire(p, {card, "out", ""}, first, "map");
    wire(p, {card, "out", ""}, second, "map");
    p = *edit::addBay(p, "m", "bay", {card});
    p = *edit::removeParameter(p, "m", "t");
    EXPECT_FALSE(masterOf(p).graph.find(card));
    EXPECT_TRUE(masterOf(p).graph.bays.empty());
    for (const Id& image : {first, second, other}) {
        ASSERT_TRUE(masterOf(p).graph.find(image));
        EXPECT_TRUE(masterOf(p).graph.find(image)->wires.empty());
        EXPECT_EQ(masterOf(p).graph.find(image)->settings.at("map"), "bricks");
    }
}

TEST(Parameters, WhatWasTunedStaysUntilItIsDropped) {
    Project p = bareProject();
    p = *edit::addParameter(p, "m", number("wear", 0.5f));
    p = *edit::addParameter(p, "m", number("grime", 0.5f));
    for (const char* id : {"a", "b", "c", "d", "e"}) {
        Instance i;
        i.id = i.name = id, i.parent = "m", i.locked = i.id == "b";
        i.own["wear"] = i.own["grime"] = {Value::number(0.75f), {}};
        p = *edit::addInstance(p, i);
    }
    const Parameter wear = *masterOf(p).parameter("wear");
    const Project gone = *edit::removeParameter(p, "m", "wear");
    EXPECT_EQ(instancesWithStrays(gone, masterOf(gone)).size(), 5u);
    // Brought back, it is as it was.
    EXPECT_FLOAT_EQ(resolve(*edit::addParameter(gone, "m", wear), "a").values.at("wear").value.value[0], 0.75f);
    // Said once for all of them, with the mend.
    std::vector<Diagnostic> told;
    for (Diagnostic& d : checkProject(gone))
        if (d.code == "instance.stray-value") told.push_back(std::move(d));
    ASSERT_EQ(told.size(), 1u);
    EXPECT_NE(told[0].sentence.find("a, b, c and 2 more keep values"), std::string::npos) << told[0].sentence;
    const Project clean = *told[0].fixes.at(0).edit(gone);
    EXPECT_TRUE(instancesWithStrays(clean, masterOf(clean)).empty());
    for (const InstancePtr& i : clean.instances) {
        EXPECT_EQ(i->own.size(), 1u);
        EXPECT_TRUE(i->own.contains("grime"));
    }
}

TEST(Names, AreRefusedWhenTakenEmptyOrWithASlash) {
    Project p = family();
    EXPECT_EQ(edit::renameInstance(p, "child", "Parent").error().code, "name.taken");
    EXPECT_EQ(edit::renameInstance(p, "child", " ").error().code, "name.empty");
    EXPECT_EQ(edit::renameMaster(p, "m", "a/b").error().code, "name.slash");
    Instance same;
    same.name = "Child";
    same.parent = "m";
    EXPECT_EQ(edit::addInstance(p, same)->instances.back()->name, "Child 2");
}

TEST(StartingPoints, CompileWithoutProblems) {
    for (const StartingPoint& s : startingPoints()) {
        const Project p = makeProject(s.id);
        for (const Diagnostic& d : checkProject(p)) EXPECT_NE(d.severity, Severity::Error) << s.id << ": " << d.sentence;
        EXPECT_EQ(p.lineup.specimens.size(), 1u);
    }
}

TEST(Colors, SurviveTheWayThroughTheirHexCode) {
    Value c;
    for (const char* hex : {"#000000", "#DCA54A", "#3366E6", "#FFFFFF"}) {
        ASSERT_TRUE(colorFromHex(hex, c));
        EXPECT_EQ(hexFromColor(c), hex);
    }
    for (const char* bad : {"", "#12345", "123456", "#12345G", "#1234567"}) EXPECT_FALSE(colorFromHex(bad, c)) << bad;
    ASSERT_TRUE(colorFromHex("#808080", c));
    EXPECT_NEAR(c[0], 0.2159f, 1e-3f); // IEC 61966-2-1: half encoded is about a fifth of the light
}

TEST(Names, CountOnFromTheNumberThatANameEndsWith) {
    const std::vector<std::string> taken{"Moss", "Moss 2", "Moss 3", "Line 4", "4", "Set 9999999", "Route 007"};
    EXPECT_EQ(freeName(taken, "Stone"), "Stone");
    EXPECT_EQ(freeName(taken, "Moss"), "Moss 4");
    EXPECT_EQ(freeName(taken, "Moss 2"), "Moss 4") << "and not Moss 2 2";
    EXPECT_EQ(freeName(taken, "Line 4"), "Line 5");
    EXPECT_EQ(freeName(taken, "4"), "4 2") << "a number alone is a name";
    EXPECT_EQ(freeName(taken, "Set 9999999"), "Set 9999999 2") << "a number that counts nothing";
    EXPECT_EQ(freeName(taken, "Route 007"), "Route 8");
    EXPECT_EQ(freeName({""}, ""), " 2");
}

} // namespace
} // namespace hue
