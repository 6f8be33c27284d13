// Wires that are computed at the vertices and carried over the triangles.
#include "core/assemblies/fold.h"
#include "core/base/matrix.h"
#include "core/cost/cost.h"
#include "core/make/flat_limits.h"
#include "core/master_text/master_text.h"
#include "core/picture/looks.h"
#include "core/picture/raster.h"
#include "core/program/passes/vertex_split.h"
#include "core/project/store.h"
#include "core/surface/at_vertices.h"
#include "core/surface/surface_stages.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

/// Noise of 3 cells, per vertex or per pixel, to roughness.
Project noisy(bool perVertex, Id* card = nullptr) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::number(3)}});
    channel(p, {noise, "out", ""}, "roughness");
    if (perVertex) p = *edit::setPerVertex(p, "m", {}, "roughness", true);
    if (card) *card = noise;
    return p;
}

/// Has a good part of all wires computed per vertex.
Project sprinkled(Project p, uint32_t seed) {
    std::mt19937 random(seed);
    const Graph graph = masterOf(p).graph;
    for (const auto& [id, node] : graph.nodes)
        for (const auto& [port, wire] : node->wires)
            if (random() % 4 == 0) p = *edit::setPerVertex(p, "m", id, port, true);
    for (const auto& [key, wire] : graph.channelWires)
        if (random() % 2) p = *edit::setPerVertex(p, "m", {}, key, true);
    return p;
}

/// The flat square on which every pixel is a vertex too: what is carried to it is what it computes itself.
class AllVertices final : public PointSource {
  public:
    AllVertices(const Evaluator& vertices, const Frame& frame, int size) : m_flat(size, size), m_size(size) {
        for (int v = 0; v < kCarriedVectors; ++v) {
            const std::string name = "carried" + std::to_string(v);
            if (vertices.program().output(name) < 0) continue;
            auto& to = m_carried[size_t(v)];
            to.resize(size_t(size) * size_t(size) * 4);
            vertices.grid(frame, {name}, size, size, m_flat,
                          [&](int x, int y, int columns, int rows, const float* const* planes) {
                              for (int r = 0; r < rows; ++r)
                                  for (int c = 0; c < columns; ++c)
                                      for (size_t k = 0; k < 4; ++k)
                                          to[(size_t(y + r) * size_t(m_size) + size_t(x + c)) * 4 + k] = planes[k][r * kBlockColumns + c];
                          },
                          {});
        }
    }
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        if (!isCarried(attribute)) return m_flat.fill(x, y, attribute, component, lanes);
        const auto& from = m_carried[size_t(attribute) - size_t(Attribute::Carried0)];
        for (int r = 0; r < kBlockRows; ++r)
            for (int c = 0; c < kBlockColumns; ++c) {
                const size_t at = size_t(std::min(y + r, m_size - 1)) * size_t(m_size) + size_t(std::min(x + c, m_size - 1));
                lanes[r * kBlockColumns + c] = from.empty() ? 0 : from[at * 4 + size_t(component)];
            }
    }

  private:
    FlatSquare m_flat;
    int m_size;
    std::array<std::vector<float>, kCarriedVectors> m_carried;
};

