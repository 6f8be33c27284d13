#pragma once
// The lights that specimens stand in, made by code, and their prefiltered form.
// Threads: any. What is kept between calls is kept under a lock.
#include "core/evaluate/kernels.h"
#include "core/surface/reflectance.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace hue {

struct Sun {
    Rgb direction{0, 1, 0}; ///< towards the sun, unit length
    Rgb radiance{0, 0, 0};  ///< irradiance on a surface that faces it
};

struct LightDef {
    std::string id;   ///< "sodium-shed"
    std::string name; ///< "Sodium-lamp shed"
    Sun sun;
    Rgb (*radiance)(const Rgb& direction); ///< from a unit direction; Y is up
};
const std::vector<LightDef>& lights();
/// nullptr for an unknown id.
const LightDef* findLight(const std::string& id);

/// A cube map of radiance for reflections by roughness, and spherical harmonics for diffuse light.
struct PrefilteredLight {
    static constexpr int kSize = 128; ///< pixels a side of level 0
    static constexpr int kLevels = 6; ///< level l holds roughness l / (kLevels - 1)
    /// By level: six faces in OpenGL's order (+X -X +Y -Y +Z -Z), RGB, rows as OpenGL expects them.
    std::vector<std::vector<float>> faces;
    /// Irradiance over pi, order 2 (Ramamoorthi and Hanrahan 2001): coefficients with the cosine lobe folded in.
    std::array<Rgb, 9> harmonics;

    /// Radiance in a direction at a roughness, between texels and levels.
    Rgb at(const Rgb& direction, float roughness) const;
};
using LightPtr = std::shared_ptr<const PrefilteredLight>;

/// Computed once and kept. Some tens of milliseconds the first time; any thread.
LightPtr prefiltered(const LightDef& light);
/// From any function of a unit direction; always computed.
PrefilteredLight prefilter(const std::function<Rgb(const Rgb&)>& radiance);

/// Irradiance over pi from the harmonics.
Rgb diffuseLight(const PrefilteredLight& light, const Rgb& normal);

/// A light turned about Y, as the evaluator wants it for the operation Around.
class TurnedLight final : public SurroundingLight {
  public:
    TurnedLight(LightPtr light, float degrees);
    void around(const float direction[3], float roughness, float rgb[3]) const override;

  private:
    LightPtr m_light;
    float m_cosine, m_sine;
};

} // namespace hue
