// Finishes: a whole surface on one wire.
#include "core/assemblies/equal_groups.h"
#include "core/assemblies/fold.h"
#include "core/check/check.h"
#include "core/master_text/master_text.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

constexpr int kSize = 24;

/// What a channel of a compiled surface shows over the square.
std::vector<float> channelOf(const Project& p, const Master& master, std::string_view key, const Compilation& c) {
    const Evaluator e(c.program);
    FrameInputs inputs;
    inputs.parameter = [&](const Id& id) {
        Value v;
        if (liveConstantValue(p, master, id, v)) return v;
        const Resolved resolved = resolve(p, master.id);
        const auto it = resolved.values.find(id);
        return it == resolved.values.end() ? Value{} : it->second.value.value;
    };
    return overSquare(e, inputs, std::string(key), findChannel(key)->width, kSize);
}
std::vector<float> channelOf(const Project& p, std::string_view key, Constants constants = Constants::Folded) {
    const Compilation c = compileSurface(p, masterOf(p), constants);
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    return channelOf(p, masterOf(p), key, c);
}

void expectNear(const std::vector<float>& a, const std::vector<float>& b, float most, const std::string& what) {
    ASSERT_EQ(a.size(), b.size()) << what;
    for (size_t k = 0; k < a.size(); ++k) ASSERT_NEAR(a[k], b[k], most) << what << " at " << k;
}

std::vector<std::string> codes(const Project& p) { return codesOf(compileSurface(p, masterOf(p)).diagnostics); }

const Diagnostic* told(const std::vector<Diagnostic>& list, std::string_view code) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const Diagnostic& d) { return d.code == code; });
    return it == list.end() ? nullptr : &*it;
}

/// Numbers that differ from place to place, by a noise of `scale` cells.
Id noise(Project& p, float scale) {
    const Id uv = add(p, "texcoord"), place = add(p, "multiply", {{"in2", Value::vec2(scale, scale * 0.7f)}}), out = add(p, "noise_2d");
    wire(p, {uv, "out", ""}, place, "in1");
    wire(p, {place, "out", ""}, out, "uv");
    const Id limited = add(p, "remap", {{"inlow", Value::number(0.3f)}, {"inhigh", Value::number(0.7f)}}, {{"limit", "on"}});
    wire(p, {out, "out", ""}, limited, "in");
    return limited;
}

/// A color, a roughness, a height and a normal that all differ from place to place.
struct Made {
    Source color, roughness, normal, height;
};
Made parts(Project& p, float scale, float red) {
    const Id color = add(p, "combine", {{"r", Value::number(red)}, {"g", Value::number(0.3f)}}, {{"components", "3"}});
    const Id first = noise(p, scale), second = noise(p, scale * 1.7f), slopes = add(p, "height_to_normal", {{"scale", Value::number(2)}}),
             bend = add(p, "normal_map");
    wire(p, {first, "out", ""}, color, "b");
    wire(p, {second, "out", ""}, slopes, "in");
    wire(p, {slopes, "out", ""}, bend, "in");
    return {{color, "out", ""}, {second, "out", ""}, {bend, "out", ""}, {first, "out", ""}};
}
Id finishFrom(Project& p, const Made& m, const std::string& kind = "plain") {
    const Id finish = add(p, "finish", {}, {{"kind", kind}});
    wire(p, m.color, finish, "base_color");
    wire(p, m.roughness, finish, "roughness");
    wire(p, m.normal, finish, "normal");
    wire(p, m.height, finish, "height");
    return finish;
}

/// Two finishes and a mask.
struct Two {
    Project p = bareProject();
    Made back = parts(p, 3, 0.9f), front = parts(p, 5, 0.1f);
    Id a = finishFrom(p, back), b = finishFrom(p, front);
    Id mask = noise(p, 2);

    /// A card between both.
    Id between(std::string_view kind, std::map<std::string, Value> constants = {}) {
        const Id card = add(p, kind, std::move(constants));
        wire(p, {a, "out", ""}, card, "bg");
        wire(p, {b, "out", ""}, card, "fg");
        wire(p, {mask, "out", ""}, card, "mix");
        channel(p, {card, "out", ""}, "finish");
        return card;
    }
};

TEST(Finishes, OnTheRailShowWhatTheirChannelsWouldOneByOne) {
    for (uint32_t seed = 1; seed <= 12; ++seed) {
        Project one = randomGraph(seed, 14);
        const std::map<std::string, Source> wires = masterOf(one).graph.channelWires;
        Project whole = one;
        const Id card = add(whole, "finish");
        for (const auto& [key, from] : wires) {
            wire(whole, from, card, key);
            whole = *edit::disconnectChannel(whole, "m", key);
        }
        channel(whole, {card, "out", ""}, "finish");
        ASSERT_EQ(wires.size(), 2u);
        for (const auto& [key, from] : wires) EXPECT_EQ(channelOf(whole, key), channelOf(one, key)) << seed << " " << key;
    }
}

TEST(Finishes, AreBeatenByChannelsThatAreWiredBeside) {
    Project p = bareProject();
    const Made m = parts(p, 4, 0.5f);
    channel(p, {finishFrom(p, m), "out", ""}, "finish");
    p = *edit::setChannelConstant(p, "m", "metallic", Value::number(1));
    EXPECT_EQ(channelOf(p, "metallic")[0], 0) << "a value that stays on the rail is not a wire";
    const std::vector<float> color = channelOf(p, "base_color"), rough = channelOf(p, "roughness");
    channel(p, {add(p, "constant", {{"value", Value::number(0.25f)}}), "out", ""}, "roughness");
    EXPECT_EQ(channelOf(p, "base_color"), color);
    EXPECT_EQ(channelOf(p, "roughness"), std::vector<float>(rough.size(), 0.25f));
    // A mute takes the wire away and leaves the default, not the finish.
    p = *edit::muteChannel(p, "m", "roughness", true);
    EXPECT_EQ(channelOf(p, "roughness")[0], 0.5f);
    p = *edit::muteChannel(p, "m", "finish", true);
    EXPECT_FLOAT_EQ(channelOf(p, "base_color")[0], 0.6f) << "a whole that is muted leaves the rail's own values";
    EXPECT_FLOAT_EQ(channelOf(p, "metallic")[0], 1);
}

