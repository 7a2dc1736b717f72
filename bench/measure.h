#pragma once
#include <algorithm>
#include <ctime>
#include <functional>
#include <limits>

/// The least processor time of several runs, in seconds: the others were disturbed.
inline double cpuSeconds(int runs, const std::function<void()>& work) {
    double best = std::numeric_limits<double>::max();
    for (int i = 0; i < runs; ++i) {
        timespec before{}, after{};
        clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &before);
        work();
        clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &after);
        best = std::min(best, static_cast<double>(after.tv_sec - before.tv_sec) +
                                  1e-9 * static_cast<double>(after.tv_nsec - before.tv_nsec));
    }
    return best;
}
