#pragma once
// Project files: reading, writing, the journal. The format is described in docs/file-format.md.
// Threads: any; one at a time writes a project.
#include "core/base/diagnostic.h"
#include "core/document/project.h"
#include "core/project/presence.h"

#include <filesystem>

namespace hue {

/// 2: an offset of Place 2D is taken off, as everywhere; what was called its scale is its tiling.
constexpr int kFormat = 2;

struct Loaded {
    Project project;
    std::string hash;               ///< of the file's content, see contentHash(); empty for a text that was no file
    std::vector<Diagnostic> report; ///< what was odd and how it was dealt with
};

/// Errors: project.missing, project.unreadable, project.truncated, project.not-json, project.not-a-project,
/// project.newer-format.
Result<Loaded> loadProject(const std::filesystem::path& file);
/// Reads the text of a project file; `name` stands in messages.
Result<Loaded> parseProject(const std::string& text, const std::string& name);
/// The text of a project file; the same project gives the same text.
std::string projectText(const Project& project);
/// The JSON schema of project files, and tables of their fields for the docs; both made of the descriptions that read and write them.
std::string projectSchema();
std::string projectFieldsTable();
/// Atomic. Refuses to write over a file that is not a project, or of a newer format, and what could not be opened again. The file is locked
/// meanwhile (presence.h). Errors: file.cannot-write, file.not-ours, project.cannot-be-kept, project.busy.
Outcome saveProject(const Project& project, const std::filesystem::path& file);
/// The same for who has read the file before and holds its lock since, or gives the hash of what was read: with `known` set, somebody
/// else's save is not overwritten. Error as well: project.changed-elsewhere.
struct SaveOver {
    std::string known;                  ///< hash of what the file held when it was read; empty: whatever it holds
    const RewriteLock* held = nullptr;  ///< null: taken meanwhile
    std::filesystem::path journal = {}; ///< whose kept paint becomes the project's, without being written anew; empty: none
    std::string* written = nullptr;     ///< receives the hash of what was written; looked up afterwards it might be somebody else's
};
Outcome saveProject(const Project& project, const std::filesystem::path& file, const SaveOver& over);

/// The journal beside a project holds the unsaved state. For a project without a file give the path that journalFor
/// an empty path returns.
/// `seat`: of the window, see presence.h.
std::filesystem::path journalFor(const std::filesystem::path& file, int seat = 0);
Outcome writeJournal(const Project& project, const std::filesystem::path& file, int seat = 0);
/// The unsaved state, when there is one that is newer than the file.
std::optional<Project> readJournal(const std::filesystem::path& file, int seat = 0);
void dropJournal(const std::filesystem::path& file, int seat = 0);

/// Maps whose paths are absolute, or relative to `from`, made relative to `to` where they lie below or beside it.
Project withPathsFor(Project project, const std::filesystem::path& from, const std::filesystem::path& to);

} // namespace hue
