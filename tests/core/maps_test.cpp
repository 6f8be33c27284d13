// What is read off maps, and what is done to them.
#include "core/image_files/image_file.h"
#include "core/images/fourier.h"
#include "core/images/mips.h"
#include "core/maps/map_levels.h"
#include "core/maps/map_sets.h"
#include "core/maps/mask.h"
#include "core/maps/normal_tools.h"
#include "core/maps/statistics.h"
#include "core/maps/tiling.h"
#include "tests/test_folder.h"
#include "tests/test_maps.h"

#include <OpenImageIO/imageio.h>
#include <algorithm>
#include <fstream>
#include <limits>

namespace hue {
namespace {

using namespace test;
using ImageFiles = InFolder;

std::string sentencesOf(const std::vector<MapRemark>& remarks) {
    std::string all;
    for (const MapRemark& r : remarks) all += r.code + ": " + r.sentence + "\n";
    return all;
}

// ------------------------------------------------------------------------------------------------ files

TEST_F(ImageFiles, EveryTypeAndNumberOfChannelsComesBackPixelForPixel) {
    for (SampleType type : {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32})
        for (int channels = 1; channels <= 4; ++channels)
            for (const char* suffix : {".png", ".tif", ".exr"}) {
                const auto file = folder / (std::string("a") + suffix);
                if (!canHold(file, type)) continue;
                // Alpha 1, since EXR holds colors multiplied by it.
                Image there = sampleColors(37, 21, channels, type);
                if (channels == 4) setChannel(there, 3, Plane(37, 21, 1));
                if (channels == 2) continue;
                ASSERT_TRUE(writeImage(file, there, PixelEncoding::Data));
                const auto back = readImage(file);
                ASSERT_TRUE(back) << back.error().sentence;
                EXPECT_EQ(back->type, type);
                EXPECT_EQ(back->channels, channels);
                EXPECT_EQ(back->samples, there.samples) << suffix << nameOf(type) << channels;
            }
}

TEST_F(ImageFiles, LargePngsThatAreWrittenInBandsAreReadByAnIndependentReader) {
    // Several bands, so that dictionaries and filters reach across their borders.
    const Image there = sampleColors(1500, 1100, 3);
    ASSERT_TRUE(writeImage(folder / "large.png", there, PixelEncoding::Srgb));
    auto in = OIIO::ImageInput::open((folder / "large.png").string());
    ASSERT_TRUE(in);
    std::vector<std::byte> back(there.samples.size());
    ASSERT_TRUE(in->read_image(0, 0, 0, 3, OIIO::TypeDesc::UINT8, back.data()));
    EXPECT_EQ(back, there.samples);
}

TEST_F(ImageFiles, GreyWithAlphaKeepsItsAlpha) {
    const Image there = imageOf({sampleHeight(8, 8), Plane(8, 8, 0.25f)}, SampleType::U16);
    ASSERT_TRUE(writeImage(folder / "a.png", there, PixelEncoding::Data));
    const auto back = readImage(folder / "a.png");
    ASSERT_TRUE(back);
    EXPECT_EQ(back->channels, 2);
    EXPECT_EQ(back->samples, there.samples);
}

TEST_F(ImageFiles, BadFilesAreRefusedWithTheReason) {
    auto code = [&](const std::string& name) {
        const auto image = readImage(folder / name);
        return image ? std::string("read") : image.error().code;
    };
    auto write = [&](const std::string& name, const std::string& content) { std::ofstream(folder / name, std::ios::binary) << content; };
    EXPECT_EQ(code("absent.png"), "map.missing");
    write("empty.png", "");
    EXPECT_EQ(code("empty.png"), "map.empty");
    write("text.png", "this is no picture");
    EXPECT_EQ(code("text.png"), "map.unreadable");

    ASSERT_TRUE(writeImage(folder / "good.png", sampleColors(64, 64, 3), PixelEncoding::Srgb));
    std::ifstream in(folder / "good.png", std::ios::binary);
    const std::string whole(std::istreambuf_iterator<char>(in), {});
    write("cut.png", whole.substr(0, whole.size() / 2));
    EXPECT_EQ(code("cut.png"), "map.unreadable");
    write("photo.jpg", whole);
    EXPECT_EQ(code("photo.jpg"), "map.wrong-suffix");
    EXPECT_NE(readImage(folder / "photo.jpg").error().sentence.find("png"), std::string::npos) << "says what it really is";

    // A header of 60 000 x 60 000 in some hundred bytes, and one that is just possible by its numbers.
    auto lie = [&](uint32_t side) {
        std::string s = whole.substr(0, 100);
        for (size_t at : {size_t(16), size_t(20)})
            for (size_t k = 0; k < 4; ++k) s[at + k] = char(side >> (24 - 8 * k));
        write("lie.png", s);
        return code("lie.png");
    };
    EXPECT_NE(lie(60000), "read");
    EXPECT_NE(lie(16000), "read");
    EXPECT_NE(lie(0), "read");
}

TEST_F(ImageFiles, InksAndAnimationsAreRefusedClearly) {
    OIIO::ImageSpec spec(8, 8, 4, OIIO::TypeDesc::UINT8);
    spec.attribute("tiff:ColorSpace", "CMYK");
    spec.attribute("oiio:ColorSpace", "CMYK");
    auto out = OIIO::ImageOutput::create("x.tif");
    ASSERT_TRUE(out->open((folder / "inks.tif").string(), spec));
    const std::vector<uint8_t> pixels(8 * 8 * 4, 100);
    ASSERT_TRUE(out->write_image(OIIO::TypeDesc::UINT8, pixels.data()));
    out->close();
    const auto inks = readImage(folder / "inks.tif");
    ASSERT_FALSE(inks);
    EXPECT_EQ(inks.error().code, "map.cmyk");

    OIIO::ImageSpec frames[2] = {OIIO::ImageSpec(8, 8, 3, OIIO::TypeDesc::UINT8), OIIO::ImageSpec(8, 8, 3, OIIO::TypeDesc::UINT8)};
    auto film = OIIO::ImageOutput::create("x.tif");
    ASSERT_TRUE(film->open((folder / "film.tif").string(), 2, frames));
    film->write_image(OIIO::TypeDesc::UINT8, pixels.data());
    film->open((folder / "film.tif").string(), frames[1], OIIO::ImageOutput::AppendSubimage);
    film->write_image(OIIO::TypeDesc::UINT8, pixels.data());
    film->close();
    EXPECT_EQ(readImage(folder / "film.tif").error().code, "map.animated");

    OIIO::ImageSpec many(8, 8, 5, OIIO::TypeDesc::UINT8);
    auto five = OIIO::ImageOutput::create("x.tif");
    ASSERT_TRUE(five->open((folder / "five.tif").string(), many));
    const std::vector<uint8_t> wide(8 * 8 * 5, 100);
    five->write_image(OIIO::TypeDesc::UINT8, wide.data());
    five->close();
    EXPECT_EQ(readImage(folder / "five.tif").error().code, "map.channels");
}

TEST_F(ImageFiles, AFailedWriteLeavesWhatWasThere) {
    std::filesystem::create_directories(folder / "taken.png");
    EXPECT_FALSE(writeImage(folder / "taken.png", sampleColors(8, 8, 3), PixelEncoding::Data)) << "a folder has the name";
    EXPECT_TRUE(std::filesystem::is_directory(folder / "taken.png"));
    EXPECT_FALSE(writeImage("/proc/none/a.png", sampleColors(8, 8, 3), PixelEncoding::Data));
    EXPECT_EQ(writeImage(folder / "a.png", sampleColors(8, 8, 3, SampleType::F32), PixelEncoding::Data).error().code, "file.suffix")
        << "PNG holds no floats";
}

// ------------------------------------------------------------------------------------------------ statistics

TEST(Statistics, LevelsRangeAndConstantsAreExact) {
    Plane steps(64, 64);
    for (size_t i = 0; i < steps.values.size(); ++i) steps.values[i] = float(i % 200) / 255;
    const MapFacts f = factsOf(imageOf({steps, steps, steps, Plane(64, 64, 1)}, SampleType::U16));
    EXPECT_EQ(f.channel[0].levels, 200);
    EXPECT_FLOAT_EQ(f.channel[0].least, 0);
    EXPECT_NEAR(f.channel[0].most, 199 / 255.f, 1e-4f);
    EXPECT_TRUE(f.channel[3].constant());
    EXPECT_TRUE(f.grey);
    const std::string said = sentencesOf(remarksOn(f, MapKind::Height));
    EXPECT_NE(said.find("200 levels"), std::string::npos) << said;
    EXPECT_NE(said.find("Alpha is 1 everywhere: it costs memory and carries nothing."), std::string::npos) << said;
}

TEST(Statistics, InvalidPixelsAreCountedAndSaid) {
    Image image = sampleColors(16, 16, 1, SampleType::F32);
    auto* v = reinterpret_cast<float*>(image.samples.data());
    v[3] = std::numeric_limits<float>::quiet_NaN();
    v[9] = std::numeric_limits<float>::infinity();
    const MapFacts f = factsOf(image);
    EXPECT_EQ(f.channel[0].broken, 2u);
    EXPECT_TRUE(std::isfinite(f.channel[0].mean));
    EXPECT_NE(sentencesOf(remarksOn(f, MapKind::Data)).find("2 values that are NaN or infinite"), std::string::npos);
}

TEST(Statistics, TheSamePixelsInAnotherFileAreFound) {
    const Image grey = imageOf({sampleHeight(32, 32)}, SampleType::U8);
    const Plane p = planeOf(grey, 0);
    EXPECT_EQ(factsOf(grey).pixels, factsOf(imageOf({p, p, p}, SampleType::U8)).pixels) << "spread over red, green and blue";
    EXPECT_EQ(factsOf(grey).pixels, factsOf(imageOf({p, p, p, Plane(32, 32, 1)}, SampleType::U8)).pixels);
    Image other = grey;
    other.samples[100] = std::byte(unsigned(other.samples[100]) ^ 1);
    EXPECT_NE(factsOf(grey).pixels, factsOf(other).pixels);
}

TEST(Guess, PixelsTellNormalsWhateverTheName) {
    const Image normals = normalsFromHeight(sampleHeight(64, 64), {1, 0.05f});
    const Guess plain = guessOf("scan_0012.png", factsOf(normals));
    EXPECT_EQ(plain.kind, MapKind::Normal);
    EXPECT_NE(plain.reason.find("unit vectors"), std::string::npos) << plain.reason;
    EXPECT_FALSE(guessOf("wall_color.png", factsOf(normals)).sure) << "name and pixels disagree";
    EXPECT_FALSE(wrongKind("scan_0012.png", factsOf(normals), MapKind::Color).sentence.empty()) << "normals decoded as color";
    EXPECT_TRUE(wrongKind("scan_0012.png", factsOf(normals), MapKind::Normal).sentence.empty());
}

TEST(Guess, ColorsMasksAndHeightsAreToldApart) {
    EXPECT_EQ(guessOf("scan.png", factsOf(sampleColors(64, 64, 3))).kind, MapKind::Color);
    EXPECT_EQ(guessOf("scan.png", factsOf(sampleMasks(64, 64))).role, "packed");
    EXPECT_EQ(guessOf("scan.png", factsOf(imageOf({sampleHeight(64, 64)}, SampleType::U16))).kind, MapKind::Height);
    EXPECT_EQ(wrongKind("wall_albedo.png", factsOf(sampleColors(64, 64, 3)), MapKind::Data).better, MapKind::Color)
        << "a color read as data";
    EXPECT_EQ(wrongKind("wall_roughness.png", factsOf(imageOf({sampleHeight(64, 64)}, SampleType::U8)), MapKind::Color).better,
              MapKind::Data);
}

TEST(Guess, NamesOfTheTradeAreUnderstood) {
    const std::pair<const char*, const char*> names[] = {{"Wall_BaseColor.png", "base color"},    {"wall-nrm-2k.tga", "normal"},
                                                         {"metal_plate_color.png", "base color"}, {"SettsRoughness.png", "roughness"},
                                                         {"setts_AO.png", "occlusion"},           {"setts_disp.exr", "height"}};
    for (const auto& [name, role] : names) EXPECT_EQ(guessOfName(name).role, role) << name;
    EXPECT_TRUE(guessOfName("scan_0012.png").role.empty());
}

TEST(Sets, AreFoundByName) {
    std::vector<SetCandidate> c;
    for (const char* name :
         {"setts_color.png", "setts_normal.png", "setts_height.png", "wall_color.png", "wall_normal.png", "lone_color.png"})
        c.push_back({name, guessOfName(name), {}});
    const auto sets = findSets(c);
    ASSERT_EQ(sets.size(), 2u);
    EXPECT_EQ(sets[0].name, "setts");
    EXPECT_EQ(sets[0].members.size(), 3u);
}

TEST(Sets, ANormalFindsItsColorByItsPixels) {
    // Two color maps, and normals made from the light of one of them, with names that tell nothing.
    const Image first = sampleColors(128, 128, 3);
    Plane dots(128, 128);
    for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 128; ++x) dots.at(x, y) = std::hypot(float(x % 32 - 16), float(y % 32 - 16)) < 9 ? 0.8f : 0.2f;
    const Image second = imageOf({dots, dots, Plane(128, 128, 0.3f)}, SampleType::U8);
    const Image normals = normalsFromHeight(dots, {1, 0.02f});
    std::vector<SetCandidate> c{{"a1.png", {MapKind::Color, "base color", {}, true}, factsOf(first).sketch},
                                {"b2.png", {MapKind::Color, "base color", {}, true}, factsOf(second).sketch},
                                {"c3.png", guessOf("c3.png", factsOf(normals)), factsOf(normals).sketch}};
    const auto sets = findSets(c);
    ASSERT_EQ(sets.size(), 1u);
    EXPECT_EQ(sets[0].members[0].candidate, 1u);
    EXPECT_EQ(sets[0].members[1].candidate, 2u);
    EXPECT_TRUE(sets[0].members[1].byContent);
}

// ------------------------------------------------------------------------------------------------ tiling

Image cropped(const Image& image, int width, int height) {
    Image out(width, height, image.channels, image.type);
    for (int y = 0; y < height; ++y) std::copy_n(image.row(y), out.rowBytes(), out.row(y));
    return out;
}

TEST(Tiling, TheSeamMeterTellsARepeatingMapFromOneThatWasCut) {
    const Image repeats = sampleColors(128, 128, 3), cut = cropped(repeats, 101, 93);
    EXPECT_LT(seamMeter(repeats).worst(), 1.8f);
    EXPECT_GT(seamMeter(cut).vertical, 2);
    EXPECT_GT(seamMeter(cut).horizontal, 2);
}

TEST(Tiling, BothWaysOfMakingSeamlessTakeTheSeamAway) {
    const Image cut = cropped(sampleColors(256, 256, 3), 200, 180);
    for (SeamMethod method : {SeamMethod::Cut, SeamMethod::Blend}) {
        SeamlessRequest request;
        request.method = method;
        const auto made = makeSeamless({cut}, request);
        ASSERT_TRUE(made);
        EXPECT_LT(seamMeter((*made)[0]).worst(), seamMeter(cut).worst() / 2);
        EXPECT_LT(seamMeter((*made)[0]).worst(), 1.6f);
        // Nor is there one where the old edges came to lie.
        EXPECT_LT(seamMeter(offsetByHalf((*made)[0])).worst(), 1.6f);
    }
}

TEST(Tiling, BlendingKeepsTheContrast) {
    const Image cut = cropped(sampleColors(256, 256, 1), 200, 180);
    SeamlessRequest request;
    request.method = SeamMethod::Blend;
    const auto made = makeSeamless({cut}, request);
    EXPECT_NEAR(factsOf((*made)[0]).channel[0].deviation, factsOf(cut).channel[0].deviation, 0.012f);
}

TEST(Tiling, MapsOfASetAreCutAlikeAndNormalsStayUnitVectors) {
    const Plane height = sampleHeight(256, 256);
    const Image h = cropped(imageOf({height}, SampleType::U16), 200, 200),
                n = cropped(normalsFromHeight(height, {1, 0.05f}, SampleType::U16), 200, 200);
    SeamlessRequest request;
    request.normals = {false, true};
    const auto made = makeSeamless({h, n}, request);
    ASSERT_TRUE(made);
    EXPECT_GT(factsOf((*made)[1]).normals.unitShare, 0.999f);
    // The normals still belong to the height: made anew from it they are the same but for the cut itself.
    const Image again = normalsFromHeight(planeOf((*made)[0], 0), {200 / 256.f, 0.05f}, SampleType::U16);
    EXPECT_GT(psnr(again, (*made)[1], 0), 24);
    EXPECT_EQ(makeSeamless({h, sampleColors(100, 100, 3)}, {}).error().code, "seamless.sizes");
}

TEST(Tiling, TheRepetitionMeterFindsWhatComesAgainInTheTile) {
    Plane tiles(128, 128), scattered(128, 128);
    const Plane tile = sampleHeight(32, 32);
    uint32_t seed = 5;
    for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 128; ++x) {
            tiles.at(x, y) = tile.at(x % 32, y % 32);
            seed = seed * 1664525u + 1013904223u;
            scattered.at(x, y) = float(seed >> 8) / 16777216.f;
        }
    const RepetitionMeter often = repetitionMeter(imageOf({tiles}, SampleType::U8)),
                          once = repetitionMeter(imageOf({scattered}, SampleType::U8));
    EXPECT_GT(often.strength, 0.95f);
    EXPECT_LT(once.strength, often.strength - 0.1f);
    EXPECT_NEAR(std::fmod(often.stepX * 4, 1.f), 0, 0.05f) << "a quarter of the tile, or several";
}

