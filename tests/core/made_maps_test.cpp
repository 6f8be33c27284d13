// Maps that a project makes itself, and the edits that put maps in places of others.
#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/cost/cost.h"
#include "core/make/made_maps.h"
#include "core/maps/normal_tools.h"
#include "core/project/cut_outs.h"
#include "core/project/map_index.h"
#include "core/project/map_library.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

namespace hue {
namespace {

using namespace test;

class MadeMaps : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        assets.setFolder(folder);
        std::filesystem::create_directories(folder / "maps");
    }
    Id addMap(Project& p, const std::string& id, const Image& image, MapKind kind, const std::string& set = {},
              const std::string& role = {}) {
        const std::string suffix = image.type == SampleType::F32 ? ".exr" : ".png";
        EXPECT_TRUE(writeImage(folder / "maps" / (id + suffix), image, kind == MapKind::Color ? PixelEncoding::Srgb : PixelEncoding::Data));
        MapFile m{id, id, "maps/" + id + suffix, kind, Wrap::Repeat, {}, {}};
        m.set = set;
        m.role = role;
        p = *edit::addMap(p, m);
        return id;
    }
    static MapOrigin from(const Id& node, int size, SampleType type = SampleType::U8, const std::string& port = "out") {
        MapOrigin o;
        o.from = MapOrigin::From::Wire;
        o.worn = "m";
        o.wire = {node, port, ""};
        o.width = o.height = size;
        o.type = type;
        return o;
    }
    static Cost cost(const Project& p) { return costOf(*compileSurface(p, masterOf(p)).program, nullptr, {}); }
    Assets assets;
};

TEST_F(MadeMaps, AWiresMapHoldsWhatTheChannelShows) {
    Project p = bareProject();
    const Id noise = add(p, "fractal", {}, {{"seamless", "yes"}});
    channel(p, {noise, "out", ""}, "roughness");
    const auto made = pictureOfWire(p, assets, from(noise, 64, SampleType::F32), {});
    ASSERT_TRUE(made) << made.error().sentence;
    const auto shown = evaluateChannel(p, assets, "m", "roughness", 64, 0, {});
    ASSERT_TRUE(shown);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) EXPECT_EQ(made->image.at(x, y, 0), shown->values[size_t(y * 64 + x)]);
}

TEST_F(MadeMaps, ItsKindFollowsFromWhatTheWireCarries) {
    Project p = bareProject();
    const Id color = add(p, "constant", {{"value", Value::vec3(0.5f, 0.2f, 0.1f)}});
    const auto made = pictureOfWire(p, assets, from(color, 8), {});
    EXPECT_EQ(made->kind, MapKind::Color);
    EXPECT_NEAR(made->image.at(1, 1, 0), linearToSrgb(0.5f), 0.003f) << "stored sRGB-encoded";
    const Id noise = add(p, "noise_2d", {}, {{"seamless", "yes"}}), slope = add(p, "height_to_normal");
    wire(p, {noise, "out", ""}, slope, "in");
    EXPECT_EQ(pictureOfWire(p, assets, from(slope, 32), {})->kind, MapKind::Normal);
    const Id bright = add(p, "constant", {{"value", Value::number(3)}});
    EXPECT_FALSE(pictureOfWire(p, assets, from(bright, 8), {})->cautions.empty()) << "3 was cut to 1";
    EXPECT_TRUE(pictureOfWire(p, assets, from(bright, 8, SampleType::F16), {})->cautions.empty());
    EXPECT_EQ(pictureOfWire(p, assets, from("gone", 8), {}).error().code, "make.nothing");
    EXPECT_EQ(pictureOfWire(p, assets, from(bright, 60000), {}).error().code, "make.size");
}

