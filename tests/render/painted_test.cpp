// What is painted on vertices, by the driver and by the CPU.
#include "core/mesh/paint_data.h"
#include "tests/render/three_pictures.h"
#include "tests/test_graphs.h"

namespace hue {
namespace {

using namespace test;

/// White where the third channel is painted, black elsewhere; rougher with the first.
Project chalked(bool perVertex = false) {
    Project p = bareProject();
    const Id chalk = add(p, "painted", {}, {{"channel", "3"}}), rough = add(p, "painted");
    channel(p, {chalk, "out", ""}, "base_color");
    channel(p, {rough, "out", ""}, "roughness");
    if (perVertex) p = *edit::setPerVertex(p, "m", {}, "base_color", true);
    p.lineup.specimens = {Specimen{.mesh = "shape:sphere/2", .wears = {"m"}}};
    return p;
}

/// The upper half.
Project painted(Project p) {
    const PaintData bare(shapeById("shape:sphere/2"));
    std::vector<float> up;
    for (const Vertex& v : bare.surface()->vertices) up.push_back(v.position[1] > 0 ? 1.f : 0.f);
    p = *edit::addPaintwork(p, {"w", "Ball", "shape:sphere/2", {}, {}, std::make_shared<PaintData>(bare.with(2, up))});
    return *edit::wearPaintwork(p, 0, "w");
}

int brightnessAt(const RenderedPicture& picture, float x, float y) {
    const size_t at = 4 * (size_t(y * float(picture.height)) * size_t(picture.width) + size_t(x * float(picture.width)));
    return picture.rgba[at] + picture.rgba[at + 1] + picture.rgba[at + 2];
}

TEST(PaintedPictures, AreTheSameByTheDriverByTheEvaluatorAndInSoftware) {
    for (const bool perVertex : {false, true}) {
        const Project p = painted(chalked(perVertex));
        const Three three = drawn(p, p.lineup.specimens[0], small());
        EXPECT_LT(meanDifference(three.linked, three.evaluated), 0.2);
        EXPECT_LT(meanDifference(three.linked, three.software), 0.6);
        for (const RenderedPicture* picture : {&three.linked, &three.evaluated, &three.software})
            EXPECT_GT(brightnessAt(*picture, 0.5f, 0.3f), brightnessAt(*picture, 0.5f, 0.75f) + 150) << "the upper half is chalked";
    }
}

TEST(PaintedPictures, NothingIsPaintedOnAMeshThatHasNoPaint) {
    Project p = chalked();
    // What stands behind has colors, which are none of the specimen's paint.
    p.lineup.specimens[0].things = {{"signs", {0, 0, -1.5f}, 1.2f, true}};
    const Three bare = drawn(p, p.lineup.specimens[0], small());
    p = *edit::setChannelConstant(p, "m", "base_color", Value::vec3(0, 0, 0));
    p = *edit::disconnectChannel(*edit::disconnectChannel(p, "m", "base_color"), "m", "roughness");
    p = *edit::setChannelConstant(p, "m", "roughness", Value::number(0));
    const Three black = drawn(p, p.lineup.specimens[0], small());
    EXPECT_LT(meanDifference(bare.linked, black.linked), 0.01);
    EXPECT_LT(meanDifference(bare.evaluated, black.evaluated), 0.01);
    EXPECT_LT(meanDifference(bare.software, black.software), 0.01);
}

TEST(PaintedPictures, VerticesAreMovedByWhatIsPaintedOnThem) {
    Project p = chalked();
    const Id up = add(p, "multiply", {{"in2", Value::vec3(0, 0.4f, 0)}}), chalk = add(p, "painted", {}, {{"channel", "3"}});
    wire(p, {chalk, "out", ""}, up, "in1");
    channel(p, {up, "out", ""}, "vertex_offset");
    p = painted(p);
    const Three three = drawn(p, p.lineup.specimens[0], small());
    EXPECT_LT(meanDifference(three.linked, three.software), 0.6);
    const Project still = *edit::wearPaintwork(p, 0, {});
    EXPECT_GT(meanDifference(three.linked, drawn(still, still.lineup.specimens[0], small()).linked), 1);
}

} // namespace
} // namespace hue
