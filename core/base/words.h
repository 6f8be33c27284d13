#pragma once
// Words that people type, and those that are known.
// Threads: any. Nothing is kept between calls.
#include <span>
#include <string>
#include <string_view>

namespace hue {

/// Slips of the hand from one word to another: letters put in, left out or changed, and neighbours that changed places.
size_t slipsBetween(std::string_view a, std::string_view b);
/// The one of the known words that takes the fewest slips to come to; empty when all are too far.
std::string_view nearestWord(std::string_view word, std::span<const std::string_view> known);
/// " The nearest is metallic.", or nothing.
std::string nearestSentence(std::string_view word, std::span<const std::string_view> known);
/// "opaque, mask or blend".
std::string anyOf(std::span<const std::string_view> words);

} // namespace hue
