// Presets, values that many masters share, and one instance for each map set.
#include "core/document/changes.h"
#include "core/document/shared_parameters.h"
#include "core/edits/edits.h"
#include "core/instances/affected.h"
#include "core/instances/variations.h"
#include "core/picture/looks.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Two masters whose parameter "wet" follows "Wetness", and an instance of each: the second with a value of its own.
Project rainy() {
    Project p = bareProject();
    Master other;
    other.id = "o", other.name = "Other";
    p.masters.push_back(std::make_shared<Master>(other));
    SharedParameter s;
    s.id = "s", s.name = "Wetness", s.value = Value::number(0.3f);
    p = *edit::addShared(p, s);
    for (const char* master : {"m", "o"}) {
        Parameter wet;
        wet.id = std::string("wet_") + master, wet.name = "Wet", wet.codeName = "wet", wet.hardMin = 0, wet.hardMax = 1;
        p = *edit::addParameter(p, master, wet);
        p = *edit::followShared(p, master, wet.id, "s");
        Instance i;
        i.id = std::string("i_") + master, i.name = "I", i.parent = master;
        if (i.id == "i_o") i.own["wet_o"] = {Value::number(0.9f), {}};
        p = *edit::addInstance(p, i);
    }
    return p;
}
float wet(const Project& p, const Id& worn) {
    const Resolved r = resolve(p, worn);
    return r.values.at("wet_" + r.master->id).value.value[0];
}

TEST(Shared, OneValueIsTheDefaultOfAllThatFollow) {
    Project p = rainy();
    EXPECT_FLOAT_EQ(wet(p, "m"), 0.3f);
    EXPECT_FLOAT_EQ(wet(p, "i_m"), 0.3f);
    EXPECT_FLOAT_EQ(wet(p, "i_o"), 0.9f) << "an own value goes before";
    SharedParameter s = p.shared[0];
    s.value = Value::number(4);
    const Project soaked = *edit::changeShared(p, s);
    EXPECT_FLOAT_EQ(wet(soaked, "i_m"), 1) << "within each parameter's limits";
    EXPECT_EQ(affectedBy(p, soaked), (std::vector<Id>{"m", "o", "i_m"}));
    EXPECT_TRUE(changesBetween(p, soaked).any(Change::Values));
    EXPECT_EQ(followersOf(p, "s"), (std::vector<std::string>{"M: Wet", "Other: Wet"}));
    // Gone, what it was stays.
    const Project gone = *edit::removeShared(p, "s");
    EXPECT_FLOAT_EQ(wet(gone, "i_m"), 0.3f);
    EXPECT_TRUE(masterOf(gone).parameters[0].shared.empty());
    // Through the file and back.
    const Result<Loaded> loaded = parseProject(projectText(p), "rainy");
    ASSERT_TRUE(loaded);
    EXPECT_TRUE(loaded->report.empty());
    EXPECT_EQ(loaded->project.shared, p.shared);
    EXPECT_FLOAT_EQ(wet(loaded->project, "i_m"), 0.3f);
    s.name = "Wetness";
    s.id = "t";
    EXPECT_EQ(edit::addShared(p, s).error().code, "name.taken");
    s.name = "Wind", s.until = Value::number(NAN);
    EXPECT_FALSE(edit::addShared(p, s));
}

TEST(Shared, MovesWithTimeAndPicturesWithIt) {
    Project p = rainy();
    SharedParameter s = p.shared[0];
    s.value = Value::number(0.2f), s.until = Value::number(0.8f), s.period = 4, s.moves = SharedParameter::Moves::Swells;
    EXPECT_FLOAT_EQ(valueAt(s, 0)[0], 0.2f);
    EXPECT_FLOAT_EQ(valueAt(s, 1)[0], 0.5f);
    EXPECT_FLOAT_EQ(valueAt(s, 2)[0], 0.8f);
    EXPECT_NEAR(valueAt(s, 4)[0], 0.2f, 1e-6f);
    s.moves = SharedParameter::Moves::Runs;
    EXPECT_FLOAT_EQ(valueAt(s, 1)[0], 0.35f);
    EXPECT_FLOAT_EQ(valueAt(s, 5)[0], 0.35f);
    EXPECT_FLOAT_EQ(valueAt(s, -1)[0], 0.65f);
    EXPECT_FALSE(sharedAt(p, 3)) << "nothing moves";
    p = *edit::changeShared(p, s);
    EXPECT_FLOAT_EQ(wet(*sharedAt(p, 1), "i_m"), 0.35f);
    // Dressed, it is known to move, and shows another value as time goes on; what has a value of its own rests.
    const Id card = add(p, "parameter", {}, {{"parameter", "wet_m"}});
    channel(p, {card, "out", ""}, "roughness");
    Assets assets;
    LookCache looks;
    const auto dressed = [&](const Id& worn, double time) {
        return dress(p, assets, looks, {.mesh = "shape:plane/1", .wears = {worn}}, time);
    };
    EXPECT_TRUE(dressed("i_m", 0).moves());
    EXPECT_FALSE(dressed("i_o", 0).moves());
    EXPECT_FALSE(dress(rainy(), assets, looks, {.mesh = "shape:plane/1", .wears = {"i_m"}}, 0).moves());
    EXPECT_EQ(dressed("i_m", 0).slots[0].look, dressed("i_m", 1).slots[0].look) << "and nothing is compiled for it";
}

