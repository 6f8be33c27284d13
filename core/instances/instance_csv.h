#pragma once
// The values of a master's instances as a table, for spreadsheets.
// Threads: any. Nothing is kept between calls.
#include "core/base/result.h"
#include "core/document/project.h"

#include <span>

namespace hue {

/// What stands in front of a value that is inherited.
inline constexpr std::string_view kInherited = "~";

/// A row for each instance of the master, parents before their children; columns "instance", "parent" (empty: the master) and the code
/// names of the parameters. Own values as words (value_words.h), empty cells for what is inherited; with `inherited` what comes down stands
/// there behind a "~".
std::string instanceCsv(const Project& project, const Master& master, bool inherited = false);
/// One table with the values of the rows alone, without names: for the clipboard.
std::string valuesText(const Project& project, std::span<const Id> instances, std::span<const Id> parameters);

struct CsvRead {
    Project project;
    size_t values = 0;                 ///< own values that changed, came or went
    std::vector<std::string> added;    ///< names of instances that are new
    std::vector<std::string> moved;    ///< names of those that have another parent
    std::vector<std::string> cautions; ///< values that were brought inside of their limits, by line and column
};
/// Brings a table in: values of the instances that it names, which become new children of what `parent` says where there are none of that
/// name. Columns that are missing and instances that are not named stay as they are; an empty cell, or one that begins with "~", inherits.
/// Columns are found by code names or names. Errors: csv.quotes, csv.column, csv.value; the last with all lines that are wrong, the first
/// ten in words. Nothing is changed then.
Result<CsvRead> withInstanceCsv(const Project& project, const Master& master, std::string_view text);

} // namespace hue