TEST_F(MadeMaps, AMapKnowsWhenItsSourceHasChangedAndOnlyThen) {
    Project p = bareProject();
    const Id noise = add(p, "fractal");
    MapFile map;
    map.id = "made";
    map.name = "dirt";
    map.origin = from(noise, 32);
    const auto made = makeMap(p, assets, map, {});
    ASSERT_TRUE(made) << made.error().sentence;
    EXPECT_TRUE(std::filesystem::exists(folder / made->file.path));
    p = *edit::addMap(p, made->file);
    EXPECT_TRUE(staleMaps(p, assets).maps.empty());
    p = *edit::moveNodes(p, "m", {{noise, {500, 300}}});
    EXPECT_TRUE(staleMaps(p, assets).maps.empty()) << "a moved card makes no other picture";
    p = *edit::setConstant(p, "m", noise, "scale", Value::number(9));
    EXPECT_EQ(staleMaps(p, assets).maps, std::vector<Id>{"made"});
    p = *edit::changeMap(p, makeMap(p, assets, *p.map("made"), {})->file);
    EXPECT_TRUE(staleMaps(p, assets).maps.empty());
    EXPECT_EQ(p.maps.size(), 1u) << "the same file, made again";
    // Saved and read again it still knows.
    const auto back = parseProject(projectText(p), "test");
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->project.map("made")->origin == p.map("made")->origin);
}

TEST_F(MadeMaps, APackingFollowsTheFilesItReads) {
    Project p = bareProject();
    for (const char* role : {"occlusion", "roughness", "metallic"})
        addMap(p, role, imageOf({sampleHeight(16, 16)}, SampleType::U8), MapKind::Data, "yard", role);
    Packing packing;
    packing.id = "k";
    packing.recipe = *findRecipe("orm");
    for (const char* role : {"occlusion", "roughness", "metallic"}) packing.sources[role] = role;
    const auto made = packMap(p, assets, packing, {});
    ASSERT_TRUE(made) << made.error().sentence;
    p = *edit::addPacking(*edit::addMap(p, made->file), packing);
    EXPECT_EQ(p.map(packing.map)->name, "yard_orm") << "named after its set";
    EXPECT_TRUE(staleMaps(p, assets).packings.empty());
    ASSERT_TRUE(writeImage(folder / "maps" / "roughness.png", imageOf({Plane(16, 16, 0.9f)}, SampleType::U8), PixelEncoding::Data));
    EXPECT_EQ(staleMaps(p, assets).packings, std::vector<Id>{"k"});
    const auto back = parseProject(projectText(p), "test");
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->project.packing("k")->recipe == packing.recipe);
    EXPECT_EQ(projectText(back->project), projectText(p));
}

/// How much of a level of a map is above a half, in one channel.
float coveredAt(const MapPtr& map, int level, size_t channel) {
    const Map::Level& l = map->level(level);
    int above = 0;
    for (int y = 0; y < l.height; ++y)
        for (int x = 0; x < l.width; ++x) {
            float v[4];
            map->texel(level, x, y, v);
            above += v[channel] >= 0.5f;
        }
    return float(above) / float(l.width * l.height);
}

TEST_F(MadeMaps, ACutOutCoversAsMuchFromAfarInPicturesAsNearby) {
    Project p = bareProject();
    // Fine meshes that vanish when averaged.
    Plane bars(64, 64);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x)
            bars.at(x, y) = std::clamp(0.35f + 0.9f * std::sin(1.9f * float(x)) * std::sin(1.7f * float(y) + 0.31f * float(x)), 0.f, 1.f);
    addMap(p, "grille", imageOf({bars}, SampleType::U8), MapKind::Data, "yard", "opacity");
    addMap(p, "mask", imageOf({bars}, SampleType::U8), MapKind::Data, "yard", "mask");
    const MapPtr grille = assets.map(p, "grille"), mask = assets.map(p, "mask");
    const float full = coveredAt(grille, 0, 0);
    for (int level = 1; level < 4; ++level) EXPECT_NEAR(coveredAt(grille, level, 0), full, 0.06f) << level;
    EXPECT_GT(std::fabs(coveredAt(mask, 3, 0) - full), 0.06f) << "a mask is averaged and nothing else";
}

