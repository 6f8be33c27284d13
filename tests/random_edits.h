#pragma once
// Edits of all kinds by chance, of a whole project.
#include "core/edits/edits.h"

#include <random>
#include <string>

namespace hue::test {

struct AnyEdit {
    std::string name;
    Result<Project> next;
};
/// One edit of anything that a project holds: graphs, parameters, instances, maps, sets, packings, meshes, lineup. It may be refused.
AnyEdit anyEdit(const Project& project, std::mt19937& random);

/// What does not hold of the references of a project, as a sentence; empty when all do.
std::string brokenReference(const Project& project);

} // namespace hue::test
