// What changes evenly over triangles is carried by them where that is cheaper, and nobody sees a difference.
#include "core/cost/cost.h"
#include "core/evaluate/evaluator.h"
#include "core/make/flat_limits.h"
#include "core/program/builder.h"
#include "core/program/passes/passes.h"
#include "core/program/passes/vertex_split.h"
#include "core/surface/surface_stages.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace hue {
namespace {

struct Small {
    std::shared_ptr<Program> p = std::make_shared<Program>();
    Builder b{*p};
    void out(std::string name, Val v) { p->outputs.push_back({std::move(name), v.id}); }
    Val uv() { return b.attribute(Attribute::Uv0); }
    /// Operations of a pixel, those of carrying among them.
    int pixelOperations() {
        assignRates(*p);
        return costOf(*p, nullptr, {}).operationsPerPixel();
    }
};

/// A square of pixels that is cut out of one large triangle. What meshes give is of no meaning here, but changes as it does on a triangle:
/// the attributes that are interpolated are planes, the others are waves.
class OneTriangle final : public PointSource {
  public:
    static constexpr int size = 16;

    explicit OneTriangle(uint32_t seed) {
        std::mt19937 random(seed);
        std::uniform_real_distribution<double> number(-2, 2);
        for (auto& attribute : m_planes)
            for (auto& plane : attribute) plane = {number(random), number(random), number(random)};
    }

    /// The corners of the triangle are the pixels (0, 0), (size, 0) and (0, size).
    void carry(const Evaluator& vertices, const Frame& frame) {
        for (int v = 0; v < kCarriedVectors; ++v) {
            const std::string name = "carried" + std::to_string(v);
            if (vertices.program().output(name) < 0) continue;
            vertices.grid(frame, {name}, size + 1, size + 1, *this,
                          [&](int x, int y, int columns, int rows, const float* const* planes) {
                              for (int r = 0; r < rows; ++r)
                                  for (int c = 0; c < columns; ++c)
                                      for (int k = 0; k < 4; ++k) {
                                          const int px = x + c, py = y + r;
                                          const float value = planes[k][r * kBlockColumns + c];
                                          if (px == 0 && py == 0) m_corner[v][k][0] = value;
                                          if (px == size && py == 0) m_corner[v][k][1] = value;
                                          if (px == 0 && py == size) m_corner[v][k][2] = value;
                                      }
                          },
                          {});
        }
    }

    void fill(int x, int y, Attribute a, int component, float* lanes) const override {
        for (int r = 0; r < kBlockRows; ++r)
            for (int c = 0; c < kBlockColumns; ++c) {
                const double px = x + c, py = y + r, wx = px / size, wy = py / size;
                if (isCarried(a)) {
                    const float* corner = m_corner[int(a) - int(Attribute::Carried0)][component];
                    lanes[r * kBlockColumns + c] = float(corner[0] * (1 - wx - wy) + corner[1] * wx + corner[2] * wy);
                } else {
                    const auto& [origin, acrossX, acrossY] = m_planes[size_t(a)][size_t(component)];
                    const double plane = origin + acrossX * wx + acrossY * wy;
                    lanes[r * kBlockColumns + c] =
                        float(a <= Attribute::PositionObject || isPainted(a) ? plane : std::sin(3 * plane));
                }
            }
    }

