// Painting by rule, against what geometry and tables say.
#include "core/paint/fill_rules.h"
#include "core/paint/neighbours.h"
#include "core/paint/wire_values.h"
#include "tests/test_folder.h"
#include "tests/test_glb.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <cstring>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

namespace hue {
namespace {

using namespace test;

PaintChannel filled(const Mesh& mesh, std::initializer_list<const char*> texts, PaintChannel channel = {}) {
    channel.resize(mesh.vertices.size(), 0);
    std::vector<FillRule> rules;
    for (const char* text : texts) {
        const Result<FillRule> rule = fillRuleFromText(text);
        if (!rule) ADD_FAILURE() << rule.error().sentence;
        else rules.push_back(*rule);
    }
    const Outcome done = fillByRules(mesh, rules, channel);
    if (!done) ADD_FAILURE() << done.error().sentence;
    return channel;
}

/// A level square of 2 m whose halves are two slots, parted at x = 0.
Mesh halves(int detail) {
    Mesh mesh = makePlane(detail);
    std::vector<uint32_t> left, right;
    for (size_t t = 0; t < mesh.indices.size(); t += 3) {
        float x = 0;
        for (size_t k = 0; k < 3; ++k) x += mesh.vertices[mesh.indices[t + k]].position[0];
        auto& side = x < 0 ? left : right;
        side.insert(side.end(), mesh.indices.begin() + long(t), mesh.indices.begin() + long(t) + 3);
    }
    mesh.slots = {{"left", 0, uint32_t(left.size())}, {"right", uint32_t(left.size()), uint32_t(right.size())}};
    mesh.indices = left;
    mesh.indices.insert(mesh.indices.end(), right.begin(), right.end());
    return mesh;
}

Mesh scaledBy(Mesh mesh, float size) {
    for (Vertex& v : mesh.vertices)
        for (float& c : v.position) c *= size;
    return mesh;
}

TEST(Curvature, OfASphereIsOneOverItsRadiusAndBelowZeroFromWithin) {
    const float radius = boundsOf(makeSphere(48)).high[1];
    for (const float size : {0.01f, 1.f, 25.f}) {
        Mesh mesh = scaledBy(makeSphere(48), size);
        const MeshNeighbours neighbours(mesh);
        for (const float k : meanCurvatures(mesh, neighbours)) EXPECT_NEAR(k * radius * size, 1, 0.02f);
        for (size_t t = 0; t < mesh.indices.size(); t += 3) std::swap(mesh.indices[t], mesh.indices[t + 1]);
        for (const float k : meanCurvatures(mesh, neighbours)) EXPECT_NEAR(k * radius * size, -1, 0.02f);
    }
    const Mesh plane = makePlane(12);
    for (const float k : meanCurvatures(plane, MeshNeighbours(plane))) EXPECT_NEAR(k, 0, 1e-5f);
}

TEST(Neighbours, AVertexThatASeamSplitsIsOnePlace) {
    // A ring around a sphere ends where it began; its first and last vertices are reckoned apart.
    const Mesh sphere = makeSphere(16);
    const MeshNeighbours neighbours(sphere);
    // 15 rings of 32 places, and two poles.
    EXPECT_EQ(neighbours.places(), 15u * 32 + 2);
    for (uint32_t p = 0; p < neighbours.places(); ++p) {
        EXPECT_GE(neighbours.around(p).size(), 4u);
        for (const uint32_t q : neighbours.around(p)) {
            const auto back = neighbours.around(q);
            EXPECT_NE(std::find(back.begin(), back.end(), p), back.end());
        }
    }
    // So paint that is blurred has no seam.
    PaintChannel spots(sphere.vertices.size());
    std::mt19937 random(3);
    for (float& x : spots) x = float(random() % 2);
    spots = filled(sphere, {"blur 0.1"}, spots);
    std::vector<float> ofPlace(neighbours.places(), -1);
    for (uint32_t v = 0; v < spots.size(); ++v) {
        float& first = ofPlace[neighbours.placeOf(v)];
        if (first < 0) first = spots[v];
        EXPECT_EQ(spots[v], first);
    }
}

TEST(FillRules, DirectionIsTheAngleOfTheNormal) {
    const Mesh sphere = makeSphere(24);
    const PaintChannel up = filled(sphere, {"direction up 90..0"}), aslant = filled(sphere, {"direction 3 0 -4 60..30"});
    for (size_t v = 0; v < up.size(); ++v) {
        const auto& n = sphere.vertices[v].normal;
        const auto degrees = [](double cosine) { return std::acos(std::clamp(cosine, -1.0, 1.0)) * 180 / std::numbers::pi; };
        EXPECT_NEAR(up[v], std::clamp(1 - degrees(double(n[1])) / 90, 0.0, 1.0), 1e-3);
        EXPECT_NEAR(aslant[v], std::clamp((60 - degrees(0.6 * double(n[0]) - 0.8 * double(n[2]))) / 30, 0.0, 1.0), 1e-3);
    }
    // The faces of a cube that meet at a corner are painted apart.
    const Mesh cube = makeCube(2);
    const PaintChannel top = filled(cube, {"direction up 10..5"});
    for (size_t v = 0; v < top.size(); ++v) EXPECT_EQ(top[v], cube.vertices[v].normal[1] > 0.5f ? 1.f : 0.f);
}

TEST(FillRules, HeightIsARampThatMayRunEitherWayAndAStepWhereBothEndsMeet) {
    const Mesh sphere = makeSphere(16);
    const PaintChannel rising = filled(sphere, {"height -0.5..0.5"}), falling = filled(sphere, {"height 0.5..-0.5"}),
                       step = filled(sphere, {"height 0.1..0.1"});
    for (size_t v = 0; v < rising.size(); ++v) {
        const float y = sphere.vertices[v].position[1];
        EXPECT_NEAR(rising[v], std::clamp(y + 0.5f, 0.f, 1.f), 1e-6f);
        EXPECT_NEAR(falling[v], 1 - rising[v], 1e-6f);
        EXPECT_EQ(step[v], y >= 0.1f ? 1.f : 0.f);
    }
}

TEST(FillRules, EdgesAreWhatBendsOutwardAndCavitiesWhatBendsInward) {
    // A ring of 1 m whose tube is thin: it bends outward at the outside, and less at the inside.
    const Mesh torus = makeTorus(48);
    const PaintChannel out = filled(torus, {"edges 0..10"}), in = filled(torus, {"cavities 0..10"});
    for (size_t v = 0; v < out.size(); ++v) EXPECT_EQ(std::min(out[v], in[v]), 0.f) << "never both";
    Mesh hollow = makeSphere(24);
    for (size_t t = 0; t < hollow.indices.size(); t += 3) std::swap(hollow.indices[t], hollow.indices[t + 1]);
    EXPECT_GT(shareOf(filled(makeSphere(24), {"edges 0..2"})).least, 0.4f);
    EXPECT_EQ(shareOf(filled(makeSphere(24), {"cavities 0..2"})).most, 0);
    EXPECT_GT(shareOf(filled(hollow, {"cavities 0..2"})).least, 0.4f);
    EXPECT_EQ(shareOf(filled(hollow, {"edges 0..2"})).most, 0);
}

TEST(FillRules, ABorderIsAsFarAsTheWayAlongTheSurface) {
    const Mesh mesh = halves(16);
    const PaintChannel near = filled(mesh, {"border 0.5..0"});
    for (size_t v = 0; v < near.size(); ++v)
        EXPECT_NEAR(near[v], std::clamp(1 - std::fabs(mesh.vertices[v].position[0]) / 0.5f, 0.f, 1.f), 1e-4f);
    // Where no edge leads, it is as far as can be.
    Mesh apart = mesh;
    const auto first = uint32_t(apart.vertices.size());
    for (const float x : {5.f, 6.f, 7.f}) {
        Vertex v;
        v.position = {x, x * x, 0};
        apart.vertices.push_back(v);
    }
    for (uint32_t k = 0; k < 3; ++k) apart.indices.push_back(first + k);
    apart.slots[1].indexCount += 3;
    EXPECT_EQ(filled(apart, {"border 0.5..0"}).back(), 0);
    EXPECT_EQ(filled(apart, {"border 0..0.5"}).back(), 1);
}

TEST(FillRules, BlurSpreadsAStepAsTheNormalDistributionDoes) {
    const Mesh mesh = makePlane(64);
    PaintChannel step(mesh.vertices.size());
    for (size_t v = 0; v < step.size(); ++v) {
        const float x = mesh.vertices[v].position[0];
        step[v] = x > 0.001f ? 1.f : x < -0.001f ? 0.f : 0.5f;
    }
    constexpr float reach = 0.2f;
    const PaintChannel soft = filled(mesh, {"blur 0.2"}, step);
    int compared = 0;
    for (size_t v = 0; v < soft.size(); ++v) {
        const auto& p = mesh.vertices[v].position;
        if (std::fabs(p[0]) > 0.5f || std::fabs(p[2]) > 0.5f) continue; // its ends are far away
        EXPECT_NEAR(soft[v], 0.5f * std::erfc(-p[0] / (reach * std::numbers::sqrt2_v<float>)), 0.012f) << p[0];
        ++compared;
    }
    EXPECT_GT(compared, 500);
    // Nothing appears that was not there before.
    EXPECT_GE(shareOf(soft).least, 0);
    EXPECT_LE(shareOf(soft).most, 1);
    EXPECT_EQ(filled(mesh, {"constant 0.25", "blur 0.1"})[7], 0.25f);
}

TEST(FillRules, NoiseAndWiresAreWhatTheCardsGive) {
    Project p = bareProject();
    const Id noise = add(p, "noise_3d", {{"scale", Value::number(4)}, {"amplitude", Value::number(0.5f)}, {"pivot", Value::number(0.5f)}},
                         {{"space", "object"}});
    const Id dark = add(p, "multiply", {{"in2", Value::number(0.5f)}});
    wire(p, {noise, "out", ""}, dark, "in1");
    Assets assets;
    const Mesh sphere = makeSphere(24);
    const auto byWire = wireAtVertices(p, assets, "m", {noise, "out", {}}, sphere, 0);
    ASSERT_TRUE(byWire) << byWire.error().sentence;
    const PaintChannel byRule = filled(sphere, {"noise 0.25"});
    for (size_t v = 0; v < byRule.size(); ++v) EXPECT_NEAR(byRule[v], std::clamp((*byWire)[v], 0.f, 1.f), 1e-5f);
    EXPECT_GT(shareOf(byRule).most - shareOf(byRule).least, 0.3f) << "else there is nothing to see";
    // The same through a rule, and at half by the card behind it.
    const WireValues wires = [&](const std::string& name) {
        return wireAtVertices(p, assets, "m", {name.substr(0, name.find('.')), "out", {}}, sphere, 0);
    };
    PaintChannel half(sphere.vertices.size(), 1);
    ASSERT_TRUE(fillByRules(sphere, std::vector{*fillRuleFromText("wire " + dark + ".out")}, half, wires));
    for (size_t v = 0; v < half.size(); ++v) EXPECT_NEAR(half[v], byRule[v] / 2, 1e-5f);
    // A map is nothing to paint by, and a card at fault neither.
    const Id map = add(p, "parameter");
    EXPECT_EQ(wireAtVertices(p, assets, "m", {map, "out", {}}, sphere, 0).error().code, "paint.wire");
}

TEST(FillRules, MeetWhatIsThereAsTheirWordsSay) {
    const Mesh one = makePlane(1);
    const auto over = [&](const char* rule) { return filled(one, {"constant 0.4", rule})[0]; };
    EXPECT_NEAR(over("constant 0.3"), 0.3, 1e-6);
    EXPECT_NEAR(over("constant 0.3 add"), 0.7, 1e-6);
    EXPECT_NEAR(over("constant 0.8 add"), 1, 1e-6);
    EXPECT_NEAR(over("constant 0.3 subtract"), 0.1, 1e-6);
    EXPECT_NEAR(over("constant 0.8 subtract"), 0, 1e-6);
    EXPECT_NEAR(over("constant 0.5 multiply"), 0.2, 1e-6);
    EXPECT_NEAR(over("constant 0.3 largest"), 0.4, 1e-6);
    EXPECT_NEAR(over("constant 0.3 smallest"), 0.3, 1e-6);
    EXPECT_NEAR(over("constant 0.3 add weight 0.5"), 0.55, 1e-6);
    EXPECT_NEAR(over("constant 0.3 weight 0"), 0.4, 1e-6);
    EXPECT_NEAR(over("invert"), 0.6, 1e-6);
    EXPECT_NEAR(over("levels 0.2..0.6"), 0.5, 1e-6);
    // The first lies below the others.
    EXPECT_NEAR(filled(one, {"constant 1", "constant 0.5 multiply", "invert"})[0], 0.5, 1e-6);
}

TEST(FillRules, OfNoUseAreRefusedAndChangeNothing) {
    for (const char* text : {"",
                             "   ",
                             "hieght 0..1",
                             "height",
                             "height 1",
                             "height 0..",
                             "height a..b",
                             "height 0..inf",
                             "constant 2",
                             "constant",
                             "noise 0",
                             "noise -1",
                             "blur",
                             "direction sideways 0..1",
                             "direction 0 0 0 60..30",
                             "direction up",
                             "height 0..1 weight",
                             "height 0..1 weight 2",
                             "height 0..1 heavily",
                             "wire",
                             "constant nan"}) {
        const Result<FillRule> rule = fillRuleFromText(text);
        ASSERT_FALSE(rule) << text;
        EXPECT_EQ(rule.error().code, "paint.rule");
        EXPECT_NE(rule.error().sentence.find(std::string("\"") + text + "\""), std::string::npos) << rule.error().sentence;
    }
    // A pile whose last rule can't be done leaves the channel as it was.
    const Mesh one = makePlane(4);
    PaintChannel channel(one.vertices.size(), 0.3f);
    const std::vector rules{*fillRuleFromText("constant 1"), *fillRuleFromText("border 0..1")};
    EXPECT_EQ(fillByRules(one, rules, channel).error().code, "paint.no-border");
    EXPECT_EQ(channel, PaintChannel(one.vertices.size(), 0.3f));
    EXPECT_EQ(fillByRules(one, std::vector{*fillRuleFromText("wire a.out")}, channel).error().code, "paint.rule")
        << "no master to read it of";
    // What is no number is not painted.
    const float nan = std::nanf("");
    ASSERT_TRUE(fillByRules(one, std::vector{*fillRuleFromText("wire a.out")}, channel,
                            [&](const std::string&) -> Result<PaintChannel> { return PaintChannel(one.vertices.size(), nan); }));
    EXPECT_EQ(channel, PaintChannel(one.vertices.size(), 0));
    // Nor do triangles without an area do harm.
    Mesh flat = one;
    for (Vertex& v : flat.vertices) v.position = {1, 1, 1};
    for (const float x : filled(flat, {"edges 1..2", "blur 1", "height 0..1 add", "noise 1 multiply"})) EXPECT_TRUE(std::isfinite(x));
    EXPECT_TRUE(filled(Mesh{}, {"edges 1..2", "blur 1"}).empty());
}

class HskPaint : public InFolder {};

TEST_F(HskPaint, WritesThePaintedMeshAndTellsWhatItHolds) {
    const std::string depot = depotFile(), file = (folder / "painted.glb").string();
    const Ran ran = runHsk("paint " + depot +
                           " --mesh sphere/2 --channel g --rule 'height -1..1' --rule 'constant 0.5 multiply' --json --export " + file);
    ASSERT_EQ(ran.code, 0) << ran.output;
    const auto colors = Glb(file).colors("COLOR_0");
    const MeshPtr sphere = shapeById("shape:sphere/2");
    ASSERT_EQ(colors.size(), sphere->vertices.size());
    for (size_t v = 0; v < colors.size(); ++v) {
        EXPECT_NEAR(colors[v][1], (sphere->vertices[v].position[1] + 1) / 4, 1e-5f);
        EXPECT_EQ(colors[v][0], 0);
        EXPECT_EQ(colors[v][3], 1);
    }
    const auto told = nlohmann::json::parse(ran.output);
    EXPECT_EQ(told["vertices"], colors.size());
    EXPECT_NEAR(told["channels"][1]["most"].get<float>(), 0.5f, 1e-5f);
    // A wire of the demo's master, and words for what is not there.
    EXPECT_EQ(runHsk("paint " + depot + " --mesh sphere --rule 'wire dirt.out' --of Bodywork").code, 0);
    for (const char* wrong : {"--rule 'wire gone.out' --of Bodywork", "--rule 'wire dirt.gone' --of Bodywork", "--rule 'wire dirt.out'",
                              "--rule 'hight 1'", "--of Nobody", "--rule 'border 0..1'"}) {
        const Ran refused = runHsk("paint " + depot + " --mesh sphere " + wrong);
        EXPECT_EQ(refused.code, 2) << wrong;
        EXPECT_NE(refused.output, "") << wrong;
    }
}

} // namespace
} // namespace hue
