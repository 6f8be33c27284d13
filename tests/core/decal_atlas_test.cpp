// Many pictures on one sheet, and the decals of a specimen in one set of maps.
#include "core/compress/block_format.h"
#include "core/decals/decal_box.h"
#include "core/dispatch/dispatch.h"
#include "core/image_files/image_file.h"
#include "core/maps/map_levels.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"
#include "tests/test_graphs.h"

#include <bit>
#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

TEST(Sheets, HoldPicturesBesideEachOther) {
    std::mt19937 random(5);
    std::uniform_int_distribution<int> side(1, 20), count(1, 40);
    int placed = 0, full = 0;
    for (int round = 0; round < 200; ++round) {
        std::vector<std::array<int, 2>> sizes(size_t(count(random)));
        int area = 0;
        for (auto& s : sizes) area += (s = {side(random), side(random)})[0] * s[1];
        const auto places = placesOnSheet(sizes, 48, 40);
        if (!places) {
            // What is far from full has room.
            EXPECT_GT(area, 48 * 40 / 2) << "round " << round;
            ++full;
            continue;
        }
        ++placed;
        ASSERT_EQ(places->size(), sizes.size());
        std::vector<int> owner(48 * 40, -1);
        for (size_t k = 0; k < sizes.size(); ++k) {
            const SheetPlace& p = (*places)[k];
            ASSERT_EQ((std::array{p.width, p.height}), sizes[k]) << "in their order";
            for (int y = p.y; y < p.y + p.height; ++y)
                for (int x = p.x; x < p.x + p.width; ++x) {
                    ASSERT_TRUE(x >= 0 && y >= 0 && x < 48 && y < 40);
                    ASSERT_EQ(owner[size_t(y * 48 + x)], -1) << "round " << round;
                    owner[size_t(y * 48 + x)] = int(k);
                }
        }
    }
    EXPECT_GT(placed, 20);
    EXPECT_GT(full, 20);
    const std::array<int, 2> wide{49, 1};
    EXPECT_FALSE(placesOnSheet({&wide, 1}, 48, 40));
    EXPECT_FALSE(placesOnSheet({&wide, 1}, 0, 0));
}

// By looking at all pixels for each.
TEST(Sheets, KnowTheNearestPixelThatIsSeen) {
    std::mt19937 random(8);
    constexpr int width = 19, height = 13;
    const auto apart = [](int a, int b, int size, bool around) {
        const int d = std::abs(a - b);
        return around ? std::min(d, size - d) : d;
    };
    for (int round = 0; round < 20; ++round) {
        std::vector<bool> seen(width * height);
        for (int k = 0; k <= round; ++k) seen[random() % seen.size()] = true;
        for (const bool around : {false, true}) {
            const std::vector<uint32_t> from = nearestSeen(seen, width, height, around);
            for (int i = 0; i < width * height; ++i) {
                const auto distance = [&](int j) {
                    return std::max(apart(i % width, j % width, width, around), apart(i / width, j / width, height, around));
                };
                int least = 99;
                for (int j = 0; j < width * height; ++j)
                    if (seen[size_t(j)]) least = std::min(least, distance(j));
                ASSERT_TRUE(seen[from[size_t(i)]]);
                ASSERT_EQ(distance(int(from[size_t(i)])), least) << "round " << round << ", pixel " << i;
            }
        }
    }
    EXPECT_EQ(nearestSeen({false, false}, 2, 1, true), (std::vector<uint32_t>{0, 1})) << "nothing to be taken over";
}

/// A master of the kind decal with one color all over.
std::shared_ptr<Master> even(const Id& id, const Value& color) {
    auto m = std::make_shared<Master>();
    m->id = id, m->name = "Even " + id;
    m->surface.decal = true, m->surface.alphaMode = AlphaMode::Blend;
    m->graph.channelConstants = {{"base_color", color}, {"roughness", Value::number(0.25f)}, {"alpha", Value::number(0.75f)}};
    return m;
}

