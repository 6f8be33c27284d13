#include "core/check/check.h"
#include "core/emit/driver_log.h"
#include "core/emit/emit_glsl.h"
#include "core/evaluate/evaluator.h"
#include "core/nodes/add_line.h"
#include "core/program/passes/passes.h"
#include "core/program/uniform_layout.h"
#include "core/surface/channels.h"
#include "core/surface/surface_stages.h"
#include "tests/test_graphs.h"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <set>

namespace hue {
namespace {

using namespace test;

const Diagnostic* find(const std::vector<Diagnostic>& list, const std::string& code) {
    for (const Diagnostic& d : list)
        if (d.code == code) return &d;
    return nullptr;
}

TEST(Widths, ANumberSpreadsOverAColor) {
    Project p = bareProject();
    const Id n = add(p, "constant", {{"value", Value::number(0.25f)}});
    channel(p, {n, "out", ""}, "base_color");
    EXPECT_TRUE(compileSurface(p, masterOf(p)).ok);
}

TEST(Widths, AColorIntoANumberNeedsATakeAndOffersThem) {
    Project p = bareProject();
    const Id c = add(p, "constant", {{"value", Value::vec3(1, 0.5f, 0)}});
    channel(p, {c, "out", ""}, "roughness");
    const Compilation compiled = compileSurface(p, masterOf(p));
    const Diagnostic* d = find(compiled.diagnostics, "wire.needs-take");
    ASSERT_TRUE(d);
    EXPECT_FALSE(compiled.ok);
    EXPECT_EQ(d->place.port, "roughness");
    ASSERT_EQ(d->fixes.size(), 4u);
    const Project mended = *d->fixes[1].edit(p);
    const Compilation after = compileSurface(mended, masterOf(mended));
    EXPECT_TRUE(after.ok);
    const Instruction& rough = after.program->code[size_t(after.program->output("roughness"))];
    ASSERT_EQ(rough.op, Op::Constant);
    EXPECT_FLOAT_EQ(after.program->constants[rough.imm][0], 0.5f);
}

TEST(Widths, AMismatchNamesBothWidthsAndThePlace) {
    Project p = bareProject();
    const Id a = add(p, "constant", {{"value", Value::vec2(1, 2)}}), b = add(p, "constant", {{"value", Value::vec3(1, 2, 3)}}),
             sum = add(p, "add");
    wire(p, {a, "out", ""}, sum, "in1");
    wire(p, {b, "out", ""}, sum, "in2");
    channel(p, {sum, "out", "r"}, "roughness");
    const Compilation compiled = compileSurface(p, masterOf(p));
    const Diagnostic* d = find(compiled.diagnostics, "wire.width");
    ASSERT_TRUE(d);
    EXPECT_EQ(d->place.node, sum);
    EXPECT_NE(d->sentence.find("2 components"), std::string::npos) << d->sentence;
    EXPECT_NE(d->sentence.find("3 components"), std::string::npos) << d->sentence;
    EXPECT_NE(d->sentence.find("in2"), std::string::npos) << d->sentence;
}

TEST(Widths, ATakeOfAMissingComponentIsAnError) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord");
    channel(p, {uv, "out", "b"}, "roughness");
    EXPECT_TRUE(find(compileSurface(p, masterOf(p)).diagnostics, "wire.take"));
    EXPECT_EQ(widthOfTake("luma", 3), 1);
    EXPECT_EQ(widthOfTake("luma", 2), 0);
    EXPECT_EQ(widthOfTake("zyx", 3), 3);
}

TEST(Checks, ALoopInADamagedFileIsReportedAndCanBeCut) {
    Project p = bareProject();
    const Id a = add(p, "add"), b = add(p, "add");
    wire(p, {a, "out", ""}, b, "in1");
    channel(p, {b, "out", ""}, "roughness");
    // Not possible by edits, so done by hand.
    auto master = std::make_shared<Master>(masterOf(p));
    auto node = std::make_shared<Node>(*master->graph.nodes.at(a));
    node->wires["in1"] = {b, "out", ""};
    master->graph.nodes[a] = node;
    p.masters[0] = master;
    const Compilation compiled = compileSurface(p, masterOf(p));
    const Diagnostic* d = find(compiled.diagnostics, "graph.cycle");
    ASSERT_TRUE(d);
    const Project mended = *d->fixes[0].edit(p);
    EXPECT_FALSE(find(compileSurface(mended, masterOf(mended)).diagnostics, "graph.cycle"));
}

TEST(Checks, SayWhatLeadsNowhereAndWhatHasNoEffect) {
    Project p = bareProject();
    const Id a = add(p, "constant"), b = add(p, "sine");
    wire(p, {a, "out", ""}, b, "in");
    Parameter lost;
    lost.name = "Lost";
    p = *edit::addParameter(p, "m", lost);
    channel(p, {add(p, "constant"), "out", ""}, "alpha");
    const auto found = checkMaster(p, masterOf(p));
    EXPECT_EQ(std::count_if(found.begin(), found.end(), [](const Diagnostic& d) { return d.code == "graph.dead-end"; }), 1)
        << "only the end of a chain is named";
    EXPECT_EQ(find(found, "graph.dead-end")->place.node, b);
    EXPECT_TRUE(find(found, "parameter.no-effect"));
    const Diagnostic* alpha = find(found, "channel.inactive");
    ASSERT_TRUE(alpha);
    EXPECT_EQ(alpha->sentence, "Alpha has no effect: the surface is opaque.");
    EXPECT_EQ(masterOf(*alpha->fixes[0].edit(p)).surface.alphaMode, AlphaMode::Blend);
}

TEST(Checks, ADivisionThatCanReachZeroIsNamed) {
    Project p = bareProject();
    const Id d = add(p, "divide", {{"in2", Value::number(0)}});
    channel(p, {d, "out", ""}, "roughness");
    EXPECT_TRUE(find(checkMaster(p, masterOf(p)), "divide.by-zero"));
}

TEST(Checks, ARawNormalMapInTheNormalChannelGetsADecoderBetween) {
    Project p = bareProject();
    const Id image = add(p, "image");
    channel(p, {image, "color", ""}, "normal");
    const auto found = compileSurface(p, masterOf(p)).diagnostics;
    const Diagnostic* d = find(found, "normal.not-a-normal");
    ASSERT_TRUE(d);
    const Project mended = *d->fixes[0].edit(p);
    EXPECT_FALSE(find(compileSurface(mended, masterOf(mended)).diagnostics, "normal.not-a-normal"));
}

TEST(Checks, UnknownNodesAreNamedAndKept) {
    Project p = bareProject();
    auto master = std::make_shared<Master>(masterOf(p));
    auto node = std::make_shared<Node>();
    node->id = "x";
    node->kind = "from_the_future";
    master->graph.nodes["x"] = node;
    master->graph.channelWires["roughness"] = {"x", "out", ""};
    p.masters[0] = master;
    EXPECT_TRUE(find(compileSurface(p, masterOf(p)).diagnostics, "node.unknown"));
}

TEST(Optimiser, FoldsConstantsAndLeavesOutWhatNothingReads) {
    Project p = bareProject();
    const Id a = add(p, "constant", {{"value", Value::number(2)}}), b = add(p, "multiply", {{"in2", Value::number(0.25f)}});
    wire(p, {a, "out", ""}, b, "in1");
    add(p, "worley_noise");
    channel(p, {b, "out", ""}, "roughness");
    const auto program = compileSurface(p, masterOf(p)).program;
    const Instruction& rough = program->code[size_t(program->output("roughness"))];
    ASSERT_EQ(rough.op, Op::Constant);
    EXPECT_FLOAT_EQ(program->constants[rough.imm][0], 0.5f);
    for (const Instruction& i : program->code) EXPECT_NE(i.op, Op::Worley2);
}

TEST(Optimiser, LetsEqualWorkStandOnce) {
    Project p = bareProject();
    const Id a = add(p, "worley_noise"), b = add(p, "worley_noise"), sum = add(p, "add");
    wire(p, {a, "out", ""}, sum, "in1");
    wire(p, {b, "out", ""}, sum, "in2");
    channel(p, {sum, "out", ""}, "roughness");
    const auto program = compileSurface(p, masterOf(p)).program;
    EXPECT_EQ(std::count_if(program->code.begin(), program->code.end(), [](const Instruction& i) { return i.op == Op::Worley2; }), 1);
}

TEST(Optimiser, KeepsTheProgramValidAndItsResultsThroughEveryPass) {
    for (uint32_t seed = 0; seed < 40; ++seed) {
        const Project p = randomGraph(seed, 30);
        // Taps keep everything alive, so each pass has much to do.
        const auto program = compileTaps(p, masterOf(p)).program;
        EXPECT_EQ(validate(*program), "");
        Program again = *program;
        EXPECT_FALSE(removeDead(again)) << "a second run finds nothing";
        EXPECT_FALSE(mergeCommon(again));
        EXPECT_EQ(validate(again), "");
    }
}

TEST(Rates, WhatDependsOnlyOnParametersAndTimeIsComputedOnceAFrame) {
    Project p = bareProject();
    Parameter speed;
    speed.id = "s";
    speed.name = "Speed";
    p = *edit::addParameter(p, "m", speed);
    const Id parameter = add(p, "parameter", {}, {{"parameter", "s"}}), wave = add(p, "wave"), noise = add(p, "noise_2d"),
             product = add(p, "multiply");
    wire(p, {parameter, "out", ""}, wave, "frequency");
    wire(p, {wave, "out", ""}, product, "in1");
    wire(p, {noise, "out", ""}, product, "in2");
    channel(p, {product, "out", ""}, "roughness");
    const Compilation compiled = compileSurface(p, masterOf(p));
    EXPECT_EQ(compiled.cards.at(wave).rate, Rate::Frame);
    EXPECT_EQ(compiled.cards.at(noise).rate, Rate::Pixel);
    const std::string glsl = emitMaterial(*compiled.program, uniformLayout(*compiled.program));
    EXPECT_EQ(glsl.find("sin("), std::string::npos) << "the wave is not computed per pixel";
}

TEST(LiveConstants, GiveTheSameResultAndKeepTheStructureWhenTheyChange) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d"), mix = add(p, "mix", {{"bg", Value::number(0.2f)}, {"mix", Value::number(0.4f)}});
    wire(p, {noise, "out", ""}, mix, "fg");
    channel(p, {mix, "out", ""}, "roughness");
    auto valueAt = [&](const Project& project, Constants constants) {
        const Evaluator e(compileSurface(project, masterOf(project), constants).program);
        FrameInputs inputs;
        inputs.parameter = [&](const Id& id) {
            Value v;
            EXPECT_TRUE(liveConstantValue(project, masterOf(project), id, v));
            return v;
        };
        float out = 0;
        e.grid(e.frame(inputs), {"roughness"}, 2, 2, FlatSquare(2, 2),
               [&](int, int, int, int, const float* const* planes) { out = planes[0][0]; }, {});
        return out;
    };
    EXPECT_FLOAT_EQ(valueAt(p, Constants::Folded), valueAt(p, Constants::Live));
    const Project changed = *edit::setConstant(p, "m", mix, "mix", Value::number(0.9f));
    EXPECT_EQ(structureKey(p, masterOf(p)), structureKey(changed, masterOf(changed)));
    EXPECT_FLOAT_EQ(valueAt(changed, Constants::Folded), valueAt(changed, Constants::Live));
    EXPECT_NE(valueAt(p, Constants::Live), valueAt(changed, Constants::Live));
    const Project rewired = *edit::disconnect(p, "m", mix, "fg");
    EXPECT_NE(structureKey(p, masterOf(p)), structureKey(rewired, masterOf(rewired)));
}

