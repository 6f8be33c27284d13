#pragma once
// Making an instance, with the question who wears it where that is not clear.
#include "core/base/result.h"

#include <QPoint>
#include <functional>

class QWidget;

namespace hue {

class Session;

/// A child of `parent`, or of what is tuned. The specimen that is tuned wears it, or the only one that wears the parent; where several do,
/// a menu at `at` asks. `made` gets the id.
void newInstance(Session& session, QWidget* by, const QPoint& at, const Id& parent = {}, const std::function<void(const Id&)>& made = {});

} // namespace hue
