// Values as an independent derivation gives them, and what a flat map cannot hold.
#include "core/dispatch/dispatch.h"
#include "core/make/flat_limits.h"
#include "core/make/made_maps.h"
#include "core/nodes/catalogue.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <cmath>
#include <numbers>

namespace hue {
namespace {

using namespace test;

Project withMap() {
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.png", MapKind::Data, Wrap::Repeat, {}, {}}));
    return p;
}

constexpr double kTurn = 2 * std::numbers::pi;
/// A height that repeats, and its slopes by the rules of differentiation.
double heightAt(double u, double v) { return 0.5 + 0.2 * std::sin(kTurn * u) + 0.15 * std::cos(kTurn * (2 * v + u)); }
double slopeU(double u, double v) { return 0.2 * kTurn * std::cos(kTurn * u) - 0.15 * kTurn * std::sin(kTurn * (2 * v + u)); }
double slopeV(double u, double v) { return -0.15 * 2 * kTurn * std::sin(kTurn * (2 * v + u)); }
MapPtr heightMap(int size) {
    std::vector<std::byte> texels(size_t(size) * size_t(size) * 16);
    auto* f = reinterpret_cast<float*>(texels.data());
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x)
            for (int c = 0; c < 4; ++c) *f++ = float(heightAt((x + 0.5) / size, (y + 0.5) / size));
    return std::make_shared<Map>(size, size, TexelFormat::F32, false, Wrap::Repeat, std::move(texels));
}

/// How the mesh's UVs become those that the map is read at.
struct Placing {
    const char* name;
    std::function<Id(Project&)> read;                           ///< the card that gives the height, at "color"
    std::function<std::array<double, 2>(double, double)> place; ///< the same by hand
    std::array<double, 4> matrix;                               ///< d(place)/d(u, v): uu, uv, vu, vv
};

std::vector<Placing> placings() {
    std::vector<Placing> out;
    out.push_back({"as the mesh is",
                   [](Project& p) {
                       return add(p, "image", {}, {{"map", "map"}});
                   },
                   [](double u, double v) {
                       return std::array{u, v};
                   },
                   {1, 0, 0, 1}});
    for (const double tiling : {2.0, 5.0, 8.0})
        out.push_back({"tiled",
                       [tiling](Project& p) {
                           return add(p, "tiled_image", {{"tiling", Value::vec2(float(tiling), float(tiling))}}, {{"map", "map"}});
                       },
                       [tiling](double u, double v) {
                           return std::array{u * tiling, v * tiling};
                       },
                       {tiling, 0, 0, tiling}});
    out.push_back({"stretched",
                   [](Project& p) {
                       return add(p, "tiled_image", {{"tiling", Value::vec2(6, 0.5f)}}, {{"map", "map"}});
                   },
                   [](double u, double v) {
                       return std::array{u * 6, v * 0.5};
                   },
                   {6, 0, 0, 0.5}});
    const double c = std::cos(0.5), s = std::sin(0.5);
    out.push_back({"turned and multiplied",
                   [](Project& p) {
                       const Id uv = add(p, "texcoord"), turn = add(p, "rotate_2d", {{"amount", Value::number(float(0.5 * 360 / kTurn))}}),
                                more = add(p, "multiply", {{"in2", Value::number(3)}}), read = add(p, "image", {}, {{"map", "map"}});
                       wire(p, {uv, "out", ""}, turn, "in");
                       wire(p, {turn, "out", ""}, more, "in1");
                       wire(p, {more, "out", ""}, read, "uv");
                       return read;
                   },
                   // Either way round: the sign is found from a value below.
                   [c, s](double u, double v) {
                       return std::array{3 * (c * u - s * v), 3 * (s * u + c * v)};
                   },
                   {3 * c, -3 * s, 3 * s, 3 * c}});
    return out;
}

TEST(HeightToNormal, HasTheSlopesOfTheHeightHoweverItsMapIsPlaced) {
    const MapPtr map = heightMap(512);
    constexpr int size = 64;
    constexpr double depth = 0.04;
    for (const Placing& placing : placings()) {
        Project p = withMap();
        const Id read = placing.read(p), normal = add(p, "height_to_normal", {{"scale", Value::number(float(depth))}});
        wire(p, {read, "color", "r"}, normal, "in");
        // The placing by hand is that of the cards, or the comparison would say nothing.
        const std::vector<float> heights = overSquare(p, {read, "color", "r"}, size, map);
        Placing mine = placing;
        const auto fits = [&] {
            double worst = 0;
            for (int y = 0; y < size; y += 7)
                for (int x = 0; x < size; x += 5) {
                    const auto at = mine.place((x + 0.5) / size, (y + 0.5) / size);
                    worst = std::max(worst, std::fabs(heights[size_t(y * size + x)] - heightAt(at[0], at[1])));
                }
            return worst < 0.02;
        };
        if (!fits()) {
            const auto other = placing.matrix;
            mine.matrix = {other[0], -other[1], -other[2], other[3]};
            mine.place = [m = mine.matrix](double u, double v) { return std::array{m[0] * u + m[1] * v, m[2] * u + m[3] * v}; };
        }
        ASSERT_TRUE(fits()) << placing.name;
        const std::vector<float> normals = overSquare(p, {normal, "out", ""}, size, map);
        double worst = 0, tilted = 0;
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const auto at = mine.place((x + 0.5) / size, (y + 0.5) / size);
                const double hu = slopeU(at[0], at[1]), hv = slopeV(at[0], at[1]);
                const double su = depth * (hu * mine.matrix[0] + hv * mine.matrix[2]),
                             sv = depth * (hu * mine.matrix[1] + hv * mine.matrix[3]);
                const double length = std::sqrt(su * su + sv * sv + 1);
                const double wanted[3] = {-su / length, sv / length, 1 / length};
                for (int k = 0; k < 3; ++k) worst = std::max(worst, std::fabs(normals[size_t((y * size + x) * 3 + k)] * 2 - 1 - wanted[k]));
                tilted = std::max(tilted, std::fabs(wanted[0]));
            }
        EXPECT_LT(worst, 0.03) << placing.name << " " << mine.matrix[0];
        EXPECT_GT(tilted, 0.04) << "there is a slope to be right about";
    }
}

