// A parameter that names a map set gives all the maps that are taken of it, and nothing that was chosen is lost on the way.
#include "core/check/check.h"
#include "core/document/names.h"
#include "core/instances/value_words.h"
#include "core/instances/variations.h"
#include "core/master_text/master_text.h"
#include "core/nodes/add_line.h"
#include "core/project/merge.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Two sets, Cobbles with color, normal and height, Slabs without the height; a master whose maps are parameters, a master's instance A,
/// and B of A.
struct Sets {
    Project p = bareProject();
    Sets() {
        for (const auto& [set, role, kind] : {std::tuple{"Cobbles", "base color", MapKind::Color},
                                              {"Cobbles", "normal", MapKind::Normal},
                                              {"Cobbles", "height", MapKind::Height},
                                              {"Slabs", "base color", MapKind::Color},
                                              {"Slabs", "normal", MapKind::Normal},
                                              {"", "", MapKind::Color}}) {
            MapFile m;
            m.id = *set ? fmt::format("{} {}", set, role) : "lone";
            m.name = m.id, m.path = m.id + ".png", m.kind = kind, m.set = set, m.role = role;
            p = *edit::addMap(p, m);
        }
        for (const auto& [id, name, kind] :
             {std::tuple{"color", "Color", MapKind::Color}, {"bend", "Normal", MapKind::Normal}, {"depth", "Height", MapKind::Height}}) {
            Parameter q;
            q.id = id, q.name = name, q.type = ParameterType::Map, q.mapKind = kind;
            p = *edit::addParameter(p, "m", q);
        }
        Parameter set;
        set.id = "set", set.name = "Stones", set.type = ParameterType::MapSet;
        p = *edit::addParameter(p, "m", set);
        p = *edit::addInstance(p, {"a", "A", "m", {}, {}, {}, {}, {}});
        p = *edit::addInstance(p, {"b", "B", "a", {}, {}, {}, {}, {}});
    }
    void follow() { p = *edit::takeOfSet(p, "m", {"color", "bend", "depth"}, "set"); }
    std::string map(const Id& worn, const Id& parameter) const { return resolve(p, worn).values.at(parameter).value.map; }
    std::vector<std::string> maps(const Id& worn) const { return {map(worn, "color"), map(worn, "bend"), map(worn, "depth")}; }
};
using Maps = std::vector<std::string>;

TEST(MapSetParameters, GiveAllThatTheSetHas) {
    Sets s;
    s.follow();
    EXPECT_EQ(s.maps("b"), (Maps{"", "", ""})) << "no set, no maps";
    s.p = *edit::setOwn(s.p, "a", "set", {{}, "Cobbles"});
    EXPECT_EQ(s.maps("b"), (Maps{"Cobbles base color", "Cobbles normal", "Cobbles height"})) << "what derives inherits the set";
    s.p = *edit::setOwn(s.p, "b", "set", {{}, "Slabs"});
    EXPECT_EQ(s.maps("b"), (Maps{"Slabs base color", "Slabs normal", ""})) << "what the set lacks is neutral, not of another set";
    EXPECT_EQ(s.maps("a")[2], "Cobbles height");
    const Resolved r = resolve(s.p, "b");
    EXPECT_EQ(r.values.at("color").bySet, "set");
    EXPECT_EQ(r.values.at("color").origin, "b");
    // An own map beside the set goes before it.
    s.p = *edit::setOwn(s.p, "b", "color", {{}, "lone"});
    EXPECT_EQ(s.maps("b")[0], "lone");
    EXPECT_TRUE(resolve(s.p, "b").values.at("color").bySet.empty());
    s.p = *edit::clearOwn(s.p, "b", "set");
    EXPECT_EQ(s.maps("b"), (Maps{"lone", "Cobbles normal", "Cobbles height"})) << "the rest is inherited again";
    const auto gone = edit::setOwn(s.p, "b", "set", {{}, "Gravel"});
    ASSERT_FALSE(gone);
    EXPECT_EQ(gone.error().code, "set.gone");
}

