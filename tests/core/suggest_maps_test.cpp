// Savings that have to do with maps and channels: each gives what it says, and shows what was there before as far as it claims to.
#include "core/base/files.h"
#include "core/budget/map_memory.h"
#include "core/compress/block_format.h"
#include "core/decals/decal_box.h"
#include "core/image_files/image_file.h"
#include "core/project/frame_inputs.h"
#include "core/suggest/suggest.h"
#include "core/surface/channels.h"
#include "tests/random_edits.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

class SavingsOfMaps : public InFolder {
  protected:
    Project p = bareProject();
    Assets assets;
    std::unique_ptr<TriedMaps> maps;
    void SetUp() override {
        InFolder::SetUp();
        fs::create_directories(folder / "project" / "maps");
        assets.setFolder(folder / "project");
        maps = std::make_unique<TriedMaps>(assets, folder / "tried");
    }
    Id bring(const std::string& name, const Image& image, MapKind kind = MapKind::Data) {
        const fs::path file = folder / "project" / "maps" / (name + ".png");
        EXPECT_TRUE(writeImage(file, image, kind == MapKind::Color ? PixelEncoding::Srgb : PixelEncoding::Data));
        MapFile m;
        m.id = name, m.name = name, m.path = "maps/" + name + ".png", m.kind = kind, m.hash = contentHash(file);
        p = *edit::addMap(p, m);
        return name;
    }
    Id image(const Id& map) { return add(p, "image", {}, {{"map", map}}); }
    FrameInputs inputs(const Project& state) { return frameInputs(state, assets, resolve(state, "m"), 0); }
    std::vector<Suggestion> found(const Target& target = shippedTargets()[2]) {
        return suggestionsFor(
            p, "m", target, [&](const Project& state) { return mapBytesFor(state, assets); }, inputs(p), {}, maps.get());
    }
    std::vector<float> shown(const Project& state, const std::string& channel, int width, int size = 64) {
        const Compilation c = compileSurface(state, masterOf(state));
        EXPECT_TRUE(c.ok);
        return overSquare(Evaluator(c.program), inputs(state), channel, width, size);
    }
    static double apart(const std::vector<float>& a, const std::vector<float>& b) {
        double out = a.size() == b.size() ? 0 : INFINITY;
        for (size_t k = 0; k < std::min(a.size(), b.size()); ++k) out = std::max(out, double(std::fabs(a[k] - b[k])));
        return out;
    }
    static const Suggestion* find(const std::vector<Suggestion>& all, const std::string& code) {
        for (const Suggestion& s : all)
            if (s.what.code.starts_with(code)) return &s;
        return nullptr;
    }
};

TEST_F(SavingsOfMaps, AMapAtHalfItsSizeIsItsMean) {
    Image pixels = sampleMasks(128, 256);
    bring("masks", pixels);
    channel(p, {image("masks"), "color", "r"}, "roughness");
    const auto all = found();
    const Suggestion* s = find(all, "smaller-map:masks");
    ASSERT_TRUE(s);
    EXPECT_NEAR(s->megabytes, double(cardBytes("", 128, 256, 4, SampleType::U8) - cardBytes("", 64, 128, 4, SampleType::U8)) / 1e6, 1e-9);
    const MapFile& small = *s->after->map("masks");
    const Result<Image> made = readImage(assets.resolve(small.path));
    ASSERT_TRUE(made);
    ASSERT_EQ(made->width, 64);
    ASSERT_EQ(made->height, 128);
    // By hand: four pixels of the original.
    for (const auto& [x, y] : {std::pair{3, 5}, {40, 100}, {63, 127}})
        for (int c = 0; c < 4; ++c) {
            const double mean = (double(pixels.at(2 * x, 2 * y, c)) + double(pixels.at(2 * x + 1, 2 * y, c)) +
                                 double(pixels.at(2 * x, 2 * y + 1, c)) + double(pixels.at(2 * x + 1, 2 * y + 1, c))) /
                                4;
            EXPECT_NEAR(made->at(x, y, c), mean, 1.01 / 255) << x << " " << y << " " << c;
        }
    // It lies apart until it is kept, and then among the project's own; the first file stays.
    EXPECT_NE(small.path.find("tried"), std::string::npos);
    const Result<Project> kept = maps->kept(*s->after);
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->map("masks")->path.rfind("maps/", 0), 0u) << kept->map("masks")->path;
    EXPECT_EQ(readImage(assets.resolve(kept->map("masks")->path))->width, 64);
    EXPECT_EQ(readImage(folder / "project/maps/masks.png")->width, 128);
    EXPECT_EQ(maps->kept(p)->map("masks")->path, "maps/masks.png") << "what is not of it stays where it is";
}