TEST(HeightToNormal, SaysWhenItsHeightDoesNotFollowUvs) {
    Project p = withMap();
    const Id read = add(p, "triplanar_projection", {}, {{"map", "map"}}), normal = add(p, "height_to_normal");
    wire(p, {read, "color", "r"}, normal, "in");
    std::vector<std::string> codes;
    overSquare(p, {normal, "out", ""}, 8, heightMap(16), 0, &codes);
    EXPECT_TRUE(holds(codes, "normal.no-slope"));
    Project q = withMap();
    const Id image = add(q, "image", {}, {{"map", "map"}}), fine = add(q, "height_to_normal");
    wire(q, {image, "color", "r"}, fine, "in");
    overSquare(q, {fine, "out", ""}, 8, heightMap(16), 0, &codes);
    EXPECT_FALSE(holds(codes, "normal.no-slope"));
}

TEST(TexelSize, IsTheStepToTheNeighbourAtTheUvThatIsWired) {
    Project p = withMap();
    const Id uv = add(p, "texcoord"), more = add(p, "multiply", {{"in2", Value::number(8)}}),
             step = add(p, "texel_size", {}, {{"map", "map"}}), plain = add(p, "texel_size", {}, {{"map", "map"}});
    wire(p, {uv, "out", ""}, more, "in1");
    wire(p, {more, "out", ""}, step, "uv");
    const MapPtr map = heightMap(32);
    EXPECT_NEAR(overSquare(p, {step, "out", ""}, 4, map)[0], 1.f / 256, 1e-6f) << "a texel of 32 at a tiling of 8";
    EXPECT_FLOAT_EQ(overSquare(p, {plain, "out", ""}, 4, map)[0], 1.f / 32);
    // Nearby with that step reads the neighbouring texel itself.
    const Id read = add(p, "image", {}, {{"map", "map"}}), next = add(p, "nearby"),
             sides = add(p, "multiply", {{"in2", Value::vec2(1, 0)}});
    wire(p, {more, "out", ""}, read, "uv");
    wire(p, {step, "out", ""}, sides, "in1");
    wire(p, {read, "color", "r"}, next, "in");
    wire(p, {sides, "out", ""}, next, "offset");
    const auto here = overSquare(p, {next, "out", ""}, 32, map);
    for (int i = 0; i < 32; ++i) {
        const double u = (i + 0.5) / 32 * 8 + 1.0 / 32, v = 0.5 / 32 * 8;
        EXPECT_NEAR(here[size_t(i)], heightAt(u, v), 0.02);
    }
}