/// The same by recursion, a level at a time: what a level says itself, else what its set has, else what lies above.
std::string byRecursion(const Project& p, const Id& worn, const Parameter& map) {
    const auto ofSet = [&](const std::string& set) -> std::string {
        for (const auto& m : p.maps)
            if (m->set == set && m->role == map.setRole) return m->id;
        return {};
    };
    const Instance* i = p.instance(worn);
    if (!i) {
        const std::string& set = masterOf(p).parameter(map.ofSet)->standard.map;
        return set.empty() ? map.standard.map : ofSet(set);
    }
    if (const auto own = i->own.find(map.id); own != i->own.end()) return own->second.map;
    if (const auto set = i->own.find(map.ofSet); set != i->own.end() && !set->second.map.empty()) return ofSet(set->second.map);
    return byRecursion(p, i->parent, map);
}

TEST(MapSetParameters, NearerLevelsGoFirst) {
    std::mt19937 random(7);
    const auto pick = [&](const std::vector<std::string>& of) { return of[random() % of.size()]; };
    for (int round = 0; round < 200; ++round) {
        Sets s;
        s.follow();
        s.p = *edit::addInstance(s.p, {"c", "C", "b", {}, {}, {}, {}, {}});
        for (const char* worn : {"m", "a", "b", "c"}) {
            if (random() % 2) s.p = *edit::setOwn(s.p, worn, "set", {{}, pick({"Cobbles", "Slabs", ""})});
            for (const char* map : {"color", "bend", "depth"})
                if (*worn != 'm' && random() % 4 == 0) s.p = *edit::setOwn(s.p, worn, map, {{}, pick({"lone", "Slabs normal", ""})});
        }
        for (const char* worn : {"m", "a", "b", "c"})
            for (const char* map : {"color", "bend", "depth"})
                ASSERT_EQ(s.map(worn, map), byRecursion(s.p, worn, *masterOf(s.p).parameter(map))) << round << " " << worn << " " << map;
    }
}

TEST(MapSetParameters, TakeOverWhatWasChosenBefore) {
    Sets s;
    for (const auto& [map, id] : {std::pair{"color", "Cobbles base color"}, {"bend", "Cobbles normal"}, {"depth", "Cobbles height"}})
        s.p = *edit::setOwn(s.p, "m", map, {{}, id});
    for (const auto& [map, id] : {std::pair{"color", "Slabs base color"}, {"bend", "Slabs normal"}, {"depth", ""}})
        s.p = *edit::setOwn(s.p, "a", map, {{}, id});
    s.p = *edit::setOwn(s.p, "b", "color", {{}, "lone"});
    const Maps master = s.maps("m"), a = s.maps("a"), b = s.maps("b");
    s.follow();
    EXPECT_EQ(s.maps("m"), master);
    EXPECT_EQ(s.maps("a"), a);
    EXPECT_EQ(s.maps("b"), b);
    EXPECT_EQ(masterOf(s.p).parameter("set")->standard.map, "Cobbles") << "the master's maps were one set";
    // A default is changed by the set, not beside it.
    const auto beside = edit::setOwn(s.p, "m", "color", {{}, "lone"});
    ASSERT_FALSE(beside);
    EXPECT_EQ(beside.error().code, "set.gives");
    // An instance whose maps are exactly a set names it from now on.
    Sets plain;
    for (const auto& [map, id] : {std::pair{"color", "Slabs base color"}, {"bend", "Slabs normal"}})
        plain.p = *edit::setOwn(plain.p, "a", map, {{}, id});
    plain.follow();
    EXPECT_EQ(plain.p.instance("a")->own.at("set").map, "Slabs");
    EXPECT_EQ(plain.p.instance("a")->own.size(), 1u);
    EXPECT_EQ(plain.maps("b"), (Maps{"Slabs base color", "Slabs normal", ""}));
}

TEST(MapSetParameters, AreRemovedWithoutAnybodyLookingOtherwise) {
    Sets s;
    s.follow();
    s.p = *edit::setOwn(s.p, "m", "set", {{}, "Cobbles"});
    s.p = *edit::setOwn(s.p, "a", "set", {{}, "Slabs"});
    s.p = *edit::setOwn(s.p, "b", "bend", {{}, "lone"});
    const Maps master = s.maps("m"), a = s.maps("a"), b = s.maps("b");
    s.p = *edit::removeParameter(s.p, "m", "set");
    EXPECT_EQ(s.maps("m"), master);
    EXPECT_EQ(s.maps("a"), a);
    EXPECT_EQ(s.maps("b"), b);
    EXPECT_TRUE(masterOf(s.p).parameter("color")->ofSet.empty());
}

