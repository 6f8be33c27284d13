// Channels of visible pixels by the evaluator, from made-up attributes.
#include "core/compile/compile.h"
#include "core/images/map.h"
#include "core/surface/picture_channels.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// A flat patch seen face-on whose UVs grow by `step` a pixel; the right half, if `torn`, lies elsewhere in UV.
AttributePicture patch(int width, int height, float step, bool torn) {
    AttributePicture a;
    a.width = a.wholeWidth = width;
    a.height = a.wholeHeight = height;
    for (auto& plane : a.planes) plane.resize(size_t(width) * size_t(height));
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const size_t i = size_t(y) * size_t(width) + size_t(x);
            const float u = float(x) * step + (torn && x >= width / 2 + 1 ? 7.3f : 0), v = float(y) * step;
            a.planes[0][i] = {float(x) * 0.01f, float(y) * 0.01f, 0, 1};
            a.planes[1][i] = {0, 0, 1, u};
            a.planes[2][i] = {1, 0, 0, v};
            a.planes[3][i] = {0, 1, 0, 0.5f};
            a.planes[4][i] = {u, v, step, 0};
            a.planes[5][i] = {1, 1, 1, 1};
            a.planes[6][i] = {0, step, 0.01f, 0};
            a.planes[7][i] = {0, 0, 0.01f, 0};
        }
    return a;
}

std::vector<uint32_t> allOf(const AttributePicture& a) {
    std::vector<uint32_t> out;
    for (uint32_t i = 0; i < uint32_t(a.width * a.height); ++i) out.push_back(i);
    return out;
}

TEST(PixelEvaluation, GivesEachPixelItsOwnAttributes) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord");
    const Evaluator e(compileTap(p, masterOf(p), {uv, "out", ""}).program);
    for (bool torn : {false, true}) {
        const AttributePicture a = patch(13, 7, 0.05f, torn);
        const PixelEvaluation evaluation(a, allOf(a), {0, 0, 5});
        const auto values = evaluation.output(e, e.frame({}), "tap");
        ASSERT_EQ(values.size(), 13u * 7);
        for (size_t i = 0; i < values.size(); ++i) {
            EXPECT_EQ(values[i][0], a.planes[1][i][3]);
            EXPECT_EQ(values[i][1], a.planes[2][i][3]);
        }
    }
}

TEST(PixelEvaluation, ReadsMapsAtTheLevelOfThePixelsOwnSlopeAlsoBesideATear) {
    // Checks of single texels: at level 0 black or white, one level up an even grey.
    constexpr int size = 16;
    std::vector<std::byte> texels;
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x)
            for (int c = 0; c < 4; ++c) texels.push_back(std::byte((x + y) & 1 ? 255 : 0));
    auto map = std::make_shared<Map>(size, size, TexelFormat::U8, false, Wrap::Repeat, std::move(texels));
    map->makeMips();
    Project p = bareProject();
    p = *edit::addMap(p, {"t", "checks", "checks.png", MapKind::Data, Wrap::Repeat, {}, {}});
    const Id image = add(p, "image", {}, {{"map", "t"}});
    const Evaluator e(compileTap(p, masterOf(p), {image, "color", "r"}).program);
    FrameInputs inputs;
    inputs.map = [&](const MapSlot&) { return map; };
    const Frame frame = e.frame(inputs);
    // Two texels a pixel need level 1: grey everywhere, at the tear as well.
    const AttributePicture far = patch(12, 6, 2.f / size, true);
    for (const auto& v : PixelEvaluation(far, allOf(far), {0, 0, 5}).output(e, frame, "tap")) EXPECT_NEAR(v[0], 0.5f, 0.01f);
    // A small fraction of a texel a pixel needs level 0; across the tear nothing may become grey.
    AttributePicture near = patch(12, 6, 0.002f, true);
    for (auto* plane : {&near.planes[1], &near.planes[2]})
        for (auto& texel : *plane) texel[3] += 0.5f / size; // the middle of a texel
    int grey = 0;
    for (const auto& v : PixelEvaluation(near, allOf(near), {0, 0, 5}).output(e, frame, "tap")) grey += v[0] > 0.45f && v[0] < 0.55f;
    EXPECT_LE(grey, 6);
}

TEST(PixelEvaluation, PacksBrokenAndOutOfRangeChannelsWithTheirMarks) {
    Project p = bareProject();
    channel(p, {add(p, "divide", {{"in2", Value::number(0)}}), "out", ""}, "roughness");
    const Evaluator broken(compileSurface(p, masterOf(p)).program);
    Project q = *edit::setChannelConstant(bareProject(), "m", "metallic", Value::number(1.5f));
    const Evaluator outside(compileSurface(q, masterOf(q)).program);
    const AttributePicture a = patch(4, 4, 0.1f, false);
    const PixelEvaluation evaluation(a, {5}, {0, 0, 5});
    ChannelPicture channels;
    channels.resize(4, 4);
    ASSERT_TRUE(evaluation.channels(broken, broken.frame({}), {}, 2, channels));
    EXPECT_TRUE(channels.at(5).flags & kBroken);
    EXPECT_TRUE(std::isnan(channels.at(5).roughness)) << "what is no number stays none";
    EXPECT_EQ((channels.at(5).flags >> 8) & 255, 2u) << "the slot";
    EXPECT_EQ(channels.at(6).flags, 0u) << "only the pixel that was asked for";
    ASSERT_TRUE(evaluation.channels(outside, outside.frame({}), {}, 0, channels));
    EXPECT_TRUE(channels.at(5).flags & kOutside);
    EXPECT_FALSE(channels.at(5).flags & kBroken);
    EXPECT_FLOAT_EQ(channels.at(5).metallic, 1.5f) << "the value itself stays as it is";
}

} // namespace
} // namespace hue
