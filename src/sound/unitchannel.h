/// What this program and the process of a plug-in have in common: a piece of memory, in which sound, messages
/// and controls pass without locks.
#pragma once
#include "sound/instrument.h"
#include "sound/musictime.h"

#include <array>
#include <atomic>
#include <cstdint>
#include <ctime>
#include <linux/futex.h>
#include <sys/mman.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace cobbleway {

/// A counter in shared memory that a thread of another process can wait for.
class SharedCount {
  public:
    [[nodiscard]] std::uint32_t now() const { return m_value.load(std::memory_order_acquire); }
    void set(std::uint32_t value) {
        m_value.store(value, std::memory_order_release);
        wake();
    }
    void wake() { call(FUTEX_WAKE, 1, nullptr); }
    /// Returns when it is another than `old`, after `seconds` at most, or sooner.
    void wait(std::uint32_t old, double seconds) {
        const auto whole = static_cast<time_t>(seconds);
        const timespec time{whole, static_cast<long>((seconds - static_cast<double>(whole)) * 1e9)};
        if (now() == old) call(FUTEX_WAIT, old, &time);
    }
    /// The same with no end.
    void wait(std::uint32_t old) {
        if (now() == old) call(FUTEX_WAIT, old, nullptr);
    }

  private:
    void call(int what, std::uint32_t value, const timespec* time) {
        syscall(SYS_futex, reinterpret_cast<std::uint32_t*>(&m_value), what, value, time, nullptr, 0);
    }
    std::atomic<std::uint32_t> m_value{0};
    static_assert(std::atomic<std::uint32_t>::is_always_lock_free && sizeof(std::atomic<std::uint32_t>) == 4);
};

/// Made by the one who plays, in memory of zeros; nothing in it is trusted to be in range.
struct UnitChannel {
    /// Takes the memory behind a descriptor, and the descriptor; null when it cannot.
    static UnitChannel* map(int memory) {
        void* const at = mmap(nullptr, sizeof(UnitChannel), PROT_READ | PROT_WRITE, MAP_SHARED, memory, 0);
        close(memory);
        return at == MAP_FAILED ? nullptr : static_cast<UnitChannel*>(at);
    }
    static constexpr std::size_t mostEvents = 512, mostControls = 4096;
    struct Event {
        std::uint8_t status = 0, data1 = 0, data2 = 0;
    };
    /// Where the music is, so many frames on.
    struct Time {
        MusicTime time;
        std::int32_t offset = 0;
    };
    static constexpr std::size_t mostTimes = 8;
    SharedCount asked;                        ///< how often it was asked to run
    SharedCount done;                         ///< how often it has: equal when nothing is to be done
    std::uint32_t frames = 0, eventCount = 0; ///< of what is asked for
    std::int32_t processor = 0;               ///< on which it is waited for
    std::array<Event, mostEvents> events{};
    std::uint32_t timeCount = 0;
    std::array<Time, mostTimes> times{};                   ///< in what is asked for
    std::array<float, maxFrames> left{}, right{};          ///< what goes in, then what comes out
    std::atomic<std::int32_t> latency{0};                  ///< frames
    std::atomic<std::uint8_t> fault{0};                    ///< PluginFault
    std::array<std::atomic<float>, mostControls> wanted{}; ///< values of the controls, as they are numbered
    // Of the plug-in's own window, written by its process.
    std::atomic<std::uint8_t> windowOpen{0};
    std::atomic<std::uint32_t> turned{0};             ///< how often a control was turned there
    std::atomic<std::uint32_t> changed{0};            ///< how often something else was changed there
    std::array<std::atomic<std::uint32_t>, 3> keys{}; ///< how often each WindowKey was pressed
};

} // namespace cobbleway
