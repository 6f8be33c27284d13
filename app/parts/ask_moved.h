#pragma once
// Before values change that somebody has set: which, and whether to go on.
#include <QWidget>
#include <string>
#include <vector>

namespace hue {

/// Shows the list, the first of it where it is long. True where nothing moves, or when `go` was chosen. The box is called "parameterMoved".
bool agreedToMove(QWidget* parent, const QString& title, const QString& heading, const std::vector<std::string>& moved, const QString& go);

} // namespace hue
