// Facts of the picture comparison.
#include "core/compare/compare.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

struct Screen {
    int width, height;
    std::vector<uint8_t> rgba;
    Screen(int w, int h, std::array<uint8_t, 3> color) : width(w), height(h) {
        for (int i = 0; i < w * h; ++i) rgba.insert(rgba.end(), {color[0], color[1], color[2], 255});
    }
    PictureView view() const { return {width, height, rgba.data()}; }
    uint8_t& at(int x, int y, int c) { return rgba[size_t((y * width + x) * 4 + c)]; }
};

TEST(Ciede2000, GivesThePublishedTestPairs) {
    // From the supplementary data of Sharma, Wu and Dalal 2005.
    struct Pair {
        Lab a, b;
        float wanted;
    };
    static const Pair pairs[] = {{{50, 2.6772f, -79.7751f}, {50, 0, -82.7485f}, 2.0425f},
                                 {{50, 3.1571f, -77.2803f}, {50, 0, -82.7485f}, 2.8615f},
                                 {{50, 2.8361f, -74.0200f}, {50, 0, -82.7485f}, 3.4412f},
                                 {{50, -1.3802f, -84.2814f}, {50, 0, -82.7485f}, 1.0000f},
                                 {{50, 2.5f, 0}, {50, 0, -2.5f}, 4.3065f},
                                 {{50, 2.5f, 0}, {73, 25, -18}, 27.1492f},
                                 {{50, 2.5f, 0}, {61, -5, 29}, 22.8977f},
                                 {{50, 2.5f, 0}, {56, -27, -3}, 31.9030f},
                                 {{50, 2.5f, 0}, {58, 24, 15}, 19.4535f},
                                 {{60.2574f, -34.0099f, 36.2677f}, {60.4626f, -34.1751f, 39.4387f}, 1.2644f},
                                 {{22.7233f, 20.0904f, -46.6940f}, {23.0331f, 14.9730f, -42.5619f}, 2.0373f},
                                 {{90.9257f, -0.5406f, -0.9208f}, {88.6381f, -0.8985f, -0.7239f}, 1.5381f},
                                 {{2.0776f, 0.0795f, -1.1350f}, {0.9033f, -0.0636f, -0.5514f}, 0.9082f}};
    for (const Pair& p : pairs) {
        EXPECT_NEAR(ciede2000(p.a, p.b), p.wanted, 1e-4f);
        EXPECT_NEAR(ciede2000(p.b, p.a), p.wanted, 1e-4f) << "the formula is symmetric";
    }
}

TEST(Comparison, OfAPictureWithItselfIsNothing) {
    const Screen s(64, 40, {200, 90, 20});
    const Comparison c = compare(s.view(), s.view());
    EXPECT_EQ(c.mean, 0);
    EXPECT_EQ(c.worst, 0);
    EXPECT_EQ(c.flip, 0);
}

TEST(Comparison, OneWrongPixelDecidesNothingAndAWrongCornerDecidesTheWorst) {
    const Screen a(100, 100, {90, 90, 90});
    Screen pixel = a, corner = a;
    for (int c = 0; c < 3; ++c) pixel.at(5, 5, c) = 255;
    for (int y = 0; y < 10; ++y)
        for (int x = 0; x < 10; ++x) corner.at(x, y, 0) = 255;
    EXPECT_LT(compare(a.view(), pixel.view()).worst, 0.1f);
    EXPECT_GT(compare(a.view(), corner.view()).worst, 20);
    EXPECT_LT(compare(a.view(), corner.view()).mean, 1);
}

TEST(Flip, IsFullForBlackAgainstWhiteAndGrowsWithTheDifference) {
    const Screen black(48, 48, {0, 0, 0}), white(48, 48, {255, 255, 255}), grey(48, 48, {128, 128, 128}), near(48, 48, {134, 128, 128});
    auto flip = [](const Screen& a, const Screen& b) { return compare(a.view(), b.view()).flip; };
    EXPECT_GT(flip(black, white), 0.9f);
    EXPECT_LT(flip(grey, near), flip(grey, black));
    EXPECT_GT(flip(grey, near), 0);
}

TEST(Flip, ForgivesNoiseThatTheEyeDoesNotResolve) {
    // The same difference as fine checks and as one half of the picture.
    const Screen flat(96, 96, {128, 128, 128});
    Screen fine = flat, coarse = flat;
    for (int y = 0; y < 96; ++y)
        for (int x = 0; x < 96; ++x)
            for (int c = 0; c < 3; ++c) {
                fine.at(x, y, c) = uint8_t(128 + ((x + y) % 2 ? 12 : -12));
                coarse.at(x, y, c) = uint8_t(128 + (x < 48 ? 12 : -12));
            }
    auto flip = [&](const Screen& s) { return compare(flat.view(), s.view()).flip; };
    EXPECT_LT(flip(fine), flip(coarse) * 0.8f);
}

TEST(Difference, ShowsTheGainAndASplitShowsBothSides) {
    const Screen a(20, 4, {100, 100, 100}), b(20, 4, {110, 100, 95});
    const auto difference = differencePicture(a.view(), b.view(), 4);
    EXPECT_EQ(difference[0], 40);
    EXPECT_EQ(difference[1], 0);
    EXPECT_EQ(difference[2], 20);
    const auto split = splitPicture(a.view(), b.view(), 0.25f);
    EXPECT_EQ(split[4 * 4], 100);
    EXPECT_EQ(split[5 * 4], 110);
}

TEST(Histogram, CountsEveryPixelOnce) {
    Screen s(10, 10, {0, 0, 255});
    for (int i = 0; i < 25; ++i) s.rgba[size_t(i) * 4] = 255;
    const Histogram h = histogramOf(s.view());
    EXPECT_FLOAT_EQ(h.share[0][0], 0.75f);
    EXPECT_FLOAT_EQ(h.share[0][Histogram::kBins - 1], 0.25f);
    EXPECT_FLOAT_EQ(h.share[2][Histogram::kBins - 1], 1);
}

TEST(Photograph, IsCutToTheShapeAndKeepsItsMiddle) {
    Screen wide(200, 50, {10, 10, 10});
    for (int y = 0; y < 50; ++y)
        for (int x = 75; x < 125; ++x) wide.at(x, y, 1) = 200;
    const auto out = fitted(wide.view(), 20, 20);
    for (size_t i = 0; i < 400; ++i) ASSERT_NEAR(out[i * 4 + 1], 200, 1) << "only the middle square is left";
}

} // namespace
} // namespace hue
