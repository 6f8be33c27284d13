#pragma once
// One picture by three ways: by the driver, by the driver from channels of the CPU, and by the CPU alone.
#include "core/picture/software_picture.h"
#include "preview/lineup_pictures.h"
#include "tests/render/gl_fixture.h"

#include <cstdlib>

namespace hue::test {

inline RenderSettings small() {
    RenderSettings s;
    s.width = 180;
    s.height = 140;
    return s;
}

struct Three {
    RenderedPicture linked, evaluated, software;
};

inline Three drawn(const Project& project, const Specimen& specimen, const RenderSettings& settings) {
    Assets assets;
    LookCache looks;
    const DressedSpecimen dressed = dress(project, assets, looks, specimen, 0, dressFor(project, settings));
    Renderer& renderer = Gl::renderer();
    auto linked = renderer.render(dressed, settings);
    renderer.setEvaluatorOnly(true);
    auto evaluated = renderer.render(dressed, settings);
    renderer.setEvaluatorOnly(false);
    auto software = softwarePicture(dressed, settings);
    EXPECT_TRUE(linked && evaluated && software);
    if (!linked || !evaluated || !software) return {};
    EXPECT_FALSE(linked->fromEvaluator);
    EXPECT_TRUE(evaluated->fromEvaluator);
    return {std::move(*linked), std::move(*evaluated), std::move(*software)};
}

inline double meanDifference(const RenderedPicture& a, const RenderedPicture& b) {
    double sum = 0;
    EXPECT_EQ(a.rgba.size(), b.rgba.size());
    for (size_t i = 0; i < a.rgba.size(); ++i) sum += std::abs(int(a.rgba[i]) - int(b.rgba[i]));
    return sum / double(a.rgba.size());
}

} // namespace hue::test
