#pragma once
// Tables as text: RFC 4180, as spreadsheets write and read them.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"

#include <string>
#include <string_view>
#include <vector>

namespace hue {

/// Cells by rows, which need not be of one length.
using Csv = std::vector<std::vector<std::string>>;

/// With quotes around what needs them; lines end in a line feed alone.
std::string csvText(const Csv& rows, char separator = ',');
/// Whatever stands between cells: of comma, semicolon and tabulator the one that the first line has most of, outside of quotes. Takes lines
/// that end in CR LF as well, and a byte order mark. `separator`, where given, is what separates. `lines`, where given, receives the line
/// that each row begins in, from 1; rows without a cell are left out. Error: csv.quotes.
Result<Csv> csvFrom(std::string_view text, std::vector<size_t>* lines = nullptr, char separator = 0);

} // namespace hue
