#pragma once
// Own values of parameters that are gone. They stay with their instances, for whoever brings the parameter back, until they are dropped.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Instances of a master that keep such values, in the order of the project.
std::vector<Id> instancesWithStrays(const Project& project, const Master& master);

namespace edit {

/// Drops these values of all instances of a master, locked ones too: nothing reads them. Error: edit.no-master.
Result<Project> dropStrays(const Project& project, const Id& master);

} // namespace edit
} // namespace hue
