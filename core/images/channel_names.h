#pragma once
// Channels of a picture by their names.
// Threads: any. Nothing is kept between calls.
#include <string>
#include <vector>

namespace hue {

/// "grey"; "grey", "alpha"; "red", "green", "blue", "alpha".
inline std::vector<std::string> channelNames(int channels) {
    if (channels == 1) return {"grey"};
    if (channels == 2) return {"grey", "alpha"};
    std::vector<std::string> names{"red", "green", "blue", "alpha"};
    names.resize(size_t(channels));
    return names;
}

} // namespace hue
