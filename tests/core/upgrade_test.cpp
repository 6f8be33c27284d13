// Projects of older formats open and look as they did.
#include "core/nodes/catalogue.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Place 2D as format 1 had it: scaled, turned about the pivot, moved.
std::array<double, 2> placedAsInFormat1(double u, double v, std::array<double, 2> scale, double degrees, std::array<double, 2> offset,
                                        std::array<double, 2> pivot) {
    const double x = (u - pivot[0]) * scale[0], y = (v - pivot[1]) * scale[1], a = degrees * 3.14159265358979 / 180;
    return {x * std::cos(a) - y * std::sin(a) + offset[0] + pivot[0], x * std::sin(a) + y * std::cos(a) + offset[1] + pivot[1]};
}

std::string asFormat1(std::string text) {
    const size_t at = text.find("\"format\": ");
    EXPECT_NE(at, std::string::npos);
    text.replace(at, text.find_first_of(",\n", at) - at, "\"format\": 1");
    return text;
}

TEST(Upgrade, PlacesMapsOfFormatOneAsItDid) {
    for (const bool wired : {false, true}) {
        Project p = bareProject();
        // Written with the names of today, which the older format shares; what they mean there is another thing.
        const Id place = add(p, "place_2d", {{"rotate", Value::number(30)}, {"pivot", Value::vec2(0.25f, 0.5f)}});
        if (wired) {
            const Id scale = add(p, "constant", {{"value", Value::vec2(3, 2)}}),
                     offset = add(p, "constant", {{"value", Value::vec2(0.3f, -0.2f)}});
            wire(p, {scale, "out", ""}, place, "scale");
            wire(p, {offset, "out", ""}, place, "offset");
        } else {
            p = *edit::setConstant(p, "m", place, "scale", Value::vec2(3, 2));
            p = *edit::setConstant(p, "m", place, "offset", Value::vec2(0.3f, -0.2f));
        }
        const auto read = parseProject(asFormat1(projectText(p)), "older");
        ASSERT_TRUE(read) << read.error().sentence;
        EXPECT_TRUE(read->report.empty()) << read->report[0].sentence;
        const std::vector<float> uv = overSquare(read->project, {place, "out", ""}, 16);
        for (int y = 0; y < 16; ++y)
            for (int x = 0; x < 16; ++x) {
                const auto wanted = placedAsInFormat1((x + 0.5) / 16, (y + 0.5) / 16, {3, 2}, 30, {0.3, -0.2}, {0.25, 0.5});
                ASSERT_NEAR(uv[size_t((y * 16 + x) * 2)], wanted[0], 1e-5) << (wired ? "wired" : "typed");
                ASSERT_NEAR(uv[size_t((y * 16 + x) * 2 + 1)], wanted[1], 1e-5);
            }
        // Saved, it is of today's format, and opens as it is.
        const std::string today = projectText(read->project);
        EXPECT_NE(today.find("\"format\": 2"), std::string::npos);
        const auto again = parseProject(today, "today");
        ASSERT_TRUE(again);
        EXPECT_EQ(projectText(again->project), today);
        EXPECT_EQ(overSquare(again->project, {place, "out", ""}, 16), uv);
    }
}

TEST(Upgrade, GivesTheSameProjectEveryTime) {
    Project p = bareProject();
    const Id place = add(p, "place_2d"), offset = add(p, "constant", {{"value", Value::vec2(1, 1)}});
    wire(p, {offset, "out", ""}, place, "offset");
    const std::string text = asFormat1(projectText(p));
    EXPECT_EQ(projectText(parseProject(text, "a")->project), projectText(parseProject(text, "b")->project));
}

TEST(Placing, IsTheSameForEveryCardThatPlacesMaps) {
    // An offset moves what is seen towards larger U and V, a tiling repeats, a scale enlarges: what a card reads at a place is what
    // lies there before it was moved.
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.png", MapKind::Data, Wrap::Repeat, {}, {}}));
    const Value offset = Value::vec2(0.25f, 0.125f), tiling = Value::vec2(4, 2);
    const Id place = add(p, "place_2d", {{"offset", offset}, {"tiling", tiling}}),
             scaled = add(p, "place_2d", {{"scale", Value::vec2(4, 2)}});
    const std::vector<float> uv = overSquare(p, {place, "out", ""}, 8), large = overSquare(p, {scaled, "out", ""}, 8);
    for (int y = 0; y < 8; ++y)
        for (int x = 0; x < 8; ++x) {
            const float u = (float(x) + 0.5f) / 8, v = (float(y) + 0.5f) / 8;
            EXPECT_NEAR(uv[size_t((y * 8 + x) * 2)], u * 4 - 0.25f, 1e-6f);
            EXPECT_NEAR(uv[size_t((y * 8 + x) * 2 + 1)], v * 2 - 0.125f, 1e-6f);
            EXPECT_NEAR(large[size_t((y * 8 + x) * 2)], u / 4, 1e-6f);
            EXPECT_NEAR(large[size_t((y * 8 + x) * 2 + 1)], v / 2, 1e-6f);
        }
    // Tiled image with the same numbers reads the same.
    const Id tiled = add(p, "tiled_image", {{"tiling", tiling}, {"offset", offset}}, {{"map", "map"}}),
             image = add(p, "image", {}, {{"map", "map"}});
    wire(p, {place, "out", ""}, image, "uv");
    std::vector<std::byte> texels(size_t{16} * 16 * 16);
    auto* f = reinterpret_cast<float*>(texels.data());
    for (int i = 0; i < 16 * 16; ++i)
        for (int c = 0; c < 4; ++c) *f++ = float((i * 37 + c * 11) % 97) / 97;
    const auto map = std::make_shared<Map>(16, 16, TexelFormat::F32, false, Wrap::Repeat, std::move(texels));
    const auto read = [&](const Id& card) { return overSquare(p, {card, "color", ""}, 16, map); };
    const std::vector<float> one = read(tiled), other = read(image);
    for (size_t i = 0; i < one.size(); ++i) EXPECT_NEAR(one[i], other[i], 1e-4f) << "but for the rounding of a turn by nothing";
}

} // namespace
} // namespace hue
