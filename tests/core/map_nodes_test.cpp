// What nodes that read maps give, and noises that repeat.
#include "core/compile/compile.h"
#include "core/make/bake.h"
#include "core/maps/map_levels.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// One output over the square, interleaved.
std::vector<float> over(const Project& p, const Id& node, const std::string& port, int size, const MapPtr& map = nullptr, double time = 0,
                        int* width = nullptr) {
    if (width) {
        const auto program = compileTap(p, masterOf(p), {node, port, ""}).program;
        *width = program->code[size_t(program->output("tap"))].width;
    }
    return overSquare(p, {node, port, ""}, size, map, time);
}

Project withMap() {
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.png", MapKind::Data, Wrap::Repeat, {}, {}}));
    return p;
}

class SeamlessNoise : public testing::TestWithParam<const char*> {};

TEST(MapNodes, TakeNoNumbersWhereTheyReadAMap) {
    Project p = bareProject();
    const Id image = add(p, "image");
    const Result<Project> next = edit::setConstant(p, "m", image, "map", Value::number(0.5f));
    ASSERT_FALSE(next);
    EXPECT_EQ(next.error().code, "edit.no-port");
    EXPECT_NE(next.error().sentence.find("takes a map"), std::string::npos);
}

TEST_P(SeamlessNoise, RepeatsAfterOneUvUnitAndDoesNotWithoutIt) {
    for (const char* seamless : {"yes", "no"}) {
        Project p = bareProject();
        const Id uv = add(p, "texcoord"), moved = add(p, "add", {{"in2", Value::vec2(1, 1)}});
        wire(p, {uv, "out", ""}, moved, "in1");
        // A scale that is not whole, so that it must be rounded.
        const Id here = add(p, GetParam(), {{"scale", Value::number(5.3f)}}, {{"seamless", seamless}}),
                 there = add(p, GetParam(), {{"scale", Value::number(5.3f)}}, {{"seamless", seamless}});
        wire(p, {moved, "out", ""}, there, "uv");
        const auto a = over(p, here, "out", 48), b = over(p, there, "out", 48);
        float worst = 0;
        for (size_t i = 0; i < a.size(); ++i) worst = std::max(worst, std::fabs(a[i] - b[i]));
        if (seamless[0] == 'y') EXPECT_LT(worst, 2e-4f);
        else EXPECT_GT(worst, 0.1f);
    }
}
INSTANTIATE_TEST_SUITE_P(Noises, SeamlessNoise, testing::Values("noise_2d", "fractal", "cell_noise", "worley_noise"),
                         [](const auto& i) { return std::string(i.param); });

TEST(MapNodes, HexTilingKeepsMeanAndContrast) {
    Project p = withMap();
    const auto map = std::make_shared<Map>(mapOf(sampleColors(64, 64, 3), MapKind::Data, Wrap::Repeat));
    const Id plain = add(p, "tiled_image", {{"tiling", Value::vec2(6, 6)}}, {{"map", "map"}}),
             scattered = add(p, "hex_tiled_image", {{"tiling", Value::vec2(6, 6)}}, {{"map", "map"}});
    auto facts = [&](const Id& node) {
        const auto v = over(p, node, "color", 384, map);
        double sum = 0, squares = 0;
        for (size_t i = 0; i < v.size(); i += 3) sum += v[i], squares += double(v[i]) * v[i];
        const double n = double(v.size() / 3);
        return std::pair{sum / n, std::sqrt(squares / n - sum / n * (sum / n))};
    };
    const auto [mean, spread] = facts(plain);
    const auto [hexMean, hexSpread] = facts(scattered);
    EXPECT_NEAR(hexMean, mean, 0.02);
    EXPECT_NEAR(hexSpread, spread, spread * 0.12);
}

TEST(MapNodes, HexTilingDoesNotRepeat) {
    Project p = withMap();
    const auto map = std::make_shared<Map>(mapOf(sampleColors(64, 64, 3), MapKind::Data, Wrap::Repeat));
    const Id node = add(p, "hex_tiled_image", {{"tiling", Value::vec2(4, 4)}}, {{"map", "map"}});
    const auto v = over(p, node, "color", 128, map);
    double moved = 0;
    for (int y = 0; y < 128; ++y)
        for (int x = 0; x < 96; ++x) moved += std::fabs(v[size_t((y * 128 + x) * 3)] - v[size_t((y * 128 + x + 32) * 3)]);
    EXPECT_GT(moved / (128 * 96), 0.03);
}