// ------------------------------------------------------------------------------------------------ normals and heights

TEST(Normals, TheHeightComesBackFromItsNormals) {
    const Plane height = sampleHeight(128, 128);
    float depth = 0;
    const Plane back = heightFromNormals(normalsFromHeight(height, {2, 0.1f}, SampleType::U16), 2, &depth);
    const auto [low, high] = std::minmax_element(height.values.begin(), height.values.end());
    EXPECT_NEAR(depth, 0.1f * (*high - *low), 0.002f) << "metres";
    float worst = 0;
    for (size_t i = 0; i < height.values.size(); ++i)
        worst = std::max(worst, std::fabs((height.values[i] - *low) / (*high - *low) - back.values[i]));
    EXPECT_LT(worst, 0.02f);
}

TEST(Normals, TheGreenConventionIsDetectedAndFlipped) {
    const Image up = normalsFromHeight(sampleHeight(128, 128), {1, 0.05f});
    EXPECT_EQ(factsOf(up).normals.green, GreenConvention::Up);
    EXPECT_EQ(factsOf(flippedGreen(up)).normals.green, GreenConvention::Down);
    EXPECT_NE(sentencesOf(remarksOn(factsOf(flippedGreen(up)), MapKind::Normal)).find("green.down"), std::string::npos);
    EXPECT_EQ(flippedGreen(flippedGreen(up)).samples, up.samples);
}

