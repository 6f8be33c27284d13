// Facts of the scene: what shines through, what is mirrored, what is counted.
#include "core/compare/compare.h"
#include "core/maps/map_levels.h"
#include "core/mesh/things.h"
#include "core/picture/software_picture.h"
#include "core/surface/channels.h"
#include "core/surface/surface_stages.h"
#include "preview/gl_objects.h"
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <cstdlib>

namespace hue {
namespace {

using namespace test;
using Pixel = std::array<int, 3>;

struct Stage {
    Project project = bareProject();
    Assets assets;
    LookCache looks;
    RenderSettings settings;

    Stage() {
        settings.width = settings.height = 96;
        settings.light = "grey-box";
        settings.camera = {0, 0, 1, 0, 0};
        settings.tone = ToneCurve::Linear;
    }
    Specimen& specimen() { return project.lineup.specimens[0]; }
    void set(const std::string& key, const Value& v) { project = *edit::setChannelConstant(project, "m", key, v); }
    void set(const std::string& key, float v) { set(key, Value::number(v)); }
    void surface(const std::function<void(SurfaceSettings&)>& change) {
        SurfaceSettings s = masterOf(project).surface;
        change(s);
        project = *edit::setSurface(project, "m", s);
    }
    void layers(std::initializer_list<Layer> list) {
        surface([&](SurfaceSettings& s) {
            for (Layer l : list) s.layers |= uint32_t(l);
        });
    }
    void put(const std::string& kind) {
        const ThingPlace place = placeFor(kind, boundsOf(*shapeById(specimen().mesh)));
        specimen().things.push_back({kind, place.position, place.size, true});
    }
    void view(const char* name) { settings.view = findView(name); }
    DressedSpecimen dressed() { return dress(project, assets, looks, specimen(), 0, dressFor(project, settings)); }
    RenderedPicture render() {
        const Result<RenderedPicture> r = Gl::renderer().render(dressed(), settings);
        EXPECT_TRUE(r) << r.error().sentence;
        return r ? *r
                 : RenderedPicture{settings.width, settings.height, std::vector<uint8_t>(size_t(settings.width * settings.height) * 4)};
    }
    static Pixel at(const RenderedPicture& p, int x, int y) {
        const uint8_t* v = &p.rgba[size_t(y * p.width + x) * 4];
        return {v[0], v[1], v[2]};
    }
    Pixel middle() { return at(render(), 48, 48); }
    static int hue(const Pixel& p) { return *std::max_element(p.begin(), p.end()) - *std::min_element(p.begin(), p.end()); }
};
constexpr Pixel kSurround{0x77, 0x77, 0x77};

TEST(Glass, ShowsWhatStandsBehindIt) {
    Stage s;
    s.put("signs");
    s.layers({Layer::Reflection, Layer::Transmission});
    s.set("ior", 1);
    s.set("roughness", 0);
    s.set("base_color", Value::vec3(1, 1, 1));
    s.settings.camera.yaw = 12;
    const RenderedPicture opaque = s.render();
    s.set("transmission", 1);
    const RenderedPicture clear = s.render();
    int colored = 0, coloredBefore = 0;
    for (int y = 30; y < 66; ++y)
        for (int x = 34; x < 62; ++x) {
            colored += Stage::hue(Stage::at(clear, x, y)) > 60;
            coloredBefore += Stage::hue(Stage::at(opaque, x, y)) > 60;
        }
    EXPECT_GT(colored, 150) << "the signs are seen through the sphere";
    EXPECT_EQ(coloredBefore, 0);
}

TEST(Glass, AbsorbsByThickness) {
    // Beer-Lambert: twice the thickness squares what is left.
    Stage s;
    s.layers({Layer::Reflection, Layer::Transmission, Layer::Volume});
    s.set("ior", 1);
    s.set("roughness", 0);
    s.set("transmission", 1);
    s.set("base_color", Value::vec3(1, 1, 1));
    s.set("attenuation_color", Value::vec3(0.5f, 0.9f, 1));
    s.set("attenuation_distance", 1);
    auto left = [&](float thickness) {
        s.set("thickness", thickness);
        return srgbToLinear(float(s.middle()[0]) / 255) / srgbToLinear(0x77 / 255.f);
    };
    const float one = left(1), two = left(2);
    EXPECT_NEAR(one, 0.5f, 0.03f);
    EXPECT_NEAR(two, 0.25f, 0.03f);
}

TEST(Glass, BendsWhatIsBehindWhenItIsSolidAndNotWhenItIsThin) {
    Stage s;
    s.put("signs");
    s.layers({Layer::Reflection, Layer::Transmission});
    s.set("roughness", 0);
    s.set("transmission", 1);
    s.set("base_color", Value::vec3(1, 1, 1));
    const RenderedPicture thin = s.render();
    s.layers({Layer::Volume});
    s.set("thickness", 1.2f);
    const RenderedPicture solid = s.render();
    EXPECT_GT(compare({96, 96, thin.rgba.data()}, {96, 96, solid.rgba.data()}, false).mean, 2);
    s.set("dispersion", 8);
    const RenderedPicture spread = s.render();
    EXPECT_GT(compare({96, 96, solid.rgba.data()}, {96, 96, spread.rgba.data()}, false).worst, 3);
}

TEST(SeeThrough, FacesOfOneSurfaceLieInTheirOrder) {
    // Red in front, blue behind, each half covering, over the surround.
    Stage s;
    s.surface([](SurfaceSettings& c) {
        c.alphaMode = AlphaMode::Blend;
        c.doubleSided = true;
        c.unlit = true;
    });
    s.view("unlit");
    const Id position = add(s.project, "position"),
             choose =
                 add(s.project, "if_greater", {{"value2", Value::number(0)}, {"in1", Value::vec3(1, 0, 0)}, {"in2", Value::vec3(0, 0, 1)}});
    wire(s.project, {position, "out", "z"}, choose, "value1");
    channel(s.project, {choose, "out", ""}, "base_color");
    s.set("alpha", 0.5f);
    const Pixel p = s.middle();
    EXPECT_NEAR(p[0], 0.5 * 255 + 0.25 * 0x77, 2);
    EXPECT_NEAR(p[1], 0.25 * 0x77, 2);
    EXPECT_NEAR(p[2], 0.25 * 255 + 0.25 * 0x77, 2);
    s.settings.camera.yaw = 180;
    EXPECT_GT(s.middle()[2], s.middle()[0]) << "from the other side blue lies in front";
}

TEST(SeeThrough, HighlightsFadeWithAlphaOrStay) {
    Stage s;
    s.surface([](SurfaceSettings& c) { c.alphaMode = AlphaMode::Blend; });
    s.set("alpha", 0);
    s.set("roughness", 0.1f);
    const RenderedPicture faded = s.render();
    s.surface([](SurfaceSettings& c) { c.highlightsFade = false; });
    const RenderedPicture kept = s.render();
    s.specimen().castsShadow = false;
    int brightest = 0;
    for (int y = 20; y < 76; ++y)
        for (int x = 20; x < 76; ++x) {
            const int f = Stage::at(faded, x, y)[1], k = Stage::at(kept, x, y)[1];
            EXPECT_LE(f, 0x77 + 1);
            brightest = std::max(brightest, k);
        }
    EXPECT_GT(brightest, 0x77 + 40);
}

TEST(SceneNodes, DepthGapIsTheDistanceToWhatLiesBehind) {
    Stage s;
    s.specimen().things = {{"signs", {0.3f, 0.25f, -2}, 2, true}};
    s.surface([](SurfaceSettings& c) { c.alphaMode = AlphaMode::Blend; });
    const Id gap = add(s.project, "depth_gap");
    channel(s.project, {gap, "out", ""}, "alpha");
    s.project.lineup.wire = {gap, "out", ""};
    s.project.lineup.wireMaster = "m";
    s.project.lineup.view = "wire";
    s.view("wire");
    s.settings.viewHigh = 4;
    // From the front of the sphere at z = 1 to the sign's plates at z = -2 + 0.05.
    EXPECT_NEAR(s.middle()[0] / 255.0 * 4, 2.95, 0.06);
}

TEST(SceneNodes, SurroundingsAndScreenPositionAreTheSameOnTheCardAndOnTheCpu) {
    Stage s;
    const Id around = add(s.project, "surroundings", {{"direction", Value::vec3(0.3f, 0.8f, 0.5f)}, {"roughness", Value::number(0.4f)}});
    channel(s.project, {around, "out", ""}, "base_color");
    channel(s.project, {add(s.project, "screen_position"), "out", "x"}, "roughness");
    s.settings.rotation = 70;
    s.view("roughness");
    const Pixel rough = s.middle();
    s.view("base_color");
    const Pixel base = s.middle();
    const Probe probe = Gl::renderer().probe(s.dressed(), s.settings, 48, 48);
    ASSERT_TRUE(probe.hit);
    for (const auto& [name, v] : probe.values) {
        if (name == "roughness") {
            EXPECT_NEAR(v[0], 48.5f / 96, 1e-5f);
            EXPECT_NEAR(rough[0], v[0] * 255, 1);
        }
        if (name != "base_color") continue;
        for (int c = 0; c < 3; ++c) EXPECT_NEAR(base[size_t(c)], std::min(1.f, linearToSrgb(v[c])) * 255, 2);
    }
}

TEST(SceneNodes, BehindColorIsWhatWouldBeSeenWithoutTheSurface) {
    Stage s;
    s.put("signs");
    s.settings.camera.yaw = 10;
    s.specimen().castsShadow = false;
    s.surface([](SurfaceSettings& c) {
        c.alphaMode = AlphaMode::Blend;
        c.unlit = true;
    });
    s.set("alpha", 0);
    const RenderedPicture without = s.render();
    s.set("alpha", 1);
    channel(s.project, {add(s.project, "behind_color"), "out", ""}, "base_color");
    const RenderedPicture with = s.render();
    EXPECT_LT(compare({96, 96, without.rgba.data()}, {96, 96, with.rgba.data()}, false).mean, 0.1f);
}

TEST(Surroundings, AreMirroredByWhatStandsAmongThem) {
    Stage s;
    s.set("metallic", 1);
    s.set("roughness", 0.05f);
    s.set("base_color", Value::vec3(0.9f, 0.9f, 0.9f));
    auto colored = [&] {
        const RenderedPicture p = s.render();
        int n = 0;
        for (int y = 24; y < 72; ++y)
            for (int x = 24; x < 72; ++x) n += Stage::hue(Stage::at(p, x, y)) > 40;
        return n;
    };
    EXPECT_EQ(colored(), 0) << "a grey light on a grey metal";
    s.specimen().things = {{"signs", {0, 0, -2.2f}, 2.5f, false}}; // its front looks at the sphere
    s.settings.camera.yaw = 90;
    EXPECT_GT(colored(), 40);
}

TEST(Scene, TurnsTheLightAndItsSun) {
    Stage s;
    s.settings.light = "harbour-dusk";
    const RenderedPicture still = s.render();
    s.settings.rotation = 360;
    const RenderedPicture round = s.render();
    s.settings.rotation = 180;
    const RenderedPicture half = s.render();
    EXPECT_LT(compare({96, 96, still.rgba.data()}, {96, 96, round.rgba.data()}, false).mean, 0.1f);
    EXPECT_GT(compare({96, 96, still.rgba.data()}, {96, 96, half.rgba.data()}, false).mean, 1);
}

TEST(Scene, ShadowsGoWithTheSunAndWithWhatIsToldToCastNone) {
    Stage s;
    s.settings.camera.pitch = 50;
    s.settings.camera.standOff = 2;
    auto darkest = [&] {
        const RenderedPicture p = s.render();
        int dark = 255;
        for (int i = 0; i < 96 * 96; ++i)
            if (const uint8_t* v = &p.rgba[size_t(i) * 4]; v[0] == v[1] && v[1] == v[2] && v[0] < 0x77) dark = std::min(dark, int(v[0]));
        return dark;
    };
    const int shadowed = darkest();
    s.specimen().castsShadow = false;
    EXPECT_GT(darkest(), shadowed + 8);
}

TEST(Scene, GlareSpreadsAroundWhatIsBrighterThanWhite) {
    Stage s;
    s.set("emissive", Value::vec3(1, 1, 1));
    s.set("emissive_strength", 30);
    const int without = Stage::at(s.render(), 6, 48)[1];
    s.settings.glare = 1;
    EXPECT_GT(Stage::at(s.render(), 6, 48)[1], without + 5);
    s.set("emissive_strength", 0);
    EXPECT_NEAR(Stage::at(s.render(), 6, 48)[1], without, 1) << "nothing glares that is darker than white";
}

TEST(Scene, TheSurroundIsTheSameGreyUnderEveryToneCurveAndExposure) {
    Stage s;
    for (const ToneCurveDef& t : toneCurves())
        for (float stops : {-1.f, 0.f, 2.f}) {
            s.settings.tone = t.curve;
            s.settings.exposure = stops;
            EXPECT_EQ(Stage::at(s.render(), 1, 1), kSurround) << t.key << " " << stops;
        }
}

TEST(Scene, StandsBeforeTheDepotsWallOrTheBlurredLight) {
    Stage s;
    for (Backdrop b : {Backdrop::Environment, Backdrop::Depot}) {
        s.settings.backdrop = b;
        s.settings.camera.pitch = 20;
        EXPECT_NE(Stage::at(s.render(), 2, 94), kSurround);
    }
}

TEST(Views, StretchTheirRange) {
    Stage s;
    s.set("roughness", 0.5f);
    s.view("roughness");
    s.settings.viewLow = 0.4f;
    s.settings.viewHigh = 0.5f + 0.1f;
    EXPECT_NEAR(s.middle()[0], 128, 1);
    s.set("roughness", 0.6f);
    EXPECT_NEAR(s.middle()[0], 255, 1);
}

TEST(Views, CountEveryLayerThatIsDrawn) {
    Stage s;
    s.view("overdraw");
    EXPECT_EQ(s.render().peak, 1);
    s.surface([](SurfaceSettings& c) {
        c.alphaMode = AlphaMode::Blend;
        c.doubleSided = true;
    });
    EXPECT_EQ(s.render().peak, 2) << "front and back of a see-through sphere";
    s.view("cost");
    channel(s.project, {add(s.project, "worley_noise"), "out", ""}, "roughness");
    EXPECT_GT(s.render().peak, 300) << "twice a Worley noise";
}

TEST(Views, ShowTheBacksOfFacesDarkAndTheUnitSquareLight) {
    Stage s;
    s.specimen().mesh = "shape:plane";
    s.view("faces");
    s.settings.camera.pitch = 60;
    EXPECT_GT(s.middle()[0], 150);
    s.settings.camera.pitch = -60;
    EXPECT_LT(s.middle()[0], 110);
    s.view("uv0");
    s.settings.camera.pitch = 60;
    const RenderedPicture p = s.render();
    std::set<int> greys;
    for (int x = 20; x < 76; ++x) greys.insert(Stage::at(p, x, 48)[0] / 40);
    EXPECT_GE(greys.size(), 2u) << "checks";
    s.view("vertex_color");
    EXPECT_EQ(s.middle(), (Pixel{255, 255, 255})) << "white where nothing is painted";
    s.view("world_normal");
    EXPECT_EQ(s.middle()[1], 255) << "up";
}

TEST(Views, TellLightFromColor) {
    Stage s;
    s.set("base_color", Value::vec3(0.8f, 0.05f, 0.02f));
    EXPECT_GT(Stage::hue(s.middle()), 60);
    s.view("light_only");
    EXPECT_LT(Stage::hue(s.middle()), 6);
}

TEST(VertexOffset, GrowsTheOutline) {
    Stage s;
    s.view("base_color");
    const Pixel beside = Stage::at(s.render(), 10, 48);
    EXPECT_EQ(beside, kSurround);
    const Id normal = add(s.project, "normal", {}, {{"space", "object"}}),
             far = add(s.project, "multiply", {{"in2", Value::number(0.35f)}});
    wire(s.project, {normal, "out", ""}, far, "in1");
    channel(s.project, {far, "out", ""}, "vertex_offset");
    s.view("vertex_offset");
    EXPECT_NEAR(s.middle()[2], 0.35 * 255, 2) << "the view shows the offset in metres";
    s.view("base_color");
    int left = 96;
    const RenderedPicture p = s.render();
    for (int x = 95; x >= 0; --x)
        if (Stage::at(p, x, 48) != kSurround) left = x;
    const RenderedPicture plain = [&] {
        s.project = *edit::muteChannel(s.project, "m", "vertex_offset", true);
        return s.render();
    }();
    int leftPlain = 96;
    for (int x = 95; x >= 0; --x)
        if (Stage::at(plain, x, 48) != kSurround) leftPlain = x;
    EXPECT_LT(left, leftPlain - 5);
}

// A map that is laid on from three sides of the object stays where it lies when the vertices move: what is seen of it moves with them.
// By all three that draw: the card, the evaluator behind its raster, and the raster of the CPU.
TEST(VertexOffset, WhatSticksToTheObjectMovesWithIt) {
    Stage s;
    s.settings.camera = {0, 0, 2, 0, 0};
    s.specimen().mesh = "shape:cube";
    const Id place = add(s.project, "position", {}, {{"space", "object"}}), waves = add(s.project, "multiply", {{"in2", Value::number(9)}}),
             sine = add(s.project, "sine"), size = add(s.project, "absolute_value");
    wire(s.project, {place, "out", ""}, waves, "in1");
    wire(s.project, {waves, "out", ""}, sine, "in");
    wire(s.project, {sine, "out", ""}, size, "in");
    channel(s.project, {size, "out", ""}, "base_color");
    s.surface([](SurfaceSettings& c) { c.unlit = true; });
    s.view("unlit");
    const auto drawn = [&](int by) {
        Gl::renderer().setEvaluatorOnly(by == 1);
        const RenderedPicture p = by == 2 ? *softwarePicture(s.dressed(), s.settings) : s.render();
        Gl::renderer().setEvaluatorOnly(false);
        return p;
    };
    std::array<RenderedPicture, 3> still;
    for (int by = 0; by < 3; ++by) still[size_t(by)] = drawn(by);
    // A step sideways of a twelfth of the picture's height at the cube's face.
    const Id step = add(s.project, "constant", {{"value", Value::vec3(0.3f, 0, 0)}});
    channel(s.project, {step, "out", ""}, "vertex_offset");
    int moved = -1;
    for (int by = 0; by < 3; ++by) {
        const RenderedPicture p = drawn(by);
        // How far it went is found by trying; what is then seen must be the same picture.
        double best = 1e9;
        int at = 0;
        for (int shift = 0; shift < 20; ++shift) {
            double sum = 0;
            for (int y = 40; y < 56; ++y)
                for (int x = 40; x < 56; ++x)
                    for (size_t c = 0; c < 3; ++c) sum += std::abs(Stage::at(p, x + shift, y)[c] - Stage::at(still[size_t(by)], x, y)[c]);
            if (sum < best) best = sum, at = shift;
        }
        EXPECT_LT(best / (16 * 16 * 3), 6) << "drawn by " << by;
        EXPECT_GT(at, 3) << "drawn by " << by;
        if (moved < 0) moved = at;
        EXPECT_EQ(at, moved) << "drawn by " << by;
    }
}

/// Where a vertex stage puts the corners of all triangles, caught before they are drawn.
std::vector<std::array<float, 4>> caught(const std::string& stage, const Frame& frame, const Mesh& mesh) {
    const GLuint shader = glCreateShader(GL_VERTEX_SHADER), program = glCreateProgram();
    const char* text = stage.c_str();
    glShaderSource(shader, 1, &text, nullptr);
    glCompileShader(shader);
    glAttachShader(program, shader);
    const char* wanted = "gl_Position";
    glTransformFeedbackVaryings(program, 1, &wanted, GL_INTERLEAVED_ATTRIBS);
    glLinkProgram(program);
    GLint linked = 0;
    glGetProgramiv(program, GL_LINK_STATUS, &linked);
    char log[1024] = {};
    glGetProgramInfoLog(program, sizeof log, nullptr, log);
    EXPECT_TRUE(linked) << log << stage;
    std::vector<std::array<float, 4>> out(mesh.indices.size());
    if (!linked) return out;
    glUseProgram(program);
    const float one[16] = {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}, small[9] = {1, 0, 0, 0, 1, 0, 0, 0, 1};
    for (const char* name : {"u_world", "u_clip"}) glUniformMatrix4fv(glGetUniformLocation(program, name), 1, GL_FALSE, one);
    glUniformMatrix3fv(glGetUniformLocation(program, "u_worldNormal"), 1, GL_FALSE, small);
    if (!frame.uniforms.empty())
        glUniform4fv(glGetUniformLocation(program, "u_vertexValues"), GLsizei(frame.uniforms.size()), frame.uniforms.data()->data());
    GLuint buffer = 0;
    glGenBuffers(1, &buffer);
    glBindBuffer(GL_TRANSFORM_FEEDBACK_BUFFER, buffer);
    glBufferData(GL_TRANSFORM_FEEDBACK_BUFFER, GLsizeiptr(out.size() * sizeof out[0]), nullptr, GL_STREAM_READ);
    glBindBufferBase(GL_TRANSFORM_FEEDBACK_BUFFER, 0, buffer);
    const GlMesh drawn(mesh);
    // Nothing is drawn, but without something to draw into nothing is computed either.
    const GlTargets somewhere(1, 1);
    glBindFramebuffer(GL_FRAMEBUFFER, somewhere.pictureBuffer);
    glEnable(GL_RASTERIZER_DISCARD);
    glBeginTransformFeedback(GL_TRIANGLES);
    drawn.draw(0, uint32_t(mesh.indices.size()));
    glEndTransformFeedback();
    glDisable(GL_RASTERIZER_DISCARD);
    glGetBufferSubData(GL_TRANSFORM_FEEDBACK_BUFFER, 0, GLsizeiptr(out.size() * sizeof out[0]), out.data());
    glDeleteBuffers(1, &buffer);
    glDeleteProgram(program);
    glDeleteShader(shader);
    return out;
}

// The vertex stage that is printed is the offset that is drawn: what it gives is read back, vertex by vertex.
TEST(VertexOffset, ThePrintedStageMovesVerticesAsTheEvaluatorDoes) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), noise = add(p, "noise_2d"), place = add(p, "position", {}, {{"space", "object"}}),
             gap = add(p, "depth_gap"), scaled = add(p, "multiply", {{"in2", Value::number(0.0001f)}}), sum = add(p, "add"),
             up = add(p, "combine", {}, {{"components", "3"}});
    wire(p, {uv, "out", ""}, noise, "uv");
    wire(p, {gap, "out", ""}, scaled, "in1");
    wire(p, {scaled, "out", ""}, sum, "in1");
    wire(p, {noise, "out", ""}, sum, "in2");
    wire(p, {sum, "out", ""}, up, "g");
    wire(p, {place, "out", "x"}, up, "r");
    channel(p, {up, "out", ""}, "vertex_offset");
    const Compilation c = compileSurface(p, masterOf(p));
    ASSERT_TRUE(c.offset);
    const Evaluator evaluator(c.offset);
    const Frame frame = evaluator.frame({});
    const Mesh mesh = makeTorus(12);
    std::vector<std::array<float, 3>> offsets(mesh.vertices.size());
    evaluateOffset(evaluator, frame, mesh, mesh.slots[0], offsets);
    Gl::makeCurrent();
    const auto moved = caught(vertexStage(*c.offset, evaluator.layout()), frame, mesh);
    for (size_t i = 0; i < mesh.indices.size(); ++i) {
        const uint32_t v = mesh.indices[i];
        for (size_t k = 0; k < 3; ++k) ASSERT_NEAR(moved[i][k], mesh.vertices[v].position[k] + offsets[v][k], 2e-5f) << "vertex " << v;
    }
}

