#pragma once
// Many values of many instances at once, as a table is edited.
// Threads: any. Nothing is kept between calls.
#include "core/base/csv.h"
#include "core/base/result.h"
#include "core/document/project.h"

#include <span>

namespace hue {

/// A value of an instance, or the default of a master.
struct Cell {
    Id worn, parameter;
    bool operator==(const Cell&) const = default;
};

/// Every cell gets what the words say (value_words.h); *1.1, /2 and +0.05 change what each has, inherited values too. Limits hold. Nothing
/// is changed where a cell cannot take them. Errors: value.words, value.not-finite, edit.no-parameter, edit.no-instance.
Result<Project> withWords(const Project& project, std::span<const Cell> cells, std::string_view words);

/// Own values go, so that the cells inherit again; those of masters stay. Error: instance.inherits, where none is left to go.
Result<Project> withoutOwn(const Project& project, std::span<const Cell> cells);

/// A table put over rows and columns from the first of each on; what reaches beyond them is left out. One cell fills all of them, and one
/// row all rows. Empty cells, and those that begin with "~", leave what is there. Errors as those of withWords(), with the row.
Result<Project> withPasted(const Project& project, std::span<const Id> rows, std::span<const Id> columns, const Csv& table);

} // namespace hue
