#pragma once

namespace hue::test {

/// How much longer than said a wait may take: what it ends is a hang, not a busy machine. Programs that are watched at every step take
/// their time.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr int kPatience = 12;
#else
constexpr int kPatience = 4;
#endif

} // namespace hue::test
