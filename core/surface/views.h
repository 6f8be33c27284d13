#pragma once
// What a picture of a surface can show.
// Threads: any. Made once and never changed.
#include <string>
#include <string_view>
#include <vector>

namespace hue {

struct ViewDef {
    std::string key;  ///< "base_color"; dashes are accepted as well
    std::string name; ///< "base color"
    std::string help;
    enum class Kind { Light, Channel, Check, Mesh, Count } kind = Kind::Channel;
    int number = 0; ///< of the stage behind the kind
};
/// Lit first, then the channels, checks of pixels, and what the mesh alone shows.
const std::vector<ViewDef>& views();
/// Index into views(); -1 for an unknown one.
int findView(std::string_view key);

} // namespace hue
