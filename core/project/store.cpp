#include "core/project/store.h"

#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/base/json_text_private.h"
#include "core/project/paint_store_private.h"

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
    if (!whyUnreadable(file).empty()) return {};
    std::ifstream in(file, std::ios::binary);
    if (!in) return {};
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

std::string hashOf(const std::string& text) {
    Hash hash;
    hash.add(text.data(), text.size());
    return hash.text();
}

/// The text of a project, read again before it replaces anything: what cannot be opened again is not written.
Result<std::string> checkedText(const Project& project) {
    std::string text;
    try {
        text = projectText(project);
    } catch (const Json::exception&) {
        return Error{"project.cannot-be-kept",
                     "The project holds a text that is no UTF-8, so it cannot be written. Look for a name with odd "
                     "letters, and change it; what was there before is untouched.",
                     {}};
    }
    if (const Result<Loaded> again = parseProject(text, "What was to be written"); !again)
        return Error{"project.cannot-be-kept",
                     fmt::format("The project cannot be written so that it could be opened again. {} Undo the last change; what was there "
                                 "before is untouched.",
                                 again.error().sentence),
                     {}};
    return text;
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
    Result<Loaded> loaded = parseProject(*text, file.filename().string());
    if (!loaded) return loaded;
    loaded->hash = hashOf(*text);
    readPaintworks(loaded->project, file.parent_path(), loaded->report);
    return loaded;
}

Outcome saveProject(const Project& project, const fs::path& file) { return saveProject(project, file, {}); }

Outcome saveProject(const Project& project, const fs::path& file, const SaveOver& over) {
    std::error_code none;
    std::optional<RewriteLock> own;
    if (!over.held) {
        constexpr double kPatience = 3; // seconds; a rewrite takes far less
        Result<RewriteLock> lock = RewriteLock::take(file, kPatience);
        if (!lock) return lock.error();
        own.emplace(std::move(*lock));
    }
    if (fs::exists(file, none) && !fs::is_regular_file(file, none))
        return Error{
            "file.not-ours", fmt::format("{} {}, and was left as it is. Save under another name.", file.string(), whyUnreadable(file)), {}};
    if (fs::exists(file, none)) {
        // A damaged project may be replaced by its mended state; a stranger's file or a newer one may not.
        const auto text = contentOf(file);
        if (!over.known.empty() && text && hashOf(*text) != over.known)
            return Error{
                "project.changed-elsewhere",
                fmt::format("{} was saved by somebody else since it was read. Nothing was overwritten; look at what differs, and take "
                            "theirs, yours or both.",
                            file.string()),
                {}};
        // What was read or written before is known to be a project.
        const bool known = !over.known.empty() && text;
        const Result<Loaded> there = known ? Loaded{} : parseProject(text.value_or(""), file.filename().string());
        if (!there && (there.error().code == "project.newer-format" || there.error().code == "project.not-a-project" ||
                       there.error().code == "project.not-json"))
            return Error{"file.not-ours",
                         fmt::format("{} was not overwritten: {} Save under another name.", file.string(), there.error().sentence),
                         {}};
    }
    const Result<std::string> text = checkedText(project);
    if (!text) return text.error();
    // The paint first: a project never speaks of paint that is not there.
    if (const Outcome painted = savePaintworks(project, file.parent_path(), over.journal); !painted) return painted;
    if (const Outcome written = writeFile(file, *text); !written)
        return Error{"file.cannot-write", written.error().sentence + " What was there before is untouched.", {}};
    if (over.written) *over.written = hashOf(*text);
    return Done{};
}

fs::path journalFor(const fs::path& file, int seat) {
    const std::string suffix = seat > 0 ? fmt::format(".journal-{}", seat + 1) : ".journal";
    if (!file.empty()) return fs::path(file.string() + suffix);
    const char* state = std::getenv("XDG_STATE_HOME");
    const char* home = std::getenv("HOME");
    const fs::path base = state && *state ? fs::path(state) : fs::path(home && *home ? home : "/tmp") / ".local/state";
    return base / "huestack" / ("untitled" + suffix);
}

Outcome writeJournal(const Project& project, const fs::path& file, int seat) {
    const fs::path journal = journalFor(file, seat);
    const Result<std::string> checked = checkedText(project);
    if (!checked) return Error{"journal.cannot-write", "Unsaved changes cannot be kept: " + checked.error().sentence, {}};
    if (const Outcome painted = keepPaintBeside(journal, project, file.empty() ? fs::path{} : file.parent_path()); !painted)
        return Error{"journal.cannot-write", "Unsaved paint cannot be kept: " + painted.error().sentence, {}};
    if (const Outcome written = writeFile(journal, *checked, Folders::Make); !written)
        return Error{"journal.cannot-write", "Unsaved changes cannot be kept: " + written.error().sentence, {}};
    dropPaintBeside(journal, &project);
    return Done{};
}

std::optional<Project> readJournal(const fs::path& file, int seat) {
    const fs::path journal = journalFor(file, seat);
    const auto text = contentOf(journal);
    if (!text) return {};
    Result<Loaded> loaded = parseProject(*text, "the journal");
    if (!loaded) return {};
    // A journal that says what the file says is left from a clean end.
    if (!file.empty())
        if (Result<Loaded> saved = loadProject(file); saved && projectText(saved->project) == projectText(loaded->project)) return {};
    readPaintBeside(journal, loaded->project);
    readPaintworks(loaded->project, file.empty() ? journal.parent_path() : file.parent_path(), loaded->report);
    return std::move(loaded->project);
}

void dropJournal(const fs::path& file, int seat) {
    std::error_code none;
    const fs::path journal = journalFor(file, seat);
    fs::remove(journal, none);
    dropPaintBeside(journal);
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
