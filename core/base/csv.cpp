#include "core/base/csv.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

char separatorOf(std::string_view text) {
    constexpr std::string_view all = ",;\t";
    size_t counts[all.size()] = {};
    bool quoted = false;
    for (const char c : text) {
        if (c == '"') quoted = !quoted;
        else if (quoted) continue;
        else if (c == '\n' || c == '\r') break;
        else if (const size_t at = all.find(c); at != all.npos) ++counts[at];
    }
    return all[size_t(std::max_element(std::begin(counts), std::end(counts)) - std::begin(counts))];
}

} // namespace

std::string csvText(const Csv& rows, char separator) {
    std::string out;
    for (const auto& row : rows) {
        for (size_t c = 0; c < row.size(); ++c) {
            if (c) out += separator;
            const std::string& cell = row[c];
            // A row of one empty cell would be an empty line.
            const bool quotes = cell.find_first_of("\"\r\n") != cell.npos || cell.find(separator) != cell.npos ||
                                (row.size() == 1 && cell.empty()) || (!cell.empty() && (cell.front() == ' ' || cell.back() == ' '));
            if (quotes) out += '"';
            for (const char letter : cell) {
                if (letter == '"') out += '"';
                out += letter;
            }
            if (quotes) out += '"';
        }
        out += '\n';
    }
    return out;
}

Result<Csv> csvFrom(std::string_view text, std::vector<size_t>* lines, char separator) {
    if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
    if (!separator) separator = separatorOf(text);
    Csv rows;
    std::vector<std::string> row;
    std::string cell;
    size_t line = 1, begun = 1;
    const auto endCell = [&] {
        row.push_back(std::move(cell));
        cell.clear();
    };
    const auto endRow = [&] {
        endCell();
        if (row.size() > 1 || !row[0].empty()) {
            rows.push_back(std::move(row));
            if (lines) lines->push_back(begun);
        }
        row.clear();
        begun = line;
    };
    for (size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '"' && cell.empty()) {
            const size_t from = line;
            for (++i;; ++i) {
                if (i >= text.size())
                    return Error{"csv.quotes",
                                 fmt::format("The quotes that open in line {} do not close. Close them, or leave them out.", from),
                                 {}};
                if (text[i] == '\n') ++line;
                if (text[i] != '"') cell += text[i];
                else if (i + 1 < text.size() && text[i + 1] == '"') cell += text[i++];
                else break;
            }
        } else if (c == separator) {
            endCell();
        } else if (c == '\n' || c == '\r') {
            if (c == '\r' && i + 1 < text.size() && text[i + 1] == '\n') ++i;
            ++line;
            endRow();
        } else {
            cell += c;
        }
    }
    if (!cell.empty() || !row.empty()) endRow();
    return rows;
}

} // namespace hue