TEST(Normals, RenormalisingGivesUnitVectorsEvenFromTwoChannels) {
    Image broken = normalsFromHeight(sampleHeight(32, 32), {1, 0.1f});
    for (size_t i = 2; i < broken.samples.size(); i += 3) broken.samples[i] = std::byte(160);
    EXPECT_LT(factsOf(broken).normals.unitShare, 0.9f);
    EXPECT_GT(factsOf(renormalised(broken)).normals.unitShare, 0.999f);
    const Image full = normalsFromHeight(sampleHeight(32, 32), {1, 0.1f});
    const Image two = imageOf({planeOf(full, 0), planeOf(full, 1)}, SampleType::U8);
    for (int c = 0; c < 3; ++c) EXPECT_GT(psnr(full, renormalised(two), c), 40);
}

TEST(Normals, JoiningWithFlatChangesNothingAndStrengthZeroIsFlat) {
    const Image ground = normalsFromHeight(sampleHeight(32, 32), {1, 0.1f}, SampleType::U16);
    const Image flat = imageOf({Plane(32, 32, 0.5f), Plane(32, 32, 0.5f), Plane(32, 32, 1)}, SampleType::U16);
    const auto joined = joinedNormals(ground, flat);
    ASSERT_TRUE(joined);
    for (int c = 0; c < 3; ++c) EXPECT_GT(psnr(*joined, ground, c), 70);
    for (int c = 0; c < 3; ++c) EXPECT_GT(psnr(withStrength(ground, 0), flat, c), 70);
    EXPECT_EQ(joinedNormals(ground, normalsFromHeight(sampleHeight(16, 16), {})).error().code, "normals.sizes");
}

