#pragma once
// The paint of a project's paintworks, in their files and beside a journal.
// Threads: any; one at a time writes a project.
#include "core/base/diagnostic.h"
#include "core/document/project.h"

#include <filesystem>

namespace hue {

/// Reads what is not in memory yet from the files in the project's folder. What cannot be read is told, stays unpainted, and its file is
/// left alone.
void readPaintworks(Project& project, const std::filesystem::path& folder, std::vector<Diagnostic>& report);
/// Writes what the files do not hold yet, or takes it from what is kept beside that journal (empty: none). Errors: paint.outside,
/// file.not-ours (another program has written there), file.cannot-write.
Outcome savePaintworks(const Project& project, const std::filesystem::path& folder, const std::filesystem::path& journal);
/// Paint that both have is in memory in both.
void sharePaint(Project& to, const Project& from);

/// Keeps paint that the project's files do not hold in files beside a journal.
Outcome keepPaintBeside(const std::filesystem::path& journal, const Project& project, const std::filesystem::path& folder);
void readPaintBeside(const std::filesystem::path& journal, Project& project);
/// Removes such files; all, or those that `but` does not speak of.
void dropPaintBeside(const std::filesystem::path& journal, const Project* but = nullptr);

} // namespace hue
