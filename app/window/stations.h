#pragma once
// The places of work, in the order of the work. A station is registered here and nowhere else.
#include "app/stations/station.h"

namespace hue {

const std::vector<StationDef>& stations();
/// The station that a new window shows.
constexpr const char* kFirstStation = "graph";

} // namespace hue
