// What is computed per vertex, by the driver and by the CPU.
#include "core/project/store.h"
#include "tests/render/three_pictures.h"
#include "tests/test_graphs.h"

#include <cmath>

namespace hue {
namespace {

using namespace test;

/// A noise of many cells glows; per vertex or per pixel.
Project glowing(bool perVertex) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::number(9)}}), tinted = add(p, "multiply", {{"in2", Value::vec3(1, 0.6f, 0.2f)}});
    wire(p, {noise, "out", ""}, tinted, "in1");
    channel(p, {tinted, "out", ""}, "base_color");
    channel(p, {noise, "out", ""}, "roughness");
    if (perVertex) {
        p = *edit::setPerVertex(p, "m", tinted, "in1", true);
        p = *edit::setPerVertex(p, "m", {}, "roughness", true);
    }
    return p;
}

class PerVertexPicture : public testing::TestWithParam<std::string> {};

TEST_P(PerVertexPicture, IsTheSameByTheDriverByTheEvaluatorAndInSoftware) {
    Specimen specimen;
    specimen.mesh = GetParam();
    specimen.wears = {"m"};
    const Three per = drawn(glowing(true), specimen, small());
    EXPECT_LT(meanDifference(per.linked, per.evaluated), 0.2);
    EXPECT_LT(meanDifference(per.linked, per.software), 0.6);
    const Three pixels = drawn(glowing(false), specimen, small());
    EXPECT_GT(meanDifference(per.linked, pixels.linked), 1) << "a coarse mesh shows its triangles";
}

INSTANTIATE_TEST_SUITE_P(Coarse, PerVertexPicture, testing::Values("plane/1", "sphere/1", "cube/1"),
                         [](const auto& tested) { return tested.param.substr(0, tested.param.find('/')); });

TEST(PerVertexPictures, ComeToThoseOfPixelsAsTheMeshGetsFiner) {
    double last = 1e9;
    for (const int times : {0, 2, 4}) {
        Specimen specimen;
        specimen.mesh = "plane/2";
        specimen.subdivisions = times;
        specimen.wears = {"m"};
        const double now = meanDifference(drawn(glowing(true), specimen, small()).linked, drawn(glowing(false), specimen, small()).linked);
        EXPECT_LT(now, last * 0.6) << times << " times finer";
        last = now;
    }
    EXPECT_LT(last, 0.3);
}

TEST(PerVertexPictures, StandOnEachPlacementAndOnWhatWasMoved) {
    Project p = glowing(true);
    p = *edit::setChannelConstant(p, "m", "vertex_offset", Value::vec3(0, 0.2f, 0));
    const Id random = add(p, "random_per_placement");
    channel(p, {random, "out", ""}, "metallic");
    Specimen specimen;
    specimen.mesh = "plane/1";
    specimen.wears = {"m"};
    specimen.placements = Placements{};
    specimen.placements->count = 3;
    const Three three = drawn(p, specimen, small());
    EXPECT_LT(meanDifference(three.linked, three.evaluated), 0.2);
    EXPECT_LT(meanDifference(three.linked, three.software), 0.6);
}

TEST(PerVertexPictures, EachSlotHasTheValuesOfWhatItWears) {
    // Two instances of one master on a mesh of two slots: each carries its own parameter.
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::number(9)}}), product = add(p, "multiply");
    wire(p, {noise, "out", ""}, product, "in1");
    channel(p, {product, "out", ""}, "emissive_strength");
    p = *edit::setChannelConstant(p, "m", "emissive", Value::vec3(1, 1, 1));
    p = *edit::exposeSeveral(p, "m", {{product, "in2"}});
    p = *edit::setPerVertex(p, "m", {}, "emissive_strength", true);
    const Id strength = masterOf(p).parameters[0].id;
    Project depot = loadProject(depotFile())->project;
    depot.masters.push_back(p.masters[0]);
    for (const auto& [id, value] : {std::pair{"dim", 0.f}, {"bright", 3.f}})
        depot = *edit::addInstance(depot, {id, id, "m", {{strength, {Value::number(value), {}}}}, {}, {}, {}, {}});
    Assets assets;
    assets.setFolder(depotFolder());
    LookCache looks;
    Specimen specimen;
    specimen.mesh = "route_display";
    specimen.wears = {"dim", "bright", "dim"};
    const DressedSpecimen dressed = dress(depot, assets, looks, specimen, 0);
    ASSERT_GE(dressed.slots.size(), 2u);
    for (size_t s = 0; s < dressed.slots.size(); ++s) {
        float most = 0;
        const MeshSlot& slot = dressed.mesh->slots[s];
        for (uint32_t i = slot.firstIndex; i < slot.firstIndex + slot.indexCount; ++i)
            for (const float x : dressed.mesh->carried[dressed.mesh->indices[i]]) most = std::max(most, std::fabs(x));
        EXPECT_EQ(most > 0.1f, s == 1) << "slot " << s;
    }
}

TEST(PerVertexPictures, AWireThatIsComputedPerVertexIsShownAsItIsCarried) {
    const Project p = glowing(true);
    const Source wire = masterOf(p).graph.channelWires.at("roughness");
    ASSERT_TRUE(wire.perVertex);
    Source pixels = wire;
    pixels.perVertex = false;
    Specimen specimen;
    specimen.mesh = "plane/1";
    specimen.wears = {"m"};
    Assets assets;
    LookCache looks;
    std::vector<RenderedPicture> seen;
    for (const Source& shown : {wire, pixels}) {
        DressOptions options;
        options.wire = &shown;
        options.wireMaster = "m";
        RenderSettings settings = small();
        const auto picture = Gl::renderer().render(dress(p, assets, looks, specimen, 0, options), settings);
        ASSERT_TRUE(picture);
        seen.push_back(*picture);
    }
    EXPECT_GT(meanDifference(seen[0], seen[1]), 1);
}

} // namespace
} // namespace hue
