#pragma once
// How long things take, told in lines.
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <string>
#include <vector>

namespace hue {

inline double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

/// Milliseconds: the median, and below what 95 of 100 lie.
inline void tell(const std::string& name, std::vector<double> seconds) {
    std::sort(seconds.begin(), seconds.end());
    fmt::print("{:<58} {:8.3f} ms   95 %: {:8.3f}\n", name, 1e3 * seconds[seconds.size() / 2], 1e3 * seconds[seconds.size() * 95 / 100]);
}

template <class Work> std::vector<double> times(int rounds, Work work) {
    std::vector<double> out;
    for (int k = 0; k < rounds; ++k) {
        const double start = now();
        work(k);
        out.push_back(now() - start);
    }
    return out;
}

} // namespace hue
