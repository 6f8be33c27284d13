// Rules that stand once: takes, pasting, conversions, sources of recipes, kinds of parameters, costs, passes.
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/document/parameter_kinds.h"
#include "core/evaluate/evaluator.h"
#include "core/image_files/image_file.h"
#include "core/image_files/picture_file.h"
#include "core/maps/conversions.h"
#include "core/mesh/mesh.h"
#include "core/pack/recipe.h"
#include "core/pack/recipe_sources.h"
#include "core/program/passes/passes.h"
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

TEST(Takes, ThatFitAreTheSameEverywhere) {
    for (int from = 1; from <= 4; ++from)
        for (int to = 0; to <= 4; ++to) {
            const auto take = fittingTake(from, to);
            if (to == 1 && from > 1) {
                EXPECT_FALSE(take) << "a color into one number has no silent rule";
                for (const std::string& t : singleTakes(from)) EXPECT_EQ(widthOfTake(t, from), 1) << t;
                continue;
            }
            ASSERT_TRUE(take);
            EXPECT_EQ(widthOfTake(*take, from), to == 0 || from < to ? from : to) << from << " into " << to;
        }
    EXPECT_FALSE(holds(singleTakes(2), "luma")) << "brightness needs three components";
    EXPECT_TRUE(holds(singleTakes(3), "luma"));
}

TEST(Conversions, StandInTheOrderOfTheirNumbersAndRefuseWhatTheyCannotUse) {
    for (size_t i = 0; i < conversions().size(); ++i) {
        const ConversionDef& c = conversions()[i];
        EXPECT_EQ(size_t(c.what), i) << c.key;
        EXPECT_EQ(findConversion(c.key), &c);
        const Image grey = sampleColors(16, 16, 1), normals = normalsFromHeight(sampleHeight(16, 16), {1, 0.05f});
        const auto fromGrey = convert(c.what, grey, {});
        if (c.fromNormals) { EXPECT_EQ(fromGrey.error().code, "convert.channels") << c.key; }
        ConversionSettings settings;
        settings.other = &normals;
        const auto made = convert(c.what, c.fromNormals ? normals : grey, settings);
        ASSERT_TRUE(made) << c.key;
        EXPECT_EQ(made->width, 16) << c.key;
    }
    EXPECT_EQ(convert(Conversion::Join, normalsFromHeight(sampleHeight(8, 8), {}), {}).error().code, "convert.other");
}

TEST(Conversions, OcclusionLooksAsFarWhoeverAsks) {
    // A wall of which the shade reaches a tenth of the map's width, whatever that is in metres.
    Plane height(100, 20, 0.f);
    for (int y = 0; y < 20; ++y)
        for (int x = 48; x < 52; ++x) height.at(x, y) = 1;
    for (float width : {1.f, 8.f}) {
        const Plane sky = occlusionFromHeight(height, {width, width * 0.1f});
        EXPECT_LT(sky.at(45, 10), 0.9f) << width;
        EXPECT_NEAR(sky.at(30, 10), 1, 0.02f) << width << ": out of reach";
    }
}

TEST(RecipeSources, AreOfTheChosenMapsSetElseAloneInTheirRole) {
    Project p = bareProject();
    const auto put = [&](const char* id, const char* set, const char* role) {
        MapFile m{id, id, "x.png", MapKind::Data, Wrap::Repeat, {}, {}};
        m.set = set;
        m.role = role;
        p = *edit::addMap(p, m);
    };
    put("a_rough", "a", "roughness"), put("a_metal", "a", "metallic"), put("a_occ", "a", "occlusion");
    put("b_rough", "b", "roughness"), put("lone", "", "height");
    const Recipe orm = *findRecipe("orm");
    EXPECT_EQ(recipeSources(p, orm, "a_metal", {}),
              (std::map<std::string, Id>{{"roughness", "a_rough"}, {"metallic", "a_metal"}, {"occlusion", "a_occ"}}));
    EXPECT_EQ(recipeSources(p, orm, "b_rough", {}), (std::map<std::string, Id>{{"roughness", "b_rough"}})) << "no set borrows from another";
    const auto alone = recipeSources(p, orm, "lone", {});
    EXPECT_EQ(alone.count("roughness"), 0u) << "two hold it";
    EXPECT_EQ(alone.at("metallic"), "a_metal");
    const auto sets = packingsForSets(p, orm);
    ASSERT_EQ(sets.size(), 1u) << "only a holds all of it";
    EXPECT_EQ(sets[0].sources.at("occlusion"), "a_occ");
    EXPECT_TRUE(packingsForSets(*edit::addPacking(p, sets[0]), orm).empty()) << "and once is enough";
}

TEST(ParameterKinds, SayTheSameEverywhere) {
    for (size_t i = 0; i < parameterKinds().size(); ++i) {
        const ParameterKind& k = parameterKinds()[i];
        EXPECT_EQ(size_t(k.type), i) << k.key;
        Parameter p;
        p.type = k.type;
        EXPECT_EQ(p.width(), k.width);
        // A constant of that width becomes that kind again.
        if (k.width && !p.isNamed() && k.type != ParameterType::Integer) { EXPECT_EQ(parameterTypeFor(k.width, k.meaning == Meaning::Color), k.type) << k.key; }
        // What the shader would declare has as many components; a finish is compiled in, and of a set it knows the maps.
        const std::string glsl(k.glsl);
        const bool named = k.type == ParameterType::Finish || k.type == ParameterType::MapSet;
        EXPECT_EQ(named ? "" : k.width == 0 ? "sampler2D" : k.width == 1 ? "float" : "vec" + std::to_string(k.width), glsl);
    }
}

