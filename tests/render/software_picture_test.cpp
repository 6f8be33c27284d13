// Pictures by the CPU alone against those of the driver: two programs for the same light, shadow, layers and tone.
#include "core/picture/raster.h"
#include "core/picture/software_picture.h"
#include "core/project/store.h"
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include "core/mesh/things.h"

#include <atomic>
#include <cmath>
#include <set>

namespace hue {
namespace {

using namespace test;

struct Apart {
    double mean = 0; ///< of the largest difference of the three components, in 255ths
    double over = 0; ///< share of the pixels that differ by more than 4 of 255
};

Apart compared(const RenderedPicture& a, const RenderedPicture& b) {
    Apart out;
    EXPECT_EQ(a.rgba.size(), b.rgba.size());
    const size_t count = a.rgba.size() / 4;
    for (size_t i = 0; i < count; ++i) {
        int most = 0;
        for (size_t c = 0; c < 3; ++c) most = std::max(most, std::abs(int(a.rgba[i * 4 + c]) - int(b.rgba[i * 4 + c])));
        out.mean += most / double(count);
        out.over += (most > 4) / double(count);
    }
    return out;
}

Apart drawBoth(const Project& project, Assets& assets, const Specimen& specimen, const RenderSettings& settings, double time = 0) {
    LookCache looks;
    const DressedSpecimen dressed = dress(project, assets, looks, specimen, time, dressFor(project, settings));
    const auto driver = Gl::renderer().render(dressed, settings);
    const auto software = softwarePicture(dressed, settings);
    EXPECT_TRUE(driver && software);
    if (!driver || !software) return {};
    EXPECT_TRUE(software->fromEvaluator) << "it is told apart";
    return compared(*driver, *software);
}

RenderSettings small() {
    RenderSettings s;
    s.width = 210;
    s.height = 140;
    return s;
}

TEST(SoftwarePicture, IsTheDriversOnEveryInstanceOfTheDemo) {
    const auto loaded = loadProject(depotFile());
    ASSERT_TRUE(loaded);
    const Project& p = loaded->project;
    Assets assets;
    assets.setFolder(depotFolder());
    for (const auto& instance : p.instances) {
        Specimen specimen;
        specimen.mesh = "tram_side_panel";
        specimen.wears = {instance->id};
        const Apart a = drawBoth(p, assets, specimen, small(), 1.5);
        // What is seen through a rough surface comes from smaller levels, which each of the two makes in its own way; cards that look at
        // the scene behind get an empty one.
        const SurfaceSettings surface = resolve(p, instance->id).surface;
        const bool seenThrough = surface.has(Layer::Transmission) || surface.alphaMode == AlphaMode::Blend;
        EXPECT_LT(a.mean, seenThrough ? 1.2 : 0.4) << p.nameOf(instance->id);
        EXPECT_LT(a.over, seenThrough ? 0.03 : 0.012) << p.nameOf(instance->id);
    }
}

TEST(SoftwarePicture, IsTheDriversInEveryLightBackdropAndTone) {
    const Project p = bareProject();
    Assets assets;
    // What is compared is not nothing: the lights make different pictures.
    std::set<std::vector<uint8_t>> seen;
    for (const LightDef& light : lights()) {
        RenderSettings s = small();
        s.light = light.id;
        LookCache looks;
        const auto picture = softwarePicture(dress(p, assets, looks, p.lineup.specimens[0], 0), s);
        ASSERT_TRUE(picture);
        seen.insert(picture->rgba);
    }
    EXPECT_EQ(seen.size(), lights().size());
    for (const LightDef& light : lights())
        for (Backdrop backdrop : {Backdrop::Surround, Backdrop::Environment, Backdrop::Depot})
            for (const ToneCurveDef& tone : toneCurves()) {
                RenderSettings s = small();
                s.light = light.id;
                s.backdrop = backdrop;
                s.tone = tone.curve;
                s.rotation = 70;
                s.exposure = 0.3f;
                s.glare = tone.curve == ToneCurve::Filmic ? 0.5f : 0;
                const Apart a = drawBoth(p, assets, p.lineup.specimens[0], s);
                EXPECT_LT(a.mean, 0.7) << light.id << " " << tone.key;
                EXPECT_LT(a.over, 0.03) << light.id << " " << tone.key;
            }
}

TEST(SoftwarePicture, IsTheDriversForEveryKindOfSurface) {
    Assets assets;
    for (const SurfaceKind& kind : surfaceKinds()) {
        Project p = bareProject();
        SurfaceSettings s = p.masters[0]->surface;
        s.layers = kind.layers;
        s.unlit = kind.unlit;
        s.simpleDiffuse = kind.simpleDiffuse;
        p = *edit::setSurface(p, "m", s);
        for (const auto& [channel, value] : kind.values) p = *edit::setChannelConstant(p, "m", std::string(channel), value);
        const Apart a = drawBoth(p, assets, p.lineup.specimens[0], small());
        EXPECT_LT(a.mean, 0.2) << kind.key;
        EXPECT_LT(a.over, 0.01) << kind.key;
    }
}

TEST(SoftwarePicture, ShowsLightAloneThingsAndTheHolesOfAMaskAsTheDriverDoes) {
    const auto loaded = loadProject(depotFile());
    ASSERT_TRUE(loaded);
    const Project& p = loaded->project;
    Assets assets;
    assets.setFolder(depotFolder());
    RenderSettings s = small();
    Specimen grille;
    grille.mesh = "vent_grille";
    grille.wears = {p.findByName("Vent grille/Coarse")};
    if (grille.wears[0].empty())
        for (const auto& i : p.instances)
            if (i->id.starts_with("grille_coarse")) grille.wears = {i->id};
    const Apart holes = drawBoth(p, assets, grille, s);
    EXPECT_LT(holes.mean, 1.5);
    EXPECT_LT(holes.over, 0.04) << "along the cut edges";
    s.view = findView("light_only");
    const Apart alone = drawBoth(p, assets, grille, s);
    EXPECT_LT(alone.mean, 1.5);
    // A thing stands behind an unlit specimen, so that nothing mirrors it, which only the driver draws.
    Project q = bareProject();
    SurfaceSettings unlit = q.masters[0]->surface;
    unlit.unlit = true;
    q = *edit::setSurface(q, "m", unlit);
    Specimen among = q.lineup.specimens[0];
    s.view = 0;
    const Apart without = drawBoth(q, assets, among, s);
    among.things.push_back({thingKinds()[0].key.data(), {0, 0, -1.6f}, 1.2f, true});
    const Apart with = drawBoth(q, assets, among, s);
    EXPECT_LT(without.mean, 0.2);
    EXPECT_LT(with.mean, 1) << "the thing and its shadow";
    LookCache looks;
    const auto seen = softwarePicture(dress(q, assets, looks, among, 0), s);
    among.things.clear();
    const auto empty = softwarePicture(dress(q, assets, looks, among, 0), s);
    ASSERT_TRUE(seen && empty);
    EXPECT_GT(compared(*seen, *empty).over, 0.02) << "and it is there";
}

TEST(SoftwarePicture, CanBeCancelledAndSaysWhatItCannotDraw) {
    const Project p = bareProject();
    Assets assets;
    LookCache looks;
    const DressedSpecimen dressed = dress(p, assets, looks, p.lineup.specimens[0], 0);
    std::atomic<bool> stop = true;
    const auto stopped = softwarePicture(dressed, small(), {0, &stop, {}});
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, "work.cancelled");
    RenderSettings s = small();
    s.width = 9000;
    EXPECT_EQ(softwarePicture(dressed, s).error().code, "render.size");
    s = small();
    s.light = "no such light";
    EXPECT_EQ(softwarePicture(dressed, s).error().code, "light.unknown");
    s = small();
    EXPECT_TRUE(drawsInSoftware(s));
    s.view = findView("roughness");
    EXPECT_FALSE(drawsInSoftware(s)) << "channels by themselves are the driver's";
}

} // namespace
} // namespace hue
