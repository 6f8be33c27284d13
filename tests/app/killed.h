#pragma once
// The window as a process of its own, which is killed; see killed_test.cpp.
#include <QString>

namespace hue::test {

inline constexpr char kUntilKilled[] = "--edit-until-killed"; ///< FILE saving|editing
int editUntilKilled(const QString& file, bool saves);

} // namespace hue::test