TEST(MapNodes, HexTiledNormalsAreUnitVectors) {
    Project p = withMap();
    Image flatish(32, 32, 3, SampleType::U8);
    for (size_t i = 0; i < flatish.samples.size(); i += 3)
        flatish.samples[i] = std::byte(170), flatish.samples[i + 1] = std::byte(110), flatish.samples[i + 2] = std::byte(245);
    const auto map = std::make_shared<Map>(mapOf(flatish, MapKind::Data, Wrap::Repeat));
    const auto v = over(p, add(p, "hex_tiled_normal_map", {}, {{"map", "map"}}), "out", 32, map);
    for (size_t i = 0; i < v.size(); i += 3) {
        const float x = v[i] * 2 - 1, y = v[i + 1] * 2 - 1, z = v[i + 2] * 2 - 1;
        EXPECT_NEAR(x * x + y * y + z * z, 1, 1e-4f);
    }
}

TEST(MapNodes, ASheetPlaysItsFramesInOrder) {
    // Two by two frames, each of one grey.
    Image sheet(16, 16, 1, SampleType::U8);
    for (int y = 0; y < 16; ++y)
        for (int x = 0; x < 16; ++x) sheet.samples[size_t(y * 16 + x)] = std::byte(50 * (1 + (y / 8) * 2 + x / 8));
    const auto map = std::make_shared<Map>(mapOf(sheet, MapKind::Data, Wrap::Repeat));
    Project p = withMap();
    const Id node =
        add(p, "sheet_player", {{"columns", Value::number(2)}, {"rows", Value::number(2)}, {"rate", Value::number(1)}}, {{"map", "map"}});
    for (int frame = 0; frame < 5; ++frame) {
        const auto v = over(p, node, "color", 8, map, frame + 0.5);
        EXPECT_NEAR(v[size_t(3 * (4 * 8 + 4))], 50.f * float(1 + frame % 4) / 255, 0.003f) << frame;
    }
}

// A frame is read as if it were a map of its own: whatever its neighbours hold, nothing of them shows, in any level down to the one where
// a frame is a single texel.
TEST(MapNodes, AFrameOfASheetHoldsNothingOfItsNeighbours) {
    const auto showsOnlyItsOwn = [](int columns, int rows, int width, int height, int size) {
        Image sheet(width, height, 1, SampleType::U8);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                sheet.samples[size_t(y * width + x)] =
                    std::byte(((2 * x + 1) * columns / (2 * width) + (2 * y + 1) * rows / (2 * height)) % 2 ? 255 : 0);
        const auto map = std::make_shared<Map>(mapOf(sheet, MapKind::Data, Wrap::Repeat));
        Project p = withMap();
        const Id node = add(p, "sheet_player",
                            {{"columns", Value::number(float(columns))}, {"rows", Value::number(float(rows))}, {"rate", Value::number(1)}},
                            {{"map", "map"}});
        for (int frame = 0; frame < 3; ++frame) {
            const float own = (frame % columns + frame / columns) % 2 ? 1.f : 0.f;
            const auto v = over(p, node, "color", size, map, frame + 0.5);
            for (size_t i = 0; i < v.size(); i += 3)
                ASSERT_NEAR(v[i], own, 1e-5f) << columns << " x " << rows << " at " << size << " pixels, frame " << frame << ", pixel "
                                              << i / 3;
        }
    };
    for (int size : {64, 32, 16, 8, 4, 2}) showsOnlyItsOwn(4, 4, 128, 128, size);
    for (int size : {40, 16, 12}) showsOnlyItsOwn(2, 3, 32, 48, size);
    // Frames whose edges lie within texels: what the texel's centre is in counts, while no smaller level mixes them.
    for (int size : {64, 40}) showsOnlyItsOwn(3, 1, 64, 32, size);
}

