/// Loops over samples for processors with wide registers.
#pragma once

/// Put before a function: it is compiled once more for processors that take eight samples at a time, and the
/// program takes that one where it can. The results are the same.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(COBBLEWAY_SANITIZED)
#define COBBLEWAY_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define COBBLEWAY_WIDE
#endif
