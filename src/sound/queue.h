#pragma once
#include <array>
#include <atomic>
#include <cstddef>
#include <optional>

namespace cobbleway {

/// A queue from one thread to one other; neither ever waits.
template <class T, std::size_t Size> class SpscQueue {
  public:
    /// False when full; the item is then not taken.
    bool push(const T& item) {
        const std::size_t at = m_write.load(std::memory_order_relaxed);
        const std::size_t next = (at + 1) % Size;
        if (next == m_read.load(std::memory_order_acquire)) return false;
        m_items[at] = item;
        m_write.store(next, std::memory_order_release);
        return true;
    }
    std::optional<T> pop() {
        const std::size_t at = m_read.load(std::memory_order_relaxed);
        if (at == m_write.load(std::memory_order_acquire)) return std::nullopt;
        T item = m_items[at];
        m_read.store((at + 1) % Size, std::memory_order_release);
        return item;
    }

  private:
    std::array<T, Size> m_items{};
    std::atomic<std::size_t> m_read{0}, m_write{0};
};

} // namespace cobbleway