TEST(Power, OfNoughtToNoughtIsOneAndBelowNoughtCountsAsNought) {
    Project p = bareProject();
    const auto power = [&](float a, float b) {
        const Id n = add(p, "power", {{"in1", Value::number(a)}, {"in2", Value::number(b)}});
        return overSquare(p, {n, "out", ""}, 2)[0];
    };
    EXPECT_EQ(power(0, 0), 1);
    EXPECT_EQ(power(-3, 0), 1);
    EXPECT_EQ(power(0, 2), 0);
    EXPECT_NEAR(power(2, 10), 1024, 0.01);
}

TEST(Sine, KeepsItsPlaceAtLargeAngles) {
    // Against the C library in double precision, of the angle as a float holds it.
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), more = add(p, "multiply", {{"in2", Value::number(1)}}), sine = add(p, "sine");
    wire(p, {uv, "out", "x"}, more, "in1");
    wire(p, {more, "out", ""}, sine, "in");
    for (const float scale : {10.f, 1e3f, 1e5f, 7.5e5f, 3e6f}) {
        Project q = *edit::setConstant(p, "m", more, "in2", Value::number(scale));
        const auto angles = overSquare(q, {more, "out", ""}, 256), sines = overSquare(q, {sine, "out", ""}, 256);
        double worst = 0;
        for (size_t i = 0; i < sines.size(); ++i) worst = std::max(worst, std::fabs(sines[i] - std::sin(double(angles[i]))));
        EXPECT_LT(worst, 2e-6) << "angles up to " << scale;
    }
}

TEST(Flicker, GoesOnAfterMonths) {
    Project p = bareProject();
    const Id flicker = add(p, "flicker", {{"rate", Value::number(8)}, {"share", Value::number(0.5f)}});
    // The same number of possible jumps later, a whole round on, it blinks the same; in between it does not stand.
    const double round = 4096.0 / 8;
    int on = 0;
    for (int i = 0; i < 64; ++i) {
        const double t = 1.05 + i * 0.125;
        const float now = overSquare(p, {flicker, "out", ""}, 1, nullptr, t)[0];
        EXPECT_EQ(overSquare(p, {flicker, "out", ""}, 1, nullptr, t + round * 20000)[0], now) << t << ", and four months later";
        on += now > 0.5f;
    }
    EXPECT_GT(on, 16);
    EXPECT_LT(on, 48);
}

TEST(HexTiling, HoldsNothingBeyondItsMap) {
    // Two values, of which everything between may come by filtering, and nothing beyond.
    constexpr int size = 32;
    std::vector<std::byte> texels(size * size * 16);
    auto* f = reinterpret_cast<float*>(texels.data());
    for (int i = 0; i < size * size; ++i)
        for (int c = 0; c < 4; ++c) *f++ = ((i % size) / 4 + i / size / 4) % 2 ? 0.8f : 0.3f;
    const auto map = std::make_shared<Map>(size, size, TexelFormat::F32, false, Wrap::Repeat, std::move(texels));
    Project p = withMap();
    const Id node = add(p, "hex_tiled_image", {{"tiling", Value::vec2(3, 3)}}, {{"map", "map"}});
    const auto v = overSquare(p, {node, "color", ""}, 256, map);
    const auto [least, most] = std::minmax_element(v.begin(), v.end());
    EXPECT_GE(*least, 0.3f - 1e-4f);
    EXPECT_LE(*most, 0.8f + 1e-4f);
    EXPECT_LT(*least, 0.32f) << "and both are there";
    EXPECT_GT(*most, 0.78f);
}

