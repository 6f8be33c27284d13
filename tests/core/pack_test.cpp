// Recipes: packing, taking apart, and the files they travel in.
#include "core/base/value.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"
#include "core/pack/lane_ops.h"
#include "core/pack/pack.h"
#include "tests/test_folder.h"
#include "tests/test_maps.h"

#include <rapidcheck/gtest.h>
#include <sys/resource.h>
#include <sys/wait.h>

namespace hue {
namespace {

using namespace test;

class Packs : public InFolder {
  protected:
    PackSource save(const std::string& name, const Image& image, MapKind kind = MapKind::Data) {
        const auto file = folder / name;
        EXPECT_TRUE(writeImage(file, image, kind == MapKind::Color ? PixelEncoding::Srgb : PixelEncoding::Data));
        return {file, kind};
    }
    static Image grey(int seed, int width = 40, int height = 30, SampleType type = SampleType::U8) {
        Plane p = sampleHeight(width, height);
        for (float& v : p.values) v = std::fmod(v + 0.13f * float(seed), 1.f);
        return imageOf({p}, type);
    }
};

TEST_F(Packs, EachLaneHoldsItsSourceToTheLastBit) {
    PackRequest r;
    r.recipe = *findRecipe("ormh");
    const char* roles[] = {"occlusion", "roughness", "metallic", "height"};
    Image sources[4];
    for (int l = 0; l < 4; ++l) {
        sources[l] = grey(l, 40, 600);
        r.sources[roles[l]] = save(std::string(roles[l]) + ".png", sources[l]);
    }
    EXPECT_TRUE(planPack(r)->flows);
    ASSERT_TRUE(packToFile(r, folder / "packed.png"));
    const auto packed = readImage(folder / "packed.png");
    ASSERT_TRUE(packed);
    EXPECT_EQ(packed->channels, 4);
    for (int l = 0; l < 4; ++l) EXPECT_EQ(planeOf(*packed, l).values, planeOf(sources[l], 0).values) << roles[l];
    EXPECT_EQ(pack(r)->samples, packed->samples) << "in memory and to a file alike";
}

TEST_F(Packs, TheFourHighestRowsAreEnoughMemoryWhenRowsFlow) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    for (const char* role : {"occlusion", "roughness", "metallic"}) r.sources[role] = save(std::string(role) + ".png", grey(1, 64, 2048));
    EXPECT_LT(planPack(r)->workingBytes, size_t(64) * 2048 * 3 / 2) << "strips, not whole maps";
}

#ifndef __SANITIZE_ADDRESS__ // which keeps what was freed
TEST_F(Packs, RowsThatFlowTakeNoMoreMemoryFromAMapSixteenTimesAsHigh) {
    const auto peak = [&](const std::string& name, int height) {
        std::vector<std::string> arguments{"pack", "--recipe", "orm", "--out", (folder / (name + "_packed.png")).string()};
        for (const char* role : {"occlusion", "roughness", "metallic"}) {
            const PackSource source = save(name + "_" + role + ".png", grey(1, 1024, height));
            arguments.insert(arguments.end(), {"--source", std::string(role) + "=" + source.file.string()});
        }
        return peakOf(arguments);
    };
    const size_t low = peak("low", 512), high = peak("high", 8192);
    // The whole maps as the files hold them are 24 MB more, and twice that with what they become.
    EXPECT_LT(high, low + (size_t{12} << 20)) << low << " and " << high;
    const Result<Image> packed = readImage(folder / "high_packed.png");
    ASSERT_TRUE(packed);
    EXPECT_EQ(packed->height, 8192);
}
#endif

TEST_F(Packs, OperationsAreDoneInOrder) {
    PackRequest r;
    Lane lane;
    lane.from = Lane::From::Map;
    lane.source = "mask";
    lane.ops = {{LaneOp::Kind::Invert}, {LaneOp::Kind::Remap, 0, 1, 0.2f, 0.6f}, {LaneOp::Kind::Limit, 0.3f, 0.5f}};
    r.recipe.lanes[0] = lane;
    const Image mask = grey(2);
    r.sources["mask"] = save("mask.png", mask);
    const auto packed = pack(r);
    ASSERT_TRUE(packed) << packed.error().sentence;
    for (int x = 0; x < 40; ++x) EXPECT_NEAR(packed->at(x, 7, 0), std::clamp(0.2f + 0.4f * (1 - mask.at(x, 7, 0)), 0.3f, 0.5f), 0.0021f);
}

TEST_F(Packs, ColorsAreDecodedIntoDataLanesAndKeptInColorLanes) {
    const Image color = sampleColors(32, 32, 3);
    PackRequest r;
    r.recipe = *findRecipe("colorheight");
    r.sources["base color"] = save("a_color.png", color, MapKind::Color);
    r.sources["height"] = save("a_height.png", grey(1, 32, 32));
    const auto kept = pack(r);
    ASSERT_TRUE(kept);
    for (int c = 0; c < 3; ++c) EXPECT_EQ(planeOf(*kept, c).values, planeOf(color, c).values);
    r.recipe.srgb = false;
    const auto linear = pack(r);
    EXPECT_NEAR(linear->at(5, 5, 0), srgbToLinear(color.at(5, 5, 0)), 0.003f);
}

TEST_F(Packs, SourcesOfOtherSizesAreResized) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    r.sources["occlusion"] = save("o.png", grey(0, 64, 64));
    r.sources["roughness"] = save("r.png", imageOf({Plane(16, 16, 0.5f)}, SampleType::U16));
    r.sources["metallic"] = save("m.png", grey(0, 64, 64));
    const auto plan = planPack(r);
    ASSERT_TRUE(plan);
    EXPECT_EQ(plan->width, 64);
    EXPECT_NEAR(pack(r)->at(33, 12, 1), 0.5f, 0.003f);
    r.recipe.size = 32;
    EXPECT_EQ(pack(r)->width, 32);
}

