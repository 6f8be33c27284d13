// The command line's tools for single maps.
#include "core/compress/block_file.h"
#include "core/image_files/image_file.h"
#include "core/image_files/picture_file.h"
#include "core/maps/conversions.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/pack/recipe.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <random>
#include <sstream>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

class HskMaps : public InFolder {
  protected:
    std::string put(const char* name, const Image& image) {
        EXPECT_TRUE(writeImage(folder / name, image, PixelEncoding::Data));
        return (folder / name).string();
    }
    std::string out(const char* name) { return (folder / name).string(); }
};

TEST_F(HskMaps, MapTellsWhatAFileHolds) {
    const std::string file = put("stones_normal.png", normalsFromHeight(sampleHeight(64, 64), {1, 0.05f}));
    const Ran ran = runHsk("map " + file);
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("64 x 64"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("normal"), std::string::npos) << ran.output;
    EXPECT_EQ(runHsk("map " + out("gone.png")).code, 1) << "a problem was found";
}

TEST_F(HskMaps, NormalsDoesWhatTheLibraryDoes) {
    const Image height = imageOf({sampleHeight(32, 32)}, SampleType::U16), normals = normalsFromHeight(sampleHeight(32, 32), {1, 0.05f});
    const std::string h = put("h.png", height), n = put("n.png", normals);
    for (const ConversionDef& c : conversions()) {
        const std::string to = out("made.png");
        const Ran ran = runHsk("normals " + (c.fromNormals ? n : h) + " --do " + std::string(c.key) +
                               " --strength 2 --width 1 --depth 0.02 --detail " + n + " --out " + to);
        ASSERT_EQ(ran.code, 0) << c.key << ": " << ran.output;
        ConversionSettings settings{2, {1, 0.02f}, &normals};
        const auto wanted = convert(c.what, c.fromNormals ? normals : height, settings);
        ASSERT_TRUE(wanted);
        EXPECT_EQ(readImage(to)->samples, wanted->samples) << c.key;
    }
    EXPECT_EQ(runHsk("normals " + h + " --do flip-green --out " + out("x.png")).code, 2) << "a height holds no normals";
}