TEST(MapNodes, AFrameOfASheetIsTheSameInsideAsAMapOfItsOwn) {
    const Image colors = sampleColors(32, 32, 3);
    Image sheet(64, 32, 3, SampleType::U8);
    for (int y = 0; y < 32; ++y)
        for (int x = 0; x < 64; ++x)
            for (int c = 0; c < 3; ++c) sheet.samples[size_t((y * 64 + x) * 3 + c)] = colors.samples[size_t((y * 32 + x % 32) * 3 + c)];
    Project p = withMap();
    const Id node =
        add(p, "sheet_player", {{"columns", Value::number(2)}, {"rows", Value::number(1)}, {"rate", Value::number(0)}}, {{"map", "map"}});
    const auto own = std::make_shared<Map>(mapOf(colors, MapKind::Data, Wrap::Clamp));
    const auto v = over(p, node, "color", 40, std::make_shared<Map>(mapOf(sheet, MapKind::Data, Wrap::Repeat)));
    for (int y = 0; y < 40; ++y)
        for (int x = 0; x < 40; ++x) {
            float rgba[4];
            own->sample((float(x) + 0.5f) / 40, (float(y) + 0.5f) / 40, 0, rgba);
            for (int c = 0; c < 3; ++c) EXPECT_NEAR(v[size_t((y * 40 + x) * 3 + c)], rgba[c], 1e-4f);
        }
}

TEST(MapNodes, NearbyReadsAComputedWireAtAShiftedUv) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), sine = add(p, "sine"), near = add(p, "nearby", {{"offset", Value::vec2(0.25f, 0)}});
    wire(p, {uv, "out", "x"}, sine, "in");
    wire(p, {sine, "out", ""}, near, "in");
    const auto v = over(p, near, "out", 16);
    EXPECT_NEAR(v[5], std::sin(5.5f / 16 + 0.25f), 1e-5f);
}

TEST(MapNodes, SizesAndLevelsAreThoseOfTheMap) {
    Project p = withMap();
    const auto map = std::make_shared<Map>(mapOf(sampleColors(64, 32, 3), MapKind::Data, Wrap::Repeat));
    EXPECT_EQ(over(p, add(p, "map_size", {}, {{"map", "map"}}), "out", 4, map)[0], 64);
    EXPECT_EQ(over(p, add(p, "texel_size", {}, {{"map", "map"}}), "out", 4, map)[1], 1 / 32.f);
    const auto last = over(p, add(p, "image_level", {{"level", Value::number(10)}}, {{"map", "map"}}), "color", 8, map);
    for (size_t i = 3; i < last.size(); i += 3) EXPECT_EQ(last[i], last[0]) << "the last level is one texel";
}

TEST(MapNodes, RampAndSplitPassTheirValues) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord");
    const Id ramp = add(
        p, "ramp",
        {{"value1", Value::number(0)}, {"value2", Value::number(1)}, {"value3", Value::number(0.5f)}, {"position2", Value::number(0.5f)}},
        {{"stops", "3"}});
    wire(p, {uv, "out", "x"}, ramp, "in");
    const auto v = over(p, ramp, "out", 32);
    EXPECT_NEAR(v[15], 15.5f / 16, 1e-4f);
    EXPECT_NEAR(v[31], 1 - 15.5f / 16 * 0.5f, 1e-4f);
    const Id split = add(p, "split", {{"value1", Value::number(0.2f)}, {"value2", Value::number(0.9f)}});
    const auto s = over(p, split, "out", 32);
    EXPECT_FLOAT_EQ(s[3], 0.2f);
    EXPECT_FLOAT_EQ(s[28], 0.9f);
}

TEST(MapNodes, TriplanarProjectionShowsEachSideItsOwnWay) {
    // On the flat square, which looks along Z, the map lies in X and Y.
    Project p = withMap();
    const auto map = std::make_shared<Map>(mapOf(imageOf({sampleHeight(32, 32)}, SampleType::F32), MapKind::Data, Wrap::Repeat));
    const auto v = over(p, add(p, "triplanar_projection", {}, {{"map", "map"}}), "color", 32, map);
    const Plane h = sampleHeight(32, 32);
    for (int x = 0; x < 32; ++x) EXPECT_NEAR(v[size_t((5 * 32 + x) * 3)], h.at(x, 5), 1e-3f);
}

} // namespace
} // namespace hue