TEST(Presets, AreKeptAndGiven) {
    Project p = rainy();
    Parameter face;
    face.id = "face", face.name = "Face", face.codeName = "face", face.type = ParameterType::Map;
    p = *edit::addParameter(p, "m", face);
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"t", "Rust", "rust.png", MapKind::Color, Wrap::Repeat, {}, {}}));
    p = *edit::setOwn(p, "i_m", "wet_m", {Value::number(0.6f), {}});
    p = *edit::keepPreset(p, "i_m", "Rain");
    Instance fresh;
    fresh.id = "fresh", fresh.name = "Fresh", fresh.parent = "m", fresh.own["face"] = {{}, "t"};
    p = *edit::addInstance(p, fresh);
    const Project rained = *edit::usePreset(p, "fresh", "Rain");
    EXPECT_FLOAT_EQ(wet(rained, "fresh"), 0.6f);
    EXPECT_EQ(resolve(rained, "fresh").values.at("face").value.map, "") << "all of its values";
    // What it has already it goes on inheriting.
    const Project again = *edit::usePreset(p, "i_m", "Rain");
    EXPECT_EQ(again.instance("i_m")->own, p.instance("i_m")->own);
    // One of the same name is replaced; a neutral map stays one in the file.
    p = *edit::keepPreset(rained, "i_m", "Rain");
    ASSERT_EQ(masterOf(p).presets.size(), 1u);
    const Result<Loaded> loaded = parseProject(projectText(p), "rainy");
    ASSERT_TRUE(loaded);
    EXPECT_EQ(projectText(loaded->project), projectText(p));
    EXPECT_EQ(resolve(*edit::usePreset(loaded->project, "fresh", "Rain"), "fresh").values.at("face").value.map, "");
    EXPECT_TRUE(masterOf(*edit::removePreset(p, "m", "Rain")).presets.empty());
    EXPECT_EQ(edit::keepPreset(p, "i_m", " ").error().code, "name.empty");
    p = *edit::setLocked(p, {"fresh"}, true);
    p = *edit::setOwn(p, "i_m", "wet_m", {Value::number(0.1f), {}});
    p = *edit::keepPreset(p, "i_m", "Dry");
    EXPECT_EQ(edit::usePreset(p, "fresh", "Dry").error().code, "instance.locked");
}

TEST(MapSets, GiveAnInstanceEach) {
    Project p = bareProject();
    for (const auto& [id, name, kind] :
         {std::tuple{"color", "Base color map", MapKind::Color}, {"normal", "Normal map", MapKind::Normal}}) {
        Parameter map;
        map.id = map.codeName = id, map.name = name, map.type = ParameterType::Map, map.mapKind = kind;
        p = *edit::addParameter(p, "m", map);
    }
    const auto has = [&](const Id& id, const char* set, const char* role, MapKind kind) {
        MapFile m{id, id, id + ".png", kind, Wrap::Repeat, {}, {}};
        m.set = set, m.role = role;
        p.maps.push_back(std::make_shared<MapFile>(m));
    };
    has("b1", "brick/old", "base color", MapKind::Color), has("b2", "brick/old", "normal", MapKind::Normal);
    has("s1", "slate", "base color", MapKind::Color);
    has("h1", "heights", "height", MapKind::Height);
    std::vector<Id> made;
    const Result<Project> next = withMapSets(p, "m", &made);
    ASSERT_TRUE(next) << next.error().sentence;
    ASSERT_EQ(made.size(), 2u) << "heights have no parameter";
    EXPECT_EQ(next->instance(made[0])->name, "brick old");
    EXPECT_EQ(next->instance(made[0])->own.at("color").map, "b1");
    EXPECT_EQ(next->instance(made[0])->own.at("normal").map, "b2");
    EXPECT_EQ(next->instance(made[1])->own.at("color").map, "s1");
    EXPECT_FALSE(next->instance(made[1])->own.contains("normal"));
}

} // namespace
} // namespace hue
