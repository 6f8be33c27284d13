#pragma once
// What a flat map cannot hold of a Program: whatever it reads that a square without mesh, place, eye and surroundings does not have. One
// rule over attributes and operations, so that a new one cannot be forgotten.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

namespace hue {

/// One thing that is read, and what the flat square has instead: "the view", "as seen from straight above".
struct FlatLimit {
    std::string_view what, instead;
    bool operator==(const FlatLimit&) const = default;
};
/// Of these outputs; those that the Program does not have are passed over. The normal that a normal map is turned into belongs to the
/// map and is no limit; a mask made of the mesh's normal is one. Time is told apart, since its moment can be chosen.
std::vector<FlatLimit> flatLimits(const Program& program, const std::vector<std::string>& outputs);
/// The same of a map over the UVs of a mesh, which has what the mesh has. `placed`: it does not stand at the origin alone.
std::vector<FlatLimit> meshLimits(const Program& program, const std::vector<std::string>& outputs, bool placed);

} // namespace hue
