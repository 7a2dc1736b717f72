/// A number by which bytes are known again.
#pragma once
#include <cstdint>
#include <span>

namespace cobbleway {

/// FNV-1a, 64 bits, of bytes as they come.
class Fingerprint {
  public:
    void add(std::uint8_t byte) { m_value = (m_value ^ byte) * 1099511628211U; }
    void add(std::span<const std::uint8_t> bytes) {
        for (const std::uint8_t byte : bytes) add(byte);
    }
    /// The lowest bytes of a number, the lowest first.
    void add(std::uint64_t value, int bytes) {
        for (int i = 0; i < bytes; ++i, value >>= 8) add(static_cast<std::uint8_t>(value & 0xFF));
    }
    [[nodiscard]] std::uint64_t value() const { return m_value; }

  private:
    std::uint64_t m_value = 14695981039346656037U;
};

} // namespace cobbleway