TEST_F(HskMaps, SeamlessLowersTheSeam) {
    Image ramp(64, 64, 1, SampleType::U8);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) ramp.row(y)[x] = std::byte(40 + 2 * x + (x * 7 + y * 13) % 17);
    const std::string file = put("ramp.png", ramp);
    fs::create_directory(folder / "made");
    const Ran ran = runHsk("seamless " + file + " --method blend --out " + out("made"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    const Image made = *readImage(folder / "made/ramp.png");
    auto step = [](const Image& m) {
        double sum = 0;
        for (int y = 0; y < m.height; ++y) sum += std::fabs(m.at(0, y, 0) - m.at(m.width - 1, y, 0));
        return sum / m.height;
    };
    EXPECT_LT(step(made), step(ramp) / 2);
}

TEST_F(HskMaps, MaskDrawsItsShapes) {
    const Ran ran = runHsk("mask --size 64 --shape 'rectangle 0.25 0.25 0.5 0.5' --out " + out("m.png"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    const Image mask = *readImage(folder / "m.png");
    EXPECT_GT(mask.at(32, 32, 0), 0.99f);
    EXPECT_LT(mask.at(4, 4, 0), 0.01f);
    double sum = 0;
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) sum += mask.at(x, y, 0);
    EXPECT_NEAR(sum / 4096, 0.25, 0.01) << "a quarter of it";
    EXPECT_EQ(runHsk("mask --shape 'star 0 0 1 1' --out " + out("x.png")).code, 2);
}

TEST_F(HskMaps, MaskTakesAGroundATurnAndAValue) {
    ASSERT_EQ(runHsk("mask --size 64 --ground 0.2 --shape 'turn=90 value=0.6 rectangle 0.1 0.4 0.8 0.2' --out " + out("m.png")).code, 0);
    const Image mask = *readImage(folder / "m.png");
    EXPECT_NEAR(mask.at(2, 2, 0), 0.2f, 0.01f);
    EXPECT_NEAR(mask.at(32, 8, 0), 0.6f, 0.01f) << "a bar that lay stands";
    EXPECT_NEAR(mask.at(8, 32, 0), 0.2f, 0.01f);
    for (const char* odd :
         {"turn=x rectangle 0 0 1 1", "value=2 rectangle 0 0 1 1", "turn=30 line 0 0 1 1 0.1", "size=3 ellipse 0 0 1 1"}) {
        const Ran refused = runHsk("mask --shape '" + std::string(odd) + "' --out " + out("x.png"));
        EXPECT_EQ(refused.code, 2) << odd;
        EXPECT_NE(refused.output.find("is no shape"), std::string::npos) << refused.output;
    }
}

TEST_F(HskMaps, PackTakesNumbersAndFillsWhatIsNeutral) {
    const std::string rough = put("rough.png", [] {
        Image grey(16, 16, 1, SampleType::U8);
        std::fill(grey.samples.begin(), grey.samples.end(), std::byte(51));
        return grey;
    }());
    // A number in the place of a map, and neutral ones for what is not given.
    const Ran ran = runHsk("pack --recipe orm --source roughness=" + rough + " --source metallic=0.6 --out " + out("orm.png"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("so they hold occlusion 1"), std::string::npos) << "and it is said: " << ran.output;
    const Image packed = *readImage(folder / "orm.png");
    EXPECT_EQ(packed.width, 16);
    EXPECT_NEAR(packed.at(5, 5, 0), 1, 1e-3);
    EXPECT_NEAR(packed.at(5, 5, 1), 0.2f, 1e-3);
    EXPECT_NEAR(packed.at(5, 5, 2), 0.6f, 2e-3);
    // Nobody knows how rough something is.
    const Ran missing = runHsk("pack --recipe orm --source metallic=0 --out " + out("x.png"));
    EXPECT_EQ(missing.code, 2);
    EXPECT_NE(missing.output.find("needs a map for roughness"), std::string::npos) << missing.output;
    const Ran odd = runHsk("pack --recipe orm --source gloss=0.5 --out " + out("x.png"));
    EXPECT_EQ(odd.code, 2);
    EXPECT_NE(odd.output.find("reads no gloss"), std::string::npos) << odd.output;
}

TEST_F(HskMaps, CompressMakesTheLevelsThatTheWindowMakes) {
    // A leaf of two channels: grey, and an alpha of fine holes that thin out in smaller levels.
    Image leaf(64, 64, 2, SampleType::U8);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) {
            leaf.row(y)[x * 2] = std::byte(128 + x);
            leaf.row(y)[x * 2 + 1] = std::byte((x * x * 7 + y * y * 13 + x * y * 5) % 256 > 190 ? 255 : 0);
        }
    const std::string file = put("leaf_opacity.png", leaf);
    ASSERT_EQ(runHsk("compress " + file + " --format plain-8 --out " + out("leaf.ktx2")).code, 0);
    const auto map = readBlockFile(folder / "leaf.ktx2");
    ASSERT_TRUE(map);
    MapLevels how;
    how.how = MapLevels::How::Opacity;
    const auto levels = levelsOf(leaf, MapKind::Data, how);
    ASSERT_EQ(map->levels.size(), levels.size());
    for (size_t l = 0; l < levels.size(); ++l) EXPECT_EQ(map->levels[l], levels[l].samples) << "level " << l;
    const auto covered = [&](const Image& level) {
        int count = 0;
        for (size_t k = 1; k < level.samples.size(); k += 2) count += int(level.samples[k]) >= 128;
        return count / double(level.width * level.height);
    };
    EXPECT_NEAR(covered(levels[2]), covered(leaf), 0.1);
    EXPECT_LT(covered(levelsOf(leaf, MapKind::Data, {})[2]), covered(leaf) / 2) << "which plain averages would not keep";
}

#ifndef __SANITIZE_ADDRESS__ // which keeps what was freed
// As the system counts it: what is taken beyond what a small map takes.
TEST_F(HskMaps, LargeMapsTakeNoMoreThanTwiceTheirPixels) {
    Image large(8192, 8192, 1, SampleType::U8);
    for (size_t k = 0; k < large.samples.size(); ++k) large.samples[k] = std::byte(k * 7 >> 4);
    const std::string big = put("big_height.png", large), small = put("small_height.png", imageOf({sampleHeight(64, 64)}, SampleType::U8));
    const double pixels = double(large.samples.size());
    large = {};
    for (const std::vector<std::string>& command :
         {std::vector<std::string>{"map"}, {"compress", "--format", "bc4", "--out", out("a.ktx2")}}) {
        const auto peak = [&](const std::string& file) {
            std::vector<std::string> arguments = command;
            arguments.push_back(file);
            return double(peakOf(arguments));
        };
        EXPECT_LT(peak(big) - peak(small), 2 * pixels) << command[0];
    }
}
#endif

TEST_F(HskMaps, FromGlossMakesThreeMaps) {
    const std::string diffuse = put("d_diffuse.png", sampleColors(16, 16, 3)), specular = put("d_specular.png", sampleColors(16, 16, 3)),
                      gloss = put("d_gloss.png", sampleColors(16, 16, 1));
    fs::create_directory(folder / "made");
    const Ran ran = runHsk("from-gloss " + diffuse + " " + specular + " " + gloss + " --out " + out("made"));
    ASSERT_EQ(ran.code, 0) << ran.output;
    int maps = 0;
    for (const auto& e : fs::directory_iterator(folder / "made")) maps += readImage(e.path()) ? 1 : 0;
    EXPECT_EQ(maps, 3);
}

TEST_F(HskMaps, RecipesListsThemAndWritesOneToStartFrom) {
    const Ran list = runHsk("recipes");
    EXPECT_EQ(list.code, 0);
    for (const Recipe& r : builtInRecipes()) EXPECT_NE(list.output.find(r.name), std::string::npos) << r.name;
    const Ran one = runHsk("recipes --recipe orm --out " + out("orm.huerecipe"));
    ASSERT_EQ(one.code, 0) << one.output;
    EXPECT_EQ(*readRecipe(folder / "orm.huerecipe"), *findRecipe("orm"));
}

} // namespace
} // namespace hue
