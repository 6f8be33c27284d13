#pragma once

namespace hue::test {

/// Programs that are watched at every step take their time.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr int kPatience = 12;
#else
constexpr int kPatience = 1;
#endif

} // namespace hue::test
