// Facts that the pictures must show.
#include "core/surface/channels.h"
#include "core/surface/surface_glsl.h"
#include "preview/gl_objects.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <cstring>
#include <random>

namespace hue {
namespace {

using namespace test;

struct Scene {
    Project project = bareProject();
    Assets assets;
    LookCache looks;
    RenderSettings settings;

    Scene() {
        settings.width = settings.height = 96;
        settings.light = "grey-box";
        settings.camera = {0, 0, 1};
    }
    void set(const std::string& key, const Value& v) { project = *edit::setChannelConstant(project, "m", key, v); }
    RenderedPicture render() {
        const Result<RenderedPicture> r = Gl::renderer().render(dress(project, assets, looks, project.lineup.specimens[0], 0), settings);
        EXPECT_TRUE(r) << r.error().sentence;
        return r ? *r : RenderedPicture{};
    }
    static std::array<int, 3> at(const RenderedPicture& p, int x, int y) {
        const uint8_t* v = &p.rgba[size_t(y * p.width + x) * 4];
        return {v[0], v[1], v[2]};
    }
};
constexpr int kMiddle = 48;
constexpr std::array<int, 3> kSurround{0x77, 0x77, 0x77};

TEST(Views, AChannelAloneShowsItsValueUnlit) {
    Scene s;
    s.set("base_color", Value::vec3(0.2159f, 0, 1));
    s.set("roughness", Value::number(0.25f));
    s.set("metallic", Value::number(1));
    s.set("occlusion", Value::number(0.5f));
    auto middle = [&](const char* view) {
        s.settings.view = findView(view);
        return Scene::at(s.render(), kMiddle, kMiddle);
    };
    EXPECT_NEAR(middle("base-color")[0], 128, 1);
    EXPECT_EQ(middle("base-color")[2], 255);
    EXPECT_NEAR(middle("roughness")[1], 64, 1);
    EXPECT_EQ(middle("metallic")[0], 255);
    EXPECT_NEAR(middle("occlusion")[0], 128, 1);
    EXPECT_NEAR(middle("normal")[2], 255, 2) << "the middle of the sphere faces the eye, which looks along Z";
    EXPECT_EQ(findView("x-ray"), -1);
}

TEST(Alpha, AMaskedSurfaceDropsPixelsBelowTheCutoff) {
    Scene s;
    const Id uv = add(s.project, "texcoord");
    channel(s.project, {uv, "out", "y"}, "alpha"); // 0 at the top of the sphere, 1 at the bottom
    s.settings.view = findView("base-color");
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Mask, 0.5f, false, false});
    const RenderedPicture p = s.render();
    EXPECT_EQ(Scene::at(p, kMiddle, kMiddle - 14), kSurround);
    EXPECT_NE(Scene::at(p, kMiddle, kMiddle + 14), kSurround);
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Opaque, 0.5f, false, false});
    EXPECT_NE(Scene::at(s.render(), kMiddle, kMiddle - 14), kSurround) << "an opaque surface does not look at alpha";
}

TEST(Alpha, ABlendedSurfaceLetsThrough) {
    Scene s;
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Blend, 0.5f, false, true});
    s.set("base_color", Value::vec3(0, 0, 0));
    s.set("alpha", Value::number(0.5f));
    s.settings.view = findView("unlit");
    const int seen = Scene::at(s.render(), kMiddle, kMiddle)[0];
    EXPECT_NEAR(seen, 0x77 / 2, 2);
}

TEST(Sides, OnlyADoubleSidedPlaneIsSeenFromBelow) {
    Scene s;
    s.project.lineup.specimens[0].mesh = "shape:plane";
    s.settings.camera.pitch = -40;
    s.settings.view = findView("base-color");
    EXPECT_EQ(Scene::at(s.render(), kMiddle, kMiddle), kSurround);
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Opaque, 0.5f, true, false});
    EXPECT_NE(Scene::at(s.render(), kMiddle, kMiddle), kSurround);
}