TEST_F(SavingsOfMaps, MapsThatAreReadTogetherBecomeOne) {
    const Image masks = sampleMasks(64, 64);
    for (int c = 0; c < 3; ++c) bring(fmt::format("mask{}", c), imageOf({planeOf(masks, c)}, SampleType::U8));
    channel(p, {image("mask0"), "color", "r"}, "roughness");
    channel(p, {image("mask1"), "color", "r"}, "metallic");
    channel(p, {image("mask2"), "color", "r"}, "occlusion");
    const auto all = found();
    const Suggestion* s = find(all, "pack-maps:");
    ASSERT_TRUE(s);
    EXPECT_EQ(s->fetches, 2) << "three reads become one";
    EXPECT_EQ(s->samplers, 2);
    for (const char* channel : {"roughness", "metallic", "occlusion"})
        EXPECT_LT(apart(shown(p, channel, 1), shown(*s->after, channel, 1)), 1.01 / 255) << channel;
    ASSERT_EQ(s->after->packings.size(), 1u);
    EXPECT_EQ(s->after->packings[0]->sources.size(), 3u) << "it can be packed again when one of them changes";
    // Maps that are read elsewhere are not read together.
    p = bareProject();
    for (int c = 0; c < 2; ++c) bring(fmt::format("mask{}", c), imageOf({planeOf(masks, c)}, SampleType::U8));
    const Id place = add(p, "place_2d", {{"tiling", Value::vec2(3, 3)}}), tiled = image("mask1");
    wire(p, {place, "out", ""}, tiled, "uv");
    channel(p, {image("mask0"), "color", "r"}, "roughness");
    channel(p, {tiled, "color", "r"}, "metallic");
    EXPECT_FALSE(find(found(), "pack-maps:"));
}

TEST_F(SavingsOfMaps, ChannelsThatAreTheSameAllOverAreAValue) {
    Image pixels = sampleMasks(64, 64);
    Plane level(64, 64, 0.4f);
    setChannel(pixels, 1, level);
    bring("masks", pixels);
    const Id card = image("masks");
    channel(p, {card, "color", "r"}, "roughness");
    channel(p, {card, "color", "g"}, "metallic");
    const auto all = found();
    const Suggestion* s = find(all, "constant-channel:" + card);
    // It saves nothing while the map is read for red all the same.
    EXPECT_FALSE(s && s->fetches > 0);
    p = *edit::disconnectChannel(p, "m", "roughness");
    const auto alone = found();
    s = find(alone, "constant-channel:" + card);
    ASSERT_TRUE(s);
    EXPECT_EQ(s->fetches, 1);
    EXPECT_LT(apart(shown(p, "metallic", 1), shown(*s->after, "metallic", 1)), 1e-6);
    EXPECT_NEAR(channelConstant(masterOf(*s->after).graph, "metallic")[0], 102 / 255.f, 1e-6);
    // A color's is decoded.
    Image grey(64, 64, 3, SampleType::U8);
    for (int c = 0; c < 3; ++c) setChannel(grey, c, Plane(64, 64, 0.5f));
    bring("grey", grey, MapKind::Color);
    channel(p, {image("grey"), "color", "r"}, "roughness");
    const auto more = found();
    const Suggestion* color = nullptr;
    for (const Suggestion& c : more)
        if (c.what.code.starts_with("constant-channel:") && c.what.title.find("grey") != std::string::npos) color = &c;
    ASSERT_TRUE(color);
    EXPECT_LT(apart(shown(p, "roughness", 1), shown(*color->after, "roughness", 1)), 1e-5);
}

