#pragma once
// The lit stages on the CPU: twins of those in lighting_glsl.cpp. Rows from the bottom; a pixel's place is that of its centre.
// Threads: many may read a light and its levels.
#include "core/picture/view.h"
#include "core/surface/channel_targets.h"

namespace hue {

/// Linear radiance of a picture and its halves down to one pixel, for what is seen through rough surfaces and for glare.
class RadianceLevels {
  public:
    RadianceLevels(std::vector<Rgb> pixels, int width, int height);
    /// Between pixels and levels; `u` and `v` of 0..1 over the picture, held at its edges.
    Rgb at(float u, float v, float level) const;
    int levels() const { return int(m_levels.size()); }

  private:
    struct Level {
        std::vector<Rgb> pixels;
        int width, height;
    };
    static Rgb bilinear(const Level& level, float u, float v);
    std::vector<Level> m_levels;
};

/// The light of one picture, as its stages see it.
class PictureLight {
  public:
    /// `shadow` is kShadowSize a side; see rasteriseDepth().
    PictureLight(const View& view, std::vector<float> shadow);

    /// Radiance and coverage, premultiplied. `reflecting` is the roughness for what is reflected, see widenedRoughness(). `behind` is what
    /// has been drawn so far; null while nothing can be seen through.
    glm::vec4 surface(const PixelSurface& surface, float reflecting, float x, float y, const RadianceLevels* behind, bool lightOnly) const;
    /// Where nothing is covered.
    Rgb backdrop(Backdrop backdrop, float x, float y) const;
    /// Share of the sun that arrives, 0..1, with a soft edge.
    float sunVisible(const Rgb& position, const Rgb& normal, float x, float y) const;

  private:
    Rgb far(const Rgb& direction, float roughness) const;
    Rgb diffuse(const Rgb& normal) const;
    Rgb through(const PixelSurface& s, const Rgb& view, const Rgb& normal, float ior, float x, float y, const RadianceLevels& behind) const;
    Rgb seenBehind(const RadianceLevels& behind, float u, float v, float roughness) const;
    Rgb ray(float x, float y) const;
    Rgb lit(const Rgb& albedo, const Rgb& position, const Rgb& normal, float x, float y) const;
    float contact(const Rgb& hit) const;
    Rgb ground(const Rgb& ray, float x, float y) const;
    Rgb depot(const Rgb& ray, float x, float y) const;

    const View& m_view;
    std::vector<float> m_shadow;
};

/// Exposure, glare, tone curve, encoding: 8-bit RGBA, rows from the top.
std::vector<uint8_t> toScreen(const std::vector<Rgb>& radiance, int width, int height, const RenderSettings& settings);

} // namespace hue
