#include "core/compile/compile.h"
#include "core/evaluate/evaluator.h"
#include "core/project/frame_inputs.h"
#include "core/tap/swatches.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <cstring>
#include <gtest/gtest.h>
#include <hwy/targets.h>

namespace hue {
namespace {

using namespace test;

std::vector<float> evaluate(const Evaluator& e, const Frame& frame, const std::string& output, int width, int height, int threads = 0) {
    const int components = e.program().code[size_t(e.program().output(output))].width;
    std::vector<float> out(size_t(width * height * components));
    Work control;
    control.threads = threads;
    e.grid(
        frame, {output}, width, height, FlatSquare(width, height),
        [&](int x, int y, int columns, int rows, const float* const* planes) {
            for (int r = 0; r < rows; ++r)
                for (int i = 0; i < columns; ++i)
                    for (int c = 0; c < components; ++c)
                        out[size_t(((y + r) * width + x + i) * components + c)] = planes[c][r * kBlockColumns + i];
        },
        control);
    return out;
}

/// The value of a node's output with constants at its inputs.
float valueOf(std::string_view kind, std::map<std::string, Value> constants, std::map<std::string, std::string> settings = {},
              const std::string& port = "out", double time = 0) {
    Project p = bareProject();
    const Id n = add(p, kind, std::move(constants), std::move(settings));
    const Evaluator e(compileTap(p, masterOf(p), {n, port, ""}).program);
    FrameInputs inputs;
    inputs.time = time;
    return evaluate(e, e.frame(inputs), "tap", 1, 1)[0];
}
Value n(float x) { return Value::number(x); }

TEST(Nodes, ComputeWhatTheirNamesSay) {
    EXPECT_FLOAT_EQ(valueOf("mix", {{"bg", n(2)}, {"fg", n(4)}, {"mix", n(0.25f)}}), 2.5f);
    EXPECT_FLOAT_EQ(valueOf("remap", {{"in", n(3)}, {"inlow", n(2)}, {"inhigh", n(4)}, {"outlow", n(10)}, {"outhigh", n(20)}}), 15);
    EXPECT_FLOAT_EQ(valueOf("remap", {{"in", n(9)}, {"outhigh", n(2)}}, {{"limit", "on"}}), 2);
    EXPECT_FLOAT_EQ(valueOf("contrast", {{"in", n(0.75f)}, {"amount", n(2)}}), 1);
    EXPECT_FLOAT_EQ(valueOf("step", {{"in", n(0.5f)}, {"edge", n(0.5f)}}), 1);
    EXPECT_FLOAT_EQ(valueOf("smoothstep", {{"in", n(0.25f)}}), 0.15625f);
    EXPECT_FLOAT_EQ(valueOf("modulo", {{"in1", n(-0.25f)}, {"in2", n(1)}}), 0.75f);
    EXPECT_FLOAT_EQ(valueOf("fract", {{"in", n(-0.25f)}}), 0.75f);
    EXPECT_FLOAT_EQ(valueOf("if_greater", {{"value1", n(1)}, {"value2", n(2)}, {"in1", n(5)}, {"in2", n(7)}}), 7);
    EXPECT_FLOAT_EQ(valueOf("luminance", {{"in", Value::vec3(0, 1, 0)}}), 0.7152f);
    EXPECT_FLOAT_EQ(valueOf("distance", {{"in1", Value::vec3(1, 2, 2)}}), 3);
    EXPECT_NEAR(valueOf("sine", {{"in", n(100)}}), std::sin(100.f), 1e-5f);
    EXPECT_NEAR(valueOf("power", {{"in1", n(0.3f)}, {"in2", n(2.2f)}}), std::pow(0.3f, 2.2f), 1e-6f);
    EXPECT_FLOAT_EQ(valueOf("color_distance", {{"in", Value::vec3(0, 0.5f, 1)}, {"target", Value::vec3(0.1f, 0.5f, 0.8f)}}, {}, "distance"),
                    0.3f);
    EXPECT_FLOAT_EQ(
        valueOf("color_distance", {{"in", Value::vec3(0, 3, 0)}, {"target", Value::vec3(4, 0, 0)}}, {{"measure", "euclidean"}}, "distance"),
        5);
}

TEST(Nodes, HoldTheirEdges) {
    EXPECT_FLOAT_EQ(valueOf("power", {{"in1", n(-2)}, {"in2", n(2)}}), 0) << "a base below 0 counts as 0";
    EXPECT_FLOAT_EQ(valueOf("power", {{"in1", n(0)}, {"in2", n(0)}}), 1);
    EXPECT_FLOAT_EQ(valueOf("square_root", {{"in", n(-4)}}), 0);
    EXPECT_FLOAT_EQ(valueOf("normalize", {{"in", Value::vec3(0, 0, 0)}}), 0);
    EXPECT_FLOAT_EQ(valueOf("smoothstep", {{"in", n(0.5f)}, {"low", n(0.4f)}, {"high", n(0.4f)}}), 1) << "an empty rise is a step";
    EXPECT_FLOAT_EQ(valueOf("color_distance", {{"in", n(1)}, {"soft edge", n(0)}}, {}, "mask"), 1);
}

TEST(Nodes, ARebuiltNormalNeverLeavesTheUnitDisc) {
    for (float x : {0.f, 0.2f, 0.5f, 1.f}) {
        Project p = bareProject();
        const Id z = add(p, "rebuild_z", {{"in", Value::vec2(x, 1)}});
        const Evaluator e(compileTap(p, masterOf(p), {z, "out", ""}).program);
        const auto v = evaluate(e, e.frame({}), "tap", 1, 1);
        float square = 0;
        for (float c : v) square += (2 * c - 1) * (2 * c - 1);
        EXPECT_NEAR(square, 1, 1e-4f);
        EXPECT_GT(v[2], 0.5f) << "Z stays above 0";
    }
}

TEST(Nodes, AHeightThatRisesToTheRightGivesANormalThatLooksLeft) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), normal = add(p, "height_to_normal", {{"scale", n(0.5f)}});
    wire(p, {uv, "out", "x"}, normal, "in");
    const Evaluator e(compileTap(p, masterOf(p), {normal, "out", ""}).program);
    const auto v = evaluate(e, e.frame({}), "tap", 4, 4);
    // Slope 0.5: the normal is (-0.5, 0, 1) made unit.
    EXPECT_NEAR(v[0], 0.5f - 0.5f * 0.4472f, 2e-3f);
    EXPECT_NEAR(v[1], 0.5f, 2e-3f);
    EXPECT_NEAR(v[2], 0.5f + 0.5f * 0.8944f, 2e-3f);
}

