#pragma once
// What the station Maps does with files and sets, each as one step of undo.
#include "app/session/session.h"

#include <functional>

namespace hue {

class MapService;

/// Image files and folders of them come into the project in the background, with the sets they seem to be. `chosen` receives the first
/// map. What is no image is named.
void bringInMaps(Session& session, MapService& service, const QStringList& wanted, std::function<void(const Id&)> chosen);
/// Makes the sets that maps without one seem to be.
void makeMapSets(Session& session, MapService& service);
/// What is being worked on wears the set of a map; a master without parameters for it gets them.
void wearMapSet(Session& session, const Id& map);
/// Wherever the set of a map is read, another one that is asked for is read instead.
void swapMapSets(Session& session, const Id& map, QWidget* parent);

} // namespace hue
