#pragma once
// Work that takes a while: how many threads it may use, whether it should end, how far it is.
// Threads: any; the flag may be set while the work goes on.
#include <atomic>
#include <cstddef>
#include <functional>

namespace hue {

/// What the caller of a long computation decides. Copied freely; the flag outlives the work.
struct Work {
    int threads = 0;                              ///< 0: all
    const std::atomic<bool>* cancelled = nullptr; ///< polled; set from any thread
    std::function<void(float)> progress;          ///< 0..1, called from any thread
    bool stopped() const { return cancelled && cancelled->load(std::memory_order_relaxed); }
};

/// How many threads the machine runs at once.
int threadsAtOnce();

/// Calls `work(first, behind the last)` for bands of at least `grain` that cover 0..count-1 once, side by side on `threads` threads
/// (0: all). What a band throws comes out here. All loops that run side by side go through it.
void inBands(size_t count, size_t grain, int threads, const std::function<void(size_t, size_t)>& work);

/// Calls `work(i)` for every i below `count`, side by side on all threads.
template <class F> void forEach(size_t count, const F& work) {
    inBands(count, 1, 0, [&](size_t first, size_t last) {
        for (size_t i = first; i < last; ++i) work(i);
    });
}

/// Calls `work(first row, row behind the last)` for bands of rows, on `threads` threads (0: all).
void forRows(int height, int threads, const std::function<void(int, int)>& work);

} // namespace hue