std::array<float, 3> joined(std::array<float, 3> ground, std::array<float, 3> detail) {
    std::array<float, 3> out;
    Project p = bareProject();
    const Id n = add(p, "join_normals",
                     {{"in1", Value::vec3(ground[0], ground[1], ground[2])}, {"in2", Value::vec3(detail[0], detail[1], detail[2])}});
    const Evaluator e(compileTap(p, masterOf(p), {n, "out", ""}).program);
    const auto v = evaluate(e, e.frame({}), "tap", 1, 1);
    std::copy_n(v.begin(), 3, out.begin());
    return out;
}

TEST(Nodes, JoiningWithAFlatNormalChangesNothing) {
    const std::array<float, 3> flat{0.5f, 0.5f, 1}, slope{0.8f, 0.5f, 0.9f};
    for (int i = 0; i < 3; ++i) {
        EXPECT_NEAR(joined(slope, flat)[size_t(i)], slope[size_t(i)], 1e-4f);
        EXPECT_NEAR(joined(flat, slope)[size_t(i)], slope[size_t(i)], 1e-4f);
    }
}

TEST(Nodes, JoiningTwoSlopesAddsTheirAnglesAndOppositeOnesCancel) {
    auto encoded = [](float degrees) {
        const float a = degrees * 3.14159265f / 180;
        return std::array<float, 3>{std::sin(a) * 0.5f + 0.5f, 0.5f, std::cos(a) * 0.5f + 0.5f};
    };
    const auto both = joined(encoded(20), encoded(15));
    EXPECT_NEAR(std::atan2(both[0] * 2 - 1, both[2] * 2 - 1) * 180 / 3.14159265f, 35, 0.01);
    const auto none = joined(encoded(25), encoded(-25));
    EXPECT_NEAR(none[0], 0.5f, 1e-4f);
}