TEST(Finishes, AreMixedChannelByChannel) {
    Two two;
    two.between("mix");
    const std::vector<float> t = overSquare(two.p, {two.mask, "out", ""}, kSize);
    const auto expected = [&](const Source& back, const Source& front) {
        const std::vector<float> a = overSquare(two.p, back, kSize), b = overSquare(two.p, front, kSize);
        std::vector<float> out(a.size());
        const size_t width = a.size() / t.size();
        for (size_t k = 0; k < a.size(); ++k) out[k] = a[k] + (b[k] - a[k]) * t[k / width];
        return out;
    };
    expectNear(channelOf(two.p, "base_color"), expected(two.back.color, two.front.color), 1e-5f, "color");
    expectNear(channelOf(two.p, "roughness"), expected(two.back.roughness, two.front.roughness), 1e-5f, "roughness");

    // Normals: slopes against the mesh's, which looks along Z on the square; in double precision.
    const std::vector<float> n = channelOf(two.p, "normal"), a = overSquare(two.p, two.back.normal, kSize),
                             b = overSquare(two.p, two.front.normal, kSize),
                             mesh = overSquare(two.p, {add(two.p, "normal"), "out", ""}, kSize);
    for (size_t k = 0; k < t.size(); ++k) {
        ASSERT_NEAR(mesh[k * 3 + 2], 1, 1e-6);
        double x = 0, y = 0;
        for (const auto& [from, share] : {std::pair(&a, 1.0 - double(t[k])), std::pair(&b, double(t[k]))}) {
            x += share * double((*from)[k * 3]) / double((*from)[k * 3 + 2]);
            y += share * double((*from)[k * 3 + 1]) / double((*from)[k * 3 + 2]);
        }
        const double length = std::sqrt(x * x + y * y + 1);
        ASSERT_NEAR(n[k * 3], x / length, 1e-4);
        ASSERT_NEAR(n[k * 3 + 1], y / length, 1e-4);
        ASSERT_NEAR(n[k * 3 + 2], 1 / length, 1e-4);
    }
}

TEST(Finishes, MasksBeyondTheirRangeShowOneSideAndNoMore) {
    Two two;
    const Id wild = add(two.p, "multiply", {{"in1", Value::number(3)}});
    wire(two.p, {two.mask, "out", ""}, wild, "in2");
    two.mask = wild;
    two.between("mix");
    const std::vector<float> t = overSquare(two.p, {wild, "out", ""}, kSize), rough = channelOf(two.p, "roughness"),
                             front = overSquare(two.p, two.front.roughness, kSize);
    int beyond = 0;
    for (size_t k = 0; k < t.size(); ++k)
        if (t[k] > 1) {
            ++beyond;
            EXPECT_NEAR(rough[k], front[k], 1e-6);
        }
    EXPECT_GT(beyond, kSize);
}

TEST(Finishes, MeetAsTheirHeightsSay) {
    Two two;
    two.between("finish_height_blend", {{"soft edge", Value::number(0.15f)}});
    // The card that sharpens a mask by two heights, wired by hand.
    const Id by = add(two.p, "height_blend", {{"soft edge", Value::number(0.15f)}}), mix = add(two.p, "mix");
    wire(two.p, two.back.height, by, "bgheight");
    wire(two.p, two.front.height, by, "fgheight");
    wire(two.p, {two.mask, "out", ""}, by, "mix");
    wire(two.p, two.back.color, mix, "bg");
    wire(two.p, two.front.color, mix, "fg");
    wire(two.p, {by, "out", ""}, mix, "mix");
    expectNear(channelOf(two.p, "base_color"), overSquare(two.p, {mix, "out", ""}, kSize), 1e-5f, "color");
}

TEST(Finishes, AreBlendedByWeightsThatNeedNotAddUp) {
    for (int count = 2; count <= 5; ++count) {
        Project p = bareProject();
        const Id card = add(p, "finish_weights", {}, {{"count", std::to_string(count)}});
        std::vector<Source> roughness, weights, normals;
        for (int k = 1; k <= count; ++k) {
            const Made m = parts(p, 1.5f + float(k), 0.1f * float(k));
            wire(p, {finishFrom(p, m), "out", ""}, card, "finish" + std::to_string(k));
            // Up to 3, and below 0 in places.
            const Id weight = add(p, "remap", {{"outlow", Value::number(-1.2f)}, {"outhigh", Value::number(3)}});
            wire(p, {noise(p, 2.3f * float(k)), "out", ""}, weight, "in");
            wire(p, {weight, "out", ""}, card, "weight" + std::to_string(k));
            roughness.push_back(m.roughness), weights.push_back({weight, "out", ""}), normals.push_back(m.normal);
        }
        channel(p, {card, "out", ""}, "finish");
        std::vector<std::vector<float>> r, w, n;
        for (int k = 0; k < count; ++k) {
            r.push_back(overSquare(p, roughness[size_t(k)], kSize));
            w.push_back(overSquare(p, weights[size_t(k)], kSize));
            n.push_back(overSquare(p, normals[size_t(k)], kSize));
        }
        const std::vector<float> rough = channelOf(p, "roughness"), normal = channelOf(p, "normal");
        int none = 0;
        for (size_t at = 0; at < rough.size(); ++at) {
            double sum = 0, value = 0, x = 0, y = 0;
            for (size_t k = 0; k < size_t(count); ++k) {
                const double weight = std::max(0.0, double(w[k][at]));
                sum += weight, value += weight * double(r[k][at]);
                x += weight * double(n[k][at * 3]) / double(n[k][at * 3 + 2]);
                y += weight * double(n[k][at * 3 + 1]) / double(n[k][at * 3 + 2]);
            }
            if (sum < 1e-3) {
                ++none;
                if (sum == 0) { ASSERT_NEAR(rough[at], r[0][at], 1e-6) << "where nothing weighs anything the first shows"; }
                continue;
            }
            ASSERT_NEAR(rough[at], value / sum, 2e-4) << count;
            ASSERT_NEAR(normal[at * 3] / normal[at * 3 + 2], x / sum, 2e-3) << count;
            ASSERT_NEAR(normal[at * 3 + 1] / normal[at * 3 + 2], y / sum, 2e-3) << count;
        }
        if (count == 2) { EXPECT_GT(none, 0) << "the weights of this test are both below 0 somewhere"; }
    }
}

