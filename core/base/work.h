#pragma once
// Work that takes a while: how many threads it may use, whether it should end, how far it is.
// Threads: any; the flag may be set while the work goes on.
#include <atomic>
#include <functional>

namespace hue {

/// What the caller of a long computation decides. Copied freely; the flag outlives the work.
struct Work {
    int threads = 0;                              ///< 0: all
    const std::atomic<bool>* cancelled = nullptr; ///< polled; set from any thread
    std::function<void(float)> progress;          ///< 0..1, called from any thread
    bool stopped() const { return cancelled && cancelled->load(std::memory_order_relaxed); }
};

/// Calls `work(first row, row behind the last)` for bands of rows, on `threads` threads (0: all).
void forRows(int height, int threads, const std::function<void(int, int)>& work);

} // namespace hue