/// The words of what a card's output depends on, by evaluation of what the compiler left.
std::vector<std::string> limitsOf(const Project& p, const std::string& channelKey) {
    std::vector<std::string> out;
    for (const FlatLimit& l : flatLimits(*compileSurface(p, masterOf(p)).program, {channelKey})) out.emplace_back(l.what);
    return out;
}

TEST(FlatMaps, SayOfEveryNodeThatReadsMoreThanUvWhatTheyHoldInstead) {
    // Every node of the catalogue: what its Program changes with, beyond UV and time, is told.
    int told = 0;
    for (const NodeDef& def : catalogue()) {
        if (def.outputs.empty() || def.outputs[0].width == kMapPort || def.key == "parameter") continue;
        for (const auto& settings : settingsOf(def)) {
            Project p = withMap();
            auto chosen = settings;
            for (const SettingDef& s : def.settings)
                if (s.key == "map") chosen["map"] = "map";
            const Id node = add(p, def.key, {}, chosen);
            const int width = def.outputs[0].width;
            channel(p, {node, std::string(def.outputs[0].key), width > 1 || width == kAnyWidth ? "" : ""},
                    width == 3 ? "base_color" : "roughness");
            const Compilation c = compileSurface(p, masterOf(p));
            if (!c.ok) continue;
            const std::string key = width == 3 ? "base_color" : "roughness";
            bool reads = false;
            const Program& program = *c.program;
            std::vector<char> used(program.code.size(), 0);
            if (program.output(key) < 0) continue;
            used[size_t(program.output(key))] = 1;
            for (size_t i = program.code.size(); i-- > 0;) {
                if (!used[i]) continue;
                const Instruction& code = program.code[i];
                for (int a = 0; a < code.operands; ++a) used[size_t(code.args[a])] = 1;
                reads = reads || (code.op == Op::Attribute && Attribute(code.imm) != Attribute::Uv0) ||
                        infoOf(code.op).is(kPlacement | kCamera) || code.op == Op::Behind || code.op == Op::Around;
            }
            EXPECT_EQ(!limitsOf(p, key).empty(), reads) << def.key;
            told += reads;
        }
    }
    EXPECT_GT(told, 8);
}

TEST(FlatMaps, HoldANormalMapAndNotAMaskMadeOfTheMeshsNormal) {
    Project p = withMap();
    const Id image = add(p, "image", {}, {{"map", "map"}}), normal = add(p, "normal_map");
    wire(p, {image, "color", ""}, normal, "in");
    channel(p, {normal, "out", ""}, "normal");
    EXPECT_TRUE(limitsOf(p, "normal").empty()) << "a normal map is just what a flat map holds";
    const Id facing = add(p, "facing_axis");
    channel(p, {facing, "out", ""}, "roughness");
    EXPECT_EQ(limitsOf(p, "roughness"), std::vector<std::string>{"the mesh's normal"});
    Assets assets;
    const auto set = bake(p, assets, {"m", 8, 0, {}});
    ASSERT_TRUE(set);
    int found = 0;
    for (const std::string& c : set->cautions) found += c.find("the mesh's normal") != std::string::npos;
    EXPECT_EQ(found, 1) << "told once, by name";
}

class DispatchWords : public InFolder {};