TEST(Finishes, CountsThatAFileMakesUpAreLimited) {
    for (const char* count : {"9", "0", "", "many"}) {
        Project p = bareProject();
        const Id card = add(p, "finish_weights", {}, {{"count", count}}), finish = add(p, "finish", {{"roughness", Value::number(0.25f)}});
        for (const char* port : {"finish1", "finish2", "finish3", "finish4", "finish5"}) wire(p, {finish, "out", ""}, card, port);
        channel(p, {card, "out", ""}, "finish");
        EXPECT_EQ(channelOf(p, "roughness")[0], 0.25f) << count;
        const Node& node = *masterOf(p).graph.find(card);
        const NodeDef& def = *findNodeDef("finish_weights");
        EXPECT_TRUE(readsInput(node, def, *def.input("weight2"))) << count;
    }
}

TEST(Finishes, LayersOfOneSideFadeAndKeepWhatDescribesThem) {
    Project p = bareProject();
    SurfaceSettings coated;
    coated.layers = uint32_t(Layer::Coat) | uint32_t(Layer::Reflection);
    p = *edit::setSurface(p, "m", coated);
    const Id plain = add(p, "finish", {}, {{"kind", "plain"}}),
             enamel = add(p, "finish",
                          {{"clearcoat", Value::number(0.8f)}, {"clearcoat_roughness", Value::number(0.2f)}, {"ior", Value::number(1.7f)}},
                          {{"kind", "coated"}}),
             mix = add(p, "mix"), mask = noise(p, 3);
    wire(p, {plain, "out", ""}, mix, "bg");
    wire(p, {enamel, "out", ""}, mix, "fg");
    wire(p, {mask, "out", ""}, mix, "mix");
    channel(p, {mix, "out", ""}, "finish");
    const std::vector<float> t = overSquare(p, {mask, "out", ""}, kSize), coat = channelOf(p, "clearcoat"), ior = channelOf(p, "ior");
    for (size_t k = 0; k < t.size(); ++k) {
        ASSERT_NEAR(coat[k], 0.8f * t[k], 1e-6f);
        ASSERT_NEAR(ior[k], 1.5f + 0.2f * t[k], 1e-5f) << "what has no such layer reflects as an index of 1.5 does";
    }
    EXPECT_EQ(channelOf(p, "clearcoat_roughness"), std::vector<float>(t.size(), 0.2f));
}

TEST(Finishes, ThatAConstantMaskRemovesCostNothing) {
    for (const bool shown : {false, true}) {
        Two two;
        const Id card = two.between("mix", {{"mix", Value::number(shown ? 1.f : 0.f)}});
        two.p = *edit::disconnect(two.p, "m", card, "mix");
        Project alone = two.p;
        channel(alone, {shown ? two.b : two.a, "out", ""}, "finish");
        const Compilation mixed = compileSurface(two.p, masterOf(two.p)), one = compileSurface(alone, masterOf(alone));
        EXPECT_EQ(mixed.program->code.size(), one.program->code.size());
        EXPECT_FALSE(mixed.cards.contains(shown ? two.back.normal.node : two.front.normal.node)) << "the other side is still paid for";
        EXPECT_TRUE(mixed.cards.contains(shown ? two.front.normal.node : two.back.normal.node));
    }
}

TEST(Finishes, ComeApartIntoTheirChannels) {
    Two two;
    const Id mixed = two.between("mix"), apart = add(two.p, "separate_finish");
    wire(two.p, {mixed, "out", ""}, apart, "in");
    for (const char* key : {"base_color", "roughness", "normal", "metallic"})
        EXPECT_EQ(overSquare(two.p, {apart, key, ""}, kSize), channelOf(two.p, key)) << key;
    EXPECT_EQ(overSquare(two.p, {apart, "clearcoat_roughness", ""}, 1), std::vector<float>{0.05f})
        << "the default of what it does not have";
}