TEST(Light, AnUnlitSurfaceLooksTheSameInEveryLight) {
    Scene s;
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Opaque, 0.5f, false, true});
    const auto grey = Scene::at(s.render(), kMiddle, kMiddle);
    s.settings.light = "sodium-shed";
    EXPECT_EQ(Scene::at(s.render(), kMiddle, kMiddle), grey);
    s.project = *edit::setSurface(s.project, "m", {AlphaMode::Opaque, 0.5f, false, false});
    EXPECT_NE(Scene::at(s.render(), kMiddle, kMiddle), grey);
}

TEST(Light, AStopOfExposureAndAGlowMakeThePictureBrighter) {
    Scene s;
    s.set("base_color", Value::vec3(0.05f, 0.05f, 0.05f));
    const int dim = Scene::at(s.render(), kMiddle, kMiddle)[1];
    s.settings.exposure = 1;
    const int bright = Scene::at(s.render(), kMiddle, kMiddle)[1];
    EXPECT_GT(bright, dim + 10);
    s.settings.exposure = 0;
    s.set("emissive", Value::vec3(0, 1, 0));
    s.set("emissive_strength", Value::number(4));
    EXPECT_GT(Scene::at(s.render(), kMiddle, kMiddle)[1], bright);
}

TEST(Light, ARoughMetalHasNoDarkOutlineAndASmoothOneShowsTheLamps) {
    Scene s;
    s.set("base_color", Value::vec3(0.9f, 0.9f, 0.9f));
    s.set("metallic", Value::number(1));
    auto spread = [&](float roughness) {
        s.set("roughness", Value::number(roughness));
        const RenderedPicture p = s.render();
        int low = 255, high = 0;
        for (int x = 20; x < 76; ++x) {
            low = std::min(low, Scene::at(p, x, kMiddle)[1]);
            high = std::max(high, Scene::at(p, x, kMiddle)[1]);
        }
        return high - low;
    };
    EXPECT_GT(spread(0.05f), spread(1) + 30);
}

TEST(Light, TheSunCastsAShadowOnTheGround) {
    Scene s;
    s.settings.camera.pitch = 50;
    s.settings.camera.standOff = 2;
    const RenderedPicture p = s.render();
    int darkest = 255;
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x)
            if (const auto v = Scene::at(p, x, y); v[0] == v[1] && v[1] == v[2] && v[0] < 0x77) darkest = std::min(darkest, v[0]);
    EXPECT_LT(darkest, 0x77 * 0.62 + 2);
    EXPECT_EQ(Scene::at(p, 1, 1), kSurround);
}

TEST(InvalidPixels, ShoutInTheirView) {
    Scene s;
    const Id d = add(s.project, "divide", {{"in2", Value::number(0)}});
    channel(s.project, {d, "out", ""}, "roughness");
    s.settings.view = findView("invalid");
    bool red = false;
    const RenderedPicture p = s.render();
    for (int x = 40; x < 56; ++x) red = red || (Scene::at(p, x, kMiddle)[0] > 200 && Scene::at(p, x, kMiddle)[1] < 40);
    EXPECT_TRUE(red);
}

TEST(Parameters, AMapParameterWithoutAMapLooksNeutral) {
    for (const auto& [kind, wanted] : {std::pair{MapKind::Color, std::array<int, 3>{255, 255, 255}},
                                       {MapKind::Data, {255, 255, 255}},
                                       {MapKind::Height, {188, 188, 188}},
                                       {MapKind::Normal, {188, 188, 255}}}) {
        Scene s;
        Parameter map;
        map.id = "p";
        map.name = "Map";
        map.type = ParameterType::Map;
        map.mapKind = kind;
        s.project = *edit::addParameter(s.project, "m", map);
        const Id parameter = add(s.project, "parameter", {}, {{"parameter", "p"}}), image = add(s.project, "image");
        wire(s.project, {parameter, "out", ""}, image, "map");
        channel(s.project, {image, "color", ""}, "base_color");
        s.settings.view = findView("base-color");
        const auto seen = Scene::at(s.render(), kMiddle, kMiddle);
        for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(seen[c], wanted[c], 1) << nameOf(kind);
    }
}

