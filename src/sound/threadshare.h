/// Threads that several pieces of work have together.
#pragma once
#include <algorithm>
#include <atomic>
#include <thread>

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

} // namespace cobbleway