TEST(Finishes, TakeAnotherChannelInPlaceOfOneOfTheirs) {
    Two two;
    const Id with = add(two.p, "with_channel", {}, {{"channel", "base_color"}});
    wire(two.p, {two.a, "out", ""}, with, "finish");
    wire(two.p, two.front.color, with, "value");
    channel(two.p, {with, "out", ""}, "finish");
    EXPECT_EQ(channelOf(two.p, "base_color"), overSquare(two.p, two.front.color, kSize));
    EXPECT_EQ(channelOf(two.p, "roughness"), overSquare(two.p, two.back.roughness, kSize));
    // One number spreads, two components do not fit three.
    wire(two.p, two.front.height, with, "value");
    EXPECT_TRUE(compileSurface(two.p, masterOf(two.p)).ok);
    wire(two.p, {add(two.p, "texcoord"), "out", ""}, with, "value");
    EXPECT_TRUE(holds(codes(two.p), "finish.width"));
}

TEST(Finishes, OfALayerThatTheSurfaceLacksAreToldAndTheFixAddsIt) {
    Project p = bareProject();
    channel(p, {add(p, "finish", {{"clearcoat", Value::number(1)}}, {{"kind", "coated"}}), "out", ""}, "finish");
    std::vector<Diagnostic> list = compileSurface(p, masterOf(p)).diagnostics;
    const Diagnostic* d = told(list, "finish.layer-off");
    ASSERT_TRUE(d);
    while (d) {
        ASSERT_EQ(d->fixes.size(), 1u);
        p = *d->fixes[0].edit(p);
        list = compileSurface(p, masterOf(p)).diagnostics;
        d = told(list, "finish.layer-off");
    }
    EXPECT_EQ(channelOf(p, "clearcoat")[0], 1);
}

TEST(Finishes, AndNumbersAreToldApartAndTheFixesMendIt) {
    Project p = bareProject();
    const Made m = parts(p, 3, 0.4f);
    const Id finish = finishFrom(p, m), twice = add(p, "multiply", {{"in2", Value::number(0.5f)}}), mix = add(p, "mix");
    wire(p, {finish, "out", ""}, twice, "in1");
    channel(p, {twice, "out", ""}, "base_color");
    std::vector<Diagnostic> list = compileSurface(p, masterOf(p)).diagnostics;
    const Diagnostic* d = told(list, "wire.finish-to-number");
    ASSERT_TRUE(d);
    EXPECT_EQ(d->place.node, twice);
    p = *d->fixes.at(0).edit(p);
    const std::vector<float> color = overSquare(p, m.color, kSize), half = channelOf(p, "base_color");
    for (size_t k = 0; k < half.size(); ++k) ASSERT_FLOAT_EQ(half[k], color[k] / 2);

    // A finish on one side of a mix asks for one on the other.
    wire(p, {finish, "out", ""}, mix, "bg");
    wire(p, m.color, mix, "fg");
    channel(p, {mix, "out", ""}, "finish");
    list = compileSurface(p, masterOf(p)).diagnostics;
    d = told(list, "wire.number-to-finish");
    ASSERT_TRUE(d);
    EXPECT_EQ(d->place.port, "fg");
    p = *d->fixes.at(0).edit(p);
    EXPECT_TRUE(compileSurface(p, masterOf(p)).ok);
    // Numbers on the rail as a whole.
    channel(p, m.roughness, "finish");
    EXPECT_TRUE(holds(codes(p), "wire.number-to-finish"));
    // A side that nobody wired is a plain grey, and said.
    p = *edit::disconnect(p, "m", mix, "fg");
    channel(p, {mix, "out", ""}, "finish");
    EXPECT_TRUE(compileSurface(p, masterOf(p)).ok);
    EXPECT_TRUE(holds(codes(p), "finish.unwired"));
}

// Another master as a finish.

/// A project whose first master "M" takes a finish of "Worn", a random graph with a parameter in its roughness; and an instance of that.
struct Worn {
    Project p;
    Id card;
    explicit Worn(uint32_t seed) {
        Project inner = randomGraph(seed, 14);
        Parameter q;
        q.id = "q", q.name = "Gloss", q.codeName = "roughness"; // as a channel is called
        q.standard.value = Value::number(0.5f);
        inner = *edit::addParameter(inner, "m", q);
        const Id gloss = add(inner, "parameter", {}, {{"parameter", "q"}}), by = add(inner, "multiply");
        wire(inner, masterOf(inner).graph.channelWires.at("roughness"), by, "in1");
        wire(inner, {gloss, "out", ""}, by, "in2");
        channel(inner, {by, "out", ""}, "roughness");
        inner = *edit::setChannelConstant(inner, "m", "metallic", Value::number(0.3f));
        auto worn = std::make_shared<Master>(masterOf(inner));
        worn->id = "worn", worn->name = "Worn";
        p = bareProject();
        p.masters.push_back(worn);
        Instance i;
        i.id = "i", i.name = "Dull", i.parent = "worn";
        i.own["q"].value = Value::number(0.9f);
        p = *edit::addInstance(p, i);
        card = add(p, "finish_of", {}, {{"of", "worn"}});
        channel(p, {card, "out", ""}, "finish");
    }
    const Master& inner() const { return *p.master("worn"); }
};

TEST(FinishOf, ShowsWhatTheMasterShows) {
    for (uint32_t seed = 1; seed <= 8; ++seed) {
        Worn w(seed);
        const Compilation own = compileSurface(w.p, w.inner());
        for (const char* key : {"base_color", "roughness", "metallic"}) {
            const std::vector<float> alone = channelOf(w.p, w.inner(), key, own);
            // Folding may order constants otherwise, so the last bits may differ.
            expectNear(channelOf(w.p, key), alone, 2e-5f, fmt::format("{} {}", seed, key));
            expectNear(channelOf(w.p, key, Constants::Live), alone, 2e-5f, fmt::format("live {} {}", seed, key));
        }
    }
}