TEST(PerVertex, WhereEveryPixelIsAVertexTheTwoProgramsGiveWhatTheOneGives) {
    constexpr int size = 24;
    int carrying = 0;
    for (uint32_t seed = 0; seed < 60; ++seed) {
        const Project p = sprinkled(randomGraph(seed, 30), seed);
        const Compilation compiled = compileSurface(p, masterOf(p));
        ASSERT_TRUE(compiled.ok);
        const VertexSplit split = splitAtVertices(compiled.program);
        ASSERT_EQ(validate(*split.surface), "");
        if (!split.vertices) continue;
        ++carrying;
        ASSERT_EQ(validate(*split.vertices), "");
        const Evaluator whole(compiled.program), surface(split.surface), vertices(split.vertices);
        FrameInputs inputs;
        inputs.time = 1.5;
        const AllVertices points(vertices, vertices.frame(inputs), size);
        for (const char* channel : {"base_color", "roughness"}) {
            const int width = compiled.program->code[size_t(compiled.program->output(channel))].width;
            const std::vector<float> expected = overSquare(whole, inputs, channel, width, size);
            std::vector<float> got(expected.size());
            surface.grid(surface.frame(inputs), {channel}, size, size, points,
                         [&](int x, int y, int columns, int rows, const float* const* planes) {
                             for (int r = 0; r < rows; ++r)
                                 for (int c = 0; c < columns; ++c)
                                     for (int k = 0; k < width; ++k)
                                         got[(size_t(y + r) * size + size_t(x + c)) * size_t(width) + size_t(k)] =
                                             planes[k][r * kBlockColumns + c];
                         },
                         {});
            for (size_t i = 0; i < got.size(); ++i) ASSERT_NEAR(got[i], expected[i], 1e-5f) << seed << " " << channel;
        }
    }
    EXPECT_GT(carrying, 40) << "else nothing was tried";
}

TEST(PerVertex, APixelShowsTheCornersOfItsTriangleWeightedByWhereItLies) {
    const Project p = noisy(true);
    LookCache looks;
    const LookPtr look = looks.get(p, masterOf(p));
    ASSERT_TRUE(look->vertices);
    // One triangle across, seen straight on.
    auto mesh = std::make_shared<Mesh>();
    const float corners[3][2] = {{-0.9f, -0.8f}, {0.8f, -0.5f}, {-0.2f, 0.9f}};
    for (const auto& c : corners) {
        Vertex v;
        v.position = {c[0], c[1], 0};
        v.normal = {0, 0, 1};
        v.uv0 = {c[0] * 0.7f + 0.31f, c[1] * 0.6f + 0.77f};
        mesh->vertices.push_back(v);
    }
    mesh->indices = {0, 1, 2};
    mesh->slots = {{"all", 0, 3}};
    mesh->carried.resize(3);
    FrameInputs inputs;
    inputs.parameter = [&](const Id& name) {
        Value v;
        liveConstantValue(p, masterOf(p), name, v);
        return v;
    };
    const Evaluator& vertices = *look->vertices;
    evaluateCarried(vertices, vertices.frame(inputs), *mesh, mesh->slots[0], mesh->carried, kWorld);
    // At the corners, by the noise alone.
    const Project plain = noisy(false);
    const Evaluator noise(compileSurface(plain, masterOf(plain)).program);
    float corner[3];
    atVertices(noise, noise.frame({}), *mesh, mesh->slots[0], {"roughness"}, kWorld,
               [&](uint32_t v, const float* const* planes, size_t lane) { corner[v] = planes[0][lane]; });
    EXPECT_GT(std::fabs(corner[0] - corner[1]) + std::fabs(corner[0] - corner[2]), 0.05f) << "else there is nothing to see";
    constexpr int size = 40;
    const RasterPart part{mesh.get(), 0, 3};
    const AttributePicture seen = rasterise(Matrix4(1), size, size, {0, 0, size, size}, std::span(&part, 1));
    std::vector<uint32_t> pixels;
    for (uint32_t i = 0; i < size * size; ++i)
        if (seen.slot(i) >= 0) pixels.push_back(i);
    ASSERT_GT(pixels.size(), 200u);
    const Frame frame = look->evaluator->frame(inputs);
    const auto values = PixelEvaluation(seen, pixels, {0, 0, 5}).output(*look->evaluator, frame, "roughness");
    const auto cross2 = [](double ax, double ay, double bx, double by) { return ax * by - ay * bx; };
    const auto& c = corners;
    const double area = cross2(c[1][0] - c[0][0], c[1][1] - c[0][1], c[2][0] - c[0][0], c[2][1] - c[0][1]);
    for (size_t k = 0; k < pixels.size(); ++k) {
        const double x = (pixels[k] % size + 0.5) / size * 2 - 1, y = (double(pixels[k] / size) + 0.5) / size * 2 - 1;
        const double w1 = cross2(x - c[0][0], y - c[0][1], c[2][0] - c[0][0], c[2][1] - c[0][1]) / area;
        const double w2 = cross2(c[1][0] - c[0][0], c[1][1] - c[0][1], x - c[0][0], y - c[0][1]) / area;
        ASSERT_NEAR(values[k][0], corner[0] * (1 - w1 - w2) + corner[1] * w1 + corner[2] * w2, 1e-4) << "pixel " << x << " " << y;
    }
}

