// Many instances that vary within ranges.
#include "core/instances/variations.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>
#include <set>

namespace hue {
namespace {

using namespace test;

Project depot() {
    Project p = bareProject();
    Master m = masterOf(p);
    const auto add = [&](const Id& id, const std::string& name, ParameterType type) {
        Parameter its;
        its.id = its.codeName = id, its.name = name, its.type = type;
        its.standard.value.width = std::max(1, its.width());
        m.parameters.push_back(its);
    };
    add("wear", "Wear", ParameterType::Number), add("tint", "Tint", ParameterType::Color), add("face", "Face", ParameterType::Map);
    m.parameters[0].hardMin = 0, m.parameters[0].hardMax = 1;
    p.masters[0] = std::make_shared<Master>(m);
    for (const char* id : {"fine", "coarse"})
        p.maps.push_back(std::make_shared<MapFile>(MapFile{id, id, "", MapKind::Color, Wrap::Repeat, {}, {}}));
    return p;
}
Variations of(int count, bool gradual = false) {
    return {"m", "Panel", count, gradual, 1, {{"wear", Value::number(0.2f), Value::number(0.6f)}}};
}
std::vector<float> wears(const Project& p) {
    std::vector<float> out;
    for (const InstancePtr& i : p.instances) out.push_back(i->own.at("wear").value[0]);
    return out;
}

TEST(Variations, GoFromLowToHighInEvenSteps) {
    Variations v = of(5, true);
    v.varied.push_back({"tint", Value::vec3(1, 0, 0), Value::vec3(0, 1, 0.5f)});
    v.varied.push_back({"face", {}, {}, {"fine", "coarse"}});
    std::vector<Id> made;
    const Project p = *withVariations(depot(), v, &made);
    ASSERT_EQ(p.instances.size(), 5u);
    for (size_t k = 0; k < 5; ++k) {
        const Instance& i = *p.instances[k];
        EXPECT_EQ(i.id, made[k]);
        EXPECT_EQ(p.nameOf(i.id), "M/Panel " + std::to_string(k + 1));
        EXPECT_FLOAT_EQ(i.own.at("wear").value[0], 0.2f + 0.1f * float(k));
        EXPECT_FLOAT_EQ(i.own.at("tint").value[0], 1 - 0.25f * float(k));
        EXPECT_FLOAT_EQ(i.own.at("tint").value[2], 0.125f * float(k));
        EXPECT_EQ(i.own.at("face").map, k % 2 ? "coarse" : "fine");
    }
    EXPECT_FLOAT_EQ(wears(*withVariations(depot(), of(1, true)))[0], 0.2f);
}

TEST(Variations, ByChanceCoverAllOfTheRangeAndAreTheSameForTheSameSeed) {
    for (const uint32_t seed : {1u, 2u, 77u}) {
        Variations v = of(40);
        v.seed = seed;
        v.varied.push_back({"tint", Value::vec3(0, 0, 0), Value::vec3(1, 1, 1)});
        const Project p = *withVariations(depot(), v);
        // One in each fortieth of the range, of both parameters.
        std::set<int> parts, others;
        for (const InstancePtr& i : p.instances) {
            const float wear = i->own.at("wear").value[0], tint = i->own.at("tint").value[0];
            EXPECT_GE(wear, 0.2f);
            EXPECT_LE(wear, 0.6f);
            parts.insert(int((wear - 0.2f) / 0.4f * 40));
            others.insert(int(tint * 40));
        }
        EXPECT_GE(parts.size(), 39u) << "rounding may put one beside its part";
        EXPECT_GE(others.size(), 39u);
        // Not in step with each other.
        double together = 0;
        for (const InstancePtr& i : p.instances)
            together += double(i->own.at("wear").value[0] - 0.4f) / 0.2 * double(i->own.at("tint").value[0] - 0.5f) / 0.5 / 40 * 3;
        EXPECT_LT(std::fabs(together), 0.7);
        EXPECT_EQ(wears(p), wears(*withVariations(depot(), v)));
        ++v.seed;
        EXPECT_NE(wears(p), wears(*withVariations(depot(), v)));
    }
}

TEST(Variations, KeepLimitsAndNamesThatAreFree) {
    Variations v = of(3, true);
    v.varied[0].high = Value::number(5);
    const Project p = *withVariations(*withVariations(depot(), v), v);
    EXPECT_FLOAT_EQ(wears(p)[2], 1);
    std::set<std::string> names;
    for (const InstancePtr& i : p.instances) names.insert(i->name);
    EXPECT_EQ(names.size(), 6u);
}

TEST(Variations, AreRefusedInWords) {
    const Project p = depot();
    Variations v = of(0);
    EXPECT_EQ(withVariations(p, v).error().code, "vary.count");
    v = of(1001);
    EXPECT_EQ(withVariations(p, v).error().code, "vary.count");
    v = of(3), v.varied.clear();
    EXPECT_EQ(withVariations(p, v).error().code, "vary.nothing");
    v = of(3), v.parent = "gone";
    EXPECT_EQ(withVariations(p, v).error().code, "instance.no-parent");
    v = of(3), v.varied[0].parameter = "gloss";
    EXPECT_EQ(withVariations(p, v).error().code, "edit.no-parameter");
    v = of(3), v.name = "A/B";
    EXPECT_EQ(withVariations(p, v).error().code, "name.slash");
    const Master& m = masterOf(p);
    EXPECT_EQ(variedFrom(p, m.parameters[0], "0.2").error().code, "vary.range");
    EXPECT_EQ(variedFrom(p, m.parameters[0], "0.2..much").error().code, "value.words");
    EXPECT_EQ(variedFrom(p, m.parameters[2], "fine;gone").error().code, "value.words");
    EXPECT_FLOAT_EQ(variedFrom(p, m.parameters[0], "-0.5..1.5")->low[0], -0.5f);
    EXPECT_EQ(variedFrom(p, m.parameters[2], "fine; coarse")->maps, (std::vector<Id>{"fine", "coarse"}));
}

class VaryCommand : public InFolder {};

TEST_F(VaryCommand, MakesInstancesAndPrintsTheirNames) {
    const std::string file = (folder / "p.huestack").string();
    ASSERT_TRUE(saveProject(depot(), file));
    const Ran ran = runHsk("instance vary " + file + " --of M --count 3 --gradual --vary wear=0..1 --vary 'face=fine;coarse' --name Panel");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(ran.output, "M/Panel 1\nM/Panel 2\nM/Panel 3\n");
    EXPECT_EQ(wears(loadProject(file)->project), (std::vector<float>{0, 0.5f, 1}));
    EXPECT_EQ(runHsk("instance vary " + file + " --of M --vary wear=0..1 --vary wear").code, 2);
    EXPECT_EQ(runHsk("instance vary " + file + " --of M --vary gloss=0..1").code, 2);
    EXPECT_EQ(loadProject(file)->project.instances.size(), 3u);
}

TEST(Variations, ThoseThatAreLeftOutChangeNothingForTheOthers) {
    Variations v = of(8, false);
    std::vector<Id> all, kept;
    const Project whole = *withVariations(depot(), v, &all);
    v.without = {0, 3, 7};
    const Project some = *withVariations(depot(), v, &kept);
    ASSERT_EQ(kept.size(), 5u);
    const int places[] = {1, 2, 4, 5, 6};
    for (size_t k = 0; k < 5; ++k) {
        const Instance &here = *some.instance(kept[k]), &there = *whole.instance(all[size_t(places[k])]);
        EXPECT_EQ(here.own, there.own) << k;
        EXPECT_EQ(here.name, there.name) << k;
    }
}

} // namespace
} // namespace hue