TEST_F(Packs, ResizingRowByRowGivesWhatResizingAWholeMapGives) {
    const Image o = grey(0, 48, 700), r = grey(1, 90, 40), m = grey(2, 3, 2), color = sampleColors(17, 33, 3);
    PackRequest request;
    request.recipe = *findRecipe("orm");
    request.sources = {{"occlusion", save("o.png", o)}, {"roughness", save("r.png", r)}, {"metallic", save("m.png", m)}};
    Lane luma;
    luma.from = Lane::From::Map, luma.source = "base color", luma.take = "luma";
    request.recipe.lanes[3] = luma;
    request.sources["base color"] = save("c.png", color, MapKind::Color);
    Plane light(17, 33);
    for (int y = 0; y < 33; ++y)
        for (int x = 0; x < 17; ++x)
            light.at(x, y) = 0.2126f * srgbToLinear(color.at(x, y, 0)) + 0.7152f * srgbToLinear(color.at(x, y, 1)) +
                             0.0722f * srgbToLinear(color.at(x, y, 2));
    for (const Filter filter : {Filter::Nearest, Filter::Box, Filter::Triangle, Filter::Lanczos})
        for (const int size : {0, 1, 64, 333, 1400}) {
            request.recipe.filter = filter, request.recipe.size = size;
            const auto plan = planPack(request);
            ASSERT_TRUE(plan && plan->flows);
            const auto packed = pack(request);
            ASSERT_TRUE(packed) << packed.error().sentence;
            auto to = [&](const Plane& p) { return resized(p, plan->width, plan->height, filter); };
            const Image whole = imageOf({to(planeOf(o, 0)), to(planeOf(r, 0)), to(planeOf(m, 0)), to(light)}, SampleType::U8);
            EXPECT_EQ(packed->samples, whole.samples) << nameOf(filter) << " to " << size;
        }
}

TEST_F(Packs, SourcesOfOtherSizesFlowToo) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    for (const char* role : {"occlusion", "roughness"}) r.sources[role] = save(std::string(role) + ".png", grey(1, 64, 4096));
    r.sources["metallic"] = save("metallic.png", grey(1, 32, 2048));
    EXPECT_LT(planPack(r)->workingBytes, size_t(64) * 4096 * 3 / 2) << "strips, not whole maps";
    r.recipe.lanes[2].ops = {{LaneOp::Kind::Blur}};
    EXPECT_FALSE(planPack(r)->flows) << "what reaches across the map needs it as a whole";
}