TEST(FinishOf, ValuesStayThoseOfTheInstanceWithoutACompile) {
    Worn w(3);
    const std::vector<float> half = channelOf(w.p, "roughness");
    w.p = *edit::setSetting(w.p, "m", w.card, "of", "i");
    const std::vector<float> dull = channelOf(w.p, "roughness");
    for (size_t k = 0; k < half.size(); ++k) ASSERT_NEAR(dull[k] * 0.5f, half[k] * 0.9f, 1e-5f);
    // The same Program with another value.
    const Compilation live = compileSurface(w.p, masterOf(w.p), Constants::Live);
    const std::string key = structureKey(w.p, masterOf(w.p));
    Project changed = *edit::setOwn(w.p, "i", "q", {Value::number(0.1f), {}});
    changed = *edit::setChannelConstant(changed, "worn", "metallic", Value::number(0.8f));
    EXPECT_EQ(structureKey(changed, masterOf(changed)), key);
    const std::vector<float> after = channelOf(changed, masterOf(changed), "roughness", live);
    for (size_t k = 0; k < half.size(); ++k) ASSERT_NEAR(after[k] * 0.5f, half[k] * 0.1f, 1e-5f);
    EXPECT_FLOAT_EQ(channelOf(changed, masterOf(changed), "metallic", live)[0], 0.8f);
    // What is wired there makes another Program.
    const Project rewired = *edit::disconnectChannel(w.p, "worn", "roughness");
    EXPECT_NE(structureKey(rewired, masterOf(rewired)), key);
}

TEST(FinishOf, LiesWhereItsUvSays) {
    Worn w(5);
    const Id uv = add(w.p, "texcoord"), placed = add(w.p, "multiply", {{"in2", Value::vec2(0.5f, 0.25f)}});
    wire(w.p, {uv, "out", ""}, placed, "in1");
    const std::vector<float> before = channelOf(w.p, "roughness");
    wire(w.p, {placed, "out", ""}, w.card, "uv");
    const std::vector<float> after = channelOf(w.p, "roughness");
    // A quarter of the picture is what was at half and at a quarter of its coordinates: pixel centres meet where (x + 1/2) / 2 is a centre
    // again, so it is asked of the master with the same multiplication before each of its UVs.
    Project twin = w.p;
    auto inner = std::make_shared<Master>(w.inner());
    Node by = makeNode("multiply");
    by.id = "scaled", by.constants["in2"] = Value::vec2(0.5f, 0.25f);
    Node source = makeNode("texcoord");
    source.id = "source";
    by.wires["in1"] = {"source", "out", ""};
    for (auto& [id, node] : inner->graph.nodes) {
        auto copy = std::make_shared<Node>(*node);
        for (auto& [port, wire] : copy->wires)
            if (const Node* from = inner->graph.find(wire.node); from && from->kind == "texcoord") wire.node = "scaled";
        if (const NodeDef* def = findNodeDef(node->kind))
            for (const PortDef& port : def->inputs)
                if (port.unwired == Unwired::Uv && !copy->wires.contains(std::string(port.key)))
                    copy->wires[std::string(port.key)] = {"scaled", "out", ""};
        node = copy;
    }
    inner->graph.nodes["scaled"] = std::make_shared<Node>(by);
    inner->graph.nodes["source"] = std::make_shared<Node>(source);
    twin.masters[1] = inner;
    const Compilation own = compileSurface(twin, *inner);
    ASSERT_TRUE(own.ok);
    expectNear(after, channelOf(twin, *inner, "roughness", own), 2e-5f, "roughness");
    EXPECT_NE(after, before) << "this graph does not change with UV, so the test says nothing";
}

TEST(FinishOf, BringsMapsAsTheInstanceHasThem) {
    Worn w(1);
    for (const char* id : {"map1", "map2"})
        w.p.maps.push_back(std::make_shared<MapFile>(MapFile{id, id, std::string(id) + ".png", MapKind::Color, Wrap::Repeat, {}, {}}));
    auto inner = std::make_shared<Master>(w.inner());
    Parameter q;
    q.id = "map", q.name = "Picture", q.codeName = "picture", q.type = ParameterType::Map, q.standard.map = "map1";
    inner->parameters.push_back(q);
    Node card = makeNode("parameter"), image = makeNode("image");
    card.id = "card", card.settings["parameter"] = "map", image.id = "image", image.wires["map"] = {"card", "out", ""};
    inner->graph.nodes["card"] = std::make_shared<Node>(card);
    inner->graph.nodes["image"] = std::make_shared<Node>(image);
    inner->graph.channelWires["base_color"] = {"image", "color", ""};
    w.p.masters[1] = inner;
    w.p = *edit::setOwn(w.p, "i", "map", {{}, "map2"});
    const auto mapsOf = [&](const std::string& of) {
        w.p = *edit::setSetting(w.p, "m", w.card, "of", of);
        std::vector<Id> out;
        const Compilation c = compileSurface(w.p, masterOf(w.p), Constants::Live);
        EXPECT_TRUE(c.ok);
        for (const MapSlot& slot : c.program->maps) out.push_back(slot.map);
        return out;
    };
    EXPECT_EQ(mapsOf("worn"), std::vector<Id>{"map1"});
    const std::string key = structureKey(w.p, masterOf(w.p));
    EXPECT_EQ(mapsOf("i"), std::vector<Id>{"map2"});
    const std::string ofInstance = structureKey(w.p, masterOf(w.p));
    EXPECT_NE(ofInstance, key);
    // Another map in the instance is another Program, as the map stands in it.
    w.p = *edit::setOwn(w.p, "i", "map", {{}, "map1"});
    EXPECT_NE(structureKey(w.p, masterOf(w.p)), ofInstance);
    EXPECT_EQ(mapsOf("i"), std::vector<Id>{"map1"});
}

