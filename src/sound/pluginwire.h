/// What is said between this program and the process of a plug-in beside its sound: messages over a socket.
#pragma once
#include "song/model/song.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace cobbleway {

/// Values one after another, as the same program writes and reads them on one computer.
class WireMessage {
  public:
    WireMessage() = default;
    explicit WireMessage(std::string bytes) : m_bytes(std::move(bytes)) {}
    [[nodiscard]] const std::string& bytes() const { return m_bytes; }

    void put(std::uint32_t value);
    void put(float value);
    void put(const std::string& text);
    void put(const PluginSettings& settings);

    /// What comes next; nothing is read past the end: then it is 0 or empty, and good() false.
    std::uint32_t number();
    float value();
    std::string text();
    PluginSettings settings();
    [[nodiscard]] bool good() const { return m_good; }

  private:
    void put(const void* bytes, std::size_t count);
    bool take(void* to, std::size_t count);
    std::string m_bytes;
    std::size_t m_at = 0;
    bool m_good = true;
};

/// Sends a whole message; false when nobody takes it any more.
bool sendMessage(int socket, const WireMessage& message);
/// Whether something can be read, or the other side has ended, within `seconds`.
bool hasInput(int socket, double seconds);
/// The next message; none at the end of the other side, after `seconds` (negative: no limit), or when what
/// comes is none of ours (more than 64 MiB).
std::optional<WireMessage> receiveMessage(int socket, double seconds);

/// Sends two descriptors over a socket; false when that fails.
bool sendDescriptors(int socket, int first, int second);
/// Two that the other side sent, waiting for them; none at its end.
std::optional<std::pair<int, int>> receiveDescriptors(int socket);

} // namespace cobbleway