TEST_F(Packs, APreviewShowsInSmallWhatPackingGives) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    for (const char* role : {"occlusion", "roughness"}) r.sources[role] = save(std::string(role) + ".png", grey(3, 512, 256));
    const auto preview = packPreview(r, 64);
    ASSERT_TRUE(preview) << preview.error().sentence;
    EXPECT_EQ(preview->width, 64);
    EXPECT_EQ(preview->height, 32);
    EXPECT_EQ(preview->channels, 2) << "metallic has no map yet";
    // A blur reaches as far in proportion as in the map.
    r.recipe.lanes[1].ops = {{LaneOp::Kind::Blur}};
    r.recipe.lanes[1].ops[0].amount = 24;
    r.sources["metallic"] = r.sources["roughness"];
    const Plane full = resized(planeOf(*pack(r), 1), 64, 32, Filter::Box), small = planeOf(*packPreview(r, 64), 1);
    for (size_t i = 0; i < full.values.size(); ++i) EXPECT_NEAR(full.values[i], small.values[i], 0.03f);
    EXPECT_TRUE(packPreview({}, 64)->empty()) << "a recipe without any source";
}

TEST_F(Packs, MissingSourcesAndAlphaAreNamed) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    r.sources["roughness"] = save("r.png", grey(0));
    EXPECT_EQ(planPack(r).error().code, "pack.no-source");
    EXPECT_NE(planPack(r).error().sentence.find("occlusion"), std::string::npos);
    Lane lane;
    lane.from = Lane::From::Map;
    lane.source = "roughness";
    lane.take = "a";
    r.recipe = {};
    r.recipe.lanes[0] = lane;
    EXPECT_EQ(pack(r).error().code, "pack.take");
}

TEST_F(Packs, UnpackingTurnsTheRecipeBack) {
    const Image color = sampleColors(32, 32, 3), rough = grey(3, 32, 32);
    PackRequest r;
    r.recipe = *findRecipe("moh");
    for (const char* role : {"metallic", "occlusion", "height"}) r.sources[role] = save(std::string(role) + ".png", grey(1, 32, 32));
    r.sources["roughness"] = save("roughness.png", rough);
    ASSERT_TRUE(packToFile(r, folder / "setts_moh.png"));
    const auto apart = unpack(folder / "setts_moh.png", &r.recipe, folder / "apart");
    ASSERT_TRUE(apart);
    EXPECT_EQ(apart->size(), 4u);
    const auto back = readImage(folder / "apart" / "setts_roughness.png");
    ASSERT_TRUE(back) << back.error().sentence;
    EXPECT_EQ(back->samples, rough.samples) << "inverted twice";
    const auto plain = unpack(folder / "setts_moh.png", nullptr, folder / "plain");
    EXPECT_TRUE(std::filesystem::exists(folder / "plain" / "setts_moh_alpha.png"));
}

TEST_F(Packs, TwoComponentsOfANormalComeOutWithTheThird) {
    const Image normals = normalsFromHeight(sampleHeight(32, 32), {1, 0.1f});
    PackRequest r;
    r.recipe = *findRecipe("nrmmasks");
    r.sources["normal"] = save("a_normal.png", normals, MapKind::Normal);
    r.sources["mask"] = save("m.png", grey(1, 32, 32));
    r.sources["mask 2"] = save("m2.png", grey(2, 32, 32));
    ASSERT_TRUE(packToFile(r, folder / "a_nrmmasks.png"));
    const auto apart = unpack(folder / "a_nrmmasks.png", &r.recipe, folder / "apart");
    ASSERT_TRUE(apart);
    const auto back = readImage(folder / "apart" / "a_normal.png");
    ASSERT_TRUE(back);
    for (int c = 0; c < 3; ++c) EXPECT_GT(psnr(normals, *back, c), 40);
    const MipMeaning meaning = mipMeaningOf(r.recipe);
    EXPECT_EQ(meaning.normal[0], 0);
    EXPECT_EQ(meaning.normal[1], 1);
}

TEST_F(Packs, SetsOfAFolderAreFoundByPattern) {
    for (const char* name : {"tram_side_color.png", "tram_side_rough.png", "yard_color.png", "yard_rough.png", "notes_about.png"})
        save(name, grey(0, 8, 8));
    const auto sets = setsInFolder(folder, "*_{role}.png");
    ASSERT_TRUE(sets);
    ASSERT_EQ(sets->size(), 2u);
    EXPECT_EQ((*sets)[0].name, "tram_side");
    EXPECT_TRUE((*sets)[0].maps.contains("roughness"));
    EXPECT_EQ(setsInFolder(folder, "nonsense").error().code, "pattern.odd");
    EXPECT_EQ(setsInFolder(folder / "none", "*_{role}.png").error().code, "folder.missing");
}