TEST_F(SavingsOfMaps, TheSamePixelsAreReadOnce) {
    const Image pixels = sampleMasks(64, 64);
    bring("one", pixels);
    bring("two", pixels);
    bring("other", sampleColors(64, 64, 3));
    channel(p, {image("one"), "color", "r"}, "roughness");
    channel(p, {image("two"), "color", "g"}, "metallic");
    channel(p, {image("other"), "color", "b"}, "occlusion");
    const auto all = found();
    const Suggestion* s = find(all, "share-samplers:one.two");
    ASSERT_TRUE(s);
    EXPECT_EQ(s->samplers, 1);
    EXPECT_GT(s->megabytes, 0);
    for (const char* channel : {"roughness", "metallic"}) EXPECT_EQ(apart(shown(p, channel, 1), shown(*s->after, channel, 1)), 0);
    EXPECT_FALSE(find(all, "share-samplers:one.other"));
    // Parameters that nobody gives different maps.
    for (const char* id : {"first", "second"}) {
        Parameter q;
        q.id = id, q.name = id, q.type = ParameterType::Map, q.mapKind = MapKind::Data, q.standard.map = "one";
        p = *edit::addParameter(p, "m", q);
        const Id read = add(p, "image");
        wire(p, {add(p, "parameter", {}, {{"parameter", id}}), "out", ""}, read, "map");
        channel(p, {read, "color", "b"}, id == std::string("first") ? "roughness" : "metallic");
    }
    EXPECT_TRUE(find(found(), "share-samplers:first.second"));
    p = *edit::addInstance(p, {"i", "I", "m", {{"second", {{}, "other"}}}, {}, {}, {}, {}});
    EXPECT_FALSE(find(found(), "share-samplers:first.second")) << "an instance tells them apart";
}

TEST_F(SavingsOfMaps, CardsBecomeAMapAndAMapItsCards) {
    const Id noise = add(p, "fractal", {{"scale", Value::vec2(2, 2)}}, {{"octaves", "5"}}),
             soft = add(p, "multiply", {{"in2", Value::number(0.5f)}});
    wire(p, {noise, "out", ""}, soft, "in1");
    const Id lifted = add(p, "add", {{"in2", Value::number(0.4f)}}), held = add(p, "clamp");
    wire(p, {soft, "out", ""}, lifted, "in1");
    wire(p, {lifted, "out", ""}, held, "in");
    channel(p, {held, "out", ""}, "roughness");
    const auto all = found();
    const Suggestion* s = find(all, "procedural-to-map:" + held);
    ASSERT_TRUE(s);
    EXPECT_GT(s->operations, 100);
    EXPECT_EQ(s->fetches, -1) << "a read is the price";
    // As large a picture as the map: at the middle of each texel.
    EXPECT_LT(apart(shown(p, "roughness", 1, 512), shown(*s->after, "roughness", 1, 512)), 1.01 / 255);
    // And back.
    const Project made = *maps->kept(*s->after);
    const std::vector<float> before = shown(p, "roughness", 1);
    p = made;
    Target roomy; // for operations, not for maps
    roomy.limits.operations = 5000;
    roomy.limits.mapMegabytes = 4;
    const auto again = found(roomy);
    const Suggestion* back = find(again, "map-to-procedural:");
    ASSERT_TRUE(back) << "memory and the read come back";
    EXPECT_EQ(back->fetches, 1);
    EXPECT_GT(back->megabytes, 0);
    EXPECT_EQ(apart(before, shown(*back->after, "roughness", 1)), 0);
}