/// A plane with decals on it; the master "m" becomes one of the kind decal whose base color is its UV.
struct OnPlane {
    Project p = bareProject();
    Assets assets;
    OnPlane() {
        const Id uv = add(p, "texcoord"), color = add(p, "combine", {}, {{"components", "3"}});
        wire(p, {uv, "out", "x"}, color, "r");
        wire(p, {uv, "out", "y"}, color, "g");
        channel(p, {color, "out", ""}, "base_color");
        SurfaceSettings s = masterOf(p).surface;
        s.decal = true, s.alphaMode = AlphaMode::Blend;
        p = *edit::setSurface(p, "m", s);
        p.masters.push_back(std::make_shared<Master>());
        auto ground = std::make_shared<Master>();
        ground->id = "ground", ground->name = "Ground";
        p.masters.back() = ground;
        p.lineup.specimens = {Specimen{.mesh = "shape:plane/3", .wears = {"ground"}}};
    }
    Decal& lay(const Id& worn, float x, float width, float height) {
        Decal d;
        d.id = "d" + std::to_string(specimen().decals.size()), d.name = "Decal " + std::to_string(specimen().decals.size());
        d.wears = worn, d.facing = {0, 1, 0}, d.position = {x, 0, x / 2}, d.width = width, d.height = height;
        return specimen().decals.emplace_back(d);
    }
    Specimen& specimen() { return p.lineup.specimens[0]; }
    Result<DecalAtlas> atlas(int size = 256) { return decalAtlas(p, assets, specimen(), {.size = size}); }
};

/// A map of the set as shaders read it.
Map asMap(const DecalAtlas& atlas, size_t which) {
    const Picture& p = atlas.set.maps[which].picture;
    Image image(p.width, p.height, p.channels, SampleType::F32);
    fromFloats(SampleType::F32, p.values.data(), p.values.size(), image.samples.data());
    return mapOf(levelsOf(image, MapKind::Color, {}), MapKind::Color, Wrap::Repeat);
}

// The picture of a decal is the function of its UVs that its master has: at each corner of each triangle that was cut.
TEST(DecalAtlases, ShowOnTheMeshWhatTheDecalsShow) {
    OnPlane all;
    all.p.masters.push_back(even("red", Value::vec3(1, 0, 0)));
    all.lay("m", 0, 0.5f, 0.25f).turn = 30;
    all.lay("red", 0.2f, 0.1f, 0.1f);
    all.lay("m", -0.3f, 0.25f, 0.125f).mirrored = true;
    const auto atlas = all.atlas(512);
    ASSERT_TRUE(atlas) << atlas.error().sentence;
    ASSERT_EQ(atlas->pictures.size(), 2u) << "two decals that wear the same share a picture";
    EXPECT_EQ(atlas->decals, 3u);
    const SheetPlace& place = atlas->pictures[0].place;
    EXPECT_NEAR(float(place.width) / float(place.height), 2, 0.15f) << "as the decal is";
    EXPECT_NEAR(float(place.width) / 0.5f, atlas->perMetre, float(kAtlasPadding) / 0.5f) << "of the largest that shows it";

    const CutDecals apart = *cutOutAll(*shapeById("shape:plane/3"), all.specimen().decals, 0.001f);
    ASSERT_EQ(apart.mesh.indices.size(), atlas->mesh.indices.size());
    ASSERT_EQ(atlas->mesh.slots.size(), 1u);
    EXPECT_EQ(atlas->mesh.slots[0].indexCount, atlas->mesh.indices.size());
    const Map map = asMap(*atlas, 0);
    for (size_t s = 0; s < apart.decals.size(); ++s)
        for (uint32_t i = apart.mesh.slots[s].firstIndex; i < apart.mesh.slots[s].firstIndex + apart.mesh.slots[s].indexCount; ++i) {
            const Vertex &was = apart.mesh.vertices[apart.mesh.indices[i]], &is = atlas->mesh.vertices[atlas->mesh.indices[i]];
            ASSERT_EQ(was.position, is.position);
            ASSERT_EQ(was.tangent, is.tangent) << "normals lie as they did";
            const bool red = s == 1;
            const std::array<float, 3> expected = red ? std::array{1.f, 0.f, 0.f} : std::array{was.uv0[0], was.uv0[1], 0.f};
            float rgba[4];
            map.sample(is.uv0[0], is.uv0[1], 0, rgba);
            // Half a pixel at the edges, where the picture goes on as it is.
            for (size_t c = 0; c < 3; ++c) ASSERT_NEAR(rgba[c], expected[c], 0.6f / float(place.height)) << "decal " << s;
            ASSERT_NEAR(rgba[3], red ? 0.75f : 1.f, 1e-5f);
        }
}

