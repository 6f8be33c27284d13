// What an edit concerns, told by kind; random edits of everything and undo all the way back.
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/document/changes.h"
#include "core/document/parameter_kinds.h"
#include "core/evaluate/evaluator.h"
#include "core/image_files/image_file.h"
#include "core/maps/statistics.h"
#include "core/mesh/mesh.h"
#include "core/pack/recipe.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>

namespace hue {
namespace {

using namespace test;

Changes after(const Project& before, const Result<Project>& next) {
    EXPECT_TRUE(next);
    return changesBetween(before, *next);
}

TEST(ChangesByKind, TellWhatAnEditConcerns) {
    Project p = bareProject();
    const Id noise = add(p, "worley_noise"), image = add(p, "image");
    channel(p, {noise, "out", ""}, "roughness");
    Parameter parameter;
    parameter.id = "p1";
    parameter.name = "Amount";
    p = *edit::addParameter(p, "m", parameter);
    p = *edit::deriveInstance(p, "m", "i1");
    p = *edit::addMap(p, {"t1", "t1", "a.png", MapKind::Color, Wrap::Repeat, {}, {}});
    EXPECT_TRUE(changesBetween(p, p).none());
    EXPECT_EQ(after(p, edit::moveNodes(p, "m", {{noise, {300, 20}}})), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::renameNode(p, "m", noise, "Stones")), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::addBay(p, "m", "bay", {noise})), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::setUnderpass(p, "m", {}, "roughness", "stones")), Changes(Change::Board)) << "nothing compiles for a drawing";
    Project noted = p;
    const Id note = add(noted, "note", {}, {{"text", "as it was"}});
    EXPECT_EQ(after(noted, edit::setSetting(noted, "m", note, "text", "as it is")), Changes(Change::Board));
    EXPECT_EQ(after(p, edit::setConstant(p, "m", noise, "jitter", Value::number(0.3f))), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::setSetting(p, "m", image, "map", "t1")), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::disconnectChannel(p, "m", "roughness")), Changes(Change::Graph));
    EXPECT_EQ(after(p, edit::setOwn(p, "i1", "p1", {Value::number(0.7f), {}})), Changes(Change::Values));
    EXPECT_EQ(after(p, edit::setOwn(p, "m", "p1", {Value::number(0.7f), {}})), Changes(Change::Values)) << "a default is a value too";
    SurfaceSettings s = masterOf(p).surface;
    s.doubleSided = true;
    EXPECT_EQ(after(p, edit::setSurface(p, "m", s)), Changes(Change::Surface));
    EXPECT_EQ(after(p, edit::setOwnSurface(p, "i1", {AlphaMode::Blend, {}, {}})), Changes(Change::Surface));
    EXPECT_EQ(after(p, edit::renameMaster(p, "m", "Other")), Changes(Change::Names));
    MapFile map = *p.map("t1");
    map.kind = MapKind::Data;
    EXPECT_EQ(after(p, edit::changeMap(p, map)), Changes(Change::Maps));
    EXPECT_EQ(after(p, edit::addMesh(p, {"g1", "g1", "a.glb", {}})), Changes(Change::Meshes));
    Lineup turned = p.lineup;
    turned.orbit.yaw += 40;
    turned.view = "roughness";
    turned.yardstick.split = 0.2f;
    EXPECT_EQ(after(p, edit::setLineup(p, turned)), Changes(Change::Camera));
    turned.exposure = 1;
    EXPECT_EQ(after(p, edit::setLineup(p, turned)), Change::Camera | Change::Lineup);
    Master another;
    another.name = "Another";
    EXPECT_TRUE(after(p, edit::addMaster(p, another)).any(Change::Names));
}

TEST(ChangesByKind, AnOrbitOfASpecimensOwnIsCameraToo) {
    Project p = bareProject();
    Lineup l = p.lineup;
    l.specimens.resize(2);
    p = *edit::setLineup(p, l);
    l.specimens[1].orbit = Orbit{.yaw = 90};
    EXPECT_EQ(after(p, edit::setLineup(p, l)), Changes(Change::Camera));
    l.specimens[1].mesh = "shape:cube";
    EXPECT_EQ(after(p, edit::setLineup(p, l)), Change::Camera | Change::Lineup);
}