TEST_F(DispatchWords, TellOfSlotsUvsAndSuffixes) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::number(3)}}, {{"seamless", "no"}});
    channel(p, {noise, "out", ""}, "roughness");
    // A mesh with two slots whose UVs run to 3.
    Mesh mesh = makePlane(2);
    for (Vertex& v : mesh.vertices) v.uv0 = {v.uv0[0] * 3, v.uv0[1]};
    const uint32_t half = uint32_t(mesh.indices.size() / 6 * 3);
    mesh.slots = {{"left", 0, half}, {"right", half, uint32_t(mesh.indices.size()) - half}};
    ASSERT_TRUE(writeMesh(folder / "two.glb", mesh));
    Assets assets;
    assets.setFolder(folder);
    p = *edit::addMesh(p, {"two", "two", "two.glb", {}});
    const auto said = [](const DispatchReport& r, const std::string& words) {
        for (const std::string& c : r.cautions)
            if (c.find(words) != std::string::npos) return true;
        return false;
    };
    const auto report = dispatchGlb(p, assets, {"m", 16, 0, {}}, "two", folder / "out.glb");
    ASSERT_TRUE(report) << report.error().sentence;
    EXPECT_TRUE(said(*report, "All 2 slots"));
    EXPECT_TRUE(said(*report, "UVs leave"));
    const auto plain = dispatchGlb(p, assets, {"m", 16, 0, {}}, "shape:plane", folder / "plain.glb");
    ASSERT_TRUE(plain);
    EXPECT_FALSE(said(*plain, "slots")) << "one slot is no news";
    EXPECT_FALSE(said(*plain, "UVs leave"));
    Project q = bareProject();
    const Id seamless = add(q, "noise_2d", {{"scale", Value::number(3)}}, {{"seamless", "yes"}});
    channel(q, {seamless, "out", ""}, "roughness");
    q = *edit::addMesh(q, {"two", "two", "two.glb", {}});
    const auto repeats = dispatchGlb(q, assets, {"m", 16, 0, {}}, "two", folder / "out.glb");
    ASSERT_TRUE(repeats);
    EXPECT_FALSE(said(*repeats, "UVs leave")) << "what repeats is the same there";
    const auto wrong = dispatchGlb(p, assets, {"m", 16, 0, {}}, "two", folder / "out.gltf");
    ASSERT_FALSE(wrong);
    EXPECT_EQ(wrong.error().code, "dispatch.suffix");
    EXPECT_FALSE(std::filesystem::exists(folder / "out.gltf"));
}

TEST(Exposing, LeavesWhatFollowsTheMeshAndGivesLimits) {
    Project p = bareProject();
    for (const auto& [kind, port] : {std::pair{"noise_2d", "uv"}, {"worley_noise", "uv"}, {"scroll", "uv"}, {"fresnel", "normal"}}) {
        const Id card = add(p, kind);
        Parameter k;
        k.name = "P";
        const auto refused = edit::expose(p, "m", card, port, k);
        ASSERT_FALSE(refused) << kind;
        EXPECT_EQ(refused.error().code, "expose.follows-mesh") << kind;
    }
    const Id noise = add(p, "noise_2d"), four = add(p, "constant", {{"value", Value{4, {0.1f, 0.2f, 0.3f, 0.4f}}}});
    Parameter k;
    k.name = "Scale";
    const auto exposed = edit::expose(p, "m", noise, "scale", k);
    ASSERT_TRUE(exposed);
    const Parameter& made = masterOf(*exposed).parameters[0];
    EXPECT_LT(made.hardMax, 1e5f) << "limits that mean something";
    EXPECT_GE(made.hardMax, 10 * made.softMax);
    EXPECT_LE(made.hardMin, made.softMin);
    k.name = "Four";
    const auto color = edit::expose(p, "m", four, "value", k);
    ASSERT_TRUE(color);
    EXPECT_TRUE(masterOf(*color).parameters[0].alpha);
    EXPECT_EQ(masterOf(*color).parameters[0].standard.value, (Value{4, {0.1f, 0.2f, 0.3f, 0.4f}})) << "a fourth number is not dropped";
}

} // namespace
} // namespace hue
