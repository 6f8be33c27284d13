#pragma once
// Shared parameters as time goes on.
// Threads: any. Nothing is kept between calls.
#include "core/document/project.h"

namespace hue {

/// Its value at a time in seconds.
Value valueAt(const SharedParameter& shared, double time);
/// The project with its shared parameters as they are at that time; nothing where none of them moves.
std::optional<Project> sharedAt(const Project& project, double time);
/// Whether a value of what is worn moves with a shared parameter.
bool followsMoving(const Project& project, const Resolved& worn);
/// Parameters that follow it, as "Setts: Wetness".
std::vector<std::string> followersOf(const Project& project, const Id& shared);

} // namespace hue
