#include "core/images/map_kind.h"

namespace hue {

std::string_view nameOf(MapKind kind) {
    static constexpr std::string_view names[] = {"color", "data", "normal", "height"};
    return names[int(kind)];
}

std::string_view nameOf(Wrap wrap) {
    static constexpr std::string_view names[] = {"repeat", "mirror", "clamp"};
    return names[int(wrap)];
}

} // namespace hue