TEST(Normals, HollowsAreOccludedAndRidgesBendUp) {
    Plane pit(64, 64, 1);
    for (int y = 24; y < 40; ++y)
        for (int x = 24; x < 40; ++x) pit.at(x, y) = 0;
    const Plane open = occlusionFromHeight(pit, {1, 0.3f});
    EXPECT_GT(open.at(4, 4), 0.98f);
    EXPECT_LT(open.at(26, 32), 0.75f);
    const Plane bend = curvatureFromHeight(pit, {1, 0.3f}, 2);
    EXPECT_GT(bend.at(23, 32), 0.6f) << "the edge";
    EXPECT_LT(bend.at(24, 32), 0.4f) << "the foot";
    EXPECT_NEAR(bend.at(4, 4), 0.5f, 0.01f);
}

TEST(Normals, GlossSetsBecomeMetallicRoughness) {
    auto plain = [](float r, float g, float b) { return imageOf({Plane(4, 4, r), Plane(4, 4, g), Plane(4, 4, b)}, SampleType::U8); };
    const Image gloss = imageOf({Plane(4, 4, 0.8f)}, SampleType::U8);
    const float dielectric = linearToSrgb(0.04f);
    // Something painted: its diffuse color stays, and no metal.
    const auto paint = fromSpecularGloss(plain(0.6f, 0.3f, 0.2f), plain(dielectric, dielectric, dielectric), &gloss);
    ASSERT_TRUE(paint);
    EXPECT_NEAR(paint->metallic.at(0, 0, 0), 0, 0.02f);
    EXPECT_NEAR(paint->baseColor.at(0, 0, 0), 0.6f, 0.02f);
    EXPECT_NEAR(paint->roughness.at(0, 0, 0), 0.2f, 0.01f);
    // Bare brass: its specular color is the base color.
    const auto brass = fromSpecularGloss(plain(0, 0, 0), plain(0.9f, 0.75f, 0.4f), &gloss);
    EXPECT_NEAR(brass->metallic.at(0, 0, 0), 1, 0.02f);
    EXPECT_NEAR(brass->baseColor.at(0, 0, 1), 0.75f, 0.02f);
    EXPECT_EQ(fromSpecularGloss(plain(0, 0, 0), plain(1, 1, 1), nullptr).error().code, "gloss.channels");
}