TEST(FinishOf, ThatLeadsBackToItselfNamesTheChain) {
    Project p = bareProject();
    for (const char* name : {"Second", "Third"}) {
        Master m;
        m.id = name, m.name = name;
        p = *edit::addMaster(p, m);
    }
    const auto takes = [&](const Id& master, const Id& of) {
        Node card = makeNode("finish_of");
        card.id = "of", card.settings["of"] = of;
        p = *edit::addNode(p, master, card);
        p = *edit::connectChannel(p, master, {"of", "out", ""}, "finish");
    };
    takes("m", "Second");
    takes("Second", "Third");
    EXPECT_TRUE(compileSurface(p, masterOf(p)).ok);
    takes("Third", "m");
    for (const MasterPtr& m : p.masters) {
        const Compilation c = compileSurface(p, *m);
        EXPECT_FALSE(c.ok);
        const Diagnostic* d = told(c.diagnostics, "finish.of-itself");
        ASSERT_TRUE(d) << m->name;
        for (const char* name : {"M", "Second", "Third"}) EXPECT_NE(d->sentence.find(name), std::string::npos) << d->sentence;
        EXPECT_TRUE(c.atFault.contains("of"));
    }
    // Of itself at once.
    Project self = bareProject();
    const Id own = add(self, "finish_of", {}, {{"of", "m"}});
    channel(self, {own, "out", ""}, "finish");
    EXPECT_TRUE(holds(codes(self), "finish.of-itself"));
    // What is not there, and nothing chosen.
    EXPECT_TRUE(holds(codes([] {
                          Project q = bareProject();
                          channel(q, {add(q, "finish_of", {}, {{"of", "gone"}}), "out", ""}, "finish");
                          return q;
                      }()),
                      "finish.missing"));
}

TEST(FinishOf, ErrorsWithinNameTheBoardAndTheCard) {
    Worn w(2);
    Node sum = makeNode("add");
    sum.id = "sum", sum.title = "Sum";
    w.p = *edit::addNode(w.p, "worn", sum);
    Node two = makeNode("constant");
    two.id = "two", two.constants["value"] = Value::vec2(1, 2);
    w.p = *edit::addNode(w.p, "worn", two);
    w.p = *edit::connect(w.p, "worn", {"two", "out", ""}, "sum", "in1");
    w.p = *edit::connectChannel(w.p, "worn", {"sum", "out", ""}, "alpha");
    const Compilation own = compileSurface(w.p, w.inner());
    EXPECT_FALSE(own.ok);
    // A width that does not fit the rail of the other is told there alone.
    EXPECT_TRUE(compileSurface(w.p, masterOf(w.p)).ok);
    auto inner = std::make_shared<Master>(w.inner());
    auto broken = std::make_shared<Node>(*inner->graph.find("sum"));
    broken->wires["in2"] = {"gone", "out", ""};
    inner->graph.nodes["sum"] = broken;
    w.p.masters[1] = inner;
    const Compilation c = compileSurface(w.p, masterOf(w.p));
    EXPECT_FALSE(c.ok);
    ASSERT_EQ(c.diagnostics.size(), 1u);
    EXPECT_EQ(c.diagnostics[0].place.master, "worn");
    EXPECT_EQ(c.diagnostics[0].place.node, "sum");
    EXPECT_TRUE(c.diagnostics[0].sentence.starts_with("In Worn: ")) << c.diagnostics[0].sentence;
    EXPECT_TRUE(c.atFault.contains(w.card));
}

TEST(FinishOf, MappedNormalsWithinAreThoseOfTheMaster) {
    Project inner = bareProject();
    const Made m = parts(inner, 4, 0.3f);
    channel(inner, m.normal, "normal");
    channel(inner, {add(inner, "normal", {}, {{"of", "mapped"}}), "out", ""}, "base_color");
    auto worn = std::make_shared<Master>(masterOf(inner));
    worn->id = worn->name = "worn";
    // Here the normal channel shows another normal, which is not what is asked for within.
    Project p = bareProject();
    p.masters.push_back(worn);
    channel(p, {add(p, "finish_of", {}, {{"of", "worn"}}), "out", ""}, "finish");
    channel(p, {add(p, "normal"), "out", ""}, "normal");
    EXPECT_EQ(channelOf(p, "base_color"), overSquare(inner, m.normal, kSize));
    // A card that leads into the finish cannot ask for the normal that comes of it.
    Project around = bareProject();
    const Id mapped = add(around, "normal", {}, {{"of", "mapped"}}), finish = add(around, "finish");
    wire(around, {mapped, "out", ""}, finish, "base_color");
    channel(around, {finish, "out", ""}, "finish");
    const Compilation c = compileSurface(around, masterOf(around));
    const Diagnostic* d = told(c.diagnostics, "normal.of-itself");
    ASSERT_TRUE(d);
    const Project mended = *d->fixes.at(0).edit(around);
    EXPECT_TRUE(compileSurface(mended, masterOf(mended)).ok);
}

TEST(FinishOf, CostsWhatTheMasterCosts) {
    Worn w(4);
    const Compilation c = compileSurface(w.p, masterOf(w.p)), own = compileSurface(w.p, w.inner());
    int sum = 0;
    for (const auto& [id, cost] : own.cards) sum += cost.operations;
    ASSERT_TRUE(c.cards.contains(w.card));
    EXPECT_EQ(c.cards.size(), 1u);
    EXPECT_LE(c.cards.at(w.card).operations, sum) << "its parameter is a constant here, so a little may fold away";
    EXPECT_GE(c.cards.at(w.card).operations, sum * 8 / 10);
}

