#include "core/base/json_text_private.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

/// Most names need nothing but quotes.
void writeText(const std::string& text, std::string& out) {
    const auto asItIs = [](char c) { return c >= ' ' && c < 0x7F && c != '"' && c != '\\'; };
    if (std::all_of(text.begin(), text.end(), asItIs)) out.append(1, '"').append(text).append(1, '"');
    else out += Json(text).dump();
}

bool isPlain(const Json& j) { return !j.is_object() && !j.is_array(); }

void write(const Json& j, std::string& out, int indent) {
    if (isPlain(j)) {
        // Shortest text that reads back to the same number: of single precision where it is one, as all of the program's are; unknown
        // fields may hold others.
        if (j.is_number_float()) {
            const double x = j.get<double>();
            // Without a point it would come back as the whole number 0.
            if (x == 0 && std::signbit(x)) out += "-0.0";
            else out += double(float(x)) == x ? fmt::format("{}", float(x)) : fmt::format("{}", x);
        } else if (j.is_string()) {
            writeText(j.get_ref<const std::string&>(), out);
        } else {
            out += j.dump();
        }
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
        if (!list) {
            writeText(key, out);
            out += ": ";
        }
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

} // namespace hue