TEST(Time, AFlickerBurnsItsShareOfTheTimeAndBlinksTheSameWayAgain) {
    auto at = [](double time, float seed, float share) {
        return valueOf("flicker", {{"rate", n(10)}, {"share", n(share)}, {"seed", n(seed)}, {"low", n(0.25f)}, {"high", n(2)}}, {}, "out",
                       time);
    };
    int on = 0, differ = 0;
    for (int i = 0; i < 1000; ++i) {
        const double time = 0.05 + 0.1 * i;
        const float v = at(time, 3, 0.7f);
        EXPECT_TRUE(v == 0.25f || v == 2.f);
        EXPECT_EQ(v, at(time, 3, 0.7f));
        on += v == 2.f;
        differ += v != at(time, 4, 0.7f);
    }
    EXPECT_NEAR(on, 700, 60);
    EXPECT_GT(differ, 200) << "another seed blinks in another way";
    EXPECT_EQ(at(0.3, 1, 1), 2.f) << "a share of 1 never goes out";
}

TEST(Nodes, SceneNodesHaveAValueWithoutAScene) {
    EXPECT_EQ(valueOf("depth_gap", {}), kNothingBehind);
    EXPECT_EQ(valueOf("behind_color", {}), kNoSceneRadiance);
    EXPECT_EQ(valueOf("surroundings", {}), kNoSceneRadiance);
}

TEST(Time, AScrollIsExactAfterHours) {
    const double hours = 9 * 3600 + 0.25;
    EXPECT_NEAR(valueOf("scroll", {{"speed", Value::vec2(1, 0)}}, {}, "out", hours), 0.5f + 0.25f, 1e-6f);
    EXPECT_NEAR(valueOf("wave", {{"frequency", n(1)}}, {{"shape", "saw"}}, "out", hours), 0.25f, 1e-6f);
}

TEST(Time, AWaveStaysBetweenLowAndHighInEveryShape) {
    for (const char* shape : {"sine", "triangle", "square", "saw"})
        for (double t = 0; t < 2; t += 0.0613) {
            const float v = valueOf("wave", {{"low", n(2)}, {"high", n(3)}}, {{"shape", shape}}, "out", t);
            EXPECT_GE(v, 2 - 1e-5f) << shape;
            EXPECT_LE(v, 3 + 1e-5f) << shape;
        }
}

TEST(Noise, StaysInRangeVariesAndRepeatsItself) {
    for (const char* kind : {"noise_2d", "cell_noise", "worley_noise", "fractal"}) {
        Project p = bareProject();
        const Id noise = add(p, kind, {{"scale", Value::vec2(13, 13)}});
        const Evaluator e(compileTap(p, masterOf(p), {noise, "out", ""}).program);
        const auto v = evaluate(e, e.frame({}), "tap", 128, 128);
        const auto [low, high] = std::minmax_element(v.begin(), v.end());
        EXPECT_GE(*low, -0.3f) << kind;
        EXPECT_LE(*high, 1.5f) << kind;
        EXPECT_GT(*high - *low, 0.4f) << kind;
        EXPECT_EQ(v, evaluate(e, e.frame({}), "tap", 128, 128)) << kind;
    }
}