TEST_F(Packs, HskPacksAFolderOfSetsAndTakesOneApart) {
    for (const char* set : {"yard", "wall"})
        for (const char* role : {"occlusion", "roughness", "metallic"}) save(std::string(set) + "_" + role + ".png", grey(1, 16, 16));
    const Ran packed = runHsk("pack --recipe orm --sets " + folder.string() + " --out " + (folder / "out").string());
    EXPECT_EQ(packed.code, 0) << packed.output;
    EXPECT_TRUE(std::filesystem::exists(folder / "out" / "yard_orm.png"));
    const Ran apart = runHsk("unpack " + (folder / "out" / "wall_orm.png").string() + " --recipe orm --out " + (folder / "apart").string());
    EXPECT_EQ(apart.code, 0) << apart.output;
    EXPECT_EQ(readImage(folder / "apart" / "wall_metallic.png")->samples, grey(1, 16, 16).samples);
    EXPECT_EQ(runHsk("pack --recipe nonsense --out x.png").code, 2);
}

TEST(Recipes, SurviveTheirFile) {
    for (Recipe r : builtInRecipes()) {
        r.lanes[0].ops.push_back({LaneOp::Kind::Curve, 0, 1, 0, 1, 4, {{0, 0}, {0.5f, 0.8f}, {1, 1}}});
        r.lanes[0].ops.push_back({LaneOp::Kind::Blur, 0, 1, 0, 1, 2.5f});
        const auto back = parseRecipe(recipeText(r), "test");
        ASSERT_TRUE(back) << back.error().sentence;
        EXPECT_EQ(recipeText(*back), recipeText(r));
        EXPECT_TRUE(*back == r) << r.name;
    }
}

TEST(Recipes, OddFilesAreRefusedWithThePlace) {
    EXPECT_FALSE(parseRecipe("{", "a"));
    EXPECT_FALSE(parseRecipe("{\"kind\": \"huestack project\"}", "a"));
    const auto odd =
        parseRecipe(R"({"kind": "huestack recipe", "lanes": {"green": {"map": "height", "ops": [{"op": "melt"}]}}})", "a.huerecipe");
    ASSERT_FALSE(odd);
    EXPECT_NE(odd.error().sentence.find("a.huerecipe"), std::string::npos);
    EXPECT_FALSE(parseRecipe(R"({"kind": "huestack recipe", "lanes": {}})", "a")) << "nothing to pack";
}

TEST(LaneOps, CurvesPassTheirPointsAndNeverOvershoot) {
    const LaneOp op{LaneOp::Kind::Curve, 0, 1, 0, 1, 4, {{0, 0}, {0.3f, 0.8f}, {0.6f, 0.8f}, {1, 1}}};
    for (const auto& [x, y] : op.points) EXPECT_NEAR(applied(op, x), y, 1e-6f);
    float before = 0;
    for (int i = 0; i <= 200; ++i) {
        const float y = applied(op, float(i) / 200);
        EXPECT_GE(y, before - 1e-6f);
        EXPECT_LE(y, 1 + 1e-6f);
        before = y;
    }
}

TEST(LaneOps, DilateFillsFromTheInsideAndBlurKeepsTheMean) {
    Plane p(32, 32, 0), inside(32, 32, 0);
    for (int y = 10; y < 20; ++y)
        for (int x = 10; x < 20; ++x) p.at(x, y) = 0.8f, inside.at(x, y) = 1;
    dilate(p, inside, 3);
    EXPECT_NEAR(p.at(8, 15), 0.8f, 1e-5f);
    EXPECT_EQ(p.at(5, 15), 0) << "beyond its reach";
    Plane q = sampleHeight(32, 32);
    double before = 0, after = 0;
    for (float v : q.values) before += v;
    blur(q, 3);
    for (float v : q.values) after += v;
    EXPECT_NEAR(before, after, 0.01);
}

RC_GTEST_PROP(LaneOps, InvertTwiceAndRemapThereAndBackChangeNothing, ()) {
    const float x = float(*rc::gen::inRange(-1000, 1000)) / 500, low = float(*rc::gen::inRange(-100, 0)) / 100,
                high = float(*rc::gen::inRange(1, 100)) / 50;
    const LaneOp there{LaneOp::Kind::Remap, 0, 1, low, high}, back{LaneOp::Kind::Remap, low, high, 0, 1}, invert{LaneOp::Kind::Invert};
    RC_ASSERT(std::fabs(applied(back, applied(there, x)) - x) < 1e-4f);
    RC_ASSERT(std::fabs(applied(invert, applied(invert, x)) - x) < 1e-5f);
}

} // namespace
} // namespace hue
