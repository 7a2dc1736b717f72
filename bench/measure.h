#pragma once
#include <algorithm>
#include <chrono>
#include <ctime>
#include <fstream>
#include <functional>
#include <limits>
#include <string>
#include <unistd.h>
#include <vector>

/// What this thread has taken of its processor, in seconds.
inline double threadSeconds() {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

/// What a host has taken from this machine's processors for others so far, in seconds; 0 where it is not
/// told.
inline double stolenSeconds() {
    std::ifstream statistics("/proc/stat");
    std::string name;
    double user = 0, nice = 0, system = 0, idle = 0, waiting = 0, interrupts = 0, soft = 0, stolen = 0;
    statistics >> name >> user >> nice >> system >> idle >> waiting >> interrupts >> soft >> stolen;
    return statistics ? stolen / static_cast<double>(sysconf(_SC_CLK_TCK)) : 0;
}

/// What work takes by the clock, in seconds.
inline double wallSeconds(const std::function<void()>& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// The same, of a run in which the host took nothing away; of so many runs at most, the least.
inline double undisturbedSeconds(int runs, const std::function<void()>& work) {
    double best = std::numeric_limits<double>::max();
    for (int i = 0; i < runs; ++i) {
        const double before = stolenSeconds();
        const double took = wallSeconds(work);
        best = std::min(best, took);
        if (stolenSeconds() - before < took / 200) break;
    }
    return best;
}

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

/// Processor times of several works, in seconds, run in turns: a machine that is slower for a while is so for
/// all of them. Each list has one time a turn.
inline std::vector<std::vector<double>> cpuSecondsInTurns(int turns,
                                                          const std::vector<std::function<void()>>& works) {
    std::vector<std::vector<double>> seconds(works.size());
    for (int turn = 0; turn < turns; ++turn)
        for (std::size_t i = 0; i < works.size(); ++i) seconds[i].push_back(cpuSeconds(1, works[i]));
    return seconds;
}

/// The middle of what each turn's ratio is.
inline double middleRatio(const std::vector<double>& ours, const std::vector<double>& theirs) {
    std::vector<double> ratios;
    for (std::size_t i = 0; i < ours.size(); ++i) ratios.push_back(ours[i] / theirs[i]);
    std::nth_element(ratios.begin(), ratios.begin() + static_cast<std::ptrdiff_t>(ratios.size() / 2),
                     ratios.end());
    return ratios[ratios.size() / 2];
}

inline double least(const std::vector<double>& seconds) {
    return *std::min_element(seconds.begin(), seconds.end());
}