// ------------------------------------------------------------------------------------------------ levels

TEST(Mips, ColorsAreAveragedAsLight) {
    Plane checks(2, 2);
    checks.values = {0, 1, 1, 0};
    const Image color = imageOf({checks, checks, checks}, SampleType::U8);
    EXPECT_NEAR(makeMips(color, {.encoded = true})[1].at(0, 0, 0), linearToSrgb(0.5f), 0.005f);
    EXPECT_NEAR(makeMips(color, {})[1].at(0, 0, 0), 0.5f, 0.005f);
}

TEST(Mips, OddSizesKeepTheMean) {
    for (const auto& [w, h] : std::vector<std::pair<int, int>>{{7, 5}, {33, 1}, {1, 9}, {64, 63}}) {
        const Image image = imageOf({sampleHeight(w, h)}, SampleType::F32);
        const auto levels = makeMips(image, {});
        EXPECT_EQ(levels.back().width * levels.back().height, 1);
        EXPECT_NEAR(levels.back().at(0, 0, 0), factsOf(image).channel[0].mean, 1e-4f) << w << "x" << h;
    }
}

TEST(Mips, NormalsStayUnitVectorsInEveryLevel) {
    const auto levels = makeMips(normalsFromHeight(sampleHeight(64, 64), {1, 0.2f}), {.normal = {0, 1, 2}});
    for (size_t l = 0; l + 2 < levels.size(); ++l) EXPECT_GT(factsOf(levels[l]).normals.unitShare, 0.99f) << l;
}