TEST(PerVertex, CostsAtTheVerticesAndInterpolationAtThePixels) {
    const auto cost = [](const Project& p) {
        const Compilation c = compileSurface(p, masterOf(p));
        return costOf(*c.program, c.offset.get(), {});
    };
    const Cost pixels = cost(noisy(false)), vertices = cost(noisy(true));
    EXPECT_GT(pixels.operationsPerPixel(), 40) << "a noise is dear";
    EXPECT_EQ(pixels.carried, 0);
    EXPECT_EQ(vertices.carried, 1);
    EXPECT_EQ(vertices.operationsPerPixel(), 2) << "a product and a sum, twice half a plane";
    EXPECT_GE(vertices.operations[size_t(Rate::Vertex)], pixels.operationsPerPixel() - 4);
    Id card;
    const Project p = noisy(true, &card);
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_EQ(c.cards.at(card).rate, Rate::Vertex);
    EXPECT_EQ(compileTaps(p, masterOf(p)).ports.at({card, "out"}).rate, Rate::Vertex) << "so is it drawn on the board";
    // Another reader has it computed per pixel as well, and both are paid for.
    Project both = p;
    channel(both, {card, "out", ""}, "metallic");
    EXPECT_EQ(compileTaps(both, masterOf(both)).ports.at({card, "out"}).rate, Rate::Pixel);
    EXPECT_EQ(cost(both).operationsPerPixel(), pixels.operationsPerPixel() + 2);
}

TEST(PerVertex, CarriesNothingThatIsTheSameAnyway) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), still = add(p, "constant", {{"value", Value::number(0.3f)}}), time = add(p, "time");
    channel(p, {uv, "out", "x"}, "roughness");
    channel(p, {still, "out", ""}, "metallic");
    channel(p, {time, "out", ""}, "occlusion");
    for (const char* key : {"roughness", "metallic", "occlusion"}) p = *edit::setPerVertex(p, "m", {}, key, true);
    const Compilation c = compileSurface(p, masterOf(p));
    EXPECT_FALSE(splitAtVertices(c.program).vertices) << describe(*c.program);
    // A normal is of length 1 again at each pixel, but not between.
    const Id normal = add(p, "normal");
    channel(p, {normal, "out", ""}, "emissive");
    p = *edit::setPerVertex(p, "m", {}, "emissive", true);
    EXPECT_TRUE(splitAtVertices(compileSurface(p, masterOf(p)).program).vertices);
}

