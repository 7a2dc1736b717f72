/// Threads that several pieces of work have together.
#pragma once
#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace cobbleway {

/// How many threads nobody uses now; work that goes on longer than its neighbours takes them over.
class ThreadShare {
  public:
    explicit ThreadShare(int spare) : m_spare(spare) {}
    bool takeOne() {
        for (int spare = m_spare; spare > 0;)
            if (m_spare.compare_exchange_weak(spare, spare - 1)) return true;
        return false;
    }
    void giveBackOne() { ++m_spare; }

  private:
    std::atomic<int> m_spare;
};

/// How many threads work at most: those that are its own (0: as many as there are processors), and of those
/// that are spare as many as it can use.
struct Workers {
    int own = 0;
    ThreadShare* share = nullptr; ///< lives longer than the work
    [[nodiscard]] int ownCount() const {
        return own > 0 ? own : std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
    }
};

/// Calls work(i) once for each i below `count`, in order of i as threads become free: on the caller's thread
/// and on those that `workers` has, spare ones as soon as there are any. Threads of its own that find nothing
/// left are given to `givesTo`, which may be null. What is thrown first reaches the caller, when all threads
/// have ended; after it nothing more is begun. Where the system gives no more threads, those that there are
/// do the work.
template <class Work>
void forEachOn(const Workers& workers, std::size_t count, const Work& work, ThreadShare* givesTo = nullptr) {
    std::atomic<std::size_t> next{0};
    std::mutex lock;
    std::exception_ptr thrown;
    const auto one = [&](std::size_t i) {
        try {
            work(i);
        } catch (...) {
            const std::lock_guard hold(lock);
            if (!thrown) thrown = std::current_exception();
            next = count;
        }
    };
    const auto run = [&](ThreadShare* share) {
        for (std::size_t i = next++; i < count; i = next++) one(i);
        if (share) share->giveBackOne();
    };
    {
        std::vector<std::jthread> helpers;
        const auto help = [&](ThreadShare* share) {
            try {
                helpers.emplace_back([&run, share] { run(share); });
            } catch (const std::system_error&) { // no more threads
                if (share) share->giveBackOne();
            }
        };
        const auto own = std::min<std::size_t>(static_cast<std::size_t>(workers.ownCount()), count);
        for (std::size_t i = 1; i < own; ++i) help(givesTo);
        for (std::size_t i = next++; i < count; i = next++) {
            while (next < count && workers.share && workers.share->takeOne()) help(workers.share);
            one(i);
        }
        if (givesTo) givesTo->giveBackOne();
    }
    if (thrown) std::rethrow_exception(thrown);
}

} // namespace cobbleway