TEST_F(MadeMaps, WhatAMasterCutsOutByKeepsItsCoverWhateverTheMapIsCalled) {
    // Fine bars in the alpha of a color map, which no role speaks of.
    std::vector<Plane> planes(4, Plane(64, 64, 0.5f));
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x)
            planes[3].at(x, y) =
                std::clamp(0.35f + 0.9f * std::sin(1.9f * float(x)) * std::sin(1.7f * float(y) + 0.31f * float(x)), 0.f, 1.f);
    Project p = bareProject();
    addMap(p, "bars", imageOf(planes, SampleType::U8), MapKind::Color, "yard", "base color");
    addMap(p, "other", imageOf(planes, SampleType::U8), MapKind::Color, "yard", "base color");
    const float full = coveredAt(assets.map(p, "bars"), 0, 3);
    const auto keeps = [&](const Project& q, const Id& map) {
        const MapPtr read = assets.map(q, map);
        for (int level = 1; level < 4; ++level)
            if (std::fabs(coveredAt(read, level, 3) - full) > 0.06f) return false;
        return true;
    };
    EXPECT_FALSE(keeps(p, "bars")) << "averaged, as nothing is cut by it yet";
    const Id image = add(p, "image", {}, {{"map", "bars"}});
    channel(p, {image, "alpha", ""}, "alpha");
    EXPECT_FALSE(keeps(p, "bars")) << "alpha of an opaque surface cuts nothing";
    SurfaceSettings s = masterOf(p).surface;
    s.alphaMode = AlphaMode::Mask;
    p = *edit::setSurface(p, "m", s);
    EXPECT_TRUE(keeps(p, "bars"));
    EXPECT_FALSE(keeps(p, "other")) << "a map that nobody cuts by";
    // Through a map parameter: the default's map, and the one that an instance wears.
    Parameter k;
    k.id = "k";
    k.name = "Bars";
    k.type = ParameterType::Map;
    k.standard.map = "bars";
    p = *edit::addParameter(p, "m", k);
    const Id card = add(p, "parameter", {}, {{"parameter", "k"}});
    wire(p, {card, "out", ""}, image, "map");
    EXPECT_TRUE(keeps(p, "bars"));
    EXPECT_FALSE(keeps(p, "other"));
    p = *edit::deriveInstance(p, "m", "i");
    p = *edit::setOwn(p, "i", "k", {{}, "other"});
    EXPECT_TRUE(keeps(p, "bars") && keeps(p, "other"));
    // The cutoff is the wearer's.
    EXPECT_FLOAT_EQ(cutOutsOf(p).at("bars").cutoff, 0.5f);
    s.alphaCutoff = 0.2f;
    EXPECT_FLOAT_EQ(cutOutsOf(*edit::setSurface(p, "m", s)).at("bars").cutoff, 0.2f);
}

TEST_F(MadeMaps, APackedMapRaisesRoughnessInPicturesAsItsRecipeSays) {
    Project p = bareProject();
    for (const char* role : {"occlusion", "roughness", "metallic"})
        addMap(p, role, imageOf({Plane(64, 64, 0.3f)}, SampleType::U8), MapKind::Data, "yard", role);
    addMap(p, "normal", normalsFromHeight(sampleHeight(64, 64), {1, 0.3f}), MapKind::Normal, "yard", "normal");
    Packing packing;
    packing.id = "k";
    packing.recipe = *findRecipe("orm");
    packing.recipe.raiseRoughness = true;
    for (const char* role : {"occlusion", "roughness", "metallic"}) packing.sources[role] = role;
    const auto made = packMap(p, assets, packing, {});
    ASSERT_TRUE(made);
    MapFile file = made->file;
    file.set = "yard";
    p = *edit::addPacking(*edit::addMap(p, file), packing);
    auto roughness = [&](int level) {
        float v[4];
        assets.map(p, packing.map)->texel(level, 0, 0, v);
        return v[1];
    };
    EXPECT_NEAR(roughness(0), 0.3f, 0.01f);
    const float far = roughness(5);
    EXPECT_GT(far, 0.4f);
    // Flatter normals lose less; the pictures follow the file.
    ASSERT_TRUE(writeImage(folder / "maps" / "normal.png", normalsFromHeight(sampleHeight(64, 64), {1, 0.01f}), PixelEncoding::Data));
    std::filesystem::last_write_time(folder / "maps" / "normal.png",
                                     std::filesystem::last_write_time(folder / "maps" / "normal.png") + std::chrono::seconds(2));
    EXPECT_LT(roughness(5), far - 0.05f);
    // What is written for the card is what the pictures show.
    const auto levels = levelsOf(p, assets, *p.map(packing.map), *readImage(assets.resolve(p.map(packing.map)->path)));
    EXPECT_NEAR(levels[5].at(0, 0, 1), roughness(5), 1e-6f);
}

