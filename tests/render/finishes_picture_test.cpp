// A finish that is looked at on the mesh.
#include "core/nodes/finish.h"
#include "tests/render/three_pictures.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

TEST(Finishes, OnTheMeshAreSeenLitAsASurfaceThatTakesThem) {
    Project p = bareProject();
    const Id copper = add(
                 p, "finish",
                 {{"base_color", Value::vec3(0.75f, 0.3f, 0.16f)}, {"metallic", Value::number(1)}, {"roughness", Value::number(0.25f)}}),
             chalk = add(p, "finish", {{"base_color", Value::vec3(0.8f, 0.8f, 0.75f)}, {"roughness", Value::number(0.95f)}}),
             uv = add(p, "texcoord"), mix = add(p, "mix");
    wire(p, {copper, "out", ""}, mix, "bg");
    wire(p, {chalk, "out", ""}, mix, "fg");
    wire(p, {uv, "out", "x"}, mix, "mix");
    channel(p, {chalk, "out", ""}, "finish");
    channel(p, {uv, "out", "y"}, "roughness");
    const Specimen ball = p.lineup.specimens[0];
    LightLibrary lights;
    const auto seen = [&](const Project& project) {
        RenderSettings s = settingsFor(project, ball, lights, {}, true);
        s.width = small().width, s.height = small().height;
        return drawn(project, ball, s);
    };
    for (const Source& wire : {Source{copper, "out", ""}, Source{mix, "out", ""}}) {
        ASSERT_TRUE(leadsFinish(p, masterOf(p).graph, wire));
        Project looking = p;
        looking.lineup.view = "wire", looking.lineup.wire = wire, looking.lineup.wireMaster = "m";
        // A surface that takes it, and nothing beside.
        Project taking = *edit::disconnectChannel(p, "m", "roughness");
        channel(taking, wire, "finish");
        const Three look = seen(looking), whole = seen(taking), usual = seen(p);
        EXPECT_LT(meanDifference(look.linked, whole.linked), 0.01);
        EXPECT_LT(meanDifference(look.software, whole.software), 0.01);
        EXPECT_LT(meanDifference(look.linked, look.evaluated), 0.5);
        EXPECT_GT(meanDifference(look.linked, usual.linked), 0.3) << "what the rail takes is something else";
    }
    // Numbers stay a view of their own, and so do their wires through a mix.
    EXPECT_FALSE(leadsFinish(p, masterOf(p).graph, {uv, "out", ""}));
    const Id numbers = add(p, "mix");
    wire(p, {uv, "out", "x"}, numbers, "bg");
    EXPECT_FALSE(leadsFinish(p, masterOf(p).graph, {numbers, "out", ""}));
    Project looking = p;
    looking.lineup.view = "wire", looking.lineup.wire = {uv, "out", "x"}, looking.lineup.wireMaster = "m";
    EXPECT_EQ(views()[size_t(settingsFor(looking, ball, lights, {}, true).view)].key, "wire");
}

} // namespace
} // namespace hue