TEST_F(SavingsOfMaps, WhatMovesOrDiffersBecomesNoMap) {
    const Id moving = add(p, "fractal", {}, {{"octaves", "5"}}), where = add(p, "place_2d"), time = add(p, "time");
    const Id pair = add(p, "combine", {}, {{"components", "2"}});
    wire(p, {time, "out", ""}, pair, "r");
    wire(p, {pair, "out", ""}, where, "offset");
    wire(p, {where, "out", ""}, moving, "uv");
    channel(p, {moving, "out", ""}, "roughness");
    EXPECT_FALSE(find(found(), "procedural-to-map:" + moving)) << "it moves";
    p = bareProject();
    const Id lies = add(p, "fractal_3d", {}, {{"octaves", "5"}});
    channel(p, {lies, "out", ""}, "roughness");
    EXPECT_FALSE(find(found(), "procedural-to-map:" + lies)) << "it lies in space";
    p = bareProject();
    Parameter q;
    q.id = "size", q.name = "Size", q.type = ParameterType::Number, q.standard.value = Value::number(2), q.hardMin = 0.1f;
    p = *edit::addParameter(p, "m", q);
    const Id noise = add(p, "fractal", {}, {{"octaves", "5"}});
    wire(p, {add(p, "parameter", {}, {{"parameter", "size"}}), "out", ""}, noise, "scale");
    channel(p, {noise, "out", ""}, "roughness");
    EXPECT_TRUE(find(found(), "procedural-to-map:" + noise)) << "the same for all";
    p = *edit::addInstance(p, {"i", "I", "m", {{"size", {Value::number(5), {}}}}, {}, {}, {}, {}});
    EXPECT_FALSE(find(found(), "procedural-to-map:" + noise)) << "an instance has its own size";
}

TEST_F(SavingsOfMaps, ANormalMapTakesThePlaceOfNeighbouringHeights) {
    bring("height", imageOf({sampleHeight(512, 512)}, SampleType::U16), MapKind::Height);
    const Id height = image("height"), normal = add(p, "height_to_normal"), map = add(p, "normal_map");
    wire(p, {height, "color", "r"}, normal, "in");
    wire(p, {normal, "out", ""}, map, "in");
    channel(p, {map, "out", ""}, "normal");
    const auto all = found();
    const Suggestion* s = find(all, "normal-from-map:" + normal);
    ASSERT_TRUE(s);
    EXPECT_GE(s->fetches, 3) << "four reads of the height become one";
    EXPECT_LT(apart(shown(p, "normal", 3, 512), shown(*s->after, "normal", 3, 512)), 0.03) << "8 bits of each component";
    EXPECT_EQ(s->after->maps.back()->kind, MapKind::Normal);
}

TEST_F(SavingsOfMaps, FormatsHoldWhatIsRead) {
    bring("masks", sampleMasks(256, 256));
    const Id card = image("masks");
    channel(p, {card, "color", "r"}, "roughness");
    const auto formats = [&] {
        std::string out;
        for (const Proposed& s : proposed(p, "m", shippedTargets()[2], inputs(p), maps.get()))
            if (s.code.starts_with("block-format:masks.")) out += s.code.substr(19) + " ";
        return out;
    };
    EXPECT_EQ(formats(), "bc7 bc4 ") << "one channel fits into one";
    channel(p, {card, "color", "g"}, "metallic");
    EXPECT_EQ(formats(), "bc7 bc5 ") << "two into two";
    channel(p, {card, "color", "b"}, "occlusion");
    EXPECT_EQ(formats(), "bc7 ");
    bring("skin", sampleColors(256, 256, 4), MapKind::Color);
    channel(p, {image("skin"), "color", ""}, "base_color");
    const auto all = found();
    const Suggestion *seven = find(all, "block-format:skin.bc7"), *one = find(all, "block-format:skin.bc1");
    ASSERT_TRUE(seven && one);
    EXPECT_GT(one->megabytes, seven->megabytes);
    // With its alpha it is not for a format without.
    SurfaceSettings cut = masterOf(p).surface;
    cut.alphaMode = AlphaMode::Mask;
    p = *edit::setSurface(p, "m", cut);
    channel(p, {masterOf(p).graph.channelWires.at("base_color").node, "alpha", ""}, "alpha");
    EXPECT_FALSE(find(found(), "block-format:skin.bc1"));
}