// Everywhere on a cut decal, however small the picture is seen: its own color and no other's.
TEST(DecalAtlases, HoldLevelsInWhichNoPictureReachesIntoAnother) {
    std::mt19937 random(17);
    std::uniform_real_distribution<float> side(0.03f, 0.5f), share(0, 1);
    for (int round = 0; round < 6; ++round) {
        OnPlane all;
        for (int k = 0; k < 9; ++k) {
            const Id id = "e" + std::to_string(k);
            all.p.masters.push_back(even(id, Value::vec3(float(k % 3) / 2, float(k / 3) / 2, float((k + round) % 2))));
            all.lay(id, 0.1f * float(k - 4), side(random), side(random));
        }
        const int size = round < 3 ? 256 : 200;
        const auto atlas = all.atlas(size);
        ASSERT_TRUE(atlas) << atlas.error().sentence;
        EXPECT_EQ(atlas->cleanLevels, 3);
        const Map map = asMap(*atlas, 0);
        for (const AtlasPicture& picture : atlas->pictures) {
            const int k = picture.worn[1] - '0';
            const float color[] = {float(k % 3) / 2, float(k / 3) / 2, float((k + round) % 2), 0.75f};
            for (int level = 0; level <= atlas->cleanLevels; ++level)
                for (int n = 0; n < 200; ++n) {
                    // Corners and edges too.
                    const auto along = [&] { return n % 3 == 0 ? std::round(share(random)) : share(random); };
                    const float u = (float(picture.place.x) + along() * float(picture.place.width)) / float(map.width()),
                                v = (float(picture.place.y) + along() * float(picture.place.height)) / float(map.height());
                    float rgba[4];
                    map.sample(u, v, float(level), rgba);
                    for (size_t c = 0; c < 4; ++c)
                        ASSERT_NEAR(rgba[c], color[c], 1e-4f) << "round " << round << ", " << picture.worn << ", level " << level;
                }
        }
    }
}

// Red where it covers, green where it does not: no filter may find green.
TEST(DecalAtlases, UnderNoPaintHoldTheColorBesideIt) {
    OnPlane all;
    const Id uv = add(all.p, "texcoord"), covers = add(all.p, "if_greater", {{"value2", Value::number(0.5f)}, {"in2", Value::number(0)}}),
             color = add(all.p, "mix", {{"fg", Value::vec3(1, 0, 0)}, {"bg", Value::vec3(0, 1, 0)}});
    wire(all.p, {uv, "out", "x"}, covers, "value1");
    wire(all.p, {covers, "out", ""}, color, "mix");
    channel(all.p, {color, "out", ""}, "base_color");
    channel(all.p, {covers, "out", ""}, "alpha");
    all.lay("m", 0, 0.5f, 0.5f);
    const auto atlas = all.atlas();
    ASSERT_TRUE(atlas) << atlas.error().sentence;
    const Picture& base = atlas->set.maps[0].picture;
    ASSERT_EQ(base.channels, 4);
    size_t open = 0, covered = 0;
    for (size_t i = 0; i < base.values.size(); i += 4) {
        EXPECT_EQ(base.values[i + 1], 0) << "at pixel " << i / 4;
        open += base.values[i + 3] == 0 && base.values[i] == 1;
        covered += base.values[i + 3] == 1;
    }
    EXPECT_GT(open, covered / 2) << "the half that covers nothing is red too";
    EXPECT_GT(covered, 1000u);
}

