// Pictures side by side with their names, as a value and by the command line.
#include "core/image_files/image_file.h"
#include "core/picture/contact_sheet.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

std::vector<uint8_t> plain(int side, uint8_t red) {
    std::vector<uint8_t> out(size_t(side) * size_t(side) * 4, 255);
    for (size_t i = 0; i < out.size(); i += 4) out[i] = red, out[i + 1] = out[i + 2] = 0;
    return out;
}
int redAt(const SheetLayout& layout, const ContactSheet& sheet, int x, int y) {
    return sheet.rgba()[(size_t(y) * size_t(layout.width()) + size_t(x)) * 4];
}

TEST(ContactSheet, HasEachPictureOnceWithItsNameUnderIt) {
    const SheetLayout layout{5, 0, 64};
    EXPECT_EQ(layout.across(), 3);
    EXPECT_EQ(layout.down(), 2);
    ContactSheet sheet(layout);
    for (int k = 0; k < 5; ++k) sheet.put(k, plain(64, uint8_t(20 + 40 * k)), "MMM");
    // As many pixels of each as a picture has; letters and paper are grey.
    std::map<int, int> counts;
    for (size_t i = 0; i < sheet.rgba().size(); i += 4)
        if (sheet.rgba()[i + 1] == 0) ++counts[sheet.rgba()[i]];
    EXPECT_EQ(counts, (std::map<int, int>{{20, 4096}, {60, 4096}, {100, 4096}, {140, 4096}, {180, 4096}}));
    // In reading order.
    const int step = layout.width() / 3;
    for (int k = 0; k < 5; ++k)
        EXPECT_EQ(redAt(layout, sheet, k % 3 * step + step / 2, k / 3 * (layout.height() / 2) + 30), 20 + 40 * k) << k;
    // Ink right under the first, and none under the empty place.
    const auto inkIn = [&](int cell) {
        int ink = 0;
        for (int y = 0; y < layout.lettering(); ++y)
            for (int x = 0; x < 64; ++x) {
                const int left = cell % 3 * step, top = (cell / 3) * (layout.height() / 2);
                ink += redAt(layout, sheet, left + 8 + x, top + 8 + 64 + y) < 100 &&
                       sheet.rgba()[(size_t(top + 72 + y) * size_t(layout.width()) + size_t(left + 8 + x)) * 4 + 1] != 0;
            }
        return ink;
    };
    EXPECT_GT(inkIn(0), 10);
    EXPECT_GT(inkIn(4), 10);
    EXPECT_EQ(inkIn(5), 0);
}

TEST(ContactSheet, CutsNamesAtTheEdgeOfTheirPicture) {
    const SheetLayout layout{2, 2, 64};
    ContactSheet sheet(layout);
    sheet.put(0, plain(64, 200), std::string("Bodywork/A name that is far too long for it ") + std::string(60, 'W'));
    // The gap and the cell beside it stay paper.
    const int gap = layout.width() - 2 * 64 - 8;
    for (int y = 0; y < layout.height(); ++y)
        for (int x = 8 + 64; x < layout.width(); ++x) ASSERT_EQ(redAt(layout, sheet, x, y), 0xF2) << x << " " << y << " " << gap;
}

TEST(ContactSheet, SaysWhenItWouldBeTooLargeOrEmpty) {
    EXPECT_TRUE((SheetLayout{40, 0, 256}.fits()));
    EXPECT_EQ((SheetLayout{4000, 0, 2048}.fits().error().code), "sheet.too-large");
    EXPECT_EQ((SheetLayout{0, 0, 256}.fits().error().code), "sheet.empty");
}

class SheetCommand : public InFolder {};

TEST_F(SheetCommand, ShowsAMasterWithAllItsInstancesEachAsItLooks) {
    Project p = bareProject();
    Parameter tint;
    tint.id = "tint", tint.name = "Tint", tint.codeName = "tint", tint.type = ParameterType::Color;
    tint.standard.value = Value::vec3(0.6f, 0.6f, 0.6f);
    p = *edit::addParameter(p, "m", tint);
    channel(p, {add(p, "parameter", {}, {{"parameter", "tint"}}), "out", ""}, "base_color");
    const Rgb colors[] = {{0.8f, 0, 0}, {0, 0.8f, 0}, {0, 0, 0.8f}};
    for (int k = 0; k < 3; ++k) {
        Instance i;
        i.id = "i" + std::to_string(k), i.name = std::to_string(k), i.parent = "m";
        i.own["tint"].value = Value::vec3(colors[k][0], colors[k][1], colors[k][2]);
        p = *edit::addInstance(p, i);
    }
    const std::string file = (folder / "p.huestack").string(), out = (folder / "sheet.png").string();
    ASSERT_TRUE(saveProject(p, file));
    const Ran ran = runHsk("sheet " + file + " --of M --size 64 --samples 1 --columns 4 --out " + out);
    ASSERT_EQ(ran.code, 0) << ran.output;
    const Result<Image> sheet = readImage(out);
    ASSERT_TRUE(sheet);
    const SheetLayout layout{4, 4, 64};
    EXPECT_EQ(sheet->width, layout.width());
    EXPECT_EQ(sheet->height, layout.height());
    for (int k = 0; k < 3; ++k) {
        const int x = 8 + (k + 1) * 72 + 32, y = 8 + 32;
        for (int c = 0; c < 3; ++c) {
            if (c == k) continue;
            EXPECT_GT(sheet->at(x, y, k), 2 * sheet->at(x, y, c)) << "the ball of instance " << k << ", component " << c;
        }
    }
    EXPECT_EQ(runHsk("sheet " + file + " --of M/0 --size 16 --samples 1 --out " + file + "/x.png").code, 2) << "a file is no folder";
    EXPECT_EQ(runHsk("sheet " + file + " --of Nobody --out " + out).code, 2);
}

} // namespace
} // namespace hue
