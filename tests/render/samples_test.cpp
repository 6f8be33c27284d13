// Several samples of a pixel, against a picture of many more pixels.
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <cmath>

namespace hue {
namespace {

using namespace test;

TEST(Samples, LieEvenlyOverThePixelHoweverManyThereAre) {
    EXPECT_EQ(sampleOffset(0), (std::array<float, 2>{0, 0})) << "one sample is the centre's";
    for (const int count : {4, 16, 64, 256}) {
        int quarter[4] = {};
        double mean[2] = {};
        for (int k = 0; k < count; ++k) {
            const auto o = sampleOffset(k);
            for (int c = 0; c < 2; ++c) {
                ASSERT_GE(o[size_t(c)], -0.5f);
                ASSERT_LT(o[size_t(c)], 0.5f);
                mean[c] += o[size_t(c)] / count;
            }
            ++quarter[(o[0] >= 0) + 2 * (o[1] >= 0)];
        }
        for (int q : quarter) EXPECT_NEAR(q, count / 4, std::max(1, count / 16)) << count;
        for (double m : mean) EXPECT_NEAR(m, 0, std::max(0.03, 1.6 / count)) << count;
    }
}

/// The mean distance to a picture of sixteen times the pixels a side, of those that an edge goes through.
double apart(const RenderedPicture& picture, const RenderedPicture& large, int times) {
    double sum = 0;
    int edges = 0;
    for (int y = 0; y < picture.height; ++y)
        for (int x = 0; x < picture.width; ++x)
            for (int c = 0; c < 3; ++c) {
                double mean = 0;
                int least = 255, most = 0;
                for (int j = 0; j < times; ++j)
                    for (int i = 0; i < times; ++i) {
                        const int v = large.rgba[size_t(((y * times + j) * large.width + x * times + i) * 4 + c)];
                        mean += double(v) / (times * times);
                        least = std::min(least, v);
                        most = std::max(most, v);
                    }
                if (most - least < 30) continue;
                ++edges;
                sum += std::fabs(mean - picture.rgba[size_t((y * picture.width + x) * 4 + c)]);
            }
    EXPECT_GT(edges, 100);
    return sum / edges;
}

TEST(Samples, BringEdgesNearerToWhatManyPixelsShow) {
    Project p = bareProject();
    SurfaceSettings unlit = p.masters[0]->surface;
    unlit.unlit = true;
    p = *edit::setSurface(p, "m", unlit);
    // Fine stripes over a ball: edges everywhere.
    const Id uv = add(p, "texcoord"), many = add(p, "multiply", {{"in2", Value::number(9)}}), part = add(p, "fract"),
             step = add(p, "step", {});
    wire(p, {uv, "out", "x"}, many, "in1");
    wire(p, {many, "out", ""}, part, "in");
    const NodeDef* def = findNodeDef("step");
    ASSERT_TRUE(def);
    wire(p, {part, "out", ""}, step, std::string(def->inputs[0].key));
    channel(p, {step, std::string(def->outputs[0].key), ""}, "base_color");
    Assets assets;
    LookCache looks;
    RenderSettings s;
    s.width = s.height = 64;
    s.tone = ToneCurve::Linear;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    RenderSettings fine = s;
    fine.width = fine.height = 64 * 16;
    const auto large = Gl::renderer().render(dressed, fine);
    ASSERT_TRUE(large);
    std::map<int, double> distance;
    for (const int samples : {1, 4, 16, 64}) {
        const auto picture = renderWithSamples(Gl::renderer(), dressed, s, samples);
        ASSERT_TRUE(picture);
        ASSERT_EQ(picture->width, 64);
        distance[samples] = apart(*picture, *large, 16);
    }
    EXPECT_LT(distance[4], distance[1] * 0.7);
    EXPECT_LT(distance[16], distance[4] * 0.7);
    EXPECT_LT(distance[64], distance[16]);
}

TEST(Sparkle, OfFineBumpsOnASmoothMetalIsHeldDown) {
    // Bumps about as fine as pixels: with one sample a pixel each either mirrors a lamp or does not. What many samples show is the truth.
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::number(90)}}),
             normal = add(p, "height_to_normal", {{"scale", Value::number(0.002f)}}), turned = add(p, "normal_map");
    wire(p, {noise, "out", ""}, normal, "in");
    wire(p, {normal, "out", ""}, turned, "in");
    channel(p, {turned, "out", ""}, "normal");
    p = *edit::setChannelConstant(p, "m", "metallic", Value::number(1));
    p = *edit::setChannelConstant(p, "m", "roughness", Value::number(0.08f));
    p = *edit::setChannelConstant(p, "m", "base_color", Value::vec3(0.9f, 0.9f, 0.9f));
    Assets assets;
    LookCache looks;
    RenderSettings s;
    s.width = s.height = 96;
    s.light = "sodium-shed";
    s.tone = ToneCurve::Linear;
    s.exposure = -1;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    const auto one = renderWithSamples(Gl::renderer(), dressed, s, 1), many = renderWithSamples(Gl::renderer(), dressed, s, 64);
    ASSERT_TRUE(one && many);
    int sparkling = 0, lit = 0;
    for (size_t i = 0; i < one->rgba.size(); i += 4) {
        lit += many->rgba[i + 1] != 0x77;
        sparkling += int(one->rgba[i + 1]) > int(many->rgba[i + 1]) + 80;
    }
    RecordProperty("sparkling", sparkling);
    EXPECT_GT(lit, 2000);
    EXPECT_LT(sparkling, lit / 200) << "pixels that flash out of what is there";
}

TEST(Samples, LeaveWhatHasNoEdgeAsItIs) {
    Project p = *edit::setChannelConstant(bareProject(), "m", "base_color", Value::vec3(0.2f, 0.5f, 0.7f));
    SurfaceSettings unlit = p.masters[0]->surface;
    unlit.unlit = true;
    p = *edit::setSurface(p, "m", unlit);
    Assets assets;
    LookCache looks;
    RenderSettings s;
    s.width = s.height = 48;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    const auto one = renderWithSamples(Gl::renderer(), dressed, s, 1), many = renderWithSamples(Gl::renderer(), dressed, s, 16);
    ASSERT_TRUE(one && many);
    const size_t middle = (24 * 48 + 24) * 4;
    for (size_t c = 0; c < 3; ++c) EXPECT_EQ(one->rgba[middle + c], many->rgba[middle + c]);
}

} // namespace
} // namespace hue