TEST(DecalAtlases, BringLightAndSettingsTogether) {
    OnPlane all;
    for (const float strength : {8.f, 2.f}) {
        auto lamp = std::make_shared<Master>(*even(strength == 8 ? "bright" : "dim", Value::vec3(0, 0, 0)));
        lamp->graph.channelConstants["emissive"] = Value::vec3(1, 0.5f, 0);
        lamp->graph.channelConstants["emissive_strength"] = Value::number(strength);
        all.p.masters.push_back(lamp);
        all.lay(lamp->id, strength / 20, 0.2f, 0.2f);
    }
    auto atlas = all.atlas();
    ASSERT_TRUE(atlas) << atlas.error().sentence;
    EXPECT_FLOAT_EQ(atlas->set.emissiveStrength, 8);
    for (const AtlasPicture& p : atlas->pictures) {
        const Picture& map = atlas->set.maps[3].picture;
        const size_t at = (size_t(p.place.y + 2) * size_t(map.width) + size_t(p.place.x + 2)) * 3;
        EXPECT_NEAR(map.values[at] * 8, p.worn == "bright" ? 8 : 2, 1e-4f);
        EXPECT_NEAR(map.values[at + 1] * 8, p.worn == "bright" ? 4 : 1, 1e-4f);
    }
    EXPECT_EQ(atlas->set.read().size(), 3u) << "no map of normals, which are flat";
    EXPECT_EQ(atlas->set.surface.alphaMode, AlphaMode::Blend);
    // One is cut out and unlit: the others are not bent to that.
    auto& other = all.p.masters.back();
    auto changed = std::make_shared<Master>(*other);
    changed->surface.alphaMode = AlphaMode::Mask, changed->surface.unlit = true;
    other = changed;
    all.lay("m", -0.3f, 0.2f, 0.2f).weights[0] = 0.5f;
    all.lay("nobody", -0.3f, 0.2f, 0.2f);
    atlas = all.atlas();
    ASSERT_TRUE(atlas) << atlas.error().sentence;
    EXPECT_EQ(atlas->set.surface.alphaMode, AlphaMode::Blend);
    EXPECT_FALSE(atlas->set.surface.unlit);
    std::string cautions;
    for (const std::string& c : atlas->set.cautions) cautions += c + "\n";
    for (const char* word : {"blended", "lit", "Decal 2: what is cut does not hold the weights", "Decal 3: it wears nothing"})
        EXPECT_NE(cautions.find(word), std::string::npos) << word << " in\n" << cautions;
    EXPECT_EQ(atlas->decals, 3u);
}

TEST(DecalAtlases, SayWhatTheyTakeAndWhenThereIsNoRoom) {
    OnPlane all;
    EXPECT_EQ(all.atlas().error().code, "decal.nothing-to-cut");
    for (int k = 0; k < 9; ++k) {
        all.p.masters.push_back(even("e" + std::to_string(k), Value::vec3(1, 1, 1)));
        all.lay("e" + std::to_string(k), 0, 0.2f, 0.2f);
    }
    EXPECT_EQ(all.atlas(3).error().code, "bake.size");
    const auto full = all.atlas(64);
    ASSERT_FALSE(full);
    EXPECT_EQ(full.error().code, "decal.atlas-full") << "eight squares a side hold four pictures of three";
    EXPECT_NE(full.error().sentence.find("9 pictures"), std::string::npos) << full.error().sentence;
    const auto least = all.atlas(72);
    ASSERT_TRUE(least) << "and nine nine: " << least.error().sentence;
    for (const AtlasPicture& p : least->pictures) EXPECT_EQ(p.place.width, kAtlasPadding);
    // One picture that is wide and low leaves half of the sheet away.
    OnPlane wide;
    wide.lay("m", 0, 0.8f, 0.2f);
    const auto low = wide.atlas(512);
    ASSERT_TRUE(low);
    const Picture& sheet = low->set.maps[0].picture;
    EXPECT_EQ(sheet.width, 512);
    EXPECT_EQ(sheet.height, 256) << "124 pixels, what lies around them, and halves all the way";
    // Four channels of a byte and three that take the room of four, with all levels.
    size_t counted = 0;
    for (int w = 512, h = 256; w + h > 1; w = std::max(1, w / 2), h = std::max(1, h / 2)) {
        counted += size_t(w) * size_t(h) * 8;
        if (w == 1 && h == 1) break;
    }
    EXPECT_EQ(low->set.read().size(), 2u);
    EXPECT_EQ(low->bytesTogether, counted);
    EXPECT_LT(low->bytesInBlocks, counted / 3);
    EXPECT_EQ(low->mapsApart, 0u) << "it is computed";
}

