#include "core/project/store.h"

#include "core/base/files.h"
#include "core/base/json_text_private.h"

#include <algorithm>
#include <cstdlib>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <fstream>
#include <sstream>

namespace hue {
namespace {

namespace fs = std::filesystem;

std::optional<std::string> contentOf(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return {};
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

/// What is said to somebody who gives a folder where a project stands.
std::string folderInstead(const fs::path& folder) {
    std::error_code none;
    std::vector<std::string> names;
    for (const auto& entry : fs::directory_iterator(folder, none))
        if (entry.path().extension() == ".huestack") names.push_back((folder / entry.path().filename()).string());
    std::sort(names.begin(), names.end());
    if (names.empty()) return fmt::format("{} is a folder, and no project lies in it. Give the file of a project.", folder.string());
    return fmt::format("{} is a folder. Open the project in it: {}.", folder.string(), fmt::join(names, " or "));
}

} // namespace

Result<Loaded> loadProject(const fs::path& file) {
    std::error_code none;
    if (fs::is_directory(file, none)) return Error{"project.unreadable", folderInstead(file), {}};
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{fs::exists(file, none) ? "project.unreadable" : "project.missing",
                     fmt::format("{} {}. Look for the project file, whose name ends in .huestack.", file.string(), why),
                     {}};
    const auto text = contentOf(file);
    if (!text)
        return Error{
            "project.unreadable", fmt::format("{} cannot be read to its end. Copy it to a disk that is sound.", file.string()), {}};
    return parseProject(*text, file.filename().string());
}

Outcome saveProject(const Project& project, const fs::path& file) {
    std::error_code none;
    if (fs::exists(file, none)) {
        // A damaged project may be replaced by its mended state; a stranger's file or a newer one may not.
        const auto text = contentOf(file);
        const Result<Loaded> there = parseProject(text.value_or(""), file.filename().string());
        if (!there && (there.error().code == "project.newer-format" || there.error().code == "project.not-a-project" ||
                       there.error().code == "project.not-json"))
            return Error{"file.not-ours",
                         fmt::format("{} was not overwritten: {} Save under another name.", file.string(), there.error().sentence),
                         {}};
    }
    if (const Outcome written = writeFile(file, projectText(project)); !written)
        return Error{"file.cannot-write", written.error().sentence + " What was there before is untouched.", {}};
    return Done{};
}

fs::path journalFor(const fs::path& file) {
    if (!file.empty()) return fs::path(file.string() + ".journal");
    const char* state = std::getenv("XDG_STATE_HOME");
    const char* home = std::getenv("HOME");
    const fs::path base = state && *state ? fs::path(state) : fs::path(home && *home ? home : "/tmp") / ".local/state";
    return base / "huestack" / "untitled.journal";
}

Outcome writeJournal(const Project& project, const fs::path& file) {
    const fs::path journal = journalFor(file);
    if (const Outcome written = writeFile(journal, projectText(project), Folders::Make); !written)
        return Error{"journal.cannot-write", "Unsaved changes cannot be kept: " + written.error().sentence, {}};
    return Done{};
}

std::optional<Project> readJournal(const fs::path& file) {
    const auto text = contentOf(journalFor(file));
    if (!text) return {};
    Result<Loaded> loaded = parseProject(*text, "the journal");
    if (!loaded) return {};
    // A journal that says what the file says is left from a clean end.
    if (!file.empty())
        if (Result<Loaded> saved = loadProject(file); saved && projectText(saved->project) == projectText(loaded->project)) return {};
    return std::move(loaded->project);
}

void dropJournal(const fs::path& file) {
    std::error_code none;
    fs::remove(journalFor(file), none);
}

Project withPathsFor(Project project, const fs::path& from, const fs::path& to) {
    auto moved = [&](const std::string& path) {
        const fs::path absolute = (from / path).lexically_normal();
        const fs::path relative = absolute.lexically_relative(to.lexically_normal());
        return relative.empty() ? absolute.string() : relative.generic_string();
    };
    auto moveAll = [&](auto& list) {
        for (auto& entry : list) {
            if (entry->path.empty()) continue;
            auto copy = std::make_shared<std::remove_const_t<std::remove_reference_t<decltype(*entry)>>>(*entry);
            copy->path = moved(copy->path);
            entry = std::move(copy);
        }
    };
    moveAll(project.maps);
    moveAll(project.meshes);
    // A light made by code has an id, one from a file a path with a suffix.
    auto moveLight = [&](std::string& light) {
        if (fs::path(light).has_extension()) light = moved(light);
    };
    moveLight(project.lineup.light);
    for (Specimen& s : project.lineup.specimens) moveLight(s.light);
    if (!project.lineup.yardstick.picture.empty()) project.lineup.yardstick.picture = moved(project.lineup.yardstick.picture);
    return project;
}

} // namespace hue