TEST(PerVertex, TrianglesHaveRoomForFourVectorsAndWhatIsLeftIsSaid) {
    // Sums of tinted noises, each wire of three numbers computed per vertex: no two of them share a vector of four.
    const auto sumOf = [](int count) {
        Project p = bareProject();
        Id sum;
        for (int k = 0; k < count; ++k) {
            const Id noise = add(p, "noise_2d", {{"scale", Value::number(3.f + float(k))}}),
                     tinted = add(p, "multiply", {{"in2", Value::vec3(1, 0.5f, 0.25f)}}), next = add(p, "add");
            wire(p, {noise, "out", ""}, tinted, "in1");
            wire(p, {tinted, "out", ""}, next, "in1");
            p = *edit::setPerVertex(p, "m", next, "in1", true);
            if (k) wire(p, {sum, "out", ""}, next, "in2");
            sum = next;
        }
        channel(p, {sum, "out", ""}, "base_color");
        return p;
    };
    const auto told = [](const Project& p) { return codesOf(compileSurface(p, masterOf(p)).diagnostics); };
    EXPECT_FALSE(holds(told(sumOf(4)), "wire.per-vertex-full"));
    EXPECT_TRUE(holds(told(sumOf(5)), "wire.per-vertex-full"));
    const auto program = [&](int count) {
        const Project p = sumOf(count);
        return compileSurface(p, masterOf(p)).program;
    };
    EXPECT_EQ(splitAtVertices(program(5)).carried.size(), 4u);
    const std::vector<int32_t> left = withoutRoom(*program(5));
    ASSERT_EQ(left.size(), 1u);
    EXPECT_EQ(program(5)->code[size_t(left[0])].op, Op::PerVertex);
    // Single numbers fill what others leave, and nothing lies on another.
    Project p = sumOf(4);
    const Id rough = add(p, "noise_2d", {{"scale", Value::number(20)}});
    channel(p, {rough, "out", ""}, "roughness");
    p = *edit::setPerVertex(p, "m", {}, "roughness", true);
    EXPECT_FALSE(holds(told(p), "wire.per-vertex-full"));
    const VertexSplit split = splitAtVertices(compileSurface(p, masterOf(p)).program);
    EXPECT_EQ(split.carried.size(), 5u);
    std::set<int> taken;
    for (const Carried& c : split.carried)
        for (int k = 0; k < c.width; ++k) EXPECT_TRUE(taken.insert(c.vector * 4 + c.first + k).second);
}

TEST(PerVertex, SaysWhatVerticesDoNotKnowAndOffersThePixels) {
    Project p = bareProject();
    const Id view = add(p, "view_direction");
    channel(p, {view, "out", "x"}, "roughness");
    const auto told = [&] { return compileSurface(p, masterOf(p)).diagnostics; };
    EXPECT_FALSE(holds(codesOf(told()), "wire.per-vertex"));
    p = *edit::setPerVertex(p, "m", {}, "roughness", true);
    const auto list = told();
    const auto it = std::find_if(list.begin(), list.end(), [](const Diagnostic& d) { return d.code == "wire.per-vertex"; });
    ASSERT_NE(it, list.end());
    EXPECT_NE(it->sentence.find("the direction to the eye"), std::string::npos) << it->sentence;
    ASSERT_FALSE(it->fixes.empty());
    p = *it->fixes[0].edit(p);
    EXPECT_FALSE(masterOf(p).graph.channelWires.at("roughness").perVertex);
    EXPECT_TRUE(told().empty());
}

TEST(PerVertex, TheChoiceIsKeptInFilesTextsAndAssemblies) {
    const Project p = sprinkled(randomGraph(7, 25), 3);
    const auto key = [](const Project& q) { return structureKey(q, masterOf(q)); };
    EXPECT_NE(key(p), key(randomGraph(7, 25))) << "another choice is another Program";
    // A file.
    const auto folder = std::filesystem::temp_directory_path() / ("per-vertex-" + newId('t'));
    std::filesystem::create_directories(folder);
    ASSERT_TRUE(saveProject(p, folder / "p.huestack"));
    EXPECT_EQ(key(loadProject(folder / "p.huestack")->project), key(p));
    std::filesystem::remove_all(folder);
    // Lines: what they say makes the same board of one where nothing is computed per vertex, and the other way round.
    Project none = p;
    {
        const Graph graph = masterOf(p).graph;
        for (const auto& [id, node] : graph.nodes)
            for (const auto& [port, wire] : node->wires) none = *edit::setPerVertex(none, "m", id, port, false);
        for (const auto& [channel, wire] : graph.channelWires) none = *edit::setPerVertex(none, "m", {}, channel, false);
    }
    const BoardText text = boardText(p, masterOf(p)), bare = boardText(none, masterOf(none));
    EXPECT_NE(text.text.find(".per_vertex"), std::string::npos);
    EXPECT_EQ(bare.text.find("per_vertex"), std::string::npos);
    const ReadText back = readText(none, "m", text.text, bare), away = readText(p, "m", bare.text, text);
    ASSERT_TRUE(back.project && away.project);
    EXPECT_EQ(key(*back.project), key(p));
    EXPECT_EQ(key(*away.project), key(none));
    EXPECT_FALSE(readText(p, "m", "a = noise_2d()\nroughness = a.per_vertex.r\n", {}).problems.empty()) << "it stands last";
}

