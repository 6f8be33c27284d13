#pragma once
// Lists of measured values for the context menus of value fields.
#include "core/base/value.h"

#include <QString>
#include <vector>

namespace hue {

using KnownValues = std::vector<std::pair<QString, Value>>;
/// Metals, and the ends of what is measured for dielectrics.
KnownValues knownColors();
KnownValues knownRefraction();

} // namespace hue