TEST_F(SavingsOfMaps, ScalesAndOffsetsBehindEachOtherAreOne) {
    const Id noise = add(p, "noise_2d"), a = add(p, "multiply", {{"in2", Value::number(0.5f)}}),
             b = add(p, "add", {{"in2", Value::number(0.3f)}}), c = add(p, "invert"),
             d = add(p, "remap", {{"inhigh", Value::number(2)}, {"outlow", Value::number(0.2f)}});
    wire(p, {noise, "out", ""}, a, "in1");
    wire(p, {a, "out", ""}, b, "in1");
    wire(p, {b, "out", ""}, c, "in");
    wire(p, {c, "out", ""}, d, "in");
    channel(p, {d, "out", ""}, "roughness");
    const auto all = found();
    const Suggestion* s = find(all, "merge-chain:" + d);
    ASSERT_TRUE(s);
    EXPECT_GE(s->operations, 2);
    EXPECT_EQ(masterOf(*s->after).graph.nodes.size(), 3u);
    EXPECT_LT(apart(shown(p, "roughness", 1), shown(*s->after, "roughness", 1)), 1e-6);
    // Not where something else reads what lies between, and not what is limited on the way.
    Project between = p;
    channel(between, {b, "out", ""}, "metallic");
    std::swap(p, between);
    EXPECT_FALSE(find(found(), "merge-chain:" + d));
    std::swap(p, between);
    p = *edit::setSetting(p, "m", d, "limit", "on");
    EXPECT_FALSE(find(found(), "merge-chain:" + d));
    // A color by components.
    p = bareProject();
    const Id color = add(p, "image", {}, {{"map", bring("skin", sampleColors(64, 64, 3), MapKind::Color)}}),
             tint = add(p, "multiply", {{"in2", Value::vec3(0.5f, 0.25f, 1)}}), lift = add(p, "add", {{"in2", Value::number(0.1f)}}),
             dim = add(p, "multiply", {{"in2", Value::vec3(0.9f, 0.8f, 0.7f)}});
    wire(p, {color, "color", ""}, tint, "in1");
    wire(p, {tint, "out", ""}, lift, "in1");
    wire(p, {lift, "out", ""}, dim, "in1");
    channel(p, {dim, "out", ""}, "base_color");
    const auto colors = found();
    const Suggestion* of = find(colors, "merge-chain:" + dim);
    ASSERT_TRUE(of);
    EXPECT_LT(apart(shown(p, "base_color", 3), shown(*of->after, "base_color", 3)), 1e-6);
}

TEST_F(SavingsOfMaps, WhatIsTheSameForAnObjectIsComputedOnce) {
    const Id where = add(p, "position", {}, {{"space", "world"}}), noise = add(p, "noise_3d");
    wire(p, {where, "out", ""}, noise, "position");
    channel(p, {noise, "out", ""}, "roughness");
    const auto all = found();
    const Suggestion* s = find(all, "per-placement:" + noise);
    ASSERT_TRUE(s);
    const Compilation c = compileSurface(*s->after, masterOf(*s->after));
    const int32_t at = c.program->output("roughness");
    ASSERT_GE(at, 0);
    EXPECT_LE(c.program->code[size_t(at)].rate, Rate::Placement);
    const std::vector<float> flat = shown(*s->after, "roughness", 1);
    for (const float x : flat) ASSERT_EQ(x, flat[0]);
}

