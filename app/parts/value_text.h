#pragma once
// Values as people write them.
#include "core/base/value.h"

#include <QString>

namespace hue {

/// "0.35", "0.2 0.4", "#DCA54A" by what the port means.
QString valueText(const Value& value, bool color);
QString numberText(float x);
/// Reads what valueText writes, and any numbers in a row.
bool valueFromText(const QString& text, int width, Value& value);

} // namespace hue