TEST(DecalAtlases, StopWhenToldTo) {
    OnPlane all;
    all.lay("m", 0, 0.5f, 0.5f);
    std::atomic<bool> cancelled = true;
    AtlasRequest request{.size = 512};
    request.control.cancelled = &cancelled;
    EXPECT_EQ(decalAtlas(all.p, all.assets, all.specimen(), request).error().code, "bake.cancelled");
}

class AtlasFiles : public InFolder {};

TEST_F(AtlasFiles, GoOutAsOneMaterialWithItsMaps) {
    OnPlane all;
    // Two that read one map, which counts once.
    Image image(32, 32, 4, SampleType::U8);
    std::fill(image.samples.begin(), image.samples.end(), std::byte{200});
    ASSERT_TRUE(writeImage(folder / "mark.png", image, PixelEncoding::Srgb));
    MapFile mark;
    mark.id = "mark", mark.name = "mark", mark.path = "mark.png";
    all.p = *edit::addMap(all.p, mark);
    for (const char* id : {"one", "two"}) {
        Project q = bareProject();
        const Id read = add(q, "image", {}, {{"map", "mark"}});
        channel(q, {read, "color", ""}, "base_color");
        auto m = std::make_shared<Master>(masterOf(q));
        m->id = id, m->name = id;
        m->surface.decal = true, m->surface.alphaMode = AlphaMode::Blend;
        all.p.masters.push_back(m);
        all.lay(id, 0.1f, 0.3f, 0.3f);
    }
    const std::string file = (folder / "depot.huestack").string(), glb = (folder / "cut.glb").string();
    ASSERT_TRUE(saveProject(all.p, file));
    const auto run = runHsk("decals " + file + " --specimen 1 --json --atlas --size 256 --cut " + glb);
    ASSERT_EQ(run.code, 0) << run.output;
    const auto told = nlohmann::json::parse(run.output.substr(run.output.find('{'))); // cautions come before it
    const auto& atlas = told["atlas"];
    EXPECT_EQ(atlas["pictures"].size(), 2u);
    EXPECT_EQ(atlas["width"], 256);
    EXPECT_EQ(atlas["apart"]["maps"], 1);
    EXPECT_EQ(atlas["apart"]["bytes"], cardBytes(BlockFormat::Plain8, 32, 32, 4));
    // The file by its own words.
    const Glb read(glb);
    EXPECT_EQ(read.json["materials"].size(), 1u);
    EXPECT_EQ(read.json["materials"][0]["alphaMode"], "BLEND");
    EXPECT_EQ(read.json["meshes"][0]["primitives"].size(), 1u);
    EXPECT_EQ(read.json["images"].size(), 2u);
    const Result<Mesh> mesh = readMesh(glb);
    ASSERT_TRUE(mesh);
    for (const Vertex& v : mesh->vertices)
        for (const float x : v.uv0) EXPECT_TRUE(x > 0 && x < 1) << x;
    const auto plain = runHsk("decals " + file + " --specimen 1 --atlas --cut " + glb);
    EXPECT_NE(plain.output.find("in one material"), std::string::npos) << plain.output;
    EXPECT_NE(plain.output.find("caution: Decal 0"), std::string::npos) << plain.output;
    EXPECT_EQ(runHsk("decals " + file + " --specimen 1 --atlas --cut " + file).code, 2) << "no GLB by its name";
    EXPECT_EQ(runHsk("decals " + file + " --specimen 1 --atlas").code, 2) << "nothing to be written to";
    const auto full = runHsk("decals " + file + " --specimen 1 --atlas --size 16 --cut " + glb);
    EXPECT_EQ(full.code, 2);
    EXPECT_NE(full.output.find("larger size"), std::string::npos) << full.output;
    EXPECT_TRUE(readMesh(glb)) << "what was there stays";
}

} // namespace
} // namespace hue
