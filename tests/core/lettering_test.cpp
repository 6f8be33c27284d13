// Words as a picture that lies on something.
#include "core/maps/glyphs.h"
#include "core/maps/lettering.h"
#include "core/maps/mask.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

/// Share of a region, in shares of the picture, that letters cover.
double covered(const Image& image, float left = 0, float top = 0, float right = 1, float bottom = 1) {
    double sum = 0, count = 0;
    for (int y = int(top * float(image.height)); y < int(bottom * float(image.height)); ++y)
        for (int x = int(left * float(image.width)); x < int(right * float(image.width)); ++x) sum += image.at(x, y, 3), ++count;
    return sum / count;
}

// As large in all as the same outlines drawn as a mask, which is drawn by other numbers; white, with a clear border and whole blocks.
TEST(Lettering, IsWhiteLettersWithNothingAroundThem) {
    for (const char* words : {"427", "Route 7 to the depot", "Ngjy", "Á"}) {
        SCOPED_TRACE(words);
        const Result<Image> image = lettering(words, 80);
        ASSERT_TRUE(image);
        ASSERT_EQ(image->channels, 4);
        EXPECT_EQ(image->width % 4 + image->height % 4, 0);
        for (int y = 0; y < image->height; ++y)
            for (int x = 0; x < image->width; ++x) {
                ASSERT_EQ(image->at(x, y, 0) + image->at(x, y, 1) + image->at(x, y, 2), 3) << "levels mix in nothing dark";
                const bool border = x < 4 || y < 4 || x >= image->width - 4 || y >= image->height - 4;
                ASSERT_TRUE(!border || image->at(x, y, 3) == 0);
            }
        MaskDrawing twin;
        twin.width = 3000, twin.height = 400;
        MaskShape s;
        s.kind = MaskShape::Kind::Text, s.text = words;
        s.x = 0, s.width = 1, s.y = 0.4f, s.height = 0.2f; // capitals of 80 pixels
        twin.shapes = {s};
        const Result<Plane> plane = drawMask(twin);
        ASSERT_TRUE(plane);
        double sum = 0;
        for (const float v : plane->values) sum += double(v);
        EXPECT_NEAR(covered(*image) * image->width * image->height, sum, sum * 0.005);
    }
}

TEST(Lettering, LinesLieBelowEachOtherInTheMiddle) {
    const Result<Image> one = lettering("HHHH", 60), two = lettering("\n  HHHH\t\n\n HH \n\n", 60);
    ASSERT_TRUE(one && two);
    EXPECT_EQ(one->width, two->width) << "as wide as the longest line";
    EXPECT_NEAR(two->height - one->height, 2 * 1.6 * 60, 5) << "what is empty at either end takes no room, between lines it does";
    EXPECT_NEAR(covered(*two, 0, 0, 0.5f, 1), covered(*two, 0.5f, 0, 1, 1), 0.01);
    EXPECT_LT(covered(*two, 0, 0.7f, 0.25f, 1), 0.01) << "the short line stands in the middle";
    EXPECT_GT(covered(*two, 0.3f, 0.7f, 0.7f, 1), 0.1);
}

TEST(Lettering, IsNeverTooLargeAndSaysWhatCannotBeShown) {
    const Result<Image> wide = lettering(std::string(kMostLettering, 'W'), 400), high = lettering("a\nb\nc\nd\ne\nf", 4000);
    ASSERT_TRUE(wide && high);
    for (const Image* image : {&*wide, &*high}) {
        EXPECT_LE(std::max(image->width, image->height), 4096);
        EXPECT_GT(std::max(image->width, image->height), 3900);
    }
    EXPECT_GT(covered(*wide), 0.05);
    for (const std::string& bad : {std::string(), std::string(" \t\r\n"), std::string(kMostLettering + 1, 'x')}) {
        const Result<Image> none = lettering(bad);
        ASSERT_FALSE(none);
        EXPECT_EQ(none.error().code, "mask.text");
    }
    std::string umlauts;
    for (size_t k = 0; k < kMostLettering; ++k) umlauts += "Ä";
    EXPECT_TRUE(lettering(umlauts, 8)) << "characters count, not bytes";
    EXPECT_NE(lettering(std::string(900, 'x')).error().sentence.find("900"), std::string::npos);
}

TEST(Lettering, IsCalledByItsFirstWords) {
    EXPECT_EQ(nameOfLettering(" 427\n"), "427");
    EXPECT_EQ(nameOfLettering("Mind the step\nwhen leaving the tram"), "Mind the step when");
    EXPECT_EQ(nameOfLettering(std::string(60, 'x')), "Text");
}

} // namespace
} // namespace hue