TEST(Muting, PassesTheFirstFittingInputThrough) {
    Project p = bareProject();
    const Id c = add(p, "constant", {{"value", Value::number(0.3f)}}), inverted = add(p, "invert");
    wire(p, {c, "out", ""}, inverted, "in");
    channel(p, {inverted, "out", ""}, "roughness");
    auto roughness = [&](const Project& q) {
        const auto program = compileSurface(q, masterOf(q)).program;
        return program->constants[program->code[size_t(program->output("roughness"))].imm][0];
    };
    EXPECT_FLOAT_EQ(roughness(p), 0.7f);
    EXPECT_FLOAT_EQ(roughness(*edit::muteNodes(p, "m", {inverted}, true)), 0.3f);
    EXPECT_FLOAT_EQ(roughness(*edit::muteChannel(p, "m", "roughness", true)), findChannel("roughness")->standard[0]);
}

TEST(Catalogue, DescribesEveryNodeForPeople) {
    std::set<std::string_view> keys;
    for (const NodeDef& def : catalogue()) {
        EXPECT_TRUE(keys.insert(def.key).second) << def.key;
        EXPECT_FALSE(def.help.empty()) << def.key;
        EXPECT_FALSE(def.words.empty()) << def.key;
        EXPECT_EQ(def.outputs.empty(), def.key == "note" || def.key == "output") << def.key << " gives nothing";
        for (const PortDef& p : def.inputs) EXPECT_FALSE(p.help.empty()) << def.key << "." << p.key;
    }
}