TEST(PerVertex, AnAssemblyMadeOfCardsComputesWhereTheyDid) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d"), twice = add(p, "multiply", {{"in2", Value::number(2)}}), root = add(p, "power");
    wire(p, {noise, "out", ""}, twice, "in1");
    wire(p, {twice, "out", ""}, root, "in1");
    channel(p, {root, "out", ""}, "roughness");
    p = *edit::setPerVertex(p, "m", twice, "in1", true);
    const auto vertexWork = [](const Project& q) {
        const Compilation c = compileSurface(q, masterOf(q));
        const VertexSplit split = splitAtVertices(c.program);
        return split.vertices ? split.vertices->code.size() : 0;
    };
    const size_t before = vertexWork(p);
    ASSERT_GT(before, 0u);
    const auto folded = foldCards(p, "m", {twice, root}, "Twice");
    ASSERT_TRUE(folded) << folded.error().sentence;
    EXPECT_EQ(vertexWork(folded->project), before) << "the wire that leads in";
    const auto within = foldCards(p, "m", {noise, twice, root}, "All");
    ASSERT_TRUE(within);
    EXPECT_EQ(vertexWork(within->project), before) << "a wire within";
    for (const auto* made : {&*folded, &*within}) {
        const auto opened = unfoldCard(made->project, "m", made->card);
        ASSERT_TRUE(opened);
        EXPECT_EQ(vertexWork(opened->project), before) << "and opened again";
    }
}

TEST(PerVertex, TheStagesSayWhatIsComputedWhere) {
    const Project p = noisy(true);
    const Stages stages = stagesOf(compileSurface(p, masterOf(p)));
    ASSERT_TRUE(stages.vertices);
    const std::string pixels = surfaceFragmentStage(*stages.pixels, uniformLayout(*stages.pixels)),
                      vertices = vertexStage(*stages.vertices, uniformLayout(*stages.vertices));
    EXPECT_EQ(pixels.find("hs_noise2("), std::string::npos);
    EXPECT_NE(pixels.find("in vec4 v_carried0;"), std::string::npos);
    EXPECT_NE(vertices.find("hs_noise2("), std::string::npos);
    EXPECT_NE(vertices.find("v_carried0 = "), std::string::npos);
    // With an offset as well, both stand in one stage.
    Project moved = p;
    moved = *edit::setChannelConstant(moved, "m", "vertex_offset", Value::vec3(0, 0.1f, 0));
    const Stages both = stagesOf(compileSurface(moved, masterOf(moved)));
    EXPECT_GE(both.vertices->output("vertex_offset"), 0);
    EXPECT_GE(both.vertices->output("carried0"), 0);
    EXPECT_EQ(validate(*both.vertices), "");
    // Nothing of it in a master that computes all per pixel.
    const Project plain = noisy(false);
    EXPECT_FALSE(stagesOf(compileSurface(plain, masterOf(plain))).vertices);
}

TEST(PerVertex, AMapThatIsBakedSaysThatItHasNoVertices) {
    const Project p = noisy(true);
    const auto cautions = [](const Project& q) {
        std::string all;
        for (const auto& l : flatLimits(*compileSurface(q, masterOf(q)).program, {"roughness"})) all += std::string(l.what) + "\n";
        return all;
    };
    EXPECT_NE(cautions(p).find("vertices"), std::string::npos);
    EXPECT_EQ(cautions(noisy(false)), "");
}

} // namespace
} // namespace hue
