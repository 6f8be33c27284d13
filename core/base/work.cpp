#include "core/base/work.h"

#include <algorithm>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace hue {

void forRows(int height, int threads, const std::function<void(int, int)>& work) {
    if (threads == 1 || height < 2) return work(0, height);
    tbb::task_arena arena(threads > 0 ? threads : tbb::task_arena::automatic);
    const int grain = std::max(1, std::min(64, height / 16));
    arena.execute([&] {
        tbb::parallel_for(tbb::blocked_range<int>(0, height, grain), [&](const tbb::blocked_range<int>& r) { work(r.begin(), r.end()); });
    });
}

} // namespace hue
