// The same Program gives the same numbers in GLSL and on the CPU.
#include "core/emit/emit_glsl.h"
#include "core/make/bake.h"
#include "core/nodes/finish.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <rapidcheck/gtest.h>

namespace hue {
namespace {

using namespace test;
constexpr int kSize = 64;

/// Largest difference of an output over the square; infinite where only one of the two is finite.
float difference(const std::shared_ptr<const Program>& program, const std::string& output, const FrameInputs& inputs) {
    const Evaluator evaluator(program);
    const Frame frame = evaluator.frame(inputs);
    const Result<Picture> gl = Gl::renderer().evaluateFlat(evaluator, frame, output, kSize);
    if (!gl) {
        ADD_FAILURE() << gl.error().sentence;
        return INFINITY;
    }
    std::vector<float> cpu(gl->values.size());
    const int width = gl->channels;
    const FlatSquare square(kSize, kSize);
    evaluator.grid(frame, {output}, kSize, kSize, square,
                   [&](int x, int y, int columns, int rows, const float* const* planes) {
                       for (int r = 0; r < rows; ++r)
                           for (int i = 0; i < columns; ++i)
                               for (int c = 0; c < width; ++c)
                                   cpu[size_t(((y + r) * kSize + x + i) * width + c)] = planes[c][r * kBlockColumns + i];
                   },
                   {});
    float worst = 0;
    for (size_t i = 0; i < cpu.size(); ++i) {
        if (std::isfinite(cpu[i]) != std::isfinite(gl->values[i])) return INFINITY;
        worst = std::max(worst, std::fabs(cpu[i] - gl->values[i]));
    }
    return worst;
}

MapPtr floatMap() {
    constexpr int size = 32;
    std::vector<std::byte> texels(size * size * 16);
    auto* f = reinterpret_cast<float*>(texels.data());
    for (int i = 0; i < size * size; ++i)
        for (int c = 0; c < 4; ++c) *f++ = 0.5f + 0.45f * std::sin(float(i % size) * 0.39f * float(c + 1) + float(i / size) * 0.2f);
    return std::make_shared<Map>(size, size, TexelFormat::F32, false, Wrap::Repeat, std::move(texels));
}

TEST(Engines, AgreeOnAMapBesideTheSurroundings) {
    // Two kinds of samplers in one Program.
    Project p = bareProject();
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.exr", MapKind::Data, Wrap::Repeat, {}, {}}));
    const Id image = add(p, "image", {}, {{"map", "map"}}), around = add(p, "surroundings"), sum = add(p, "add");
    wire(p, {image, "color", ""}, sum, "in1");
    wire(p, {around, "out", ""}, sum, "in2");
    channel(p, {sum, "out", ""}, "base_color");
    FrameInputs inputs;
    const MapPtr map = floatMap();
    inputs.map = [&](const MapSlot&) { return map; };
    const auto program = compileSurface(p, masterOf(p)).program;
    EXPECT_LT(difference(program, "base_color", inputs), 2e-3f);
    const Evaluator evaluator(program);
    const auto gl = Gl::renderer().evaluateFlat(evaluator, evaluator.frame(inputs), "base_color", 16);
    ASSERT_TRUE(gl);
    const auto [least, most] = std::minmax_element(gl->values.begin(), gl->values.end());
    EXPECT_GT(*most, 0.5f) << "and it is not nothing";
    EXPECT_GT(*most - *least, 0.3f);
}

TEST(Engines, AgreeOnPowersAtNought) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), cut = add(p, "floor"), power = add(p, "power", {{"in2", Value::number(0)}});
    wire(p, {uv, "out", "x"}, cut, "in");
    wire(p, {cut, "out", ""}, power, "in1");
    channel(p, {power, "out", ""}, "roughness");
    for (const Constants constants : {Constants::Folded, Constants::Live}) {
        const auto program = compileSurface(p, masterOf(p), constants).program;
        const Evaluator evaluator(program);
        FrameInputs inputs;
        inputs.parameter = [](const Id&) { return Value::number(0); };
        const auto gl = Gl::renderer().evaluateFlat(evaluator, evaluator.frame(inputs), "roughness", 4);
        ASSERT_TRUE(gl);
        for (float v : gl->values) EXPECT_EQ(v, 1) << "nought to the power nought";
    }
}