TEST(MapSetParameters, FollowASetThatIsCalledOtherwise) {
    Sets s;
    s.follow();
    s.p = *edit::setOwn(s.p, "a", "set", {{}, "Slabs"});
    s.p = *edit::keepPreset(s.p, "a", "Flat");
    // One map at a time, as in the list of maps; the last takes the name along.
    s.p = *edit::makeSet(s.p, "Plates", {{"Slabs base color", ""}});
    EXPECT_EQ(s.p.instance("a")->own.at("set").map, "Slabs");
    s.p = *edit::makeSet(s.p, "Plates", {{"Slabs normal", ""}});
    EXPECT_EQ(s.p.instance("a")->own.at("set").map, "Plates");
    EXPECT_EQ(s.maps("b"), (Maps{"Slabs base color", "Slabs normal", ""}));
    EXPECT_EQ(masterOf(s.p).presets[0].values.at("set").map, "Plates");
    // What is in use is neither dissolved nor taken away.
    s.p = *edit::makeSet(s.p, "", {{"Slabs normal", ""}});
    const auto dissolved = edit::makeSet(s.p, "", {{"Slabs base color", ""}});
    ASSERT_FALSE(dissolved);
    EXPECT_EQ(dissolved.error().code, "set.in-use");
    EXPECT_NE(dissolved.error().sentence.find("M/A"), std::string::npos) << dissolved.error().sentence;
    const auto removed = edit::removeMap(s.p, "Slabs base color");
    ASSERT_FALSE(removed);
    EXPECT_NE(removed.error().sentence.find("M/A"), std::string::npos) << removed.error().sentence;
    EXPECT_TRUE(edit::removeMap(s.p, "Slabs normal")) << "it left the set, and nobody reads it";
}

TEST(MapSetParameters, SwapAndWearSetsByName) {
    Sets s;
    s.follow();
    s.p = *edit::setOwn(s.p, "a", "color", {{}, "lone"});
    s.p = *edit::wearSet(s.p, "a", "Cobbles");
    EXPECT_EQ(s.p.instance("a")->own.size(), 1u) << "the set alone";
    EXPECT_EQ(s.maps("a")[0], "Cobbles base color");
    const Project all = *edit::swapSets(s.p, "Cobbles", "Slabs");
    EXPECT_EQ(all.instance("a")->own.at("set").map, "Slabs");
    const Project one = *edit::swapSets(s.p, "Cobbles", "Slabs", "b");
    EXPECT_EQ(one.instance("b")->own.at("set").map, "Slabs");
    EXPECT_EQ(one.instance("b")->own.size(), 1u) << "and no maps beside it";
    EXPECT_EQ(one.instance("a")->own.at("set").map, "Cobbles");
    std::vector<Id> made;
    const Project tried = *withMapSets(s.p, "m", &made);
    ASSERT_EQ(made.size(), 2u);
    EXPECT_EQ(tried.instance(made[1])->own.at("set").map, "Slabs");
}

TEST(MapSetParameters, SwappingReachesValuesOfParametersThatAreGone) {
    Sets s;
    s.p = *edit::setOwn(s.p, "a", "color", {{}, "Cobbles base color"});
    s.p = *edit::removeParameter(s.p, "m", "color");
    const Project swapped = *edit::swapSets(s.p, "Cobbles", "Slabs");
    EXPECT_EQ(swapped.instance("a")->own.at("color").map, "Slabs base color") << "for whoever brings the parameter back";
    EXPECT_TRUE(edit::removeMap(swapped, "Cobbles base color"));
}

TEST(MapSetParameters, GoAlongWithPresetsAndDifferences) {
    Sets s;
    s.follow();
    s.p = *edit::setOwn(s.p, "a", "set", {{}, "Slabs"});
    s.p = *edit::setOwn(s.p, "a", "depth", {{}, "lone"});
    s.p = *edit::keepPreset(s.p, "a", "Flat");
    s.p = *edit::addInstance(s.p, {"c", "C", "m", {}, {}, {}, {}, {}});
    s.p = *edit::setOwn(s.p, "c", "color", {{}, "lone"});
    s.p = *edit::usePreset(s.p, "c", "Flat");
    EXPECT_EQ(s.maps("c"), s.maps("a")) << "an own map that the preset's set gives gives way";
    // Only what differs is own: the set, and the map beside it.
    s.p = *edit::instanceOfDifferences(s.p, "a", "m", {"d", "D", "m", {}, {}, {}, {}, {}});
    EXPECT_EQ(s.maps("d"), s.maps("a"));
    EXPECT_EQ(s.p.instance("d")->own.size(), 2u);
    // Under a parent with the same set and another map, that map alone is given back.
    s.p = *edit::instanceOfDifferences(s.p, "m", "a", {"e", "E", "a", {}, {}, {}, {}, {}});
    EXPECT_EQ(s.maps("e"), s.maps("m"));
    // Pushed up and pulled down as any value.
    s.p = *edit::pushUp(s.p, "a", "set");
    EXPECT_EQ(masterOf(s.p).parameter("set")->standard.map, "Slabs");
    EXPECT_EQ(s.maps("b")[0], "Slabs base color");
}

