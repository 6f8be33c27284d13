#pragma once
// What can be dragged and dropped.
#include "app/session/session.h"

namespace hue {

inline constexpr char kParameterMime[] = "application/x-huestack-parameter";
inline constexpr char kWornMime[] = "application/x-huestack-worn"; ///< id of a master or instance

/// For file dialogs: everything that can be read as a map, and pictures in general.
QString imageFilter();
QString meshFilter();

/// Reads a glTF file in the background and brings it into the project; `done` gets its id. Says why not where it cannot.
void importMesh(Session& session, const QString& file, const std::function<void(const Id&)>& done);
/// Entries for image files, kind and role guessed by their names, not yet in the project. The files are read in the background; `done`
/// gets what could be used, in their order, and nothing when that is none of them. What cannot be used is said.
void mapsFromFiles(Session& session, const QStringList& files, const std::function<void(const std::vector<MapFile>&)>& done);
/// Brings an image file in as a map, or a mesh; says why not where it cannot.
void importFile(Session& session, const QString& file);

} // namespace hue