/// A random graph as a master of its own.
MasterPtr worn(const Id& id, uint32_t seed) {
    auto out = std::make_shared<Master>(masterOf(randomGraph(seed, 12)));
    out->id = out->name = id;
    return out;
}

class EveryNode : public testing::TestWithParam<std::string> {};

TEST_P(EveryNode, GivesTheSameOnTheGraphicsCardAndTheCpu) {
    const NodeDef& def = *findNodeDef(GetParam());
    const MapPtr map = floatMap();
    for (const auto& settings : settingsOf(def))
        for (int width = 1; width <= 4; ++width) {
            Project p = bareProject();
            p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.exr", MapKind::Data, Wrap::Repeat, {}, {}}));
            Parameter parameter;
            parameter.id = "p";
            parameter.name = "P";
            parameter.type = ParameterType::Color;
            parameter.standard.value = Value::vec3(0.2f, 0.4f, 0.6f);
            p = *edit::addParameter(p, "m", parameter);
            auto chosen = settings;
            if (def.key == "parameter") chosen["parameter"] = "p";
            if (def.setting("map")) chosen["map"] = "map";
            if (def.key == kFinishOfKind) {
                p.masters.push_back(worn("worn", 5));
                chosen["of"] = "worn";
            }
            if (const ChannelDef* part = def.key == "with_channel" ? findFinishPart(settings.at("channel")) : nullptr;
                part && width != 1 && width != part->width)
                continue;
            const Id node = feedNode(p, def, chosen, width);
            FrameInputs inputs;
            inputs.time = 1.37;
            inputs.placementRandom = 0.31f;
            inputs.parameter = [](const Id&) { return Value::vec3(0.2f, 0.4f, 0.6f); };
            inputs.map = [&](const MapSlot&) { return map; };
            for (const PortDef& port : def.outputs) {
                if (def.key == "separate" && int(&port - def.outputs.data()) >= width) continue;
                const Compilation compiled = compileTap(p, masterOf(p), {node, std::string(port.key), ""});
                ASSERT_TRUE(compiled.ok) << compiled.diagnostics[0].sentence;
                EXPECT_LE(difference(compiled.program, "tap", inputs), 1e-4f) << port.key << " of width " << width << "\n"
                                                                              << describe(*compiled.program);
            }
            // Nodes without ports of any width are the same for every width.
            if (std::none_of(def.inputs.begin(), def.inputs.end(), [](const PortDef& q) { return q.width == kAnyWidth; })) break;
        }
}

std::vector<std::string> allKinds() {
    std::vector<std::string> out;
    for (const NodeDef& def : catalogue()) out.emplace_back(def.key);
    return out;
}
INSTANTIATE_TEST_SUITE_P(Catalogue, EveryNode, testing::ValuesIn(allKinds()), [](const auto& i) { return i.param; });