TEST(Mips, ACutOutMaskCoversAsMuchInTheDistance) {
    // Small spots, which plain averages would dissolve.
    Plane mask(128, 128);
    for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 128; ++x)
            mask.at(x, y) = std::clamp(
                0.5f + 3 * (std::sin(1.31f * float(x) + 0.4f * std::sin(0.17f * float(y))) * std::sin(1.13f * float(y)) - 0.35f), 0.f, 1.f);
    const Image image = imageOf({mask}, SampleType::U8);
    auto covered = [](const Image& i) {
        size_t n = 0;
        for (std::byte b : i.samples) n += unsigned(b) >= 128;
        return double(n) / double(i.samples.size());
    };
    const auto kept = makeMips(image, {.coverage = 0}), plain = makeMips(image, {});
    for (size_t l = 1; l < 5; ++l) EXPECT_NEAR(covered(kept[l]), covered(image), 0.05) << l;
    EXPECT_LT(covered(plain[3]), covered(image) / 2);
}

TEST(Mips, RoughnessRisesWhereNormalsAreLost) {
    const Image bumpy = normalsFromHeight(sampleHeight(64, 64), {1, 0.3f}), flat = normalsFromHeight(Plane(64, 64, 0.5f), {});
    const Image rough = imageOf({Plane(64, 64, 0.3f)}, SampleType::U8);
    const auto raised = makeMips(rough, {.roughness = 0, .normals = &bumpy}), same = makeMips(rough, {.roughness = 0, .normals = &flat});
    EXPECT_GT(raised[5].at(0, 0, 0), 0.4f);
    EXPECT_NEAR(same[5].at(0, 0, 0), 0.3f, 0.01f);
    EXPECT_FLOAT_EQ(raisedRoughness(0.4f, 1), 0.4f);
}