// The sides of a sheet that shows both: seen from above its front, from below its back, by either engine.
TEST(Sides, FrontOrBackShowsWhichSideIsSeen) {
    Project p = bareProject();
    const Id card = add(p, "front_or_back", {{"front", Value::number(0.25f)}, {"back", Value::number(0.75f)}});
    channel(p, {card, "out", ""}, "roughness");
    SurfaceSettings surface = masterOf(p).surface;
    surface.doubleSided = true;
    p = *edit::setSurface(p, "m", surface);
    p.lineup.specimens = {{"shape:plane", {"m"}}};
    Assets assets;
    LookCache looks;
    Gl::makeCurrent();
    for (const bool evaluator : {false, true}) {
        Gl::renderer().setEvaluatorOnly(evaluator);
        for (const float pitch : {60.f, -60.f}) {
            RenderSettings settings;
            settings.width = settings.height = 32;
            settings.view = findView("roughness");
            settings.camera.pitch = pitch;
            const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
            const auto picture = Gl::renderer().render(dressed, settings);
            ASSERT_TRUE(picture);
            // Linear to sRGB, of 8 bits.
            const int middle = picture->rgba[size_t(16 * 32 + 16) * 4];
            EXPECT_NEAR(middle, int(std::lround((pitch > 0 ? 0.25f : 0.75f) * 255)), 1) << pitch << " " << evaluator;
            const Probe probe = Gl::renderer().probe(dressed, settings, 16, 16);
            EXPECT_TRUE(probe.hit);
        }
    }
    Gl::renderer().setEvaluatorOnly(false);
}