TEST(Finishes, GiveTheSameOnTheGraphicsCardAndTheCpuInAllTheirChannels) {
    for (uint32_t seed = 1; seed <= 6; ++seed) {
        Project p = bareProject();
        p.masters.push_back(worn("first", seed));
        p.masters.push_back(worn("second", seed + 100));
        const Id uv = add(p, "texcoord"), turned = add(p, "rotate_2d", {{"amount", Value::number(31)}}), noise = add(p, "noise_2d"),
                 first = add(p, "finish_of", {}, {{"of", "first"}}), second = add(p, "finish_of", {}, {{"of", "second"}}),
                 slopes = add(p, "height_to_normal"), normal = add(p, "normal_map"), coated = add(p, "finish", {}, {{"kind", "coated"}}),
                 blend = add(p, "finish_height_blend"), weights = add(p, "finish_weights", {}, {{"count", "3"}});
        wire(p, {uv, "out", ""}, turned, "in");
        wire(p, {turned, "out", ""}, second, "uv");
        wire(p, {noise, "out", ""}, slopes, "in");
        wire(p, {slopes, "out", ""}, normal, "in");
        wire(p, {normal, "out", ""}, coated, "normal");
        wire(p, {noise, "out", ""}, coated, "height");
        wire(p, {noise, "out", ""}, coated, "clearcoat");
        wire(p, {first, "out", ""}, blend, "bg");
        wire(p, {coated, "out", ""}, blend, "fg");
        wire(p, {uv, "out", "x"}, blend, "mix");
        wire(p, {blend, "out", ""}, weights, "finish1");
        wire(p, {second, "out", ""}, weights, "finish2");
        wire(p, {coated, "out", ""}, weights, "finish3");
        wire(p, {uv, "out", "y"}, weights, "weight2");
        wire(p, {noise, "out", ""}, weights, "weight3");
        channel(p, {weights, "out", ""}, "finish");
        SurfaceSettings s;
        s.layers = uint32_t(Layer::Coat) | uint32_t(Layer::Reflection);
        p = *edit::setSurface(p, "m", s);
        const Compilation compiled = compileSurface(p, masterOf(p));
        ASSERT_TRUE(compiled.ok) << compiled.diagnostics[0].sentence;
        for (const char* key : {"base_color", "roughness", "normal", "clearcoat", "clearcoat_normal", "ior"})
            EXPECT_LE(difference(compiled.program, key, {}), 1e-4f) << seed << " " << key;
    }
}

/// A finish that reads a map far smaller than its pixels over one of a random graph, by a mask of 0 on the left and 1 on the right.
Project mapOverGraph(uint32_t seed, bool skipped, std::string_view kind) {
    Project p = randomGraph(seed, 16);
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.exr", MapKind::Data, Wrap::Repeat, {}, {}}));
    const std::map<std::string, Source> wires = masterOf(p).graph.channelWires;
    const Id back = add(p, "finish"), front = add(p, "finish"), uv = add(p, "texcoord"), bent = add(p, "noise_2d"), sum = add(p, "add"),
             place = add(p, "multiply", {{"in2", Value::vec2(3.3f, 2.1f)}}), image = add(p, "image", {}, {{"map", "map"}}),
             mask = add(p, "smoothstep", {{"low", Value::number(0.3f)}, {"high", Value::number(0.7f)}}),
             card = add(p, kind, {}, {{"unseen", skipped ? "skipped" : "computed"}});
    for (const auto& [key, from] : wires) {
        wire(p, from, back, key);
        p = *edit::disconnectChannel(p, "m", key);
    }
    wire(p, {uv, "out", ""}, sum, "in1");
    wire(p, {bent, "out", ""}, sum, "in2");
    wire(p, {sum, "out", ""}, place, "in1");
    wire(p, {place, "out", ""}, image, "uv");
    wire(p, {image, "color", ""}, front, "base_color");
    wire(p, {image, "color", "r"}, front, "roughness");
    wire(p, {uv, "out", "x"}, mask, "in");
    wire(p, {back, "out", ""}, card, "bg");
    wire(p, {front, "out", ""}, card, "fg");
    wire(p, {mask, "out", ""}, card, "mix");
    channel(p, {card, "out", ""}, "finish");
    return p;
}

