#include "core/base/work.h"

#include <gtest/gtest.h>
#include <mutex>
#include <numeric>
#include <stdexcept>
#include <vector>

using namespace hue;

// Each number of a loop is worked on once, whatever the count, the grain and the threads.
TEST(Work, BandsCoverEachNumberOnce) {
    for (size_t count : {0u, 1u, 2u, 7u, 64u, 1000u, 4099u})
        for (size_t grain : {1u, 4u, 300u, 5000u})
            for (int threads : {0, 1, 2, 3}) {
                std::vector<int> times(count);
                inBands(count, grain, threads, [&](size_t first, size_t last) {
                    EXPECT_LT(first, last);
                    for (size_t i = first; i < last; ++i) ++times[i];
                });
                EXPECT_EQ(times, std::vector<int>(count, 1)) << count << " in bands of " << grain << " on " << threads;
            }
    std::vector<int> rows(333);
    forRows(333, 0, [&](int first, int last) {
        for (int y = first; y < last; ++y) ++rows[size_t(y)];
    });
    EXPECT_EQ(rows, std::vector<int>(333, 1));
    forRows(-3, 0, [](int, int) { ADD_FAILURE() << "no rows, no work"; });
}

// What goes wrong in a band comes out where the loop was called, and the next loop works as ever.
TEST(Work, WhatABandThrowsReachesTheCaller) {
    for (int threads : {0, 1, 2})
        EXPECT_THROW(inBands(100, 1, threads,
                             [](size_t first, size_t last) {
                                 if (first <= 57 && 57 < last) throw std::runtime_error("57");
                             }),
                     std::runtime_error);
    std::mutex lock;
    size_t sum = 0;
    forEach(100, [&](size_t i) {
        const std::lock_guard hold(lock);
        sum += i;
    });
    EXPECT_EQ(sum, 99u * 100 / 2);
}
