#include "core/picture/view.h"

#include <algorithm>

namespace hue {

View viewOf(const DressedSpecimen& specimen, const RenderSettings& s, int width, int height) {
    View v;
    v.width = width;
    v.height = height;
    const Bounds& bounds = specimen.bounds;
    v.centre = bounds.centre();
    v.radius = std::max(bounds.radius(), 1e-4f);
    v.floor = bounds.low[1];
    constexpr float degree = 3.14159265f / 180;
    const float yaw = s.camera.yaw * degree, pitch = s.camera.pitch * degree;
    const float aspect = float(width) / float(height);
    // The cylinder that the mesh sweeps when it turns, seen from this height: turning does not change the distance.
    const float halfHeight = (bounds.high[1] - bounds.low[1]) / 2;
    const float sweep = std::hypot(bounds.high[0] - bounds.low[0], bounds.high[2] - bounds.low[2]) / 2;
    const float tall = halfHeight * std::cos(pitch) + sweep * std::fabs(std::sin(pitch));
    const float distance = (std::max(tall / kHalfAngle, sweep / (kHalfAngle * aspect)) * 1.05f + 0.55f * sweep) * s.camera.standOff;
    const Rgb out = {std::cos(pitch) * std::sin(yaw), std::sin(pitch), std::cos(pitch) * std::cos(yaw)};
    const Rgb right = unit(cross({0, 1, 0}, out)), up = cross(out, right);
    Rgb at = v.centre;
    const float move = 2 * distance * kHalfAngle;
    for (size_t i = 0; i < 3; ++i) {
        at[i] -= (right[i] * s.camera.panX + up[i] * s.camera.panY) * move;
        v.eye[i] = at[i] + out[i] * distance;
    }
    // Things may stand further away than the mesh reaches.
    float reach = 1.5f * v.radius;
    for (const Thing& t : specimen.things) {
        float way = 0;
        for (size_t i = 0; i < 3; ++i) way += (t.position[i] - v.centre[i]) * (t.position[i] - v.centre[i]);
        reach = std::max(reach, std::sqrt(way) + t.size);
    }
    const float panned = move * std::hypot(s.camera.panX, s.camera.panY);
    v.near = std::max(distance - reach - panned, distance * 0.02f);
    v.far = distance + reach + panned;
    const Matrix4 look = lookAt(v.eye, at);
    v.clip = perspective(kHalfAngle, aspect, v.near, v.far) * look;
    // The rows of what leads from the world to the eye are the eye's axes in the world.
    for (int c = 0; c < 3; ++c) v.camera.toWorld[size_t(c)] = {look[0][c], look[1][c], look[2][c]};
    v.camera.toWorld[3] = v.eye;
    v.camera.scale = {1 / (kHalfAngle * aspect), 1 / kHalfAngle};
    if (s.jitter != std::array<float, 2>{})
        v.clip = glm::translate(Matrix4(1), glm::vec3(2 * s.jitter[0] / float(s.width), 2 * s.jitter[1] / float(s.height), 0)) * v.clip;
    v.fromClip = inverseOf(v.clip);

    if (s.lightFile) v.light = *s.lightFile;
    else if (const LightDef* def = findLight(s.light)) v.light = {def->id, def->sun, prefiltered(*def), {}, {}};
    v.turn[0] = std::cos(s.rotation * degree);
    v.turn[1] = std::sin(s.rotation * degree);
    const Rgb& sun = v.light.sun.direction;
    v.sun.direction = {v.turn[0] * sun[0] - v.turn[1] * sun[2], sun[1], v.turn[1] * sun[0] + v.turn[0] * sun[2]};
    for (size_t i = 0; i < 3; ++i) v.sun.radiance[i] = v.light.sun.radiance[i] * s.sun;
    const float shadowReach = std::max(v.radius * 2.2f, reach);
    const Rgb& d = v.sun.direction;
    const float far = 2 * shadowReach;
    v.toShadow = orthographic(shadowReach, 0.1f * v.radius, 2 * far) *
                 lookAt({v.centre[0] + d[0] * far, v.centre[1] + d[1] * far, v.centre[2] + d[2] * far}, v.centre);
    // Only the part of the picture where something can stand is cleared, lit and layered.
    float low[2] = {1, 1}, high[2] = {-1, -1};
    auto reachTo = [&](const Rgb& p) {
        const glm::vec4 c = v.clip * glm::vec4(vectorOf(p), 1);
        for (int i = 0; i < 2; ++i) {
            const float along = c.w > 1e-4f ? c[i] / c.w : 0;
            low[i] = c.w > 1e-4f ? std::min(low[i], along) : -1;
            high[i] = c.w > 1e-4f ? std::max(high[i], along) : 1;
        }
    };
    auto reachBox = [&](const Rgb& a, const Rgb& b) {
        for (int k = 0; k < 8; ++k) reachTo({k & 1 ? a[0] : b[0], k & 2 ? a[1] : b[1], k & 4 ? a[2] : b[2]});
    };
    reachBox(specimen.drawnBounds.low, specimen.drawnBounds.high);
    for (const Thing& t : specimen.things)
        reachBox({t.position[0] - t.size, t.position[1] - t.size, t.position[2] - t.size},
                 {t.position[0] + t.size, t.position[1] + t.size, t.position[2] + t.size});
    auto pixels = [](float from, float to, int size, int& first, int& count) {
        first = std::clamp(int(std::floor((from * 0.5f + 0.5f) * float(size))) - 2, 0, size);
        const int end = std::clamp(int(std::ceil((to * 0.5f + 0.5f) * float(size))) + 2, 0, size);
        // Even borders keep the 2 x 2 pixels together that maps are read by.
        first &= ~1;
        count = std::max(0, end - first);
    };
    pixels(low[0], high[0], width, v.left, v.across);
    pixels(low[1], high[1], height, v.bottom, v.tall);
    v.surround = invertTone(s.tone, srgbToLinear(s.surround[0])) / std::exp2(s.exposure);
    return v;
}

Frame seenFrame(const DressedSlot& slot, const View& view) { return slot.look->evaluator->seenBy(slot.frame, view.camera); }

} // namespace hue