// A fetch within a branch has the level that it has without one, up to the very edge of the mask.
TEST(Unseen, IsSkippedOnTheGraphicsCardWithoutATrace) {
    FrameInputs inputs;
    const MapPtr map = floatMap();
    inputs.map = [&](const MapSlot&) { return map; };
    for (uint32_t seed = 1; seed <= 8; ++seed)
        for (const char* kind : {"mix", "lay_over"}) {
            const Project all = mapOverGraph(seed, false, kind), less = mapOverGraph(seed, true, kind);
            const auto computed = compileSurface(all, masterOf(all)).program, skipped = compileSurface(less, masterOf(less)).program;
            ASSERT_NE(emitMaterial(*skipped, uniformLayout(*skipped)).find("textureGrad("), std::string::npos)
                << "there is a fetch to skip";
            for (const char* key : {"base_color", "roughness"}) {
                EXPECT_LE(difference(skipped, key, inputs), 2e-3f) << seed << " " << key;
                const Evaluator a(computed), b(skipped);
                const Result<Picture> with = Gl::renderer().evaluateFlat(a, a.frame(inputs), key, kSize),
                                      without = Gl::renderer().evaluateFlat(b, b.frame(inputs), key, kSize);
                ASSERT_TRUE(with && without);
                float worst = 0;
                for (size_t k = 0; k < with->values.size(); ++k) worst = std::max(worst, std::fabs(with->values[k] - without->values[k]));
                EXPECT_LE(worst, 1e-4f) << seed << " " << key;
            }
        }
}

// What is hidden may be no number, with a branch around it or without.
TEST(Unseen, CannotSpoilThePictureOnTheGraphicsCardEither) {
    for (const bool dear : {false, true}) {
        Project p = bareProject();
        const Id back = add(p, "finish", {{"roughness", Value::number(0.25f)}, {"base_color", Value::vec3(0.1f, 0.2f, 0.3f)}}),
                 front = add(p, "finish"), uv = add(p, "texcoord"), broken = add(p, "divide"),
                 tinted = add(p, "multiply", {{"in2", Value::vec3(1, 2, 3)}}),
                 mask = add(p, "smoothstep", {{"low", Value::number(0.4f)}, {"high", Value::number(0.6f)}}),
                 card = add(p, "mix", {}, {{"unseen", "skipped"}});
        wire(p, {uv, "out", "x"}, mask, "in");
        // Endless on the left, where the mask is 0.
        wire(p, {mask, "out", ""}, broken, "in2");
        Source value{broken, "out", ""};
        for (int k = 0; dear && k < 5; ++k) {
            const Id root = add(p, "square_root");
            wire(p, value, root, "in");
            value = {root, "out", ""};
        }
        wire(p, value, tinted, "in1");
        wire(p, value, front, "roughness");
        wire(p, {tinted, "out", ""}, front, "base_color");
        wire(p, {back, "out", ""}, card, "bg");
        wire(p, {front, "out", ""}, card, "fg");
        wire(p, {mask, "out", ""}, card, "mix");
        channel(p, {card, "out", ""}, "finish");
        const auto program = compileSurface(p, masterOf(p)).program;
        EXPECT_EQ(emitMaterial(*program, uniformLayout(*program)).find("seen here") != std::string::npos, dear);
        const Evaluator evaluator(program);
        for (const char* key : {"roughness", "base_color"}) {
            const Result<Picture> gl = Gl::renderer().evaluateFlat(evaluator, evaluator.frame({}), key, kSize);
            ASSERT_TRUE(gl);
            for (int y = 0; y < kSize; ++y)
                EXPECT_NEAR(gl->values[size_t(y * kSize * gl->channels)], key[0] == 'r' ? 0.25f : 0.1f, 1e-5f)
                    << key << (dear ? ", in a branch" : "");
        }
    }
}

RC_GTEST_PROP(RandomGraphs, GiveTheSameOnTheGraphicsCardAndTheCpu, ()) {
    const auto seed = *rc::gen::arbitrary<uint32_t>();
    const int nodes = *rc::gen::inRange(1, 60);
    const Project p = randomGraph(seed, nodes);
    const Compilation compiled = compileSurface(p, masterOf(p));
    RC_ASSERT(compiled.ok);
    RC_ASSERT(validate(*compiled.program).empty());
    RC_ASSERT(difference(compiled.program, "base_color", {}) <= 1e-4f);
    RC_ASSERT(difference(compiled.program, "roughness", {}) <= 1e-4f);
}

} // namespace
} // namespace hue
