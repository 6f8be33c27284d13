#pragma once
// The lights that specimens stand in, made by code, and their prefiltered form.
#include "core/surface/reflectance.h"

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
};
/// Computed once and kept. Some tens of milliseconds the first time; any thread.
std::shared_ptr<const PrefilteredLight> prefiltered(const LightDef& light);

/// Irradiance over pi from the harmonics.
Rgb diffuseLight(const PrefilteredLight& light, const Rgb& normal);

} // namespace hue
