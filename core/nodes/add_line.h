#pragma once
// What typing on the board proposes.
// Threads: any. Nothing is kept between calls.
#include "core/nodes/catalogue.h"

namespace hue {

struct Proposal {
    enum class Kind { Node, Constant, Parameter, Map, Channel };
    Kind kind = Kind::Node;
    std::string title;  ///< "Mix"
    std::string detail; ///< one sentence, or what is understood
    std::string family;
    Node node; ///< ready to be placed, but for its position; for a parameter the card gets its id when placed
    Parameter parameter;
    AssemblyPtr assembly{}; ///< of the library, which is to be brought into the project first; null for others
    std::string channel{};  ///< of Kind::Channel, which who knows the surface proposes: where a wire can end
};

/// Understands "mix", "0.75", "0.2 0.4 0.9", "#3366e6", "grout width = 6 mm, 0 to 20" (or 0..20), "drift = 0.1 0.2 m/s", "tint = 33aae6",
/// "wear mask = data map", "=a*0.5+b", a parameter's name, an assembly's, and a map's name. `fits` keeps only nodes that it accepts; an
/// empty text browses all. Best first. `library`: assemblies that can be brought in.
std::vector<Proposal> propose(const Project& project, const Master& master, std::string_view typed,
                              const std::function<bool(const NodeDef&)>& fits = {}, const Uses& uses = {},
                              const std::vector<AssemblyPtr>& library = {});

} // namespace hue
