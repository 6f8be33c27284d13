// What values can reach, told before anybody meets it.
#include "core/check/check.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

const Diagnostic* told(const std::vector<Diagnostic>& list, const std::string& code) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const Diagnostic& d) { return d.code == code; });
    return it == list.end() ? nullptr : &*it;
}
std::vector<Diagnostic> reports(const Project& p) { return checkMaster(p, masterOf(p)); }

/// Of Noise 2D: between -1 and 1.
const std::map<std::string, Value> deep{{"amplitude", Value::number(1)}, {"pivot", Value::number(0)}};

/// A number parameter's card.
Id slider(Project& p, const std::string& name, float low, float high) {
    Parameter q;
    q.id = name, q.name = name, q.softMin = low, q.softMax = high, q.standard.value = Value::number(high);
    p = *edit::addParameter(p, "m", q);
    return add(p, "parameter", {}, {{"parameter", name}});
}

TEST(RangeReports, TellWhatLeavesAChannelAndTheFixBringsItBack) {
    Project p = bareProject();
    const Id a = slider(p, "A", 0, 1), b = slider(p, "B", 0, 0.5f), sum = add(p, "add");
    wire(p, {a, "out", ""}, sum, "in1");
    wire(p, {b, "out", ""}, sum, "in2");
    channel(p, {sum, "out", ""}, "roughness");
    const auto list = reports(p);
    const Diagnostic* d = told(list, "channel.may-leave-range");
    ASSERT_TRUE(d);
    EXPECT_NE(d->sentence.find("between 0 and 1.5"), std::string::npos) << d->sentence;
    ASSERT_EQ(d->fixes.size(), 2u);
    EXPECT_FALSE(told(reports(*d->fixes[1].edit(p)), "channel.may-leave-range")) << "silenced for this master";
    const Result<Project> mended = d->fixes[0].edit(p);
    ASSERT_TRUE(mended) << mended.error().sentence;
    EXPECT_FALSE(told(reports(*mended), "channel.may-leave-range"));
}

TEST(RangeReports, AreSilentWhereNothingIsKnownOrNothingCanHappen) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), half = add(p, "multiply", {{"in2", Value::number(0.5f)}}), noise = add(p, "noise_2d", deep);
    wire(p, {uv, "out", "x"}, half, "in1");
    channel(p, {half, "out", ""}, "roughness");
    EXPECT_FALSE(told(reports(p), "channel.may-leave-range")) << "how far UVs reach is not known";
    const Id lifted = add(p, "remap", {{"inlow", Value::number(-1)}});
    wire(p, {noise, "out", ""}, lifted, "in");
    channel(p, {lifted, "out", ""}, "roughness");
    EXPECT_FALSE(told(reports(p), "channel.may-leave-range")) << "that is what remaps are for";
    channel(p, {noise, "out", ""}, "roughness");
    EXPECT_TRUE(told(reports(p), "channel.may-leave-range")) << "a noise falls below 0";
    for (const Diagnostic& d : checkProject(loadProject(depotFile())->project))
        ADD_FAILURE() << d.code << " " << d.sentence;
}