TEST_F(MadeMaps, AMapCanBeMovedWithItsProjectAndStaysFresh) {
    Project p = bareProject();
    addMap(p, "grey", imageOf({sampleHeight(8, 8)}, SampleType::U8), MapKind::Data);
    Packing packing;
    packing.recipe.lanes[0] = {Lane::From::Map, 0, "mask", "r", {}, {}, {}};
    packing.sources["mask"] = "grey";
    const std::string here = fingerprintOf(p, assets, packing);
    std::filesystem::copy(folder, folder.string() + "-copy", std::filesystem::copy_options::recursive);
    Assets there;
    there.setFolder(folder.string() + "-copy");
    EXPECT_EQ(fingerprintOf(p, there, packing), here);
    std::filesystem::remove_all(folder.string() + "-copy");
}

TEST_F(MadeMaps, APackedMapNeverOverwritesItsSource) {
    Project p = bareProject();
    addMap(p, "mask", imageOf({sampleHeight(8, 8)}, SampleType::U8), MapKind::Data);
    Packing packing;
    packing.recipe.lanes[0] = {Lane::From::Map, 0, "mask", "r", {}, {}, {}};
    packing.sources["mask"] = "mask";
    packing.map = "mask";
    EXPECT_EQ(packMap(p, assets, packing, {}).error().code, "pack.onto-source");
}

TEST_F(MadeMaps, LanesReadWiresToo) {
    Project p = bareProject();
    const Id value = add(p, "constant", {{"value", Value::number(0.25f)}});
    Packing packing;
    packing.recipe.size = 16;
    packing.recipe.lanes[0].from = Lane::From::Wire;
    packing.recipe.lanes[0].wire = "M: " + value + ".out";
    const auto request = requestOf(p, assets, packing);
    ASSERT_TRUE(request);
    const auto packed = pack(*request);
    ASSERT_TRUE(packed) << packed.error().sentence;
    EXPECT_EQ(packed->width, 16);
    EXPECT_NEAR(packed->at(3, 3, 0), 0.25f, 0.003f);
}

TEST_F(MadeMaps, ReplacingAWireByAMapKeepsEveryTake) {
    Project p = bareProject();
    const Id noise = add(p, "fractal"), color = add(p, "combine", {}, {{"components", "3"}});
    wire(p, {noise, "out", ""}, color, "r");
    channel(p, {color, "out", ""}, "base_color");
    channel(p, {color, "out", "g"}, "roughness");
    channel(p, {color, "out", "luma"}, "occlusion");
    addMap(p, "t", sampleColors(8, 8, 3), MapKind::Data);
    const int before = cost(p).operationsPerPixel();
    const auto next = edit::replaceByMap(p, "m", {color, "out", ""}, 3, "t");
    ASSERT_TRUE(next) << next.error().sentence;
    const auto& wires = masterOf(*next).graph.channelWires;
    EXPECT_EQ(wires.at("base_color").take, "");
    EXPECT_EQ(wires.at("roughness").take, "g");
    EXPECT_EQ(wires.at("occlusion").take, "luma");
    EXPECT_LT(cost(*next).operationsPerPixel(), before / 4);
    EXPECT_EQ(cost(*next).fetches, 1);
    EXPECT_EQ(edit::replaceByMap(p, "m", {color, "nothing", ""}, 3, "t").error().code, "map.unread");
}

class UsePacked : public MadeMaps {
  protected:
    /// A master that reads occlusion, roughness and metallic apart, each by a card of its own.
    Project separate() {
        Project p = bareProject();
        const Id uv = add(p, "texcoord");
        for (const char* role : {"occlusion", "roughness", "metallic"}) {
            addMap(p, role, imageOf({sampleHeight(8, 8)}, SampleType::U8), MapKind::Data, "yard", role);
            const Id card = add(p, "image", {}, {{"map", role}});
            wire(p, {uv, "out", ""}, card, "uv");
            channel(p, {card, "color", "r"}, role);
        }
        return p;
    }
    Project withPacking(Project p, const Recipe& recipe) {
        Packing packing;
        packing.id = "k";
        packing.recipe = recipe;
        for (const std::string& role : recipe.sources()) packing.sources[role] = role;
        const auto made = packMap(p, assets, packing, {});
        EXPECT_TRUE(made) << made.error().sentence;
        return *edit::addPacking(*edit::addMap(p, made->file), packing);
    }
    Picture shown(const Project& p, const char* channel) { return *evaluateChannel(p, assets, "m", channel, 8, 0, {}); }
};