// What a card says of the view depends on the camera of each picture, in both engines, and a probe knows which copy it hit.
TEST(Sides, NormalsInTheViewFollowTheCameraAndProbesKnowTheCopy) {
    Project p = bareProject();
    const Id card = add(p, "transform_normal");
    channel(p, {card, "out", "z"}, "roughness");
    p.lineup.specimens = {{"shape:sphere", {"m"}}};
    p.lineup.specimens[0].placements = Placements{Placements::Form::Row, 3};
    Assets assets;
    LookCache looks;
    Gl::makeCurrent();
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    for (const float yaw : {0.f, 35.f}) {
        RenderSettings settings;
        settings.width = 96, settings.height = 48;
        settings.view = findView("roughness");
        settings.camera.yaw = yaw;
        settings.camera.pitch = 10;
        std::vector<RenderedPicture> both;
        for (const bool evaluator : {false, true}) {
            Gl::renderer().setEvaluatorOnly(evaluator);
            const auto picture = Gl::renderer().render(dressed, settings);
            ASSERT_TRUE(picture);
            both.push_back(*picture);
        }
        Gl::renderer().setEvaluatorOnly(false);
        int differ = 0;
        for (size_t i = 0; i < both[0].rgba.size(); ++i) differ += std::abs(int(both[0].rgba[i]) - int(both[1].rgba[i])) > 2;
        EXPECT_LT(differ, 40) << "but for a few pixels at outlines";
        std::set<int> copies;
        for (int x = 0; x < 96; ++x) {
            const Probe probe = Gl::renderer().probe(dressed, settings, x, 24);
            if (!probe.hit) continue;
            EXPECT_EQ(probe.slot, 0) << "the slot of the mesh";
            copies.insert(probe.placement);
            // The view's axis is known from the angles: Z points from the middle to the eye.
            const float degree = 3.14159265f / 180;
            const Rgb back{std::cos(10 * degree) * std::sin(yaw * degree), std::sin(10 * degree),
                           std::cos(10 * degree) * std::cos(yaw * degree)};
            for (const auto& [name, value] : probe.values) {
                if (name == "roughness") {
                    EXPECT_NEAR(value[0], dot(probe.normal, back), 1e-3f);
                }
            }
        }
        EXPECT_EQ(copies, (std::set<int>{0, 1, 2}));
    }
}

