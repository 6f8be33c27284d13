// Pictures from the CPU evaluator against those of a linked build.
#include "core/project/store.h"
#include "preview/build_service.h"
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <thread>

namespace hue {
namespace {

using namespace test;

struct Both {
    RenderedPicture linked, evaluated;
    double mean = 0;
    int over = 0; ///< parts of a thousand of the pixels that differ by 2/255 and more
};

Both drawBoth(const Project& project, Assets& assets, const Specimen& specimen, const RenderSettings& settings, double time = 0) {
    LookCache looks;
    const DressedSpecimen dressed = dress(project, assets, looks, specimen, time, dressFor(project, settings));
    Both out;
    Renderer& renderer = Gl::renderer();
    auto linked = renderer.render(dressed, settings);
    renderer.setEvaluatorOnly(true);
    auto evaluated = renderer.render(dressed, settings);
    renderer.setEvaluatorOnly(false);
    EXPECT_TRUE(linked && evaluated);
    if (!linked || !evaluated) return out;
    out.linked = *linked;
    out.evaluated = *evaluated;
    int far = 0;
    for (size_t i = 0; i < out.linked.rgba.size(); i += 4) {
        int most = 0;
        for (size_t c = 0; c < 3; ++c) most = std::max(most, std::abs(int(out.linked.rgba[i + c]) - int(out.evaluated.rgba[i + c])));
        out.mean += most;
        far += most >= 2;
    }
    out.mean /= double(out.linked.rgba.size() / 4);
    out.over = int(far * 4000.0 / double(out.linked.rgba.size()));
    return out;
}

RenderSettings small() {
    RenderSettings s;
    s.width = 210;
    s.height = 140;
    return s;
}

TEST(EvaluatorPicture, IsTheSameAsTheLinkedBuildOnEverySpecimenOfTheDemo) {
    const auto loaded = loadProject(depotFile());
    ASSERT_TRUE(loaded);
    const Project& p = loaded->project;
    Assets assets;
    assets.setFolder(depotFolder());
    for (const auto& instance : p.instances) {
        const SurfaceSettings surface = resolve(p, instance->id).surface;
        if (surface.alphaMode == AlphaMode::Blend || surface.has(Layer::Transmission)) continue;
        Specimen specimen;
        specimen.mesh = "tram_side_panel";
        specimen.wears = {instance->id};
        const Both b = drawBoth(p, assets, specimen, small(), 1.5);
        EXPECT_TRUE(b.evaluated.fromEvaluator);
        EXPECT_FALSE(b.linked.fromEvaluator);
        // Where normals are derived from a height that is read smaller than it is, a small difference of the level grows.
        const bool derived = p.masterOf(instance->id)->name == "Ballast";
        EXPECT_LT(b.mean, derived ? 0.4 : 0.25) << p.nameOf(instance->id);
        // At edges of the mesh the card extrapolates each triangle by itself and may read a map at another level.
        EXPECT_LE(b.over, derived ? 50 : 15) << p.nameOf(instance->id) << ": thousandths that differ by 2/255 or more";
    }
}

TEST(EvaluatorPicture, ShowsThroughTheHolesOfAMask) {
    Project p = bareProject();
    const Id uv = add(p, "texcoord"), place = add(p, "multiply", {{"in2", Value::number(8)}}), part = add(p, "fract");
    wire(p, {uv, "out", ""}, place, "in1");
    wire(p, {place, "out", ""}, part, "in");
    channel(p, {part, "out", "x"}, "alpha");
    SurfaceSettings s;
    s.alphaMode = AlphaMode::Mask;
    s.doubleSided = true;
    p = *edit::setSurface(p, "m", s);
    Assets assets;
    const Both b = drawBoth(p, assets, p.lineup.specimens[0], small());
    EXPECT_TRUE(b.evaluated.fromEvaluator);
    // Along the cut edges one of the two may keep a pixel that the other drops.
    EXPECT_LT(b.mean, 0.6);
    EXPECT_LE(b.over, 15);
}

TEST(EvaluatorPicture, ShowsAWireAsTheLinkedBuildDoes) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d", {{"scale", Value::vec2(6, 6)}}), color = add(p, "mix", {{"fg", Value::vec3(1, 0.2f, 0)}});
    wire(p, {noise, "out", ""}, color, "mix");
    p.lineup.view = "wire";
    p.lineup.wireMaster = "m";
    RenderSettings s = small();
    s.view = findView("wire");
    Assets assets;
    for (const Source& wanted : {Source{noise, "out", ""}, Source{color, "out", ""}, Source{color, "out", "rg"}}) {
        p.lineup.wire = wanted;
        const Both b = drawBoth(p, assets, p.lineup.specimens[0], s);
        EXPECT_TRUE(b.evaluated.fromEvaluator);
        EXPECT_LT(b.mean, 0.1);
    }
}

TEST(BuildService, LinksInTheBackgroundWhileTheEvaluatorDraws) {
    Gl::renderer();
    auto context = EglContext::create();
    ASSERT_TRUE(context);
    (*context)->makeCurrent();
    auto builds = BuildService::create(**context);
    ASSERT_TRUE(builds);
    Project p = bareProject();
    channel(p, {add(p, "worley_noise"), "out", ""}, "roughness");
    Assets assets;
    LookCache looks;
    {
        Renderer renderer(builds.get());
        const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
        const auto first = renderer.render(dressed, small());
        ASSERT_TRUE(first);
        EXPECT_TRUE(first->fromEvaluator);
        bool linked = false;
        for (int i = 0; i < 600 && !linked; ++i) {
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
            const auto next = renderer.render(dressed, small());
            ASSERT_TRUE(next);
            linked = !next->fromEvaluator;
        }
        EXPECT_TRUE(linked) << "the build took over";
    }
    builds.reset();
    context->reset();
    Gl::makeCurrent();
}

TEST(Probe, GivesTheExactValuesUnderAPixel) {
    Project p = bareProject();
    p = *edit::setChannelConstant(p, "m", "base_color", Value::vec3(0.123f, 0.5f, 2.5f));
    const Id uv = add(p, "texcoord");
    channel(p, {uv, "out", "x"}, "roughness");
    Assets assets;
    LookCache looks;
    RenderSettings s = small();
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    const Probe probe = Gl::renderer().probe(dressed, s, s.width / 2, s.height / 2);
    ASSERT_TRUE(probe.hit);
    auto value = [&](std::string_view key) {
        for (const auto& [name, v] : probe.values)
            if (name == key) return v;
        return Value::number(-1);
    };
    EXPECT_EQ(value("base_color")[0], 0.123f);
    EXPECT_EQ(value("base_color")[2], 2.5f) << "not limited to what a screen can show";
    EXPECT_EQ(value("roughness")[0], probe.uv0[0]);
    EXPECT_NEAR(std::hypot(probe.position[0], probe.position[1], probe.position[2]), 1, 0.01) << "on the unit sphere";
    EXPECT_FALSE(Gl::renderer().probe(dressed, s, 1, 1).hit);
}

} // namespace
} // namespace hue
