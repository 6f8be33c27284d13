#include "core/base/work.h"

#include <algorithm>
#include <tbb/blocked_range.h>
#include <tbb/info.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

// The thread sanitizer does not see into TBB, which was not built for it. So this file, the only one that calls TBB, is built without
// it and tells it what a loop promises: bands come after what their caller did before, and end before the caller goes on. What bands
// do among themselves is watched as ever.
#ifdef HUE_TELL_THREAD_SANITIZER
extern "C" void __tsan_acquire(void*);
extern "C" void __tsan_release(void*);
static void handOver(char& to) { __tsan_release(&to); }
static void takeOver(char& from) { __tsan_acquire(&from); }
#else
static void handOver(char&) {}
static void takeOver(char&) {}
#endif

namespace hue {

int threadsAtOnce() { return std::max(1, int(tbb::info::default_concurrency())); }

void inBands(size_t count, size_t grain, int threads, const std::function<void(size_t, size_t)>& work) {
    if (!count) return;
    if (threads == 1 || count < 2) return work(0, count);
    char begun = 0, ended = 0;
    handOver(begun);
    // Also when a band throws, which then reaches the caller.
    struct AtEnd {
        void (*tell)(char&);
        char& of;
        ~AtEnd() { tell(of); }
    };
    const AtEnd caller{takeOver, ended};
    const auto band = [&](const tbb::blocked_range<size_t>& r) {
        takeOver(begun);
        const AtEnd its{handOver, ended};
        work(r.begin(), r.end());
    };
    const auto loop = [&] { tbb::parallel_for(tbb::blocked_range<size_t>(0, count, grain), band); };
    if (threads > 0) tbb::task_arena(std::min(threads, threadsAtOnce())).execute(loop);
    else loop();
}

void forRows(int height, int threads, const std::function<void(int, int)>& work) {
    const int rows = std::max(0, height), grain = std::clamp(rows / 16, 1, 64);
    inBands(size_t(rows), size_t(grain), threads, [&](size_t first, size_t last) { work(int(first), int(last)); });
}

} // namespace hue
