// What the CPU counts for the cost of a picture is what a graphics card draws in the view overdraw.
#include "core/picture/picture_cost.h"
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"
#include "tests/test_graphs.h"

#include <array>
#include <cmath>

namespace hue {
namespace {

using namespace test;

/// How many pixels the view shows with each count, from the brightness that stands for it between 0 and `most`.
std::array<size_t, 9> countsIn(const RenderedPicture& picture, float most) {
    std::array<size_t, 9> out{};
    for (size_t k = 0; k < picture.rgba.size(); k += 4)
        for (int n = 1; n <= int(most); ++n)
            if (std::fabs(float(picture.rgba[k]) / 255 - (float(n) / most * 0.92f + 0.08f)) < 0.02f) ++out[size_t(n)];
    return out;
}

TEST(Overdraw, IsCountedAsACardDrawsIt) {
    for (const char* mesh : {"shape:torus", "shape:sphere", "shape:cylinder"})
        for (const bool doubleSided : {false, true}) {
            Project p = bareProject();
            channel(p, {add(p, "noise_2d"), "out", ""}, "roughness");
            SurfaceSettings surface;
            surface.alphaMode = AlphaMode::Blend;
            surface.doubleSided = doubleSided;
            p = *edit::setSurface(p, "m", surface);
            Specimen specimen;
            specimen.mesh = mesh;
            specimen.wears = {"m"};
            p.lineup.specimens = {specimen};
            Assets assets;
            LookCache looks;
            constexpr int kWidth = 360, kHeight = 240;
            const auto counted = pictureCost(p, assets, looks, kWidth, kHeight);
            ASSERT_TRUE(counted);
            RenderSettings settings;
            settings.width = kWidth, settings.height = kHeight;
            settings.camera = p.lineup.orbit;
            settings.view = findView("overdraw");
            settings.viewLow = 0, settings.viewHigh = 8; // a brightness of its own for each count
            const auto drawn = Gl::renderer().render(dress(p, assets, looks, specimen, 0), settings);
            ASSERT_TRUE(drawn) << drawn.error().sentence;
            ASSERT_LE(drawn->peak, 8);
            const std::array<size_t, 9> counts = countsIn(*drawn, 8);
            size_t covered = 0, shaded = 0;
            for (size_t n = 1; n < counts.size(); ++n) covered += counts[n], shaded += n * counts[n];
            const ShadedSlot& slot = counted->at(0);
            EXPECT_GT(covered, 10000u) << mesh;
            EXPECT_NEAR(double(slot.covered) / double(covered), 1, 0.005) << mesh << doubleSided;
            EXPECT_NEAR(double(slot.shaded) / double(shaded), 1, 0.005) << mesh << doubleSided;
        }
}

} // namespace
} // namespace hue
