// Facts that the pictures must show.
#include "core/picture/looks.h"
#include "core/surface/channels.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <cmath>

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

TEST(Light, FuzzOfHalfTheAmountIsThatOfHalfTheColor) {
    Scene s;
    SurfaceSettings cloth;
    cloth.layers = uint32_t(Layer::Sheen);
    s.project = *edit::setSurface(s.project, "m", cloth);
    s.set("base_color", Value::vec3(0.02f, 0.02f, 0.02f));
    const auto drawn = [&](float amount, float color) {
        s.set("sheen", Value::number(amount));
        s.set("sheen_color", Value::vec3(color, color, color));
        return s.render().rgba;
    };
    const auto full = drawn(1, 0.8f), half = drawn(0.5f, 0.8f), none = drawn(0, 0.8f);
    EXPECT_EQ(half, drawn(1, 0.4f));
    EXPECT_EQ(none, drawn(1, 0));
    EXPECT_NE(half, full);
    EXPECT_NE(half, none);
    // Its view shows the amount itself.
    s.settings.view = findView("sheen");
    s.set("sheen", Value::number(0.25f));
    EXPECT_NEAR(Scene::at(s.render(), kMiddle, kMiddle)[0], 64, 1);
}

TEST(Light, AWhiteSurfaceInAnEvenLightVanishesInItAtEveryRoughness) {
    // The furnace as a picture: whatever is white sends out what it gets, up to its outline, so it cannot be told from its surroundings.
    Scene s;
    constexpr float even = 0.4f;
    s.settings.lightFile = ReadyLight{"even",
                                      {{0, 1, 0}, {0, 0, 0}},
                                      std::make_shared<PrefilteredLight>(prefilter([](const Rgb&) {
                                          return Rgb{even, even, even};
                                      })),
                                      {},
                                      {}};
    s.settings.backdrop = Backdrop::Environment;
    s.settings.tone = ToneCurve::Linear;
    s.set("base_color", Value::vec3(1, 1, 1));
    const float around = linearToSrgb(even) * 255;
    for (const float metallic : {0.f, 1.f})
        for (const float roughness : {0.1f, 0.4f, 0.7f, 1.f}) {
            s.set("metallic", Value::number(metallic));
            s.set("roughness", Value::number(roughness));
            const RenderedPicture p = s.render();
            int low = 255, high = 0;
            for (size_t i = 0; i < p.rgba.size(); ++i)
                if (i % 4 != 3) {
                    low = std::min(low, int(p.rgba[i]));
                    high = std::max(high, int(p.rgba[i]));
                }
            EXPECT_GT(low, around * 0.975f) << "metallic " << metallic << ", roughness " << roughness;
            EXPECT_LT(high, around * 1.015f) << "metallic " << metallic << ", roughness " << roughness;
        }
    // A grey one is there.
    s.set("base_color", Value::vec3(0.5f, 0.5f, 0.5f));
    EXPECT_LT(Scene::at(s.render(), kMiddle, kMiddle)[1], around - 20);
}

TEST(Light, ASmoothMetalShowsTheLampsAndARoughOneDoesNot) {
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
    s.set("base_color", Value::vec3(1, 0, 0)); // what is grey is ground
    const RenderedPicture p = s.render();
    s.settings.rotation += 180;
    const RenderedPicture turned = s.render();
    int here = 0, there = 0;
    auto grey = [](const std::array<int, 3>& v) { return v[0] == v[1] && v[1] == v[2] && v[0] > 30; };
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) {
            const auto a = Scene::at(p, x, y), b = Scene::at(turned, x, y);
            if (!grey(a) || !grey(b)) continue;
            here += a[0] + 15 < b[0];
            there += b[0] + 15 < a[0];
        }
    EXPECT_GT(here, 20);
    EXPECT_GT(there, 20) << "it moves with the light";
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

TEST(DriverErrors, NameTheCardWhoseLineIsRefused) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d");
    channel(p, {noise, "out", ""}, "roughness");
    LookCache looks;
    Assets assets;
    Specimen specimen;
    specimen.mesh = "plane/1";
    specimen.wears = {"m"};
    DressedSpecimen dressed = dress(p, assets, looks, specimen, 0);
    // A driver that does not know our noise.
    auto look = std::make_shared<Look>(*dressed.slots[0].look);
    for (std::string& stage : look->stage) {
        const size_t at = stage.find("hs_noise2(", stage.find("hs_Outputs hs_material("));
        ASSERT_NE(at, std::string::npos);
        stage.replace(at, 10, "hs_unknown(");
    }
    dressed.slots[0].look = look;
    RenderSettings settings;
    settings.width = settings.height = 32;
    const auto picture = Gl::renderer().render(dressed, settings);
    ASSERT_FALSE(picture);
    EXPECT_EQ(picture.error().code, "gl.shader");
    EXPECT_EQ(picture.error().place.node, noise);
    EXPECT_NE(picture.error().sentence.find("line"), std::string::npos) << picture.error().sentence;
    EXPECT_NE(picture.error().sentence.find("hs_unknown"), std::string::npos) << "in the driver's words: " << picture.error().sentence;
    EXPECT_NE(sentenceWithCard(p, picture.error()).find("Noise 2D, in M"), std::string::npos);
}

} // namespace
} // namespace hue
