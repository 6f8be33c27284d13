#pragma once
// Words of a project that nothing here knows: kept as they are, and named with the nearest that is known.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

namespace hue {

/// Channels, layers, ports, settings, choices, shapes, views, lights, tone curves, backdrops and things. Codes: unknown.channel,
/// unknown.layer, unknown.port, unknown.setting, unknown.choice, unknown.mesh, unknown.view, unknown.light, unknown.tone, unknown.backdrop,
/// unknown.thing. What a card itself is called and which parameters and maps it asks for is the compiler's to say; unknown fields are told
/// when the file is read.
std::vector<Diagnostic> unknownWords(const Project& project);

} // namespace hue