TEST_F(SavingsOfMaps, ChannelsAndLayersThatBringNothingGo) {
    bring("flat", imageOf({Plane(64, 64, 0.6f)}, SampleType::U8));
    channel(p, {image("flat"), "color", "r"}, "roughness");
    const Id noise = add(p, "noise_2d");
    channel(p, {noise, "out", ""}, "alpha");
    const auto all = found();
    const Suggestion* same = find(all, "drop-channel:roughness");
    ASSERT_TRUE(same);
    EXPECT_EQ(same->fetches, 1);
    EXPECT_LT(apart(shown(p, "roughness", 1), shown(*same->after, "roughness", 1)), 1e-6);
    EXPECT_FALSE(find(all, "drop-channel:metallic")) << "nothing is wired there";
    // A coat of nothing, whose roughness is computed.
    SurfaceSettings coated = masterOf(p).surface;
    coated.layers |= uint32_t(Layer::Coat);
    p = *edit::setSurface(p, "m", coated);
    channel(p, {add(p, "noise_2d", {{"scale", Value::vec2(3, 3)}}), "out", ""}, "clearcoat_roughness");
    const auto more = found();
    const Suggestion* idle = find(more, "idle-layer:coat");
    ASSERT_TRUE(idle);
    EXPECT_GT(idle->operations, 0);
    EXPECT_FALSE(masterOf(*idle->after).surface.has(Layer::Coat));
    p = *edit::setChannelConstant(p, "m", "clearcoat", Value::number(0.5f));
    EXPECT_FALSE(find(found(), "idle-layer:coat")) << "it is a coat now";
}

TEST_F(SavingsOfMaps, LockedCardsStayAsTheyAre) {
    for (uint32_t seed = 1; seed <= 12; ++seed) {
        p = randomGraph(seed, 14);
        const std::vector<Suggestion> free = found();
        std::vector<Id> cards;
        for (const auto& [id, node] : masterOf(p).graph.nodes)
            if (std::hash<std::string>{}(id) % 2) cards.push_back(id);
        p = *edit::lockNodes(p, "m", cards, true);
        const std::vector<Suggestion> held = found();
        EXPECT_LE(held.size(), free.size());
        for (const Suggestion& s : held)
            for (const Id& id : cards) {
                const Node *was = masterOf(p).graph.find(id), *is = masterOf(*s.after).graph.find(id);
                ASSERT_TRUE(is) << s.what.title;
                EXPECT_EQ(is->settings, was->settings) << s.what.title;
                EXPECT_EQ(is->wires, was->wires) << s.what.title;
                EXPECT_EQ(is->constants, was->constants) << s.what.title;
            }
        p = *edit::lockNodes(p, "m", cards, false);
        EXPECT_EQ(found().size(), free.size());
    }
}

TEST_F(SavingsOfMaps, OfCardsInARowTheLastIsProposed) {
    const Id noise = add(p, "fractal", {}, {{"octaves", "4"}}), held = add(p, "clamp"),
             other = add(p, "fractal", {{"scale", Value::vec2(9, 9)}}, {{"octaves", "4"}});
    wire(p, {noise, "out", ""}, held, "in");
    channel(p, {held, "out", ""}, "roughness");
    channel(p, {other, "out", ""}, "metallic");
    const auto all = found();
    EXPECT_TRUE(find(all, "procedural-to-map:" + held) || find(all, "constant:" + held) || find(all, "constant:" + noise));
    // Both noises are proposed, although they save the same: neither leads to the other.
    EXPECT_TRUE(find(all, "octaves:" + noise));
    EXPECT_TRUE(find(all, "octaves:" + other));
    // A second clamp that costs nothing more: only one of the two.
    const Id image = add(p, "image", {}, {{"map", bring("masks", sampleMasks(64, 64))}}), take = add(p, "separate");
    wire(p, {image, "color", ""}, take, "in");
    channel(p, {take, "r", ""}, "occlusion");
    const auto more = found();
    EXPECT_FALSE(find(more, "constant:" + image) && find(more, "constant:" + take));
}