TEST_F(UsePacked, ThreeFetchesBecomeOneAndNothingLooksOtherwise) {
    const Project p = withPacking(separate(), *findRecipe("orm"));
    const auto next = edit::usePacked(p, "k");
    ASSERT_TRUE(next) << next.error().sentence;
    EXPECT_EQ(cost(p).fetches, 3);
    EXPECT_EQ(cost(*next).fetches, 1);
    for (const char* role : {"occlusion", "roughness", "metallic"}) EXPECT_EQ(shown(*next, role).values, shown(p, role).values) << role;
    EXPECT_TRUE(compileSurface(*next, masterOf(*next)).ok);
}

TEST_F(UsePacked, InvertedLanesAreTurnedBack) {
    Project p = separate();
    addMap(p, "height", imageOf({sampleHeight(8, 8)}, SampleType::U8), MapKind::Height, "yard", "height");
    p = withPacking(p, *findRecipe("moh"));
    const auto next = edit::usePacked(p, "k");
    ASSERT_TRUE(next) << next.error().sentence;
    const Picture a = shown(p, "roughness"), b = shown(*next, "roughness");
    for (size_t i = 0; i < a.values.size(); ++i) EXPECT_NEAR(a.values[i], b.values[i], 0.003f);
}

TEST_F(UsePacked, ANormalInTwoComponentsGetsItsThirdBack) {
    Project p = bareProject();
    addMap(p, "normal", normalsFromHeight(sampleHeight(16, 16), {1, 0.05f}), MapKind::Normal, "yard", "normal");
    for (const char* role : {"mask", "mask 2"})
        addMap(p, role, imageOf({sampleHeight(16, 16)}, SampleType::U8), MapKind::Data, "yard", role);
    const Id image = add(p, "image", {}, {{"map", "normal"}}), normal = add(p, "normal_map");
    wire(p, {image, "color", ""}, normal, "in");
    channel(p, {normal, "out", ""}, "normal");
    p = withPacking(p, *findRecipe("nrmmasks"));
    const auto next = edit::usePacked(p, "k");
    ASSERT_TRUE(next) << next.error().sentence;
    const Picture a = shown(p, "normal"), b = shown(*next, "normal");
    for (size_t i = 0; i < a.values.size(); ++i) EXPECT_NEAR(a.values[i], b.values[i], 0.02f);
}

TEST_F(UsePacked, MapParametersBecomeOneAndInstancesWithMapsOfTheirOwnAreNamed) {
    Project p = bareProject();
    for (const char* role : {"occlusion", "roughness", "metallic"}) {
        addMap(p, role, imageOf({sampleHeight(8, 8)}, SampleType::U8), MapKind::Data, "yard", role);
        Parameter q;
        q.id = std::string("p_") + role;
        q.name = role;
        q.type = ParameterType::Map;
        q.mapKind = MapKind::Data;
        q.standard.map = role;
        p = *edit::addParameter(p, "m", q);
        const Id card = add(p, "parameter", {}, {{"parameter", q.id}}), image = add(p, "image");
        wire(p, {card, "out", ""}, image, "map");
        channel(p, {image, "color", "r"}, role);
    }
    p = withPacking(p, *findRecipe("orm"));
    const auto next = edit::usePacked(p, "k");
    ASSERT_TRUE(next) << next.error().sentence;
    EXPECT_EQ(masterOf(*next).parameters.size(), 1u);
    EXPECT_EQ(cost(*next).fetches, 1);
    p = *edit::addInstance(p, {"i", "Own", "m", {{"p_roughness", {{}, "occlusion"}}}, {}, {}, {}, {}});
    const auto refused = edit::usePacked(p, "k");
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "packed.instance");
    EXPECT_NE(refused.error().sentence.find("M/Own"), std::string::npos);
}