TEST(Finishes, MixingOverLeavesWhatIsSeenUntilItIsPainted) {
    for (uint32_t seed = 1; seed <= 6; ++seed) {
        Worn w(seed);
        Project p = w.p;
        // The worn master gets a finish over it: what it shows without paint is what it showed, also twice over.
        const Compilation before = compileSurface(p, *p.master("worn"));
        Master third;
        third.id = "third", third.name = "Third";
        third.surface.layers = uint32_t(Layer::Coat);
        third.graph.channelConstants["clearcoat"] = Value::number(1);
        p = *edit::addMaster(p, third);
        Project over = *edit::mixOver(p, "worn", "third");
        over = *edit::mixOver(over, "worn", {});
        const Master& now = *over.master("worn");
        EXPECT_EQ(now.graph.channelWires.size(), 1u) << "all goes through the whole";
        EXPECT_TRUE(now.surface.has(Layer::Coat)) << "what the other has is seen";
        const Compilation after = compileSurface(over, now);
        ASSERT_TRUE(after.ok) << after.diagnostics[0].sentence;
        EXPECT_EQ(codesOf(after.diagnostics), codesOf(before.diagnostics));
        for (const char* key : {"base_color", "roughness", "metallic", "normal"})
            EXPECT_EQ(channelOf(over, now, key, after), channelOf(p, *p.master("worn"), key, before)) << seed << " " << key;
        EXPECT_EQ(channelOf(over, now, "clearcoat", after)[0], 0);
        // Two channels of paint, named after what they show.
        std::set<std::string> channels, titles;
        for (const auto& [id, node] : now.graph.nodes)
            if (node->kind == "painted") {
                titles.insert(node->title);
                channels.insert(std::string(settingOf(*node, *findNodeDef("painted"), "channel")));
            }
        EXPECT_EQ(titles, (std::set<std::string>{"third", "over"}));
        EXPECT_EQ(channels, (std::set<std::string>{"1", "2"}));
    }
}

TEST(Finishes, MixingOverRefusesCirclesAndANinthChannel) {
    Worn w(1);
    const Result<Project> circle = edit::mixOver(w.p, "worn", "m");
    ASSERT_FALSE(circle);
    EXPECT_EQ(circle.error().code, "finish.of-itself");
    EXPECT_EQ(wearableOn(w.p, "worn"), std::vector<Id>{});
    EXPECT_EQ(wearableOn(w.p, "m"), (std::vector<Id>{"worn", "i"}));
    Project p = w.p;
    for (int k = 0; k < 8; ++k) p = *edit::mixOver(p, "m", {});
    const Result<Project> ninth = edit::mixOver(p, "m", {});
    ASSERT_FALSE(ninth);
    EXPECT_EQ(ninth.error().code, "finish.no-channel");
}

TEST(Finishes, ReadAndWriteAsLines) {
    Two two;
    const Id blend = two.between("finish_height_blend", {{"soft edge", Value::number(0.3f)}}), apart = add(two.p, "separate_finish");
    wire(two.p, {blend, "out", ""}, apart, "in");
    channel(two.p, {apart, "roughness", ""}, "roughness");
    Master other;
    other.id = "other", other.name = "Other";
    two.p = *edit::addMaster(two.p, other);
    const Id of = add(two.p, "finish_of", {}, {{"of", "other"}}), mix = add(two.p, "mix");
    wire(two.p, {blend, "out", ""}, mix, "bg");
    wire(two.p, {of, "out", ""}, mix, "fg");
    channel(two.p, {mix, "out", ""}, "finish");
    const BoardText text = boardText(two.p, masterOf(two.p));
    EXPECT_NE(text.text.find("finish = mix"), std::string::npos) << text.text;
    EXPECT_NE(text.text.find("of: \"Other\""), std::string::npos) << "called by its name: " << text.text;
    // The same lines on an empty board make the same surface.
    Project fresh = bareProject();
    fresh = *edit::addMaster(fresh, other);
    const ReadText read = readText(fresh, "m", text.text, {});
    ASSERT_TRUE(read.problems.empty()) << read.problems[0].sentence;
    for (const char* key : {"base_color", "roughness", "normal"}) EXPECT_EQ(channelOf(*read.project, key), channelOf(two.p, key)) << key;
    EXPECT_EQ(boardText(*read.project, masterOf(*read.project), read.cards).text, text.text);
    // What is no finish is told with its place.
    const auto problem = [&](const std::string& lines) {
        const ReadText r = readText(fresh, "m", lines, {});
        return r.problems.empty() ? std::string() : r.problems[0].sentence;
    };
    EXPECT_NE(problem("finish = 0.5").find("whole surface"), std::string::npos);
    EXPECT_NE(problem("a1 = finish_weights(finish1: 0.5)").find("takes a finish"), std::string::npos);
    EXPECT_NE(problem("a1 = finish_of(of: \"Nobody\")").find("Nobody"), std::string::npos);
}

TEST(Finishes, ComeOutOfAssembliesAndDoNotGoIn) {
    Two two;
    const Id mixed = two.between("mix");
    const std::vector<float> color = channelOf(two.p, "base_color"), normal = channelOf(two.p, "normal");
    std::vector<Id> all;
    for (const auto& [id, node] : masterOf(two.p).graph.nodes) all.push_back(id);
    const auto folded = foldCards(two.p, "m", all, "Both");
    ASSERT_TRUE(folded) << folded.error().sentence;
    ASSERT_EQ(folded->project.assemblies.size(), 1u);
    EXPECT_EQ(channelOf(folded->project, "base_color"), color);
    EXPECT_EQ(channelOf(folded->project, "normal"), normal);
    const auto refused = foldCards(two.p, "m", {mixed}, "Mix alone");
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "assembly.takes-finish");
    EXPECT_NE(refused.error().sentence.find("Finish"), std::string::npos);
}

