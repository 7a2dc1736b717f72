#pragma once
#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <vector>

namespace cobbleway {

/// Messages of any length from one thread to one other; neither ever waits. Each goes with the number of the
/// port that it is for, or comes from.
class MessageRing {
  public:
    /// False when there is no room; the message is then not taken.
    bool push(std::uint32_t port, const void* bytes, std::uint32_t size) {
        const std::size_t write = m_write.load(std::memory_order_relaxed);
        const std::size_t used = write - m_read.load(std::memory_order_acquire);
        if (size > room || used + sizeof(Head) + size > room) return false;
        const Head head{port, size};
        put(write, &head, sizeof head);
        put(write + sizeof head, bytes, size);
        m_write.store(write + sizeof head + size, std::memory_order_release);
        return true;
    }
    /// The next message into `bytes`, which takes no memory where it has room for it; false when there is
    /// none.
    bool pop(std::uint32_t& port, std::vector<std::uint8_t>& bytes) {
        const std::size_t read = m_read.load(std::memory_order_relaxed);
        if (read == m_write.load(std::memory_order_acquire)) return false;
        Head head;
        take(read, &head, sizeof head);
        port = head.port;
        bytes.resize(head.size);
        take(read + sizeof head, bytes.data(), head.size);
        m_read.store(read + sizeof head + head.size, std::memory_order_release);
        return true;
    }

    static constexpr std::size_t room = std::size_t{1} << 16; ///< bytes

  private:
    struct Head {
        std::uint32_t port = 0, size = 0;
    };
    void put(std::size_t at, const void* bytes, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i)
            m_bytes[(at + i) % room] = static_cast<const std::uint8_t*>(bytes)[i];
    }
    void take(std::size_t at, void* bytes, std::size_t count) {
        for (std::size_t i = 0; i < count; ++i)
            static_cast<std::uint8_t*>(bytes)[i] = m_bytes[(at + i) % room];
    }
    std::array<std::uint8_t, room> m_bytes{};
    std::atomic<std::size_t> m_read{0}, m_write{0};
};

} // namespace cobbleway
