#pragma once
// Threads: any. Made once and never changed.
#include <string_view>

namespace hue {

/// What a map holds. Decides its decoding (only Color is sRGB-encoded, and never its alpha) and its neutral stand-in.
enum class MapKind { Color, Data, Normal, Height };
/// How a map goes on beyond its edges.
enum class Wrap { Repeat, Mirror, Clamp };

/// "color", "data", "normal", "height".
std::string_view nameOf(MapKind);
/// "repeat", "mirror", "clamp".
std::string_view nameOf(Wrap);

} // namespace hue