TEST(MapSetParameters, AreSaidInWordsAndFiles) {
    Sets s;
    s.follow();
    s.p = *edit::setOwn(s.p, "m", "set", {{}, "Cobbles"});
    const Parameter& set = *masterOf(s.p).parameter("set");
    EXPECT_EQ(wordsOf(s.p, set, {{}, "Slabs"}), "Slabs");
    EXPECT_EQ(wordsOf(s.p, set, {}), "none");
    EXPECT_EQ(valueFrom(s.p, set, "Slabs")->map, "Slabs");
    EXPECT_EQ(valueFrom(s.p, set, "none")->map, "");
    EXPECT_EQ(valueFrom(s.p, set, "Gravel").error().code, "value.words");
    // The board's text, there and back.
    const BoardText lines = boardText(s.p, masterOf(s.p));
    EXPECT_NE(lines.text.find("map_set stones = \"Cobbles\""), std::string::npos) << lines.text;
    const ReadText back = readText(s.p, "m", lines.text, {});
    ASSERT_TRUE(back.project);
    EXPECT_EQ(masterOf(*back.project).parameter("set")->standard.map, "Cobbles");
    EXPECT_EQ(masterOf(*back.project).parameter("color")->ofSet, "set");
    EXPECT_FALSE(readText(s.p, "m", "map_set stones = \"Gravel\"\n", lines).project);
    // The file, there and back.
    const auto read = parseProject(projectText(s.p), "sets");
    ASSERT_TRUE(read);
    EXPECT_EQ(masterOf(read->project).parameter("depth")->ofSet, "set");
    EXPECT_EQ(masterOf(read->project).parameter("depth")->setRole, "height");
    EXPECT_EQ(resolve(read->project, "b").values.at("depth").value.map, "Cobbles height");
    // The add line.
    const auto proposals = propose(s.p, masterOf(s.p), "ground = map set");
    ASSERT_FALSE(proposals.empty());
    EXPECT_EQ(proposals[0].parameter.type, ParameterType::MapSet);
    // A set that a file names and the project does not have is told of.
    Project lost = read->project;
    for (auto& m : lost.maps) {
        auto copy = std::make_shared<MapFile>(*m);
        copy->set.clear();
        m = copy;
    }
    EXPECT_TRUE(holds(codesOf(checkProject(lost)), "set.gone"));
    EXPECT_FALSE(holds(codesOf(checkProject(s.p)), "set.gone"));
}

TEST(MapSetParameters, RefuseWhatTheyCannotBe) {
    Sets s;
    EXPECT_EQ(edit::takeOfSet(s.p, "m", {"color"}, "bend").error().code, "set.kind");
    EXPECT_EQ(edit::takeOfSet(s.p, "m", {"set"}, "set").error().code, "set.kind");
    EXPECT_EQ(edit::takeOfSet(s.p, "m", {"color"}, "gone").error().code, "edit.no-parameter");
    Parameter other = *masterOf(s.p).parameter("set");
    other.type = ParameterType::Map;
    EXPECT_EQ(edit::changeParameter(s.p, "m", other).error().code, "set.own-kind");
    s.follow();
    // Two of them become one: what was taken of one is taken of the other.
    Parameter second;
    second.id = "second", second.name = "More stones", second.type = ParameterType::MapSet;
    s.p = *edit::addParameter(s.p, "m", second);
    s.p = *edit::mergeParameters(s.p, "m", "second", "set");
    EXPECT_EQ(masterOf(s.p).parameter("color")->ofSet, "second");
    // Of no set any more.
    s.p = *edit::takeOfSet(s.p, "m", {"color"}, {});
    EXPECT_TRUE(masterOf(s.p).parameter("color")->setRole.empty());
}

} // namespace
} // namespace hue
