#pragma once
// Budgets over time: what everything cost when it was recorded, in a file beside the project.
// Threads: any. Nothing is kept between calls.
#include "core/budget/verdict.h"

#include <filesystem>

namespace hue {

struct Recorded {
    std::string date;                                          ///< "2026-11-30T08:15:00Z"
    std::string note;                                          ///< what was said about it, such as a revision
    std::map<std::string, std::map<std::string, double>> worn; ///< figures by key of the limit, by name of what is worn
    double projectMegabytes = 0;
};

/// Of NAME.huestack: NAME.budget.jsonl beside it, a line of JSON for each record.
std::filesystem::path historyFile(const std::filesystem::path& project);
Recorded recordOf(const Project& project, const ProjectVerdict& verdict, std::string date, std::string note);
/// Behind what is there; the file is written whole or not at all. Errors: file.cannot-write, history.unreadable.
Outcome appendRecord(const std::filesystem::path& file, const Recorded& record);
/// In the order of the file; none where there is no file. Error: history.unreadable, with the line.
Result<std::vector<Recorded>> readHistory(const std::filesystem::path& file);

} // namespace hue