TEST_F(UsePacked, WhatThePackedMapDoesNotHoldIsRefusedWithItsPlace) {
    Project p = bareProject();
    for (const char* role : {"base color", "height"})
        addMap(p, role, role[0] == 'b' ? sampleColors(8, 8, 4) : imageOf({sampleHeight(8, 8)}, SampleType::U8),
               role[0] == 'b' ? MapKind::Color : MapKind::Height, "yard", role);
    const Id image = add(p, "image", {}, {{"map", "base color"}});
    channel(p, {image, "alpha", ""}, "roughness");
    p = withPacking(p, *findRecipe("colorheight"));
    const auto refused = edit::usePacked(p, "k");
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "packed.read-otherwise");
    EXPECT_EQ(refused.error().place.node, image);
}

TEST_F(MadeMaps, MapsInUseStayAndSetsCannotHoldARoleTwice) {
    Project p = bareProject();
    addMap(p, "a", sampleColors(8, 8, 3), MapKind::Color);
    addMap(p, "b", sampleColors(8, 8, 3), MapKind::Color);
    add(p, "image", {}, {{"map", "a"}});
    EXPECT_EQ(edit::removeMap(p, "a").error().code, "map.in-use");
    EXPECT_TRUE(edit::removeMap(p, "b"));
    EXPECT_EQ(edit::makeSet(p, "yard", {{"a", "base color"}, {"b", "base color"}}).error().code, "set.role-twice");
    EXPECT_EQ(edit::wearSet(*edit::makeSet(p, "yard", {{"a", "base color"}}), "m", "yard").error().code, "set.no-parameter");
}

TEST_F(MadeMaps, ASetBecomesCardsWiredToTheChannelsItIsFor) {
    Project p = bareProject();
    addMap(p, "color", sampleColors(16, 16, 3), MapKind::Color, "yard", "base color");
    addMap(p, "normal", normalsFromHeight(sampleHeight(16, 16), {}), MapKind::Normal, "yard", "normal");
    addMap(p, "gloss", imageOf({Plane(16, 16, 0.25f)}, SampleType::U8), MapKind::Data, "yard", "gloss");
    addMap(p, "height", imageOf({sampleHeight(16, 16)}, SampleType::U8), MapKind::Height, "yard", "height");
    std::vector<std::string> left;
    const auto placed = edit::placeSet(p, "m", "yard", &left);
    ASSERT_TRUE(placed) << placed.error().sentence;
    EXPECT_EQ(left, std::vector<std::string>{"height"}) << "no channel reads a height";
    EXPECT_TRUE(compileSurface(*placed, masterOf(*placed)).program);
    EXPECT_EQ(cost(*placed).fetches, 3);
    const auto rough = evaluateChannel(*placed, assets, "m", "roughness", 4, 0, {});
    ASSERT_TRUE(rough);
    EXPECT_NEAR(rough->values[5], 0.75f, 0.01f) << "gloss is turned into roughness";
    // Its parameters are there for the next set, and for instances.
    Project q = *placed;
    addMap(q, "wall", sampleColors(16, 16, 3), MapKind::Color, "wall", "base color");
    const auto other = edit::wearSet(q, "m", "wall");
    ASSERT_TRUE(other) << other.error().sentence;
    const auto& parameters = masterOf(*other).parameters;
    EXPECT_TRUE(std::any_of(parameters.begin(), parameters.end(), [](const Parameter& m) { return m.standard.map == "wall"; }));
    EXPECT_EQ(edit::placeSet(*edit::makeSet(p, "alone", {{"height", "height"}}), "m", "alone").error().code, "set.nothing-to-place");
}

