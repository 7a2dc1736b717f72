#pragma once
#include <cstdio>
#include <cstdlib>

/// Ends the program, which the fuzzer takes for a crash, when something does not hold.
inline void insist(bool holds, const char* what) {
    if (holds) return;
    std::fprintf(stderr, "Not so: %s\n", what);
    std::abort();
}
