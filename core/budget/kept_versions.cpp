#include "core/budget/kept_versions.h"

#include "core/base/files.h"
#include "core/project/store.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {

namespace fs = std::filesystem;

namespace {

constexpr const char* kSuffix = ".huestack";

fs::path fileOf(const fs::path& project, const std::string& name) { return versionsFolder(project) / (name + kSuffix); }

} // namespace

fs::path versionsFolder(const fs::path& project) { return fs::path(project).replace_extension(".versions"); }

std::vector<std::string> keptVersions(const fs::path& project) {
    std::vector<std::pair<fs::file_time_type, std::string>> found;
    std::error_code none;
    for (fs::directory_iterator it(versionsFolder(project), none), end; !none && it != end; it.increment(none))
        if (it->path().extension() == kSuffix && it->is_regular_file(none))
            found.emplace_back(it->last_write_time(none), it->path().stem());
    std::sort(found.begin(), found.end());
    std::vector<std::string> out;
    for (auto& [when, name] : found) out.push_back(std::move(name));
    return out;
}

Outcome keepVersion(const Project& state, const fs::path& project, const std::string& name) {
    if (name.find_first_not_of(' ') == name.npos) return Error{"name.empty", "A version needs a name.", {}};
    if (name.find('/') != name.npos || name[0] == '.')
        return Error{"name.slash", "The name of a version cannot hold a slash, or begin with a dot: it is that of a file.", {}};
    return writeFile(fileOf(project, name), projectText(state), Folders::Make);
}

Result<Project> keptVersion(const fs::path& project, const std::string& name) {
    Result<Loaded> loaded = loadProject(fileOf(project, name));
    return loaded ? Result<Project>(std::move(loaded->project)) : Result<Project>(loaded.error());
}

Outcome forgetVersion(const fs::path& project, const std::string& name) {
    std::error_code wrong;
    const fs::path file = fileOf(project, name);
    fs::remove(file, wrong);
    if (wrong) return Error{"file.cannot-write", fmt::format("{} cannot be removed: {}.", file.string(), wrong.message()), {}};
    fs::remove(versionsFolder(project), wrong); // where it was the last one
    return Done{};
}

} // namespace hue
