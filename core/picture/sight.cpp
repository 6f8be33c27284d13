#include "core/picture/sight.h"

namespace hue {

View viewOfMesh(const Bounds& bounds, const RenderSettings& settings) {
    DressedSpecimen alone;
    alone.bounds = alone.drawnBounds = bounds;
    return viewOf(alone, settings, settings.width, settings.height);
}

Ray sightThrough(const View& view, float x, float y) {
    const float across = 2 * x / float(view.width) - 1, up = 1 - 2 * y / float(view.height);
    const auto at = [&](float depth) {
        const glm::dvec4 p = glm::dmat4(view.fromClip) * glm::dvec4(across, up, depth, 1);
        return glm::vec3(glm::dvec3(p) / p.w);
    };
    return {view.eye, arrayOf(glm::normalize(at(1) - vectorOf(view.eye)))};
}

std::optional<std::array<float, 2>> pixelOf(const View& view, const Rgb& place) {
    const glm::vec4 c = view.clip * glm::vec4(vectorOf(place), 1);
    if (!(c.w > 1e-6f)) return {};
    return std::array<float, 2>{(c.x / c.w + 1) / 2 * float(view.width), (1 - c.y / c.w) / 2 * float(view.height)};
}

float metresOfPixel(const View& view, const Rgb& place) {
    const glm::vec4 c = view.clip * glm::vec4(vectorOf(place), 1);
    return 2 * kHalfAngle * std::max(c.w, 0.f) / float(view.height);
}

} // namespace hue
