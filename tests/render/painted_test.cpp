// What is painted on vertices, by the driver and by the CPU.
#include "core/mesh/paint_data.h"
#include "tests/render/three_pictures.h"
#include "tests/test_graphs.h"

namespace hue {
namespace {

using namespace test;

/// White where a channel is painted, black elsewhere; rougher with the first.
Project chalked(bool perVertex = false, int by = 3) {
    Project p = bareProject();
    const Id chalk = add(p, "painted", {}, {{"channel", std::to_string(by)}}), rough = add(p, "painted");
    channel(p, {chalk, "out", ""}, "base_color");
    channel(p, {rough, "out", ""}, "roughness");
    if (perVertex) p = *edit::setPerVertex(p, "m", {}, "base_color", true);
    p.lineup.specimens = {Specimen{.mesh = "shape:sphere/2", .wears = {"m"}}};
    return p;
}

/// The upper half.
Project painted(Project p, int by = 3) {
    const PaintData bare(shapeById("shape:sphere/2"));
    std::vector<float> up;
    for (const Vertex& v : bare.surface()->vertices) up.push_back(v.position[1] > 0 ? 1.f : 0.f);
    p = *edit::addPaintwork(p, {"w", "Ball", "shape:sphere/2", {}, {}, std::make_shared<PaintData>(bare.with(by - 1, up))});
    return *edit::wearPaintwork(p, 0, "w");
}

int brightnessAt(const RenderedPicture& picture, float x, float y) {
    const size_t at = 4 * (size_t(y * float(picture.height)) * size_t(picture.width) + size_t(x * float(picture.width)));
    return picture.rgba[at] + picture.rgba[at + 1] + picture.rgba[at + 2];
}

TEST(PaintedPictures, AreTheSameByTheDriverByTheEvaluatorAndInSoftware) {
    // Of the first set of vertex colors and of the second; per pixel and per vertex.
    for (const auto& [perVertex, by] : {std::pair{false, 3}, {true, 3}, {false, 7}, {true, 7}}) {
        SCOPED_TRACE(by);
        const Project p = painted(chalked(perVertex, by), by);
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
    for (const int by : {3, 5}) {
        Project p = chalked(false, by);
        const Id up = add(p, "multiply", {{"in2", Value::vec3(0, 0.4f, 0)}}),
                 chalk = add(p, "painted", {}, {{"channel", std::to_string(by)}});
        wire(p, {chalk, "out", ""}, up, "in1");
        channel(p, {up, "out", ""}, "vertex_offset");
        p = painted(p, by);
        const Three three = drawn(p, p.lineup.specimens[0], small());
        EXPECT_LT(meanDifference(three.linked, three.software), 0.6);
        const Project still = *edit::wearPaintwork(p, 0, {});
        EXPECT_GT(meanDifference(three.linked, drawn(still, still.lineup.specimens[0], small()).linked), 1);
    }
}

/// Two specimens of one mesh, each with a paintwork of its own, "w" and "v", on which nothing is painted.
Project twoOf(const char* mesh) {
    Project p = chalked();
    p.lineup.specimens = {Specimen{.mesh = mesh, .wears = {"m"}}, Specimen{.mesh = mesh, .wears = {"m"}}};
    for (const char* id : {"w", "v"})
        p = *edit::addPaintwork(p, {id, id, mesh, {}, {}, std::make_shared<PaintData>(PaintData(shapeById(mesh)))});
    return *edit::wearPaintwork(*edit::wearPaintwork(p, 0, "w"), 1, "v");
}

// One renderer that follows strokes, undo and a second specimen of the same mesh shows what one that begins anew shows, and is sent a
// small part of the mesh.
TEST(PaintedPictures, AStrokeSendsWhatItChangedAndLooksLikeAllOfIt) {
    const char* ball = "shape:sphere/5";
    Project p = twoOf(ball);
    PaintData paint(shapeById(ball));
    Assets assets;
    LookCache known;
    Gl::renderer(); // the context
    Renderer follows;
    const auto picture = [&](Renderer& renderer, LookCache& looks, const Project& of, size_t specimen) {
        const auto drawn = renderer.render(dress(of, assets, looks, of.lineup.specimens[specimen], 0), small());
        EXPECT_TRUE(drawn);
        return drawn ? drawn->rgba : std::vector<uint8_t>{};
    };
    const auto same = [&](const Project& of) {
        for (size_t specimen : {0, 1}) {
            Renderer anew;
            LookCache nothing;
            EXPECT_EQ(picture(follows, known, of, specimen), picture(anew, nothing, of, specimen));
        }
    };
    same(p);
    const size_t whole = follows.meshBytesSent();
    EXPECT_GT(whole, shapeById(ball)->vertices.size() * sizeof(Vertex));
    const auto most = std::max_element(paint.surface()->vertices.begin(), paint.surface()->vertices.end(),
                                       [](const Vertex& a, const Vertex& b) { return a.position[2] < b.position[2]; });
    const auto middle = uint32_t(most - paint.surface()->vertices.begin());
    const Project before = p;
    std::vector<uint8_t> last = picture(follows, known, p, 0);
    for (int stroke = 0; stroke < 4; ++stroke) {
        std::vector<uint32_t> touched;
        for (uint32_t k = 0; k < 512; ++k) touched.push_back((middle / 256 - 4 + 2 * uint32_t(stroke)) * 256 + k);
        paint = paint.with(2, touched, std::vector<float>(touched.size(), 1.f));
        p = *edit::setPaint(p, "w", std::make_shared<PaintData>(paint));
        const size_t sent = follows.meshBytesSent();
        same(p);
        // Once, for the one that was painted; the other has lost nothing by it.
        EXPECT_LE(follows.meshBytesSent() - sent, touched.size() * sizeof(Vertex)) << "of " << whole << ", stroke " << stroke;
        EXPECT_GT(follows.meshBytesSent(), sent);
        std::vector<uint8_t> now = picture(follows, known, p, 0);
        EXPECT_NE(now, last) << "else the stroke was out of sight";
        last = std::move(now);
    }
    same(before);
    // A channel of the second set makes another layout of it.
    p = *edit::setPaint(p, "w", std::make_shared<PaintData>(paint.with(6, std::vector<float>(paint.vertices(), 0.5f))));
    same(p);
}

// On a mesh so coarse that each vertex is seen: strokes that touch the first and last vertices of what is sent together.
TEST(PaintedPictures, NoVertexOfAStrokeIsForgotten) {
    const char* sheet = "shape:plane/3";
    Project p = twoOf(sheet);
    p.lineup.orbit.pitch = 60;
    PaintData paint(shapeById(sheet));
    Assets assets;
    LookCache known;
    Gl::renderer(); // the context
    Renderer follows;
    const auto picture = [&](Renderer& renderer) {
        const auto drawn = renderer.render(dress(p, assets, known, p.lineup.specimens[0], 0), small());
        EXPECT_TRUE(drawn);
        return drawn ? drawn->rgba : std::vector<uint8_t>{};
    };
    std::vector<uint8_t> last = picture(follows);
    for (const uint32_t within : {255u, 0u, 128u, 1u, 254u}) {
        std::vector<uint32_t> touched;
        for (uint32_t v = within; v < paint.vertices(); v += 256) touched.push_back(v);
        ASSERT_GT(touched.size(), 1u);
        paint = paint.with(2, touched, std::vector<float>(touched.size(), 1.f));
        p = *edit::setPaint(p, "w", std::make_shared<PaintData>(paint));
        Renderer anew;
        const std::vector<uint8_t> now = picture(follows);
        EXPECT_EQ(now, picture(anew)) << within;
        EXPECT_NE(now, last) << within << " is out of sight";
        last = now;
    }
}

} // namespace
} // namespace hue