// ------------------------------------------------------------------------------------------------ masks and sizes

TEST(Masks, ShapesCoverWhatTheySay) {
    MaskDrawing d;
    d.width = d.height = 200;
    auto area = [&](MaskShape s) {
        d.shapes = {std::move(s)};
        const auto plane = drawMask(d);
        EXPECT_TRUE(plane);
        double sum = 0;
        for (float v : plane->values) sum += v;
        return sum / double(plane->values.size());
    };
    MaskShape s;
    EXPECT_NEAR(area(s), 0.25, 0.005) << "half by half";
    s.turn = 30;
    EXPECT_NEAR(area(s), 0.25, 0.005) << "turned";
    s.kind = MaskShape::Kind::Ellipse;
    EXPECT_NEAR(area(s), 0.25 * 3.14159 / 4, 0.005);
    s = {};
    s.kind = MaskShape::Kind::Polygon;
    s.points = {{0, 0}, {1, 0}, {0, 1}};
    EXPECT_NEAR(area(s), 0.5, 0.005);
    s.kind = MaskShape::Kind::Line;
    s.points = {{0.2f, 0.5f}, {0.8f, 0.5f}};
    s.thickness = 0.1f;
    EXPECT_NEAR(area(s), 0.6 * 0.1 + 3.14159 * 0.05 * 0.05, 0.005);
    s.points.pop_back();
    d.shapes = {s};
    EXPECT_EQ(drawMask(d).error().code, "mask.shape");
}

