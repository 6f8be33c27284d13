#include "core/base/json_depth.h"

#include <algorithm>

namespace hue {

int depthOfJson(std::string_view json) {
    int depth = 0, deepest = 0;
    bool text = false;
    for (size_t i = 0; i < json.size(); ++i) {
        const char c = json[i];
        if (text) {
            if (c == '\\') ++i;
            else if (c == '"') text = false;
        } else if (c == '"') {
            text = true;
        } else if (c == '{' || c == '[') {
            deepest = std::max(deepest, ++depth);
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return deepest;
}

} // namespace hue