TEST(RangeReports, ReckonWithWhatMapsHold) {
    Project p = bareProject();
    for (const char* id : {"dim", "bright"}) {
        MapFile map;
        map.id = map.name = id;
        map.path = std::string(id) + ".exr";
        p = *edit::addMap(p, map);
    }
    const Id image = add(p, "image", {}, {{"map", "bright"}}), over = add(p, "divide", {{"in1", Value::number(0.1f)}}),
             soft = add(p, "clamp");
    channel(p, {image, "color", "r"}, "roughness");
    wire(p, {image, "color", "g"}, over, "in2");
    wire(p, {over, "out", ""}, soft, "in");
    channel(p, {soft, "out", ""}, "metallic");
    std::map<Id, Interval> known;
    const auto holdsCode = [&](const char* code) {
        return told(checkMaster(p, masterOf(p),
                                [&](const Id& map) -> std::optional<Interval> {
                                    const auto it = known.find(map);
                                    return it == known.end() ? std::nullopt : std::optional(it->second);
                                }),
                    code) != nullptr;
    };
    // Nothing is known: 0 to 1.
    EXPECT_FALSE(holdsCode("channel.may-leave-range"));
    EXPECT_TRUE(holdsCode("divide.may-be-zero"));
    known["bright"] = {0.25f, 4};
    EXPECT_TRUE(holdsCode("channel.may-leave-range")) << "roughness of 4";
    EXPECT_FALSE(holdsCode("divide.may-be-zero")) << "0.25 at least";
    known["bright"] = {0.25f, 0.5f};
    EXPECT_FALSE(holdsCode("channel.may-leave-range"));
    // A parameter holds whatever its instances give it.
    Parameter look;
    look.id = look.name = look.codeName = "look";
    look.type = ParameterType::Map;
    look.standard.map = "bright";
    p = *edit::addParameter(p, "m", look);
    const Id card = add(p, "parameter", {}, {{"parameter", "look"}});
    wire(p, {card, "out", ""}, image, "map");
    EXPECT_FALSE(holdsCode("divide.may-be-zero"));
    Instance other;
    other.id = "i";
    other.name = "Other";
    other.parent = "m";
    other.own["look"].map = "dim";
    p.instances.push_back(std::make_shared<Instance>(other));
    known["dim"] = {-1, 0.5f};
    EXPECT_TRUE(holdsCode("divide.may-be-zero"));
    EXPECT_TRUE(holdsCode("channel.may-leave-range")) << "below 0";
}

TEST(RangeReports, TellOfWeightsBeyondBothEnds) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", deep), mix = add(p, "mix", {{"fg", Value::number(1)}});
    wire(p, {noise, "out", ""}, mix, "mix");
    channel(p, {mix, "out", ""}, "metallic");
    const auto list = reports(p);
    const Diagnostic* d = told(list, "mix.beyond");
    ASSERT_TRUE(d);
    EXPECT_EQ(d->place.node, mix);
    EXPECT_FALSE(told(reports(*d->fixes.at(0).edit(p)), "mix.beyond"));
    // A band, made as the difference of two masks, is none.
    const Id up = add(p, "step", {{"edge", Value::number(0.2f)}}), down = add(p, "step", {{"edge", Value::number(0.6f)}}),
             band = add(p, "subtract");
    wire(p, {noise, "out", ""}, up, "in");
    wire(p, {noise, "out", ""}, down, "in");
    wire(p, {up, "out", ""}, band, "in1");
    wire(p, {down, "out", ""}, band, "in2");
    wire(p, {band, "out", ""}, mix, "mix");
    EXPECT_FALSE(told(reports(p), "mix.beyond"));
}

TEST(RangeReports, TellOfDivisorsRootsAndPowers) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", deep), over = add(p, "divide", {{"in1", Value::number(1)}}), limited = add(p, "clamp"),
             most = add(p, "maximum", {{"in2", Value::number(0.1f)}});
    wire(p, {noise, "out", ""}, over, "in2");
    wire(p, {over, "out", ""}, limited, "in");
    channel(p, {limited, "out", ""}, "roughness");
    ASSERT_TRUE(told(reports(p), "divide.may-be-zero"));
    EXPECT_EQ(told(reports(p), "divide.may-be-zero")->place.node, over);
    // With a Maximum before, as the sentence says.
    wire(p, {noise, "out", ""}, most, "in1");
    wire(p, {most, "out", ""}, over, "in2");
    EXPECT_FALSE(told(reports(p), "divide.may-be-zero"));
    const Id root = add(p, "square_root"), power = add(p, "power", {{"in2", Value::number(2.2f)}}), size = add(p, "absolute_value");
    wire(p, {noise, "out", ""}, root, "in");
    channel(p, {root, "out", ""}, "roughness");
    EXPECT_TRUE(told(reports(p), "root.may-be-negative"));
    wire(p, {noise, "out", ""}, size, "in");
    wire(p, {size, "out", ""}, root, "in");
    EXPECT_FALSE(told(reports(p), "root.may-be-negative"));
    wire(p, {noise, "out", ""}, power, "in1");
    channel(p, {power, "out", ""}, "roughness");
    EXPECT_TRUE(told(reports(p), "power.may-be-negative"));
    wire(p, {size, "out", ""}, power, "in1");
    EXPECT_FALSE(told(reports(p), "power.may-be-negative"));
}

