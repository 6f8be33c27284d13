#pragma once
// Words of a project that nothing here knows: kept as they are, and named with the nearest that is known.
// Threads: any. Nothing is kept between calls.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

#include <span>

namespace hue {

/// Channels, ports, settings, choices, shapes, lights, tone curves, backdrops and things. Codes: unknown.channel, unknown.port,
/// unknown.setting, unknown.choice, unknown.mesh, unknown.light, unknown.tone, unknown.backdrop, unknown.thing. What a card itself is
/// called and which parameters and maps it asks for is the compiler's to say.
std::vector<Diagnostic> unknownWords(const Project& project);

/// The one of the known words that takes the fewest changes of letters to come to; empty when all are too far.
std::string_view nearestWord(std::string_view word, std::span<const std::string_view> known);

} // namespace hue