TEST(Catalogue, IsFoundByTradeWords) {
    EXPECT_EQ(searchCatalogue("lerp")[0]->key, "mix");
    EXPECT_EQ(searchCatalogue("voronoi")[0]->key, "worley_noise");
    // The node of that name comes first, then what shading languages mean by it.
    EXPECT_EQ(searchCatalogue("saturate")[0]->key, "saturate");
    EXPECT_EQ(searchCatalogue("saturate")[1]->key, "clamp");
    EXPECT_EQ(searchCatalogue("Mix")[0]->key, "mix");
    EXPECT_TRUE(searchCatalogue("zzz").empty());
    // Words in any order, and slips of the hand.
    EXPECT_EQ(searchCatalogue("map normal")[0]->key, "normal_map");
    EXPECT_EQ(searchCatalogue("3d noise")[0]->key, "noise_3d");
    EXPECT_EQ(searchCatalogue("smoothtsep")[0]->key, "smoothstep");
    EXPECT_EQ(searchCatalogue("mutliply")[0]->key, "multiply");
    EXPECT_EQ(searchCatalogue("tripanar")[0]->key, "triplanar_projection");
    EXPECT_EQ(searchCatalogue("vornoi")[0]->key, "worley_noise");
    EXPECT_TRUE(searchCatalogue("tram depot").empty());
    for (const NodeDef& def : catalogue()) EXPECT_EQ(searchCatalogue(def.name)[0]->key, def.key) << "its own name comes first";
}

