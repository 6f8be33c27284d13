#pragma once
// States of a project that are kept under a name, to be set beside later ones: project files in a folder beside it.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

#include <filesystem>

namespace hue {

/// Of NAME.huestack: NAME.versions beside it.
std::filesystem::path versionsFolder(const std::filesystem::path& project);
/// Names, those kept first before others.
std::vector<std::string> keptVersions(const std::filesystem::path& project);
/// One of the same name is replaced; the file is written whole or not at all. Errors: name.empty, name.slash, file.cannot-write.
Outcome keepVersion(const Project& state, const std::filesystem::path& project, const std::string& name);
/// Without its paint, which lies in files that have gone on since. Errors: those of loadProject().
Result<Project> keptVersion(const std::filesystem::path& project, const std::string& name);
/// Error: file.cannot-write.
Outcome forgetVersion(const std::filesystem::path& project, const std::string& name);

} // namespace hue
