#include "core/emit/driver_log.h"

#include "core/emit/source_lines.h"

#include <charconv>

namespace hue {
namespace {

/// Reads a whole number at the beginning of a text, and moves on behind it.
bool number(std::string_view& text, int& out) {
    const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), out);
    if (bad != std::errc{}) return false;
    text.remove_prefix(size_t(end - text.data()));
    return true;
}

bool accept(std::string_view& text, std::string_view what) {
    if (!text.starts_with(what)) return false;
    text.remove_prefix(what.size());
    return true;
}

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && (text.front() == ' ' || text.front() == ':' || text.front() == '\t')) text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\r' || text.back() == '\0')) text.remove_suffix(1);
    return text;
}

/// One line of the log: where it is about, and what it says of that.
bool place(std::string_view text, DriverComplaint& out) {
    accept(text, "ERROR: ");
    int string = 0, column = 0;
    if (!number(text, string)) return false;
    if (accept(text, "(")) {
        if (!number(text, out.line) || !accept(text, ")")) return false;
    } else {
        if (!accept(text, ":") || !number(text, out.line)) return false;
        if (accept(text, "(") && (!number(text, column) || !accept(text, ")"))) return false;
    }
    text = trimmed(text);
    accept(text, "error: ");
    out.says = text;
    return true;
}

} // namespace

DriverComplaint complaintOf(const Program& program, std::string_view stage, std::string_view log) {
    DriverComplaint out;
    bool found = false;
    for (std::string_view rest = log; !rest.empty() && !found;) {
        const size_t end = std::min(rest.find('\n'), rest.size());
        const std::string_view line = rest.substr(0, end);
        rest.remove_prefix(std::min(end + 1, rest.size()));
        // Warnings are nothing that it was refused for.
        found = line.find("warning") == std::string_view::npos && place(line, out);
    }
    if (!found) {
        out.says = trimmed(log.substr(0, log.find('\n')));
        return out;
    }
    const auto lines = sourceLines(program, stage);
    if (out.line >= 1 && size_t(out.line) <= lines.size()) out.card = lines[size_t(out.line) - 1].card;
    return out;
}

} // namespace hue