TEST(AddLine, UnderstandsNodesNumbersColorsAndParameters) {
    const Project p = bareProject();
    auto first = [&](const char* typed) { return propose(p, masterOf(p), typed).at(0); };
    EXPECT_EQ(first("mix").node.kind, "mix");
    EXPECT_EQ(first("0.75").node.constants.at("value"), Value::number(0.75f));
    EXPECT_EQ(first("0.2 0.4 0.9").node.constants.at("value"), Value::vec3(0.2f, 0.4f, 0.9f));
    EXPECT_EQ(first("-.5").node.constants.at("value"), Value::number(-0.5f));
    Value blue;
    colorFromHex("#3366e6", blue);
    EXPECT_EQ(first("#3366e6").node.constants.at("value"), blue);
    const Proposal grout = first("grout width = 6 mm, 0 to 20");
    EXPECT_EQ(grout.kind, Proposal::Kind::Parameter);
    EXPECT_EQ(grout.parameter.name, "Grout width");
    EXPECT_EQ(grout.parameter.unit, "mm");
    EXPECT_FLOAT_EQ(grout.parameter.standard.value[0], 6);
    EXPECT_FLOAT_EQ(grout.parameter.hardMax, 20);
    EXPECT_EQ(grout.detail, "number, default 6 mm, limits 0 to 20 mm");
    const Proposal drift = first("drift = 0.1 0.25 /s, 0 to 2");
    EXPECT_EQ(drift.parameter.type, ParameterType::Vector2);
    EXPECT_EQ(drift.parameter.standard.value, Value::vec2(0.1f, 0.25f));
    EXPECT_EQ(drift.parameter.unit, "/s");
    EXPECT_EQ(drift.detail, "vector of two, default 0.1 0.25 /s, limits 0 to 2 /s");
    EXPECT_TRUE(propose(p, masterOf(p), "place = 1, 2").empty()) << "a comma stands before limits";
    EXPECT_EQ(first("place = 1 2 3").parameter.type, ParameterType::Vector3);
    for (const char* tint : {"tint = #3366e6", "tint = 3366e6", "tint = 3366E6"}) {
        EXPECT_EQ(first(tint).parameter.type, ParameterType::Color) << tint;
        EXPECT_EQ(first(tint).parameter.standard.value, blue) << tint;
    }
    EXPECT_EQ(first("count = 336699").parameter.type, ParameterType::Number) << "without a letter it is a number";
    for (const char* odd : {"tint = 33zz99", "speed = 0.1 0.2 0.3 0.4", "speed = 0.1 x 0.2", "speed = 5 #33"})
        for (const Proposal& q : propose(p, masterOf(p), odd))
            EXPECT_TRUE(q.kind != Proposal::Kind::Parameter || q.parameter.unit == "zz99") << odd;
    for (const Proposal& q : propose(p, masterOf(p), "cos")) EXPECT_NE(q.node.kind, "dot_product");
    EXPECT_EQ(propose(p, masterOf(p), "").size(), catalogue().size() - 2)
        << "an empty line browses all, but for parameters and what only an assembly has";
    for (const char* odd : {"= 5", "a =", "1 2 3 4 5", "a = 1, 5", "9e999", "#12"})
        for (const Proposal& q : propose(p, masterOf(p), odd)) EXPECT_NE(q.kind, Proposal::Kind::Parameter) << odd;
}

