/// Numbers too small to hear are taken as zero: decaying sounds reach them, and processors are slow at them.
#pragma once
#include <cstdint>

#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace cobbleway {

/// While it lives, this thread's arithmetic takes denormal numbers (below 1.2e-38) as zero, in and out.
class NoDenormals {
  public:
    NoDenormals() : m_before(state()) { setState(m_before | flush); }
    ~NoDenormals() { setState(m_before); }
    NoDenormals(const NoDenormals&) = delete;
    NoDenormals& operator=(const NoDenormals&) = delete;

  private:
#if defined(__SSE2__)
    using State = std::uint32_t;
    static constexpr State flush = 0x8040; // MXCSR: flush to zero, denormals are zero
    static State state() { return _mm_getcsr(); }
    static void setState(State state) { _mm_setcsr(state); }
#elif defined(__aarch64__)
    using State = std::uint64_t;
    static constexpr State flush = 1U << 24; // FPCR.FZ
    static State state() {
        State value;
        asm volatile("mrs %0, fpcr" : "=r"(value));
        return value;
    }
    static void setState(State state) { asm volatile("msr fpcr, %0" ::"r"(state)); }
#else
    using State = int;
    static constexpr State flush = 0;
    static State state() { return 0; }
    static void setState(State) {}
#endif
    State m_before;
};

} // namespace cobbleway