/// Random edits of everything but graphs, which have a test of their own.
Result<Project> randomEdit(const Project& p, uint32_t seed) {
    std::mt19937 random(seed);
    const auto pick = [&](size_t n) { return n ? random() % n : 0; };
    const auto someMap = [&]() -> Id { return p.maps.empty() ? Id{} : p.maps[pick(p.maps.size())]->id; };
    const auto someInstance = [&]() -> Id { return p.instances.empty() ? Id{} : p.instances[pick(p.instances.size())]->id; };
    switch (random() % 14) {
    case 0: return edit::addMap(p, {newId('t'), "map", "maps/a.png", MapKind(random() % 4), Wrap(random() % 3), {}, {}});
    case 1:
        if (const MapFile* m = p.map(someMap())) {
            MapFile changed = *m;
            changed.kind = MapKind(random() % 4);
            changed.role = roles()[pick(roles().size())];
            return edit::changeMap(p, changed);
        }
        return p;
    case 2: return p.maps.empty() ? Result<Project>(p) : edit::removeMap(p, someMap());
    case 3: return edit::makeSet(p, random() % 3 ? "set" : "", {{someMap(), roles()[pick(roles().size())]}});
    case 4: {
        Packing k;
        k.recipe = builtInRecipes()[pick(builtInRecipes().size())];
        for (const std::string& role : k.recipe.sources()) k.sources[role] = someMap();
        return edit::addPacking(p, k);
    }
    case 5: return p.packings.empty() ? Result<Project>(p) : edit::removePacking(p, p.packings[pick(p.packings.size())]->id);
    case 6: return edit::deriveInstance(p, random() % 2 ? "m" : someInstance(), newId('i'));
    case 7: return edit::removeInstance(p, someInstance());
    case 8: return edit::renameInstance(p, someInstance(), "name " + std::to_string(random() % 5));
    case 9: return edit::setOwnSurface(p, someInstance(), {AlphaMode(random() % 3), float(random() % 20) / 10 - 0.5f, random() % 2 == 0});
    case 10: return edit::placeSet(p, "m", "set");
    case 11: return edit::wearSet(p, random() % 2 ? "m" : someInstance(), "set");
    case 12: return edit::wear(p, random() % 3, random() % 4, random() % 2 ? "m" : someInstance());
    default: {
        Lineup l = p.lineup;
        if (random() % 2 && l.specimens.size() < 6) l.specimens.push_back({});
        else if (!l.specimens.empty()) l.specimens.erase(l.specimens.begin() + long(pick(l.specimens.size())));
        l.exposure = float(random() % 5);
        return edit::setLineup(p, l);
    }
    }
}

RC_GTEST_PROP(AnyRowOfEditsOfMapsAndInstances, CanBeUndoneToTheFirstByteAndReadsBack, ()) {
    std::vector<Project> states{bareProject()};
    std::vector<std::string> texts{projectText(states[0])};
    const int length = *rc::gen::inRange(1, 30);
    for (int i = 0; i < length; ++i) {
        const Project before = states.back();
        const Result<Project> next = randomEdit(before, *rc::gen::arbitrary<uint32_t>());
        if (!next) {
            // A refusal says why, and nothing has happened.
            RC_ASSERT(!next.error().sentence.empty());
            RC_ASSERT(projectText(before) == texts.back());
            continue;
        }
        states.push_back(*next);
        texts.push_back(projectText(*next));
        // What differs in the file is told by some kind.
        if (texts.back() != texts[texts.size() - 2]) RC_ASSERT(!changesBetween(before, *next).none());
    }
    // Undo is a list of snapshots: each must still be what it was.
    for (size_t i = states.size(); i-- > 0;) RC_ASSERT(projectText(states[i]) == texts[i]);
    const auto loaded = parseProject(texts.back(), "edited.huestack");
    RC_ASSERT(bool(loaded));
    RC_ASSERT(projectText(loaded->project) == texts.back());
}

TEST(MadeFiles, UndoSaysOfAFileWhatItHoldsNow) {
    // Before: made from one thing. Now: made again from another, and the step in between is taken back.
    Project before = bareProject();
    MapFile made{"made", "made", "maps/made.png", MapKind::Data, Wrap::Repeat, "aaaa", {}};
    made.origin.from = MapOrigin::From::Wire;
    made.origin.fingerprint = "old";
    MapFile brought = made;
    brought.id = "brought", brought.origin = {};
    before.maps = {std::make_shared<const MapFile>(made), std::make_shared<const MapFile>(brought)};
    Packing packing;
    packing.id = "k", packing.map = "made", packing.fingerprint = "old";
    before.packings = {std::make_shared<const Packing>(packing)};
    Project now = before;
    made.hash = "bbbb", made.origin.fingerprint = "new", brought.hash = "bbbb", packing.fingerprint = "new";
    now.maps = {std::make_shared<const MapFile>(made), std::make_shared<const MapFile>(brought)};
    now.packings = {std::make_shared<const Packing>(packing)};

    Project back = before;
    back.masters.clear();
    EXPECT_TRUE(keepMadeFiles(back, now));
    EXPECT_EQ(back.map("made")->origin.fingerprint, "new") << "so that it is found stale and made again";
    EXPECT_EQ(back.map("made")->hash, "bbbb");
    EXPECT_EQ(back.map("brought")->hash, "aaaa") << "a file from elsewhere is its own affair";
    EXPECT_EQ(back.packings[0]->fingerprint, "new");
    EXPECT_TRUE(back.masters.empty()) << "all else is as it was";
    EXPECT_EQ(before.map("made")->origin.fingerprint, "old") << "states share what did not change, and are left alone";
    EXPECT_FALSE(keepMadeFiles(back, now)) << "nothing more to do";
    // Stored elsewhere since then, it is another file.
    MapFile moved = made;
    moved.path = "maps/other.png";
    now.maps = {std::make_shared<const MapFile>(moved)};
    Project again = before;
    again.packings.clear();
    EXPECT_FALSE(keepMadeFiles(again, now));
}

} // namespace
} // namespace hue