TEST_F(MadeMaps, APackedMapOfASetGoesWhereItsRecipeSays) {
    Project p = bareProject();
    const float values[] = {0.8f, 0.6f, 0.2f};
    Packing packing;
    packing.id = "k";
    packing.recipe = *findRecipe("orm");
    int n = 0;
    for (const char* role : {"occlusion", "roughness", "metallic"}) {
        addMap(p, role, imageOf({Plane(8, 8, values[n++])}, SampleType::U8), MapKind::Data, "single", role);
        packing.sources[role] = role;
    }
    const auto made = packMap(p, assets, packing, {});
    ASSERT_TRUE(made);
    MapFile file = made->file;
    file.set = "yard", file.role = "packed";
    p = *edit::addPacking(*edit::addMap(p, file), packing);
    const auto placed = edit::placeSet(p, "m", "yard");
    ASSERT_TRUE(placed) << placed.error().sentence;
    EXPECT_EQ(cost(*placed).fetches, 1);
    n = 0;
    for (const char* channel : {"occlusion", "roughness", "metallic"})
        EXPECT_NEAR(evaluateChannel(*placed, assets, "m", channel, 4, 0, {})->values[3], values[n++], 0.01f) << channel;
}

TEST_F(MadeMaps, FindingsNameEqualUnusedAndMistakenMaps) {
    Project p = bareProject();
    addMap(p, "first", sampleColors(16, 16, 3), MapKind::Color);
    addMap(p, "second", sampleColors(16, 16, 3), MapKind::Color);
    addMap(p, "bumps", normalsFromHeight(sampleHeight(32, 32), {1, 0.05f}), MapKind::Color);
    MapIndex index(folder / "cache");
    for (const auto& m : p.maps) index.look(assets.resolve(m->path));
    std::map<std::string, int> codes;
    for (const Diagnostic& d : mapFindings(p, assets, index)) {
        ++codes[d.code];
        for (const Fix& f : d.fixes) EXPECT_TRUE(f.edit(p)) << d.code;
    }
    EXPECT_EQ(codes["map.equal"], 1);
    EXPECT_EQ(codes["map.unused"], 3);
    EXPECT_EQ(codes["map.wrong-kind"], 1);
    // Another run knows all of it from the cache, and a damaged cache costs nothing but time.
    MapIndex again(folder / "cache");
    const auto known = again.look(assets.resolve(p.maps[0]->path));
    EXPECT_EQ(known->facts.pixels, index.look(assets.resolve(p.maps[0]->path))->facts.pixels);
    EXPECT_FALSE(known->thumbnail.empty());
    for (const auto& entry : std::filesystem::directory_iterator(folder / "cache")) std::filesystem::resize_file(entry.path(), 40);
    MapIndex third(folder / "cache");
    EXPECT_EQ(third.look(assets.resolve(p.maps[0]->path))->facts.pixels, known->facts.pixels);
}

TEST_F(MadeMaps, WhateverIsReadOfAMapLiesWithinItsBounds) {
    Project p = bareProject();
    Image bright = sampleColors(32, 32, 3, SampleType::F32);
    for (size_t k = 0; k < bright.samples.size() / 4; ++k) reinterpret_cast<float*>(bright.samples.data())[k] *= k % 2 ? 5.f : -1.f;
    addMap(p, "color", sampleColors(32, 32, 3), MapKind::Color);
    addMap(p, "grey", sampleColors(32, 32, 1, SampleType::U16), MapKind::Height);
    addMap(p, "deep", sampleColors(32, 32, 4, SampleType::U16), MapKind::Color);
    addMap(p, "masks", sampleMasks(32, 32), MapKind::Data);
    addMap(p, "bright", bright, MapKind::Color);
    MapIndex index(folder / "cache");
    std::mt19937 random(1);
    for (const auto& m : p.maps) {
        EXPECT_FALSE(boundsOfMap(p, assets, index, m->id)) << "nobody has looked at it";
        index.look(assets.resolve(m->path));
        const auto bounds = boundsOfMap(p, assets, index, m->id);
        ASSERT_TRUE(bounds) << m->id;
        const MapPtr map = assets.map(p, resolve(p, "m"), {{}, m->id, m->kind});
        ASSERT_TRUE(map);
        float least = 1e30f, most = -1e30f;
        const auto read = [&](float u, float v, float level) {
            float rgba[4];
            map->sample(u, v, level, rgba);
            for (const float x : rgba) least = std::min(least, x), most = std::max(most, x);
        };
        for (int k = 0; k < 4000; ++k) read(float(random() % 4096) / 1024, float(random() % 4096) / 1024, float(random() % 40) / 10);
        for (int y = 0; y < 32; ++y)
            for (int x = 0; x < 32; ++x) read((float(x) + 0.5f) / 32, (float(y) + 0.5f) / 32, 0);
        EXPECT_GE(least, bounds->low - 1e-4f) << m->id;
        EXPECT_LE(most, bounds->high + 1e-4f) << m->id;
        EXPECT_NEAR(least, bounds->low, 1e-4f) << m->id << ": and no further than needed";
        EXPECT_NEAR(most, bounds->high, 1e-4f) << m->id;
    }
    EXPECT_FALSE(boundsOfMap(p, assets, index, "gone"));
    // So is a roughness told that comes from below 0 and beyond 1, and not one of a map that keeps within.
    const auto found = [&](const char* map) {
        Project q = p;
        channel(q, {add(q, "image", {}, {{"map", map}}), "color", "r"}, "roughness");
        EXPECT_TRUE(saveProject(q, folder / "p.huestack"));
        return runHsk("check " + (folder / "p.huestack").string()).output.find("channel.may-leave-range") != std::string::npos;
    };
    EXPECT_TRUE(found("bright"));
    EXPECT_FALSE(found("masks"));
}

