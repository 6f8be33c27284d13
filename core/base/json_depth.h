#pragma once
// How deep JSON nests, told from its text: what takes it apart may call itself for every level.
// Threads: any. Nothing is kept between calls.
#include <string_view>

namespace hue {

constexpr int kDeepestJson = 128; ///< of any file that is read

/// Brackets within brackets, outside of texts.
int depthOfJson(std::string_view json);

} // namespace hue