TEST_F(SavingsOfMaps, ADecalIsAsDeepAsWhatIsSeenOfIt) {
    channel(p, {add(p, "noise_2d"), "out", ""}, "roughness");
    Master stencil;
    stencil.id = "stencil", stencil.name = "Stencil", stencil.surface.decal = true;
    p.masters.push_back(std::make_shared<Master>(stencil));
    Specimen sphere;
    sphere.wears = {"m"};
    Decal deep; // through the whole sphere, out at its far side
    deep.id = "d", deep.name = "Number", deep.wears = "stencil", deep.position = {0, 0, 0.5f}, deep.depth = 4;
    sphere.decals = {deep};
    p.lineup.specimens = {sphere};
    const auto all = found();
    const Suggestion* s = find(all, "decal-depth:d");
    ASSERT_TRUE(s);
    const Decal& shorter = s->after->lineup.specimens[0].decals[0];
    EXPECT_LT(shorter.depth, 2);
    const MeshPtr mesh = assets.mesh(p, "shape:sphere");
    const CutDecal before = cutOut(*mesh, deep), after = cutOut(*mesh, shorter);
    EXPECT_NEAR(after.area / before.area, 1, 0.005) << "all that is seen is there";
    EXPECT_LT(after.behind, before.behind * 0.1f);
    EXPECT_NEAR(s->what.area, double(before.area + before.behind - after.area - after.behind), 1e-6);
    EXPECT_NE(savingWords(*s).find("square metres"), std::string::npos) << savingWords(*s);
    // The decal's own master is told as well; one that is as deep as it should be is not, nor one that somebody holds.
    EXPECT_TRUE(find(suggestionsFor(
                         p, "stencil", shippedTargets()[2], [](const Project&) { return MapBytes{}; }, {}, {}, maps.get()),
                     "decal-depth:d"));
    p.lineup.specimens[0].decals[0] = shorter;
    EXPECT_FALSE(find(found(), "decal-depth"));
    deep.locked = true;
    p.lineup.specimens[0].decals[0] = deep;
    EXPECT_FALSE(find(found(), "decal-depth"));
}

TEST_F(SavingsOfMaps, AreLookedAtOnThoseThatShip) {
    p = *edit::addInstance(p, {"a", "A", "m", {}, {}, {}, {}, {}});
    p = *edit::addInstance(p, {"b", "B", "m", {}, {}, {}, {}, {}});
    p.lineup.specimens = {Specimen{}};
    p.lineup.specimens[0].wears = {"b"};
    EXPECT_EQ(lookedAt(p, "a"), (std::vector<Id>{"a", "b"}));
    EXPECT_EQ(lookedAt(p, "m"), (std::vector<Id>{"m", "b", "a"})) << "who is worn goes first";
    EXPECT_EQ(lookedAt(p, "m", 2), (std::vector<Id>{"m", "b"}));
}

TEST_F(SavingsOfMaps, AFullOrForbiddenFolderIsTold) {
    bring("masks", sampleMasks(128, 128));
    channel(p, {image("masks"), "color", "r"}, "roughness");
    TriedMaps nowhere(assets, "/proc/nowhere");
    const Result<MapFile> small = nowhere.resized(*p.map("masks"), 64, 64);
    ASSERT_FALSE(small);
    EXPECT_NE(small.error().sentence.find("/proc/nowhere"), std::string::npos) << small.error().sentence;
    // Others go on.
    const auto all = suggestionsFor(
        p, "m", shippedTargets()[2], [&](const Project& s) { return mapBytesFor(s, assets); }, inputs(p), {}, &nowhere);
    EXPECT_TRUE(find(all, "block-format:masks"));
    EXPECT_FALSE(find(all, "smaller-map:masks"));
}

} // namespace
} // namespace hue