TEST(Meanings, AreToldWhereTheyDoNotFitAndTheFixesMendThem) {
    const auto mended = [](const Project& p, const std::string& code) {
        const auto list = compileTaps(p, masterOf(p)).diagnostics;
        const auto its = std::find_if(list.begin(), list.end(), [&](const Diagnostic& d) { return d.code == code; });
        EXPECT_NE(its, list.end()) << code;
        if (its == list.end() || its->fixes.empty()) return Project();
        const Result<Project> next = its->fixes[0].edit(p);
        EXPECT_TRUE(next) << (next ? "" : next.error().sentence);
        if (!next) return Project();
        EXPECT_FALSE(holds(codesOf(compileTaps(*next, masterOf(*next)).diagnostics), code)) << code << " is gone after its fix";
        return *next;
    };
    // Two encoded normals mixed: joined instead, with the wires kept.
    Project p = bareProject();
    const Id one = add(p, "height_to_normal"), two = add(p, "height_to_normal"), mix = add(p, "mix");
    wire(p, {one, "out", ""}, mix, "bg");
    wire(p, {two, "out", ""}, mix, "fg");
    const Project joined = mended(p, "normal.mixed-encoded");
    EXPECT_EQ(masterOf(joined).graph.find(mix)->kind, "join_normals");
    EXPECT_EQ(masterOf(joined).graph.find(mix)->wires.at("in2").node, two);
    // Chosen between they may be.
    Project q = bareProject();
    const Id a = add(q, "height_to_normal"), b = add(q, "height_to_normal"), either = add(q, "if_greater");
    wire(q, {a, "out", ""}, either, "in1");
    wire(q, {b, "out", ""}, either, "in2");
    EXPECT_FALSE(holds(codesOf(compileTaps(q, masterOf(q)).diagnostics), "normal.mixed-encoded"));
    // A map of kind color as a normal map: its kind is changed.
    Project m = bareProject();
    MapFile file;
    file.id = file.name = "t";
    file.path = "t.png";
    m = *edit::addMap(m, file);
    const Id image = add(m, "image", {}, {{"map", "t"}}), normal = add(m, "normal_map");
    wire(m, {image, "color", ""}, normal, "in");
    EXPECT_EQ(mended(m, "normal.from-color").map("t")->kind, MapKind::Normal);
    // An encoded normal into a port for one in the world; a direction as a position.
    Project f = bareProject();
    const Id h = add(f, "height_to_normal"), facing = add(f, "facing_ratio");
    wire(f, {h, "out", ""}, facing, "normal");
    mended(f, "normal.encoded");
    Project d = bareProject();
    const Id tangent = add(d, "tangent"), noise = add(d, "noise_3d");
    wire(d, {tangent, "out", ""}, noise, "position");
    const Project at = mended(d, "wire.not-a-position");
    EXPECT_EQ(masterOf(at).graph.find(masterOf(at).graph.find(noise)->wires.at("position").node)->kind, "position");
}