TEST(Dragging, AValueNeitherCompilesNorLinks) {
    Scene s;
    Parameter rough;
    rough.id = "p";
    rough.name = "Rough";
    s.project = *edit::addParameter(s.project, "m", rough);
    channel(s.project, {add(s.project, "parameter", {}, {{"parameter", "p"}}), "out", ""}, "roughness");
    const Id noise = add(s.project, "noise_2d");
    channel(s.project, {noise, "out", ""}, "metallic");
    s.settings.view = findView("roughness");
    s.render();
    const int compiles = s.looks.compiles(), links = Gl::renderer().links();
    for (int i = 1; i <= 5; ++i) {
        s.project = *edit::setOwn(s.project, "m", "p", {Value::number(float(i) / 5), {}});
        s.project = *edit::setConstant(s.project, "m", noise, "amplitude", Value::number(float(i)));
        EXPECT_NEAR(Scene::at(s.render(), kMiddle, kMiddle)[0], i * 51, 1);
    }
    EXPECT_EQ(s.looks.compiles(), compiles);
    EXPECT_EQ(Gl::renderer().links(), links);
}

TEST(Reflectance, IsTheSameInGlslAndInTheReference) {
    Gl::renderer();
    constexpr int size = 32;
    const std::string fragment =
        "#version 410 core\n" + reflectanceGlsl() +
        "uniform sampler2D u_a, u_b, u_c;\nlayout(location = 0) out vec4 o;\nvoid main() { ivec2 p = ivec2(gl_FragCoord.xy); vec4 a = "
        "texelFetch(u_a, p, 0), b = texelFetch(u_b, p, 0), c = texelFetch(u_c, p, 0);\n"
        "o = vec4(hs_reflect(a.rgb, a.a, b.a, vec3(0.0, 0.0, 1.0), b.rgb, c.rgb), 1.0); }\n";
    const auto program = GlProgram::link(
        "#version 410 core\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n",
        fragment);
    ASSERT_TRUE(program) << program.error().sentence;
    std::mt19937 random(5);
    auto r = [&] { return float(random() % 10000) / 10000.f; };
    std::vector<float> a, b, c;
    for (int i = 0; i < size * size; ++i) {
        auto direction = [&](std::vector<float>& to) {
            const float z = 0.05f + 0.95f * r(), phi = 6.2831853f * r(), s = std::sqrt(1 - z * z);
            to.insert(to.end(), {s * std::cos(phi), s * std::sin(phi), z});
        };
        a.insert(a.end(), {r(), r(), r(), r()});
        direction(b);
        b.push_back(0.1f + 0.9f * r());
        direction(c);
        c.push_back(0);
    }
    GlTargets targets(size, size);
    glBindFramebuffer(GL_FRAMEBUFFER, targets.channelBuffer);
    glViewport(0, 0, size, size);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    glDisable(GL_BLEND);
    (*program)->use();
    std::vector<std::unique_ptr<GlMap>> maps;
    int unit = 0;
    for (const auto* list : {&a, &b, &c}) {
        std::vector<std::byte> bytes(list->size() * 4);
        std::memcpy(bytes.data(), list->data(), bytes.size());
        glActiveTexture(GLenum(GL_TEXTURE0 + unit));
        maps.push_back(std::make_unique<GlMap>(Map(size, size, TexelFormat::F32, false, Wrap::Clamp, std::move(bytes))));
        maps.back()->bind(unit);
        (*program)->set(unit == 0 ? "u_a" : unit == 1 ? "u_b" : "u_c", unit);
        ++unit;
    }
    GLuint array = 0;
    glGenVertexArrays(1, &array);
    glBindVertexArray(array);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    std::vector<float> out(size_t(size * size) * 4);
    glReadPixels(0, 0, size, size, GL_RGBA, GL_FLOAT, out.data());
    glDeleteVertexArrays(1, &array);
    for (size_t i = 0; i < size_t(size * size); ++i) {
        const Rgb wanted = reflect({{a[i * 4], a[i * 4 + 1], a[i * 4 + 2]}, a[i * 4 + 3], b[i * 4 + 3]}, {0, 0, 1},
                                   {b[i * 4], b[i * 4 + 1], b[i * 4 + 2]}, {c[i * 4], c[i * 4 + 1], c[i * 4 + 2]});
        for (size_t k = 0; k < 3; ++k) ASSERT_NEAR(out[i * 4 + k], wanted[k], 1e-3f * std::max(1.f, wanted[k]));
    }
}

} // namespace
} // namespace hue