TEST(Masks, ShapesBeyondAllMeasureAreRefusedAndNearOnesAreDrawn) {
    MaskDrawing d;
    d.width = d.height = 16;
    for (const char* text :
         {"polygon 0 0 1 33333333333333330 0.5 1", "rectangle 1e30 0 1 1", "line 0 0 -1e9 0 0.1", "ellipse 0 0 1e38 1e38"}) {
        const auto shape = maskShapeOf(text, 0);
        ASSERT_TRUE(shape) << text;
        d.shapes = {*shape};
        const auto mask = drawMask(d);
        ASSERT_FALSE(mask) << text;
        EXPECT_EQ(mask.error().code, "mask.shape");
    }
    EXPECT_FALSE(maskShapeOf("rectangle 0 0 nan 1", 0));
    d.shapes = {*maskShapeOf("rectangle -400 -400 800 800", 0)};
    const auto whole = drawMask(d);
    ASSERT_TRUE(whole);
    for (float v : whole->values) EXPECT_EQ(v, 1);
}

TEST(Masks, LettersAreLettersAndSoftEdgesAreSoft) {
    MaskDrawing d;
    d.width = 300, d.height = 100;
    MaskShape s;
    s.kind = MaskShape::Kind::Text;
    s.text = "HOL";
    s.x = 0, s.width = 1, s.y = 0.2f, s.height = 0.6f;
    d.shapes = {s};
    const auto text = drawMask(d);
    ASSERT_TRUE(text);
    const ChannelFacts f = factsOf(imageOf({*text}, SampleType::U8)).channel[0];
    EXPECT_GT(f.mean, 0.1f);
    EXPECT_LT(f.mean, 0.4f);
    EXPECT_EQ(text->at(150, 50), 0) << "the O is open in its middle";
    d.shapes[0].soft = 0.2f;
    EXPECT_GT(factsOf(imageOf({*drawMask(d)}, SampleType::U8)).channel[0].levels, f.levels);
}

TEST(Masks, SeamlessOnesComeInAtTheOtherSide) {
    MaskDrawing d;
    d.width = d.height = 64;
    MaskShape s;
    s.x = 0.8f, s.width = 0.4f, s.y = 0.3f, s.height = 0.4f;
    d.shapes = {s};
    EXPECT_EQ(drawMask(d)->at(3, 32), 0);
    d.seamless = true;
    EXPECT_EQ(drawMask(d)->at(3, 32), 1);
}

TEST(Resize, FlatStaysFlatAndTheMeanStays) {
    for (Filter f : {Filter::Nearest, Filter::Box, Filter::Triangle, Filter::Lanczos}) {
        const Plane flat = resized(Plane(40, 30, 0.7f), 17, 50, f);
        for (float v : flat.values) EXPECT_NEAR(v, 0.7f, 1e-4f);
        const Plane p = sampleHeight(64, 64), half = resized(p, 32, 32, f);
        double a = 0, b = 0;
        for (float v : p.values) a += v;
        for (float v : half.values) b += v;
        EXPECT_NEAR(a / 4, b, b * 0.01) << nameOf(f);
    }
}

TEST(Fourier, ThereAndBackGivesThePlaneAgain) {
    const Plane p = sampleHeight(48, 40);
    Spectrum s(p);
    s.transform(false);
    s.transform(true);
    const Plane back = s.real();
    for (size_t i = 0; i < p.values.size(); ++i) EXPECT_NEAR(back.values[i] / (48 * 40), p.values[i], 1e-5f);
}

} // namespace
} // namespace hue