TEST(Evaluator, GivesTheSameBitsOnEveryInstructionSetAndThreadCount) {
    const int64_t all = hwy::SupportedTargets();
    for (uint32_t seed = 1; seed < 12; ++seed) {
        const Project p = randomGraph(seed, 40);
        const auto program = compileSurface(p, masterOf(p)).program;
        std::vector<float> first;
        for (int64_t rest = all; rest; rest &= rest - 1) {
            hwy::SetSupportedTargetsForTest(rest & -rest);
            const Evaluator e(program);
            for (int threads : {1, 2}) {
                const auto v = evaluate(e, e.frame({}), "base_color", 97, 33, threads);
                if (first.empty()) first = v;
                EXPECT_EQ(std::memcmp(first.data(), v.data(), v.size() * sizeof(float)), 0)
                    << "seed " << seed << " target " << hwy::TargetName(rest & -rest);
            }
        }
        hwy::SetSupportedTargetsForTest(0);
    }
}

TEST(Evaluator, CanBeCancelled) {
    Project p = bareProject();
    channel(p, {add(p, "fractal"), "out", ""}, "roughness");
    const Evaluator e(compileSurface(p, masterOf(p)).program);
    std::atomic<bool> cancelled = true;
    Work control;
    control.cancelled = &cancelled;
    EXPECT_FALSE(e.grid(
        e.frame({}), {"roughness"}, 64, 64, FlatSquare(64, 64), [](int, int, int, int, const float* const*) {}, control));
}

TEST(Evaluator, ADivisionByZeroShowsAsNotFinite) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), zero = add(p, "subtract"), d = add(p, "divide");
    wire(p, {uv, "out", "x"}, zero, "in1");
    wire(p, {uv, "out", "x"}, zero, "in2");
    wire(p, {zero, "out", ""}, d, "in2");
    const Evaluator e(compileTap(p, masterOf(p), {d, "out", ""}).program);
    EXPECT_FALSE(std::isfinite(evaluate(e, e.frame({}), "tap", 2, 2)[0]));
}

// Small pictures lie side by side in the blocks of the evaluator; each pixel is that of the square evaluated by itself.
TEST(Swatches, ShowTheSquareAtEverySizeOddOrEven) {
    for (const int side : {1, 7, 33, 40, 130, 300}) {
        Project p = bareProject();
        const Id noise = add(p, "noise_2d", {{"scale", Value::number(3)}}), wave = add(p, "sine"), product = add(p, "multiply"),
                 uv = add(p, "texcoord");
        wire(p, {noise, "out", ""}, wave, "in");
        wire(p, {wave, "out", ""}, product, "in1");
        wire(p, {uv, "out", "y"}, product, "in2");
        channel(p, {product, "out", ""}, "roughness");
        const Compilation taps = compileTaps(p, masterOf(p));
        Assets assets;
        const Resolved resolved = resolve(p, "m");
        const auto swatches = swatchesOf(p, resolved, taps, assets, 0.5, side);
        const Evaluator evaluator(taps.program);
        const FrameInputs inputs = frameInputs(p, assets, resolved, 0.5);
        int compared = 0;
        for (const auto& o : taps.program->outputs) {
            if (taps.program->code[size_t(o.value)].width != 1) continue;
            ++compared;
            const Swatch& swatch = swatches.at(o.name);
            ASSERT_EQ(swatch.rgb.size(), size_t(side) * size_t(side));
            const auto values = overSquare(evaluator, inputs, o.name, 1, side);
            for (size_t k = 0; k < values.size(); ++k)
                ASSERT_EQ(int(swatch.rgb[k] & 0xFF), int(std::lround(std::clamp(values[k], 0.f, 1.f) * 255)))
                    << o.name << " at " << k % size_t(side) << ", " << k / size_t(side) << " of " << side;
        }
        EXPECT_GE(compared, 4) << "three cards and channels of one number";
    }
}

} // namespace
} // namespace hue
