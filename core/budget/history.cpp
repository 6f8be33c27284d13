#include "core/budget/history.h"

#include "core/base/files.h"

#include <fmt/format.h>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

namespace hue {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

fs::path historyFile(const fs::path& project) { return fs::path(project).replace_extension(".budget.jsonl"); }

Recorded recordOf(const Project& project, const ProjectVerdict& verdict, std::string date, std::string note) {
    Recorded out{std::move(date), std::move(note), {}, verdict.memory.figure};
    for (const Verdict& v : verdict.worn)
        for (const Against& a : v.limits) out.worn[project.nameOf(v.worn)][std::string(a.def->key)] = a.figure;
    return out;
}

Outcome appendRecord(const fs::path& file, const Recorded& record) {
    // A file that is none of ours is not written to.
    if (const auto before = readHistory(file); !before) return before.error();
    std::ostringstream text;
    if (std::ifstream in(file, std::ios::binary); in) text << in.rdbuf();
    std::string all = text.str();
    if (!all.empty() && all.back() != '\n') all += '\n';
    Json worn = Json::object();
    for (const auto& [name, figures] : record.worn) worn[name] = figures;
    const Json line{{"date", record.date}, {"note", record.note}, {"projectMegabytes", record.projectMegabytes}, {"worn", std::move(worn)}};
    return writeFile(file, all + line.dump() + "\n");
}

Result<std::vector<Recorded>> readHistory(const fs::path& file) {
    std::vector<Recorded> out;
    std::error_code none;
    if (!fs::exists(file, none)) return out;
    const auto refuse = [&](const std::string& why) {
        return Error{"history.unreadable", fmt::format("{} {}. Mend that line or move the file away.", file.string(), why), {}};
    };
    std::ifstream in(file, std::ios::binary);
    if (!in) return refuse("cannot be read");
    int number = 0;
    for (std::string line; std::getline(in, line);) {
        ++number;
        if (line.empty()) continue;
        const Json j = Json::parse(line, nullptr, false);
        try {
            Recorded r;
            r.date = j.at("date").get<std::string>();
            r.note = j.value("note", std::string());
            r.projectMegabytes = j.at("projectMegabytes").get<double>();
            for (const auto& [name, figures] : j.at("worn").items())
                for (const auto& [key, figure] : figures.items()) r.worn[name][key] = figure.get<double>();
            out.push_back(std::move(r));
        } catch (const Json::exception&) { return refuse(fmt::format("has no record of a budget in line {}", number)); }
    }
    return out;
}

} // namespace hue
