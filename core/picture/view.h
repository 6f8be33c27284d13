#pragma once
// Where the camera stands and what light falls, from a specimen and the settings of its picture.
// Threads: any. Nothing is kept between calls.
#include "core/base/matrix.h"
#include "core/picture/looks.h"
#include "core/picture/picture_settings.h"

namespace hue {

constexpr int kShadowSize = 1024;     // pixels a side of the sun's depth picture
constexpr float kHalfAngle = 0.2493f; // tangent of 14 degrees: little perspective, as product pictures have
constexpr int kMostLayers = 12;       // of see-through surfaces behind each other
constexpr float kSunSoft = 1.7f;      // radius of the shadow's edge, in pixels of the depth picture

/// Everything of a picture that follows from the settings and the mesh.
struct View {
    int width = 0, height = 0;
    Rgb eye{}, centre{};
    float radius = 1, floor = 0, near = 0.1f, far = 10;
    Matrix4 clip, fromClip, toShadow;
    Camera camera;
    Sun sun;
    ReadyLight light;
    float turn[2] = {1, 0};                         ///< cosine and sine of the light's turn
    float surround = 0;                             ///< radiance that the screen shows as the surround
    int left = 0, bottom = 0, across = 0, tall = 0; ///< pixels that the mesh and the things can cover
};
/// The settings must name a light that there is.
View viewOf(const DressedSpecimen& specimen, const RenderSettings& settings, int width, int height);

/// A slot's frame as this view sees it; without the light around.
Frame seenFrame(const DressedSlot& slot, const View& view);

} // namespace hue