  private:
    std::array<std::array<std::array<double, 3>, 4>, size_t(Attribute::Count)> m_planes; ///< value at a corner, growth along the two edges
    float m_corner[kCarriedVectors][4][3] = {};
};

FrameInputs someInputs() {
    FrameInputs inputs;
    inputs.time = 1.5;
    inputs.parameter = [](const Id&) { return Value::number(0.7f); };
    inputs.camera.toWorld[3] = {1, 2, 3};
    return inputs;
}

std::vector<float> valuesOn(const OneTriangle& triangle, const Evaluator& e, const std::vector<std::string>& names) {
    std::vector<float> out;
    for (const std::string& name : names) {
        const int width = e.program().code[size_t(e.program().output(name))].width;
        std::vector<float> one(size_t(OneTriangle::size) * OneTriangle::size * size_t(width));
        e.grid(e.frame(someInputs()), {name}, OneTriangle::size, OneTriangle::size, triangle,
               [&](int x, int y, int columns, int rows, const float* const* planes) {
                   for (int r = 0; r < rows; ++r)
                       for (int c = 0; c < columns; ++c)
                           for (int k = 0; k < width; ++k)
                               one[(size_t(y + r) * OneTriangle::size + size_t(x + c)) * size_t(width) + size_t(k)] =
                                   planes[k][r * kBlockColumns + c];
               },
               {});
        out.insert(out.end(), one.begin(), one.end());
    }
    return out;
}

/// A Program of sums, products, turns and whatever makes a value uneven, of all that can be read.
Small randomProgram(uint32_t seed) {
    std::mt19937 random(seed);
    const auto upTo = [&](size_t n) { return size_t(random() % n); };
    Small s;
    Builder& b = s.b;
    std::vector<Val> still{b.number(0.5f), b.number(-1.25f), b.parameter("f", 1), b.op(Op::Sin, b.time()), b.placementRandom()};
    std::vector<Val> all;
    for (const Attribute a : {Attribute::Uv0, Attribute::Uv1, Attribute::Color, Attribute::Painted, Attribute::PaintedSecond, Attribute::PositionWorld,
                              Attribute::PositionObject, Attribute::NormalWorld, Attribute::View, Attribute::Screen})
        all.push_back(b.swizzle(b.attribute(a), {0, 1}));
    all.push_back(b.swizzle(b.cameraToWorld(3), {0, 1}));
    const auto any = [&] { return all[upTo(all.size())]; };
    const auto once = [&] { return still[upTo(still.size())]; };
    for (int k = 0; k < 30; ++k) {
        const Val a = any();
        switch (upTo(14)) {
        case 0: all.push_back(b.op(Op::Sin, a)); break;
        case 1: all.push_back(b.mul(b.number(0.5f), b.op(Op::MulAdd, b.op(Op::Sin, a), any(), any()))); break;
        case 10: all.push_back(b.op(Op::Sin, b.mix(any(), any(), a))); break;
        case 11: all.push_back(b.op(Op::Cos, b.op(Op::MulAdd, a, any(), any()))); break;
        case 2:
        case 3: all.push_back(b.op(Op::MulAdd, a, once(), once())); break;
        case 4: all.push_back(b.mix(a, any(), once())); break;
        case 5: all.push_back(b.mix(once(), b.spread(once(), 2), a)); break;
        case 6: all.push_back(b.op(Op::Div, a, b.number(-1.5f))); break;
        case 7: {
            const Val to = b.compose({once(), once(), once()}), from = b.compose({b.component(a, 0), b.component(any(), 1), once()});
            all.push_back(b.swizzle(b.cross(to, from), {2, 0}));
            break;
        }
        case 8:
        case 9: {
            const Val turn = b.compose({once(), once()});
            all.push_back(b.compose({b.dot(a, turn), b.dot(turn, any())}));
            break;
        }
        default: all.push_back(b.mul(b.number(0.5f), b.op(upTo(2) ? Op::Add : Op::Sub, a, any())));
        }
    }
    for (size_t k = 0; k < 3; ++k) s.out(std::string(1, char('a' + k)), b.op(Op::Sin, all[all.size() - 1 - k]));
    return s;
}

TEST(LeavingToVertices, GivesEveryPixelOfATriangleWhatItGaveBefore) {
    int left = 0, spared = 0;
    for (uint32_t seed = 0; seed < 300; ++seed) {
        Small s = randomProgram(seed);
        optimise(*s.p);
        const Evaluator whole(std::make_shared<Program>(*s.p));
        const int before = s.pixelOperations();
        if (!leaveToVertices(*s.p)) continue;
        ASSERT_EQ(validate(*s.p), "");
        ++left;
        const int now = s.pixelOperations();
        EXPECT_LT(now, before) << seed;
        spared += before - now;
        const VertexSplit split = splitAtVertices(s.p);
        ASSERT_TRUE(split.vertices);
        const Evaluator surface(split.surface), vertices(split.vertices);
        OneTriangle triangle(seed);
        FrameInputs blind = someInputs();
        blind.camera = {}; // vertices do not know it
        triangle.carry(vertices, vertices.frame(blind));
        const std::vector<float> expected = valuesOn(triangle, whole, {"a", "b", "c"}), got = valuesOn(triangle, surface, {"a", "b", "c"});
        for (size_t i = 0; i < got.size(); ++i) ASSERT_NEAR(got[i], expected[i], 1e-4f) << seed << "\n" << describe(*s.p);
    }
    EXPECT_GT(left, 100) << "else nothing was tried";
    EXPECT_GT(spared, 8 * left) << "and not for nothing";
}

TEST(LeavingToVertices, ATurnedUvIsCarriedAndOneThatIsOnlyScaledIsNot) {
    const auto turned = [](bool turns) {
        Small s;
        const Val scaled = s.b.op(Op::MulAdd, s.uv(), s.b.parameter("tiling", 2), s.b.parameter("shift", 2));
        const Val turn = s.b.parameter("turn", 2), across = s.b.parameter("across", 2);
        const Val at = turns ? s.b.compose({s.b.dot(scaled, turn), s.b.dot(scaled, across)}) : scaled;
        s.out("x", s.b.noise2(at));
        return s;
    };
    Small plain = turned(false);
    assignRates(*plain.p);
    EXPECT_FALSE(leaveToVertices(*plain.p)) << "four operations; carrying two numbers costs four";
    Small turning = turned(true);
    const int before = turning.pixelOperations();
    EXPECT_TRUE(leaveToVertices(*turning.p));
    EXPECT_EQ(before - turning.pixelOperations(), 4 + 2 * 5 - 4);
    EXPECT_EQ(costOf(*turning.p, nullptr, {}).carried, 2);
    EXPECT_FALSE(leaveToVertices(*turning.p)) << "there is nothing more to gain";
}

TEST(LeavingToVertices, WhatSeveralReadIsCarriedOnceWhenOnlyTogetherTheyAreSpared) {
    // Two that read one turned position: each alone would leave the turn to the pixels.
    Small s;
    const Val p = s.b.attribute(Attribute::PositionWorld);
    const auto turned = [&](const char* x, const char* y) {
        return s.b.compose({s.b.dot(p, s.b.parameter(x, 3)), s.b.dot(p, s.b.parameter(y, 3))});
    };
    const Val both = turned("x", "y");
    s.out("large", s.b.noise2(s.b.mul(both, s.b.number(2))));
    s.out("small", s.b.noise2(s.b.mul(both, s.b.number(9))));
    ASSERT_TRUE(leaveToVertices(*s.p));
    const Cost cost = costOf(*s.p, nullptr, {});
    EXPECT_EQ(cost.carried, 2);
    EXPECT_EQ(cost.operationsPerPixel(), 2 * 48 + 2 * 2 + 2 * 2) << "two noises, two scales, two numbers carried";
}

TEST(LeavingToVertices, LeavesToPixelsWhatVerticesDoNotKnowOrTrianglesBend) {
    const auto left = [](const std::function<Val(Builder&)>& make) {
        Small s;
        s.out("x", s.b.op(Op::Sin, make(s.b)));
        optimise(*s.p);
        return leaveToVertices(*s.p);
    };
    const auto dear = [](Builder& b, Val v) {
        return b.dot(b.op(Op::MulAdd, v, b.parameter("f", 3), b.parameter("g", 3)), b.parameter("h", 3));
    };
    EXPECT_TRUE(left([&](Builder& b) { return dear(b, b.attribute(Attribute::PositionWorld)); }));
    EXPECT_FALSE(left([&](Builder& b) { return dear(b, b.attribute(Attribute::NormalWorld)); })) << "of length 1 at each pixel";
    EXPECT_FALSE(left([&](Builder& b) { return dear(b, b.attribute(Attribute::View)); }));
    EXPECT_FALSE(left([&](Builder& b) { return dear(b, b.op(Op::Abs, b.attribute(Attribute::PositionWorld))); }));
    EXPECT_FALSE(left([&](Builder& b) {
        const Val p = b.attribute(Attribute::PositionWorld);
        return dear(b, b.mul(p, p));
    }));
    EXPECT_FALSE(left([&](Builder& b) { return b.dot(b.attribute(Attribute::PositionWorld), b.attribute(Attribute::PositionWorld)); }));
    EXPECT_FALSE(left([&](Builder& b) { return dear(b, b.sub(b.attribute(Attribute::PositionWorld), b.cameraToWorld(3))); }));
    EXPECT_FALSE(left([&](Builder& b) { return dear(b, b.op(Op::Div, b.number(1), b.attribute(Attribute::PositionWorld))); }));
}

TEST(LeavingToVertices, NeverTakesTheRoomOfWhatWasAskedFor) {
    Small s;
    // Asked for: 3 + 3 + 3 + 3 numbers; what is left are four single ones.
    for (int k = 0; k < 4; ++k)
        s.out("asked" + std::to_string(k),
              s.b.perVertex(s.b.op(Op::Sin, s.b.mul(s.b.attribute(Attribute::PositionWorld), s.b.number(float(k + 2))))));
    for (int k = 0; k < 6; ++k) {
        const std::string n = std::to_string(k);
        s.out("even" + n, s.b.op(Op::Sin, s.b.dot(s.b.attribute(Attribute::PositionObject), s.b.parameter("p" + n, 3))));
        const Val turned = s.b.compose({s.b.dot(s.uv(), s.b.parameter("a" + n, 2)), s.b.dot(s.uv(), s.b.parameter("b" + n, 2))});
        s.out("wide" + n, s.b.noise2(turned));
    }
    optimise(*s.p);
    ASSERT_TRUE(leaveToVertices(*s.p));
    EXPECT_TRUE(withoutRoom(*s.p).empty());
    const VertexSplit split = splitAtVertices(s.p);
    int asked = 0, unasked = 0;
    std::set<int> taken;
    for (const Carried& c : split.carried) {
        (s.p->code[size_t(c.at)].imm == kCarriedUnasked ? unasked : asked) += c.width;
        for (int k = 0; k < c.width; ++k) EXPECT_TRUE(taken.insert(c.vector * 4 + c.first + k).second);
    }
    EXPECT_EQ(asked, 12);
    EXPECT_EQ(unasked, 4);
    // Nothing that found no room is left behind as something to be carried.
    for (const Instruction& i : split.surface->code) EXPECT_NE(i.op, Op::PerVertex);
}

/// A map read at UVs that are turned by an amount that is set.
Project turnedNoise() {
    using namespace test;
    Project p = bareProject();
    const Id turn = add(p, "rotate_2d", {{"amount", Value::number(30)}}), noise = add(p, "noise_2d", {{"scale", Value::number(3)}}),
             uv = add(p, "texcoord");
    wire(p, {uv, "out", ""}, turn, "in");
    wire(p, {turn, "out", ""}, noise, "uv");
    channel(p, {noise, "out", ""}, "roughness");
    return p;
}

TEST(LeavingToVertices, ShowsInTheLedgerAndInTheStagesAndNotInTheFunctionThatStandsAlone) {
    const Project p = turnedNoise();
    const Master& m = test::masterOf(p);
    const Compilation with = compileSurface(p, m), without = compileSurface(p, m, Constants::Folded, {{"leave-to-vertices"}, {}});
    const Cost cost = costOf(*with.program, nullptr, {}), whole = costOf(*without.program, nullptr, {});
    EXPECT_LT(cost.operationsPerPixel(), whole.operationsPerPixel());
    EXPECT_EQ(cost.carried, 2);
    EXPECT_TRUE(with.diagnostics.empty());
    const Stages stages = stagesOf(with), alone = stagesOf(with, Carry::Asked);
    ASSERT_TRUE(stages.vertices);
    EXPECT_TRUE(stages.pixels->reads(Attribute::Carried0));
    EXPECT_FALSE(alone.vertices);
    EXPECT_FALSE(alone.pixels->reads(Attribute::Carried0));
    EXPECT_EQ(costOf(*alone.pixels, nullptr, {}).operationsPerPixel(), whole.operationsPerPixel());
    // A baked map has no triangles to miss, and open constants are not judged.
    const auto limits = [](const Compilation& c) { return flatLimits(*c.program, {"roughness"}).size(); };
    EXPECT_EQ(limits(with), limits(without));
    EXPECT_FALSE(stagesOf(compileSurface(p, m, Constants::Live)).vertices);
}

} // namespace
} // namespace hue
