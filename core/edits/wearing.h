#pragma once
// Who wears what, when instances are made.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Specimens, from 0, of which a slot or a decal wears it.
std::vector<size_t> specimensWearing(const Project& project, const Id& worn);

namespace edit {

/// A child of a master or an instance, called after it, with nothing of its own; these specimens wear it where they wore the parent.
/// Error: instance.no-parent.
Result<Project> deriveFor(const Project& project, const Id& parent, const Id& id, const std::vector<size_t>& specimens);
/// A sibling with the same own values, unlocked, that one specimen wears instead of the instance. Error: edit.no-instance.
Result<Project> ownCopyFor(const Project& project, const Id& instance, const Id& id, size_t specimen);

} // namespace edit
} // namespace hue
