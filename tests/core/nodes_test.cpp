// What single nodes give, against the standard library, the formulas of open standards in double precision, and what must hold of them.
#include "core/evaluate/evaluator.h"
#include "tests/test_graphs.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <random>

namespace hue {
namespace {

using namespace test;
using Constants = std::map<std::string, Value>;
using Settings = std::map<std::string, std::string>;

/// What a card gives for constants, component by component.
std::vector<float> give(std::string_view kind, const Constants& constants, Settings settings = {}) {
    Project p = bareProject();
    const Id card = add(p, kind, {}, std::move(settings));
    for (const auto& [port, value] : constants)
        if (findNodeDef(kind)->input(port)->unwired == Unwired::Constant) {
            p = *edit::setConstant(p, "m", card, port, value);
        } else {
            wire(p, {add(p, "constant", {{"value", value}}), "out", ""}, card, port);
        }
    return overSquare(p, {card, "out", ""}, 1);
}
float number(std::string_view kind, Constants constants, Settings settings = {}) {
    return give(kind, std::move(constants), std::move(settings)).at(0);
}
Value color(const std::array<double, 3>& c) { return Value::vec3(float(c[0]), float(c[1]), float(c[2])); }

TEST(Nodes, ReckonAsTheStandardLibraryDoes) {
    std::mt19937 random(2);
    std::uniform_real_distribution<float> any(-20, 20);
    for (int k = 0; k < 400; ++k) {
        const float x = k < 40 ? float(k - 20) * 0.5f : any(random), y = k % 7 == 0 ? 0 : any(random);
        const auto of = [&](std::string_view kind) { return number(kind, {{"in", Value::number(x)}}); };
        EXPECT_NEAR(of("cosine"), std::cos(double(x)), 2e-6) << x;
        EXPECT_EQ(of("sign"), x > 0 ? 1 : x < 0 ? -1 : 0) << x;
        EXPECT_EQ(of("ceil"), std::ceil(x)) << x;
        EXPECT_EQ(of("round"), std::floor(x + 0.5f)) << x;
        EXPECT_NEAR(of("exponential") / std::exp(double(x)), 1, 4e-6) << x;
        EXPECT_NEAR(number("arctangent_2", {{"iny", Value::number(y)}, {"inx", Value::number(x)}}), std::atan2(double(y), double(x)), 5e-7)
            << y << " over " << x;
        if (x > 0) { EXPECT_NEAR(of("logarithm"), std::log(double(x)), 3e-6) << x; }
        const double within = std::fabs(std::remainder(double(x), 2.0)); // 0 at even, 1 at odd numbers
        EXPECT_NEAR(number("triangle_wave", {{"in", Value::number(x / 2)}}), within, 2e-6) << x;
    }
    for (const float x : {0.f, -3.f}) EXPECT_NEAR(number("logarithm", {{"in", Value::number(x)}}), -87.3366, 1e-3);
    EXPECT_EQ(number("arctangent_2", {{"iny", Value::number(0)}, {"inx", Value::number(0)}}), 0) << "no direction";
    EXPECT_TRUE(std::isfinite(number("exponential", {{"in", Value::number(1000)}})));
}

/// W3C, "Compositing and Blending Level 1": what each operation gives for a component, the backdrop first.
const std::map<std::string, double (*)(double, double)>& blends() {
    static const std::map<std::string, double (*)(double, double)> all = {
        {"plus", [](double b, double f) { return b + f; }},
        {"minus", [](double b, double f) { return b - f; }},
        {"difference", [](double b, double f) { return std::fabs(b - f); }},
        {"multiply_over", [](double b, double f) { return b * f; }},
        {"screen", [](double b, double f) { return 1 - (1 - b) * (1 - f); }},
        {"overlay", [](double b, double f) { return b <= 0.5 ? f * 2 * b : f + (2 * b - 1) - f * (2 * b - 1); }},
        {"burn", [](double b, double f) { return b == 1   ? 1
                                                 : f == 0 ? 0
                                                          : 1 - std::min(1.0, (1 - b) / f); }},
        {"dodge", [](double b, double f) { return b == 0   ? 0
                                                  : f == 1 ? 1
                                                           : std::min(1.0, b / (1 - f)); }},
        {"darken", [](double b, double f) { return std::min(b, f); }},
        {"lighten", [](double b, double f) { return std::max(b, f); }},
    };
    return all;
}

TEST(Compositing, FollowsTheStandardAndItsOpacity) {
    for (const auto& [kind, blend] : blends())
        for (int i = 0; i <= 8; ++i)
            for (int j = 0; j <= 8; ++j)
                for (const double opacity : {1.0, 0.0, 0.3}) {
                    const std::array<double, 3> back{i / 8.0, j / 8.0, (8 - i) / 8.0}, front{j / 8.0, (8 - i) / 8.0, i / 8.0};
                    const auto out = give(kind, {{"bg", color(back)}, {"fg", color(front)}, {"mix", Value::number(float(opacity))}});
                    for (size_t c = 0; c < 3; ++c)
                        ASSERT_NEAR(out[c], back[c] + (blend(back[c], front[c]) - back[c]) * opacity, 2e-6)
                            << kind << " of " << back[c] << " and " << front[c] << " at " << opacity;
                }
}

TEST(Compositing, LeavesWhatIsBehindAsItIsUntilSomethingIsWired) {
    // As a card is dropped on a wire: overlaying grey, adding black, multiplying by white.
    for (const auto& [kind, blend] : blends()) {
        if (kind == "difference" || kind == "minus") continue; // the same with black
        const auto out = give(kind, {{"bg", Value::vec3(0.2f, 0.5f, 0.9f)}});
        EXPECT_NEAR(out[0], 0.2f, 1e-6) << kind;
        EXPECT_NEAR(out[1], 0.5f, 1e-6) << kind;
        EXPECT_NEAR(out[2], 0.9f, 1e-6) << kind;
    }
}

/// By the sextants of the color hexagon, as textbooks have it; hue in turns.
std::array<double, 3> colorOfHsv(double h, double s, double v) {
    h = (h - std::floor(h)) * 6;
    const int sextant = int(h) % 6;
    const double f = h - std::floor(h), p = v * (1 - s), q = v * (1 - s * f), t = v * (1 - s * (1 - f));
    const std::array<std::array<double, 3>, 6> all{{{v, t, p}, {q, v, p}, {p, v, t}, {p, q, v}, {t, p, v}, {v, p, q}}};
    return all[size_t(sextant)];
}

TEST(HsvAdjust, TurnsTheHueAndScalesTheRest) {
    std::mt19937 random(9);
    std::uniform_real_distribution<double> unit(0.02, 0.98);
    for (int k = 0; k < 500; ++k) {
        const double h = unit(random), s = unit(random), v = unit(random), turn = unit(random) - 0.5, more = unit(random) * 2,
                     bright = unit(random);
        const auto out = give("hsv_adjust", {{"in", color(colorOfHsv(h, s, v))},
                                             {"hue", Value::number(float(turn))},
                                             {"saturation", Value::number(float(more))},
                                             {"value", Value::number(float(bright))}});
        const auto expected = colorOfHsv(h + turn, std::min(1.0, s * more), v * bright);
        for (size_t c = 0; c < 3; ++c) ASSERT_NEAR(out[c], expected[c], 1e-5) << "color " << k;
    }
    for (const float grey : {0.f, 0.4f, 1.f}) {
        const auto out =
            give("hsv_adjust", {{"in", Value::vec3(grey, grey, grey)}, {"hue", Value::number(0.3f)}, {"saturation", Value::number(2)}});
        for (const float c : out) EXPECT_NEAR(c, grey, 1e-6) << "grey has no hue";
    }
}

TEST(Saturate, KeepsTheBrightnessAndEndsInGrey) {
    const auto luminance = [](const std::vector<float>& c) { return 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]; };
    const Value in = Value::vec3(0.7f, 0.2f, 0.4f);
    const double wanted = luminance({0.7f, 0.2f, 0.4f});
    for (const float amount : {0.f, 0.5f, 1.f, 1.7f}) {
        const auto out = give("saturate", {{"in", in}, {"amount", Value::number(amount)}});
        EXPECT_NEAR(luminance(out), wanted, 1e-6) << amount;
        EXPECT_NEAR(out[0] - out[1], 0.5 * amount, 1e-6) << amount;
    }
}

TEST(Logic, AnswersByItsTables) {
    for (const float a : {0.f, 0.5f, 0.51f, 1.f})
        for (const float b : {0.f, 0.49f, 0.8f, 7.f}) {
            const bool yes = a > 0.5f, also = b > 0.5f;
            const Constants both{{"in1", Value::number(a)}, {"in2", Value::number(b)}};
            EXPECT_EQ(number("and", both), float(yes && also)) << a << " " << b;
            EXPECT_EQ(number("or", both), float(yes || also)) << a << " " << b;
            EXPECT_EQ(number("not", {{"in", Value::number(a)}}), float(!yes)) << a;
        }
    const auto equal = [](float a, float b, float tolerance) {
        return number("if_equal", {{"value1", Value::number(a)},
                                   {"value2", Value::number(b)},
                                   {"tolerance", Value::number(tolerance)},
                                   {"in1", Value::number(3)},
                                   {"in2", Value::number(4)}});
    };
    EXPECT_EQ(equal(2, 2, 0), 3);
    EXPECT_EQ(equal(2, 2.1f, 0), 4);
    EXPECT_EQ(equal(2, 2.1f, 0.2f), 3);
    EXPECT_EQ(equal(2.1f, 2, 0.2f), 3);
}

TEST(Switch, PicksByNumberAndStaysAtItsEnds) {
    const Constants values{{"in1", Value::number(10)},
                           {"in2", Value::number(20)},
                           {"in3", Value::number(30)},
                           {"in4", Value::number(40)},
                           {"in5", Value::number(50)}};
    for (int count = 2; count <= 5; ++count)
        for (const float which : {-1.f, 0.f, 0.9f, 1.f, 2.5f, 3.f, 4.f, 9.f}) {
            Constants c = values;
            c["which"] = Value::number(which);
            const int picked = std::clamp(int(std::floor(which)), 0, count - 1);
            EXPECT_EQ(number("switch", c, {{"values", std::to_string(count)}}), float(10 * (picked + 1))) << which << " of " << count;
        }
}

TEST(Range, LiftsTheMiddleByItsGamma) {
    const auto range = [](float in, float gamma, const char* limit = "off") {
        return number("range",
                      {{"in", Value::number(in)},
                       {"inlow", Value::number(1)},
                       {"inhigh", Value::number(3)},
                       {"gamma", Value::number(gamma)},
                       {"outlow", Value::number(10)},
                       {"outhigh", Value::number(20)}},
                      {{"limit", limit}});
    };
    EXPECT_NEAR(range(1, 2), 10, 1e-5);
    EXPECT_NEAR(range(3, 2), 20, 1e-5);
    EXPECT_NEAR(range(1.5f, 2), 15, 1e-4) << "a quarter of the way has the root one half";
    EXPECT_NEAR(range(1.5f, 1), 12.5f, 1e-4);
    EXPECT_NEAR(range(0, 1), 5, 1e-4) << "goes on beyond";
    EXPECT_NEAR(range(0, 1, "on"), 10, 1e-4);
}

TEST(InverseMix, TakesBackWhatMixDoes) {
    for (const float bg : {-2.f, 0.f, 0.3f})
        for (const float fg : {1.f, 5.f})
            for (const float t : {-0.5f, 0.f, 0.25f, 1.f}) {
                const float mixed = number("mix", {{"bg", Value::number(bg)}, {"fg", Value::number(fg)}, {"mix", Value::number(t)}});
                EXPECT_NEAR(number("inverse_mix", {{"bg", Value::number(bg)}, {"fg", Value::number(fg)}, {"in", Value::number(mixed)}}), t,
                            1e-5);
            }
}

using Vector = std::array<double, 3>;
double dot(const Vector& a, const Vector& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
Vector unit(std::mt19937& random) {
    std::normal_distribution<double> n;
    Vector v{n(random), n(random), n(random)};
    const double length = std::sqrt(dot(v, v));
    for (double& c : v) c /= length;
    return v;
}
Vector vectorOf(const std::vector<float>& v) { return {v.at(0), v.at(1), v.at(2)}; }

TEST(Vectors, ObeyTheLawsOfGeometry) {
    std::mt19937 random(4);
    for (int k = 0; k < 200; ++k) {
        const Vector a = unit(random), n = unit(random);
        const Vector across = vectorOf(give("cross_product", {{"in1", color(a)}, {"in2", color(n)}}));
        EXPECT_NEAR(dot(across, a), 0, 1e-6);
        EXPECT_NEAR(dot(across, n), 0, 1e-6);
        EXPECT_NEAR(dot(across, across), 1 - dot(a, n) * dot(a, n), 1e-5);

        const Vector thrown = vectorOf(give("reflect", {{"in", color(a)}}));
        EXPECT_NEAR(dot(thrown, thrown), 1, 1e-5);
        EXPECT_NEAR(thrown[2], -a[2], 1e-6) << "the square faces along z";

        // A turn keeps lengths and what lies along the axis, and four quarter turns are none.
        Vector turned = a;
        for (int quarter = 0; quarter < 4; ++quarter) {
            turned = vectorOf(give("rotate_3d", {{"in", color(turned)}, {"axis", color(n)}, {"amount", Value::number(90)}}));
            EXPECT_NEAR(dot(turned, turned), 1, 1e-4);
            EXPECT_NEAR(dot(turned, n), dot(a, n), 1e-4);
            if (quarter == 0) { EXPECT_NEAR(dot(turned, a), dot(a, n) * dot(a, n), 1e-4); }
        }
        for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(turned[c], a[c], 1e-4);
    }
    const Vector east = vectorOf(give("rotate_3d", {{"in", Value::vec3(0, 0, 1)}, {"amount", Value::number(90)}}));
    EXPECT_NEAR(east[0], 1, 1e-6) << "counterclockwise, seen from above";
}

TEST(Refract, BendsBySnellsLawAndLetsNothingThroughBeyondTheCriticalAngle) {
    std::mt19937 random(6);
    int through = 0, back = 0;
    for (int k = 0; k < 300; ++k) {
        Vector in = unit(random);
        in[2] = -std::fabs(in[2]); // towards the square
        const double index = 0.6 + 0.01 * (k % 200);
        const Vector bent = vectorOf(give("refract", {{"in", color(in)}, {"index", Value::number(float(index))}}));
        const double sine = std::sqrt(1 - in[2] * in[2]) / index;
        if (sine > 1.001) {
            EXPECT_EQ(dot(bent, bent), 0) << "index " << index;
            ++back;
        } else if (sine < 0.999) {
            EXPECT_NEAR(dot(bent, bent), 1, 1e-4);
            EXPECT_NEAR(std::sqrt(bent[0] * bent[0] + bent[1] * bent[1]), sine, 1e-4);
            EXPECT_LT(bent[2], 0) << "it goes on";
            EXPECT_NEAR(bent[0] * in[1], bent[1] * in[0], 1e-5) << "in the plane of incidence";
            ++through;
        }
    }
    EXPECT_GT(through, 100);
    EXPECT_GT(back, 10);
}

TEST(HeightBand, IsFullInsideAndNothingOutside) {
    // The height over the square is 1 at the top and 0 at the bottom.
    Project p = bareProject();
    const Id band =
        add(p, "height_band", {{"low", Value::number(0.2f)}, {"high", Value::number(0.7f)}, {"soft edge", Value::number(0.1f)}});
    constexpr int size = 100;
    const auto mask = overSquare(p, {band, "out", ""}, size);
    for (int y = 0; y < size; ++y) {
        const float height = 1 - (float(y) + 0.5f) / size, m = mask[size_t(y * size)];
        if (height < 0.2f || height > 0.7f) EXPECT_EQ(m, 0) << height;
        else if (height > 0.3f && height < 0.6f) EXPECT_NEAR(m, 1, 1e-6) << height;
        else EXPECT_TRUE(m > 0 && m < 1) << height;
    }
}

TEST(HeightBlend, KeepsTheEndsOfItsMaskAndLetsTheHigherWin) {
    const auto blend = [](float mask, float back, float front, float edge = 0.2f) {
        return number("height_blend", {{"mix", Value::number(mask)},
                                       {"bgheight", Value::number(back)},
                                       {"fgheight", Value::number(front)},
                                       {"soft edge", Value::number(edge)}});
    };
    for (const float back : {0.f, 0.3f, 1.f})
        for (const float front : {0.f, 0.6f, 1.f})
            for (const float edge : {0.01f, 0.2f, 1.f}) {
                EXPECT_EQ(blend(0, back, front, edge), 0);
                EXPECT_NEAR(blend(1, back, front, edge), 1, 1e-6);
                float last = 0;
                for (int k = 1; k <= 10; ++k) {
                    const float now = blend(float(k) / 10, back, front, edge);
                    EXPECT_GE(now, last) << "more mask, more of it";
                    last = now;
                }
            }
    EXPECT_GT(blend(0.5f, 0.2f, 0.8f), 0.99f);
    EXPECT_LT(blend(0.5f, 0.8f, 0.2f), 0.01f);
    EXPECT_NEAR(blend(0.5f, 0.4f, 0.4f), 0.5f, 1e-6);
}

TEST(JoinNormals, TakesEachSideAsStrongAsItIsTold) {
    const auto joined = [](float ground, float detail) {
        return vectorOf(give("join_normals", {{"in1", Value::vec3(0.7f, 0.5f, 0.9f)},
                                              {"in2", Value::vec3(0.5f, 0.35f, 0.95f)},
                                              {"strength1", Value::number(ground)},
                                              {"strength2", Value::number(detail)}}));
    };
    const auto decoded = [](const Vector& n) { return Vector{n[0] * 2 - 1, n[1] * 2 - 1, n[2] * 2 - 1}; };
    const auto along = [&](const Vector& n, double x, double y, double z) {
        const Vector d = decoded(n), e{x, y, z};
        return dot(d, e) / std::sqrt(dot(d, d) * dot(e, e));
    };
    EXPECT_NEAR(along(joined(0, 0), 0, 0, 1), 1, 1e-5) << "flat";
    EXPECT_NEAR(along(joined(1, 0), 0.4, 0, 0.8), 1, 1e-5) << "the ground alone";
    EXPECT_NEAR(along(joined(0, 1), 0, -0.3, 0.9), 1, 1e-5) << "the detail alone";
    EXPECT_NEAR(along(joined(0, 0.5f), 0, -0.15, 0.9), 1, 1e-5) << "half the slope";
    EXPECT_NEAR(along(joined(2, 0), 0.8, 0, 0.8), 1, 1e-5) << "twice the slope";
}

/// A solid noise at points that move evenly through space: `step` apart along a slanted line.
std::vector<float> alongALine(std::string_view kind, const Vector& from, const Vector& step, Constants constants = {},
                              Settings settings = {}, double time = 0) {
    Project p = bareProject();
    constants["scale"] = Value::number(1);
    const Id uv = add(p, "texcoord"), way = add(p, "multiply"), at = add(p, "add"),
             noise = add(p, kind, std::move(constants), std::move(settings));
    constexpr int size = 512;
    wire(p, {uv, "out", "xxx"}, way, "in1");
    p = *edit::setConstant(p, "m", way, "in2", Value::vec3(float(step[0] * size), float(step[1] * size), float(step[2] * size)));
    p = *edit::setConstant(p, "m", at, "in2", color(from));
    wire(p, {way, "out", ""}, at, "in1");
    wire(p, {at, "out", ""}, noise, "position");
    auto all = overSquare(p, {noise, "out", ""}, size, nullptr, time);
    all.resize(size);
    return all;
}

TEST(SolidNoise, IsSmoothAcrossItsCellsInEveryDirection) {
    for (const Vector& step : {Vector{0.01, 0, 0}, Vector{0, 0.01, 0}, Vector{0, 0, 0.01}, Vector{0.006, -0.006, 0.006}}) {
        const auto line = alongALine("noise_3d", {-2.3, 0.7, 11.4}, step, {{"amplitude", Value::number(1)}, {"pivot", Value::number(0)}});
        float least = 1, most = -1;
        for (size_t i = 1; i < line.size(); ++i) {
            ASSERT_LT(std::fabs(line[i] - line[i - 1]), 0.06f) << "a jump at " << i;
            least = std::min(least, line[i]), most = std::max(most, line[i]);
        }
        EXPECT_LT(least, -0.15f);
        EXPECT_GT(most, 0.15f);
        EXPECT_TRUE(least > -1.25f && most < 1.25f);
    }
    // One octave is the noise itself.
    EXPECT_EQ(alongALine("fractal_3d", {0.1, 0.2, 0.3}, {0.03, 0.02, 0.01}, {}, {{"octaves", "1"}}),
              alongALine("noise_3d", {0.1, 0.2, 0.3}, {0.03, 0.02, 0.01}));
}

TEST(SolidNoise, HasCellsThatAreEvenInsideAndAllDifferent) {
    std::vector<float> values;
    for (const Vector& step : {Vector{0.25, 0, 0}, Vector{0, 0.25, 0}, Vector{0, 0, 0.25}}) {
        // Four to a cell, the first at its start and an eighth.
        const auto line = alongALine("cell_noise_3d", {5.0, -3.0, 2.0}, step);
        for (size_t i = 0; i + 4 <= line.size(); i += 4) {
            for (size_t k = 1; k < 4; ++k) ASSERT_EQ(line[i], line[i + k]) << i;
            values.push_back(line[i]);
        }
    }
    double mean = 0;
    for (const float v : values) mean += double(v) / double(values.size());
    EXPECT_NEAR(mean, 0.5, 0.05);
    std::sort(values.begin(), values.end());
    // The three lines share the cell in which they start.
    EXPECT_GE(std::unique(values.begin(), values.end()) - values.begin(), 128 * 3 - 4);
}

TEST(SolidNoise, GivesDistancesThatGrowNoFasterThanTheWay) {
    for (const char* points : {"still", "moving"}) {
        const auto line = alongALine("worley_noise_3d", {0, 1, 2}, {0.012, 0.008, -0.006}, {}, {{"points", points}}, 1.3);
        const double way = std::sqrt(0.012 * 0.012 + 0.008 * 0.008 + 0.006 * 0.006);
        for (size_t i = 1; i < line.size(); ++i) ASSERT_LE(std::fabs(line[i] - line[i - 1]), way * 1.02 + 1e-5) << points << " " << i;
        EXPECT_GT(*std::max_element(line.begin(), line.end()), 0.5f);
        EXPECT_LT(*std::min_element(line.begin(), line.end()), 0.4f);
    }
    // On a grid, the middle of a cell is a point.
    for (const float d : alongALine("worley_noise_3d", {0.5, 0.5, 0.5}, {0, 0, 0}, {{"jitter", Value::number(0)}})) EXPECT_NEAR(d, 0, 1e-6);
}

/// What moves comes back after a turn, and not before; seamless cells stay seamless meanwhile.
TEST(MovingCells, GoRoundOnceATurn) {
    for (const char* kind : {"worley_noise", "worley_noise_3d"})
        for (const char* seamless : {"no", "yes"}) {
            Settings settings{{"points", "moving"}};
            if (kind == std::string("worley_noise")) settings["seamless"] = seamless;
            Project p = bareProject();
            const Id noise = add(p, kind, {{"scale", Value::number(4)}, {"rate", Value::number(0.5f)}}, settings);
            const auto at = [&](double time) { return overSquare(p, {noise, "out", ""}, 24, nullptr, time); };
            const auto apart = [](const std::vector<float>& a, const std::vector<float>& b) {
                float worst = 0;
                for (size_t i = 0; i < a.size(); ++i) worst = std::max(worst, std::fabs(a[i] - b[i]));
                return worst;
            };
            const auto start = at(0);
            EXPECT_LT(apart(start, at(2)), 1e-5f) << kind << " after a turn";
            EXPECT_GT(apart(start, at(1)), 0.2f) << kind << " after half of one";
            EXPECT_LT(apart(start, at(0.01)), 0.05f) << kind << " a moment later";
        }
}

TEST(RandomVertexOffset, StaysWithinItsAmountAndIsTheSameAtTheSamePlace) {
    Project p = bareProject();
    const Id offset = add(p, "random_vertex_offset", {{"amount", Value::number(0.02f)}}),
             other = add(p, "random_vertex_offset", {{"amount", Value::number(0.02f)}, {"seed", Value::number(1)}});
    constexpr int size = 64;
    const auto a = overSquare(p, {offset, "out", ""}, size), b = overSquare(p, {other, "out", ""}, size);
    std::array<double, 3> mean{};
    std::vector<float> seen;
    size_t alike = 0;
    for (size_t i = 0; i < a.size(); ++i) {
        ASSERT_LE(std::fabs(a[i]), 0.02f);
        mean[i % 3] += double(a[i]) / (size * size);
        if (i % 3 == 0) seen.push_back(a[i]);
        alike += a[i] == b[i];
    }
    for (const double m : mean) EXPECT_NEAR(m, 0, 0.001) << "no direction is favoured";
    std::sort(seen.begin(), seen.end());
    EXPECT_GT(std::unique(seen.begin(), seen.end()) - seen.begin(), size * size * 0.99) << "each place has its own";
    EXPECT_LT(alike, a.size() / 100) << "another seed moves another way";
    EXPECT_EQ(a, overSquare(p, {offset, "out", ""}, size));
}

TEST(Frame, TangentAndBitangentRunAlongTheMap) {
    EXPECT_EQ(give("tangent", {}), (std::vector<float>{1, 0, 0}));
    EXPECT_EQ(give("bitangent", {}), (std::vector<float>{0, 1, 0}));
}

} // namespace
} // namespace hue