TEST(RangeReports, GlassMadeByAlphaIsOfferedAsThinAndAsSolid) {
    Project p = bareProject();
    SurfaceSettings s = masterOf(p).surface;
    s.alphaMode = AlphaMode::Blend;
    s.layers = uint32_t(Layer::Reflection);
    p = *edit::setSurface(*edit::setChannelConstant(p, "m", "roughness", Value::number(0.05f)), "m", s);
    const auto list = reports(p);
    const Diagnostic* d = told(list, "advice.glass-by-alpha");
    ASSERT_TRUE(d);
    const Project thin = *d->fixes.at(0).edit(p), solid = *d->fixes.at(1).edit(p);
    EXPECT_TRUE(masterOf(thin).surface.has(Layer::Transmission));
    EXPECT_FALSE(masterOf(thin).surface.has(Layer::Volume));
    EXPECT_TRUE(masterOf(solid).surface.has(Layer::Volume));
    for (const Project& mended : {thin, solid}) {
        EXPECT_EQ(masterOf(mended).surface.alphaMode, AlphaMode::Opaque);
        EXPECT_EQ(channelConstant(masterOf(mended).graph, "transmission"), Value::number(1));
        EXPECT_EQ(channelConstant(masterOf(mended).graph, "roughness"), Value::number(0.05f)) << "the artist's own value stays";
        EXPECT_FALSE(told(reports(mended), "advice.glass-by-alpha"));
    }
    EXPECT_FALSE(told(reports(*edit::setChannelConstant(p, "m", "roughness", Value::number(0.6f))), "advice.glass-by-alpha"));
}

TEST(RangeReports, TellOfARampThatNeverRises) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), ramp = add(p, "smoothstep", {{"high", Value::number(0.3f)}}), low = slider(p, "Low", 0.3f, 0.9f);
    wire(p, {uv, "out", "x"}, ramp, "in");
    wire(p, {low, "out", ""}, ramp, "low");
    channel(p, {ramp, "out", ""}, "roughness");
    EXPECT_TRUE(told(reports(p), "smoothstep.no-width"));
    p = *edit::setConstant(p, "m", ramp, "high", Value::number(0.5f));
    EXPECT_FALSE(told(reports(p), "smoothstep.no-width")) << "for some values it rises";
}

TEST(RangeReports, BoundsHoldForRandomGraphsAndRandomParameters) {
    // Brute force: whatever is told to lie between two numbers does, at every pixel.
    int bounded = 0;
    for (uint32_t seed = 0; seed < 40; ++seed) {
        Project p = randomGraph(seed, 12);
        const Id over = add(p, "divide"), high = add(p, "maximum", {{"in2", Value::number(0.25f)}});
        const Source base = masterOf(p).graph.channelWires.at("roughness");
        wire(p, {base.node, base.port, base.take}, over, "in1");
        wire(p, {base.node, base.port, base.take}, high, "in1");
        wire(p, {high, "out", ""}, over, "in2");
        channel(p, {over, "out", ""}, "roughness");
        p = *edit::disconnectChannel(p, "m", "base_color");
        const auto list = reports(p);
        const Diagnostic* d = told(list, "channel.may-leave-range");
        if (!d) continue;
        float low = 0, top = 0;
        ASSERT_EQ(std::sscanf(d->sentence.c_str(), "Roughness can lie between %f and %f", &low, &top), 2) << d->sentence;
        ++bounded;
        for (const float x : overSquare(p, {over, "out", ""}, 24)) {
            EXPECT_GE(x, low - 1e-3f) << seed;
            EXPECT_LE(x, top + 1e-3f) << seed;
        }
    }
    EXPECT_GT(bounded, 10);
}

} // namespace
} // namespace hue
