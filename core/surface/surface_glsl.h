#pragma once
#include <string>

namespace hue {

/// The lighting stage: reads the channel targets of surfaceFragmentStage and writes the picture. Its function
/// `hs_reflect` is the twin of reflect() in reflectance.h.
std::string lightingFragmentStage();
/// Shared part, for tests of the reflectance model alone.
std::string reflectanceGlsl();

} // namespace hue