// Pictures that are kept, 128 pixels a side; compared by perceptual difference. Set HUE_WRITE_GOLDEN to make them anew,
// and look at them before they are committed.
void golden(const std::string& name, const RenderedPicture& picture) {
    const std::string file = sourceFolder() + "/tests/render/golden/" + name + ".png";
    if (std::getenv("HUE_WRITE_GOLDEN")) {
        ASSERT_TRUE(writeScreenPicture(file, picture.rgba, picture.width, picture.height));
        return;
    }
    const auto kept = readScreenPicture(file);
    ASSERT_TRUE(kept) << kept.error().sentence;
    const Comparison c = compare({kept->width, kept->height, kept->rgba.data()}, {picture.width, picture.height, picture.rgba.data()});
    EXPECT_LT(c.flip, 0.02f) << name;
    EXPECT_LT(c.mean, 0.5f) << name;
}

struct GoldenStage : Stage {
    GoldenStage() {
        settings.width = settings.height = 128;
        settings.supersampling = 2;
        settings.tone = ToneCurve::Neutral;
    }
};

TEST(Golden, ARoughMetalSphereMirrorsTheHorizonSoftly) {
    GoldenStage s;
    s.settings.light = "harbour-dusk";
    s.set("metallic", 1);
    s.set("roughness", 0.35f);
    s.set("base_color", Value::vec3(0.9f, 0.9f, 0.9f));
    golden("rough_metal_horizon", s.render());
}