TEST(Finishes, HaveNoComponentsToTake) {
    Project p = bareProject();
    const Id finish = add(p, "finish");
    channel(p, {finish, "out", "r"}, "finish");
    const Compilation c = compileSurface(p, masterOf(p));
    const Diagnostic* d = told(c.diagnostics, "wire.take");
    ASSERT_TRUE(d);
    EXPECT_NE(d->sentence.find("Separate finish"), std::string::npos);
    // Wires that are led from colors to a finish lose their takes.
    const Id colors = add(p, "mix", {{"bg", Value::vec3(1, 0, 0)}, {"fg", Value::vec3(0, 1, 0)}}), reader = add(p, "mix");
    wire(p, {colors, "out", "r"}, reader, "bg");
    const Project led = *edit::moveWires(p, "m", {colors, "out", ""}, {finish, "out", ""});
    const Source now = masterOf(led).graph.find(reader)->wires.at("bg");
    EXPECT_EQ(now.node, finish);
    EXPECT_EQ(now.take, "");
    // What takes numbers alone is not led to a finish.
    const Id sum = add(p, "add");
    EXPECT_EQ(edit::moveWires(p, "m", {sum, "out", ""}, {finish, "out", ""}).error().code, "wire.kind");
}

TEST(Finishes, OfDifferentCardsAreNoGroupThatCouldBeAnAssembly) {
    // Two equal chains, once behind numbers and once behind finishes.
    for (const bool finishes : {false, true}) {
        Project p = bareProject();
        std::vector<Source> ends;
        for (int k = 0; k < 2; ++k) {
            const std::map<std::string, Value> own{{finishes ? "metallic" : "scale", Value::number(float(k + 1))}};
            const Id from = add(p, finishes ? "finish" : "noise_2d", own);
            Id at = from;
            for (int step = 0; step < 6; ++step) {
                const Id next =
                    add(p, finishes ? "with_channel" : "power", {{finishes ? "value" : "in2", Value::number(0.1f * float(step + 1))}});
                wire(p, {at, "out", ""}, next, finishes ? "finish" : "in1");
                at = next;
            }
            ends.push_back({at, "out", ""});
        }
        const Id mix = add(p, "mix");
        wire(p, ends[0], mix, "bg");
        wire(p, ends[1], mix, "fg");
        channel(p, {mix, "out", ""}, finishes ? "finish" : "roughness");
        EXPECT_EQ(equalGroups(masterOf(p).graph, compileTaps(p, masterOf(p))).empty(), finishes);
    }
}

TEST(Finishes, MutedCardsHandOnTheFirst) {
    Two two;
    const Id mixed = two.between("mix");
    two.p = *edit::muteNodes(two.p, "m", {mixed}, true);
    EXPECT_EQ(channelOf(two.p, "base_color"), overSquare(two.p, two.back.color, kSize));
}

TEST(Finishes, AreMadeOfTheSurfacesOwnKind) {
    Project p = bareProject();
    SurfaceSettings cloth;
    cloth.layers = uint32_t(Layer::Sheen);
    p = *edit::setSurface(p, "m", cloth);
    Node card = makeNode("finish");
    p = *edit::addNode(p, "m", card);
    const Node& made = *masterOf(p).graph.find(card.id);
    EXPECT_EQ(made.settings.at("kind"), "cloth");
    const NodeDef& def = *findNodeDef("finish");
    EXPECT_TRUE(showsInput(made, def, *def.input("sheen_color")));
    EXPECT_FALSE(showsInput(made, def, *def.input("clearcoat")));
    // Layers that make no kind of their own: all of them.
    cloth.layers |= uint32_t(Layer::Coat);
    p = *edit::setSurface(p, "m", cloth);
    Node second = makeNode("finish");
    p = *edit::addNode(p, "m", second);
    EXPECT_EQ(masterOf(p).graph.find(second.id)->settings.at("kind"), "all layers");
}

// Who takes something as a finish is not left with nothing.
TEST(Finishes, OfAnInstanceThatIsRemovedBecomeItsParentsAndAMasterThatIsTakenStays) {
    Project p = bareProject();
    Master tar;
    tar.id = "tar", tar.name = "Tar";
    tar.graph.channelConstants["roughness"] = Value::number(0.2f);
    p = *edit::addMaster(p, tar);
    Instance wet;
    wet.id = "wet", wet.name = "Wet", wet.parent = "tar";
    p = *edit::addInstance(p, wet);
    const Id card = add(p, "finish_of", {}, {{"of", "wet"}});
    channel(p, {card, "out", ""}, "finish");
    EXPECT_FLOAT_EQ(channelOf(p, "roughness")[0], 0.2f);

    const Result<Project> refused = edit::removeMaster(p, "tar");
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "edit.master-taken");
    EXPECT_NE(refused.error().sentence.find("Tar is taken as a finish by M"), std::string::npos) << refused.error().sentence;

    const Project without = *edit::removeInstance(p, "wet");
    EXPECT_EQ(masterOf(without).graph.find(card)->settings.at("of"), "tar");
    EXPECT_FLOAT_EQ(channelOf(without, "roughness")[0], 0.2f) << "it shows what the instance had inherited";
    EXPECT_EQ(masterOf(p).graph.find(card)->settings.at("of"), "wet") << "the state before is as it was";
    EXPECT_FALSE(edit::removeMaster(without, "tar"));
    EXPECT_TRUE(edit::removeMaster(*edit::removeNodes(without, "m", {card}), "tar"));
}

} // namespace
} // namespace hue