TEST_F(MadeMaps, MapMemoryCountsInTheFormatThatIsUsedAndEachMapOnce) {
    Project p = bareProject();
    addMap(p, "t", sampleColors(64, 64, 3), MapKind::Color);
    for (const char* port : {"base_color", "emissive"}) channel(p, {add(p, "image", {}, {{"map", "t"}}), "color", ""}, port);
    auto bytes = [&] {
        const Resolved r = resolve(p, "m");
        return costOf(*compileSurface(p, masterOf(p)).program, nullptr, [&](const MapSlot& s) { return assets.map(p, r, s); }).mapBytes;
    };
    EXPECT_EQ(bytes(), bytesWithMips(BlockFormat::Plain8, 64, 64, 4)) << "three plain channels take the room of four";
    addMap(p, "grey", imageOf({Plane(64, 64, 0.5f)}, SampleType::U16), MapKind::Data);
    channel(p, {add(p, "image", {}, {{"map", "grey"}}), "color", "r"}, "roughness");
    EXPECT_EQ(bytes(), bytesWithMips(BlockFormat::Plain8, 64, 64, 4) + bytesWithMips(BlockFormat::Plain16, 64, 64, 1));
    p = *edit::disconnectChannel(p, "m", "roughness");
    MapFile m = *p.map("t");
    m.format = "bc1";
    p = *edit::changeMap(p, m);
    EXPECT_EQ(bytes(), bytesWithMips(BlockFormat::Bc1, 64, 64, 3));
    assets.setView(MapLibrary::View::Compressed);
    float a[4], b[4];
    assets.map(p, "t")->texel(0, 30, 30, a);
    assets.map(p, "t", MapLibrary::View::Original)->texel(0, 30, 30, b);
    EXPECT_NE(a[0], b[0]) << "as the card reads it";
    EXPECT_NEAR(a[0], b[0], 0.08f);
}

TEST_F(MadeMaps, HskMakesPacksAndRemakesInProjects) {
    Project p = bareProject();
    const Id noise = add(p, "fractal", {}, {{"seamless", "yes"}});
    channel(p, {noise, "out", ""}, "roughness");
    const std::string file = (folder / "p.huestack").string();
    ASSERT_TRUE(saveProject(p, file));
    const Ran made = runHsk("make " + file + " --of M --wire " + noise + ".out --size 32 --name dirt");
    EXPECT_EQ(made.code, 0) << made.output;
    auto now = loadProject(file);
    ASSERT_TRUE(now);
    ASSERT_EQ(now->project.maps.size(), 1u);
    EXPECT_EQ(runHsk("remake " + file).output, "") << "nothing has changed";
    ASSERT_TRUE(saveProject(*edit::setConstant(now->project, "m", noise, "scale", Value::number(7)), file));
    EXPECT_NE(runHsk("remake " + file).output.find("dirt"), std::string::npos);
    EXPECT_EQ(runHsk("maps " + file).code, 0);
    EXPECT_EQ(runHsk("make " + file + " --of M --wire nonsense --out x.png").code, 2);
}

} // namespace
} // namespace hue