RC_GTEST_PROP(Costs, OfCardsAddUpToThoseOfTheSurface, ()) {
    const Project p = randomGraph(*rc::gen::arbitrary<uint32_t>(), *rc::gen::inRange(1, 40));
    const Compilation c = compileSurface(p, masterOf(p));
    const Cost whole = costOf(*c.program, nullptr, {});
    int operations = 0, fetches = 0;
    for (const auto& [id, cost] : c.cards) operations += cost.operations, fetches += cost.fetches;
    for (const Instruction& i : c.program->code)
        if (i.origin < 0) operations += costOf(i).operations, fetches += costOf(i).fetches;
    RC_ASSERT(operations == whole.operations[0] + whole.operations[1] + whole.operations[2] + whole.operations[3]);
    RC_ASSERT(fetches == whole.fetches);
}

TEST(Costs, WhatReadsTheSceneIsAFetchOfItsCardAsOfTheSurface) {
    Project p = bareProject();
    const Id around = add(p, "surroundings");
    channel(p, {around, "out", ""}, "emissive");
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_EQ(c.cards.at(around).fetches, 1);
    EXPECT_EQ(costOf(*c.program, nullptr, {}).fetches, 1);
}

RC_GTEST_PROP(Costs, OfTheCardsAddUpToTheSurfaces, ()) {
    const Project p = randomGraph(*rc::gen::arbitrary<uint32_t>(), *rc::gen::inRange(1, 40));
    const Compilation c = compileSurface(p, masterOf(p));
    const Cost whole = costOf(*c.program, nullptr, {});
    int fetches = 0, perPixel = 0, most = 0;
    for (const auto& [id, card] : c.cards) {
        RC_ASSERT(masterOf(p).graph.find(id));
        RC_ASSERT(card.operations >= 0 && card.fetches >= 0);
        fetches += card.fetches;
        perPixel += card.operations;
        most = std::max(most, card.operations);
    }
    int all = 0;
    for (int rate : whole.operations) all += rate;
    RC_ASSERT(fetches == whole.fetches);
    // Every operation is one card's, whatever its rate, or the surface's own (as the default of a channel is).
    RC_ASSERT(perPixel <= all);
    RC_ASSERT(most <= all);
    if (!c.cards.empty() && all > 0) RC_ASSERT(perPixel > 0);
}

std::vector<float> valuesOf(std::shared_ptr<const Program> program, const std::string& output) {
    const Evaluator evaluator(program);
    const Frame frame = evaluator.frame({});
    std::vector<float> out;
    Work one;
    one.threads = 1;
    evaluator.grid(
        frame, {output}, 16, 16, FlatSquare(16, 16),
        [&](int, int, int columns, int rows, const float* const* planes) {
            for (int r = 0; r < rows; ++r)
                for (int i = 0; i < columns; ++i) out.push_back(planes[0][r * kBlockColumns + i]);
        },
        one);
    return out;
}

RC_GTEST_PROP(Passes, LeaveTheValuesAsTheyAreWhicheverIsLeftOut, ()) {
    const Project p = randomGraph(*rc::gen::arbitrary<uint32_t>(), *rc::gen::inRange(1, 25));
    const std::vector<float> wanted = valuesOf(compileSurface(p, masterOf(p)).program, "roughness");
    for (const PassDef& pass : passes()) {
        PassOptions options;
        options.without = {std::string(pass.name)};
        const auto without = compileSurface(p, masterOf(p), Constants::Folded, options).program;
        RC_ASSERT(validate(*without).empty());
        const std::vector<float> got = valuesOf(without, "roughness");
        RC_ASSERT(got.size() == wanted.size());
        for (size_t i = 0; i < got.size(); ++i) RC_ASSERT(std::fabs(got[i] - wanted[i]) <= 1e-5f * (1 + std::fabs(wanted[i])));
    }
}

TEST(Passes, AreListedAsTheyRunWithWhatTheyLeave) {
    Project p = bareProject();
    const Id two = add(p, "add", {{"in1", Value::number(1)}, {"in2", Value::number(2)}}),
             same = add(p, "add", {{"in1", Value::number(1)}, {"in2", Value::number(2)}});
    const Id product = add(p, "multiply");
    wire(p, {two, "out", ""}, product, "in1");
    wire(p, {same, "out", ""}, product, "in2");
    channel(p, {product, "out", ""}, "roughness");
    std::vector<std::string> ran;
    size_t most = 0, least = 1000;
    PassOptions options;
    options.log = [&](std::string_view pass, const Program& program, bool) {
        ran.emplace_back(pass);
        most = std::max(most, program.code.size());
        least = std::min(least, program.code.size());
    };
    const auto compiled = compileSurface(p, masterOf(p), Constants::Folded, options);
    for (const PassDef& pass : passes()) EXPECT_TRUE(holds(ran, std::string(pass.name))) << pass.name;
    EXPECT_LT(least, most);
    const int32_t rough = compiled.program->output("roughness");
    EXPECT_EQ(compiled.program->code[size_t(rough)].op, Op::Constant) << "9, found before anything runs";
}

TEST(Recipes, KeepFieldsThatTheyDoNotKnowAtEveryObject) {
    const auto read = parseRecipe(R"({"kind": "huestack recipe", "format": 1, "name": "later", "xLater": 1,
        "lanes": {"red": {"map": "roughness", "xLater": 2, "ops": [{"op": "invert", "xLater": 3}]}}})",
                                  "later.huerecipe");
    ASSERT_TRUE(read) << read.error().sentence;
    const std::string text = recipeText(*read);
    for (const char* kept : {"\"xLater\": 1", "\"xLater\": 2", "\"xLater\": 3"}) EXPECT_NE(text.find(kept), std::string::npos) << kept;
}

} // namespace
} // namespace hue