TEST(VertexOffset, OffersTheVersionOfACardThatVerticesCanCompute) {
    for (const char* kind : {"view_direction", "screen_position", "depth_gap", "front_or_back"}) {
        Project p = bareProject();
        const Id card = add(p, kind), up = add(p, "combine", {}, {{"components", "3"}});
        const NodeDef* def = findNodeDef(kind);
        wire(p, {card, def->outputs[0].key.data(), def->outputs[0].width == 1 || def->outputs[0].width < 0 ? "" : "x"}, up, "g");
        channel(p, {up, "out", ""}, "vertex_offset");
        const auto limit = [](const Project& q) -> std::optional<Diagnostic> {
            for (const Diagnostic& d : compileSurface(q, masterOf(q)).diagnostics)
                if (d.code == "offset.limit") return d;
            return {};
        };
        const auto found = limit(p);
        ASSERT_TRUE(found) << kind;
        ASSERT_EQ(found->fixes.size(), 1u) << kind;
        const auto mended = found->fixes[0].edit(p);
        ASSERT_TRUE(mended) << kind << ": " << mended.error().sentence;
        EXPECT_FALSE(limit(*mended)) << kind;
        EXPECT_TRUE(compileSurface(*mended, masterOf(*mended)).ok) << kind;
        EXPECT_TRUE(masterOf(*mended).graph.find(up)->wires.contains("g")) << kind << ": what it led to is still led to";
    }
}

// The three ways in which drivers write where an error is, as their documentation and logs show them.
TEST(DriverLog, LeadsFromALineToItsCard) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d"), wave = add(p, "sine");
    wire(p, {noise, "out", ""}, wave, "in");
    channel(p, {wave, "out", ""}, "roughness");
    const Compilation c = compileSurface(p, masterOf(p));
    const std::string stage = surfaceFragmentStage(*c.program, uniformLayout(*c.program));
    const auto lineOf = [&](const std::string& what) {
        const size_t at = stage.find(what, stage.find("hs_Outputs hs_material("));
        EXPECT_NE(at, std::string::npos) << what;
        return 1 + std::count(stage.begin(), stage.begin() + long(at), '\n');
    };
    const long ofNoise = lineOf("hs_noise2("), ofSine = lineOf("sin(");
    ASSERT_NE(ofNoise, ofSine);
    for (const auto& [line, card] : {std::pair{ofNoise, noise}, {ofSine, wave}, {1L, Id()}})
        for (const char* form : {"0:{}(17): error: no function with name", "0({}) : error C1008: no function with name",
                                 "ERROR: 0:{}: 'x' : no function with name", "0:{}: no function with name"}) {
            const std::string log = "The driver refuses the shader:\n0:3(1): warning: deprecated\n" +
                                    fmt::format(fmt::runtime(form), line) + "\n0:999(1): error: another\n";
            const DriverComplaint its = complaintOf(*c.program, stage, log);
            EXPECT_EQ(its.line, line) << log;
            EXPECT_EQ(its.card, card) << log;
            EXPECT_NE(its.says.find("no function"), std::string::npos) << its.says;
            EXPECT_EQ(its.says.find("0:"), std::string::npos) << its.says;
        }
    const DriverComplaint odd = complaintOf(*c.program, stage, "out of registers");
    EXPECT_EQ(odd.line, 0);
    EXPECT_EQ(odd.says, "out of registers");
    EXPECT_TRUE(odd.card.empty());
    for (const char* wild : {"", "\n\n", "0:99999999999999(1): error: x", "0:-5: x", "0(", "0:", "ERROR: "})
        EXPECT_TRUE(complaintOf(*c.program, stage, wild).card.empty()) << wild;
}

} // namespace
} // namespace hue
