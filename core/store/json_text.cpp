#include "core/store/json_text.h"

#include <cerrno>
#include <cmath>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <fmt/format.h>
#include <unistd.h>

namespace hue {
namespace {

bool isPlain(const Json& j) { return !j.is_object() && !j.is_array(); }

void write(const Json& j, std::string& out, int indent) {
    if (isPlain(j)) {
        // Shortest text that reads back to the same single-precision number.
        if (j.is_number_float()) out += fmt::format("{}", float(j.get<double>()));
        else out += j.dump();
        return;
    }
    const bool list = j.is_array();
    if (j.empty()) {
        out += list ? "[]" : "{}";
        return;
    }
    const bool oneLine = list && std::all_of(j.begin(), j.end(), isPlain);
    const std::string pad(size_t(indent + 1) * 2, ' ');
    out += list ? '[' : '{';
    bool first = true;
    for (const auto& [key, value] : j.items()) {
        if (!first) out += oneLine ? ", " : ",";
        first = false;
        if (!oneLine) out += "\n" + pad;
        if (!list) out += Json(key).dump() + ": ";
        write(value, out, indent + 1);
    }
    if (!oneLine) out += "\n" + std::string(size_t(indent) * 2, ' ');
    out += list ? ']' : '}';
}

} // namespace

void addRest(Json& json, const std::string& extra) {
    if (extra.empty()) return;
    const Json rest = Json::parse(extra);
    for (const auto& [key, value] : rest.items()) json[key] = value;
}

std::string textOf(const Json& json) {
    std::string out;
    write(json, out, 0);
    return out + "\n";
}

std::string writeAtomically(const std::string& file, std::string_view content) {
    const std::string temporary = file + ".part";
    const int fd = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (fd < 0) return std::strerror(errno);
    std::string problem;
    for (size_t done = 0; done < content.size() && problem.empty();) {
        const ssize_t n = ::write(fd, content.data() + done, content.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) problem = std::strerror(errno);
        else done += size_t(n);
    }
    if (problem.empty() && ::fsync(fd) != 0) problem = std::strerror(errno);
    if (::close(fd) != 0 && problem.empty()) problem = std::strerror(errno);
    if (problem.empty() && ::rename(temporary.c_str(), file.c_str()) != 0) problem = std::strerror(errno);
    if (!problem.empty()) ::unlink(temporary.c_str());
    return problem;
}

} // namespace hue
