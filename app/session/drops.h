#pragma once
// What can be dragged and dropped.
#include "app/session/session.h"

namespace hue {

inline constexpr char kCardsMime[] = "application/x-huestack-cards";
inline constexpr char kParameterMime[] = "application/x-huestack-parameter";
inline constexpr char kWornMime[] = "application/x-huestack-worn"; ///< id of a master or instance

/// For file dialogs: everything that can be read as a map, and pictures in general.
QString imageFilter();
QString meshFilter();

/// Reads a glTF file in the background and brings it into the project; `done` gets its id. Says why not where it cannot.
void importMesh(Session& session, const QString& file, const std::function<void(const Id&)>& done);
/// An entry for an image file, its kind and role guessed by its name, not yet in the project. Errors: those of imageFacts.
Result<MapFile> mapFromFile(const Session& session, const QString& file);
/// Brings an image file (its id as a map) or a mesh (nothing, see importMesh) into the project; says why not where it cannot.
std::optional<Id> importFile(Session& session, const QString& file);

} // namespace hue