TEST(Golden, AMaskCutsAlongItsEdge) {
    GoldenStage s;
    const Id uv = add(s.project, "texcoord"), cells = add(s.project, "worley_noise", {{"scale", Value::vec2(6, 6)}});
    wire(s.project, {uv, "out", ""}, cells, "uv");
    channel(s.project, {cells, "out", ""}, "alpha");
    s.surface([](SurfaceSettings& c) {
        c.alphaMode = AlphaMode::Mask;
        c.alphaCutoff = 0.4f;
        c.doubleSided = true;
    });
    golden("mask_edge", s.render());
}

TEST(Golden, AThinFilmRunsThroughItsHues) {
    GoldenStage s;
    s.layers({Layer::Reflection, Layer::Film});
    const Id uv = add(s.project, "texcoord"), thick = add(s.project, "remap", {{"outhigh", Value::number(900)}});
    wire(s.project, {uv, "out", "y"}, thick, "in");
    channel(s.project, {thick, "out", ""}, "iridescence_thickness");
    s.set("iridescence", 1);
    s.set("roughness", 0.3f);
    s.set("metallic", 1);
    s.set("base_color", Value::vec3(0.5f, 0.5f, 0.5f));
    golden("film_hues", s.render());
}

TEST(Golden, IceDarkensWithItsThickness) {
    GoldenStage s;
    s.put("signs");
    s.layers({Layer::Reflection, Layer::Transmission, Layer::Volume});
    s.set("roughness", 0.05f);
    s.set("transmission", 1);
    s.set("ior", 1.31f);
    s.set("base_color", Value::vec3(1, 1, 1));
    s.set("attenuation_color", Value::vec3(0.25f, 0.6f, 0.7f));
    const Id uv = add(s.project, "texcoord"), thick = add(s.project, "remap", {{"outhigh", Value::number(2.5f)}});
    wire(s.project, {uv, "out", "y"}, thick, "in");
    channel(s.project, {thick, "out", ""}, "thickness");
    golden("absorption", s.render());
}

} // namespace
} // namespace hue
